"""What the pages tell: board, overview, springs, goal, in both unit systems; importing and the demo."""

import gzip
import re
from itertools import product

import pytest

from rocklash.answers.results import result_of
from rocklash.answers.rows import record_of
from rocklash.commands.builds import keep_record, usual_positions
from rocklash.demo import load
from rocklash.desk.ladder import ladder_data
from rocklash.desk.registry import rail
from rocklash.records.figure_column import fingerprint, stored_figure
from rocklash.records.models import Build, ClearanceSession, Membership, Part, Position, Reading, SetupSide
from rocklash.records.selectors.builds import build_or_404, parts_that_fit
from rocklash.stations.board.pages.board import next_step
from rocklash.ui.presenting import check_row, measure_rows, remedy_rows
from tests.rocklash.conftest import address, bench_of, client_for
from tests.valvetrain.builders import empty_build
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Adjuster, EngineKind, Follower, Gear, Side
from valvetrain.parts.figure import Basis
from valvetrain.studies.checks.check import CheckCode
from valvetrain.units import UnitSystem
from valvetrain.wording.cautions import Place, cautions_at, situation_of


def fresh(build: Build) -> Build:
    return build_or_404(build.workshop, build.pk)


def test_the_record_of_imported_rows_is_the_record_that_came_in(petrel: Build) -> None:
    """Rows and back: names, figures, bases, springs, valves."""
    from tests.rocklash.conftest import DEMO
    from valvetrain.formats import build_file

    came = build_file.read((DEMO / "petrel_1498.json").read_text(encoding="utf-8"))
    kept = record_of(fresh(petrel))
    assert kept.kind == came.kind
    assert kept.engine == came.engine
    assert kept.goal == came.goal
    assert {place.name: place.deviation for place in kept.positions} == {place.name: place.deviation for place in came.positions}
    for side in Side:
        assert kept.proposed[side].springs == came.proposed[side].springs
        assert kept.proposed[side].parts[Owner.RETAINER] == came.proposed[side].parts[Owner.RETAINER]
        assert kept.proposed[side].fit == came.proposed[side].fit


@pytest.mark.parametrize(("cylinders", "each", "count", "last"), [(1, 1, 2, "IN 1"), (3, 2, 12, "IN 3 right"), (4, 3, 24, "IN 4 right")])
def test_valves_get_the_names_of_the_trade(cylinders: int, each: int, count: int, last: str) -> None:
    places = usual_positions(EngineKind(cylinders, each, Gear.DOHC, Follower.BUCKET, Adjuster.SHIM_UNDER))
    assert len(places) == count
    assert len({place.name for place in places}) == count
    assert places[0].name.startswith("EX 1")
    assert places[-1].name == last


def test_a_screw_engine_has_no_lash_shims(owner: Membership) -> None:
    build = keep_record(owner, empty_build(EngineKind(1, 1, Gear.OHC, Follower.ROCKER, Adjuster.SCREW)))
    assert SetupSide.objects.filter(setup__build=build, shim__isnull=False).count() == 0
    assert Position.objects.filter(engine=build.engine).count() == 2
    assert result_of(fresh(build)).review is not None


def test_parts_of_another_engine_do_not_fit(petrel: Build, owner: Membership) -> None:
    other = keep_record(owner, empty_build(EngineKind(1, 1, Gear.OHC, Follower.ROCKER, Adjuster.SCREW)))
    names = set(parts_that_fit(petrel).values_list("engine_id", flat=True))
    assert names == {None, petrel.engine_id}
    assert other.engine_id not in names


def test_results_are_remembered_by_content(petrel: Build) -> None:
    first = result_of(fresh(petrel))
    assert result_of(fresh(petrel)) is first
    petrel.figures["goal_rpm"]["value"] += 1.0
    petrel.save()
    assert result_of(fresh(petrel)) is not first


def test_the_rail_tells_what_is_known(petrel: Build, builder: Membership) -> None:
    items = {item.name: item for item in rail(bench_of(builder, fresh(petrel)), "goal")}
    assert list(items) == ["Overview", "Engine", "Goal", "Cams", "Springs & masses", "Room", "Choose", "Job", "Lash", "Proof", "Logbook"]
    assert (items["Engine"].state, items["Engine"].words) == ("done", "done")
    assert (items["Goal"].state, items["Goal"].words) == ("work", "3 of 4 known")  # back pressure is an estimate
    assert items["Goal"].current
    assert items["Lash"].words == "not begun"
    assert items["Overview"].verdict == "short"


