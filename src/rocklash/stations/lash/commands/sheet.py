"""Changes of how a sheet is kept: method, aims, hours, pins of the plan, firing order, and the simulated feeler."""

import secrets
from typing import Any

from rocklash.answers.clearances import counting_figures, limits_of, pins_told, statuses, takes_shims, told_of_sheet
from rocklash.answers.results import result_of
from rocklash.answers.stops import firing_of, firing_text
from rocklash.commands.base import Command, Refused
from rocklash.commands.instruments import require_practice
from rocklash.records.models import ClearanceSession, Engine, PinKind, Pins, ShimPin
from rocklash.stations.lash.commands.readings import KeepReading, SheetCommand, position_of
from rocklash.stations.lash.forms import Sent
from valvetrain.errors import QuantityError
from valvetrain.parts.engine import SHIMMED, Side
from valvetrain.quantities import parse, plain
from valvetrain.simulators.feeler import FeelerReading, read_again, read_valve
from valvetrain.units import LENGTH, QuantityKind, UnitSystem, amount, bare, quantity

_MOST_HOURS, _COLDEST, _HOTTEST = 100_000.0, 233.15, 473.15


class SetMethod(SheetCommand):
    """Keep how readings are taken, where to aim, hours and temperature; the method stays once there are readings."""

    verb = "sheet"

    def apply(self) -> None:
        """Only what was sent is changed."""
        session = self.sheet()
        before, values, now = _words(session, self.system), dict[str, Any](), told_of_sheet(session, self.system)
        aim, method = self.text("aim"), self.text("method")
        if method in {"go_no_go", "blade"} and self.changed("method", now["method"]) and method != session.method:
            if session.readings.exists():
                raise Refused("The way of reading stays as it is on a begun sheet: intervals and single blades do not mix.")
            values["method"] = method
        own = [side.value for side in Side if self.changed(f"own_{side}", now.get(f"own_{side}", ""))]
        if aim in {"middle", "loose end", "own"} and (self.changed("aim", now["aim"]) or (own and aim == "own")):
            values |= {"aim": aim, "aims": self._own_aims(session, own) if aim == "own" else {}}
        if self.changed("hours", now["hours"]):
            values["hours"] = self._hours()
        if self.changed("temperature", now["temperature"]):
            values["temperature"] = self._temperature()
        if self.changed("reason", now["reason"]):
            values["reason"] = self.text("reason", 200)
        self.ledger.set(session, **values)
        self.note("how it is read", before, _words(session, self.system))

    def _own_aims(self, session: ClearanceSession, changed: list[str]) -> dict[str, float]:
        """Those that were changed; the other side's stays as it is."""
        found, answer = {side: value for side, value in session.aims.items() if side not in changed}, result_of(self.subject)
        for side in Side:
            if side.value not in changed or not self.text(f"own_{side}"):
                continue
            value = parse(self.text(f"own_{side}"), LENGTH, self.system).value
            limits = limits_of(counting_figures(self.subject, answer), side.value) if answer.review else None
            if limits and not limits.least <= value <= limits.most:
                ends = f"{bare(limits.least, LENGTH)} to {amount(limits.most, LENGTH)}"
                raise QuantityError(f"An aim of {amount(value, LENGTH, 3)} lies outside the {side} limits of {ends}.")
            found[side.value] = value
        return found

    def _hours(self) -> float | None:
        if not self.text("hours"):
            return None
        value = parse(self.text("hours"), QuantityKind.DURATION).value / 3600.0
        if not 0.0 <= value <= _MOST_HOURS:
            raise QuantityError(f"{value:,.0f} h cannot be: engine hours lie between 0 and {_MOST_HOURS:,.0f}.")
        return value

    def _temperature(self) -> float | None:
        if not self.text("temperature"):
            return None
        value = parse(self.text("temperature"), QuantityKind.TEMPERATURE, self.system).value
        if not _COLDEST <= value <= _HOTTEST:
            raise QuantityError(f"{amount(value, QuantityKind.TEMPERATURE)} cannot be the temperature of an engine that is read.")
        return value


