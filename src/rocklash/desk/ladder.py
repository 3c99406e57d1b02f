"""What is shown on the rev ladder of a build."""

from rocklash.answers.results import BuildResult
from rocklash.ui.drawings.rev_marks import FloatMark, LadderData, MotionMark, SurgeMark
from valvetrain.studies.checks.check import CheckCode
from valvetrain.studies.review.build import SetupReview
from valvetrain.units import QuantityKind, UnitSystem, quantity


def ladder_data(
    answer: BuildResult, system: UnitSystem, reached: tuple[float, float] | None = None, measured: tuple[tuple[str, float], ...] = (),
    tried: SetupReview | None = None,
) -> LadderData | None:  # fmt: skip
    """What stands on the ladder of a build; None when its figures contradict one another. `reached` rpm of an over-rev; `measured` where it gave up, words and rpm;
    `tried` the proposed set-up with a fix that is tried."""
    if answer.review is None:
        return None
    engine, goal = answer.review.completed.engine, answer.review.completed.goal

    def floats(found: SetupReview) -> tuple[FloatMark, ...]:
        marks = [FloatMark(check.about, check.figure * 60, check.spread * 60) for check in found.checks if check.code is CheckCode.FLOAT]
        return tuple(sorted(marks, key=lambda mark: mark.side, reverse=True))

    def motions(role: str) -> tuple[MotionMark, ...]:
        found = [(side, motion) for (own, side), motion in answer.motions.items() if own == role and motion.sustained]
        marks = []
        for side, motion in found:
            assert motion.sustained
            onset = motion.sustained
            marks.append(MotionMark(side.value, onset.value * 60, onset.low * 60, onset.high * 60, beyond=onset.beyond))
        return tuple(marks)

    def surges(role: str) -> tuple[SurgeMark, ...]:
        marks = []
        for (own, side), motion in answer.motions.items():
            if own != role or motion.case is None:
                continue
            names = [""] if len(motion.case.springs) == 1 else [" outer", " inner"]
            marks += [
                SurgeMark(f"{zone.order}th{names[zone.spring]}", side.value, zone.low * 60, zone.peak * 60, zone.high * 60, zone.amplitude)
                for zone in motion.surge
            ]
        return tuple(marks)

    return LadderData(
        idle=engine["idle"].value * 60,
        peak=engine["peak"].value * 60,
        limiter=engine["limiter"].value * 60,
        goal=goal.goal_rpm * 60,
        over_rev=goal.over_rev * 60,
        piston=answer.review.piston_limit * 60,
        piston_label=f"piston {quantity(goal.piston_speed_limit, QuantityKind.VELOCITY, system)}",
        stock=floats(answer.review.stock),
        proposed=floats(answer.review.proposed),
        stock_motion=motions("stock"),
        proposed_motion=motions("proposed"),
        stock_surge=surges("stock"),
        proposed_surge=surges("proposed"),
        reached=reached,
        measured=measured,
        tried=floats(tried) if tried else (),
    )
