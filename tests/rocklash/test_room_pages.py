"""The Room station: pages, readings, over-revs, inspection, gearing; and what is refused."""

import json
import re

import numpy as np
import pytest

from rocklash.answers.gaps import room_answer, room_map
from rocklash.answers.results import result_of
from rocklash.answers.rows import record_of
from rocklash.records.models import Build, Engine, GapReading, InspectionFinding, JournalEntry, Membership, OverRevCase
from rocklash.records.selectors.builds import build_or_404
from rocklash.ui.drawings import phaser_map, room_section
from rocklash.ui.drawings.phaser_map import PhaserMapData
from rocklash.ui.drawings.room_section import SectionData, SectionValve
from tests.rocklash.conftest import address, client_for
from valvetrain.parts.engine import Side
from valvetrain.studies.gaps.piston import crank_grid
from valvetrain.studies.train.assembly import complete

MEASURE, OVER = "room/measure/", "room/over-rev/"


def _valve(build: Build, side: str = "intake") -> str:
    place = build.engine.positions.filter(side=side).first()
    assert place
    return str(place.pk)


def _read(build: Build, **more: str) -> dict[str, str]:
    return {"act": "read", "valve": _valve(build), "gap": "piston_to_valve", "way": "clay", "readings": "1.62"} | more


def test_the_first_page_answers_first_and_draws(builder: Membership, petrel: Build) -> None:
    page = client_for(builder).get(address(petrel, "room/"))
    html = page.content.decode()
    assert "tightest is intake valve to piston" in html
    assert html.count('data-valve-side="') == 2
    for words in (
        "Valve to piston",
        "Valve to valve",
        "Valve to bore",
        "Coil bind, outer",
        "Retainer to seal",
        "gap between inner and outer spring",
        "stop, early",
    ):
        assert words in html
    told = json.loads(re.search(r'<script id="room-data" type="application/json">(.+?)</script>', html).group(1))  # type: ignore[union-attr]
    one, *bends = map(int, told["sides"]["intake"]["lift"].split())
    lifts, crank = np.cumsum(np.cumsum(bends)) / one, told["low"] + told["step"] * np.arange(len(bends))
    train = complete(record_of(build_or_404(petrel.workshop, petrel.pk))).proposed.sides[Side.INTAKE]
    # the section stands where least is left over the phaser's range: the lift of the core's curve at an advance within it
    curve = np.maximum(train.curve.lift - train.clearance.value, 0.0)
    at = [np.interp((np.radians(crank + advance) - train.lobe_centre.value) / 2.0, train.curve.angle, curve) * 1e3 for advance in range(21)]
    assert min(np.abs(lifts - each).max() for each in at) < 0.02
    assert told["unit"] == "mm"
    assert "EX 2 aft" in html  # valve by valve
    fragment = client_for(builder, htmx=True).get(address(petrel, "room/"))
    assert b"<html" not in fragment.content


def test_clay_is_kept_as_typed_and_wins(builder: Membership, petrel: Build) -> None:
    answer = client_for(builder).post(address(petrel, MEASURE), _read(petrel))
    assert answer.status_code == 200
    row = GapReading.objects.get(way="clay")
    assert (row.value, row.typed, row.angle) == (pytest.approx(1.62e-3), "1.62", None)
    review = result_of(build_or_404(petrel.workshop, petrel.pk)).review
    assert review
    # clay is turned through with the phaser at rest; through its range less is left
    least = review.room.pistons[Side.INTAKE]
    assert least.rest.how == "clay"
    assert least.value < 0.5e-3
    assert "piston_to_valve" in {check.code.value for check in review.proposed.checks}


