"""Jobs on the site: begun, ticked, moved, broken off and mended, waited for, found, helped, and closed."""

import io
import time
from collections.abc import Callable
from datetime import timedelta
from typing import Any

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from django.utils import timezone
from icalendar import Calendar
from PIL import Image
from pypdf import PdfReader

from rocklash.answers.clearances import stale_sheet
from rocklash.answers.job import done_of, pace_of, plan_of
from rocklash.records.models import (
    Build,
    Finding,
    FindingPicture,
    Job,
    JobDetour,
    JobOverride,
    JobTick,
    JobWait,
    JournalEntry,
    Membership,
    PartPlace,
    ShopOrder,
    ShopReading,
    Workshop,
)  # fmt: skip
from rocklash.records.selectors.builds import build_or_404, last_session
from rocklash.records.selectors.job import detours_of, ticks_of
from tests.rocklash.conftest import address, client_for
from valvetrain.parts.engine import Side
from valvetrain.studies.job.facts import JobKind
from valvetrain.studies.job.plan import Plan, PlanItem


@pytest.fixture
def client(builder: Membership) -> Client:
    return client_for(builder)


def begin(client: Client, build: Build, kind: str = "springs", **more: Any) -> Job:
    sent = {
        "act": "begin-job",
        "kind": kind,
        "here": "machine",
        "in_frame": "on",
        "has": ["liquid", "ratchet"],
        "asks": ["runs"],
        "renewed": ["spring"],
        **more,
    }
    answer = client.post(address(build, "job/"), sent)
    assert answer.status_code == 200, answer.context["refused"]
    return Job.objects.get(build=build, closed_at=None)


def planned(job: Job) -> Plan:
    plan = plan_of(job, job.build, detours_of(job))
    assert isinstance(plan, Plan)
    return plan


def tick(client: Client, job: Job, item: PlanItem | str, place: str = "", **more: str) -> Any:
    key = item if isinstance(item, str) else item.key
    return client.post(address(job.build, "job/"), {"act": "tick", "key": key, "place": place, **more})


def until(client: Client, job: Job, key: str) -> None:
    """Tick everything before a step, in order."""
    for item in planned(job).items:
        if item.key == key:
            return
        for place in item.places or ("",):
            JobTick.objects.get_or_create(job=job, key=item.key, place=place)
    raise AssertionError(key)


def test_a_job_is_begun_ticked_and_undone(petrel: Build, client: Client) -> None:
    job = begin(client, petrel)
    assert job.kind == JobKind.SPRINGS
    assert client.post(address(petrel, "job/"), {"act": "begin-job", "kind": "full"}).status_code == 409
    first = planned(job).items[0]
    assert tick(client, job, first).status_code == 200
    assert tick(client, job, first).status_code == 200  # ticked already: nothing more to do
    assert JobTick.objects.filter(job=job, key=first.key).count() == 1
    page = client.get(address(petrel, "job/")).context["page"]
    assert page.step.key == planned(job).items[1].key
    entry = JournalEntry.objects.filter(build=petrel, verb="step done").get()
    assert client.post(address(petrel, "job/"), {"act": "undo", "entry": str(entry.pk)}).status_code == 200
    assert not JobTick.objects.filter(job=job).exists()


def test_a_place_at_a_time(petrel: Build, client: Client) -> None:
    job = begin(client, petrel)
    item = next(each for each in planned(job).items if len(each.places) > 1)
    until(client, job, item.key)
    assert tick(client, job, item, item.places[0], said="0.18 mm, tight").status_code == 200
    page = client.get(address(petrel, f"job/?step={item.key}")).context["page"]
    assert page.step.progress.startswith(f"1 of {item.times}")
    assert page.step.places[0].said == "0.18 mm, tight"
    assert tick(client, job, item, "EX 9").status_code == 422
    tick(client, job, item)
    assert JobTick.objects.filter(job=job, key=item.key).count() == item.times
    client.post(address(petrel, "job/"), {"act": "untick", "key": item.key, "place": item.places[1]})
    assert JobTick.objects.filter(job=job, key=item.key).count() == item.times - 1


