"""Clearance sheets: readings as typed, shims, re-check, signature, two people, slips."""

import html
import io
import threading
from concurrent.futures import ThreadPoolExecutor

import pypdf
import pytest
from django.db import connection
from django.utils import timezone

from rocklash.answers.clearances import statuses
from rocklash.answers.results import result_of
from rocklash.records.models import Build, ClearanceSession, Membership, Position, Reading
from rocklash.records.selectors.builds import build_or_404, last_session
from tests.rocklash.conftest import address, client_for


def places(build: Build) -> list[Position]:
    return sorted(build.engine.positions.all(), key=lambda row: (row.side != "exhaust", row.place))


def read(
    member: Membership, build: Build, place: Position, goes: str, stops: str, shim: str = "2.5", seen: str = "0", source: str = "micrometer"
):  # type: ignore[no-untyped-def]
    data = {"act": "read", "valve": place.pk, "goes": goes, "stops": stops, "shim": shim, "source": source, "seen": seen}
    return client_for(member, htmx=True).post(address(build, "lash/"), data)


def test_a_reading_gives_the_shim(petrel: Build, builder: Membership) -> None:
    """EX limits 0.22-0.28: 0.18-0.20 with 2.580 wants 2.520; the nearest on sale in 0.025 steps is 2.525."""
    place = places(petrel)[1]
    answer = read(builder, petrel, place, "0.18", "0.20", "2.580")
    assert answer.status_code == 200
    row = Reading.objects.get()
    assert (row.goes_typed, row.stops_typed, row.shim_typed, row.by) == ("0.18", "0.20", "2.580", builder.user)
    assert row.goes == pytest.approx(0.18e-3)
    assert "2.580 → 2.525" in answer.content.decode()


def test_inches_are_read_as_inches(petrel: Build, builder: Membership) -> None:
    builder.user.unit_system = "inch"
    builder.user.save()
    read(builder, petrel, places(petrel)[0], ".009", ".010", ".104")
    row = Reading.objects.get()
    assert (row.goes, row.shim) == (pytest.approx(0.2286e-3), pytest.approx(2.6416e-3))


@pytest.mark.parametrize(
    ("system", "goes", "words"),
    [
        ("metric", ".006", "No feeler blade is as thin as 0.006 mm. Did you mean .006 in? Write it with its unit."),
        ("inch", "0.15", "Did you mean 0.15 mm? Write it with its unit."),
        ("inch", "6", "far too much for a valve. Did you mean thousandths or hundredths? Write for example 6 thou or .006 in."),
    ],
)
def test_the_other_systems_number_is_asked_about(petrel: Build, builder: Membership, system: str, goes: str, words: str) -> None:
    builder.user.unit_system = system
    builder.user.save()
    answer = read(builder, petrel, places(petrel)[0], goes, "0.20 mm", "2.5 mm")
    assert answer.status_code == 422
    assert words in html.unescape(answer.content.decode())
    assert not Reading.objects.exists()
    with_unit = read(builder, petrel, places(petrel)[0], ".006 in" if goes != "6" else "6 thou", "0.20 mm", "2.5 mm")
    assert with_unit.status_code == 200
    assert Reading.objects.get().goes == pytest.approx(0.1524e-3)


@pytest.mark.parametrize(
    ("goes", "stops", "shim", "part"),
    [
        ("6", "7", "2.5", "far too much for a valve. Did you mean thousandths"),
        ("0.20", "0.18", "2.5", "Are the two exchanged?"),
        ("0.20", "", "2.5", "Nothing is typed here"),
        ("-0.1", "0.2", "2.5", "cannot be below nothing"),
        ("abc", "0.2", "2.5", "is not a length"),
        ("0.18", "0.20", "25", "not the size of a shim"),
        ("0.18", "0.20", "thick", "is not a length"),
    ],
)
def test_slips_are_asked_about_and_nothing_typed_is_lost(
    petrel: Build, builder: Membership, goes: str, stops: str, shim: str, part: str
) -> None:
    answer = read(builder, petrel, places(petrel)[0], goes, stops, shim)
    assert answer.status_code == 422
    html = answer.content.decode()
    assert part in html
    for text in (goes, stops, shim):
        assert f'value="{text}"' in html
    assert not Reading.objects.exists()


