"""Who else uses a part: what is changed of it is changed for all of them, so that it is said before."""

from collections.abc import Iterable

from rocklash.answers.rows import PART_OWNERS
from rocklash.records.models import Build, Part, SetupRole
from rocklash.records.selectors.parts import users_of


def sharing_of(build: Build, parts: Iterable[Part], *, other_side: bool = False) -> dict[int, str]:
    """A sentence for each part, by its number; empty where nothing but the proposed set-up of this build has it.

    With `other_side` it also counts as shared when both sides of the proposed set-up have it.
    """
    asked = list(parts)
    stock: dict[int, set[str]] = {part.pk: set() for part in asked}
    proposed: dict[int, set[str]] = {part.pk: set() for part in asked}
    builds: dict[int, set[str]] = {part.pk: set() for part in asked}
    for row in users_of(build.workshop, stock):
        for slot in PART_OWNERS:
            number = getattr(row, f"{slot}_id")
            if number not in stock:
                continue
            if row.setup.build_id != build.pk:
                builds[number].add(row.setup.build.name)
            else:
                (stock if row.setup.role == SetupRole.STOCK else proposed)[number].add(row.side)
    found = {}
    for part in asked:
        said = []
        if stock[part.pk]:
            said.append("This is also the stock part: what you change here changes stock too, and the comparison with it.")
        if builds[part.pk]:
            said.append(f"Also in {', '.join(sorted(builds[part.pk]))}: a change counts there too.")
        if other_side and len(proposed[part.pk]) > 1:
            said.append("Both sides have it: a change counts on both.")
        found[part.pk] = " ".join(said)
    return found
