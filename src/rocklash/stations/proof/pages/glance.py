"""Proof at a glance: the answer first, what is measured, what is still open."""

from dataclasses import dataclass

from django.urls import reverse

from rocklash.records.models import Forecast, Phase, ProofKind, ProofTest
from rocklash.stations.proof.pages.pulls import difference

_WANTED = (
    (ProofKind.COMPRESSION, "Compression", "proof-cylinders"), (ProofKind.LEAK, "Leak-down", "proof-cylinders"), (ProofKind.REV, "Rev test or sound", "proof-pulls"),
    (ProofKind.RUN, "Run on dyno or road", "proof-runs"),
)  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Wanted:
    """One test that tells most when it stands before and after: where it is kept, and what of it is there."""

    words: str
    url: str
    before: bool
    after: bool


@dataclass(frozen=True, kw_only=True)
class Glance:
    """The page's first lines."""

    sentence: str
    wanted: list[Wanted]
    next: str
    next_url: str


def glance(tests: list[ProofTest], forecasts: list[Forecast], runs: str, place: dict[str, object]) -> Glance:
    """What the tests say together, and the next act."""
    wanted = []
    for kind, words, name in _WANTED:
        kinds = {kind, ProofKind.SOUND} if kind is ProofKind.REV else {kind}
        mine = {test.phase for test in tests if test.kind in kinds}
        wanted.append(Wanted(words=words, url=reverse(name, kwargs=place), before=Phase.BEFORE in mine, after=Phase.AFTER in mine))
    parts = [part for part in (runs, difference(tests)) if part]
    held = [row for row in forecasts if row.result is not None]
    if held:
        inside = sum(row.low <= (row.result or 0.0) <= row.high for row in held)
        parts.append(f"{inside} of {len(held)} forecasts held.")
    if not tests:
        parts = ["Nothing is measured yet. Before the work is the time: compression, one full pull, one recording."]
    open_one = next((each for each in wanted if not each.before), None) if not any(each.after for each in wanted) else None
    later = next((each for each in wanted if each.before and not each.after), None)
    if open_one is not None:
        following = f"{open_one.words}, before the work", open_one.url
    elif later is not None:
        following = f"{later.words}, after the work, made the same way", later.url
    else:
        following = "Which test next", reverse("proof-next", kwargs=place)
    return Glance(sentence=" ".join(parts), wanted=wanted, next=following[0], next_url=following[1])
