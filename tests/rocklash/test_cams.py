"""The Cams station: cards compared, and degree-wheel logs that become measured figures."""

import io
import json
import math
import re
from datetime import timedelta
from itertools import accumulate
from pathlib import Path

import ezdxf
import numpy as np
import openpyxl
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.http import HttpResponse

from rocklash.answers.rows import record_of
from rocklash.commands.builds import keep_record
from rocklash.demo import load
from rocklash.records.figure_column import stored_figure
from rocklash.records.models import Build, CamCandidate, CamLog, CamTiming, InstrumentRun, JournalEntry, Membership, Part, SetupSide
from rocklash.records.selectors.builds import build_or_404
from tests.rocklash.conftest import address, client_for
from valvetrain.formats.build_file import read
from valvetrain.parts.cam_card import CamCard, from_card
from valvetrain.parts.catalogue import FIGURES, Owner
from valvetrain.parts.engine import Side
from valvetrain.parts.figure import Basis
from valvetrain.quantities import from_unit
from valvetrain.simulators.degree_wheel import WheelStandIn
from valvetrain.studies.train.assembly import complete

TRUTH = from_card(CamCard(9.6e-3, ((1e-3, math.radians(248)),), 0.3e-3, 0.018e-3 * 180 / math.pi))


def log_text() -> str:
    cam = np.radians(np.arange(-110.0, 110.01, 1.0))
    lift = np.interp(np.abs(cam), TRUTH.angle, TRUTH.lift, right=0.0) + np.random.default_rng(1).normal(0.0, 0.01e-3, len(cam))
    rows = (f"{2 * math.degrees(angle) + 108:.1f};{value * 1e3:.3f}" for angle, value in zip(cam, lift, strict=True))
    return "crank deg;lift (mm)\n" + "\n".join(rows) + "\n"


def row_of(build: Build, side: str = "intake", role: str = "proposed") -> SetupSide:
    return SetupSide.objects.select_related("cam", "follower").get(setup__build=build, setup__role=role, side=side)


def cam_of(build: Build, side: str = "intake") -> Part:
    cam = row_of(build, side).cam
    assert cam is not None
    return cam


def lobe_address(build: Build, rest: str = "") -> str:
    return address(build, f"cams/lobe/{cam_of(build).pk}/{rest}")


def send(member: Membership, build: Build, raw: bytes, name: str = "log.csv", **more: str) -> HttpResponse:
    data = {"act": "log", "angles": "crank", "file": SimpleUploadedFile(name, raw)} | more
    return client_for(member).post(lobe_address(build), data)  # type: ignore[return-value]


def own_cam(build: Build, **figures: tuple[float, str]) -> Part:
    """A cam on the shelf, chosen for the proposed intake; values in the unit given."""
    stored = {
        key: stored_figure(Owner.CAM, key, from_unit(value, FIGURES[Owner.CAM, key].kind, unit), Basis.CARD, unit=unit)
        for key, (value, unit) in figures.items()
    }
    cam = Part.objects.create(workshop=build.workshop, kind="cam", name="Linnet 4", figures=stored)
    row = row_of(build)
    row.cam = cam
    row.save()
    return cam


def test_a_log_becomes_measured_figures_of_the_cam(petrel: Build, builder: Membership) -> None:
    answer = send(builder, petrel, log_text().encode())
    assert answer.status_code == 200
    cam = SetupSide.objects.get(setup__build=petrel, setup__role="proposed", side="intake").cam
    assert cam is not None
    assert cam.figures["lift"]["value"] == pytest.approx(9.6e-3, abs=0.02e-3)
    assert cam.figures["duration_1"]["value"] == pytest.approx(math.radians(248), abs=math.radians(0.5))
    assert {cam.figures[key]["basis"] for key in ("lift", "duration_1", "duration_2")} == {"measured"}
    kept = CamLog.objects.get()
    assert (kept.readings, kept.dropped, kept.coarse, kept.by) == (221, 0, False, builder.user)
    assert kept.text == log_text()
    html = answer.content.decode()
    assert "wheel, good: 221 readings, 0 left out" in html
    assert cam.lobe["origin"] == "degree wheel"
    board = client_for(builder).get(address(petrel, "cams/")).content.decode()
    assert "wheel, good: 221 readings" in board
    assert JournalEntry.objects.filter(verb="degree wheel").exists()


