"""Who else uses a part: what is changed of it is changed for all of them, so that it is said before."""

from collections.abc import Iterable

from rocklash.answers.rows import PART_OWNERS, side_rows
from rocklash.records.models import Build, Part, SetupRole
from rocklash.records.selectors.parts import builds_with

_NAMED = 3


def sharing_of(build: Build, parts: Iterable[Part], *, other_side: bool = False) -> dict[int, str]:
    """A sentence for each part, by its number; empty where nothing but the proposed set-up of this build has it.

    With `other_side` it also counts as shared when both sides of the proposed set-up have it. Only what lies on the shelf is asked for
    in other builds: what came with an engine is in no other.
    """
    asked = list(parts)
    here: dict[tuple[str, int], int] = {}
    for (role, _), row in side_rows(build).items():
        for number in {getattr(row, f"{slot}_id") for slot in PART_OWNERS}:
            here[role, number] = here.get((role, number), 0) + 1
    others = builds_with(build, [part for part in asked if part.engine_id is None])
    found = {}
    for part in asked:
        said = []
        if (SetupRole.STOCK, part.pk) in here:
            said.append("This is also the stock part: what you change here changes stock too, and the comparison with it.")
        names = sorted(others.get(part.pk, ()))
        if names:
            more = f" and {len(names) - _NAMED} more" if len(names) > _NAMED else ""
            said.append(f"Also in {', '.join(names[:_NAMED])}{more}: a change counts there too.")
        if other_side and here.get((SetupRole.PROPOSED, part.pk), 0) > 1:
            said.append("Both sides have it: a change counts on both.")
        found[part.pk] = " ".join(said)
    return found