def test_a_drop_test_line_by_line_and_read_again(builder: Membership, petrel: Build) -> None:
    client = client_for(builder)
    lines = "-10  5.2\n0; 4.6\n10,4.4\n\N{MINUS SIGN}20 0.25in"
    client.post(address(petrel, MEASURE), _read(petrel, way="drop test", readings=lines))
    rows = GapReading.objects.filter(way="drop test", position__side="intake")
    assert sorted(round(row.value * 1e3, 2) for row in rows) == [4.4, 4.6, 5.2, 6.35]
    again = client.post(address(petrel, MEASURE), _read(petrel, way="drop test", readings="0 4.5\n8 4.3"))
    assert again.status_code == 200, again.context["refused"]
    assert rows.all().count() == 2
    client.post(address(petrel, MEASURE), {"act": "drop", "reading": str(rows.all()[0].pk)})
    assert rows.all().count() == 1


@pytest.mark.parametrize(
    ("more", "words"),
    [
        ({"readings": ""}, "Nothing is typed"),
        ({"readings": "abc"}, "is not a length"),
        ({"readings": "-10 1.8\nten 2"}, "Line 2"),
        ({"way": "drop test"}, "a crank angle before each gap"),
        ({"readings": "-10 1.8"}, "one thickness"),
        ({"way": "drop test", "readings": "170 1.8"}, "far from TDC"),
        ({"readings": "120"}, "unit right"),
        ({"gap": "nothing"}, "Choose one of: valve to piston"),
        ({"readings": "\n".join(["1 1"] * 60)}, "too many"),
    ],
)
def test_readings_that_are_refused_stay_in_the_field(builder: Membership, petrel: Build, more: dict[str, str], words: str) -> None:
    before = GapReading.objects.count()
    answer = client_for(builder).post(address(petrel, MEASURE), _read(petrel, **more))
    assert answer.status_code == 422
    assert words in answer.content.decode()
    assert (more.get("readings") or "").split("\n")[0] in answer.content.decode()
    assert GapReading.objects.count() == before


def test_geometry_that_cannot_be_is_rolled_back(builder: Membership, petrel: Build) -> None:
    seen = "0.0395 measured"
    data = {"holder": "engine", "key": "pocket_diameter_intake", "text": "33", "basis": "measured", "seen": seen}
    answer = client_for(builder).post(address(petrel, MEASURE), data)
    assert answer.status_code == 422
    assert "would not go in" in answer.content.decode()
    assert Engine.objects.get(pk=petrel.engine_id).figures["pocket_diameter_intake"]["value"] == pytest.approx(39.5e-3)


def test_rods_set_limits(builder: Membership, petrel: Build) -> None:
    client = client_for(builder)
    assert client.post(address(petrel, MEASURE), {"act": "rods", "word": "aluminium", "seen": ""}).status_code == 200
    review = result_of(build_or_404(petrel.workshop, petrel.pk)).review
    assert review
    assert review.completed.goal.limits["piston_gap_limit_intake"] == pytest.approx(2.0e-3)
    refused = client.post(address(petrel, MEASURE), {"act": "rods", "word": "titanium", "seen": ""})
    assert "Meanwhile this became" in refused.content.decode()
    assert client.post(address(petrel, MEASURE), {"act": "rods", "word": "wood", "seen": ""}).status_code == 422


def _case(client: object, petrel: Build, **more: str) -> object:
    return client.post(address(petrel, OVER), {"act": "begin", "before": "8,000", "gear_from": "1.45", "gear_to": "1.74"} | more)  # type: ignore[attr-defined]


def test_an_over_rev_is_judged_and_inspected_to_the_signature(builder: Membership, petrel: Build) -> None:
    client = client_for(builder)
    assert _case(client, petrel).status_code == 200  # type: ignore[attr-defined]
    case = OverRevCase.objects.get()
    waiting = client.get(address(petrel, OVER)).content.decode()
    assert "computing how the valves moved" in waiting
    assert "reached" in waiting  # on the rev ladder
    page = client.get(address(petrel, OVER) + f"?case={case.pk}&motions=1")
    html = page.content.decode()
    assert "Do not start it" in html
    assert "8,640 to 9,600 rpm" in html
    view = page.context["page"]
    assert {row.title for row in view.rows} >= {"Intake contact", "Exhaust valve to piston", "Piston speed"}
    early = client.post(address(petrel, OVER), {"act": "close", "case": str(case.pk)})
    assert early.status_code == 422
    assert "Nothing was signed" in early.content.decode()
    for step in view.steps:
        data = {"act": "found", "case": str(case.pk), "step": step.key, "finding": step.options[1][0], "seen": ""}
        assert client.post(address(petrel, OVER), data).status_code == 200
    assert client.get(address(petrel, OVER)).context["page"].state == "clear"
    client.post(address(petrel, OVER), {"act": "close", "case": str(case.pk)})
    case.refresh_from_db()
    assert case.closed_by == builder.user
    late = client.post(address(petrel, OVER), {"act": "found", "case": str(case.pk), "step": "drive", "finding": "jumped", "seen": "marks"})
    assert "is signed" in late.content.decode()