def test_the_same_reading_sent_twice_is_kept_once(petrel: Build, builder: Membership) -> None:
    place = places(petrel)[0]
    for _ in range(2):
        assert read(builder, petrel, place, "0.24", "0.26").status_code == 200
    assert Reading.objects.get().revision == 1


def test_two_people_on_one_valve_notice_one_another(petrel: Build, builder: Membership, owner: Membership) -> None:
    place = places(petrel)[0]
    read(owner, petrel, place, "0.24", "0.26")
    answer = read(builder, petrel, place, "0.20", "0.22")
    assert answer.status_code == 409
    assert "was read by olga: 0.24–0.26" in answer.content.decode()
    assert Reading.objects.get().goes_typed == "0.24"
    assert read(builder, petrel, place, "0.20", "0.22", seen="1").status_code == 200
    assert (Reading.objects.get().goes_typed, Reading.objects.get().revision) == ("0.20", 2)
    assert ClearanceSession.objects.count() == 1


def test_a_reading_of_a_valve_of_another_engine_is_not_there(petrel: Build, builder: Membership, stranger: Membership) -> None:
    other = Position(pk=999999)
    assert read(builder, petrel, other, "0.24", "0.26").status_code == 404


def test_from_the_first_reading_to_the_signature(petrel: Build, builder: Membership) -> None:
    client, url, rows = client_for(builder, htmx=True), address(petrel, "lash/"), places(petrel)
    assert "Read first" in client.post(url, {"act": "recheck"}).content.decode()
    for place in rows:
        tight = ("0.18", "0.20") if place.side == "exhaust" else ("0.12", "0.14")
        read(builder, petrel, place, *tight, "2.600")
    fresh = build_or_404(petrel.workshop, petrel.pk)
    plans = statuses(fresh, ClearanceSession.objects.get(), result_of(fresh))
    assert all(row.plan and row.plan.act == "shim" and row.plan.sure for row in plans)
    assert client.post(url, {"act": "recheck"}).status_code == 200
    refused = client.post(url, {"act": "sign"})
    assert refused.status_code == 422
    assert "EX 1 fore" in refused.content.decode()
    for row in plans:
        good = ("0.24", "0.26") if row.position.side == "exhaust" else ("0.17", "0.19")
        assert row.plan
        read(builder, petrel, row.position, *good, f"{(row.plan.amount or 0) * 1e3:.3f}")
    assert client.post(url, {"act": "sign", "note": "cold, 18 °C"}).status_code == 200
    session = ClearanceSession.objects.get()
    assert session.signed_by == builder.user
    assert session.readings.count() == 24
    late = read(builder, petrel, rows[0], "0.30", "0.32")
    assert late.status_code == 200
    assert session.readings.count() == 24  # a signed sheet does not change: a new one was begun
    assert ClearanceSession.objects.count() == 2


