"""Readings: kept as typed and in SI, taken back, read from a file, and the two rounds to the signature."""

import re
from collections.abc import Mapping
from typing import Any

from django.http import Http404
from django.utils import timezone
from django.utils.timezone import localtime

from rocklash.answers.clearances import own_feel, statuses, takes_shims, unsettled
from rocklash.answers.results import result_of
from rocklash.answers.shim_plan import frozen, swaps_of
from rocklash.commands.base import Command, Refused, number_of
from rocklash.records.models import Build, ClearanceSession, PlannedShim, Position, Reading, ShimSource
from rocklash.records.selectors.builds import open_session
from rocklash.records.selectors.clearances import shims_for
from rocklash.stations.lash.commands.shelf import move_shims
from rocklash.stations.lash.exchange import Preview, preview
from rocklash.stations.lash.forms import Sent
from valvetrain.errors import QuantityError
from valvetrain.parts.engine import Adjuster
from valvetrain.quantities import parse
from valvetrain.studies.clearance.shim_plan import LEAST_SHIM, LIKELY_CLEARANCE, MOST_CLEARANCE, MOST_SHIM, THINNEST_BLADE, from_blades
from valvetrain.units import LENGTH, UnitSystem, amount

_BETWEEN = re.compile(r"[;/]|\s{2,}")


class SheetCommand(Command):
    """A command on the open sheet of a build. The sheet is its own lock: only where there is none is the build locked."""

    judged = refreshes = False
    locks_build = False

    def sheet(self) -> ClearanceSession:
        """The open sheet, locked; begun when there is none. What was typed for a sheet that was signed meanwhile begins no other."""
        found = open_session(self.subject, lock=True)
        meant = number_of(self.text("on"))
        if meant >= 0 and (found is None or found.pk != meant):
            signed = (
                ClearanceSession.objects.filter(build=self.subject, pk=meant, signed_at__isnull=False).select_related("signed_by").first()
            )
            if signed:
                raise Refused(
                    f"This sheet was signed by {signed.signed_by} on {localtime(signed.signed_at):%d %b, %H:%M}: it does not change. Begin a new one and type it there.",
                    conflict=True, made=signed,
                )  # fmt: skip
        if found is None:
            # of two that find none, one begins it, the other finds it then; no lock of the key: whoever writes the journal of the build meanwhile
            # holds the new sheet and must not wait for us
            Build.objects.select_for_update(no_key=True).only("pk").get(pk=self.subject.pk)
            found = open_session(self.subject, lock=True)
        if found is None:
            found = self.ledger.make(
                ClearanceSession, build=self.subject, started_by=self.member.user, feel=own_feel(self.member.workshop, self.member.user_id)
            )  # fmt: skip
            self.note("", "", "sheet begun")
        return found


def _clearance(text: str, name: str, system: UnitSystem) -> float:
    """One reading, m. Raises QuantityError with what was likely meant."""
    value = parse(text, LENGTH, system).value
    if value < 0.0:
        raise QuantityError(f"A clearance cannot be below nothing. “{name}” takes 0 when no blade enters.")
    other = _other_unit(text, value, system)
    if value > MOST_CLEARANCE:
        guess = other or (
            "thousandths or hundredths? Write for example " + ("6 thou or .006 in" if system is UnitSystem.INCH else "0.15, or 6 thou")
        )
        raise QuantityError(f"{amount(value, LENGTH)} is far too much for a valve. Did you mean {guess}.")
    if 0.0 < value < THINNEST_BLADE and other:
        raise QuantityError(f"No feeler blade is as thin as {amount(value, LENGTH, 3)}. Did you mean {other}.")
    return value


def _other_unit(text: str, value: float, system: UnitSystem) -> str:
    """`.006 in? Write it with its unit` where the bare number would be a likely clearance in the other system; else nothing."""
    if any(letter.isalpha() or letter in '"µ' for letter in text):
        return ""
    other = value * 25.4 if system is UnitSystem.METRIC else value / 25.4
    if not THINNEST_BLADE <= other <= LIKELY_CLEARANCE:
        return ""
    return f"{text.strip()} {'in' if system is UnitSystem.METRIC else 'mm'}? Write it with its unit"


def _several(text: str, name: str, system: UnitSystem) -> list[float]:
    """One or several readings with ; or / between them."""
    return [_clearance(part.strip(), name, system) for part in [each for each in _BETWEEN.split(text) if each.strip()] or [text]]


def _shim(text: str, system: UnitSystem) -> float | None:
    if not text.strip():
        return None
    value = parse(text, LENGTH, system).value
    # people call a shim by its size in hundredths: 265 is 2.65 mm
    if system is UnitSystem.METRIC and 0.1 <= value <= 0.4 and "m" not in text.lower() and "." not in text:
        value /= 100.0
    if not LEAST_SHIM <= value <= MOST_SHIM:
        raise QuantityError(f"{amount(value, LENGTH)} is not the size of a shim. Write for example 2.65 mm or .104 in.")
    return value


