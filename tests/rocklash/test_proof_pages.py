"""Proof: tests kept from forms and files with figures of one's own, refused with a sentence, undone, removed, and what follows from them."""

import io
import math
import re
import time
from typing import Any

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from django.utils import timezone
from pypdf import PdfReader

from rocklash.answers import stand_ins
from rocklash.answers.clearances import feel_of, found_of
from rocklash.commands.builds import keep_record
from rocklash.demo.proof import load_proof
from rocklash.records.models import (
    Build,
    ClearanceSession,
    Forecast,
    JournalEntry,
    Membership,
    Observation,
    PlannedShim,
    ProofFile,
    ProofKind,
    ProofTest,
    Reading,
)
from rocklash.records.selectors.proof import hand_pairs, unpacked
from rocklash.stations.proof.forms import pressures
from tests.rocklash.conftest import DEMO, address, client_for
from valvetrain.errors import QuantityError
from valvetrain.formats import build_file, recording, run_table
from valvetrain.simulators.pull_sound import Giving, PullPlan, make
from valvetrain.units import UnitSystem


@pytest.fixture
def client(builder: Membership) -> Client:
    return client_for(builder)


def sent(client: Client, build: Build, page: str, act: str, **told: Any) -> Any:
    return client.post(address(build, f"proof/{page}"), {"act": act, **told})


def of(build: Build, kind: ProofKind) -> ProofTest:
    return ProofTest.objects.get(build=build, kind=kind)


def upload(raw: bytes, name: str = "trace.csv") -> SimpleUploadedFile:
    return SimpleUploadedFile(name, raw)


@pytest.mark.parametrize(
    ("text", "bar"),
    [("12.4 12.6 bar", [12.4, 12.6]), ("12,4 bar; 12,6 bar", [12.4, 12.6]), ("178 psi", [12.273]), ("12.4", [12.4]), ("1240 kPa 12.6 bar", [12.4, 12.6]), ("", [])],
)  # fmt: skip
def test_pressures_as_people_write_them(text: str, bar: list[float]) -> None:
    assert [value / 1e5 for value in pressures(text, UnitSystem.METRIC)] == pytest.approx(bar, rel=1e-3)


@pytest.mark.parametrize("text", ["good", "12 parsec", "1 2 3 4 5 6 7 8 9 bar"])
def test_what_is_no_pressure_is_named(text: str) -> None:
    with pytest.raises(QuantityError):
        pressures(text, UnitSystem.METRIC)


def test_a_compression_test_is_kept_and_judged(petrel: Build, client: Client) -> None:
    told = {
        "dry_1": "11.8 11.9 bar",
        "dry_2": "172 psi",
        "dry_3": "9.1 9.3",
        "wet_3": "11.2",
        "met": ["warm", "cannot_start"],
        "cranking": "280",
    }
    answer = sent(client, petrel, "cylinders/", "compression", **told)
    assert answer.status_code == 200, answer.context["refused"]
    row = of(petrel, ProofKind.COMPRESSION)
    assert row.readings["cylinders"]["2"]["dry"] == pytest.approx([11.859e5], rel=1e-3)
    view = answer.context["tests"][0]
    assert "uneven" in view.sentence
    assert [each.low for each in view.rows] == [False, False, True]
    assert "rings" in view.rows[2].causes.split(",")[0] + view.rows[2].causes.split(",")[1]  # with oil it rose: rings first
    assert "Compare only" in view.notes[0]
    assert "all plugs out" in view.notes[0]
    entry = JournalEntry.objects.filter(build=petrel, verb="compression test").get()
    client.post(address(petrel, "proof/cylinders/"), {"act": "undo", "entry": str(entry.pk)})
    assert not ProofTest.objects.exists()


def test_what_is_typed_wrong_stays_with_its_sentence(petrel: Build, client: Client) -> None:
    answer = sent(client, petrel, "cylinders/", "compression", dry_1="12.4 bar", dry_2="lots", note="after lunch")
    assert answer.status_code == 422
    text = answer.content.decode()
    assert "is no pressure" in text
    assert "after lunch" in text
    assert 'value="12.4 bar"' in text
    assert sent(client, petrel, "cylinders/", "compression").status_code == 422
    assert sent(client, petrel, "cylinders/", "compression", dry_1="990 bar").status_code == 422
    assert "A starter turns" in sent(client, petrel, "cylinders/", "compression", dry_1="8 bar", cranking="9000").content.decode()
    assert sent(client, petrel, "cylinders/", "leak", leak_1="190 %").status_code == 422
    assert sent(client, petrel, "cylinders/", "leak", leak_1="7 bar", regulated="5.5 bar").status_code == 422
    assert sent(client, petrel, "cylinders/", "light").status_code == 422
    assert not ProofTest.objects.exists()