@pytest.mark.parametrize(
    ("raw", "part"),
    [
        (b"", "empty"),
        (b"PK\x03\x04", "packed or binary"),
        (b"crank,lift (mm)\n10,0.5\n12,high\n", "Row 3, column 2"),
        (b"1,1\n2,2\n3,3\n", "24 readings or more"),
        (b"".join(b"%d,%d\n" % (360 - n, n) for n in range(60)), "does not increase at reading 2"),
        (b"1,1\n" * 30_000, "20,000 are the most"),
        (b"1,1\n" * 1_000_000, "larger than 1 MB"),
        ("\ufeffcrank;lift (mm)\n1;x\n".encode("utf-16"), "Row 2, column 2"),
        (b"crank;lift (mm)\n1;0.1 kg\n", "Row 2, column 2"),
    ],
)
def test_a_bad_log_gets_a_sentence_and_nothing_is_kept(petrel: Build, builder: Membership, raw: bytes, part: str) -> None:
    before = SetupSide.objects.get(setup__build=petrel, setup__role="proposed", side="intake").cam
    answer = send(builder, petrel, raw)
    assert answer.status_code == 422
    after = SetupSide.objects.get(setup__build=petrel, setup__role="proposed", side="intake").cam
    assert before is not None
    assert after is not None
    assert after.figures == before.figures
    assert not CamLog.objects.exists()
    assert part in answer.content.decode()


def test_viewers_and_strangers_keep_no_log(petrel: Build, viewer: Membership, stranger: Membership) -> None:
    assert send(viewer, petrel, log_text().encode()).status_code == 403
    assert send(stranger, petrel, log_text().encode()).status_code == 404
    assert not CamLog.objects.exists()


def test_the_trade_is_told_for_dunlin_like_changes(petrel: Build, builder: Membership) -> None:
    """Stock and proposed share the cam until a log of another lobe is kept for a cam of its own."""
    html = client_for(builder).get(address(petrel, "cams/")).content.decode()
    assert "Both pairs of cams do the same." in html
    assert "Timing dial: 720 degrees of crank" in html
    assert "scope=row>stock intake<" in html


def test_a_pasted_log_in_inches_with_a_tilted_indicator(petrel: Build, builder: Membership) -> None:
    builder.user.unit_system = "inch"
    builder.user.save()
    lines = log_text().splitlines()[1:]
    pairs = [line.split(";") for line in lines]
    tilt = math.cos(math.radians(10))
    text = "\n".join(f"{angle} {float(lift) / 25.4 / tilt:.5f}" for angle, lift in pairs)
    answer = client_for(builder).post(lobe_address(petrel), {"act": "log", "text": text, "tilt": "10", "zero": "tdc", "at": "valve"})
    assert answer.status_code == 200
    cam = cam_of(petrel)
    assert cam.figures["lift"]["value"] == pytest.approx(9.6e-3, abs=0.02e-3)
    assert math.degrees(cam.figures["lobe_centre"]["value"]) == pytest.approx(108.0, abs=0.5)
    assert "10.0° off the valve" in answer.content.decode()


def test_a_refused_paste_stays_in_the_box(petrel: Build, builder: Membership) -> None:
    answer = client_for(builder).post(lobe_address(petrel), {"act": "log", "text": "1 2\n3 x"})
    assert answer.status_code == 422
    assert "3 x</textarea>" in answer.content.decode()


def test_points_can_be_set_aside(petrel: Build, builder: Membership) -> None:
    send(builder, petrel, log_text().encode())
    assert client_for(builder).post(lobe_address(petrel), {"act": "aside"}).status_code == 200
    assert cam_of(petrel).lobe is None
    assert CamLog.objects.exists()


