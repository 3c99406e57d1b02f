"""Fields of Engine, Goal and Springs: kept, refused, contradicted, contested; parts chosen."""

import pytest

from rocklash.answers.results import result_of
from rocklash.commands.figures import KeepFigure
from rocklash.records.models import Build, JournalEntry, Membership, Part, SetupSide
from rocklash.records.selectors.builds import build_or_404
from tests.rocklash.conftest import address, client_for
from valvetrain.studies.checks.check import CheckCode


def again(build: Build) -> Build:
    return build_or_404(build.workshop, build.pk)


def side(build: Build, name: str = "exhaust", role: str = "proposed") -> SetupSide:
    return SetupSide.objects.get(setup__build=build, setup__role=role, side=name)


def field(holder: str, key: str, text: str, seen: str, basis: str = "measured") -> dict[str, str]:
    return {"holder": holder, "key": key, "text": text, "basis": basis, "seen": seen}


def test_a_figure_is_kept_as_typed_and_moves_the_verdict(petrel: Build, builder: Membership) -> None:
    row = side(petrel)
    before = next(c for c in result_of(petrel).review.proposed.checks if (c.code, c.about) == (CheckCode.FLOAT, "exhaust"))  # type: ignore[union-attr]
    data = field(f"fit-{row.pk}", "spring_shim", "24 thou", "none")
    answer = client_for(builder, htmx=True).post(address(petrel, "springs/") + "?side=exhaust", data)
    assert answer.status_code == 200
    row.refresh_from_db()
    kept = row.figures["spring_shim"]
    assert (kept["typed"], kept["unit"], kept["basis"], kept["by"]) == ("24 thou", "thou", "measured", "bert")
    assert kept["value"] == pytest.approx(24 * 25.4e-6)
    after = next(c for c in result_of(again(petrel)).review.proposed.checks if (c.code, c.about) == (CheckCode.FLOAT, "exhaust"))  # type: ignore[union-attr]
    assert after.figure > before.figure
    entry = JournalEntry.objects.first()
    assert entry is not None
    assert (entry.before, entry.after) == ("not known", "0.61 mm")


def test_page_and_fragment_share_one_view(petrel: Build, builder: Membership) -> None:
    page = client_for(builder).get(address(petrel, "springs/")).content.decode()
    part = client_for(builder, htmx=True).get(address(petrel, "springs/")).content.decode()
    assert "<html" in page
    assert "<html" not in part
    assert 'id="ladder"' in part
    assert 'id="station"' in part


@pytest.mark.parametrize(
    ("text", "part"),
    [
        ("heavy", "is not a length"),
        ("37.2 N", "not a unit of a length"),
        ("372", "cannot be"),
        ("1,250", "1250 or 1.250"),
        ("-3", "cannot be"),
    ],
)
def test_nonsense_gets_a_sentence_beside_the_field_and_is_not_lost(petrel: Build, builder: Membership, text: str, part: str) -> None:
    row = side(petrel)
    seen = f"{row.figures['installed_height']['value']:.9g} measured"
    answer = client_for(builder, htmx=True).post(
        address(petrel, "springs/") + "?side=exhaust", field(f"fit-{row.pk}", "installed_height", text, seen)
    )
    assert answer.status_code == 422
    html = answer.content.decode()
    assert part in html
    assert f'value="{text}"' in html
    row.refresh_from_db()
    assert row.figures["installed_height"]["value"] == pytest.approx(37.2e-3)


def test_two_people_on_one_field_notice_one_another(petrel: Build, builder: Membership, owner: Membership) -> None:
    seen = "0.096 card"
    assert client_for(owner).post(address(petrel, "engine/"), field("engine", "bore", "96.2", seen)).status_code == 200
    answer = client_for(builder).post(address(petrel, "engine/"), field("engine", "bore", "95.9", seen))
    assert answer.status_code == 409
    html = answer.content.decode()
    assert "Meanwhile this became 96.20 mm" in html
    assert 'value="95.9"' in html
    assert 'value="0.0962 measured"' in html  # with this the second Enter goes through
    assert client_for(builder).post(address(petrel, "engine/"), field("engine", "bore", "95.9", "0.0962 measured")).status_code == 200


def test_figures_that_contradict_are_not_kept(petrel: Build, builder: Membership) -> None:
    cam = side(petrel).cam
    assert cam is not None
    seen = f"{cam.figures['duration_2']['value']:.9g} card"
    trouble = KeepFigure(builder, again(petrel), field(f"part-{cam.pk}", "duration_2", "230", seen, "card")).run()
    assert trouble is not None
    assert "cannot both be" in trouble.sentence
    assert "Nothing was changed" in trouble.sentence
    cam.refresh_from_db()
    assert cam.figures["duration_2"]["value"] != pytest.approx(4.014, abs=0.01)


def test_limits_must_stand_in_order(petrel: Build, builder: Membership) -> None:
    seen = f"{petrel.engine.figures['clearance_intake_least']['value']:.9g} card"
    answer = client_for(builder).post(address(petrel, "engine/"), field("engine", "clearance_intake_least", "0.3", seen))
    assert answer.status_code == 422
    assert "must be below" in answer.content.decode()