def test_a_leak_down_tells_the_area_that_travels(petrel: Build, client: Client) -> None:
    told = {"leak_1": "10.9 %", "hiss_1": ["exhaust"], "leak_2": "5.3 bar", "regulated": "5.5 bar", "restrictor": "1.0 mm"}
    answer = sent(client, petrel, "cylinders/", "leak", **told)
    view = answer.context["tests"][0]
    assert view.rows[0].other == "0.5 mm²"
    assert "exhaust valve" in view.rows[0].causes
    assert not view.notes  # both were told
    assert answer.context["bores"] is not None


def test_light_through_the_ports(petrel: Build, client: Client) -> None:
    place = petrel.engine.positions.order_by("pk").first()
    assert place is not None
    answer = sent(client, petrel, "cylinders/", "light", **{f"valve-{place.pk}": "leaks", "with": "solvent"})
    assert f"{place.name} leaks" in answer.context["tests"][0].sentence


def test_a_starter_trace_of_the_stand_in(petrel: Build, client: Client, builder: Membership) -> None:
    raw = client.get(address(petrel, "proof/stand-in/starter/")).content
    answer = sent(client, petrel, "cylinders/", "starter", file=upload(raw))
    assert answer.status_code == 200, answer.context["refused"]
    view = answer.context["tests"][0]
    assert "go to the gauge" in view.sentence
    assert [each.low for each in view.rows] == [False, False, True]
    assert "under 8 points mean nothing" in view.notes[0]
    row = of(petrel, ProofKind.STARTER)
    assert unpacked(ProofFile.objects.get(test=row)) == raw
    assert client.get(address(petrel, f"proof/file/{row.pk}/")).content == raw
    assert sent(client, petrel, "cylinders/", "starter").status_code == 422
    bad = sent(client, petrel, "cylinders/", "starter", file=upload(b"time,current\n0,1\n1,x\n2,y\n"))
    assert bad.status_code == 422
    assert "no number" in bad.context["refused"]
    assert client.get(address(petrel, "proof/stand-in/moon/")).status_code == 404


def test_a_pull_is_heard_and_anchors_the_model(petrel: Build, client: Client) -> None:
    angles = tuple(math.radians(each) for each in (0, 240, 480))
    made = make(PullPlan(angles=angles, top=8300.0 / 60.0, giving=Giving.CLATTER, seconds=11.0), 3)
    answer = sent(client, petrel, "pulls/", "sound", file=upload(recording.write(made.samples, made.rate), "pull.wav"), phase="after")
    assert answer.status_code == 200, answer.context["refused"]
    view = answer.context["tests"][0]
    assert int(view.speed.replace(",", "")) == pytest.approx(8300, rel=0.01)
    assert sum(part for _, _, part in view.odds) == pytest.approx(100, abs=2)
    test = of(petrel, ProofKind.SOUND)
    assert sent(client, petrel, "pulls/", "anchor", test=str(test.pk), side="both").status_code == 422
    assert sent(client, petrel, "pulls/", "anchor", test=str(test.pk), side="exhaust").status_code == 200
    seen = Observation.objects.get(build=petrel)
    assert seen.in_use
    assert (seen.role, seen.side) == ("proposed", "exhaust")
    assert seen.speed * 60 == pytest.approx(8300, rel=0.01)


def test_what_is_no_pull_is_refused_by_name(petrel: Build, client: Client) -> None:
    quiet = recording.write(make(PullPlan(angles=(0.0,), top=100.0, giving=Giving.RAGGED, seconds=6.0), 1).samples * 0.0, 24_000)
    for raw, says in ((quiet, "silent"), (b"ID3 and so on", "MP3"), (b"", "Choose a recording")):
        answer = sent(client, petrel, "pulls/", "sound", file=upload(raw, "pull.wav")) if raw else sent(client, petrel, "pulls/", "sound")
        assert answer.status_code == 422
        assert says in answer.context["refused"]
    assert not ProofTest.objects.exists()


