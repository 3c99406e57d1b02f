"""The logbook: hours counted from sheets and entries, everything on one line of time, what is due with what speaks for it."""

from datetime import date, timedelta
from typing import Any

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from django.utils import timezone

from rocklash.answers.logbook import meter_of
from rocklash.answers.motion import compute_motions
from rocklash.answers.results import result_of
from rocklash.records.models import Build, CareEntry, ClearanceSession, DueState, JournalEntry, Membership, OverRevCase, Part, RunEntry
from rocklash.records.selectors.builds import build_or_404
from rocklash.records.selectors.logbook import metered_sheets, runs_of
from tests.rocklash.conftest import address, client_for
from valvetrain.studies.logbook.due import State

TODAY = timezone.localdate
STATES = [state.name.lower() for state in State]


@pytest.fixture
def client(builder: Membership) -> Client:
    return client_for(builder)


def sent(client: Client, build: Build, page: str, act: str, **told: Any) -> Any:
    return client.post(address(build, f"logbook/{page}"), {"act": act, **told})


def ran(build: Build, hours: float, days_ago: int, passes: int | None = None) -> None:
    RunEntry.objects.create(build=build, made_on=TODAY() - timedelta(days=days_ago), seconds=3600.0 * hours, passes=passes)


def sheet(build: Build, member: Membership, hours: float | None, days_ago: int) -> None:
    at = timezone.now() - timedelta(days=days_ago)
    ClearanceSession.objects.create(build=build, started_by=member.user, hours=hours, signed_at=at, signed_by=member.user)


def due_of(client: Client, build: Build) -> dict[str, Any]:
    return {row.what: row for row in client.get(address(build, "logbook/due/")).context["rows"]}


def test_what_it_ran_is_kept_in_words_of_ones_own_and_undone(petrel: Build, client: Client) -> None:
    for told in ({"ran": "1.5 h"}, {"ran": "40 min"}, {"ran": "", "passes": "6"}, {"ran": "2", "fuel": "12 l"}):
        assert sent(client, petrel, "", "run", **{"ran": "", "passes": "", "fuel": "", "note": "on the lake"} | told).status_code == 200
    meter = meter_of(runs_of(petrel), metered_sheets(petrel))
    assert meter.hours() == pytest.approx(1.5 + 40 / 60 + 2.0)
    assert meter.passes() == 6
    page = client.get(address(petrel, "logbook/"))
    assert page.context["hours"] == "4.2"
    assert "on the lake" in page.content.decode()
    entry = JournalEntry.objects.latest("pk")
    assert (entry.verb, entry.reversible) == ("ran", True)
    assert sent(client, petrel, "", "undo", entry=str(entry.pk)).status_code == 200
    assert RunEntry.objects.count() == 3
    first = RunEntry.objects.order_by("pk").first()
    assert first is not None
    assert sent(client, petrel, "", "remove", kind="run", entry=first.pk).status_code == 200
    assert RunEntry.objects.count() == 2


@pytest.mark.parametrize(
    ("told", "words"),
    [({"ran": ""}, "Say what it ran"), ({"ran": "-2 h"}, "forwards"), ({"ran": "9000 h"}, "744"), ({"ran": "long"}, "long"), ({"passes": "0"}, "whole number"), ({"fuel": "-3 l"}, "Fuel lies"), ({"fuel": "2000 l"}, "Fuel lies"), ({"made_on": "2999-01-01"}, "has not come"), ({"made_on": "soon"}, "2027-03-14")],
)  # fmt: skip
def test_a_slip_is_told_and_nothing_is_kept(petrel: Build, client: Client, told: dict[str, str], words: str) -> None:
    answer = sent(client, petrel, "", "run", **{"ran": "1 h", "passes": "", "fuel": "", "note": ""} | told)
    assert answer.status_code == 422
    assert words in answer.content.decode()
    assert not RunEntry.objects.exists()


