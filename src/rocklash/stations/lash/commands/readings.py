"""Mutations of the Lash station."""

import re
from dataclasses import dataclass, field

from django.db import transaction
from django.http import Http404
from django.utils import timezone

from rocklash.answers.clearances import statuses, unsettled
from rocklash.answers.results import answer_for
from rocklash.answers.shim_plan import frozen, swaps_of
from rocklash.commands.base import journal, require_change
from rocklash.records.models import Build, ClearanceSession, Membership, Reading, ShimSource
from rocklash.records.selectors.builds import open_session
from rocklash.records.selectors.clearances import shims_for
from rocklash.stations.lash.commands.shelf import move_shims
from rocklash.stations.lash.exchange import ImportRow
from valvetrain.errors import QuantityError
from valvetrain.parts.engine import SHIMMED, Adjuster
from valvetrain.quantities import parse
from valvetrain.studies.clearance.shim_plan import from_blades
from valvetrain.units import QuantityKind, UnitSystem, show, unit_symbol

_BETWEEN = re.compile(r"[;/]|\s{2,}")
_MOST_CLEARANCE, _LEAST_SHIM, _MOST_SHIM = 1.5e-3, 0.5e-3, 12e-3
_THINNEST_BLADE, _LIKELY_CLEARANCE = 0.02e-3, 0.8e-3  # m. Source: trade


@dataclass(frozen=True)
class Sent:
    """What was sent for one valve, as typed. `seen` is the revision of the reading the person saw, 0 for none."""

    valve: str
    goes: str
    stops: str
    shim: str
    source: str
    seen: str
    label: str = ""
    renewed: str = ""


@dataclass(frozen=True)
class Refusal:
    """Sentences by field, with everything that was sent, so that nothing typed is lost."""

    sent: Sent
    sentences: dict[str, str] = field(default_factory=dict)
    conflict: bool = False


def session_of(member: Membership, build: Build) -> ClearanceSession:
    """The open session, locked; begun when there is none."""
    found = open_session(build, lock=True)
    if found is None:
        Build.objects.select_for_update().only("pk").get(pk=build.pk)  # of two that find none, one begins it and the other finds it then
        found = open_session(build, lock=True)
    if found is None:
        found = ClearanceSession.objects.create(build=build, started_by=member.user)
        journal(member, "began clearances", build.name)
    return found


def _clearance(text: str, name: str, system: UnitSystem) -> tuple[float | None, str]:
    try:
        value = parse(text, QuantityKind.LENGTH, system).value
    except QuantityError as error:
        return None, str(error)
    if value < 0.0:
        return None, f"A clearance cannot be below nothing. “{name}” takes 0 when no blade enters."
    other = _other_unit(text, value, system)
    if value > _MOST_CLEARANCE:
        unit = unit_symbol(QuantityKind.LENGTH, system)
        guess = other or (
            "thousandths or hundredths? Write for example " + ("6 thou or .006 in" if system is UnitSystem.INCH else "0.15, or 6 thou")
        )
        return None, f"{show(value, QuantityKind.LENGTH, system)} {unit} is far too much for a valve. Did you mean {guess}."
    if 0.0 < value < _THINNEST_BLADE and other:
        return None, f"No feeler blade is as thin as {show(value, QuantityKind.LENGTH, system, 3)} mm. Did you mean {other}."
    return value, ""


def _other_unit(text: str, value: float, system: UnitSystem) -> str:
    """`.006 in? Write it with its unit` where the bare number would be a likely clearance in the other system; else nothing."""
    if any(letter.isalpha() or letter in '"µ' for letter in text):
        return ""
    other = value * 25.4 if system is UnitSystem.METRIC else value / 25.4
    if not _THINNEST_BLADE <= other <= _LIKELY_CLEARANCE:
        return ""
    return f"{text.strip()} {'in' if system is UnitSystem.METRIC else 'mm'}? Write it with its unit"


def _several(text: str, name: str, system: UnitSystem) -> tuple[list[float], str]:
    """One or several readings with ; or / between them."""
    values = []
    for part in [each for each in _BETWEEN.split(text) if each.strip()] or [text]:
        value, wrong = _clearance(part.strip(), name, system)
        if value is None:
            return [], wrong
        values.append(value)
    return values, ""


