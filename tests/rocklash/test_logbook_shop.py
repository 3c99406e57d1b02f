"""The logbook of a whole workshop: two taps, rules as typed, parts' hours, what is due everywhere, calendar, reminders, board, search."""

import io
import re
import time
from copy import copy
from datetime import date, timedelta
from typing import Any

import pytest
from django.conf import settings
from django.core import mail
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import Client
from django.utils import timezone
from icalendar import Calendar
from PIL import Image
from pypdf import PdfReader

from rocklash.answers import due, reminders
from rocklash.commands.builds import keep_record
from rocklash.records.figure_column import fit_fingerprint
from rocklash.records.models import (
    AccessKey,
    Build,
    CareEntry,
    DueRule,
    DueState,
    Engine,
    Finding,
    GapReading,
    Job,
    JobWait,
    JournalEntry,
    LogNote,
    LogPicture,
    Membership,
    Part,
    PartStart,
    Position,
    Reminder,
    RunEntry,
    Setup,
    SetupSide,
    SpringLog,
    User,
    ValveFit,
)
from rocklash.records.selectors.board import BEARS, what_bears
from rocklash.records.selectors.builds import PART_FIELDS
from rocklash.records.selectors.search import SOURCES, query_of, search
from tests.rocklash.conftest import address, client_for
from valvetrain.formats import build_file
from valvetrain.parts.gaps import GapKind, Way
from valvetrain.studies.logbook.due import State, Whose

TODAY = timezone.localdate


@pytest.fixture
def client(builder: Membership) -> Client:
    return client_for(builder)


def ran(build: Build, hours: float, days_ago: int) -> None:
    RunEntry.objects.create(build=build, made_on=TODAY() - timedelta(days=days_ago), seconds=3600.0 * hours)


def standing(build: Build) -> due.DueStanding:
    fresh = Build.objects.get(pk=build.pk)
    return due.standing_of(fresh, due.rows_of(fresh), TODAY())


def picture() -> SimpleUploadedFile:
    out = io.BytesIO()
    Image.new("RGB", (60, 40), "#336699").save(out, "JPEG")
    return SimpleUploadedFile("worn.jpg", out.getvalue(), "image/jpeg")


# Two taps


@pytest.mark.parametrize(
    ("text", "hours", "passes", "fuel"),
    [("1.5 h on Petrel", 1.5, None, None), ("40 min on petrel 1498", 40 / 60, None, None), ("6 passes on PETREL", None, 6, None), ("12 l on trel", None, None, 0.012), ("2 on Petrel", 2.0, None, None)],
)  # fmt: skip
def test_one_line_from_anywhere(
    petrel: Build, client: Client, text: str, hours: float | None, passes: int | None, fuel: float | None
) -> None:
    answer = client.post("/shop/shed/ran/", {"text": text, "once": "a1"})
    assert answer.status_code == 200
    assert "Logbook of Petrel 1498" in answer.content.decode()
    entry = RunEntry.objects.get()
    assert entry.seconds == (pytest.approx(3600.0 * hours) if hours else None)
    assert entry.passes == passes
    assert entry.fuel == (pytest.approx(fuel) if fuel else None)
    client.post("/shop/shed/ran/", {"text": text, "once": "a1"})
    assert RunEntry.objects.count() == 1


@pytest.mark.parametrize(
    ("text", "words"),
    [("", "Write what it ran"), ("1.5 h", "on which engine"), ("1.5 h on Ghost", "no engine called"), ("1 h on Pe", "may be"), ("minus on Petrel 1498", "minus"), ("-3 h on Petrel 1498", "forwards"), ("9999 passes on Petrel 1498", "Passes are"), ("1 h on " + "x" * 500, "no engine called")],
)  # fmt: skip
def test_a_line_that_cannot_be_meant_is_told(owner: Membership, petrel: Build, client: Client, text: str, words: str) -> None:
    Build.objects.create(workshop=petrel.workshop, engine=petrel.engine, name="Peewit 250")
    answer = client.post("/shop/shed/ran/", {"text": text})
    assert answer.status_code == 422
    assert words in answer.content.decode()
    assert not RunEntry.objects.exists()