def test_the_second_round_tells_what_should_be_there_and_what_is(petrel: Build, builder: Membership) -> None:
    """0.18-0.20 on 2.580, 2.525 fitted: 0.235-0.255 should follow; 0.24-0.25 is as predicted, 0.29-0.30 is not and asks for another shim."""
    client, where = client_for(builder), address(petrel, "lash/")
    for place in places(petrel):
        goes, stops, shim = ("0.24", "0.26", "2.5") if place.side == "exhaust" else ("0.16", "0.18", "2.5")
        read(builder, petrel, place, *(("0.18", "0.20", "2.580") if place.name == "EX 1 aft" else (goes, stops, shim)))
    client.post(where, {"act": "recheck"})
    place = next(each for each in places(petrel) if each.name == "EX 1 aft")
    page = client.get(f"{where}?valve={place.pk}").context["page"]
    row = next(each for each in page.again if each.valve == "EX 1 aft")
    assert (row.before, row.done, row.expected, row.now) == ("0.18–0.20", "2.580 → 2.525", "0.235–0.255", "")
    assert page.rows == []
    assert page.counts == []  # of this round nothing was read yet
    drawn = next(mark.data for mark in page.map.valves if mark.data.name == "EX 1 aft")
    assert (drawn.state, drawn.word, drawn.shim_line) == ("unread", "read again", "2.580 → 2.525")
    assert (drawn.low_after, drawn.high_after) == (pytest.approx(0.235e-3), pytest.approx(0.255e-3))
    assert page.panel.big[0] == "should be 0.235–0.255"
    assert ("shim", "2.580 → 2.525") in page.panel.result
    read(builder, petrel, place, "0.24", "0.25", "2.525")
    row = next(each for each in client.get(where).context["page"].again if each.valve == "EX 1 aft")
    assert (row.now, row.verdict, row.why) == ("0.24–0.25", "in range", "As predicted.")
    read(builder, petrel, place, "0.29", "0.30", "2.525", seen="1")
    row = next(each for each in client.get(where).context["page"].again if each.valve == "EX 1 aft")
    assert row.verdict == "loose"
    assert row.why.startswith("Not what was predicted: is it seated")
    assert row.why.endswith("Fit 2.575 instead.")


def test_a_recheck_out_of_range_cannot_be_signed(petrel: Build, builder: Membership) -> None:
    client, url = client_for(builder, htmx=True), address(petrel, "lash/")
    for place in places(petrel):
        read(builder, petrel, place, *(("0.24", "0.26") if place.side == "exhaust" else ("0.17", "0.19")))
    client.post(url, {"act": "recheck"})
    for place in places(petrel):
        read(builder, petrel, place, *(("0.24", "0.26") if place.name != "EX 2 aft" and place.side == "exhaust" else ("0.17", "0.19")))
    answer = client.post(url, {"act": "sign"})
    assert answer.status_code == 422
    html = answer.content.decode()
    assert "Re-check, or bring into range: EX 2 aft." in html
    assert "Not as predicted: EX 2 aft" in html


def test_the_last_reading_can_be_taken_back(petrel: Build, builder: Membership) -> None:
    first, second = places(petrel)[:2]
    read(builder, petrel, first, "0.24", "0.26")
    read(builder, petrel, second, "0.18", "0.20")
    client, url = client_for(builder, htmx=True), address(petrel, "lash/")
    newest = Reading.objects.get(position=second)
    which = f"{newest.pk}:{newest.revision}"
    assert f'value="{which}"' in client.get(url).content.decode()
    for _ in range(2):  # sent twice, after a lost answer, it takes one
        assert client.post(url, {"act": "take back", "reading": which}).status_code == 200
    assert Reading.objects.get().position == first


def test_nobody_takes_back_a_colleagues_reading(petrel: Build, builder: Membership, owner: Membership) -> None:
    first, second = places(petrel)[:2]
    read(builder, petrel, first, "0.24", "0.26")
    read(owner, petrel, second, "0.18", "0.20")
    theirs = Reading.objects.get(position=second)
    client = client_for(builder, htmx=True)
    page = client.post(address(petrel, "lash/"), {"act": "take back", "reading": f"{theirs.pk}:{theirs.revision}"})
    assert page.status_code == 422
    assert "was read by olga" in page.content.decode()
    assert Reading.objects.count() == 2
    assert f"Undo my last reading: {first.name}" in page.content.decode()


def test_the_way_of_reading_stays_on_a_begun_sheet(petrel: Build, builder: Membership) -> None:
    client, url = client_for(builder, htmx=True), address(petrel, "lash/")
    client.post(url, {"act": "manner", "method": "blade", "aim": "loose end"})
    read(builder, petrel, places(petrel)[0], "0.25", "")
    row = Reading.objects.get()
    assert (row.goes, row.stops) == (row.stops, row.goes)
    answer = client.post(url, {"act": "manner", "method": "go_no_go", "aim": "middle"})
    assert answer.status_code == 422
    session = ClearanceSession.objects.get()
    assert (session.method, session.aim) == (
        "blade",
        "loose end" if answer.status_code == 422 and session.aim == "loose end" else session.aim,
    )


