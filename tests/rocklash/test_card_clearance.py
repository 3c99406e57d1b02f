"""A cam's own clearance against the manual's: said, asked, and followed."""

import pytest

from rocklash.answers.clearances import ValveStatus, statuses
from rocklash.answers.results import result_of
from rocklash.answers.rows import side_rows
from rocklash.records.figure_column import stored_figure
from rocklash.records.models import Build, Membership
from rocklash.records.selectors.builds import build_or_404
from tests.rocklash.conftest import address, client_for
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Side
from valvetrain.parts.figure import Basis


@pytest.fixture
def carded(petrel: Build) -> Build:
    """The intake cam's card names 0.30 mm; the manual allows 0.13 to 0.23."""
    cam = side_rows(petrel)["proposed", "intake"].cam
    assert cam
    cam.figures = {**cam.figures, "card_clearance": stored_figure(Owner.CAM, "card_clearance", 0.30e-3, Basis.CARD)}
    cam.save()
    return build_or_404(petrel.workshop, petrel.pk)


def _clearance(build: Build) -> float:
    review = result_of(build_or_404(build.workshop, build.pk)).review
    assert review
    return review.completed.proposed.sides[Side.INTAKE].clearance.value


def test_lash_and_sheet_say_so_and_ask(builder: Membership, petrel: Build, carded: Build) -> None:
    client = client_for(builder)
    page = client.get(address(carded, "lash/")).content.decode()
    assert "The card of the proposed intake cam names 0.30 mm" in page
    assert "Say which counts" in page
    assert 'value="clearance_from_intake"' in page
    assert 'value="clearance_from_exhaust"' not in page
    assert "names 0.30 mm" in client.get(address(carded, "sheet/")).content.decode()


def test_what_counts_moves_limits_and_the_computed_clearance(builder: Membership, carded: Build) -> None:
    for setup in ("stock", "proposed"):
        row = side_rows(carded)[setup, "intake"]
        row.figures = {key: figure for key, figure in row.figures.items() if key != "clearance"}
        row.save()
    client = client_for(builder)
    before = _clearance(carded)
    answer = client.post(
        address(carded, "lash/"), {"act": "fact", "of": "engine", "part": "0", "fact": "clearance_from_intake", "word": "card", "seen": ""}
    )
    assert answer.status_code == 200
    assert _clearance(carded) == pytest.approx(0.30e-3)
    assert before < 0.24e-3
    page = client.get(address(carded, "lash/")).content.decode()
    assert "counts here" in page
    rows = {row.position.name: row for row in _statuses(carded)}
    assert rows["IN 1 fore"].aim == pytest.approx(0.30e-3)
    assert rows["EX 1 fore"].aim < 0.30e-3


def _statuses(build: Build) -> list[ValveStatus]:
    fresh = build_or_404(build.workshop, build.pk)
    return statuses(fresh, None, result_of(fresh))


def test_a_card_within_the_manual_is_nothing_to_speak_of(builder: Membership, petrel: Build) -> None:
    assert "The card of the proposed" not in client_for(builder).get(address(petrel, "lash/")).content.decode()


def test_springs_say_what_the_choice_rests_on(builder: Membership, petrel: Build) -> None:
    """Cam first: with nothing known of it the page says so; the spring that its card names stands beside the proposed one."""
    client = client_for(builder)
    assert "Cam first, then springs" not in client.get(address(petrel, "springs/?side=intake")).content.decode()
    row = side_rows(petrel)["proposed", "intake"]
    assert row.cam
    client.post(address(petrel, f"cams/lobe/{row.cam.pk}/?side=intake"), {"act": "claim", "claim": "two-stage set 7"})
    page = client.get(address(petrel, "springs/?side=intake")).content.decode()
    assert "names this spring: two-stage set 7. Proposed is" in page
    row.cam.figures = {}
    row.cam.save()
    assert "Cam first, then springs" in client.get(address(petrel, "springs/?side=intake")).content.decode()


@pytest.mark.parametrize(("use", "words"), [("road_race", "0.80 mm"), ("street", "1.00 mm"), ("work", "14.0 m/s")])
def test_the_use_says_what_it_sets(builder: Membership, petrel: Build, use: str, words: str) -> None:
    client = client_for(builder)
    client.post(address(petrel, "goal/"), {"act": "use", "use": use, "seen": petrel.use})
    page = client.get(address(petrel, "goal/")).content.decode()
    told = page[page.index("Limits until you type the maker") :]
    assert words in told[: told.index("</p>")]