def test_what_was_entered_last_is_one_press_away(petrel: Build, client: Client) -> None:
    offered = lambda: re.findall(r'value="([^"]+) on Petrel 1498"', client.get(f"/shop/shed/ran/?build={petrel.pk}").content.decode())
    assert offered() == ["0.5 h", "1 h", "1.5 h", "2 h"]
    ran(petrel, 1.25, 3)
    assert offered()[0] == "1.25 h"
    assert client.post("/shop/shed/ran/", {"text": "1.25 h on Petrel 1498"}).status_code == 200
    assert client.post("/shop/shed/ran/", {"text": "40 min", "build": petrel.pk}).status_code == 200
    assert RunEntry.objects.count() == 3


def test_nobody_enters_hours_where_they_do_not_belong(petrel: Build, viewer: Membership, stranger: Membership) -> None:
    assert client_for(viewer).post("/shop/shed/ran/", {"text": "1 h on Petrel"}).status_code == 403
    assert client_for(stranger).post("/shop/shed/ran/", {"text": "1 h on Petrel"}).status_code == 404
    assert client_for(stranger).post("/shop/other/ran/", {"text": "1 h", "build": petrel.pk}).status_code == 404
    assert client_for(stranger).post("/shop/other/ran/", {"text": "1 h on Petrel"}).status_code == 422
    assert not RunEntry.objects.exists()


# Rules, parts and springs


def test_the_manuals_interval_goes_before_the_trades_and_is_undone(petrel: Build, client: Client) -> None:
    told = {"what": "clearances", "whose": "maker", "least": "12", "most": "15", "unit": "h", "page": "4-12", "does": ""}
    assert client.post(address(petrel, "logbook/due/"), {"act": "rule"} | told).status_code == 200
    found = [row for row in standing(petrel).rows if row.rule.what == "clearances"]
    assert [(row.rule.whose, row.rule.least, row.rule.most) for row in found] == [(Whose.MAKER, 12.0, 15.0)]
    assert "manual, 4-12" in client.get(address(petrel, "logbook/due/")).content.decode()
    client.post(address(petrel, "logbook/due/"), {"act": "unrule", "rule": DueRule.objects.get().pk})
    assert not DueRule.objects.exists()
    client.post(address(petrel, "logbook/due/"), {"act": "undo", "entry": JournalEntry.objects.latest("pk").pk})
    assert DueRule.objects.get().most == 15.0


@pytest.mark.parametrize(
    "told", [{"least": "0"}, {"least": "nan"}, {"least": "1e400"}, {"least": "10", "most": "3"}, {"unit": "fortnights"}, {"whose": "king"}, {"what": ""}, {"least": "ten"}]
)  # fmt: skip
def test_a_rule_that_is_none_is_refused(petrel: Build, client: Client, told: dict[str, str]) -> None:
    sent = {"what": "oil", "whose": "own", "least": "5", "most": "", "unit": "h", "page": "", "does": ""} | told
    assert client.post(address(petrel, "logbook/due/"), {"act": "rule"} | sent).status_code == 422
    assert not DueRule.objects.exists()


def test_another_workshops_rule_cannot_be_taken_away(petrel: Build, client: Client, stranger: Membership) -> None:
    foreign = DueRule.objects.create(workshop=stranger.workshop, what="oil", least=1.0, most=2.0, unit="h")
    assert client.post(address(petrel, "logbook/due/"), {"act": "unrule", "rule": foreign.pk}).status_code == 404
    assert DueRule.objects.count() == 1


def _spring(build: Build) -> Part:
    part = build.setups.get(role="proposed").sides.get(side="intake").outer_spring
    assert part is not None
    return part


