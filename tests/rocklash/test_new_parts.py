"""New parts for the proposed set-up: stock stays, the comparison stays."""

import re
from typing import Any

import pytest

from rocklash.answers.results import result_of
from rocklash.answers.rows import PART_OWNERS, side_rows
from rocklash.commands.builds import keep_record
from rocklash.records.models import Build, JournalEntry, Membership, Part
from rocklash.records.selectors.builds import build_or_404
from tests.rocklash.conftest import address, client_for
from valvetrain.parts.engine import Adjuster, EngineKind, Follower, Gear, Side, Use
from valvetrain.parts.figure import Basis, Figure
from valvetrain.parts.record import BuildRecord, SideRecord
from valvetrain.studies.checks.check import CheckCode


@pytest.fixture
def begun(builder: Membership) -> Build:
    """An engine as it is begun on the page: nothing known of its parts."""
    told = {
        "bore": Figure(0.077, 0.0, Basis.CARD),
        "stroke": Figure(0.0536, 0.0, Basis.CARD),
        "limiter": Figure(13000 / 60, 0.0, Basis.CARD),
    }
    kind = EngineKind(1, 2, Gear.DOHC, Follower.BUCKET, Adjuster.SHIM_UNDER)
    sides = {side: SideRecord() for side in Side}
    return keep_record(builder, BuildRecord("Own", kind, told, {"goal_rpm": Figure(13500 / 60)}, Use.MOTOCROSS, (), sides, sides))


def _floats(build: Build) -> dict[str, float]:
    review = result_of(build_or_404(build.workshop, build.pk)).review
    assert review
    found = {}
    for name, assessment in (("stock", review.stock), ("proposed", review.proposed)):
        found |= {f"{name} {check.side}": check.figure for check in assessment.checks if check.code is CheckCode.FLOAT}
    return found


def _hidden(page: str) -> dict[str, str]:
    return dict(re.findall(r'<input type="hidden" name="(row|slot|seen)" value="([^"]*)"', page))


def _new(builder: Membership, build: Build, slot: str, side: str = "intake", **data: str) -> Any:
    client, where = client_for(builder), f"{address(build, 'springs/new/')}{slot}/?side={side}"
    return client.post(where, {"act": "new", **_hidden(client.get(where).content.decode()), **data})


def test_a_lighter_retainer_moves_float_and_not_stock(builder: Membership, begun: Build) -> None:
    before = _floats(begun)
    answer = _new(builder, begun, "retainer", name="Titanium, 4.4 g", mass="4.4", basis="measured", both="on")
    assert answer.status_code == 302
    assert answer.url.endswith("springs/?side=intake")
    after = _floats(begun)
    for side in Side:
        assert after[f"stock {side}"] == pytest.approx(before[f"stock {side}"], rel=1e-9)
        assert after[f"proposed {side}"] > 1.005 * before[f"proposed {side}"]


def test_a_spring_of_the_packet_is_put_in_and_undone(builder: Membership, begun: Build) -> None:
    rows = side_rows(begun)
    stock = rows["stock", "intake"].outer_spring
    assert stock
    _new(builder, begun, "outer_spring", name="Kit", seat_load="240", rate="41", solid_height="21", basis="card")
    row = side_rows(build_or_404(begun.workshop, begun.pk))["proposed", "intake"]
    assert row.outer_spring
    assert row.outer_spring.name == "Kit"
    assert row.outer_spring.engine_id == begun.engine_id
    assert set(row.outer_spring.figures) == {"seat_load", "rate", "solid_height"}
    stock.refresh_from_db()
    assert stock.figures == {}
    client_for(builder).post(address(begun, "springs/"), {"act": "undo", "entry": _last_entry(begun)})
    row.refresh_from_db()
    assert row.outer_spring_id == stock.pk
    assert not Part.objects.filter(name="Kit").exists()


def _last_entry(build: Build) -> str:
    entry = JournalEntry.objects.filter(build=build).latest("pk")
    return str(entry.pk)


@pytest.mark.parametrize("slot", sorted(set(PART_OWNERS) - {"low_cam", "inner_spring"}))
def test_every_kind_of_part_can_be_copied_and_changed(builder: Membership, begun: Build, slot: str) -> None:
    client, where = client_for(builder), f"{address(begun, 'springs/new/')}{slot}/?side=exhaust"
    page = client.get(where).content.decode()
    assert "This is also the stock part" in page
    assert client.post(where, {"act": "copy", **_hidden(page)}).status_code == 302
    rows = side_rows(build_or_404(begun.workshop, begun.pk))
    copy, stock = getattr(rows["proposed", "exhaust"], slot), getattr(rows["stock", "exhaust"], slot)
    assert copy.pk != stock.pk
    assert copy.name == f"{stock.name}, changed"
    assert getattr(rows["proposed", "intake"], slot) == getattr(rows["stock", "intake"], slot)


@pytest.mark.parametrize(
    ("slot", "data", "words"),
    [
        ("retainer", {"name": "", "mass": "5"}, "Give it a name"),
        ("retainer", {"name": "R", "mass": "5 kg"}, "Is the unit right"),
        ("retainer", {"name": "R", "mass": "light"}, "is not a mass"),
        ("outer_spring", {"name": "S", "load_height": "33"}, "type the load at that height"),
        ("outer_spring", {"name": "S", "load": "200", "load_height": "30", "solid_height": "31"}, "one of the two is wrong"),
    ],
)
def test_a_part_that_cannot_be_is_refused_and_stays_typed(
    builder: Membership, begun: Build, slot: str, data: dict[str, str], words: str
) -> None:
    before = Part.objects.count()
    answer = _new(builder, begun, slot, **data)
    assert answer.status_code == 422
    assert words in answer.content.decode()
    assert all(f'value="{value}"' in answer.content.decode() for value in data.values() if value)
    assert Part.objects.count() == before


def test_somebody_else_was_there_first(builder: Membership, begun: Build) -> None:
    row = side_rows(begun)["proposed", "intake"]
    where = f"{address(begun, 'springs/new/')}retainer/?side=intake"
    sent = {"act": "new", "row": row.pk, "slot": "retainer", "seen": "999999", "name": "R", "mass": "5"}
    answer = client_for(builder).post(where, sent)
    assert answer.status_code == 409
    assert "Meanwhile this became" in answer.content.decode()


def test_a_shared_part_says_so_before_it_is_changed(builder: Membership, begun: Build) -> None:
    """A shelf part that two builds have names the other one."""
    shelf = Part.objects.create(workshop=begun.workshop, kind="retainer", name="Light")
    other = keep_record(
        builder, BuildRecord("Other", EngineKind(1, 2, Gear.DOHC, Follower.BUCKET, Adjuster.SHIM_UNDER), {}, {}, Use.STREET, (),
                             {side: SideRecord() for side in Side}, {side: SideRecord() for side in Side}),
    )  # fmt: skip
    for build in (begun, other):
        row = side_rows(build)["proposed", "intake"]
        row.retainer = shelf
        row.save()
    page = client_for(builder).get(address(begun, "springs/?side=intake&figures=all")).content.decode()
    assert "Also in Other: a change counts there too." in page
    assert "Also in Own" not in page