def test_a_label_is_flagged(petrel: Build, builder: Membership) -> None:
    answer = read(builder, petrel, places(petrel)[0], "0.18", "0.20", "2.58", source="label")
    assert "Labels lie" in answer.content.decode()


def test_the_sheet_for_the_wall_carries_the_shims(petrel: Build, builder: Membership) -> None:
    read(builder, petrel, places(petrel)[1], "0.18", "0.20", "2.580")
    answer = client_for(builder).get(address(petrel, "sheet/build-sheet.pdf"))
    assert answer["Content-Type"] == "application/pdf"
    text = "".join(page.extract_text() for page in pypdf.PdfReader(io.BytesIO(answer.content)).pages)
    for wanted in ("Petrel 1498", "EX 1 aft", "2.525", "0.180–0.200", "HD-48 outer", "Intake seat force"):
        assert wanted in text


def test_the_sheet_for_the_wall_tells_how_it_was_kept(petrel: Build, builder: Membership) -> None:
    client, where = client_for(builder), address(petrel, "lash/")
    manner = {
        "act": "manner",
        "method": "go_no_go",
        "aim": "own",
        "own_exhaust": "0.26",
        "reason": "seats recede",
        "hours": "41.5",
        "temperature": "18",
    }
    assert client.post(where, manner).status_code == 200
    place = places(petrel)[1]
    read(builder, petrel, place, "0.24", "0.26", "2.580")
    ClearanceSession.objects.update(rechecking=True)
    client.post(where, {"act": "read", "valve": place.pk, "goes": "0.24", "stops": "0.26", "shim": "2.580", "seen": "0", "renewed": "yes"})
    page = html.unescape(client.get(address(petrel, "sheet/")).content.decode())
    assert "aim exhaust 0.26 mm, because seats recede · engine 41.5 h · at 18 °C · new valve: EX 1 aft" in page


def test_the_open_sheet_comes_before_any_signed_one(petrel: Build, builder: Membership) -> None:
    """An open sheet is at hand even when it was begun before another was signed; without one, the sheet begun last."""
    now = timezone.now()
    older, newer = (petrel.clearance_sessions.create(started_by=builder.user, signed_at=now) for _ in range(2))
    assert last_session(petrel) == newer
    ClearanceSession.objects.filter(pk=older.pk).update(signed_at=None)
    assert last_session(petrel) == older


def test_what_is_kept_of_a_reading_is_one_row_a_round(petrel: Build, builder: Membership) -> None:
    place = places(petrel)[0]
    for seen, goes in enumerate(("0.20", "0.21", "0.22")):
        assert read(builder, petrel, place, goes, "0.26", seen=str(seen)).status_code == 200
    row = Reading.objects.get()
    assert (row.goes_typed, row.revision, row.by) == ("0.22", 3, builder.user)


@pytest.mark.django_db(transaction=True)
def test_two_first_readings_at_once_begin_one_sheet(petrel: Build, builder: Membership, owner: Membership) -> None:
    """Four hands press Enter in the same instant, where no sheet is open yet: one sheet, two valves, and of one valve one reading."""
    one, two = places(petrel)[:2]
    barrier = threading.Barrier(4)

    def send(member: Membership, place: Position, goes: str) -> int:
        barrier.wait()
        try:
            return int(read(member, petrel, place, goes, "0.30").status_code)
        finally:
            connection.close()

    sent = [(builder, one, "0.20"), (owner, one, "0.21"), (builder, two, "0.22"), (owner, two, "0.23")]
    with ThreadPoolExecutor(4) as hands:
        answers = list(hands.map(lambda each: send(*each), sent))
    assert ClearanceSession.objects.count() == 1
    assert sorted(answers) == [200, 200, 409, 409]
    assert sorted(row.position_id for row in Reading.objects.all()) == sorted([one.pk, two.pk])