def test_a_rule_says_which_and_why_and_is_overridden_only_with_a_reason(petrel: Build, client: Client) -> None:
    """Keepers before the valve is held: refused with the rule; with a reason it is kept and printed."""
    job = begin(client, petrel)
    refused = tick(client, job, "s03-1")
    assert refused.status_code == 422
    assert "First:" in refused.context["refused"]
    assert refused.context["page"].step.grave
    assert not JobTick.objects.exists()
    assert tick(client, job, "s03-1", sure="yes").status_code == 422  # knowing is not enough where somebody is hurt
    assert tick(client, job, "s03-1", reason="held from below, bore open").status_code == 200
    assert JobOverride.objects.filter(job=job, reason="held from below, bore open").exists()
    assert "held from below, bore open" in client.get(address(petrel, "job/")).content.decode()
    note = next(each for each in planned(job).items if each.step.id == "p03")
    later = next(each for each in planned(job).items if each.step.id == "o12")
    assert note
    assert tick(client, job, later, reason="checked twice").status_code == 200


def test_what_is_open_stands_on_every_page_and_closes_nothing(petrel: Build, client: Client) -> None:
    job = begin(client, petrel)
    until(client, job, "s05-1")
    for page in ("", "engine/", "lash/", "room/", "job/findings/"):
        text = client.get(address(petrel, page)).content.decode()
        assert "Engine open" in text, page
        assert "keepers" in text, page
    close = tick(client, job, "z06", reason="")
    assert close.status_code == 422
    assert client.post(address(petrel, "job/"), {"act": "close"}).status_code == 422
    assert Job.objects.get(pk=job.pk).closed_at is None
    done = client.post(address(petrel, "job/"), {"act": "close", "reason": "handed over to the owner open"})
    assert done.status_code == 200
    assert Job.objects.get(pk=job.pk).closed_at is not None
    assert "Engine open" not in client.get(address(petrel, "lash/")).content.decode()
    assert tick(client, job, "p05").status_code == 409


def test_a_cover_is_not_closed_over_what_is_missing(petrel: Build, client: Client) -> None:
    job = begin(client, petrel)
    until(client, job, "z06")
    JobTick.objects.filter(job=job, key="a13-2").delete()  # the rope of cylinder 2
    refused = tick(client, job, "z06")
    assert refused.status_code == 422
    assert "rope" in refused.context["refused"]
    JobTick.objects.create(job=job, key="a13-2", place=next(each for each in planned(job).items if each.key == "a13-2").places[0])
    assert tick(client, job, "z06").status_code == 200


def test_a_step_is_put_earlier_but_not_against_a_rule(petrel: Build, client: Client) -> None:
    job = begin(client, petrel, kind="full")
    keys = [item.key for item in planned(job).items]
    free = {"act": "move", "key": "p11", "before": keys[0]}
    assert client.post(address(petrel, "job/"), free).status_code == 200
    job.refresh_from_db()
    assert planned(job).items[0].key == "p11"
    against = {"act": "move", "key": "a04", "before": "v02" if "v02" in keys else "s09"}
    refused = client.post(address(petrel, "job/"), against)
    assert refused.status_code == 422
    assert "First:" in refused.context["refused"]
    assert client.post(address(petrel, "job/"), against | {"reason": "head is new"}).status_code == 200
    assert client.post(address(petrel, "job/"), {"act": "move", "key": "p11", "before": "nothing"}).status_code == 409


def test_a_broken_stud_puts_its_steps_in_and_moves_the_date(petrel: Build, client: Client) -> None:
    job = begin(client, petrel, kind="full")
    before = client.get(address(petrel, "job/")).context["course"].found
    until(client, job, "o23")
    clear = client.get(address(petrel, "job/")).context["course"].found
    assert clear.middle <= before.middle
    struck = client.post(address(petrel, "job/"), {"act": "trouble", "key": "o23", "trouble": "guide", "note": "EX 2 rocks"})
    assert struck.status_code == 200
    page, course = struck.context["page"], struck.context["course"]
    assert page.step.key == "t1.1"
    assert page.step.detour == "A guide is worn"
    assert course.found.late > clear.late
    assert tick(client, job, "o23").status_code == 422  # the trouble comes first
    for number in range(1, 4):
        assert tick(client, job, f"t1.{number}").status_code == 200
    wait = JobWait.objects.get(job=job)
    assert client.post(address(petrel, "job/dates/"), {"act": "got", "wait": str(wait.pk)}).status_code == 200
    assert tick(client, job, "o23").status_code == 200
    detour = JobDetour.objects.get(job=job)
    assert client.post(address(petrel, "job/"), {"act": "untrouble", "detour": str(detour.pk)}).status_code == 200
    assert not JobTick.objects.filter(job=job, key__startswith="t1.").exists()
    assert client.post(address(petrel, "job/"), {"act": "trouble", "key": "n01", "trouble": "meteor"}).status_code == 422


