"""An engine is more than its valves: papers, maker's figures with their page, photographs, a layout that was wrong."""

import io
import json

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from rocklash.records.figure_column import fingerprint
from rocklash.records.models import Build, Engine, JournalEntry, Membership, Photo
from rocklash.stations.engine.commands import CorrectLayout, KeepIdentity, seen_of
from tests.rocklash.conftest import address, client_for

PAPERS = "engine/papers/"


def _jpeg(width: int = 640, height: int = 480) -> bytes:
    """A picture with a place and a camera written beside it."""
    picture = Image.new("RGB", (width, height), (120, 90, 40))
    exif = picture.getexif()
    exif[0x010F] = "SOME CAMERA"
    exif[0x0112] = 6  # lies on its side
    exif.get_ifd(0x8825)[2] = (54.0, 1.0, 2.0)
    out = io.BytesIO()
    picture.save(out, "JPEG", exif=exif)
    return out.getvalue()


def _send(member: Membership, build: Build, data: bytes, name: str = "head.jpg") -> object:
    sent = {"act": "photo", "caption": "cables as they ran", "file": SimpleUploadedFile(name, data)}
    return client_for(member).post(address(build, PAPERS), sent)


def test_a_photograph_is_made_anew_and_private(builder: Membership, stranger: Membership, petrel: Build) -> None:
    raw = _jpeg()
    assert b"SOME CAMERA" in raw
    assert _send(builder, petrel, raw).status_code == 200  # type: ignore[attr-defined]
    photo = Photo.objects.get()
    kept = bytes(photo.data)
    assert b"SOME CAMERA" not in kept
    with Image.open(io.BytesIO(kept)) as picture:
        assert not picture.getexif()
        assert picture.size == (photo.width, photo.height) == (480, 640)  # upright
    where = address(petrel, f"engine/photo/{photo.pk}.jpg")
    answer = client_for(builder).get(where)
    assert (answer.status_code, answer["Content-Type"], answer.content) == (200, "image/jpeg", kept)
    assert "private" in answer["Cache-Control"]
    assert client_for(stranger).get(where).status_code == 404
    assert "cables as they ran" in client_for(builder).get(address(petrel, PAPERS)).content.decode()
    client_for(builder).post(address(petrel, PAPERS), {"act": "drop photo", "photo": str(photo.pk)})
    assert not Photo.objects.exists()
    assert set(JournalEntry.objects.filter(build=petrel, verb__startswith="photograph").values_list("reversible", flat=True)) == {False}


def test_a_large_photograph_is_made_smaller(builder: Membership, petrel: Build) -> None:
    _send(builder, petrel, _jpeg(4000, 2500))
    photo = Photo.objects.get()
    assert max(photo.width, photo.height) == 1600


@pytest.mark.parametrize(
    "data",
    [b"", b"not a picture", b"\xff\xd8\xff\xe0" + b"\x00" * 200, b"<svg xmlns='http://www.w3.org/2000/svg'><script/></svg>", b"GIF89a" + b"\x00" * 100, _jpeg()[:300]],
    ids=["nothing", "text", "cut JPEG", "svg", "gif", "half a JPEG"],
)  # fmt: skip
def test_a_photograph_that_is_none_is_a_sentence(builder: Membership, petrel: Build, data: bytes) -> None:
    answer = _send(builder, petrel, data)
    assert answer.status_code == 422  # type: ignore[attr-defined]
    html = answer.content.decode()  # type: ignore[attr-defined]
    assert "no photograph that can be read" in html or "Choose a photograph first" in html
    assert "cables as they ran" in html  # nothing typed is lost
    assert not Photo.objects.exists()


def test_papers_are_kept_and_stay_in_the_workshop(builder: Membership, petrel: Build) -> None:
    client, seen = client_for(builder), seen_of(petrel.engine, *KeepIdentity.columns)
    sent = {"act": "identity", "seen": seen, "serial": "PT-0077", "owner": "Harbour rescue", "manual": "Workshop manual, 3rd"}
    assert client.post(address(petrel, PAPERS), sent).status_code == 200
    engine = Engine.objects.get(pk=petrel.engine_id)
    assert (engine.serial, engine.owner) == ("PT-0077", "Harbour rescue")
    assert "Harbour rescue" not in client.get(address(petrel, "file.json")).content.decode()
    assert "Harbour rescue" not in json.dumps(list(JournalEntry.objects.values_list("about", "before", "after")))
    assert client.post(address(petrel, PAPERS), sent | {"owner": "Other"}).status_code == 409