def test_a_part_has_hours_of_its_own(petrel: Build, client: Client) -> None:
    spring = _spring(petrel)
    ran(petrel, 10.0, 40)
    ran(petrel, 4.0, 5)
    sent = {"act": "start", "part": spring.pk, "side": "intake", "made_on": (TODAY() - timedelta(days=20)).isoformat(), "had": "30 h"}
    assert client.post(address(petrel, "logbook/parts/"), sent).status_code == 200
    Part.objects.filter(pk=spring.pk).update(service_hours=33.0)
    page = client.get(address(petrel, "logbook/parts/"))
    row = next(row for row in page.context["parts"] if row.part == spring.pk and row.side == "intake")
    assert (row.hours, row.over) == ("34.0 h", True)
    other = next(row for row in page.context["parts"] if row.what == "keepers")
    assert other.hours == "up to 14.0 h"
    found = {row.rule.what: row for row in standing(petrel).rows}
    assert found[f"{spring.name}, intake"].state is State.DUE
    assert found["valve springs"].used is not None
    for wrong in ({"part": 999999}, {"had": "-4 h"}, {"made_on": "2999-01-01"}, {"made_on": ""}, {"side": "top"}):
        assert client.post(address(petrel, "logbook/parts/"), sent | wrong).status_code == 422
    assert PartStart.objects.count() == 1


def _log(part: Part, loads: list[float], days_ago: int, *, used: bool) -> None:
    rows = [
        f"{number},{height},{load * (1 + (40 - height) * 0.02)}" for number, load in enumerate(loads, 1) for height in (38.0, 34.0, 30.0)
    ]
    log = SpringLog.objects.create(part=part, text="spring,height mm,load N\n" + "\n".join(rows), used=used, readings=len(rows))
    SpringLog.objects.filter(pk=log.pk).update(at=timezone.now() - timedelta(days=days_ago))


def test_springs_over_seasons_ask_for_themselves(petrel: Build, client: Client) -> None:
    spring = _spring(petrel)
    for days in range(5, 100, 5):
        ran(petrel, 1.0, days)
    _log(spring, [300.0], 100, used=False)
    _log(spring, [294.0, 291.0], 50, used=True)
    _log(spring, [291.0, 288.0], 4, used=True)
    page = client.get(address(petrel, "logbook/parts/"))
    row = next(row for row in page.context["springs"] if row.tests)
    assert [each[2] for each in row.tests] == ["3.0 %", "4.0 %"]
    assert row.word == "use again"
    rule = next(row for row in standing(petrel).rows if row.rule.what == due.LOADS)
    assert rule.rule.whose is Whose.MEASURED
    assert "4.0 in a hundred" in rule.rule.why
    costs = client.get(
        address(petrel, "logbook/parts/"), {"price": "120", "life": "30", "season": "45", "better": "150", "longer": "1.3 to 2"}
    )
    assert costs.context["cost"].words == ("As they are: 1.5 to 1.5 sets a season, 180 to 180.", "The better set pays once it lasts 1.25 times as long.", "With it: 0.8 to 1.2 sets, 112 to 173.", "It pays.")  # fmt: skip
    assert (
        "one figure or a range"
        in client.get(address(petrel, "logbook/parts/"), {"price": "x", "life": "30", "season": "45"}).content.decode()
    )


def test_installed_heights_creep_over_the_hours(petrel: Build, client: Client) -> None:
    row = petrel.setups.get(role="proposed").sides.get(side="exhaust")
    place = petrel.engine.positions.filter(side="exhaust").first()
    assert place is not None
    for height, hours in (("37.4", 0.0), ("37.46", 12.0)):
        if hours:
            ran(petrel, hours, 0)
        fit = row.valve_fits.filter(position=place).first()
        seen = fit_fingerprint(fit)
        sent = {"act": "stand", "row": row.pk, "valve": place.pk, "height": height, "seen": seen}
        assert client.post(address(petrel, "springs/valves/?side=exhaust"), sent).status_code == 200
    rows_ = client.get(address(petrel, "logbook/parts/")).context["heights"]
    assert [(each.valve, each.crept) for each in rows_] == [(place.name, "0.06 mm")]