def test_waits_promise_and_habits(petrel: Build, client: Client) -> None:
    job = begin(client, petrel)
    where, today = address(petrel, "job/dates/"), timezone.localdate()
    wrong = client.post(
        where, {"act": "wait", "what": "Retainer", "kind": "parts", "first": str(today + timedelta(days=9)), "last": str(today)}
    )
    assert wrong.status_code == 422
    assert "turn them round" in wrong.content.decode()
    assert "Retainer" in wrong.content.decode()
    sent = {
        "act": "wait",
        "what": "Retainer EX 3",
        "kind": "parts",
        "first": str(today + timedelta(days=20)),
        "last": str(today + timedelta(days=24)),
        "key": "a07-3",
        "price": "36.50",
    }
    assert client.post(where, sent).status_code == 200
    course = client.get(where).context["course"]
    assert course.found.early >= today + timedelta(days=20)
    assert client.post(where, {"act": "promise", "promised": str(today + timedelta(days=21))}).status_code == 200
    assert client.get(where).context["course"].found.kept < 0.6
    assert client.post(where, {"act": "habits", "day_hours": "0", "hour_price": "60"}).status_code == 422
    assert client.post(where, {"act": "habits", "day_hours": "3", "hour_price": "60", "keepers": "tool"}).status_code == 200
    shop = Workshop.objects.get(pk=petrel.workshop_id)
    assert shop.schools["keepers"] == "tool"
    page = client.get(where)
    assert any("Together" in cost.what for cost in page.context["course"].costs)
    assert "of work later" in page.content.decode()
    text = client.get(address(petrel, "job/dates.ics")).content
    events = Calendar.from_ical(text).walk("VEVENT")
    assert len(events) == 3
    assert any("Retainer EX 3" in str(event["summary"]) for event in events)
    assert job


def test_a_school_is_changed_for_the_job(petrel: Build, client: Client) -> None:
    job = begin(client, petrel)
    assert any(item.step.id == "h02" for item in planned(job).items)
    assert client.post(address(petrel, "job/"), {"act": "way", "school": "hold", "way": "air"}).status_code == 200
    job.refresh_from_db()
    ids = {item.step.id for item in planned(job).items}
    assert "h05" in ids
    assert "h02" not in ids
    assert client.post(address(petrel, "job/"), {"act": "way", "school": "hold", "way": "hope"}).status_code == 422


def photo(width: int = 900, height: int = 700, *, text: bytes = b"") -> SimpleUploadedFile:
    out = io.BytesIO()
    picture = Image.effect_noise((width, height), 80).convert("RGB")
    exif = Image.Exif()
    exif[0x010F] = "secret maker"
    picture.save(out, "JPEG", exif=exif, quality=90)
    return SimpleUploadedFile("found.jpg", text or out.getvalue(), content_type="image/jpeg")


