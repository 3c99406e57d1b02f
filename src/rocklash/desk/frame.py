"""What every station of a build shows around itself: title, rev ladder, rail with honest states."""

from dataclasses import dataclass
from typing import Any

from django.http import HttpRequest
from django.urls import reverse

from rocklash.answers.motion import pending, with_motions
from rocklash.answers.results import BuildResult, answer_for
from rocklash.answers.rows import side_rows
from rocklash.commands.figures import FieldEdit, FieldError, keep_figure
from rocklash.commands.parts import choose_part
from rocklash.desk.fields import BASES
from rocklash.records.models import Build, ClearanceSession, Membership, SetupRole
from rocklash.records.selectors.builds import last_session
from rocklash.ui.drawings import rev_ladder
from rocklash.ui.drawings.rev_ladder import FloatMark, LadderData, MotionMark, SurgeMark
from valvetrain import wording
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Side
from valvetrain.parts.figure import Basis
from valvetrain.parts.gaps import GapKind
from valvetrain.studies.checks.check import CheckCode
from valvetrain.studies.review.build import SetupReview
from valvetrain.units import QuantityKind, UnitSystem, quantity

_NOT_YET = "Choose, Job, Proof and Logbook are not here yet."
_ENGINE_KEYS = (
    "bore",
    "stroke",
    "limiter",
    "peak",
    "clearance_intake_least",
    "clearance_intake_most",
    "clearance_exhaust_least",
    "clearance_exhaust_most",
)
_GOAL_KEYS = ("goal_rpm", "over_rev", "boost", "back_pressure")


@dataclass(frozen=True)
class RailItem:
    """One station on the rail. `state` is done, work, none, waits or a verdict."""

    number: str
    name: str
    url: str
    state: str
    words: str
    current: bool
    verdict: str = ""


def ladder_data(answer: BuildResult, system: UnitSystem, reached: tuple[float, float] | None = None) -> LadderData | None:
    """What stands on the ladder of a build; None when its figures contradict one another. `reached` rpm of an over-rev."""
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
    )


def _known(stored: dict[str, Any], keys: tuple[str, ...]) -> tuple[str, str]:
    count = sum(key in stored and stored[key]["basis"] != Basis.ESTIMATE for key in keys)
    state = "done" if count == len(keys) else "work" if count else "none"
    return state, "done" if state == "done" else f"{count} of {len(keys)} known"


def _springs_state(answer: BuildResult) -> tuple[str, str]:
    if answer.review is None:
        return "waits", "figures disagree"
    figures = []
    for done in answer.review.completed.proposed_sides.values():
        figures += [figure for spring in done.springs for figure in spring.values()] + [
            done.fit["installed_height"],
            done.fit["retainer_to_seal"],
        ]
        figures += [parts["mass"] for owner, parts in done.parts.items() if owner is not Owner.CAM]
    known = sum(figure.basis is not Basis.ESTIMATE for figure in figures)
    return ("done" if known == len(figures) else "work" if known else "none"), f"{known} of {len(figures)} known"


def _cams_state(build: Build) -> tuple[str, str]:
    cams = [row.cam for (role, _), row in side_rows(build).items() if role == SetupRole.PROPOSED and row.cam]
    known = sum(
        bool(cam.lobe) or ("lift" in cam.figures and ("duration_1" in cam.figures or {"opens_1", "shuts_1"} <= cam.figures.keys()))
        for cam in cams
    )
    state = "done" if known and known == len(cams) else "work" if known else "none"
    return state, f"{known} of {len(cams)} known"


def _room_state(answer: BuildResult) -> tuple[str, str]:
    if answer.review is None:
        return "waits", "figures disagree"
    room = answer.review.room
    gaps = sum(check.code in (GapKind.COIL_BIND, GapKind.RETAINER) for check in answer.review.proposed.checks)
    known = sum(how != "estimate" for how in room.how.values()) + gaps
    total = len(room.checks) + gaps
    return ("done" if known == total else "work" if known > gaps else "none"), f"{known} of {total} gaps"