def test_the_ladder_carries_both_camshafts_of_both_setups(petrel: Build) -> None:
    data = ladder_data(result_of(fresh(petrel)), UnitSystem.INCH)
    assert data is not None
    assert [mark.side for mark in data.stock] == ["intake", "exhaust"]
    assert data.goal == pytest.approx(8400)
    assert data.piston_label == "piston 72 ft/s"
    found = result_of(fresh(petrel)).review
    assert found is not None
    floats = {check.about: check.figure * 60 for check in found.proposed.checks if check.code is CheckCode.FLOAT}
    assert {mark.side: mark.rpm for mark in data.proposed} == pytest.approx(floats)


def test_rows_show_the_same_check_in_both_systems(petrel: Build) -> None:
    found = result_of(fresh(petrel)).review
    assert found is not None
    for check in found.proposed.checks:
        metric, inch = check_row(check, UnitSystem.METRIC), check_row(check, UnitSystem.INCH)
        assert metric.verdict == inch.verdict
        assert metric.title == inch.title
        if metric.other:
            assert inch.other == f"{metric.figure} {metric.unit}"
            assert metric.other == f"{inch.figure} {inch.unit}"
        assert metric.margin.startswith("\N{MINUS SIGN}") is (check.margin < 0)


def test_ways_out_and_measurements(petrel: Build) -> None:
    review = result_of(fresh(petrel)).review
    assert review is not None
    rows = remedy_rows(review.proposed, UnitSystem.METRIC, 40)
    assert [row.suffices for row in rows] == sorted((row.suffices for row in rows), reverse=True)
    assert sum("Lower the goal" in row.what for row in rows) <= 1
    assert measure_rows(review.proposed.measure_next, UnitSystem.METRIC)


def test_the_overview_says_the_answer_then_one_act_then_what_does_not_hold(petrel: Build, builder: Membership) -> None:
    """Will the valves follow, are the seats held, has everything room; one act with its page; those that hold in a line; every row leads to its field."""
    client = client_for(builder)
    answer = client.get(address(petrel, ""))
    page = answer.context["page"]
    assert [
        any(word in sentence for word in words)
        for sentence, words in zip(page.sentences, (("follow",), ("seat",), ("room",)), strict=False)
    ] == [True] * 3
    assert "207 of 228 N needed" in page.sentences[1]
    assert page.act.what.startswith("Springs with")
    assert page.rows
    assert page.held
    assert all(row.verdict != "holds" for row, _ in page.rows)
    assert {row.verdict for row, _ in page.held} == {"holds"}
    assert "coil bind +" in page.held_line
    for url in {
        page.act.url,
        *(url for part in (page.rows, page.held, *(ways for _, ways in [*page.remedies, *page.measures])) for _, url, *_ in part),
    }:
        place, _, field = url.partition("#")
        shown = client.get(place)
        assert shown.status_code == 200, url
        assert not field or f'id="{field}"' in shown.content.decode(), url


def test_a_fix_that_serves_both_sides_alike_is_told_once(petrel: Build, builder: Membership) -> None:
    """Stacked too short both sides bind: one line, with what it does on each side, and each tried by itself."""
    for row in petrel.setups.get(role="proposed").sides.all():
        row.figures["installed_height"] = row.figures["installed_height"] | {"value": 0.0345}
        row.save()
    answer = client_for(builder).get(address(petrel, ""))
    page = answer.context["page"]
    whats = [what for what, _ in page.remedies]
    assert len(set(whats)) == len(whats)
    shared = [ways for _, ways in page.remedies if len(ways) > 1]
    assert shared
    for ways in shared:
        assert {row.about.split(" ")[0] for row, _, _ in ways} == {"Intake", "Exhaust"}
        assert len({key for _, _, key in ways}) == 2
        for row, _, key in ways:
            tried = client_for(builder).get(address(petrel, f"?try={key}"))
            assert row.about.split(" ")[0].lower() in tried.context["trial"].what


def test_the_next_step_follows_from_what_is_known(petrel: Build) -> None:
    answer = result_of(fresh(petrel))
    assert next_step(answer, None, goal_known=False) == ("Set the working maximum", "goal")
    assert next_step(answer, None, goal_known=True) == ("Fix what falls short", "springs")


def test_fingerprints_tell_figures_apart() -> None:
    row = {"bore": stored_figure(Owner.ENGINE, "bore", 0.096, Basis.CARD)}
    changed = {"bore": stored_figure(Owner.ENGINE, "bore", 0.096, Basis.MEASURED)}
    assert fingerprint(row, "bore") != fingerprint(changed, "bore")
    assert fingerprint({}, "bore") == "none"
    assert row["bore"]["spread"] > changed["bore"]["spread"] > 0.0


def test_stock_and_proposed_sheets(petrel: Build, builder: Membership) -> None:
    client = client_for(builder)
    found = result_of(fresh(petrel)).review
    assert found
    for role, sheet in (("", found.proposed), ("?setup=stock", found.stock)):
        speed = next(check.figure for check in sheet.checks if check.code is CheckCode.FLOAT and check.about == "exhaust")
        assert f"{round(speed * 60):,}" in client.get(address(petrel) + role).content.decode()