def test_out_and_in_again(petrel: Build, builder: Membership) -> None:
    """What goes out as CSV and JSON comes in again as the same lobe; the build file carries it; XLSX and DXF open in their libraries."""
    send(builder, petrel, log_text().encode())
    client = client_for(builder)
    out = {form: client.get(lobe_address(petrel, f"out/{form}/")) for form in ("csv", "json", "xlsx", "dxf")}
    assert all(answer.status_code == 200 and "attachment" in answer["Content-Disposition"] for answer in out.values())
    sheet = openpyxl.load_workbook(io.BytesIO(out["xlsx"].content)).active
    assert sheet is not None
    assert max(row[1] for row in sheet.iter_rows(min_row=2, values_only=True)) == pytest.approx(9.6, abs=0.02)
    drawing = ezdxf.read(io.StringIO(out["dxf"].content.decode()))
    assert [entity.dxf.layer for entity in drawing.modelspace().query("LWPOLYLINE")] == ["LOBE"]
    assert client.get(lobe_address(petrel, "out/pdf/")).status_code == 404
    record = read(client.get(address(petrel, "file.json")).content.decode())
    assert record.proposed[Side.INTAKE].parts[Owner.CAM].lobe is not None
    for form, angles in (("csv", "cam"), ("json", "cam")):
        cam = cam_of(petrel)
        cam.lobe = None
        cam.save()
        data = {"act": "file", "file": SimpleUploadedFile(f"cam.{form}", out[form].content), "angles": angles, "at": "valve"}
        answer = client.post(lobe_address(petrel), data)
        assert answer.status_code == 200, answer.content.decode()
        lobe = cam_of(petrel).lobe
        assert lobe["origin"] == "lift table"
        assert max(lobe["lifts_mm"]) == pytest.approx(9.6, abs=0.02)
    data = {"act": "file", "side": "intake", "file": SimpleUploadedFile("build.json", client.get(address(petrel, "file.json")).content)}
    assert client.post(lobe_address(petrel), data).status_code == 200


@pytest.mark.parametrize(
    ("raw", "part"),
    [
        (b"{", "not JSON"),
        (b'{"format": "rocklash.lobe/1"}', "angles_deg"),
        (b'{"format": "rocklash.build/1", "name": "x"}', "engine"),
        (b"cam;lift (mm)\n1;1\n2;2\n", "eight rows or more"),
        (b"cam;lift (mm)\n" + b"".join(b"%d;%d\n" % (n, n * n) for n in range(30)), "both flanks"),
        (b"\x00\x01", "not text"),
    ],
)
def test_a_bad_file_gets_a_sentence(petrel: Build, builder: Membership, raw: bytes, part: str) -> None:
    answer = client_for(builder).post(lobe_address(petrel), {"act": "file", "file": SimpleUploadedFile("cam.txt", raw)})
    assert answer.status_code == 422
    assert part in answer.content.decode()
    assert cam_of(petrel).lobe is None


def test_the_card_asks_where_it_is_told(petrel: Build, builder: Membership) -> None:
    """After clearance: the lobe lifts more by the clearance on the card. Facts keep what was seen, and refuse what is unknown."""
    cam = own_cam(
        petrel, lift=(9.0, "mm"), height_1=(1.0, "mm"), duration_1=(240, "deg"), lobe_centre=(106, "deg"), card_clearance=(0.25, "mm")
    )
    client, where = client_for(builder), lobe_address(petrel)
    assert "9.00 mm" in client.get(where).content.decode()
    data = {"act": "fact", "fact": "stated_clearance", "word": "after", "seen": "before", "part": str(cam.pk)}
    assert "9.25 mm" in client.post(where, data).content.decode()
    assert client.post(where, data | {"word": "before", "seen": "before"}).status_code == 409
    assert client.post(where, data | {"word": "sideways", "seen": "after"}).status_code == 422
    follower = row_of(petrel).follower
    assert follower is not None
    data = {"act": "fact", "of": "follower", "fact": "contact", "word": "domed", "seen": "", "part": str(follower.pk)}
    client.post(where, {"act": "fact", "fact": "ground_for", "word": "flat", "seen": "", "part": str(cam.pk)})
    html = client.post(where, data).content.decode()
    assert "ground for a flat follower and rides under a domed one" in html
    assert client.post(where, data | {"part": "0"}).status_code == 404


