"""The planner's tables as a workshop has them."""

import math
from typing import Any

from rocklash.commands.base import Command, Refused
from rocklash.records.models import Workshop
from valvetrain.studies.proof.planner import CAUSES, RevTest, changed, tests


def tests_of_shop(shop: Workshop) -> tuple[RevTest, ...]:
    """The tests known, with this workshop's tables where it has its own."""
    own = shop.rev_tests
    return tuple(
        changed(test, own[test.key]["minutes"], own[test.key]["money"], own[test.key]["rows"]) if test.key in own else test
        for test in tests()
    )


class KeepTable(Command):
    """Keep a test's table for the workshop, or put the usual one back."""

    verb = "test planner"
    judged = refreshes = locks_build = False
    locks_shop = True

    def standing(self) -> object:
        """The table of one test, where the workshop has its own."""
        return Workshop.objects.values_list("rev_tests", flat=True).get(pk=self.member.workshop_id).get(self.text("key"), "usual")

    def apply(self) -> None:
        """The test of `key`; cells `p-<outcome>-<cause>` in 100 cases, `minutes`, `money`; `usual` puts back what ships."""
        test = next((each for each in tests() if each.key == self.text("key")), None)
        if test is None:
            raise Refused("There is no such test.")
        shop = Workshop.objects.select_for_update(no_key=True).get(pk=self.member.workshop_id)
        own: dict[str, Any] = {key: told for key, told in shop.rev_tests.items() if key != test.key}
        if not self.text("usual"):
            rows = [[self._number(f"p-{row}-{cause}") for cause in CAUSES] for row in range(len(test.outcomes))]
            minutes, money = self._number("minutes"), self._number("money")
            changed(test, minutes, money, rows)  # says what is wrong with it
            own[test.key] = {"minutes": minutes, "money": money, "rows": rows}
        if own != shop.rev_tests:
            self.note(test.words, "", "the usual table" if self.text("usual") else "its own table")
            self.ledger.set(shop, rev_tests=own)

    def _number(self, key: str) -> float:
        text = self.text(key, 12).replace(",", ".").removesuffix("%").strip()
        try:
            found = float(text or "0")
        except ValueError:
            found = math.nan
        if not math.isfinite(found):
            raise Refused(f"“{text}” is no figure: write how often in 100 cases, 85, or the minutes, 45.")
        return found
