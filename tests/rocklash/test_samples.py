"""The sample files beside the imports are read as they stand, by the readers of those imports."""

from pathlib import Path

import pytest
from django.contrib.staticfiles import finders
from django.core.files.uploadedfile import SimpleUploadedFile

from rocklash.records.models import Build, Membership, Reading
from tests.rocklash.conftest import address, client_for
from valvetrain.formats import flow_log, lobe_log, shelf_table, spring_log
from valvetrain.units import UnitSystem


def sample(name: str) -> bytes:
    return Path(str(finders.find(f"samples/{name}.csv"))).read_bytes()


@pytest.mark.parametrize("system", list(UnitSystem))
def test_each_sample_is_read_as_it_stands(system: UnitSystem) -> None:
    """Their headings name the units, so that both readers get the same."""
    lobe = lobe_log.read(sample("degree-wheel").decode(), system=system)
    assert lobe.lift.max() == pytest.approx(9.2e-3, rel=1e-3)
    springs = spring_log.read(sample("spring-tester").decode(), system=system)
    assert len(springs) == 2
    lifts, flows = flow_log.read(sample("flow-bench").decode(), system=system)
    assert (lifts[-1], flows[-1]) == (pytest.approx(9e-3), pytest.approx(123 * 0.3048**3 / 60, rel=1e-6))
    shelf = shelf_table.read_shelf(shelf_table.cells_of(sample("shelf")), system=system)
    assert shelf.troubles == ()
    assert [row.name for row in shelf.rows] == ["HD-48 outer", "Stock single, spare"]
    assert shelf.rows[0].figures["rate"].value == pytest.approx(38400.0)


def test_the_sample_of_a_build_comes_in_as_an_engine_of_its_own(builder: Membership) -> None:
    """The file beside the import of builds goes in as it stands, and is judged."""
    file = SimpleUploadedFile("build.json", Path(str(finders.find("samples/build.json"))).read_bytes())
    answer = client_for(builder).post(f"/shop/{builder.workshop.slug}/import/", {"file": file}, follow=True)
    assert answer.status_code == 200
    build = Build.objects.get(name="Turnstone 207")
    assert client_for(builder).get(address(build, "")).context["page"].sentences


def test_the_sheet_that_is_pasted_is_shown_and_then_kept(builder: Membership, petrel: Build) -> None:
    """Lines as a spreadsheet puts them on the clipboard, parted by tabs, names as on the engine."""
    client, where = client_for(builder), address(petrel, "lash/in/")
    names = [place.name for place in petrel.engine.positions.all()][:3]
    text = "valve\tgoes\tdoes not go\tshim\n" + "".join(f"{name}\t0,20\t0,22\t2,55\n" for name in names)
    page = client.post(where, {"act": "look", "text": text}).content.decode()
    assert "Save 3 readings" in page.replace("\n", " ")
    assert not Reading.objects.exists()
    fields = {"act": "keep", "text": text, "valve": "0", "goes": "1", "stops": "2", "shim": "3"}
    assert "3 readings saved" in client.post(where, fields).content.decode()
    assert [reading.goes for reading in Reading.objects.all()] == [pytest.approx(0.20e-3)] * 3
    assert client.post(where, {"act": "look", "text": ""}).status_code == 422


def test_one_side_is_put_on_the_other_and_the_second_is_told(builder: Membership, petrel: Build) -> None:
    import re

    from rocklash.answers.rows import side_rows
    from rocklash.records.models import JournalEntry, SetupRole
    from rocklash.records.selectors.builds import build_or_404

    client, where = client_for(builder), address(petrel, "springs/?side=intake")
    page = client.get(where).content.decode()
    form = page[page.index('value="same"') - 60 : page.index("on the exhaust side")]
    sent = {"act": "same"} | dict(re.findall(r'name="(row|seen)"\s+value="([^"]*)"', form))
    before = side_rows(build_or_404(petrel.workshop, petrel.pk))
    assert client.post(where, sent).status_code == 200
    rows = side_rows(build_or_404(petrel.workshop, petrel.pk))
    intake, exhaust = rows[SetupRole.PROPOSED, "intake"], rows[SetupRole.PROPOSED, "exhaust"]
    for slot in ("outer_spring", "inner_spring", "retainer", "keepers"):
        assert getattr(exhaust, f"{slot}_id") == getattr(intake, f"{slot}_id")
    assert exhaust.figures.items() >= intake.figures.items()
    assert exhaust.valve_id == before[SetupRole.PROPOSED, "exhaust"].valve_id  # another head, another stem
    assert client.post(where, sent | {"once": "x"}).status_code == 409
    client.post(where, {"act": "undo", "entry": JournalEntry.objects.filter(build=petrel).latest("pk").pk})
    back = side_rows(build_or_404(petrel.workshop, petrel.pk))[SetupRole.PROPOSED, "exhaust"]
    assert back.retainer_id == before[SetupRole.PROPOSED, "exhaust"].retainer_id