def test_an_emptied_field_goes_back_to_an_estimate(petrel: Build, builder: Membership) -> None:
    assert client_for(builder).post(address(petrel, "engine/"), field("engine", "rod_length", "", "0.122 card")).status_code == 200
    petrel.engine.refresh_from_db()
    assert "rod_length" not in petrel.engine.figures
    html = client_for(builder).get(address(petrel, "engine/")).content.decode()
    assert "estimate ±" in html


def test_choosing_a_spring_changes_float_and_is_written_down(petrel: Build, builder: Membership, owner: Membership) -> None:
    row = side(petrel)
    strong = Part.objects.create(
        workshop=petrel.workshop, kind="spring", name="Strong", figures=row.outer_spring.figures | {"load": row.outer_spring.figures["load"] | {"value": 260.0}}  # type: ignore[union-attr]
    )  # fmt: skip
    data = {"row": row.pk, "slot": "outer_spring", "part": strong.pk, "seen": row.outer_spring_id}
    client = client_for(builder, htmx=True)
    assert client.post(address(petrel, "springs/"), data).status_code == 200
    assert side(petrel).outer_spring_id == strong.pk
    assert JournalEntry.objects.first().after == "Strong"  # type: ignore[union-attr]
    assert client.post(address(petrel, "springs/"), data).status_code == 200  # sent twice is done once
    assert JournalEntry.objects.filter(verb="part").count() == 1
    weak = Part.objects.create(workshop=petrel.workshop, kind="spring", name="Weak")
    refused = client_for(owner, htmx=True).post(address(petrel, "springs/"), data | {"part": weak.pk})
    assert refused.status_code == 409
    assert "Meanwhile this became Strong" in refused.content.decode()


def test_stock_parts_stay_and_slots_take_only_their_kind(petrel: Build, builder: Membership) -> None:
    stock, row = side(petrel, role="stock"), side(petrel)
    client = client_for(builder)
    answer = client.post(
        address(petrel, "springs/"), {"row": stock.pk, "slot": "retainer", "part": row.retainer_id, "seen": stock.retainer_id}
    )
    assert answer.status_code == 404
    answer = client.post(address(petrel, "springs/"), {"row": row.pk, "slot": "retainer", "part": row.valve_id, "seen": row.retainer_id})
    assert answer.status_code == 404
    assert client.post(address(petrel, "springs/"), {"row": "x", "slot": "retainer", "part": "1", "seen": ""}).status_code == 404


def test_a_single_valve_may_stand_higher(petrel: Build, builder: Membership) -> None:
    place = petrel.engine.positions.get(name="EX 1 fore")
    client = client_for(builder)
    answer = client.post(address(petrel, "engine/"), {"valve": place.pk, "text": "4 thou", "seen": f"{place.deviation:.7f}"})
    assert answer.status_code == 200
    place.refresh_from_db()
    assert place.deviation == pytest.approx(0.1016e-3)
    answer = client.post(address(petrel, "engine/"), {"valve": place.pk, "text": "37", "seen": f"{place.deviation:.7f}"})
    assert answer.status_code == 422
    assert "Give the difference" in answer.content.decode()


def test_build_file_goes_out_and_comes_in_again(petrel: Build, owner: Membership) -> None:
    client = client_for(owner)
    raw = client.get(address(petrel, "file.json")).content
    from django.core.files.uploadedfile import SimpleUploadedFile

    answer = client.post("/shop/shed/import/", {"file": SimpleUploadedFile("petrel.json", raw)})
    assert answer.status_code == 302
    copy = Build.objects.exclude(pk=petrel.pk).get()
    old, new = result_of(again(petrel)).review, result_of(again(copy)).review
    assert old is not None
    assert new is not None
    assert [(c.code, c.verdict) for c in old.proposed.checks] == [(c.code, c.verdict) for c in new.proposed.checks]
    assert [c.figure for c in new.proposed.checks] == pytest.approx([c.figure for c in old.proposed.checks], rel=1e-6)


@pytest.mark.parametrize("raw", [b"", b"PK\x03\x04zip", b"\xff\xfe\x00", b'{"format": "rocklash.build/1"}', b"[]", b"null", b"1"])
def test_a_bad_file_is_refused_and_nothing_comes_in_by_halves(owner: Membership, raw: bytes) -> None:
    from django.core.files.uploadedfile import SimpleUploadedFile

    answer = client_for(owner).post("/shop/shed/import/", {"file": SimpleUploadedFile("x.json", raw)})
    assert answer.status_code == 422
    assert 'role="alert"' in answer.content.decode()
    assert not Build.objects.exists()


def test_the_board_asks_the_same_number_of_questions_for_one_build_or_ten(
    owner: Membership, petrel: Build, django_assert_max_num_queries
) -> None:  # type: ignore[no-untyped-def]
    from rocklash.answers.rows import record_of
    from rocklash.commands.builds import keep_record

    record = record_of(again(petrel))
    for _ in range(9):
        keep_record(owner, record)
    client = client_for(owner)
    with django_assert_max_num_queries(35):  # what is due is worked out on the day's first look
        client.get("/shop/shed/")
    with django_assert_max_num_queries(16):
        html = client.get("/shop/shed/").content.decode()
    assert html.count("Does not hold the goal yet.") == 10
    # ten builds with the same spring share one part on the shelf
    assert Part.objects.filter(workshop=petrel.workshop, name="HD-48 outer, Halyard Spring Co.").count() == 1