def test_a_note_with_a_picture_stands_on_the_line_and_in_the_history(petrel: Build, client: Client, stranger: Membership) -> None:
    sent = {"act": "note", "words": "carbon on IN 2", "made_on": "", "file": picture()}
    assert client.post(address(petrel, "logbook/"), sent).status_code == 200
    shot = LogPicture.objects.get()
    assert client.get(address(petrel, f"logbook/picture/{shot.pk}.jpg")).content[:2] == b"\xff\xd8"
    assert client_for(stranger).get(address(petrel, f"logbook/picture/{shot.pk}.jpg")).status_code == 404
    assert "carbon on IN 2" in client.get(address(petrel, "logbook/?kind=note")).content.decode()
    assert (
        client.post(address(petrel, "logbook/"), {"act": "picture", "entry": LogNote.objects.get().pk, "file": picture()}).status_code
        == 200
    )
    assert client.post(address(petrel, "logbook/"), {"act": "note", "words": "", "made_on": ""}).status_code == 422
    ran(petrel, 3.0, 2)
    Engine.objects.filter(pk=petrel.engine_id).update(owner="Somebody Private")
    text = "".join(page.extract_text() for page in PdfReader(io.BytesIO(client.get(address(petrel, "logbook/history.pdf")).content)).pages)
    assert "carbon on IN 2" in text
    assert "3.0 h" in text
    assert "Somebody Private" not in text
    client.post(address(petrel, "logbook/"), {"act": "unnote", "entry": LogNote.objects.get().pk})
    assert not LogPicture.objects.exists()


# Of the whole workshop


def test_what_is_due_on_every_engine_and_anew_when_something_changed(petrel: Build, client: Client) -> None:
    CareEntry.objects.create(build=petrel, what="oil and filter", made_on=TODAY() - timedelta(days=300), seconds=0.0)
    ran(petrel, 70.0, 10)
    page = client.get("/shop/shed/due/")
    assert "oil and filter" in page.content.decode().lower()
    assert DueState.objects.get().rank == 0
    client.post(address(petrel, "logbook/due/"), {"act": "care", "what": "oil and filter", "note": ""})
    assert "oil and filter" not in client.get("/shop/shed/due/").content.decode().lower()
    assert due.refresh(petrel.workshop, TODAY()) == 0


def test_another_workshop_sees_none_of_it(petrel: Build, stranger: Membership) -> None:
    for page in ("due/", "week/", "search/?q=petrel", ""):
        assert client_for(stranger).get(f"/shop/shed/{page}").status_code == 404
        assert "Petrel" not in client_for(stranger).get(f"/shop/other/{page}").content.decode()


def _secret(page: str) -> str:
    found = re.search(r'class="secret">([^<]+)<', page)
    assert found
    return found[1].strip()


def test_the_calendar_is_read_back_by_a_library(petrel: Build, owner: Membership, builder: Membership) -> None:
    ran(petrel, 30.0, 30)
    ran(petrel, 30.0, 10)
    CareEntry.objects.create(build=petrel, what="oil and filter", made_on=TODAY() - timedelta(days=40), seconds=0.0)
    Job.objects.create(build=petrel, kind="full", promised=TODAY() + timedelta(days=9))
    assert client_for(builder).post("/shop/shed/due/", {"act": "key", "kind": "calendar", "name": "phone"}).status_code == 403
    address_ = _secret(client_for(owner).post("/shop/shed/due/", {"act": "key", "kind": "calendar", "name": "phone"}).content.decode())
    answer = Client().get(address_)
    assert answer["Content-Type"].startswith("text/calendar")
    events = Calendar.from_ical(answer.content).walk("VEVENT")
    named = lambda name: sorted(
        (event for event in events if str(event["summary"]) == f"Petrel 1498: {name}"), key=lambda event: event["dtstart"].dt
    )
    assert named("promised")[0]["dtstart"].dt == TODAY() + timedelta(days=9)
    by_hours, by_season = named("oil and filter")
    assert by_hours["dtstart"].dt == TODAY()  # 60 h of 20 to 60
    assert by_hours["dtend"].dt == TODAY() + timedelta(days=1)
    assert (by_season["dtstart"].dt - TODAY()).days == int(365.25 - 40)
    assert len({str(event["uid"]) for event in events}) == len(events)
    key = AccessKey.objects.get()
    assert address_.split("/")[-1].removesuffix(".ics") not in (key.digest, key.name)
    assert Client().get(address_.replace(".ics", "x.ics")).status_code == 404
    client_for(owner).post("/shop/shed/due/", {"act": "no key", "key": key.pk})
    assert Client().get(address_).status_code == 404