def test_rev_tests_before_and_after(petrel: Build, client: Client) -> None:
    assert sent(client, petrel, "pulls/", "rev", speed="7900", doubt="60", phase="before", gear="4th", how="wall").status_code == 200
    answer = sent(client, petrel, "pulls/", "rev", speed="8,350", doubt="60", phase="after")
    assert "450 rpm later" in answer.context["difference"]
    told = answer.context["ladder"]["drawn"].figures().rows
    assert {("measured before", "7,900", ""), ("measured after", "8,350", "")} <= set(told)
    assert sent(client, petrel, "pulls/", "rev", speed="80").status_code == 422
    assert sent(client, petrel, "pulls/", "rev", speed="8000", doubt="4000").status_code == 422
    near = sent(client, petrel, "pulls/", "rev", speed="7930", doubt="60", phase="after")
    assert "within the 85" in near.context["difference"]


def test_runs_are_read_laid_over_one_another_and_refused_when_mixed(petrel: Build, builder: Membership) -> None:
    client = client_for(builder)
    dunlin = keep_record(builder, build_file.read((DEMO / "dunlin_598.json").read_text(encoding="utf-8")))
    air = {"ambient": "1009 hPa", "temperature": "16 C", "humidity": "62"}
    for what, phase in (("run-floats", "before"), ("run-holds", "after")):
        raw = client.get(address(dunlin, f"proof/stand-in/{what}/")).content
        answer = sent(client, dunlin, "runs/", "run", file=upload(raw), phase=phase, name=what, standard="as measured", gear="4th", **air)
        assert answer.status_code == 200, answer.context["refused"]
    page = answer.context["page"]
    assert page.standard == "SAE J1349"
    assert len(page.runs) == 2
    assert "where it lives" in page.sentence
    assert "loses from 10," in page.float_words  # the stand-in floats at 10,800
    assert "consistent with float" in page.float_words
    assert page.plots is not None
    raw = stand_ins.file_of("run-holds", 2)[0]
    sent(client, dunlin, "runs/", "run", file=upload(raw), phase="after", name="yesterday", standard="DIN 70020")
    mixed = client.get(
        address(dunlin, "proof/runs/"), {"run": [str(test.pk) for test in ProofTest.objects.filter(build=dunlin)], "standard": "SAE J1349"}
    )
    assert "yesterday" in mixed.context["page"].trouble
    assert mixed.context["page"].plots is None
    assert "the air, not the engine" in mixed.context["page"].trouble


def test_a_run_whose_columns_say_nothing_asks_for_them(petrel: Build, client: Client) -> None:
    rows = "\n".join(f"{n / 100};{4000 + 8 * n};{40 + n / 100}" for n in range(600))
    raw = ("a;b;c\n" + rows).encode()
    answer = sent(client, petrel, "runs/", "run", file=upload(raw))
    assert answer.status_code == 422
    assert "The columns are a, b, c" in answer.context["refused"]
    told = {"col-time": "0", "col-rpm": "1", "col-torque": "2", "unit-torque": "lbf ft"}
    answer = sent(client, petrel, "runs/", "run", file=upload(raw), standard="as measured", **told)
    assert answer.status_code == 200, answer.context["refused"]
    found = of(petrel, ProofKind.RUN).found
    assert found["power"][20] / (2 * math.pi * found["speed"][20]) == pytest.approx(1.3558 * 42.5, rel=0.03)


def test_vacuum_is_judged(petrel: Build, client: Client) -> None:
    answer = sent(client, petrel, "throttle/", "vacuum", readings="6000 20 mbar\n8000 62 mbar", bore="36 mm", throttles="1")
    assert answer.status_code == 200
    view = answer.context["tests"][0]
    assert "worth curing" in view.sentence
    assert "51.3" in view.notes[0]
    both = sent(client, petrel, "throttle/", "vacuum", readings="8000 62 mbar 31 mbar", bore="36 mm", throttles="1").context["tests"][0]
    assert any(note.startswith("50 % of it") for note in both.notes)
    for wrong in ("8000", "8000 700 mbar", "eight 20 mbar", "8000 20 mbar 40 mbar", "8000 20 10 5 mbar"):
        bad = sent(client, petrel, "throttle/", "vacuum", readings=wrong, bore="36 mm", throttles="1")
        assert bad.status_code == 422
        assert "Line 1" in bad.content.decode()


