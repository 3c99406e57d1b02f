"""The overview as view-models: the answer, one next act, fixes, measurements, and the checks that do not hold; those that hold are told in a line."""

from dataclasses import dataclass

from django.urls import reverse
from django.utils.http import urlencode

from rocklash.answers.goal_line import goal_line
from rocklash.answers.results import BuildResult
from rocklash.answers.trying import fixes_of
from rocklash.records.models import Build, Membership
from rocklash.stations.overview.pages.places import place_of_check, place_of_fix, place_of_input
from rocklash.ui.presenting import CheckRow, MeasureRow, RemedyRow, check_row, measure_rows, remedy_row, signed
from valvetrain import wording
from valvetrain.studies.checks.check import Check, Remedy, Verdict
from valvetrain.studies.review.build import MeasureNext, SetupReview
from valvetrain.studies.review.next_act import gain_per_minute, minutes_to_measure, next_act
from valvetrain.units import UnitSystem, unit_symbol


@dataclass(frozen=True, kw_only=True)
class Act:
    """The one next act: what, why, where."""

    what: str
    why: str
    url: str


@dataclass(frozen=True, kw_only=True)
class OverviewPage:
    """Everything the overview prints; rows, fixes and measurements each with the address of their field. A fix or a
    measurement that serves both sides alike is told once, with what it does on each."""

    goal: str
    verdict: str
    headline: str
    sentences: list[str]
    good_to: str
    act: Act
    rows: list[tuple[CheckRow, str]]
    held: list[tuple[CheckRow, str]]
    held_line: str
    remedies: list[tuple[str, list[tuple[RemedyRow, str, str]]]]
    measures: list[tuple[str, list[tuple[MeasureRow, str]]]]


class _Addresses:
    """Addresses on the site for one build."""

    def __init__(self, build: Build) -> None:
        self.build = build

    def to(self, name: str, side: str, field: str) -> str:
        """A page with its side, and the field on it that lights up."""
        place = [self.build.workshop.slug, self.build.pk]
        if name == "wheel":
            cam = next((row.cam_id for setup in self.build.setups.all() if setup.role == "proposed" for row in setup.sides.all() if row.side == side), None)  # fmt: skip
            name, place = ("wheel", [*place, cam]) if cam else ("cams", place)
        asked = {key: value for key, value in (("side", side), ("figures", "all" if field.startswith("part-") else "")) if value}
        return f"{reverse(name, args=place)}{f'?{urlencode(asked)}' if asked else ''}{f'#{field}' if field else ''}"

    def check(self, check: Check) -> str:
        """Of a check."""
        name, field = place_of_check(check)
        return self.to(name, check.side.value if check.side else "", field)

    def measure(self, item: MeasureNext) -> str:
        """Of a measurement."""
        side = item.about.split(" ")[0] if item.about.startswith(("intake", "exhaust")) else "intake"
        name, field = place_of_input(item.what, side, self.build)
        return self.to(name, side, field)


def _held_line(held: list[Check], system: UnitSystem) -> str:
    """`seat force +32 N, coil bind +0.31 mm`: the least margin of each topic, worst first."""
    least: dict[str, Check] = {}
    for check in held:
        name = wording.NAMES[check.code]
        if name not in least or check.margin / max(abs(check.limit), 1e-12) < least[name].margin / max(abs(least[name].limit), 1e-12):
            least[name] = check
    return ", ".join(f"{name} {signed(each.margin, each.kind, system)} {unit_symbol(each.kind, system)}" for name, each in least.items())


def _act(found: SetupReview, build: Build, system: UnitSystem, to: _Addresses) -> Act:
    act = next_act(found)
    if act.remedy is not None and act.check is not None:
        side = act.check.side.value if act.check.side else ""
        name, field = place_of_fix(act.remedy, side, build)
        row = remedy_row(act.remedy, act.check, system)
        why = f"for {row.about.lower()}: {row.effects}" + ("" if row.suffices else "; that alone is not enough")
        return Act(what=row.what, why=why, url=to.to(name, side, field))
    if act.measure is not None:
        item, row_ = act.measure, measure_rows((act.measure,), system)[0]
        why = f"{row_.about}: {row_.before} becomes {row_.after}; about {minutes_to_measure(item.what):.0f} min, {row_.how}"
        return Act(what=f"Measure {row_.what[:1].lower()}{row_.what[1:]}", why=why, url=to.measure(item))
    return Act(what="Print the build sheet", why="Everything holds.", url=reverse("sheet", args=[build.workshop.slug, build.pk]))


def overview_page(answer: BuildResult, which: str, build: Build, member: Membership) -> OverviewPage | None:
    """View-model of the page; None when the figures contradict one another."""
    if answer.review is None:
        return None
    system, to = UnitSystem(member.user.unit_system), _Addresses(build)
    found = answer.review.stock if which == "stock" else answer.review.proposed
    held = [check for check in found.checks if check.verdict is Verdict.HOLDS]
    fixes: dict[str, list[tuple[RemedyRow, str, str]]] = {}
    for fix in fixes_of(answer, which):
        row = remedy_row(fix.remedy, fix.check, system)
        fixes.setdefault(row.what, []).append((row, to.to(*_fix(fix.remedy, fix.check, build)), fix.key if fix.change else ""))
    measures: dict[str, list[tuple[MeasureRow, str]]] = {}
    wanted = sorted(found.measure_next, key=gain_per_minute, reverse=True)
    for item, shown in zip(wanted, measure_rows(tuple(wanted), system), strict=True):
        measures.setdefault(shown.what, []).append((shown, to.measure(item)))
    return OverviewPage(
        goal=goal_line(answer, build, system),
        verdict=found.verdict.value,
        headline=wording.headline(found),
        sentences=wording.three_answers(found, answer.review.completed.goal.goal_rpm, system),
        good_to=wording.good_to(found, system),
        act=_act(found, build, system, to),
        rows=[(check_row(check, system), to.check(check)) for check in found.checks if check.verdict is not Verdict.HOLDS],
        held=[(check_row(check, system), to.check(check)) for check in held],
        held_line=_held_line(held, system),
        remedies=list(fixes.items()),
        measures=list(measures.items()),
    )


def _fix(remedy: Remedy, check: Check, build: Build) -> tuple[str, str, str]:
    side = check.side.value if check.side else ""
    name, field = place_of_fix(remedy, side, build)
    return name, side, field
