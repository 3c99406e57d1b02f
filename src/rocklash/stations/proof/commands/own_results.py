"""What the workshop's own engines taught: taken in from its records, and switched on or off figure by figure."""

from typing import Any

from rocklash.answers.own_priors import is_used, kept_results
from rocklash.answers.own_results import taken_in
from rocklash.commands.base import Command, Refused
from rocklash.records.models import Workshop
from valvetrain.studies.proof.own_results import Learned


class _Own(Command):
    """Something of the workshop's own results changed; every build's judgement may rest on it."""

    verb = "own results"
    judged = False
    locks_build = False

    def _keep(self, shop: Workshop, own: dict[str, Any], words: str) -> None:
        if own != shop.own:
            self.note("", "", words)
            self.ledger.set(shop, own=own)

    def _shop(self) -> Workshop:
        return Workshop.objects.select_for_update(no_key=True).get(pk=self.member.workshop_id)


class TakeIn(_Own):
    """Take in what the records hold now: nothing that was taken in before is lost."""

    def apply(self) -> None:
        """Results by figure; the switches stay as they are, on where there was none."""
        shop = self._shop()
        own = taken_in(shop)
        count, had = sum(len(each["results"]) for each in own.values()), sum(map(len, kept_results(shop).values()))
        if own == shop.own:
            raise Refused(
                "The records hold nothing new: a result comes of an anchored test whose working out has ended (At speed), a second sheet with hours, "
                "a spring tested new and used, or eight re-checks of one hand."
            )
        self._keep(shop, own, f"{count} results, {had} before")


class UseResults(_Own):
    """Say which figures the workshop's own results count for."""

    def apply(self) -> None:
        """`use` names the figures that count; those without results stay as they are."""
        shop = self._shop()
        wanted = set(self.data.getlist("use")) if hasattr(self.data, "getlist") else set()
        own = {key: {**told, "used": key in wanted} for key, told in shop.own.items()}
        on = [what.value for what in Learned if own.get(what.name.lower(), {}).get("used")]
        if all(is_used(shop, what) == (what.name.lower() in wanted) for what in Learned if what.name.lower() in own):
            return
        self._keep(shop, own, ", ".join(on) or "none used")