def test_one_grave_finding_stops_it_and_two_people_notice_one_another(builder: Membership, petrel: Build) -> None:
    client = client_for(builder)
    _case(client, petrel)
    case = OverRevCase.objects.get()
    data = {"act": "found", "case": str(case.pk), "step": "crown-2", "finding": "kissed", "seen": ""}
    client.post(address(petrel, OVER), data)
    page = client.get(address(petrel, OVER))
    assert page.context["page"].state == "stop"
    assert "It does not run: cylinder 2" in page.content.decode()
    other = client.post(address(petrel, OVER), data | {"finding": "clean"})
    assert "somebody else found" in other.content.decode()
    assert InspectionFinding.objects.get().finding == "kissed"
    client.post(address(petrel, OVER), data | {"finding": "", "seen": "kissed"})
    assert not InspectionFinding.objects.exists()


@pytest.mark.parametrize(
    ("more", "words"),
    [
        ({"gear_to": "1.2"}, "slows down"),
        ({"gear_to": ""}, "Give the logged peak"),
        ({"before": "fast"}, "is not an engine speed"),
        ({"gear_to": "9.9"}, "Are the ratios right?"),
        ({"peak": "90"}, "Is the unit right?"),
        ({"before": "", "road": "96 km/h"}, "the front sprocket"),
        ({"before": "", "road": "fast"}, "is not a road speed"),
    ],
)
def test_over_revs_that_are_refused(builder: Membership, petrel: Build, more: dict[str, str], words: str) -> None:
    answer = _case(client_for(builder), petrel, **more)
    assert answer.status_code == 422  # type: ignore[attr-defined]
    assert words in answer.content.decode()  # type: ignore[attr-defined]
    assert not OverRevCase.objects.exists()


def test_gearing_of_a_craft_and_of_a_road_machine(builder: Membership, petrel: Build) -> None:
    client = client_for(builder)
    page = client.get(address(petrel, "room/gearing/")).context["page"]
    assert page.kind == "on the water"
    assert page.rows[0].gear == "impeller"
    client.post(address(petrel, "room/gearing/"), {"holder": "goal", "key": "road_speed", "text": "80", "basis": "card", "seen": "none"})
    assert "That speed takes" in client.get(address(petrel, "room/gearing/")).content.decode()


def test_every_mutation_is_in_the_journal(builder: Membership, petrel: Build) -> None:
    client = client_for(builder)
    before = JournalEntry.objects.count()
    client.post(address(petrel, MEASURE), _read(petrel))
    _case(client, petrel)
    assert JournalEntry.objects.count() == before + 2
    assert set(JournalEntry.objects.order_by("-pk")[:2].values_list("verb", flat=True)) == {"gap", "over-rev"}


def test_curves_and_maps_fit_together(petrel: Build) -> None:
    answer = result_of(build_or_404(petrel.workshop, petrel.pk))
    found, mapped = room_answer(answer), room_map(answer, Side.INTAKE, "piston")
    assert found
    assert mapped
    assert mapped.gaps.shape == (41, len(mapped.angles))
    least = found.room.pistons[Side.INTAKE]
    assert float(found.sides[Side.INTAKE].gap.min()) == pytest.approx(least.value, abs=5e-6)
    row = int(np.abs(mapped.advances - least.advance).argmin())
    assert float(mapped.gaps[row].min()) == pytest.approx(least.value, abs=0.1e-3)
    at_rest = room_answer(answer, "rest")
    assert at_rest
    assert float(at_rest.sides[Side.INTAKE].gap.min()) > least.value
    assert len(crank_grid()) == 721


