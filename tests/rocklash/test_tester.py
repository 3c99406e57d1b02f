"""The page of one spring: logs typed, from a file and from the simulated tester; claim, wire, strength; refusals."""

from datetime import timedelta

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone

from rocklash.answers.instruments import run_state
from rocklash.answers.rows import side_rows
from rocklash.records import models
from rocklash.records.models import Build, JournalEntry, Membership, Part, SpringLog
from tests.rocklash.conftest import address, client_for
from valvetrain.simulators.spring_tester import SpringTesterStandIn

LOG = "spring;height;load\n1;37.2;176\n1;33.2;330\n1;28.2;523\n2;37.2;181\n2;33.2;335\n2;28.2;530\n3;37.2;152\n3;33.2;305\n3;28.2;498\n"


@pytest.fixture
def outer(petrel: Build) -> Part:
    part = side_rows(petrel)["proposed", "exhaust"].outer_spring
    assert part
    return part


def _page(build: Build, part: Part, more: str = "") -> str:
    return address(build, f"springs/part/{part.pk}/{more}") + "?side=exhaust"


def test_a_typed_log_becomes_measured_figures_and_calls_the_weak_one_out(builder: Membership, petrel: Build, outer: Part) -> None:
    client = client_for(builder)
    before = outer.figures["rate"]["value"]
    answer = client.post(_page(petrel, outer), {"act": "log", "side": "exhaust", "text": LOG, "state": "used", "leans": "2: 2.4"})
    page = answer.content.decode()
    assert answer.status_code == 200
    assert "below its set" in page
    assert "out of square: leans 2.4 mm" in page
    outer.refresh_from_db()
    assert outer.figures["rate"]["basis"] == "measured"
    assert outer.figures["rate"]["value"] == pytest.approx(38.5e3, rel=0.01)
    assert outer.figures["rate"]["value"] != before
    assert outer.figures["load"]["spread"] > 10.0  # the set's own spread counts
    assert outer.facts["state"] == "used"
    kept = SpringLog.objects.get()
    assert (kept.readings, kept.used, kept.leans) == (9, True, {"2": pytest.approx(2.4e-3)})
    assert JournalEntry.objects.filter(verb="spring tester").exists()
    assert "open this spring: tester log, wire, life" in client.get(address(petrel, "springs/") + "?side=exhaust").content.decode()


def test_used_springs_are_told_against_their_new_ones(builder: Membership, petrel: Build, outer: Part) -> None:
    client = client_for(builder)
    new = "37.2;200\n33.2;352\n28.2;545\n"
    client.post(_page(petrel, outer), {"act": "log", "side": "exhaust", "text": new, "state": "new"})
    page = client.post(_page(petrel, outer), {"act": "log", "side": "exhaust", "text": LOG, "state": "used"}).content.decode()
    assert "has lost 1" in page
    assert "shorter than new" in page


def test_a_file_is_read_and_a_rising_rate_is_kept(builder: Membership, petrel: Build, outer: Part) -> None:
    rows = [(h, 25.0 * (42.4 - h) + 0.45 * (42.4 - h) ** 2) for h in (38, 36.5, 35, 33.5, 32, 30.5, 29, 28.2)]
    text = "height (mm),load (N)\n" + "".join(f"{h},{f:.1f}\n" for h, f in rows)
    upload = SimpleUploadedFile("tester.csv", text.encode())
    answer = client_for(builder).post(_page(petrel, outer), {"act": "log", "side": "exhaust", "file": upload, "state": "new"})
    assert answer.status_code == 200
    outer.refresh_from_db()
    assert outer.figures["bend"]["value"] == pytest.approx(0.45e6, rel=0.03)
    client_for(builder).post(_page(petrel, outer), {"act": "log", "side": "exhaust", "text": LOG, "state": "new"})
    outer.refresh_from_db()
    assert "bend" not in outer.figures