def test_reminders_are_made_once_mailed_once_and_put_away(petrel: Build, owner: Membership, client: Client, viewer: Membership) -> None:
    CareEntry.objects.create(build=petrel, what="oil and filter", made_on=TODAY() - timedelta(days=300), seconds=0.0)
    ran(petrel, 70.0, 10)
    User.objects.filter(pk__in=[owner.user_id, viewer.user_id]).update(email="olga@example.org")
    settings_mail = settings.MAIL
    assert settings_mail
    reminders.look()
    reminders.look()
    oil = [row for row in Reminder.objects.all() if "oil" in row.words]
    assert len(oil) == 1
    assert [letter.to for letter in mail.outbox] == [["olga@example.org"]]
    assert "oil and filter" in mail.outbox[0].body
    assert client_for(viewer).post("/shop/shed/due/", {"act": "away", "reminder": oil[0].pk}).status_code == 403
    assert client.post("/shop/shed/due/", {"act": "away", "reminder": oil[0].pk}).status_code == 302
    reminders.look()
    assert Reminder.objects.filter(put_away=None, words__contains="oil").count() == 0
    Reminder.objects.filter(pk=oil[0].pk).update(put_away=timezone.now() - timedelta(days=15))
    reminders.look()
    assert Reminder.objects.filter(put_away=None, words__contains="oil").count() == 1
    CareEntry.objects.create(build=petrel, what="oil and filter", made_on=TODAY(), seconds=3600.0 * 70.0)
    Build.objects.filter(pk=petrel.pk).update(updated_at=timezone.now())
    reminders.look()
    assert Reminder.objects.filter(put_away=None, words__contains="oil").count() == 0


def test_the_week_holds_what_is_promised_expected_and_due(petrel: Build, client: Client) -> None:
    job = Job.objects.create(build=petrel, kind="full", promised=TODAY() + timedelta(days=3))
    JobWait.objects.create(job=job, what="seat cutter", first=TODAY() + timedelta(days=1), last=TODAY() + timedelta(days=4))
    days = client.get("/shop/shed/week/").context["days"]
    words = [[line for _, line in day.lines] for day in days]
    assert "seat cutter expected" in words[1]
    assert "promised" in words[3]
    assert len(client.get("/shop/shed/week/?from=nonsense").context["days"]) == 7


# Board and search


def test_the_board_tells_owner_open_job_waits_and_what_is_due(petrel: Build, client: Client, owner: Membership) -> None:
    Engine.objects.filter(pk=petrel.engine_id).update(owner="Inger Halvard")
    other = keep_record(owner, build_file.read(_demo("turnstone_207")))
    job = Job.objects.create(build=petrel, kind="full", promised=date(2027, 5, 2))
    JobWait.objects.create(job=job, what="seat cutter", first=TODAY(), last=date(2027, 5, 1))
    rows = client.get("/shop/shed/").context["rows"]
    assert [row.build.pk for row in rows] == [petrel.pk, other.pk]  # open engines first, though the other was touched last
    first = rows[0]
    assert (first.owner, first.open_job, first.promised) == ("Inger Halvard", "full head build", "02 May")
    assert first.waits == ("seat cutter, by 01 May",)
    assert first.next_station == "job"
    for asked, expected in (("show=open", [petrel.pk]), ("show=waits", [petrel.pk]), ("q=inger", [petrel.pk]), ("q=turnstone", [other.pk]), ("use=rescue", [petrel.pk]), ("q=nothing-like", [])):  # fmt: skip
        assert [row.build.pk for row in client.get(f"/shop/shed/?{asked}").context["rows"]] == expected, asked


