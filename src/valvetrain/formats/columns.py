"""Which column of a table is which: proposed from its headings, in one way for every table that comes in."""

from collections.abc import Iterable
from dataclasses import dataclass


@dataclass(frozen=True, kw_only=True)
class Column:
    """A column that a table may have: its key, what a person calls it, what headings call it, and what a heading of it never begins with.

    `noun` is what stands in it, where that is not what it is called."""

    key: str
    words: str
    names: tuple[str, ...]
    never: tuple[str, ...] = ()
    required: bool = False
    noun: str = ""


def _plain(heading: str) -> str:
    return " ".join(heading.lower().replace("_", " ").replace("(", " ").replace(")", " ").split())


def _fit(heading: str, name: str) -> int:
    """How well a heading is a name: itself 3, beginning with it 2, holding it 1, not at all 0."""
    return 3 if heading == name else 2 if heading.startswith(name) else 1 if name in heading else 0


def guess(headings: Iterable[str], columns: Iterable[Column]) -> dict[str, int]:
    """Place of each column found, by key; a heading is used once, by the column that comes first. Names that come first count first.

    >>> names = (Column(key="goes", words="goes", names=("goes", "clearance")), Column(key="valve", words="valve", names=("valve",)))
    >>> guess(["Valve", "clearance (mm)"], names)
    {'goes': 1, 'valve': 0}
    """
    plain = [_plain(heading) for heading in headings]
    found: dict[str, int] = {}
    for column in columns:
        free = [n for n, heading in enumerate(plain) if n not in found.values() and not heading.startswith(column.never or ("\x00",))]
        for name in column.names:
            ranked = sorted((-_fit(plain[n], name), n) for n in free if _fit(plain[n], name))
            if ranked:
                found[column.key] = ranked[0][1]
                break
    return found
