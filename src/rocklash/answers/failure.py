"""What the model and the records say of each scenario of a failure."""

from collections.abc import Iterable

from rocklash.answers.results import BuildResult
from rocklash.answers.tester import place_of, strength_in
from rocklash.answers.wear import trends_of
from rocklash.records.models import Build, ClearanceSession, OverRevCase, ProofKind, ProofTest, SetupRole
from valvetrain.errors import ValveTrainError
from valvetrain.parts.engine import Side
from valvetrain.studies.checks.check import Verdict
from valvetrain.studies.proof.evidence import ModelWitness
from valvetrain.studies.proof.sweep import Jump, sweep
from valvetrain.wording.checks import title


def highest_known(tests: list[ProofTest], cases: list[OverRevCase]) -> tuple[float, str] | None:
    """The highest speed on record (rev/s) and where it stands; None where nothing tells one."""
    found: list[tuple[float, str]] = []
    for test in tests:
        day = f"{test.get_kind_display()} of {test.made_on:%d %b %Y}"
        if test.kind == ProofKind.SOUND:
            found.append((max(test.found["end"]["crest"], test.found["end"]["speed"]), day))
        elif test.kind == ProofKind.REV:
            found.append((test.readings["speed"], day))
        elif test.kind == ProofKind.RUN and test.found.get("speed"):
            found.append((max(test.found["speed"]), day))
    found += [(case.peak, f"over-rev of {case.at:%d %b %Y}") for case in cases if case.peak]
    return max(found, default=None)


def _strengths(build: Build, answer: BuildResult) -> Iterable[tuple[str, Verdict, str]]:
    rows = {row.side: row for setup in build.setups.all() if setup.role == SetupRole.PROPOSED for row in setup.sides.all()}
    for side in Side:
        for part in (rows[side.value].outer_spring, rows[side.value].inner_spring):
            place = place_of(answer, build, part, side) if part else None
            if part is None or place is None:
                continue
            try:
                found = strength_in(answer, part, place)
            except ValveTrainError:
                continue
            if found is not None:
                yield f"{part}, {side.value}", found.verdict, found.words


def witnesses_of(build: Build, answer: BuildResult, sheets: list[ClearanceSession], reached: float | None) -> tuple[ModelWitness, ...]:
    """What the model says at the speed that was reached (rev/s, None where nobody knows), and what the sheets say of the clearances before."""
    if answer.review is None:
        return ()
    jumps = [
        Jump(valve=name, start=step.start, end=step.end, amount=step.amount)
        for name, _, trend, _ in trends_of(build, answer, sheets) if trend is not None for step in trend.steps
    ]  # fmt: skip
    motions = {side: motion for (role, side), motion in answer.motions.items() if role == SetupRole.PROPOSED}
    checks = [(check.code, check.verdict, title(check)) for check in answer.review.proposed.checks]
    rods = answer.record.facts.get("rods", "")
    return sweep(
        answer.review.completed,
        answer.review.room,
        motions,
        rods,
        reached=reached,
        checks=checks,
        strengths=_strengths(build, answer),
        jumps=jumps,
    )
