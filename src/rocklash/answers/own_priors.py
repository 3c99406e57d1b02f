"""What a workshop's own engines taught, kept with the workshop, and used in place of what the trade supposes where that is switched on. Results
of a build are left out where that build itself is judged, so that nothing counts twice."""

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from rocklash.records.models import Build, Workshop
from valvetrain.parts.figure import Basis, Figure
from valvetrain.studies.proof.own_results import Learned, OwnPrior, Result, learn

FIGURES = {Learned.STIFFNESS: "train_stiffness", Learned.DAMPING: "spring_damping"}


@dataclass(frozen=True, kw_only=True)
class OwnResult:
    """One result with where it came from; `about` is the gear for stiffness. `build` is 0 for what belongs to none."""

    what: Learned
    value: float
    doubt: float
    words: str
    build: int = 0
    about: str = ""

    def kept(self) -> list[Any]:
        """As it is kept with the workshop."""
        return [float(f"{self.value:.6g}"), float(f"{self.doubt:.4g}"), self.words, self.build, self.about]


def _read(what: Learned, told: Any) -> list[OwnResult]:
    return [OwnResult(what=what, value=row[0], doubt=row[1], words=row[2], build=row[3], about=row[4]) for row in told.get("results", [])]


def kept_results(workshop: Workshop) -> dict[Learned, list[OwnResult]]:
    """Results taken in so far, by figure."""
    return {what: _read(what, workshop.own.get(what.name.lower(), {})) for what in Learned}


def is_used(workshop: Workshop, what: Learned) -> bool:
    """Whether a workshop's own results count for a figure: until it switches them off, once they were taken in."""
    told = workshop.own.get(what.name.lower())
    return bool(told and told.get("used", True))


@lru_cache(maxsize=256)
def learnt(what: Learned, results: tuple[tuple[float, float], ...]) -> OwnPrior:
    """What results, each a value with its doubt, make of a figure."""
    return learn(what, [Result(value=value, doubt=doubt) for value, doubt in results])


def prior_of(workshop: Workshop, what: Learned, *, about: str = "", without: int = -1) -> OwnPrior:
    """What a workshop's results make of a figure; of one gear where `about` names it, without those of one build."""
    mine = [row for row in kept_results(workshop)[what] if row.about == about and row.build != without]
    return learnt(what, tuple((row.value, row.doubt) for row in mine))


def counting(build: Build, what: Learned, about: str = "") -> OwnPrior | None:
    """What is used for a build in place of the trade's; None where it is switched off or rests on too few results of others."""
    if not is_used(build.workshop, what):
        return None
    found = prior_of(build.workshop, what, about=about, without=build.pk)
    return found if found.usable else None


def own_figures(build: Build) -> dict[str, Figure]:
    """For the record of a build: parts of what the trade supposes, by the engine figure's key."""
    if not build.workshop.own:
        return {}
    found = {}
    for what, key in FIGURES.items():
        prior = counting(build, what, build.engine.gear if what is Learned.STIFFNESS else "")
        if prior is not None:
            wide = max(prior.high / prior.middle, prior.middle / prior.low) - 1.0
            found[key] = Figure(prior.middle, wide * prior.middle, Basis.ESTIMATE)
    return found


def own_pace(build: Build) -> tuple[float, float] | None:
    """How fast clearances close in this workshop's engines before anything is read: m/h and one standard deviation; None for the trade's."""
    prior = counting(build, Learned.RECESSION)
    return (prior.middle, (prior.high - prior.low) / 4.0) if prior else None


def own_blade(workshop: Workshop) -> float | None:
    """Half width of a reading by a hand that has no pairs of its own yet, from the workshop's hands; None for the trade's."""
    if not is_used(workshop, Learned.BLADE):
        return None
    prior = prior_of(workshop, Learned.BLADE)
    return prior.middle if prior.usable else None