def test_a_finding_with_its_picture(petrel: Build, client: Client, viewer: Membership, stranger: Membership) -> None:
    where = address(petrel, "job/findings/")
    assert client.post(where, {"act": "finding", "valve": "EX 3 aft", "sign": "", "part": "retainer", "words": ""}).status_code == 422
    assert client.post(where, {"act": "finding", "valve": "EX 3 aft", "sign": "spr-rust", "part": "retainer"}).status_code == 422
    assert (
        client.post(
            where, {"act": "finding", "valve": "EX 3 aft", "sign": "ret-hair", "words": "3 mm long", "measured": "dye bleeds"}
        ).status_code
        == 200
    )
    row = Finding.objects.get()
    assert (row.number, row.part, row.grade) == (1, "retainer", 1)
    page = client.get(where)
    assert page.context["found"][0].follows.startswith("Renew it")
    kept = client.post(where, {"act": "picture", "finding": str(row.pk), "caption": "the line", "file": photo()})
    assert kept.status_code == 200
    picture = FindingPicture.objects.get()
    raw = client.get(address(petrel, f"job/findings/{picture.pk}.jpg"))
    assert raw["Content-Type"] == "image/jpeg"
    assert b"secret maker" not in raw.content
    assert client_for(stranger).get(address(petrel, f"job/findings/{picture.pk}.jpg")).status_code == 404
    assert client_for(viewer).get(address(petrel, f"job/findings/{picture.pk}.jpg")).status_code == 200
    none = client.post(where, {"act": "picture", "finding": str(row.pk), "file": photo(text=b"no picture at all")})
    assert none.status_code == 422
    assert "no photograph" in none.context["refused"]
    big = client.post(where, {"act": "picture", "finding": str(row.pk), "file": SimpleUploadedFile("big.jpg", bytes(60_000_000))})
    assert big.status_code == 422
    assert "larger than 12 MB" in big.context["refused"]
    empty = client.post(where, {"act": "picture", "finding": str(row.pk)})
    assert empty.status_code == 422
    report = client.get(address(petrel, "job/findings/report.pdf"))
    while report["Content-Type"] != "application/pdf":
        report = client.get(address(petrel, "job/findings/report.pdf"))
    pdf = PdfReader(io.BytesIO(report.content))
    text = "".join(sheet.extract_text() for sheet in pdf.pages)
    assert "Radial hairline" in text
    assert sum(len(sheet.images) for sheet in pdf.pages) == 1
    assert client.post(where, {"act": "settle", "finding": str(row.pk), "settled": "renewed"}).status_code == 200
    assert client.get(address(petrel, "job/findings/")).context["open"] == 0
    assert client.post(where, {"act": "unpicture", "picture": str(picture.pk)}).status_code == 200
    assert not FindingPicture.objects.exists()


def test_twenty_pictures_of_a_phone(petrel: Build, client: Client) -> None:
    """Twenty are taken in, eight of them of some 8 MB, made small, and no page takes more than a second of a processor (the median of the eight)."""
    where = address(petrel, "job/findings/")
    client.post(where, {"act": "finding", "valve": "EX 1 fore", "sign": "val-cup"})
    row = Finding.objects.get()
    raw = photo(3600, 2700).read()
    assert 6e6 < len(raw) < 12e6
    small = photo(1200, 900).read()
    took = []
    for number in range(20):
        begun = time.process_time()
        sent = client.post(
            where,
            {
                "act": "picture",
                "finding": str(row.pk),
                "file": SimpleUploadedFile("p.jpg", raw if number < 8 else small, content_type="image/jpeg"),
            },
        )
        took.append(time.process_time() - begun)
        assert sent.status_code == 200
    assert FindingPicture.objects.count() == 20
    assert sorted(took[:8])[4] < 1.0
    assert max(len(bytes(each.data)) for each in FindingPicture.objects.all()) < 1_500_000


def test_where_parts_went(petrel: Build, client: Client) -> None:
    where = address(petrel, "job/valves/")
    sent = {
        "act": "place",
        "slot": "retainer",
        "came_from": "IN 2 aft",
        "valve": "EX 3 aft",
        "way": "as it was",
        "why": "the best to the worst place",
    }
    assert client.post(where, sent).status_code == 200
    assert "from IN 2 aft" in client.get(where).content.decode()
    twice = client.post(where, sent | {"valve": "EX 1 fore"})
    assert twice.status_code == 422
    assert "one part lies in one place" in twice.context["refused"]
    assert client.post(where, sent | {"slot": "soul"}).status_code == 422
    assert client.post(where, sent | {"came_from": "nowhere"}).status_code == 422
    assert (
        client.post(
            where, {"act": "place", "slot": "retainer", "came_from": "EX 3 aft", "valve": "EX 3 aft", "way": "as it was"}
        ).status_code
        == 200
    )
    assert not PartPlace.objects.exists()


def test_helpers_compute_and_keep(petrel: Build, client: Client) -> None:
    where = address(petrel, "job/helpers/")
    page = client.get(where).context["page"]
    assert {view.side for view in page.caps} == {"intake", "exhaust"}
    assert all(view.lines[-1].thrust for view in page.caps)
    assert len(page.air) == 12
    begin(client, petrel)
    bad = client.post(where, {"act": "helper", "stages": "30 Nm, 10 Nm"})
    assert bad.status_code == 422
    assert "stages rise" in bad.content.decode()
    good = client.post(
        where, {"act": "helper", "rows": "2", "columns": "4", "stages": "10 Nm, 25 Nm, 90°", "pressure": "4 bar", "thrust": "far"}
    )
    assert good.status_code == 200
    assert [name for name, _ in good.context["page"].stages] == ["Round 1", "Round 2", "Round 3"]
    assert "18.4 lbf ft" in good.content.decode() or "18.4" in good.content.decode()
    assert Job.objects.get(build=petrel).helper["pressure"] == pytest.approx(4e5)
    assert client.post(where, {"act": "helper", "pressure": "60 bar"}).status_code == 422


