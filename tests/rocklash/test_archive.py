"""Everything of a build, or of a workshop, out and in again: the same to the last byte, in the same workshop and in another; refusals name their place."""

import io
import json
import random
import zipfile
from collections.abc import Callable
from typing import Any

import pytest
from django.apps import apps
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client

from rocklash.answers.archive.reading import read
from rocklash.answers.archive.tables import BY_NAME, NEVER
from rocklash.answers.archive.writing import written, zipped
from rocklash.demo import load
from rocklash.records.models import Build, Engine, JournalEntry, Membership, Part, RunEntry, ShimStock, User, Workshop
from tests.rocklash.conftest import PAGES, address, client_for
from valvetrain.errors import BuildFileError


def bring(client: Client, shop: str, raw: bytes, name: str = "x.zip") -> Any:
    return client.post(f"/shop/{shop}/import/", {"file": SimpleUploadedFile(name, raw)})


def entries(raw: bytes) -> dict[str, bytes]:
    with zipfile.ZipFile(io.BytesIO(raw)) as file:
        return {name: file.read(name) for name in file.namelist()}


def changed(raw: bytes, name: str, change: Callable[[Any], Any]) -> bytes:
    held = entries(raw)
    content = json.loads(held[name])
    content = change(content) or content
    held[name] = json.dumps(content).encode()
    return zipped(held)


def test_every_table_is_in_a_file_or_is_said_to_be_in_none() -> None:
    assert {model._meta.model_name for model in apps.get_app_config("records").get_models()} == set(BY_NAME) | NEVER


@pytest.fixture
def scenario(stranger: Membership) -> Workshop:
    load.load()
    return Workshop.objects.get(slug="skerrow")


@pytest.mark.slow
def test_all_of_the_scenario_out_and_in_again_here_and_elsewhere(scenario: Workshop, stranger: Membership) -> None:
    owner = Membership.objects.get(workshop=scenario, role="owner")
    with_all = 0
    for build in list(Build.objects.filter(workshop=scenario)):
        out = written(scenario, build)
        assert out == written(scenario, build)
        for member in (owner, stranger):
            answer = bring(client_for(member), member.workshop.slug, out)
            assert answer.status_code == 302, answer.content
            copy = Build.objects.latest("pk")
            assert copy.workshop == member.workshop
            again = written(member.workshop, copy)
            assert entries(again) == entries(out), build.name
            assert again == out
        with_all += len(entries(out))
        if build.engine.owner:
            assert all(build.engine.owner.encode() not in entry for entry in entries(out).values())
    assert with_all > 100
    client = client_for(stranger)
    brought = list(Build.objects.filter(workshop=stranger.workshop))
    for number, build in enumerate(brought):
        for page in PAGES[number :: len(brought)]:  # every page once, each on another engine
            assert client.get(address(build, page)).status_code == 200, (build, page)


def test_a_whole_workshop_goes_into_an_empty_one(scenario: Workshop, stranger: Membership, builder: Membership) -> None:
    owner = Membership.objects.get(workshop=scenario, role="owner")
    answer = client_for(owner).get("/shop/skerrow/everything.zip")
    assert answer.status_code == 200
    assert client_for(Membership.objects.get(workshop=scenario, role="builder")).get("/shop/skerrow/everything.zip").status_code == 403
    assert client_for(stranger).get("/shop/skerrow/everything.zip").status_code == 404
    assert bring(client_for(owner), "skerrow", answer.content).status_code == 422  # not into one that holds something
    assert bring(client_for(stranger), "other", answer.content).status_code == 302
    other = Workshop.objects.get(slug="other")
    there, here = entries(written(other)), entries(answer.content)
    manifest, wanted = json.loads(there.pop("manifest.json")), json.loads(here.pop("manifest.json"))
    assert manifest["people"] == [
        *wanted["people"],
        "sam",
    ]  # who brought it in stands in the last line of the journal, and nothing else is new
    lines = json.loads(there.pop("rows/journalentry.json"))
    assert lines[-1]["verb"] == "brought in"
    assert lines[:-1] == json.loads(here.pop("rows/journalentry.json"))
    assert {**manifest["workshop"], "name": ""} == {**wanted["workshop"], "name": ""}
    assert there == here
    assert ShimStock.objects.filter(workshop=other).count() == ShimStock.objects.filter(workshop=scenario).count()
    assert client_for(stranger).get("/shop/other/").status_code == 200