def test_events_in_place_of_durations_and_their_contradiction(petrel: Build, builder: Membership) -> None:
    own_cam(petrel, lift=(9.0, "mm"), height_1=(1.0, "mm"), opens_1=(22, "deg"), shuts_1=(58, "deg"))
    html = client_for(builder).get(address(petrel, "cams/")).content.decode()
    assert "card, fair: one height" in html
    cam = own_cam(petrel, lift=(9.0, "mm"), height_1=(1.0, "mm"), opens_1=(22, "deg"), shuts_1=(58, "deg"))
    data = {"holder": f"part-{cam.pk}", "key": "duration_1", "text": "250", "basis": "card", "seen": "none"}
    answer = client_for(builder).post(lobe_address(petrel), data)
    assert answer.status_code == 422
    assert "give a duration of 260°, and the card says 250°" in answer.content.decode()


def test_candidates_are_laid_beside_proposed_and_taken_away(petrel: Build, builder: Membership) -> None:
    first = own_cam(petrel, lift=(9.4, "mm"), height_1=(1.0, "mm"), duration_1=(246, "deg"), lobe_centre=(106, "deg"))
    other = Part.objects.create(workshop=petrel.workshop, kind="cam", name="Sister cam", figures=first.figures)
    row, client, where = row_of(petrel), client_for(builder), address(petrel, "cams/?side=intake&height=0.05+in")
    html = client.post(where, {"act": "beside", "row": row.pk, "letter": "B", "part": other.pk}).content.decode()
    assert "B the proposed cam" in html
    assert "Duration at 1.27 mm" in html
    answer = client.post(where, {"act": "propose", "row": row.pk, "letter": "B", "seen": first.pk})
    assert answer.status_code == 200
    assert (row_of(petrel).cam, CamCandidate.objects.get().cam) == (other, first)
    assert client.post(where, {"act": "propose", "row": row.pk, "letter": "B", "seen": first.pk}).status_code == 409
    assert client.post(where, {"act": "beside", "row": row.pk, "letter": "D", "part": other.pk}).status_code == 422
    client.post(where, {"act": "beside", "row": row.pk, "letter": "B", "part": ""})
    assert not CamCandidate.objects.exists()
    assert (
        "“x” is no length" in client.get(address(petrel, "cams/?height=x")).content.decode()
        or "“x”" in client.get(address(petrel, "cams/?height=x")).content.decode()
    )


def test_a_candidate_that_contradicts_itself_is_told_and_the_others_stay(petrel: Build, builder: Membership) -> None:
    wrong = {"lift": (9.0, "mm"), "height_1": (1.0, "mm"), "duration_1": (252, "deg"), "height_2": (0.2, "mm"), "duration_2": (248, "deg")}
    stored = {
        key: stored_figure(Owner.CAM, key, from_unit(value, FIGURES[Owner.CAM, key].kind, unit), Basis.CARD, unit=unit)
        for key, (value, unit) in wrong.items()
    }
    cam = Part.objects.create(workshop=petrel.workshop, kind="cam", name="Misprint", figures=stored)
    where = address(petrel, "cams/")
    html = client_for(builder).post(where, {"act": "beside", "row": row_of(petrel).pk, "letter": "B", "part": cam.pk}).content.decode()
    assert "248° at 0.20 mm and 252° at 1.00 mm cannot both be" in html
    assert "Both pairs of cams do the same." in html
    assert client_for(builder).get(address(petrel, f"cams/lobe/{cam.pk}/out/csv/")).status_code == 409


