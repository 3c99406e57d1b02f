"""What a search found, by kind, with where it leads."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from django.urls import reverse

from rocklash.records.models import Membership

# Where a kind of a build leads; the rest lead to the build itself or to the shelf.
_PAGES = {
    "finding": "job-findings", "note": "logbook", "ran": "logbook", "done": "logbook", "test": "proof", "sheet": "lash-history", "machine shop": "job-shop",
    "over-rev": "room", "waits": "job-course", "change": "logbook",
}  # fmt: skip
_WORDS = {
    "engine": "Engines", "part": "Shelf", "single part": "Single parts", "finding": "Findings", "note": "Notes", "ran": "Runs", "done": "Done",
    "test": "Tests", "sheet": "Clearance sheets", "machine shop": "Machine shop", "over-rev": "Over-revs", "waits": "Waited for",
    "family note": "Family notes", "change": "Changes",
}  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Found:
    """One line."""

    words: str
    build: str
    url: str


def _url(hit: Any, member: Membership) -> str:
    shop = member.workshop.slug
    if hit.kind in ("part", "single part"):
        return reverse("shelf-part", args=[shop, hit.row])
    if hit.build is None:
        return ""
    return reverse(_PAGES.get(hit.kind, "overview"), args=[shop, hit.build])


def found_groups(hits: Iterable[Any], member: Membership) -> list[tuple[str, list[Found]]]:
    """Hits by kind, in the order in which kinds were met."""
    groups: dict[str, list[Found]] = {}
    for hit in hits:
        name = hit.build_name if hit.kind != "engine" else ""
        words = hit.build_name if hit.kind == "engine" and hit.build_name else hit.words
        more = hit.words if hit.kind == "engine" and hit.words != words else ""
        groups.setdefault(_WORDS[hit.kind], []).append(Found(words=words, build=more or name, url=_url(hit, member)))
    return list(groups.items())