def test_no_file_puts_words_into_a_members_mouth(petrel: Build, owner: Membership, stranger: Membership, builder: Membership) -> None:
    RunEntry.objects.create(build=petrel, made_on="2027-01-02", seconds=3600.0, by=builder.user)
    out = changed(
        written(petrel.workshop, petrel),
        "manifest.json",
        lambda told: told | {"people": ["sam" if name == "bert" else name for name in told["people"]]},
    )
    assert bring(client_for(stranger), "other", out).status_code == 302
    entry = RunEntry.objects.latest("pk")
    assert entry.by is not None
    assert (entry.by.username, entry.by.is_active) == ("sam@other", False)
    assert not entry.by.has_usable_password()
    assert User.objects.filter(username="sam").count() == 1
    before = User.objects.count()
    assert bring(client_for(stranger), "other", out).status_code == 302
    assert User.objects.count() == before


def test_lines_of_the_journal_can_be_undone_on_their_own_new_rows(petrel: Build, owner: Membership, stranger: Membership) -> None:
    client = client_for(owner)
    data = {"holder": "engine", "key": "bore", "text": "84 mm", "basis": "measured", "seen": "0.083 card"}
    stored = petrel.engine.figures["bore"]
    assert client.post(address(petrel, "engine/"), data | {"seen": f"{stored['value']:.9g} {stored['basis']}"}).status_code == 200
    out = written(petrel.workshop, petrel)
    assert bring(client_for(stranger), "other", out).status_code == 302
    copy = Build.objects.latest("pk")
    entry = JournalEntry.objects.get(build=copy, verb="figure")
    assert entry.reversible
    assert entry.data[0]["pk"] == copy.engine_id != petrel.engine_id
    assert Engine.objects.get(pk=copy.engine_id).figures["bore"]["value"] == pytest.approx(0.084)


SPOILT: list[tuple[str, Callable[[Any], Any], str]] = [
    ("manifest.json", lambda told: told | {"format": "other/1"}, "manifest.json, format"),
    ("manifest.json", lambda told: told | {"people": "me"}, "manifest.json, people"),
    ("manifest.json", lambda told: told | {"holds": "world"}, "manifest.json, holds"),
    ("rows/engine.json", lambda rows: rows[0].update(cylinders="many"), "rows/engine.json, row 1, cylinders"),
    ("rows/engine.json", lambda rows: rows[0].update(gear="clockwork"), "rows/engine.json, row 1, gear"),
    ("rows/engine.json", lambda rows: rows[0].update(name="x" * 400), "rows/engine.json, row 1, name"),
    ("rows/engine.json", lambda rows: rows[0].update(name="a\x00b"), "rows/engine.json, row 1, name"),
    ("rows/engine.json", lambda rows: rows[0].update(name=7), "rows/engine.json, row 1, name"),
    ("rows/engine.json", lambda rows: rows[0].update(figures={"bore": {"value": "wide"}}), "rows/engine.json, row 1, figures"),
    ("rows/engine.json", lambda rows: rows[0].update(figures={"no such": {"value": 1.0, "spread": 0.0, "basis": "card"}}), "figures"),
    ("rows/engine.json", lambda rows: rows[0].update(figures=[1]), "rows/engine.json, row 1, figures"),
    ("rows/engine.json", lambda rows: rows[0].update(facts={"x": {"y": 1}}), "rows/engine.json, row 1, facts"),
    ("rows/engine.json", lambda rows: rows + rows, "rows/build.json"),
    ("rows/engine.json", lambda rows: rows[0].pop("name") and None, "the field name is missing"),
    ("rows/engine.json", lambda rows: rows[0].update(wings=2), "the field wings is not known"),
    ("rows/engine.json", lambda rows: rows[0].update(cylinders=5000), "one to 8 cylinders"),
    ("rows/engine.json", lambda rows: rows[0].update(gear="side_valve"), "no side_valve engine has"),
    ("rows/position.json", lambda rows: [row.update(side="intake") for row in rows] and None, "valves on both sides"),
    ("rows/position.json", lambda rows: [row | {"name": f"V{n}", "place": n} for n in range(2500) for row in rows[:2]], "no more than 24"),
    ("rows/position.json", lambda rows: rows[0].update(name=""), "rows/position.json, row 1, name"),
    ("rows/position.json", lambda rows: rows[2].update(engine=9), "rows/position.json, row 3, engine"),
    ("rows/position.json", lambda rows: rows[1].update(name=rows[0]["name"]), "rows/position.json, row 2"),
    ("rows/part.json", lambda rows: rows[0].update(kind="gearbox"), "rows/part.json, row 1"),
    ("rows/part.json", lambda rows: next(row for row in rows if row["kind"] == "cam").update(lobe={"angle": []}), "lobe"),
    ("rows/setup.json", lambda rows: rows[:1], "rows/setupside.json"),
    ("rows/setupside.json", lambda rows: rows[:3], "there is no "),
    ("rows/gapreading.json", lambda rows: rows[0].update(value=True), "rows/gapreading.json, row 1, value"),
    ("rows/build.json", lambda rows: rows[0].update(use="flying"), "rows/build.json, row 1, use"),
    ("rows/build.json", lambda rows: rows[0].update(flows=[{"port": 3}]), "rows/build.json, row 1, flows"),
    ("rows/build.json", lambda rows: rows[0].update(created_at="yesterday"), "rows/build.json, row 1, created_at"),
    ("rows/build.json", lambda rows: {"a": rows}, "rows/build.json"),
]  # fmt: skip