def test_hours_of_a_sheet_count_and_later_entries_are_added(petrel: Build, builder: Membership) -> None:
    ran(petrel, 5.0, 40)
    sheet(petrel, builder, 31.0, 30)
    ran(petrel, 2.0, 10)
    meter = meter_of(runs_of(petrel), metered_sheets(petrel))
    assert meter.hours() == pytest.approx(33.0)
    assert meter.hours(TODAY() - timedelta(days=20)) == pytest.approx(31.0)
    assert meter.ran_since(TODAY() - timedelta(days=50)) == pytest.approx(7.0)


def test_hours_that_run_backwards_are_named(petrel: Build, builder: Membership, client: Client) -> None:
    sheet(petrel, builder, 31.0, 30)
    sheet(petrel, builder, 13.0, 3)
    for page in ("", "due/"):
        assert "hours run backwards" in client.get(address(petrel, f"logbook/{page}")).content.decode()


def test_clearances_count_from_the_last_signed_sheet(petrel: Build, builder: Membership, client: Client) -> None:
    """A rescue triple, 80 to 200 hours by the trade; the owner's own interval goes before it."""
    sheet(petrel, builder, 10.0, 200)
    ran(petrel, 30.0, 100)
    row = due_of(client, petrel)["clearances"]
    assert row.used == "30.0 h"
    interval = petrel.figures.get("interval", {}).get("value")
    assert (row.whose == "the interval asked for on Goal") == bool(interval)
    petrel.figures["interval"] = {"value": 25.0 * 3600.0, "spread": 0.0, "basis": "card"}
    petrel.save()
    row = due_of(client, petrel)["clearances"]
    assert (row.word, row.range) == ("due", "25 h")


def test_done_now_is_counted_from_here(petrel: Build, builder: Membership, client: Client) -> None:
    ran(petrel, 70.0, 5)
    before = due_of(client, petrel)["oil and filter"]
    assert before.word == "never noted"
    assert sent(client, petrel, "due/", "care", what="oil and filter").status_code == 200
    kept = CareEntry.objects.get()
    assert kept.seconds == pytest.approx(70.0 * 3600.0)
    assert due_of(client, petrel)["oil and filter"].word == "stays"
    ran(petrel, 25.0, 0)
    assert "oil and filter at 70.0 h" in client.get(address(petrel, "logbook/")).content.decode()
    assert sent(client, petrel, "due/", "care", what="").status_code == 422


def test_an_open_over_rev_is_due_at_once(petrel: Build, builder: Membership, client: Client) -> None:
    assert "all that an over-rev may have hurt" not in due_of(client, petrel)
    case = OverRevCase.objects.create(build=petrel, peak=160.0, by=builder.user)
    assert due_of(client, petrel)["all that an over-rev may have hurt"].word == "due"
    case.closed_at = timezone.now()
    case.save()
    assert "all that an over-rev may have hurt" not in due_of(client, petrel)


def test_everything_stands_on_one_line_and_is_found(petrel: Build, builder: Membership, client: Client) -> None:
    """Entries, a sheet, a test, an over-rev and a changed figure: by kind and by words; nothing twice."""
    sent(client, petrel, "", "run", ran="1.5 h", note="harbour")
    sheet(petrel, builder, 12.0, 9)
    client.post(
        address(petrel, "proof/pulls/"),
        {"act": "rev", "phase": "before", "speed": "8300", "by": "tachometer", "how": "", "doubt": "", "stretch": "", "gear": ""},
    )
    OverRevCase.objects.create(build=petrel, peak=160.0, by=builder.user, note="pump out of the water")
    where = address(petrel, "logbook/")
    events = client.get(where).context["events"]
    assert [event.kind for event in events].count("ran") == 1
    assert {"ran", "sheet", "test", "over-rev"} <= {event.kind for event in events}
    assert [event.day for event in events] == sorted((event.day for event in events), reverse=True)
    assert [event.words for event in client.get(where, {"q": "pump WATER"}).context["events"]] == ["pump out of the water"]
    assert {event.kind for event in client.get(where, {"kind": ["sheet", "test", "joy"]}).context["events"]} == {"sheet", "test"}
    assert all(event.measured for event in events if event.kind in ("sheet", "test"))