def test_degreeing_in_names_tooth_slot_and_rest(petrel: Build, builder: Membership) -> None:
    client, row = client_for(builder), row_of(petrel)
    for key, text, seen in (("sprocket_teeth", "34", "38 card"), ("sprocket_holes", "10", "none"), ("flange_holes", "11", "none")):
        client.post(address(petrel, "cams/timing/"), {"holder": "engine", "key": key, "text": text, "basis": "card", "seen": seen})
    wanted = math.degrees(row.cam.figures["lobe_centre"]["value"])  # type: ignore[union-attr]
    data = {"act": "degree", "row": row.pk, "first": str(wanted + 8 - 35), "second": str(wanted + 8 + 35)}
    html = client.post(address(petrel, "cams/timing/"), data).content.decode()
    assert "advance it by 8.0°: 1 slot moves 6.5°, 1.5° stay" in html
    assert "One tooth moves the cam by 21.2°" in html
    assert CamTiming.objects.get().centre == pytest.approx(math.radians(wanted + 8))
    answer = client.post(address(petrel, "cams/timing/"), data | {"first": "140", "second": "70"})
    assert answer.status_code == 422
    assert "keep turning the engine forwards" in answer.content.decode()
    assert 'value="140"' in answer.content.decode()


def test_an_exhaust_is_told_before_tdc(petrel: Build, builder: Membership) -> None:
    row = row_of(petrel, "exhaust")
    wanted = math.degrees(row.cam.figures["lobe_centre"]["value"])  # type: ignore[union-attr]
    data = {"act": "degree", "row": row.pk, "first": str(-wanted - 40), "second": str(-wanted + 40)}
    html = client_for(builder).post(address(petrel, "cams/timing/?side=exhaust"), data).content.decode()
    assert "within a degree" in html


def test_phaser_and_low_lobe_are_told(petrel: Build, builder: Membership) -> None:
    client = client_for(builder)
    data = {"holder": "engine", "key": "phaser_intake_advance", "text": "30", "basis": "card", "seen": "0.34906585 card"}
    html = client.post(address(petrel, "cams/timing/"), data).content.decode()
    centre = math.degrees(cam_of(petrel).figures["lobe_centre"]["value"])
    assert f"The lobe centre runs from {centre - 30:.0f}° to {centre:.0f}° after overlap TDC." in html
    other = data | {"key": "phaser_exhaust_advance", "text": "20", "seen": "none"}
    centre = math.degrees(cam_of(petrel, "exhaust").figures["lobe_centre"]["value"])
    html = client.post(address(petrel, "cams/timing/?side=exhaust"), other).content.decode()
    assert f"The lobe centre runs from {centre:.0f}° to {centre + 20:.0f}° before overlap TDC." in html
    low = Part.objects.create(workshop=petrel.workshop, kind="cam", name="Low lobe", figures={})
    tall = {"lift": stored_figure(Owner.CAM, "lift", 0.013, Basis.CARD)}
    high = Part.objects.create(workshop=petrel.workshop, kind="cam", name="Too tall", figures=tall)
    row = row_of(petrel)
    refused = client.post(address(petrel, "cams/timing/"), {"row": row.pk, "slot": "low_cam", "part": high.pk, "seen": ""})
    assert "are they swapped?" in refused.content.decode()
    low.figures = {"lift": stored_figure(Owner.CAM, "lift", 0.006, Basis.CARD)}
    low.save()
    assert client.post(address(petrel, "cams/timing/"), {"row": row.pk, "slot": "low_cam", "part": low.pk, "seen": ""}).status_code == 200
    html = client.get(address(petrel, "cams/")).content.decode()
    assert "Low lobe: lift 6.00 mm" in html
    assert "range the overlap runs from" in html
    assert "d-phaser" in html