@pytest.mark.parametrize(("name", "change", "place"), SPOILT, ids=[f"{n}-{place}" for n, (_, _, place) in enumerate(SPOILT)])
def test_what_does_not_hold_is_refused_with_its_place(
    petrel: Build, builder: Membership, name: str, change: Callable[[Any], Any], place: str
) -> None:
    raw = changed(written(petrel.workshop, petrel), name, change)
    before = (Build.objects.count(), Part.objects.count(), Engine.objects.count())
    answer = bring(client_for(builder), "shed", raw)
    assert answer.status_code == 422
    assert place in answer.content.decode().replace("&#x27;", "'")
    assert (Build.objects.count(), Part.objects.count(), Engine.objects.count()) == before


def test_a_damaged_zip_is_refused(petrel: Build) -> None:
    raw = written(petrel.workshop, petrel)
    held = entries(raw)
    for wrong, words in (
        (raw[: len(raw) // 2], "no zip that can be read"),
        (b"PK\x03\x04 nothing", "no zip that can be read"),
        (zipped(held | {"../../etc/passwd": b"x"}), "nothing of that name"),
        (zipped(held | {"rows/user.json": b"[]"}), "nothing of that name"),
        (zipped(held | {"rows/build.json": b"[1e999]"}), "no JSON"),
        (zipped(held | {"rows/build.json": b"[" * 100_000}), "no JSON"),
        (zipped(held | {"rows/build.json": b"\xff\xfe"}), "no JSON"),
        (zipped(held | {"files/" + "0" * 64: b"x"}), "damaged or changed"),
        (zipped({name: held[name] for name in held if name != "manifest.json"}), "manifest.json"),
    ):
        with pytest.raises(BuildFileError, match=words):
            read(wrong)


def test_bytes_changed_at_random_never_break_the_site(petrel: Build, builder: Membership) -> None:
    """A hundred and twenty files with a byte or a value changed: each is taken or refused with a sentence, and what is taken can be looked at."""
    out, draw = written(petrel.workshop, petrel), random.Random(11)  # noqa: S311  (a simulation)
    odd: list[Any] = [None, -1, 0, 1e308, "", "x" * 300, [], {}, True, "\x00", "nan", 10**17, [[]], {"a": [1]}]

    def spoil(rows: Any) -> None:
        row = draw.choice(rows)
        row[draw.choice(sorted(row))] = draw.choice(odd)

    client, taken = client_for(builder), 0
    names = [name for name in entries(out) if name.startswith("rows/")]
    for _ in range(60):
        answer = bring(client, "shed", changed(out, draw.choice(names), spoil))
        assert answer.status_code in (302, 422)
        if answer.status_code == 302:
            taken += 1
            copy = Build.objects.latest("pk")
            for page in ("", "springs/", "lash/", "logbook/"):
                assert client.get(address(copy, page)).status_code == 200
            copy.delete()
    for _ in range(60):
        raw = bytearray(out)
        raw[draw.randrange(len(raw))] ^= 1 << draw.randrange(8)
        assert bring(client, "shed", bytes(raw)).status_code in (302, 422)
    assert taken > 1