def _shim(text: str, system: UnitSystem) -> tuple[float | None, str]:
    if not text.strip():
        return None, ""
    try:
        value = parse(text, QuantityKind.LENGTH, system).value
    except QuantityError as error:
        return None, str(error)
    # people call a shim by its size in hundredths: 265 is 2.65 mm
    if system is UnitSystem.METRIC and 0.1 <= value <= 0.4 and "m" not in text.lower() and "." not in text:
        value /= 100.0
    if not _LEAST_SHIM <= value <= _MOST_SHIM:
        return (
            None,
            f"{show(value, QuantityKind.LENGTH, system)} {unit_symbol(QuantityKind.LENGTH, system)} is not the size of a shim. Write for example 2.65 mm or .104 in.",
        )
    return value, ""


def _read(sent: Sent, session: ClearanceSession, system: UnitSystem) -> tuple[dict[str, object], dict[str, str]]:
    """Values for the row and sentences by field."""
    sentences: dict[str, str] = {}
    many, wrong = _several(sent.goes, "goes", system)
    if wrong:
        sentences["goes"] = wrong
    goes = max(many, default=None)  # of several, the thickest that went
    stops = goes
    if session.method == "go_no_go":
        ends, wrong = _several(sent.stops, "does not go", system)
        stops = min(ends, default=None)  # and the thinnest that did not
        if wrong:
            sentences["stops"] = wrong
        elif goes is not None and stops is not None and stops <= goes:
            twice = len(many) + len(ends) > 2
            sentences["stops"] = (
                "These readings contradict one another: a blade went that another time did not. Read again."
                if twice
                else "The blade that does not go must be thicker than the one that goes. Are the two exchanged?"
            )
    elif many:
        low, high = from_blades(many, 0.0)
        goes = (low + high) / 2.0
        stops = goes + (high - low) / 2.0
    shim, wrong = _shim(sent.shim, system)
    if wrong:
        sentences["shim"] = wrong
    label, wrong = _shim(sent.label, system)
    if wrong:
        sentences["label"] = wrong
    values: dict[str, object] = {
        "goes": goes, "goes_typed": sent.goes.strip()[:40], "stops": stops, "stops_typed": sent.stops.strip()[:40],
        "shim": shim, "shim_typed": sent.shim.strip()[:40] if shim is not None else "",
        "shim_source": (sent.source if sent.source in set(ShimSource) else ShimSource.MICROMETER) if shim is not None else "",
        "label": label, "label_typed": sent.label.strip()[:40] if label is not None else "", "renewed": sent.renewed == "yes",
    }  # fmt: skip
    return values, sentences


@transaction.atomic
def keep_reading(member: Membership, build: Build, sent: Sent) -> tuple[Refusal | None, ClearanceSession]:
    """Keep a reading as typed and in SI, and return the sheet it went into. Sent twice it is kept once; changed meanwhile by somebody
    else it is refused."""
    require_change(member)
    session = session_of(member, build)
    return read_into(session, member, build, sent), session


def read_into(session: ClearanceSession, member: Membership, build: Build, sent: Sent) -> Refusal | None:
    """Keep a reading in the session, which the caller's transaction has locked."""
    system = UnitSystem(member.user.unit_system)
    position = next((place for place in build.engine.positions.all() if str(place.pk) == sent.valve), None)
    if position is None:
        raise Http404("This engine has no such valve.")
    values, sentences = _read(sent, session, system)
    if sentences:
        return Refusal(sent, sentences)
    row = session.readings.filter(position=position, recheck=session.rechecking).first()
    if row and all(getattr(row, name) == value for name, value in values.items()):
        return None  # the same words again, after a lost answer
    revision = row.revision if row else 0
    if sent.seen != str(revision):
        by = f" by {row.by}" if row and row.by else ""
        kept = f"{row.goes_typed}–{row.stops_typed}".rstrip("–") if row else "nothing: it was taken back"
        sentence = f"Meanwhile {position.name} was read{by}: {kept}. Yours is kept in the fields: press Enter to replace theirs."
        return Refusal(sent, {"goes": sentence}, conflict=True)
    row = row or Reading(session=session, position=position, recheck=session.rechecking)  # the session is locked: nobody else adds one
    for name, value in {**values, "by": member.user, "revision": revision + 1}.items():
        setattr(row, name, value)
    row.save()
    what = "re-check" if session.rechecking else "reading"
    new = ", new valve" if row.renewed else ""
    journal(member, what, f"{build.name}: {position.name}", "", f"{values['goes_typed']}–{values['stops_typed']}".rstrip("–") + new)
    return None