def crowd(build: Build, count: int) -> None:
    """So many engines like this one, with set-ups of the same parts."""
    engine = Engine.objects.get(pk=build.engine_id)
    places = list(engine.positions.all())
    sides = list(SetupSide.objects.filter(setup__build=build).select_related("setup"))
    engines = []
    for number in range(count):
        engine.pk = None
        engines.append(copy(engine))
        engines[-1].owner = f"owner {number}"
    Engine.objects.bulk_create(engines)
    builds = Build.objects.bulk_create(
        Build(workshop=build.workshop, engine=each, name=f"Kart {n}", use=build.use, figures=build.figures)
        for n, each in enumerate(engines)
    )
    for place in places:
        for each in engines:
            place.pk, place.engine = None, each
            Position.objects.bulk_create([place])
    for each in builds:
        setups = {role: Setup.objects.create(build=each, role=role) for role in ("stock", "proposed")}
        for side in sides:
            row = copy(side)
            row.pk, row.setup = None, setups[side.setup.role]
            row.save(force_insert=True)


def _demo(name: str) -> str:
    from tests.rocklash.conftest import DEMO

    return (DEMO / f"{name}.json").read_text(encoding="utf-8")


def test_every_row_that_bears_on_a_verdict_is_in_its_name(petrel: Build, client: Client) -> None:
    """Whatever the judgement is made of changes the name by which the board remembers it; what does not bear on it leaves the verdict alone."""
    name = lambda: what_bears([petrel])[petrel.pk]
    assert name() == name()
    assert name()[0] == petrel.engine.positions.count()
    side = SetupSide.objects.filter(setup__build=petrel, setup__role="proposed").first()
    assert side is not None
    place = petrel.engine.positions.first()
    assert place is not None
    seen = {name()[1]}
    for change in (
        lambda: Position.objects.filter(pk=place.pk).update(deviation=1e-4),
        lambda: Engine.objects.filter(pk=petrel.engine_id).update(description="another"),
        lambda: SetupSide.objects.filter(pk=side.pk).update(figures={}),
        lambda: ValveFit.objects.create(setup_side=side, position=place, shim=0.2e-3),
        lambda: GapReading.objects.create(
            build=petrel, position=place, gap=next(iter(GapKind)).value, way=next(iter(Way)).value, value=1.2e-3, spread=1e-5
        ),
        lambda: JournalEntry.objects.create(workshop=petrel.workshop, build=petrel, verb="tick", about="a step"),
        lambda: type(petrel.workshop).objects.filter(pk=petrel.workshop_id).update(own={"float": {"used": False, "results": []}}),
        *[
            lambda slot=slot: Part.objects.filter(pk=getattr(side, f"{slot}_id")).update(note=f"seen {slot}")
            for slot in PART_FIELDS
            if getattr(side, f"{slot}_id")
        ],
    ):
        change()
        assert name()[1] not in seen
        seen.add(name()[1])
    page = client.get("/shop/shed/")
    spring = Part.objects.get(pk=side.outer_spring_id)
    spring.figures["rate"] = {"value": 9e3, "spread": 0.0, "basis": "card"}
    spring.save()
    assert client.get("/shop/shed/").context["rows"][0].sentence != page.context["rows"][0].sentence
    assert all(f"z.{slot}_id" in BEARS for slot in PART_FIELDS)