def test_section_is_to_scale_and_moves_along_the_stem() -> None:
    valve = SectionValve(
        side="intake",
        angle=12.0,
        offset=18.0,
        height=1.0,
        head=32.0,
        margin=1.0,
        stem=6.0,
        pocket=2.0,
        pocket_angle=12.0,
        pocket_across=35.0,
    )
    drawn = room_section.draw(
        SectionData(
            90.0,
            0.2,
            0.8,
            (
                valve,
                SectionValve(
                    side="exhaust",
                    angle=12.0,
                    offset=17.0,
                    height=1.0,
                    head=28.0,
                    margin=1.0,
                    stem=6.0,
                    pocket=0.0,
                    pocket_angle=12.0,
                    pocket_across=31.0,
                ),
            ),
        )
    )
    way = drawn.valves[0].way
    assert np.hypot(*way) == pytest.approx(drawn.scale, abs=0.01)
    assert way[0] < 0 < way[1]  # opening, an intake valve moves inwards and down
    assert drawn.valves[1].way[0] > 0


def test_map_bands_follow_the_limit() -> None:
    advances, angles = np.linspace(-10, 10, 5), np.linspace(-20, 20, 9)
    gaps = np.full((5, 9), 9.0)
    gaps[4, 4], gaps[3, 4], gaps[2, 4] = -0.5, 0.5, 1.5
    drawn = phaser_map.draw(PhaserMapData(advances, angles, gaps, 1.0, ((0.0, "g-rest", "rest"),)))
    assert [band for band, _ in drawn.areas] == ["meet", "under", "near"]
    assert drawn.stops[0][2] == "1.5"


def test_the_map_of_sprockets_tells_what_the_table_tells(builder: Membership, petrel: Build) -> None:
    """Each cell is the speed of the driveline with those two sprockets on, worked out by the core anew."""
    from dataclasses import replace

    from rocklash.answers.gearing import driveline_of
    from rocklash.answers.results import result_of
    from rocklash.records.selectors.builds import build_or_404
    from rocklash.stations.room.pages.gearing import gearing_page
    from valvetrain.units import QuantityKind, UnitSystem, show

    figures = {"front_teeth": 13, "rear_teeth": 48, "rolling": 2.02, "gear_1": 2.1, "gear_2": 1.4, "gear_3": 1.05, "tyre_growth": 0.02}
    petrel.engine.figures = {key: row for key, row in petrel.engine.figures.items() if not key.startswith("impeller")} | {
        key: {"value": value, "spread": 0.0, "basis": "card"} for key, value in figures.items()
    }
    petrel.engine.facts = petrel.engine.facts | {"machine": "gearbox"}
    petrel.engine.save()
    build = build_or_404(petrel.workshop, petrel.pk)
    answer = result_of(build)
    page = gearing_page(answer, build, UnitSystem.METRIC, None)
    assert page
    assert page.map_heads == [str(teeth) for teeth in range(44, 53)]
    on = [
        (front, rear, word) for front, cells in page.map_rows for rear, (_, word) in zip(page.map_heads, cells, strict=True) if word == "on"
    ]
    assert on == [("13", "48", "on")]
    for front, cells in page.map_rows:
        for rear, (speed, _) in list(zip(page.map_heads, cells, strict=True))[::3]:
            engine = answer.record.engine | {
                "front_teeth": replace(answer.record.engine["front_teeth"], value=float(front)),
                "rear_teeth": replace(answer.record.engine["rear_teeth"], value=float(rear)),
            }
            assert answer.review
            changed = replace(
                answer,
                review=replace(
                    answer.review, completed=replace(answer.review.completed, engine=dict(answer.review.completed.engine) | engine)
                ),
            )
            assert speed == show(driveline_of(changed).lines[-1].speeds[1], QuantityKind.ROAD, UnitSystem.METRIC)