def test_forecasts_are_kept_before_and_judged_after(petrel: Build, client: Client) -> None:
    assert sent(client, petrel, "", "foretell").status_code == 200
    band = Forecast.objects.get(build=petrel, kind="compression")
    assert band.result is None
    sent(client, petrel, "", "foretell")  # anew: the open one gives way
    assert Forecast.objects.filter(build=petrel, kind="compression").count() == 1
    bar = band.middle / 1e5
    sent(client, petrel, "cylinders/", "compression", dry_1=f"{bar:.2f}", dry_2=f"{bar:.2f}", dry_3=f"{bar:.2f}", phase="after")
    row = client.get(address(petrel, "proof/")).context["forecasts"][0]
    assert row.verdict == "inside"
    scores = client.get(address(petrel, "proof/learn/")).context["scores"]
    assert [each.held for each in scores] == ["1 of 1"]
    test = of(petrel, ProofKind.COMPRESSION)
    sent(client, petrel, "cylinders/", "remove", test=str(test.pk))
    assert not ProofTest.objects.exists()
    assert Forecast.objects.get(build=petrel, kind="compression").result is None


def test_a_failure_is_weighed(petrel: Build, client: Client) -> None:
    answer = sent(
        client,
        petrel,
        "failure/",
        "failure",
        **{"mark-face_burnt": "seen", "mark-gap_closed": "seen", "mark-piston_mark": "absent", "reached": "7,900"},
    )
    assert answer.status_code == 200
    first = answer.context["suspects"][0]
    assert "valve burnt" in first.words
    assert any("7,900 rpm" in words for suspect in answer.context["suspects"] for words in suspect.model)
    assert sent(client, petrel, "failure/", "failure").status_code == 422
    assert sent(client, petrel, "failure/", "failure", **{"mark-clean": "seen", "reached": "fast"}).status_code == 422


def test_the_planner_takes_odds_as_typed(petrel: Build, client: Client) -> None:
    page = client.get(address(petrel, "proof/next/"))
    assert page.context["rows"][0].key == "sound"
    told = {row.key: row.foretold for row in page.context["rows"]}
    assert "+" in told["shim"]
    assert "+" in told["retainer"]
    typed = client.get(address(petrel, "proof/next/"), {"odds-fuel": "50", "odds-spark": "50"}).context
    assert typed["rows"][0].key in ("plugs", "jet")
    assert typed["why"] == ["as typed"]
    for odd in ("", "-1", "nan", "1e9", "0"):
        assert client.get(address(petrel, "proof/next/"), {f"odds-{cause}": odd for cause in ("float", "fuel", "spark")}).status_code == 200


def test_nobody_else_sees_or_changes_it(petrel: Build, client: Client, viewer: Membership, stranger: Membership) -> None:
    raw = client.get(address(petrel, "proof/stand-in/starter/")).content
    sent(client, petrel, "cylinders/", "starter", file=upload(raw))
    test = of(petrel, ProofKind.STARTER)
    assert client_for(stranger).get(address(petrel, f"proof/file/{test.pk}/")).status_code == 404
    assert client_for(viewer).get(address(petrel, f"proof/file/{test.pk}/")).status_code == 200
    assert client_for(viewer).post(address(petrel, "proof/cylinders/"), {"act": "remove", "test": str(test.pk)}).status_code == 403
    assert sent(client, petrel, "cylinders/", "remove", test="999999").status_code == 404


def test_the_demo_shows_before_and_after(owner: Membership) -> None:
    dunlin = keep_record(owner, build_file.read((DEMO / "dunlin_598.json").read_text(encoding="utf-8")))
    assert dunlin.name == "Dunlin 598"
    load_proof(owner.workshop, owner)
    client = client_for(owner)
    page = client.get(address(dunlin, "proof/")).context["page"]
    assert all(each.before and each.after for each in page.wanted)
    assert "where it lives: +" in page.sentence
    assert "later than before" in page.sentence
    assert "2 of 2 forecasts held" in page.sentence
    words = client.get(address(dunlin, "proof/runs/")).context["page"].float_words
    assert "loses from 12," in words or "loses from 11,9" in words
    assert hand_pairs(owner.workshop) == []