def test_an_archived_build_is_off_the_board_and_back_again(petrel: Build, client: Client, viewer: Membership, stranger: Membership) -> None:
    assert client_for(viewer).post("/shop/shed/", {"act": "archive", "build": petrel.pk}).status_code == 403
    assert client_for(stranger).post("/shop/other/", {"act": "archive", "build": petrel.pk}).status_code == 404
    client.post("/shop/shed/", {"act": "archive", "build": petrel.pk})
    assert not client.get("/shop/shed/").context["rows"]
    assert [row.build.pk for row in client.get("/shop/shed/?show=archive").context["rows"]] == [petrel.pk]
    assert client.get(address(petrel)).status_code == 200
    client.post("/shop/shed/?show=archive", {"act": "restore", "build": petrel.pk})
    assert len(client.get("/shop/shed/").context["rows"]) == 1


def test_everything_is_found_by_words_begun_or_nearly_right(
    petrel: Build, builder: Membership, client: Client, stranger: Membership
) -> None:
    Finding.objects.create(build=petrel, number=1, part="valve", words="face burnt between two lands", by=builder.user)
    LogNote.objects.create(build=petrel, made_on=TODAY(), words="blower belt squeals when cold")
    Engine.objects.filter(pk=petrel.engine_id).update(owner="Inger Halvard", serial="XK-2207")
    shop = petrel.workshop
    kinds = lambda text: {hit.kind for hit in search(shop, text)[0]}
    assert "finding" in kinds("burnt lands")
    assert "finding" in kinds("burn")
    assert "note" in kinds("squeals")
    assert "engine" in kinds("halvard")
    assert "engine" in kinds("xk-2207")
    assert "part" in kinds("HD-48")
    hits, nearly = search(shop, "Petrle")
    assert nearly
    assert {hit.build for hit in hits} >= {petrel.pk}
    assert search(stranger.workshop, "petrel")[0] == []
    assert search(shop, "")[0] == search(shop, "' | ) !! & <->")[0] == search(shop, "%_\\")[0] == []
    for hostile in ("a'b", "x:*", "\ud800", "é" * 200, "'; DROP TABLE records_build; --"):
        assert client.get("/shop/shed/search/", {"q": hostile.encode("utf-8", "replace").decode()}).status_code == 200
    page = client.get("/shop/shed/search/?q=burnt").content.decode()
    assert address(petrel, "job/findings/") in page


@pytest.mark.parametrize("source", SOURCES, ids=lambda source: f"{source.kind}-{source.table}")
def test_every_kind_is_searched_through_its_index(db: None, source: Any) -> None:
    """The expression asked for is that of the index, else the whole table would be read."""
    columns = " || ' ' || ".join(f"t.{name}" for name in source.columns)
    with connection.cursor() as cursor:
        cursor.execute("SET LOCAL enable_seqscan = off")
        cursor.execute(
            f"EXPLAIN SELECT 1 FROM {source.table} t WHERE to_tsvector('simple', {columns}) @@ to_tsquery('simple', %s)", [query_of("x")]
        )
        plan = " ".join(row[0] for row in cursor.fetchall())
    assert f"{source.table}_words" in plan


def test_a_full_board_a_search_and_two_taps_stay_quick(petrel: Build, builder: Membership, client: Client) -> None:
    """Limits of 80, 50 and 60 ms are for a quiet machine and for the site alone (`make bench`); held here at four times that, with the client's own work."""
    crowd(petrel, 200)
    Finding.objects.bulk_create(Finding(build=petrel, number=n, part="valve", words=f"mark {n} on the face") for n in range(1, 400))

    def took(do: Any) -> float:
        times = []
        for _ in range(9):
            began = time.perf_counter()
            assert do().status_code == 200
            times.append(time.perf_counter() - began)
        return min(times)  # what others take of the machine meanwhile is not the page's

    with connection.cursor() as cursor:
        cursor.execute("ANALYZE")  # as the server does by itself
    client.get("/shop/shed/?page=9")
    assert took(lambda: client.get("/shop/shed/?page=9")) < 0.32
    assert took(lambda: client.get("/shop/shed/search/?q=mark 77")) < 0.2
    assert took(lambda: client.post("/shop/shed/ran/", {"text": "1.5 h on Petrel 1498"})) < 0.24