def test_the_simulated_wheel_gives_readings_as_they_are_taken(practice: Build, builder: Membership, viewer: Membership) -> None:
    petrel = practice
    client, where = client_for(builder), lobe_address(petrel, "wheel/")
    assert "Turn the simulated wheel" in client.get(where).content.decode()
    assert 'hx-trigger="every' in client.post(where, {"act": "begin"}).content.decode()
    run = InstrumentRun.objects.get()
    InstrumentRun.objects.update(begun_at=run.begun_at - timedelta(seconds=3))
    html = client.get(where).content.decode()
    taken = int(re.search(r"(\d+) of (\d+) readings", html).group(1))  # type: ignore[union-attr]
    assert 75 <= taken < 130
    assert ", stopped" in client.post(where, {"act": "stop"}).content.decode()
    InstrumentRun.objects.update(begun_at=run.begun_at - timedelta(seconds=60))
    done = client.get(where).content.decode()
    assert "pass complete" in done
    text = re.search(r"readonly>([^<]+)</textarea>", done).group(1)  # type: ignore[union-attr]
    assert client.post(lobe_address(petrel), {"act": "log", "text": text, "tilt": "4", "zero": "tdc"}).status_code == 200
    device = WheelStandIn(run.seed)
    assert cam_of(petrel).figures["lift"]["value"] == pytest.approx(device.truth.full, abs=0.03e-3)
    assert client_for(viewer).post(where, {"act": "begin"}).status_code == 403
    seen = client_for(viewer).get(lobe_address(petrel))
    assert seen.status_code == 200
    assert "Fit and keep" not in seen.content.decode()


def test_cams_of_others_are_not_there(petrel: Build, stranger: Membership, builder: Membership) -> None:
    foreign = stranger.workshop.parts.create(kind="cam", name="theirs")
    client = client_for(builder)
    for rest in ("", "wheel/", "out/csv/"):
        assert client.get(address(petrel, f"cams/lobe/{foreign.pk}/{rest}")).status_code == 404
    data = {"act": "beside", "row": row_of(petrel).pk, "letter": "B", "part": foreign.pk}
    assert client.post(address(petrel, "cams/"), data).status_code == 404
    assert client.get(lobe_address(petrel)).status_code == 200
    assert client_for(stranger).get(lobe_address(petrel)).status_code == 404


def test_a_new_cam_begins_with_nothing_known(petrel: Build, builder: Membership) -> None:
    client, data = client_for(builder), {"act": "new", "row": row_of(petrel).pk, "name": "Linnet 9"}
    answer = client.post(address(petrel, "cams/?side=intake"), data)
    cam = Part.objects.get(name="Linnet 9")
    assert answer["Location"].endswith(f"/cams/lobe/{cam.pk}/?side=intake")
    assert "poor: durations estimated" in client.get(answer["Location"]).content.decode()
    assert CamCandidate.objects.get().letter == "B"
    assert "unproven" in client.get(address(petrel, "cams/")).content.decode()
    again = client.post(address(petrel, "cams/"), data)
    assert again.status_code == 422
    assert "already" in again.content.decode()
    assert client.post(address(petrel, "cams/"), data | {"name": " "}).status_code == 422


def test_inches_reach_every_figure_of_the_comparison(petrel: Build, builder: Membership) -> None:
    builder.user.unit_system = "inch"
    builder.user.save()
    html = client_for(builder).get(address(petrel, "cams/")).content.decode()
    assert "in·deg" in html
    assert "ksi" in html
    assert "mm·deg" not in html
    assert "km/s" not in html


def _unpacked(row: str) -> np.ndarray:
    one, *bends = map(int, row.split())
    return np.cumsum(np.cumsum(bends)) / one


