"""The Cams station: cards compared, and degree-wheel logs that become measured figures."""

import math

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.http import HttpResponse

from rocklash.records.models import Build, CamLog, Entry, Membership, SetupSide
from tests.rocklash.conftest import address, client_for
from valvetrain.parts.cam_card import CamCard, from_card

TRUTH = from_card(CamCard(9.6e-3, ((1e-3, math.radians(248)),), 0.3e-3, 0.018e-3 * 180 / math.pi))


def log_text() -> str:
    cam = np.radians(np.arange(-110.0, 110.01, 1.0))
    lift = np.interp(np.abs(cam), TRUTH.angle, TRUTH.lift, right=0.0) + np.random.default_rng(1).normal(0.0, 0.01e-3, len(cam))
    rows = (f"{2 * math.degrees(angle) + 108:.1f};{value * 1e3:.3f}" for angle, value in zip(cam, lift, strict=True))
    return "crank deg;lift (mm)\n" + "\n".join(rows) + "\n"


def send(member: Membership, build: Build, raw: bytes, name: str = "log.csv") -> HttpResponse:
    row = SetupSide.objects.get(setup__build=build, setup__role="proposed", side="intake")
    data = {"row": row.pk, "angles": "crank", "log": SimpleUploadedFile(name, raw)}
    return client_for(member).post(address(build, "cams/"), data)  # type: ignore[return-value]


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
    assert "degree wheel, good: 221 readings" in html
    assert Entry.objects.filter(what="degree wheel").exists()


@pytest.mark.parametrize(
    ("raw", "part"),
    [
        (b"", "empty"),
        (b"PK\x03\x04", "packed or binary"),
        (b"crank,lift (mm)\n10,0.5\n12,high\n", "Row 3, column 2"),
        (b"1,1\n2,2\n3,3\n", "24 readings or more"),
        (b"".join(b"%d,%d\n" % (360 - n, n) for n in range(60)), "does not increase at reading 2"),
        (b"1,1\n" * 30_000, "20,000 are the most"),
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
    assert "Timing over 720 degrees" in html