class _Reader:
    """What was typed for one valve, read field by field; refusals by field."""

    def __init__(self, sent: Sent, method: str, system: UnitSystem) -> None:
        self.sent, self.method, self.system = sent, method, system
        self.wrong: dict[str, str] = {}

    def _many(self, field: str, name: str) -> list[float]:
        try:
            return _several(getattr(self.sent, field), name, self.system)
        except QuantityError as error:
            self.wrong[field] = error.sentence
            return []

    def _size(self, field: str) -> float | None:
        try:
            return _shim(getattr(self.sent, field), self.system)
        except QuantityError as error:
            self.wrong[field] = error.sentence
            return None

    def values(self) -> dict[str, object]:
        """Columns of the reading. Raises Refused with every wrong field."""
        sent, many = self.sent, self._many("goes", "goes")
        goes = max(many, default=None)  # of several, the thickest that went
        stops = goes
        if self.method == "go_no_go":
            ends = self._many("stops", "does not go")
            stops = min(ends, default=None)  # and the thinnest that did not
            if goes is not None and stops is not None and stops <= goes:
                twice = len(many) + len(ends) > 2
                self.wrong["stops"] = (
                    "These readings contradict one another: a blade went that another time did not. Read again."
                    if twice
                    else "The blade that does not go must be thicker than the one that goes. Are the two exchanged?"
                )
        elif many:
            low, high = from_blades(many, 0.0)
            goes = (low + high) / 2.0
            stops = goes + (high - low) / 2.0
        shim, label = self._size("shim"), self._size("label")
        if self.wrong:
            raise Refused(fields=self.wrong)
        source = (sent.source if sent.source in set(ShimSource) else ShimSource.MICROMETER.value) if shim is not None else ""
        return {
            "goes": goes, "goes_typed": sent.goes.strip()[:40], "stops": stops, "stops_typed": sent.stops.strip()[:40],
            "shim": shim, "shim_typed": sent.shim.strip()[:40] if shim is not None else "", "shim_source": source,
            "label": label, "label_typed": sent.label.strip()[:40] if label is not None else "", "renewed": sent.renewed == "yes",
        }  # fmt: skip


def _as_typed(row: Reading) -> str:
    return f"{row.goes_typed}–{row.stops_typed}".rstrip("–")


class KeepReading(SheetCommand):
    """Keep a reading as typed and in SI. Sent twice it is kept once; changed meanwhile by somebody else it is refused. The sheet is what is made."""

    verb = "reading"

    @property
    def sent(self) -> Sent:
        """What was sent for the valve."""
        return Sent(*(str(self.data.get(name, ""))[:60].replace("\x00", "") for name in Sent.__dataclass_fields__))

    def apply(self) -> None:
        """Into the open sheet."""
        self.made = self.sheet()
        try:
            self.read_into(self.made, self.sent)
        except Refused as refused:
            refused.made = None if self.ledger.changes else self.made  # a sheet that was begun for it goes with it
            raise

    def read_into(self, session: ClearanceSession, sent: Sent) -> None:
        """Keep a reading in the sheet, which is locked."""
        position = next((place for place in self.subject.engine.positions.all() if str(place.pk) == sent.valve), None)
        if position is None:
            raise Http404("This engine has no such valve.")
        values = _Reader(sent, session.method, self.system).values()
        row = session.readings.select_related("by").filter(position=position, recheck=session.rechecking).first()
        if row and all(getattr(row, name) == value for name, value in values.items()):
            return  # the same words again, after a lost answer
        revision, before = (row.revision, _as_typed(row)) if row else (0, "")
        if sent.seen != str(revision):
            by = f" by {row.by}" if row and row.by else ""
            kept = before if row else "nothing: it was undone"
            sentence = f"Meanwhile {position.name} was read{by}: {kept}. Yours is still in the fields: press Enter to replace theirs."
            raise Refused(fields={"goes": sentence}, conflict=True)
        values |= {"by": self.member.user, "revision": revision + 1}
        if row:
            self.ledger.set(row, **values)
        else:  # the sheet is locked: nobody else adds one
            row = self.ledger.make(Reading, session=session, position=position, recheck=session.rechecking, **values)
        self.verb = "re-check" if session.rechecking else self.verb
        self.note(position.name, before, _as_typed(row) + (", new valve" if row.renewed else ""))


class TakeBack(SheetCommand):
    """Take back the reading that the person was shown (`number:revision`), if it is theirs and still so. Sent twice it takes one: the second
    time that reading is gone. Its valve is what is made."""

    verb = "took back"

    def apply(self) -> None:
        """`reading` as the page named it."""
        session = open_session(self.subject, lock=True)
        number, _, revision = self.text("reading").partition(":")
        rows = session.readings.select_related("position", "by") if session else Reading.objects.none()
        row = rows.filter(pk=number_of(number), recheck=session.rechecking if session else False).first()
        if row is None:
            return
        self.made = row.position_id
        if row.by_id != self.member.user_id:
            sentence = f"{row.position} was read by {row.by}: only they can undo it; or read it again over theirs."
            raise Refused(sentence, made=row.position_id)
        if str(row.revision) != revision:
            raise Refused(f"{row.position} was read again meanwhile. Look at it first.", conflict=True, made=row.position_id)
        self.note(f"{row.position}", _as_typed(row), "")
        self.ledger.drop(row)