def test_a_known_hand_counts_on_its_next_sheet(petrel: Build, builder: Membership) -> None:
    """Two signed sheets of a fine hand: eight pairs and more; the next sheet begins with its own band, said on page and paper, the old ones keep theirs."""
    places = list(petrel.engine.positions.all())
    for errors in ((1, -2, 0, 3, -1, 2), (-3, 1, 2, -1, 0, -2)):
        session = ClearanceSession.objects.create(
            build=petrel, started_by=builder.user, method="blade", signed_at=timezone.now(), signed_by=builder.user
        )
        for place, off in zip(places, errors, strict=False):
            for recheck, value in ((False, 0.16e-3), (True, 0.20e-3 + off * 1e-6)):
                Reading.objects.create(
                    session=session, position=place, recheck=recheck, goes=value, stops=value, goes_typed="x", shim=2.4e-3, shim_source="micrometer",
                    by=builder.user,
                )  # fmt: skip
            PlannedShim.objects.create(session=session, position=place, size=2.36e-3, source="shelf", low=0.20e-3, high=0.20e-3)
    client = client_for(builder)
    learnt = client.get(address(petrel, "proof/learn/")).context
    assert learnt["hand"].pairs == 12
    assert learnt["hand"].used
    assert learnt["hand"].half < 0.01e-3
    assert client.post(address(petrel, "lash/"), {"act": "manner", "method": "blade"}).status_code == 200
    begun = ClearanceSession.objects.get(build=petrel, signed_at=None)
    assert begun.feel == pytest.approx(learnt["hand"].half)
    assert "as re-checks tell" in client.get(address(petrel, "lash/")).content.decode()
    valve = places[0]
    client.post(
        address(petrel, "lash/"),
        {"act": "read", "valve": str(valve.pk), "goes": "0.18", "stops": "", "shim": "2.4", "source": "micrometer", "seen": "0"},
    )
    reading = begun.readings.get()
    found = found_of(reading, "blade", feel_of(begun))
    assert found.high - reading.goes == pytest.approx(begun.feel)
    assert found_of(reading, "blade").high - reading.goes == pytest.approx(0.01e-3)
    assert "as re-checks tell" in client.get(address(petrel, "sheet/")).content.decode()


def test_a_block_of_known_size_tells_the_zero(petrel: Build, client: Client) -> None:
    """22.5 of the trade's list: readings 3 to 7 um over are 5 um, give or take 2.4."""
    where = address(petrel, "proof/learn/")

    def told_of(size: str, readings: str) -> str:
        found = re.search(r'<p role="status">(.*?)</p>', client.get(where, {"size": size, "readings": readings}).content.decode())
        return found[1] if found else ""

    told = told_of("2.5 mm", "2.504 2.506 2.505 2.503 2.507")
    assert "0.0050 mm too much" in told
    assert "0.0024 mm" in told
    assert "least" in told_of("2.5", "2.504")
    assert "zero" in told_of("2.5", "2.500 2.501 2.499")
    assert told_of("big", "2.504")
    assert told_of("", "") == ""
    assert "Node" not in client.get(where).content.decode()