@pytest.mark.parametrize(
    "data, words",
    [
        ({"text": ""}, "The log is empty"),
        ({"text": "37.2;180\n33.2;150\n28;400\n"}, "the load falls from 180 to 150 N"),
        ({"text": "30;180\n27;280\n"}, "is above its free length"),
        ({"text": LOG, "leans": "9: 1"}, "is not a spring of this log"),
        ({"text": LOG, "leans": "2: x"}, "is not a length"),
    ],
)
def test_wrong_logs_are_refused_in_words_and_kept_in_the_field(
    builder: Membership, petrel: Build, outer: Part, data: dict[str, str], words: str
) -> None:
    answer = client_for(builder).post(_page(petrel, outer), {"act": "log", "side": "exhaust", "state": "new"} | data)
    assert answer.status_code == 422
    page = answer.content.decode()
    assert words in page
    assert data["text"].splitlines()[0] in page if data["text"] else True
    assert not SpringLog.objects.exists()


def test_the_packets_claim_stands_beside_the_measured_truth(builder: Membership, petrel: Build, outer: Part) -> None:
    client = client_for(builder)
    client.post(_page(petrel, outer), {"act": "claim", "claim": "60 lb"})
    page = client.post(_page(petrel, outer), {"act": "log", "side": "exhaust", "text": LOG, "state": "new"}).content.decode()
    assert "The packet says 60 lb; at the seat it gives" in page
    assert "less" in page
    assert client.post(_page(petrel, outer), {"act": "claim", "claim": "x" * 90}).status_code == 422


def test_wire_gives_strength_over_the_planned_hours(builder: Membership, petrel: Build, outer: Part) -> None:
    client = client_for(builder)
    assert (
        "give stress, fatigue and gaps" in client.get(_page(petrel, outer)).content.decode()
        or "Factor against fatigue" in client.get(_page(petrel, outer)).content.decode()
    )
    for key, text in (("wire_diameter", "4.1"), ("mean_diameter", "26.5"), ("total_coils", "6.3")):
        seen = client.get(_page(petrel, outer)).context["page"]
        field = next(f for f in seen.wire if f.key == key)
        data = {"holder": f"part-{outer.pk}", "key": key, "text": text, "basis": "measured", "seen": field.seen}
        assert client.post(_page(petrel, outer), data).status_code == 200
    page = client.get(_page(petrel, outer)).content.decode()
    for words in ("Factor against fatigue", "First surge", "Turns of the cam planned", "chrome-silicon"):
        assert words in page
    now = client.get(_page(petrel, outer)).context["page"]
    fact = next(f for f in now.facts if f.key == "peened")
    client.post(_page(petrel, outer), {"act": "fact", "fact": "peened", "word": "yes", "seen": fact.seen})
    outer.refresh_from_db()
    assert outer.facts["peened"] == "yes"


def test_simulated_tester_counts_up_stops_and_is_kept(builder: Membership, practice: Build) -> None:
    petrel, outer = practice, side_rows(practice)["proposed", "exhaust"].outer_spring
    assert outer
    client = client_for(builder, htmx=True)
    begun = client.post(_page(petrel, outer, "tester/"), {"act": "begin"}).content.decode()
    assert "every 700ms" in begun
    run = models.InstrumentRun.objects.get()
    run.begun_at = timezone.now() - timedelta(seconds=2)
    run.save(update_fields=["begun_at"])
    state = run_state(run)
    assert 10 <= state.taken <= 30
    assert state.running
    client.post(_page(petrel, outer, "tester/"), {"act": "stop"})
    run.refresh_from_db()
    assert run.ended_at
    run.ended_at = run.begun_at + timedelta(seconds=60)
    run.save(update_fields=["ended_at"])
    state = run_state(run)
    assert state.taken == state.count == SpringTesterStandIn(run.seed).count
    assert not state.running
    kept = client.post(_page(petrel, outer), {"act": "log", "side": "exhaust", "text": state.text, "state": "used"})
    assert kept.status_code == 200, kept.content.decode()[:400]
    assert "below its set" in kept.content.decode()
    page = client.get(_page(petrel, outer, "tester/")).content.decode()
    assert "set complete" in page
    assert "Save as measured" in page


def test_a_spring_of_another_shop_is_not_there(stranger: Membership, builder: Membership, petrel: Build, outer: Part) -> None:
    assert client_for(stranger).get(_page(petrel, outer)).status_code == 404
    valve = side_rows(petrel)["proposed", "exhaust"].valve
    assert valve
    assert client_for(builder).get(_page(petrel, valve)).status_code == 404