def test_a_makers_figure_has_its_page(builder: Membership, petrel: Build) -> None:
    client = client_for(builder)
    key = "torque_cam_cap"
    sent = {"holder": "engine", "key": key, "text": "12 Nm", "basis": "maker", "seen": fingerprint(petrel.engine.figures, key)}
    assert client.post(address(petrel, PAPERS), sent).status_code == 200
    assert (
        client.post(address(petrel, PAPERS), {"act": "page", "holder": "engine", "key": key, "seen": "", "page": "5-12"}).status_code == 200
    )
    figure = Engine.objects.get(pk=petrel.engine_id).figures[key]
    assert (figure["basis"], figure["page"]) == ("maker", "5-12")
    assert 'value="5-12"' in client.get(address(petrel, PAPERS)).content.decode()
    assert client.get(address(petrel)).status_code == 200  # the core reads it as any other figure
    assert (
        client.post(address(petrel, PAPERS), {"act": "page", "holder": "engine", "key": "bore", "seen": "", "page": "1"}).status_code == 422
    )


def test_displacement_follows_from_bore_and_stroke(builder: Membership, petrel: Build) -> None:
    """Three of 96 x 69 mm: 1,498 cm3, after which it is called."""
    assert "1498.3 cm³, computed" in client_for(builder).get(address(petrel, PAPERS)).content.decode()


def _layout(build: Build, **more: str) -> dict[str, str]:
    engine = Engine.objects.get(pk=build.engine_id)
    seen = seen_of(engine, *CorrectLayout.columns)
    return {"act": "layout", "seen": seen, **{name: str(getattr(engine, name)) for name in CorrectLayout.columns}, **more}


def test_a_layout_is_corrected_after_it_was_told_what_that_changes(builder: Membership, petrel: Build) -> None:
    client, where = client_for(builder), address(petrel, "engine/")
    asked = client.post(where, _layout(petrel, follower="finger", adjuster="shim_on_stem"))
    assert asked.status_code == 422
    assert "lift through the follower" in asked.content.decode()
    assert "Yes, correct" in asked.content.decode()
    assert Engine.objects.get(pk=petrel.engine_id).follower == "bucket"
    assert client.post(where, _layout(petrel, follower="finger", adjuster="shim_on_stem", sure="yes")).status_code == 200
    assert Engine.objects.get(pk=petrel.engine_id).follower == "finger"
    wrong = client.post(where, _layout(petrel, gear="side_valve", sure="yes"))
    assert wrong.status_code == 422
    assert "With this gear it is" in wrong.content.decode()


def test_valves_are_laid_anew_only_while_nothing_was_read(builder: Membership, petrel: Build) -> None:
    client, where = client_for(builder), address(petrel, "engine/")
    refused = client.post(where, _layout(petrel, cylinders="4", sure="yes"))
    assert "Something was read at the valves" in refused.content.decode()
    petrel.gap_readings.all().delete()
    for row in petrel.setups.all():
        for side in row.sides.all():
            side.valve_fits.all().delete()
    assert client.post(where, _layout(petrel, cylinders="4", sure="yes")).status_code == 200
    assert Engine.objects.get(pk=petrel.engine_id).positions.count() == 16


def test_what_stands_in_the_manual_is_its_makers(builder: Membership, petrel: Build) -> None:
    """A torque that is typed is the maker's without a choice; a clearance can be said to be."""
    client = client_for(builder)
    html = client.get(address(petrel, PAPERS)).content.decode()
    cut = html[html.index('value="torque_cam_cap"') :]
    assert 'name="basis" value="maker"' in cut[: cut.index("</form>")].replace("\n", " ")
    html = client.get(address(petrel, "engine/")).content.decode()
    cut = html[html.index('value="clearance_intake_least"') :]
    assert '<option value="maker"' in cut[: cut.index("</form>")]