def _words(session: ClearanceSession, system: UnitSystem) -> str:
    """Method, aim, hours and temperature of a sheet, as the journal tells them."""
    own = "".join(f", {side} {plain(value, LENGTH, system)}" for side, value in sorted(session.aims.items()))
    hours = "" if session.hours is None else f", {session.hours:g} h"
    warm = "" if session.temperature is None else f", {quantity(session.temperature, QuantityKind.TEMPERATURE, system)}"
    return f"{session.method}, {session.aim}{own}{hours}{warm}{', ' + session.reason if session.reason else ''}"


class SetPin(SheetCommand):
    """Pin or forbid a shim of the plan at one valve, or take that back."""

    verb = "shim plan"

    def apply(self) -> None:
        """`how` is stays, only or never, with the shim's `key`; free takes all pins of the valve away."""
        session, position = self.sheet(), position_of(self)
        how, key = self.text("how"), self.text("key", 80)
        if how not in {"stays", "only", "never", "free"} or (how in {"only", "never"} and not key):
            raise Refused("Choose what to pin or to forbid.")
        pins = list(ShimPin.objects.select_for_update(no_key=True).filter(session=session, position=position))
        stand = Pins()
        for pin in pins:
            stand.add(pin)
        now = pins_told(stand)
        if self.data.get("was_pins") not in (None, now):
            raise Refused(f"Meanwhile {position} was pinned otherwise: {now or 'freed'}. Look at the plan as it is now.", conflict=True)
        for pin in pins:
            if how != "never" or pin.kind != PinKind.NEVER or pin.key == key:
                self.ledger.drop(pin)
        if how != "free":
            self.ledger.make(ShimPin, session=session, position=position, kind=how, key="" if how == "stays" else key, by=self.member.user)
        self.note(f"{position}", "", how)


class SetFiring(Command):
    """Keep the firing order and the manual's own note on measuring."""

    verb = "firing order"
    judged = False

    def apply(self) -> None:
        """An empty order takes back to the usual one."""
        text = self.text("firing", 60)
        if text:
            firing_of(text, self.subject)
        engine = Engine.objects.select_for_update(no_key=True).get(pk=self.subject.engine_id)
        order = self.changed("firing", firing_text(self.subject))
        note = self.changed("lash_note", engine.clearance_note)
        self.note("", engine.firing_order, text)
        values = ({"firing_order": text} if order else {}) | ({"clearance_note": self.text("lash_note", 300)} if note else {})
        self.ledger.set(engine, **values)


class ReadByInstrument(KeepReading):
    """One valve read by the simulated feeler and micrometer, kept like any other reading."""

    def apply(self) -> None:
        """The sheet's seed hides the engine."""
        require_practice(self.subject)
        self.made = session = self.sheet()
        if not session.seed:
            self.ledger.set(session, seed=secrets.randbelow(1_000_000) + 1)
        found, shimmed = self._instrument(session), takes_shims(self.subject)

        def text(value: float) -> str:
            return plain(value, LENGTH, self.system)

        sent = Sent(
            self.text("valve"), text(found.goes), text(found.stops), text(found.shim) if shimmed else "", "micrometer", self.text("seen") or "0",
            text(found.label) if shimmed else "",
        )  # fmt: skip
        self.read_into(session, sent)

    def _instrument(self, session: ClearanceSession) -> FeelerReading:
        build, position = self.subject, position_of(self)
        rows = statuses(build, session, result_of(build))
        row = next(each for each in rows if each.position.pk == position.pk)
        middle = (row.limits.thinnest + row.limits.thickest) / 2.0
        hidden = read_valve(session.seed, position.name, row.limits.least, row.limits.most, middle)
        if not session.rechecking or row.first is None:
            return hidden
        before = FeelerReading(row.first.goes, row.first.stops, row.first.shim or middle, row.first.label or middle)
        planned = session.planned.get(position.pk)
        fitted = planned.size if planned else before.shim
        if build.engine.adjuster not in SHIMMED:  # a screw or a stem was set to the aim
            fitted = before.shim - (row.aim - row.found.middle) * row.ratio if row.found else before.shim
        return read_again(session.seed, position.name, before, float(fitted), row.ratio)
