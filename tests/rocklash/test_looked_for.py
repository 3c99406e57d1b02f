"""What a builder looks for: catalogue lines, .050 in, the piston gap beside the cam, the clay, and the sheet's figures for the bench."""

import re

import pytest

from rocklash.answers.rows import side_rows
from rocklash.records.figure_column import stored_figure
from rocklash.records.models import Build, Membership
from tests.rocklash.conftest import address, client_for
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.figure import Basis


def test_two_springs_at_the_same_two_heights(builder: Membership, petrel: Build) -> None:
    client = client_for(builder)
    page = client.get(address(petrel, "springs/?side=intake")).context["page"]
    assert [name for name, _ in page.catalogue.rows] == ["stock", "proposed"]
    asked = client.get(address(petrel, "springs/?side=intake&h1=38&h2=30")).context["page"]
    assert asked.catalogue.heights == ["38.00", "30.00"]
    stock, proposed = (dict(asked.catalogue.rows)[name] for name in ("stock", "proposed"))
    assert float(proposed[4]) > float(stock[4])
    assert float(proposed[5]) > float(stock[5]) > float(stock[4])
    assert client.get(address(petrel, "springs/?side=intake&h1=9**9&h2=two")).status_code == 200


def test_cams_tell_fifty_thousandths_and_the_piston(builder: Membership, petrel: Build) -> None:
    html = client_for(builder).get(address(petrel, "cams/?side=intake")).content.decode()
    assert "Duration at 1.00 mm" in html
    assert "Duration at 1.27 mm" in html
    assert re.search(r"Piston to intake valve with the proposed cam: \d\.\d\d mm ±\d\.\d\d mm, \d+° (after|before) TDC of overlap", html)


def test_room_says_where_the_clay_goes(builder: Membership, petrel: Build) -> None:
    html = client_for(builder).get(address(petrel, "room/measure/")).content.decode()
    assert "Put the clay first under" in html
    assert "TDC of overlap" in html


@pytest.fixture
def told(petrel: Build) -> Build:
    """A torque with its page, chain pins, an own shim under one valve, and keyhole retainers on the intake side."""
    engine = petrel.engine
    torque = stored_figure(Owner.ENGINE, "torque_cam_cap", 12.0, Basis.MAKER)
    engine.figures = {
        **engine.figures,
        "torque_cam_cap": {**torque, "page": "5-12"},
        "chain_pins": stored_figure(Owner.ENGINE, "chain_pins", 15.0, Basis.MEASURED),
    }
    engine.serial = "PT-0077"
    engine.save()
    retainer = side_rows(petrel)["proposed", "intake"].retainer
    assert retainer
    retainer.facts = {"held_by": "keyhole"}
    retainer.save()
    return petrel


def test_the_sheet_is_enough_at_the_bench(builder: Membership, told: Build) -> None:
    html = client_for(builder).get(address(told, "sheet/")).content.decode()
    for words in (
        "Cam caps, torque",
        "12.0 N m, page 5-12",
        "Intake lobe centre",
        "Chain pins between the marks",
        "PT-0077",
        "Done by",
        "Crank positions",
    ):
        assert words in html, words
    job = client_for(builder).get(address(told, "sheet/")).context["page"].job
    counts = dict(job.counts)
    assert counts["valves"] == counts["seals"] == 12
    same = side_rows(told)["proposed", "intake"].retainer_id == side_rows(told)["proposed", "exhaust"].retainer_id
    assert counts.get("keeper halves", 0) == (0 if same else 12)
    assert len(job.standing) == 12
    assert [len(valves.split(", ")) for _, valves in job.stops]


def test_no_torque_is_invented(builder: Membership, petrel: Build) -> None:
    html = client_for(builder).get(address(petrel, "sheet/")).content.decode()
    assert "by the manual: none was entered" in html
    assert "N m" not in html