def test_the_crosshair_reads_what_the_core_computes(petrel: Build, builder: Membership) -> None:
    """The page's own numbers against the lift curve: at the lobe centre full lift less clearance, speed zero, the section at rest."""
    html = client_for(builder).get(address(petrel, "cams/")).content.decode()
    found = json.loads(re.search(r'<script id="cam-data" type="application/json">(.+?)</script>', html).group(1))  # type: ignore[union-attr]
    train = complete(record_of(build_or_404(petrel.workshop, petrel.pk))).proposed.sides[Side.INTAKE]
    place = round((found["centre"] - found["low"]) / found["step"])
    lift, speed, bend, jerk = (_unpacked(row["A"])[place] for row in found["series"])
    assert found["centre"] == pytest.approx(math.degrees(train.lobe_centre.value))
    assert lift == pytest.approx((train.curve.full - train.clearance.value) * 1e3, abs=0.01)
    assert speed == pytest.approx(0.0, abs=0.2)
    omega = math.pi * complete(record_of(build_or_404(petrel.workshop, petrel.pk))).goal.goal_rpm
    assert bend == pytest.approx(float(train.curve.acceleration[train.curve.nose]) * omega**2 / 1e3, rel=0.01)
    drawn = re.findall(r'<path class="p-proposed" d="M[\d.-]+,([\d.-]+)l([^"]+)"', html)
    first, slope = found["scales"][2]
    heights = accumulate((float(step.split(",")[1]) for step in drawn[2][1].split()), initial=float(drawn[2][0]))
    highest = max((height - first) / slope for height in heights)
    assert highest == pytest.approx(train.curve.acceleration.max() * omega**2 / 1e3, rel=0.01)
    assert abs(jerk) < 5.0
    angle, move, *touch = (_unpacked(row) for row in (found["turn"]["angle"], found["turn"]["move"], *found["turn"]["touch"]))
    rest = int(np.abs(angle).argmin())
    assert move[rest] == 0.0
    assert move.min() < -20.0  # a bucket stands higher on the base circle, in pixels up
    assert len(angle) == len(move) == len(touch[0]) == len(touch[1])


@pytest.mark.parametrize(("side", "error", "words"), [
    ("intake", 12, "advance it by 12.0°: 2 slots move 13.1°, 1.1° stay"),
    ("intake", -22, "retard it by 22.0°: 1 tooth moves 21.2°, 0.8° stay"),
    ("exhaust", 7, "retard it by 7.0°: 1 slot moves 6.5°, 0.5° stay"),
    ("exhaust", -2, "advance it by 2.0°: less than half a step"),
    ("intake", 0.6, "within a degree"),
])  # fmt: skip
def test_what_corrects_an_error_of_timing(petrel: Build, builder: Membership, side: str, error: float, words: str) -> None:
    """METHODS 3.4: 34 teeth 21.176471 deg, holes 10 and 11 6.5454545 deg of the crank; what leaves the least is named."""
    client, where = client_for(builder), address(petrel, f"cams/timing/?side={side}")
    for key, text, seen in (("sprocket_teeth", "34", "38 card"), ("sprocket_holes", "10", "none"), ("flange_holes", "11", "none")):
        client.post(where, {"holder": "engine", "key": key, "text": text, "basis": "card", "seen": seen})
    sign = 1 if side == "intake" else -1
    centre = sign * (math.degrees(cam_of(petrel, side).figures["lobe_centre"]["value"]) + error)
    data = {"act": "degree", "row": row_of(petrel, side).pk, "first": f"{centre - 40:.4f}", "second": f"{centre + 40:.4f}"}
    assert words in client.post(where, data).content.decode()


def test_a_finger_engine_tells_caliper_lift_through_its_ratio(builder: Membership) -> None:
    """Demo of two caliper heights: 37.55 less 36.98 mm times 1.25 is 0.71 mm at the valve, on both pages alike (definition)."""
    record = read((Path(load.__file__).parent / "builds/dunlin_598.json").read_text(encoding="utf-8"))
    build = keep_record(builder, record)
    own_cam(build, lobe_height=(37.55, "mm"), base_diameter=(30.0, "mm"))
    client = client_for(builder)
    for page in (address(build, "cams/"), lobe_address(build)):
        assert "0.71 mm more lift at the valve" in client.get(page).content.decode()