class BeginRecheck(SheetCommand):
    """Go over to the second round, when every valve was read; what the plan gave each valve is kept with the sheet."""

    verb = "changed shims"

    def apply(self) -> None:
        """Nothing is left unread."""
        session, build = self.sheet(), self.subject
        rows = statuses(build, session, result_of(build))
        unread = [row.position.name for row in rows if row.first is None]
        if unread:
            raise Refused(f"Read first: {', '.join(unread)}.")
        if session.rechecking:
            return
        swaps = swaps_of(rows, session, shims_for(build), compute=True) if takes_shims(build) else None
        if swaps:
            places = {row.position.name: row.position for row in rows}
            planned = [PlannedShim(session=session, position=places[name], **values) for name, values in frozen(swaps.plan).items()]
            self.ledger.made(PlannedShim.objects.bulk_create(planned))
        self.ledger.set(session, rechecking=True)
        self.note("re-check begun")


class SignOff(SheetCommand):
    """Sign the sheet: every valve re-checked and surely in range. A signed sheet never changes; the shelf moves with it."""

    verb = "signed clearances"
    reversible = False
    nothing = "Nothing was signed."

    def apply(self) -> None:
        """`note` may say what a later reader should know."""
        if self.subject.practice:
            raise Refused("A practice copy cannot be signed: its readings may be simulated. Sign the sheet of the build itself.")
        session, build = self.sheet(), self.subject
        hydraulic = build.engine.adjuster == Adjuster.HYDRAULIC
        rows = statuses(build, session, result_of(build))
        left = [] if hydraulic else unsettled(rows)
        if left:
            raise Refused(f"Not to be signed yet. Re-check, or bring into range: {', '.join(left)}.")
        if takes_shims(build) and not hydraulic:
            move_shims(self, session, rows)
        self.ledger.set(session, note=self.text("note", 500), signed_by=self.member.user, signed_at=timezone.now())
        self.note("")


class BeginAgain(SheetCommand):
    """Begin a new sheet after a signed one."""

    verb = "began clearances"

    def apply(self) -> None:
        """Where one is open already, it goes on."""
        self.sheet()


def replaced(posted: Mapping[str, Any]) -> dict[int, str]:
    """Revisions, by valve, of the readings that the person was shown and means to write over."""
    if posted.get("replace") != "yes":
        return {}
    return {int(name[5:]): str(text) for name, text in posted.items() if name.startswith("seen-") and number_of(name[5:]) >= 0}


class LookAtReadings(SheetCommand):
    """Show how the readings of a table are understood, and keep nothing."""

    verb = "readings from a table"
    found: Preview | None = None

    def apply(self) -> None:
        """A dry run."""
        self.found = preview(self, open_session(self.subject))


class ImportReadings(KeepReading):
    """Keep the readings of a table in one go, all or none; how many is what is made."""

    verb = "readings from a table"
    found: Preview | None = None

    def apply(self) -> None:
        """What is there already is written over only where the person was shown it and said so."""
        session, seen = self.sheet(), replaced(self.data)
        self.found = preview(self, session)
        rows = [row for row in self.found.rows if not row.wrong]
        there = {each.position_id: each for each in session.readings.select_related("by").filter(recheck=session.rechecking)}
        over = [
            row for row in rows
            if row.valve in there and seen.get(row.valve or 0) != str(there[row.valve].revision) and not row.says(there[row.valve])
        ]  # fmt: skip
        if over:
            names = ", ".join(f"{row.texts['valve']} (by {there[row.valve or 0].by})" for row in over)
            raise Refused(
                f"Read already: {names}. Tick “replace” to write over what is shown there, or take these lines out. {self.nothing}"
            )
        for row in rows:
            texts = {field: text for field, text in row.texts.items() if field != "valve"}
            revision = seen.get(row.valve or 0, str(there[row.valve].revision) if row.valve in there else "0")
            sent = Sent(
                str(row.valve),
                texts.get("goes", ""),
                texts.get("stops", ""),
                texts.get("shim", ""),
                "micrometer",
                revision,
                texts.get("label", ""),
            )
            try:
                self.read_into(session, sent)
            except Refused as refused:
                raise Refused(f"Line {row.line}, {row.texts['valve']}: {refused} {self.nothing}", conflict=refused.conflict) from refused
        self.made = len(rows)
        self.note("", "", f"{len(rows)} valves")


def position_of(command: Command) -> Position:
    """The valve that was sent."""
    found = next((place for place in command.subject.engine.positions.all() if place.pk == number_of(command.text("valve"))), None)
    if found is None:
        raise Http404("This engine has no such valve.")
    return found