@transaction.atomic
def take_back(member: Membership, build: Build, which: str) -> tuple[int | None, str]:
    """Take back the reading that the person was shown (`number:revision`), if it is theirs and still so; returns its valve and a sentence when it
    was not done. Sent twice it takes one: the second time that reading is gone."""
    require_change(member)
    session = open_session(build, lock=True)
    number, _, revision = which.partition(":")
    row = session.readings.filter(pk=int(number) if number.isdigit() else -1, recheck=session.rechecking).first() if session else None
    if row is None:
        return None, ""
    if row.by_id != member.user_id:
        return row.position_id, f"{row.position} was read by {row.by}: they take it back themselves, or you read it again over theirs."
    if str(row.revision) != revision:
        return row.position_id, f"{row.position} was read again meanwhile. Look at it first."
    valve = row.position_id
    journal(member, "took back", f"{build.name}: {row.position}", f"{row.goes_typed}–{row.stops_typed}".rstrip("–"), "")
    row.delete()
    return valve, ""


@transaction.atomic
def begin_recheck(member: Membership, build: Build) -> str:
    """Go over to the second round, when every valve was read."""
    require_change(member)
    session = session_of(member, build)
    rows = statuses(build, session, answer_for(build))
    unread = [row.position.name for row in rows if row.first is None]
    if unread:
        return f"Read first: {', '.join(unread)}."
    swaps = swaps_of(rows, session, shims_for(build), compute=True) if takes_shims(build) else None
    session.plan = frozen(swaps.plan, rows) if swaps else {}
    session.rechecking = True
    session.save(update_fields=["rechecking", "plan"])
    journal(member, "changed shims", f"{build.name}: re-check begun")
    return ""


@transaction.atomic
def sign_off(member: Membership, build: Build, note: str) -> str:
    """Sign the sheet: every valve re-checked and surely in range. A signed sheet never changes."""
    require_change(member)
    session = session_of(member, build)
    hydraulic = build.engine.adjuster == Adjuster.HYDRAULIC
    rows = statuses(build, session, answer_for(build))
    left = [] if hydraulic else unsettled(rows)
    if left:
        return f"Not to be signed yet. Re-check, or bring into range: {', '.join(left)}."
    if takes_shims(build) and not hydraulic:
        trouble = move_shims(member, build, session, rows)
        if trouble:
            return f"{trouble} Nothing was signed."
    session.note, session.signed_by, session.signed_at = note[:500], member.user, timezone.now()
    session.save(update_fields=["note", "signed_by", "signed_at"])
    journal(member, "signed clearances", build.name)
    return ""


def begin_again(member: Membership, build: Build) -> None:
    """Begin a new sheet after a signed one."""
    with transaction.atomic():
        require_change(member)
        session_of(member, build)


def takes_shims(build: Build) -> bool:
    """Whether a shim is asked for beside the reading."""
    return build.engine.adjuster in SHIMMED


def _same(reading: Reading, row: ImportRow) -> bool:
    """Whether a line of a file says just what was typed of that valve already."""
    kept = {"goes": reading.goes_typed, "stops": reading.stops_typed, "shim": reading.shim_typed, "label": reading.label_typed}
    return all(row.texts.get(name, "") == text for name, text in kept.items())


def keep_many(member: Membership, build: Build, rows: list[ImportRow], seen: dict[int, str]) -> tuple[int, str]:
    """Keep the readings of a file in one go, all or none; returns how many, and a sentence when they were refused.

    `seen` holds, by valve, the revision of each reading that the person was shown and means to replace; any other is not written over.
    """
    require_change(member)
    with transaction.atomic():
        session = session_of(member, build)
        there = {each.position_id: each for each in session.readings.filter(recheck=session.rechecking)}
        over = [
            row for row in rows
            if row.valve in there and seen.get(row.valve or 0) != str(there[row.valve].revision) and not _same(there[row.valve], row)
        ]  # fmt: skip
        if over:
            names = ", ".join(f"{row.texts['valve']} (by {there[row.valve or 0].by})" for row in over)
            return 0, f"Read already: {names}. Tick “replace” to write over what is shown there, or take these lines out. Nothing was kept."
        for row in rows:
            texts = {field: text for field, text in row.texts.items() if field != "valve"}
            sent = Sent(
                str(row.valve), texts.get("goes", ""), texts.get("stops", ""), texts.get("shim", ""), "micrometer",
                seen.get(row.valve or 0, str(there[row.valve].revision) if row.valve in there else "0"), texts.get("label", ""),
            )  # fmt: skip
            refusal = read_into(session, member, build, sent)
            if refusal:
                transaction.set_rollback(True)
                return 0, f"Line {row.line}, {row.texts['valve']}: {' '.join(refusal.sentences.values())} Nothing was kept."
    return len(rows), ""
