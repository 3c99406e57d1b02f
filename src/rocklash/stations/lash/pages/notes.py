"""How lengths are printed on the Lash station, and the notes above a sheet."""

from rocklash.answers.clearances import ValveStatus, card_notes, limits_known, stale_words
from rocklash.answers.results import BuildResult
from rocklash.answers.wear import too_warm
from rocklash.records.models import Build, ClearanceSession
from rocklash.stations.lash.pages.plan import exchanged_words
from valvetrain.studies.clearance.warm_clearance import WARM_TO_READ
from valvetrain.units import QuantityKind, UnitSystem, show, unit_symbol


class Printer:
    """Prints lengths of this page: three decimals for shims, two or three for clearances, in one system."""

    def __init__(self, system: UnitSystem) -> None:
        self.system = system
        self.other_system = UnitSystem.METRIC if system is UnitSystem.INCH else UnitSystem.INCH

    def gap(self, value: float) -> str:
        hundredths = round(value * 1e5, 3)
        decimals = 4 if self.system is UnitSystem.INCH else 2 if abs(hundredths - round(hundredths)) < 1e-6 else 3
        return show(value, QuantityKind.LENGTH, self.system, decimals)

    def shim(self, value: float) -> str:
        return show(value, QuantityKind.LENGTH, self.system, 4 if self.system is UnitSystem.INCH else 3)

    def other(self, value: float) -> str:
        return f"{show(value, QuantityKind.LENGTH, self.other_system, 3 if self.other_system is UnitSystem.METRIC else 4)} {unit_symbol(QuantityKind.LENGTH, self.other_system)}"

    def interval(self, low: float, high: float) -> str:
        return self.gap(low) if abs(high - low) < 1e-9 else f"{self.gap(low)}–{self.gap(high)}"


def _label_notes(rows: list[ValveStatus], printer: Printer) -> list[str]:
    """Labels that lie, labels in other units, worn shims."""
    notes = []
    for row in rows:
        reading = row.first
        if reading is None or reading.label is None or reading.shim is None:
            continue
        off = reading.shim - reading.label
        if abs(off) >= 0.02e-3:
            notes.append(
                f"{row.position.name}: the label says {printer.shim(reading.label)} and the micrometer {printer.shim(reading.shim)}: the micrometer counts."
            )
        elif off <= -0.008e-3:
            notes.append(f"{row.position.name}: the shim is worn by {printer.shim(-off)} against its label; look at its face.")
    return notes


def _unit_notes(session: ClearanceSession | None) -> list[str]:
    """A sheet on which some readings were typed in inches and others in millimetres."""
    if session is None:
        return []
    typed = [text.lower() for row in session.readings.all() for text in (row.goes_typed, row.stops_typed, row.shim_typed) if text]
    inch = sum(any(mark in text for mark in ("in", "thou", '"')) for text in typed)
    metric = sum("mm" in text for text in typed)
    return (
        ["Inches and millimetres are mixed on this sheet; each is kept in the unit it was typed in. Is that meant?"]
        if inch and metric
        else []
    )


def _warm_note(session: ClearanceSession | None, answer: BuildResult, printer: Printer) -> list[str]:
    if session is None or session.temperature is None or session.temperature <= WARM_TO_READ:
        return []
    more = printer.shim(too_warm(answer, session.temperature))
    return [
        f"Read at {session.temperature - 273.15:.0f} °C: an aluminium head reads about {more} more than cold. Let it cool; limits are for a cold engine."
    ]


def _notes(rows: list[ValveStatus], build: Build) -> list[str]:
    notes = []
    labels = [row.position.name for row in rows if row.first and row.first.shim_source == "label"]
    if labels:
        notes.append(f"Shim known only by its label: {', '.join(labels)}. Labels lie: measure when the bucket is out.")
    if not limits_known(build) and build.engine.adjuster != "hydraulic":
        notes.append("The clearance limits are estimates. Type the manual's below before you set or buy anything.")
    odd = [row.position.name for row in rows if row.as_predicted is False]
    if odd:
        notes.append(f"Not as predicted: {', '.join(odd)}.")
    return notes + exchanged_words(rows)


def notes_of(rows: list[ValveStatus], build: Build, session: ClearanceSession | None, answer: BuildResult, printer: Printer) -> list[str]:
    """Everything that a sheet must say of itself."""
    return [
        *stale_words(build, session),
        *card_notes(build, answer, printer.system),
        *_notes(rows, build),
        *_label_notes(rows, printer),
        *_unit_notes(session),
        *_warm_note(session, answer, printer),
    ]