def lash_state(session: ClearanceSession | None, valves: int) -> tuple[str, str]:
    """State of the Lash station in a mark and words."""
    if session is None:
        return "none", "not begun"
    if session.signed_at:
        return "done", f"signed {session.signed_at:%d %b}"
    readings = session.readings.all()
    count = sum(reading.recheck == session.rechecking for reading in readings)
    return "work", f"{count} of {valves} {'re-checked' if session.rechecking else 'read'}"


def rail(member: Membership, build: Build, answer: BuildResult, session: ClearanceSession | None, current: str) -> list[RailItem]:
    """The stations that exist, with their states; what is not built yet is not shown as if it were."""
    verdict = answer.review.proposed.verdict.value if answer.review else "unproven"
    words = wording.headline(answer.review.proposed).rstrip(".").lower() if answer.review else "figures disagree"
    states = {
        "engine": ("1", "Engine", *_known(build.engine.figures, _ENGINE_KEYS)),
        "goal": ("2", "Goal", *_known(build.figures, _GOAL_KEYS)),
        "cams": ("3", "Cams", *_cams_state(build)),
        "springs": ("4", "Springs & masses", *_springs_state(answer)),
        "room": ("5", "Room", *_room_state(answer)),
        "lash": ("8", "Lash", *lash_state(session, len(build.engine.positions.all()))),
    }
    place = {"shop": member.workshop.slug, "number": build.pk}
    items = [RailItem("", "Overview", reverse("overview", kwargs=place), "", words, current == "overview", verdict)]
    items += [
        RailItem(no, name, reverse(key, kwargs=place), state, said, current == key) for key, (no, name, state, said) in states.items()
    ]
    return items


def surroundings(
    member: Membership,
    build: Build,
    current: str,
    *,
    fold: bool = False,
    reached: tuple[float, float] | None = None,
    session: ClearanceSession | None = None,
) -> dict[str, Any]:
    """Context that every station page needs: title, rail, ladder, last clearance sheet. `reached` rpm of an over-rev goes onto the ladder;
    `session` is the last sheet with its readings where they are at hand."""
    answer = with_motions(answer_for(build))
    system = UnitSystem(member.user.unit_system)
    data = ladder_data(answer, system, reached)
    session = session or last_session(build)
    items = rail(member, build, answer, session, current)
    return {
        "heading": build.name,
        "subheading": build.engine.description,
        "station_name": next((item.name for item in items if item.current), "Build sheet"),
        "bases": BASES,
        "session": session,
        "member": member,
        "build": build,
        "answer": answer,
        "system": system.value,
        "rail": items,
        "not_yet": _NOT_YET,
        "motion_pending": pending(answer),
        "ladder": data
        and {"open": rev_ladder.full(data), "folded": rev_ladder.folded(data), "phone": rev_ladder.folded(data, phone=True), "fold": fold},
    }


def asked_side(request: HttpRequest) -> Side:
    """The side of the head a page's address asks for, the intake where it asks for none."""
    return Side(request.GET["side"]) if request.GET.get("side") in set(Side) else Side.INTAKE


def attempt_from(request: HttpRequest) -> FieldEdit:
    """The field that was sent."""
    post = request.POST
    return FieldEdit(post.get("holder", ""), post.get("key", ""), post.get("text", "")[:80], post.get("basis", ""), post.get("seen", ""))


def keep_posted(request: HttpRequest, member: Membership, build: Build) -> tuple[FieldError | None, int]:
    """Keep the field that was sent; returns the trouble and the status to answer with."""
    trouble = keep_figure(member, build, attempt_from(request))
    if trouble is None:
        return None, 200
    return trouble, 409 if trouble.conflict else 422


def choose_or_keep(request: HttpRequest, member: Membership, build: Build) -> tuple[FieldError | None, str, int]:
    """Choose the part or keep the field that was sent; returns trouble of the field, refusal of the part, and the status."""
    post = request.POST
    if "slot" not in post:
        trouble, status = keep_posted(request, member, build)
        return trouble, "", status
    refused = choose_part(member, build, post.get("row", ""), post["slot"], post.get("part", ""), post.get("seen", ""))
    return None, refused, 409 if refused else 200