def test_a_symptom_leads_to_a_job(petrel: Build, client: Client) -> None:
    where = address(petrel, "job/symptoms/")
    assert "What does it do?" in client.get(where).content.decode()
    page = client.get(where + "?symptom=rough&said=blades:yes").context["page"]
    assert page.causes[0].name == "Clearance too tight"
    assert page.causes[0].now > page.causes[0].before
    assert client.get(where + "?symptom=rough&said=x:yes&said=blades:maybe&said=blades:yes&said=blades:no").status_code == 200
    assert client.get(where + "?symptom=%3Cscript%3E").status_code == 200
    assert client.get(where + "?symptom=%00").status_code == 400
    form = client.get(address(petrel, "job/?kind=clearances")).context["form"]
    assert form["kind"].value() == "clearances"


def test_bench_and_wall(petrel: Build, client: Client) -> None:
    for page in ("job/bench/", "job/wall/", "job/dates.ics", "job/dates/"):
        assert client.get(address(petrel, page)).status_code == 200
    job = begin(client, petrel)
    page = client.get(address(petrel, "job/bench/?step=s03-1"))
    units = page.context["bench"].units
    assert sum(len(item.places or ("",)) for item in planned(job).items) == len(units)
    assert [unit["asked"] for unit in units].count(True) == next(item for item in planned(job).items if item.key == "s03-1").times
    wall = client.get(address(petrel, "job/wall/?codes=each")).content.decode()
    assert wall.count('class="qr"') > len(planned(job).items)


def test_a_tick_from_the_bench_is_kept_once(petrel: Build, client: Client, viewer: Membership, stranger: Membership) -> None:
    job = begin(client, petrel)
    first = planned(job).items[0]
    where = address(petrel, f"job/tick/{first.key}/")
    assert client.post(where, {"once": "7"}).json() == {"state": "kept", "sentence": ""}
    assert client.post(where, {"once": "7"}).status_code == 200
    assert JobTick.objects.count() == 1
    early = client.post(address(petrel, "job/tick/s03-1/"), {"once": "8"})
    assert early.status_code == 422
    assert "First:" in early.json()["sentence"]
    assert client.post(address(petrel, "job/tick/zz9/"), {"once": "9"}).status_code == 409
    assert client.post(where, {"once": "10", "act": "untick"}).status_code == 200
    assert JobTick.objects.count() == 0
    assert client_for(viewer).post(where).status_code == 403
    assert client_for(stranger).post(where).status_code == 404
    assert client.get(where).status_code == 405


def test_a_tick_is_quick(petrel: Build, client: Client) -> None:
    """A tick takes a small part of what the plan's page takes on the same machine at the same time; some 25 ms where nothing else runs."""
    job = begin(client, petrel, kind="full")

    def seconds(call: Callable[[], object]) -> float:
        begun = time.perf_counter()
        call()
        return time.perf_counter() - begun

    pages = sorted(seconds(lambda: client.get(address(petrel, "job/"))) for _ in range(9))
    took = []
    for item in planned(job).items[:25]:
        where = address(petrel, f"job/tick/{item.key}/")
        took.append(seconds(lambda where=where, item=item: client.post(where, {"once": item.key})))  # type: ignore[misc]
    assert JobTick.objects.filter(job=job).count() >= 25
    assert sorted(took)[12] < max(0.06, 0.8 * pages[4])


def test_times_are_learnt_from_ticks(petrel: Build, client: Client) -> None:
    """Work that takes twice the middle of its span tells a factor towards two; ticks of one moment count as one stretch; a night tells nothing."""
    job = begin(client, petrel, kind="full")
    now = job.begun_at
    for number, item in enumerate([each for each in planned(job).items if not each.step.waits][:14]):
        mean = (item.step.least * 2.0 + item.step.most + (item.step.most - item.step.least) / 3.0) / 3.0 * item.times
        now += timedelta(seconds=2.0 * mean if number % 5 else 16 * 3600.0)
        for place in item.places or ("",):
            row = JobTick.objects.create(job=job, key=item.key, place=place)
            JobTick.objects.filter(pk=row.pk).update(at=now)
    factor, count = pace_of(ticks_of(job))
    assert count >= 6
    assert 1.3 < factor < 2.1