def test_a_road_pull_gives_power(petrel: Build, client: Client) -> None:
    """A pull of 30 kW at the wheel, integrated apart from the code under test: given back within 3 % in its middle."""
    speed, rows = 12.0, []
    for step in range(9000):
        if step % 100 == 0:
            rows.append(f"{step / 1000:.1f};{speed * 3.6:.3f}")
        resist = 0.5 * (101325.0 / (287.05 * 293.15)) * 0.45 * speed**2 + 250.0 * 9.80665 * 0.015
        speed += (30e3 / speed - resist) / (250.0 * 1.03) * 0.001
    raw = ("time (s);gps speed (km/h)\n" + "\n".join(rows)).encode()
    bare = sent(client, petrel, "runs/", "run", file=upload(raw), standard="as measured")
    assert bare.status_code == 422
    assert "mass" in bare.context["refused"]
    told = {"mass": "250 kg", "drag": "0.45", "at_100": "6000"}
    answer = sent(client, petrel, "runs/", "run", file=upload(raw), standard="as measured", **told)
    assert answer.status_code == 200, answer.context["refused"]
    power = of(petrel, ProofKind.RUN).found["power"]
    assert power[len(power) // 2] == pytest.approx(30e3, rel=0.03)
    assert any("comes from the road" in note for note in answer.context["page"].notes)
    assert sent(client, petrel, "runs/", "run", file=upload(raw), standard="as measured", mass="2 g").status_code == 422


def test_lighter_turning_parts_are_no_power(petrel: Build, client: Client, builder: Membership) -> None:
    dunlin = keep_record(builder, build_file.read((DEMO / "dunlin_598.json").read_text(encoding="utf-8")))
    raw = stand_ins.file_of("run-holds", 2)[0]
    for name, more in (("heavy", {}), ("light", {"taken_off": "0.01"})):
        assert sent(client, dunlin, "runs/", "run", file=upload(raw), name=name, standard="as measured", **more).status_code == 200
    page = client.get(address(dunlin, "proof/runs/"), {"run": [str(each.pk) for each in ProofTest.objects.filter(build=dunlin)]}).context[
        "page"
    ]
    assert any("taken off" in note for note in page.notes) or "air" in page.trouble


def test_every_sample_of_a_long_run_is_shown(petrel: Build, client: Client, stranger: Membership) -> None:
    """50,000 rows: read, kept and handed on, each under two seconds of processor time on their own."""
    count = 50_000
    raw = run_table.write(
        {"time": np.arange(count) * 0.002, "rpm": np.linspace(60.0, 140.0, count), "torque": np.full(count, 55.0)}
    ).encode()
    begun = time.process_time()
    assert sent(client, petrel, "runs/", "run", file=upload(raw), standard="as measured").status_code == 200
    assert time.process_time() - begun < 4.0  # with the page that answers
    test = of(petrel, ProofKind.RUN)
    assert test.found["rows"] == count
    where = address(petrel, f"proof/runs/samples/?run={test.pk}")
    told = client.get(where).json()
    assert len([value for value in told["data"][1] if value is not None]) > 0.9 * len(told["data"][0])
    assert len(told["data"][0]) > 40_000
    assert client_for(stranger).get(where).status_code == 404
    assert client.get(address(petrel, "proof/runs/samples/?run=x&run=99999999")).json()["names"] == []


def test_the_report_after_a_failure(petrel: Build, client: Client, stranger: Membership) -> None:
    sent(client, petrel, "failure/", "failure", **{"mark-stem_seized": "seen", "mark-piston_mark": "absent"})
    client.post(
        address(petrel, "job/findings/"),
        {"act": "finding", "part": "valve", "place": "cylinder 2", "words": "held in its guide", "grade": "1"},
    )
    answer = client.get(address(petrel, "proof/failure/report.pdf"))
    assert answer["Content-Type"] == "application/pdf"
    text = " ".join(" ".join(page.extract_text() for page in PdfReader(io.BytesIO(answer.content)).pages).split())
    for words in (
        "Stem scored or held in its guide: there",
        "Mark of a valve on a piston",
        "What nobody can know",
        "held in its guide",
        "a stem seized in its guide".capitalize(),
    ):
        assert words in text, words
    assert client_for(stranger).get(address(petrel, "proof/failure/report.pdf")).status_code == 404


def wait_for(client: Client, build: Build, test: ProofTest) -> str:
    for _ in range(200):
        words = client.get(address(build, f"proof/working/{test.pk}/")).content.decode()
        if "being worked out" not in words:
            return words
        time.sleep(0.05)
    raise AssertionError(words)


def test_a_long_recording_is_worked_out_apart(petrel: Build, client: Client, viewer: Membership) -> None:
    """Its file is kept at once, nothing rests on it until it is heard, and then it stands as any other."""
    made = make(PullPlan(angles=tuple(math.tau * 2 * n / 3 for n in range(3)), top=140.0, giving=Giving.LIMITER, seconds=34.0), seed=3)
    raw = recording.write(made.samples, made.rate)
    assert len(raw) > 1_500_000
    began = time.perf_counter()
    answer = sent(client, petrel, "pulls/", "sound", phase="before", top="8400", file=upload(raw, "pull.wav"))
    assert answer.status_code == 200
    assert time.perf_counter() - began < 5.0
    assert "Leave it out" in answer.content.decode()
    test = of(petrel, ProofKind.SOUND)
    assert set(test.found) == {"pending"}
    assert client.get(address(petrel, "proof/")).context["page"].wanted[2].before is False
    assert sent(client, petrel, "pulls/", "anchor", test=test.pk, side="intake").status_code == 404
    assert unpacked(test.file) == raw
    assert "Show what is in it" in wait_for(client, petrel, test)
    assert "Show what is in it" not in client_for(viewer).get(address(petrel, f"proof/working/{test.pk}/")).content.decode()
    assert sent(client, petrel, "pulls/", "heard", test=test.pk).status_code == 200
    test.refresh_from_db()
    assert 60 * test.found["end"]["speed"] == pytest.approx(8400.0, rel=0.02)
    assert client.get(address(petrel, f"proof/working/{test.pk}/")).content.strip() == b""


def test_a_long_file_that_tells_nothing_says_so_and_is_left_out(petrel: Build, client: Client) -> None:
    noise = np.random.default_rng(2).standard_normal(20 * 44_100) * 1e-5
    sent(client, petrel, "pulls/", "sound", phase="before", top="8400", file=upload(recording.write(noise, 44_100), "still.wav"))
    test = of(petrel, ProofKind.SOUND)
    assert "silent" in wait_for(client, petrel, test)
    assert sent(client, petrel, "pulls/", "heard", test=test.pk).status_code == 200
    assert not client.get(address(petrel, "proof/pulls/")).context["tests"]
    assert sent(client, petrel, "pulls/", "remove", test=test.pk).status_code == 200
    assert not ProofFile.objects.exists()


def test_fifty_thousand_rows_are_imported_apart_within_two_seconds(petrel: Build, client: Client) -> None:
    """A pull of 50,000 rows; the time is of the whole way, from sending to what is shown."""
    speed = np.linspace(3000.0, 9000.0, 50_000)
    rows = "\n".join(f"{n * 1e-3:.3f},{rpm:.1f},{90 + 20 * math.sin(rpm / 3000):.3f},{0.87:.3f}" for n, rpm in enumerate(speed))
    began = time.perf_counter()
    sent(
        client,
        petrel,
        "runs/",
        "run",
        phase="before",
        standard="as measured",
        name="long",
        file=upload(f"time s,rpm,power kW,lambda\n{rows}".encode(), "run.csv"),
    )
    test = of(petrel, ProofKind.RUN)
    assert "Show what is in it" in wait_for(client, petrel, test)
    assert sent(client, petrel, "runs/", "heard", test=test.pk).status_code == 200
    took = time.perf_counter() - began
    test.refresh_from_db()
    assert test.found["rows"] == 50_000
    assert took < 6.0, took  # 2 s on a quiet machine, see docs; three times that while others work beside it


def test_a_pull_counts_among_the_causes_of_a_symptom(petrel: Build, client: Client) -> None:
    """What Proof saw moves the odds of Job's symptoms and of the planner alike; a symptom that is not about revs stays as it was."""
    where = address(petrel, "job/symptoms/")
    odds = lambda name: {each.name: each.now for each in client.get(where, {"symptom": name}).context["page"].causes}
    before, tick = odds("hard_wall"), odds("tick")
    sent(client, petrel, "pulls/", "rev", phase="before", speed="8300", by="tachometer", how="clatter", doubt="", stretch="", gear="")
    after = odds("hard_wall")
    assert after["Valve float"] > before["Valve float"] + 20
    assert after["Limiter"] < before["Limiter"]
    assert odds("tick") == tick
    assert "clatter</a>: the odds count it" in client.get(where, {"symptom": "hard_wall"}).content.decode()
    planned = client.get(address(petrel, "proof/next/")).context
    assert {cause: float(part) for cause, _, part in planned["odds"]}["float"] > 60
    assert "clatter" in planned["why"][0]


def test_a_shop_has_its_own_table_of_a_test_and_puts_the_usual_one_back(petrel: Build, client: Client) -> None:
    where = address(petrel, "proof/next/")
    cells = {
        f"p-{row}-{cause}": "50" if row < 2 else "" for row in range(4) for cause in ("float", "clearance", "fuel", "spark", "limiter")
    }
    row = lambda: next(each for each in client.get(where).context["rows"] if each.key == "gear")
    usual = row().takes
    assert sent(client, petrel, "next/", "table", key="gear", minutes="5,5", money="0", **cells).status_code == 200
    assert row().takes == "0 %"
    assert row().minutes == "6 min"
    assert row().own
    for wrong in ({"p-0-float": "often"}, {"minutes": "0"}, {"key": "wish"}, {"p-0-fuel": "nan"}, {"p-1-spark": "-4"}):
        told = {"key": "gear", "minutes": "5", "money": "0", **cells} | wrong
        assert sent(client, petrel, "next/", "table", **told).status_code == 422
    assert sent(client, petrel, "next/", "table", key="gear", usual="1").status_code == 200
    assert row().takes == usual
    assert not row().own


def road_file(slope: float) -> bytes:
    """A pull from 60 to 140 km/h by GPS, ten times a second, on a road that climbs."""
    lines, speed, time_ = ["time s,road km/h"], 60.0 / 3.6, 0.0
    while speed < 140.0 / 3.6:
        lines.append(f"{time_:.1f},{3.6 * speed:.3f}")
        gain = (24e3 / speed - 0.5 * 1.2 * 0.45 * speed**2 - 220.0 * 9.81 * (0.015 + slope)) / (220.0 * 1.03)
        speed, time_ = speed + 0.1 * gain, time_ + 0.1
    return "\n".join(lines).encode()


def test_road_pulls_there_and_back_are_one_run(petrel: Build, client: Client) -> None:
    told = {
        "phase": "before",
        "standard": "as measured",
        "mass": "220 kg",
        "at_100": "6000",
        "drag": "0.45",
        "dyno": "harbour road",
        "gear": "3",
        "wheel": "",
    }
    for way, slope in (("out", 0.02), ("back", -0.02)):
        answer = sent(client, petrel, "runs/", "run", **told, way=way, name=way, file=upload(road_file(slope), f"{way}.csv"))
        assert answer.status_code == 200, answer.content.decode()[-600:]
    page = client.get(address(petrel, "proof/runs/")).context["page"]
    assert page.heads == ["rpm", "out and back, kW"]
    middle = [float(row[1]) for row in page.table if row[1]]
    assert sorted(middle)[len(middle) // 2] == pytest.approx(24.0, rel=0.05)
    assert any("mean of both ways" in note for note in page.notes)
    alone = [test.pk for test in ProofTest.objects.filter(name="out")]
    page = client.get(address(petrel, "proof/runs/"), {"run": alone}).context["page"]
    up = [float(row[1]) for row in page.table if row[1]]
    assert sorted(up)[len(up) // 2] < sorted(middle)[len(middle) // 2] - 0.6  # what two in a hundred cost at 100 km/h: 1.2 kW
    assert any("one way" in note for note in page.notes)


def test_the_first_stroke_tells_rings_from_valves(petrel: Build, client: Client) -> None:
    """A needle that climbs pull by pull from little speaks for rings; more after the first stroke than at the end cannot be."""
    told = {"phase": "before", "dry_1": "12.0 bar", "dry_2": "12.1 bar", "dry_3": "8.0 bar", "first_1": "7 bar", "first_3": "2.1 bar"}
    answer = sent(client, petrel, "cylinders/", "compression", **told)
    assert answer.status_code == 200
    row = next(each for each in answer.context["tests"][0].rows if each.number == 3)
    assert "builds up" in row.causes
    assert of(petrel, ProofKind.COMPRESSION).readings["cylinders"]["3"]["first"] == pytest.approx(2.1e5)
    wrong = sent(client, petrel, "cylinders/", "compression", **told | {"first_1": "12.9 bar"})
    assert wrong.status_code == 422
    assert "cannot read more" in wrong.content.decode()


def test_a_vacuum_is_told_in_the_reader_s_units(petrel: Build, builder: Membership, client: Client) -> None:
    builder.user.unit_system = "inch"
    builder.user.save()
    page = sent(client_for(builder), petrel, "throttle/", "vacuum", readings="8000 0.9 psi", bore="1.4 in", throttles="1").content.decode()
    assert "mbar" not in page
    assert "psi" in page


def test_a_failure_is_weighed_with_the_highest_speed_on_record(petrel: Build, client: Client) -> None:
    """Nobody typed a log: the fastest test counts, named; the model's witnesses stand on the page and on paper."""
    sent(client, petrel, "pulls/", "rev", phase="before", speed="8450", by="logger", how="", doubt="", stretch="", gear="")
    answer = sent(client, petrel, "failure/", "failure", **{"mark-piston_mark": "seen", "mark-bent_all": "seen"})
    page = answer.content.decode()
    assert "8,450 rpm, rev test of" in page
    told = " ".join(words for suspect in answer.context["suspects"] for words in suspect.model)
    assert "meet the piston" in told
    assert "The highest that is known, 8,450 rpm" in told
    text = " ".join(
        " ".join(
            each.extract_text() for each in PdfReader(io.BytesIO(client.get(address(petrel, "proof/failure/report.pdf")).content)).pages
        ).split()
    )
    assert "The highest on record: 8,450 rpm" in text


def test_a_file_left_out_while_its_progress_is_asked_for_is_no_fault(petrel: Build, builder: Membership) -> None:
    answer = client_for(builder, htmx=True).get(address(petrel, "proof/working/999999/"))
    assert (answer.status_code, answer.content) == (204, b"")