def test_who_looks_only_keeps_nothing_and_strangers_see_nothing(petrel: Build, viewer: Membership, stranger: Membership) -> None:
    assert sent(client_for(viewer), petrel, "", "run", ran="1 h").status_code == 403
    assert client_for(viewer).get(address(petrel, "logbook/due/")).status_code == 200
    assert client_for(stranger).get(address(petrel, "logbook/")).status_code == 404


def test_a_line_of_two_thousand_events_is_quick(petrel: Build, client: Client) -> None:
    """Under 100 ms is asked for on a quiet machine; held here at three times that, with the client's own work."""
    import time

    RunEntry.objects.bulk_create(RunEntry(build=petrel, made_on=date(2020, 1, 1) + timedelta(days=n), seconds=600.0) for n in range(2000))
    client.get(address(petrel, "logbook/"))
    took = []
    for _ in range(5):
        began = time.perf_counter()
        page = client.get(address(petrel, "logbook/"))
        took.append(time.perf_counter() - began)
    assert page.context["more"]
    assert len(client.get(address(petrel, "logbook/?all=yes")).context["events"]) >= 2000
    assert sorted(took)[2] < 0.3


def test_what_a_use_takes_is_told_once_the_motion_is_there(petrel: Build, client: Client) -> None:
    where = address(petrel, "logbook/wear/")
    assert client.get(where).context["page"].waits
    compute_motions(result_of(petrel))
    assert client.get(where).context["page"].missing  # no wire is told of any spring yet
    for part in Part.objects.filter(kind="spring", workshop=petrel.workshop):
        part.figures |= {
            "wire_diameter": {"value": 3.4e-3, "spread": 0.0, "basis": "card"},
            "mean_diameter": {"value": 24e-3, "spread": 0.0, "basis": "card"},
        }
        part.facts |= {"wire": "chrome-silicon"}
        part.save()
    petrel = build_or_404(petrel.workshop, petrel.pk)
    compute_motions(result_of(petrel))
    page = client.get(where, {"profile": "race", "hours": "30", "highest": "8400"}).context["page"]
    assert not page.waits
    assert page.rows
    assert all("of a mean life" in row.band or "look at its wire" in row.band for row in page.rows)
    for part in Part.objects.filter(kind="spring", workshop=petrel.workshop):
        part.figures["wire_diameter"] = part.figures["wire_diameter"] | {"value": 2.0e-3}
        part.save()
    thin = client.get(where, {"profile": "race", "hours": "30", "highest": "8400"}).context["page"]
    assert all(
        "look at its wire" in row.band for row in thin.rows
    )  # a wire that cannot be is said to be one, not told as thousands of lives
    hard = client.get(where, {"profile": "race", "hours": "30", "highest": "9400"}).context["page"]
    assert any("where they float" in words for words in hard.floats)
    assert page.seats
    assert "hours of life" in client.get(where).content.decode()
    for wrong, words in (
        ({"hours": "many"}, "Write hours"),
        ({"hours": "nan"}, "Hours lie"),
        ({"highest": "1e9"}, "Hours lie"),
        ({"profile": "joy"}, "no use called"),
        ({"log": "999999"}, "bring a log"),
    ):
        answer = client.get(where, {"profile": "race", "hours": "30", "highest": "8400"} | wrong)
        assert answer.status_code == 200
        assert words in answer.content.decode(), wrong