def test_the_governor_warning_of_a_work_engine(owner: Membership) -> None:
    data = {
        "name": "Knot", "cylinders": "1", "gear": "ohc", "valves_per_side": "1", "follower": "rocker", "adjuster": "screw", "use": "work",
        "goal_rpm": "5800", "bore": "", "stroke": "", "limiter": "3600", "boost": "",
    }  # fmt: skip
    html = client_for(owner).post("/shop/shed/new/", data, follow=True).content.decode()
    assert "above the speed its maker holds it to" in html
    assert "flywheel can burst" in html


def test_the_demo_loads_once_and_is_restored(db: None) -> None:
    load.load()
    assert load.is_loaded()
    counts = Build.objects.count(), Part.objects.count(), Reading.objects.count()
    build = Build.objects.get(name="Petrel 1498")
    Build.objects.filter(pk=build.pk).update(name="changed")
    ClearanceSession.objects.create(build=build)
    load.remove()
    assert not load.is_loaded()
    assert not Part.objects.exists()
    load.load()
    assert (Build.objects.count(), Part.objects.count(), Reading.objects.count()) == counts
    assert Build.objects.filter(name="Petrel 1498").exists()


def test_the_demo_is_consistent_with_itself(db: None) -> None:
    """Dunlin's signed sheet is in range, and its shims explain its re-check within the blades' interval."""
    load.load()
    session = ClearanceSession.objects.get(build__name="Dunlin 598")
    assert session.signed_at is not None
    for first in session.readings.filter(recheck=False):
        again = session.readings.get(position=first.position, recheck=True)
        assert first.shim is not None
        assert again.shim is not None
        ratio = 1.25  # of the fingers, as in the build file
        expected = [value + (first.shim - again.shim) / ratio for value in (first.goes, first.stops)]
        assert again.goes <= expected[1] + 1e-5
        assert again.stops >= expected[0] - 1e-5


@pytest.mark.parametrize(
    ("page", "place"),
    [
        ("", Place.OVERVIEW), ("goal/", Place.GOAL), ("cams/timing/", Place.TIMING), ("springs/", Place.SPRINGS), ("springs/valves/", Place.VALVES),
        ("springs/new/valve/", Place.NEW_PART), ("room/measure/", Place.MEASURE), ("room/over-rev/", Place.OVER_REV), ("room/gearing/", Place.GEARING),
        ("lash/", Place.LASH), ("lash/stops/", Place.STOPS), ("sheet/", Place.SHEET),
    ],
)  # fmt: skip
def test_pages_show_the_cautions_of_the_registry(builder: Membership, petrel: Build, page: str, place: Place) -> None:
    """Petrel: a boosted rescue craft with buckets."""
    html = client_for(builder).get(address(petrel, page)).content.decode()
    result = result_of(build_or_404(petrel.workshop, petrel.pk))
    assert result.review
    wanted = [caution.id for caution in cautions_at(place, situation_of(result.record, result.review.completed))]
    assert re.findall(r'data-caution="([^"]+)"', html) == wanted


def test_a_change_on_the_demos_fullest_pages_sends_less_than_fifteen_kilobytes(builder: Membership) -> None:
    """With its shelf of some seventy springs, an engine open and twelve valves: what goes out with a change, compressed."""
    from rocklash.demo import load

    load.load()
    build = Build.objects.get(name="Petrel 1498")
    member = Membership.objects.get(workshop=build.workshop, role="builder")
    client = client_for(member, htmx=True)
    three = Build.objects.get(name="Dunlin 598")  # lays three cams over one another
    for each in (build, three):
        client.get(address(each, "motion/"), {"next": address(each, "springs/speed/")})  # the map comes with it
    for system, each in product(("metric", "inch"), (build, three)):
        type(member.user).objects.filter(pk=member.user.pk).update(unit_system=system)
        for page in (
            "",
            "springs/?side=intake",
            "springs/?side=exhaust",
            "springs/speed/",
            "cams/",
            "room/",
            "room/measure/",
            "engine/",
            "goal/",
            "lash/",
        ):
            if system == "inch" and "cams" not in page and "speed" not in page:
                continue  # the longest two in inches
            sent = client.get(address(each, page)).content
            assert len(gzip.compress(sent, 6)) < 15_000, (page, each.name, system)
            assert ("revmap" in sent.decode()) == (page == "springs/speed/")
    for other in Build.objects.filter(workshop=build.workshop):
        for _, ways in client.get(address(other, "")).context["page"].measures:
            for row, _ in ways:  # a spread that is something is not told as nothing
                assert not re.match(r"±0?\.0+ ", row.after), row