def test_any_demo_engine_has_a_job_from_end_to_end(petrel: Build, client: Client) -> None:
    """Ticked wholly in its order nothing is refused, all adds up, and it closes."""
    for kind in (JobKind.CLEARANCES, JobKind.OVER_REV):
        job = begin(client, petrel, kind=kind)
        for item in planned(job).items:
            answer = client.post(address(petrel, f"job/tick/{item.key}/"), {"once": f"{kind}{item.key}"})
            assert answer.status_code == 200, (item.key, answer.content)
        assert all(done >= 1 for done in done_of(ticks_of(job)).values())
        assert "Every step is done" in client.get(address(petrel, "job/")).content.decode()
        assert client.post(address(petrel, "job/"), {"act": "close"}).status_code == 200


def test_hostile_words_are_refused_or_shown_as_words(petrel: Build, client: Client) -> None:
    job = begin(client, petrel)
    first = planned(job).items[0].key
    assert tick(client, job, first, said="<script>alert(1)</script>\x00").status_code == 200
    assert "<script>alert" not in client.get(address(petrel, f"job/?step={first}")).content.decode()
    for sent in (
        {"act": "wait", "what": "x" * 500, "first": "2026-13-45"}, {"act": "wait"}, {"act": "got", "wait": "9999999"}, {"act": "habits", "day_hours": "nan"},
        {"act": "habits", "day_hours": "6", "hour_price": "1e999"}, {"act": "promise", "promised": "soon"},
    ):  # fmt: skip
        assert client.post(address(petrel, "job/dates/"), sent).status_code in (404, 422), sent
    for sent in ({"act": "finding", "grade": "9", "words": "x"}, {"act": "settle", "finding": "-1"}, {"act": "picture", "finding": "x"}):
        assert client.post(address(petrel, "job/findings/"), sent).status_code in (404, 422), sent


def test_a_cut_seat_makes_readings_of_its_side_void(petrel: Build, client: Client) -> None:
    """Clearances read, then the exhaust seats come back cut: void on that side, as they were on the other; cams out and in again: look again."""
    place = {each.name: each for each in petrel.engine.positions.all()}
    for name in ("EX 1 fore", "IN 1 fore"):
        sent = {
            "act": "read",
            "valve": str(place[name].pk),
            "goes": "0.2",
            "stops": "0.22",
            "shim": "2.5",
            "source": "micrometer",
            "seen": "0",
        }
        assert client.post(address(petrel, "lash/"), sent).status_code == 200
    assert "worked on" not in client.get(address(petrel, "lash/")).content.decode()
    order = ShopOrder.objects.create(build=petrel, works=["seats_cut"], back_at=timezone.now())
    ShopReading.objects.create(order=order, position=place["EX 1 fore"], measure="protrusion", stage="back", value=38.5e-3)
    fresh = build_or_404(petrel.workshop, petrel.pk)
    found = stale_sheet(fresh, last_session(fresh))
    assert found[Side.EXHAUST].void
    assert Side.INTAKE not in found
    assert "at the machine shop" in found[Side.EXHAUST].reason
    job = Job.objects.create(build=petrel, kind="cams", spec={})
    JobTick.objects.create(job=job, key="n08", place="intake")
    fresh = build_or_404(petrel.workshop, petrel.pk)
    assert not stale_sheet(fresh, last_session(fresh))[Side.INTAKE].void
    text = client.get(address(petrel, "lash/")).content.decode()
    assert "seat, face or guide worked on" in text


def test_a_job_that_somebody_worked_on_is_not_undone_with_their_ticks(petrel: Build, client: Client, owner: Membership) -> None:
    job = begin(client, petrel)
    entry = JournalEntry.objects.get(build=petrel, verb="job begun")
    tick(client_for(owner), job, planned(job).items[0])
    refused = client.post(address(petrel, "job/"), {"act": "undo", "entry": str(entry.pk)})
    assert refused.status_code == 409
    assert JobTick.objects.filter(job=job).count() == 1