def test_what_its_use_took_is_a_reason_to_look_at_a_spring(petrel: Build, client: Client) -> None:
    """Thinner wire, more of it used: a band of parts of a life among what is due, on the board's list too; without hours or a wire nothing is told."""
    springs = list(Part.objects.filter(kind="spring", workshop=petrel.workshop))
    for part in springs:
        part.figures |= {
            "wire_diameter": {"value": 4.2e-3, "spread": 0.0, "basis": "card"}, "mean_diameter": {"value": 24e-3, "spread": 0.0, "basis": "card"},
        }  # fmt: skip
        part.facts |= {"wire": "chrome-silicon", "peened": "yes"}
        part.save()
    where = address(petrel, "logbook/due/")
    petrel = build_or_404(petrel.workshop, petrel.pk)
    compute_motions(result_of(petrel))
    by_use = lambda: {row.what: row for row in client.get(where).context["rows"] if "by its use" in row.what}
    assert not by_use()  # it ran nothing yet
    client.post(address(petrel, "logbook/"), {"act": "run", "ran": "20 h"})
    few = by_use()
    assert few
    assert all("of a mean life" in row.used and "to" in row.used for row in few.values())
    assert "over" in {row.state for row in few.values()}
    assert {"over"} == {
        line["state"] for line in DueState.objects.get(build=petrel).lines if "use" in line["what"]
    }  # the board says the same
    told = lambda rows: {what: STATES.index(row.state) for what, row in rows.items()}
    for part in springs:
        part.figures["wire_diameter"] |= {"value": 4.8e-3}
        part.save()
    thick = by_use()
    assert all(state >= told(few).get(what, 0) for what, state in told(thick).items())
    assert sum(told(thick).values()) / len(thick) > sum(told(few).values()) / len(few)  # thicker wire, less of it used
    client.post(address(petrel, "logbook/"), {"act": "run", "ran": "700 h"})
    assert all(
        row.used != thick[what].used for what, row in by_use().items() if "millionth" not in row.used
    )  # the more it ran, the more of it used
    for part in springs:
        del part.figures["wire_diameter"]
        part.save()
    assert not by_use()


def test_a_season_is_entered_where_nobody_counts_hours(petrel: Build, client: Client) -> None:
    """One after the oil was changed makes it due, though the calendar has not moved; two in one line; none of half a season."""
    client.post(address(petrel, "logbook/due/"), {"act": "care", "what": "oil and filter", "note": ""})
    CareEntry.objects.update(made_on=timezone.localdate() - timedelta(days=30))
    oil = lambda: next(
        row for row in client.get(address(petrel, "logbook/due/")).context["rows"] if row.what == "oil and filter" and row.range == "1 year"
    )
    assert oil().state == "rests"
    assert client.post(f"/shop/{petrel.workshop.slug}/ran/", {"text": "1 season on Petrel"}).status_code == 200
    assert RunEntry.objects.get().seasons == 1
    assert oil().state == "due"
    assert "1 season" in client.get(address(petrel, "logbook/")).content.decode()
    wrong = client.post(address(petrel, "logbook/"), {"act": "run", "seasons": "0"})
    assert "between one and 40" in wrong.content.decode()
    assert RunEntry.objects.count() == 1


def test_a_kept_log_is_a_use(petrel: Build, client: Client) -> None:
    """A run with time and engine speed: its seconds are the use, a hole is named."""
    rows = "\n".join(f"{n * 0.1 + (30.0 if n > 300 else 0.0):.1f},{4000 + 6 * n},{40 + n * 0.03:.2f}" for n in range(600))
    client.post(
        address(petrel, "proof/runs/"),
        {
            "act": "run",
            "phase": "before",
            "standard": "as measured",
            "name": "lake",
            "file": SimpleUploadedFile("run.csv", f"time s,rpm,power kW\n{rows}".encode()),
        },
    )
    where = address(petrel, "logbook/wear/")
    page = client.get(where)
    ((key, words),) = page.context["logs"]
    assert words.startswith("lake")
    told = client.get(where, {"log": key})
    assert float(told.context["use_hours"]) == pytest.approx(59.9 / 3600.0, abs=0.006)
    assert "1 holes" in told.content.decode()
    sent = {"ran": "", "passes": "", "fuel": "", "note": "on the lake", "log": key}
    assert client.post(address(petrel, "logbook/"), {"act": "run"} | sent).status_code == 200
    kept = RunEntry.objects.get()
    assert kept.seconds == pytest.approx(59.8, abs=0.2)
    assert kept.note.startswith("log of lake")
    assert "1 holes" in kept.note
    again = client.post(address(petrel, "logbook/"), {"act": "run"} | sent)
    assert again.status_code == 422
    assert "saved already" in again.content.decode()
