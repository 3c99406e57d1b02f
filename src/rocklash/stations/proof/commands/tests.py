"""Tests kept, from forms and from files; removed; the model anchored to one; forecasts made and told."""

import zlib
from datetime import date
from typing import Any

from django.utils import timezone

from rocklash.answers import tasks
from rocklash.answers.proof import angles_of, order_of, usual_top
from rocklash.answers.proof_files import AT_ONCE, Work, asked_of, key_of, leave_out, starter_in, work_of, worked_out
from rocklash.answers.results import result_of
from rocklash.commands.base import Command, Refused, number_of
from rocklash.commands.observations import observe
from rocklash.desk.files import sent_bytes
from rocklash.records.models import Forecast, Phase, ProofFile, ProofKind, ProofTest
from rocklash.records.selectors.proof import PENDING, any_test_or_404, file_of, test_or_404
from rocklash.stations.proof import forms
from rocklash.stations.proof.commands.forecasts import tell_compression, tell_float
from valvetrain.formats import run_table
from valvetrain.parts.engine import Side

_MOST = 200
LARGEST_SOUND, LARGEST_RUN = 60_000_000, 24_000_000


def value_of(typed: Any) -> float | None:
    """SI of a field, or nothing."""
    return float(typed.value) if typed else None


class _Keep(Command):
    """A test kept; `kind` says which."""

    kind: ProofKind
    judged = refreshes = False

    def _keep(self, conditions: dict[str, Any], readings: dict[str, Any], found: dict[str, Any] | None = None, name: str = "") -> ProofTest:
        told = self.cleaned
        if ProofTest.objects.filter(build=self.subject).count() >= _MOST:
            raise Refused(f"There are {_MOST} tests on this build: remove those that tell nothing any more.")
        day: date = told.get("made_on") or timezone.localdate()
        conditions = {key: value for key, value in {**conditions, "note": told.get("note", "")}.items() if value not in (None, "", [])}
        row: ProofTest = self.ledger.make(
            ProofTest, build=self.subject, kind=self.kind, phase=told.get("phase") or Phase.BEFORE, name=name, made_on=day, conditions=conditions,
            readings=readings, found=found or {}, by=self.member.user,
        )  # fmt: skip
        self.made = row
        self.note(str(row), "", f"{day:%d %b %Y}")
        return row

    def _file(
        self, row: ProofTest, packed: bytes, size: int, columns: dict[str, int] | None = None, units: dict[str, str] | None = None
    ) -> None:  # fmt: skip
        name = str(getattr(self.files.get("file"), "name", ""))[:120]
        self.ledger.make(ProofFile, test=row, name=name, size=size, columns=columns or {}, units=units or {}, data=packed)

    def _come_of(
        self, conditions: dict[str, Any], raw: bytes, columns: dict[str, int] | None = None, units: dict[str, str] | None = None, name: str = ""
    ) -> ProofTest:  # fmt: skip
        """Keep a test with its file and what comes of it; of a large file that is worked out apart, and the test tells nothing until then."""
        work = work_of(self.kind, conditions, self.subject, zlib.compress(raw, 6), columns, units)
        found = {PENDING: key_of(work)} if len(raw) > AT_ONCE else worked_out(work, raw)
        row = self._keep(conditions, {}, found, name)
        self._file(row, work.packed, len(raw), columns, units)
        return row


class KeepCompression(_Keep):
    """Keep a compression test, and give the open forecast of it its result."""

    verb, kind, form = "compression test", ProofKind.COMPRESSION, forms.CompressionForm

    def apply(self) -> None:
        """Lines of pressures by cylinder, with how it was done."""
        told = self.cleaned
        conditions = {key: value_of(told[key]) for key in ("cranking", "ambient", "hose", "oil_volume")}
        row = self._keep(
            {**conditions, "met": told["met"], "oil": told["oil"], "decompressor": told["decompressor"] or None},
            {"cylinders": told["cylinders_read"]},
        )
        if row.phase == Phase.AFTER:
            dry = sorted(sorted(each["dry"])[len(each["dry"]) // 2] for each in told["cylinders_read"].values() if each.get("dry"))
            tell_compression(self, dry[len(dry) // 2], row)


class KeepLeak(_Keep):
    """Keep a leak-down test."""

    verb, kind, form = "leak-down test", ProofKind.LEAK, forms.LeakForm

    def apply(self) -> None:
        """Pressure behind the restrictor by cylinder, and where it hisses."""
        told = self.cleaned
        self._keep({key: value_of(told[key]) for key in ("regulated", "restrictor")}, {"cylinders": told["cylinders_read"]})


class KeepLight(_Keep):
    """Keep which valves let light or solvent through."""

    verb, kind = "light through the port", ProofKind.LIGHT

    def apply(self) -> None:
        """`valve-<number>` is tight, weeps or leaks; the others were not looked at."""
        names = {place.pk: place.name for place in self.subject.engine.positions.all()}
        seen = {name: self.text(f"valve-{pk}") for pk, name in names.items()}
        valves = {name: state for name, state in seen.items() if state in ("tight", "weeps", "leaks")}
        if not valves:
            raise Refused("Say of at least one valve whether it is tight, weeps or leaks.")
        self.cleaned = {"phase": self.text("phase") if self.text("phase") in set(Phase) else Phase.BEFORE}
        self._keep({"with": "solvent" if self.text("with") == "solvent" else "light"}, {"valves": valves})


class KeepStarter(_Keep):
    """Read a trace of the starter's current and keep it with what it tells."""

    verb, kind, form = "starter current", ProofKind.STARTER, forms.StarterForm
    reversible = False

    def apply(self) -> None:
        """The file as CSV; a known-good trace is what later ones are held against."""
        raw = sent_bytes(self, "Ten seconds at 2,000 samples a second are plenty.", LARGEST_RUN)
        if not raw.strip():
            raise Refused("Choose the trace first: CSV with time and current.")
        good = ProofTest.objects.filter(build=self.subject, kind=ProofKind.STARTER, conditions__good=True).order_by("-at").first()
        found, columns, units = starter_in(raw, angles_of(self.subject), good.found.get("share", []) if good else [])
        row = self._keep({"good": self.cleaned["good"] or None, "order": order_of(self.subject)}, {}, found)
        self._file(row, zlib.compress(raw, 6), len(raw), columns, units)


class KeepRev(_Keep):
    """Keep where an engine gave up on the road or on a dyno."""

    verb, kind, form = "rev test", ProofKind.REV, forms.RevForm

    def apply(self) -> None:
        """Speed with its doubt, stretch, gear, instrument and how."""
        told = self.cleaned
        speed = value_of(told["speed"])
        assert speed is not None
        doubt = value_of(told["doubt"])
        if not 5.0 <= speed <= 400.0:
            raise Refused(fields={"speed": "An engine gives up between 300 and 24,000 rpm."})
        if doubt is not None and not 0.0 <= doubt <= 0.3 * speed:
            raise Refused(fields={"doubt": "A doubt of more than three tenths of the speed tells nothing."})
        row = self._keep(
            {"stretch": told["stretch"], "gear": told["gear"], "by": told["by"], "how": told["how"]},
            {"speed": speed, "doubt": doubt or 0.02 * speed},
        )
        if row.phase == Phase.AFTER:
            tell_float(self, speed, row)


class KeepSound(_Keep):
    """Hear a recording of a pull and keep it with what it tells."""

    verb, kind, form = "sound of a pull", ProofKind.SOUND, forms.SoundForm
    reversible = False

    def apply(self) -> None:
        """A WAV file; what is heard is kept, refusals are told."""
        raw = sent_bytes(self, "A minute of sound is plenty.", LARGEST_SOUND)
        if not raw:
            raise Refused("Choose a recording first: WAV, from on the machine.")
        top = value_of(self.cleaned["top"]) or usual_top(result_of(self.subject))
        if not 10.0 <= top <= 400.0:
            raise Refused(fields={"top": "An engine's pull ends between 600 and 24,000 rpm."})
        conditions = {"top": top, "where": self.cleaned["where"]}
        row = self._come_of(conditions, raw)
        if PENDING not in row.found:
            tell_heard(self, row)


class KeepRun(_Keep):
    """Read a run's file and keep it; a file of known columns is read at once, another asks which column is which."""

    verb, kind, form = "run", ProofKind.RUN, forms.RunForm
    reversible = False

    def apply(self) -> None:
        """The file; `col-<key>` and `unit-<key>` say which column is what where the headings do not."""
        raw = sent_bytes(self, "One pull at a hundred samples a second is plenty.", LARGEST_RUN)
        if not raw.strip():
            raise Refused("Choose the run's file first: CSV with engine speed and torque or power.")
        seen = run_table.preview(raw)
        columns, units = dict(seen.columns), dict(seen.units)
        for key in run_table.WORDS:
            place = self.text(f"col-{key}", 6)
            if place.lstrip("-").isdigit():
                columns = {name: at for name, at in columns.items() if name != key}
                if int(place) >= 0:
                    columns[key] = int(place)
                    units[key] = self.text(f"unit-{key}", 24) or units.get(key, next(iter(run_table.UNITS[key])))
        told = self.cleaned
        conditions = {
            "standard": told["standard"], "ambient": value_of(told["ambient"]), "temperature": value_of(told["temperature"]), "humidity": told["humidity"],
            "dyno": told["dyno"], "gear": told["gear"], "wheel": told["wheel"], "mass": value_of(told["mass"]), "drag": told["drag"], "slope": told["slope"],
            "way": told["way"] or None,
            "at_100": value_of(told["at_100"]), "taken_off": told["taken_off"],
        }  # fmt: skip
        if conditions["mass"] is not None and not 20.0 <= conditions["mass"] <= 3000.0:
            raise Refused(fields={"mass": "Machine and rider weigh between 20 and 3,000 kg. Which unit is it?"})
        self._come_of(conditions, raw, columns, units, told["name"] or f"{told['phase']} {timezone.localtime():%H:%M}")


class KeepVacuum(_Keep):
    """Keep vacuum at full throttle."""

    verb, kind, form = "vacuum", ProofKind.VACUUM, forms.VacuumForm

    def apply(self) -> None:
        """Pairs of speed and vacuum, the throttle's bore and number."""
        told = self.cleaned
        self._keep({"bore": value_of(told["bore"]), "throttles": told["throttles"]}, {"pairs": told["readings"]})


class KeepFailure(_Keep):
    """Keep what was seen, and what was looked for and not there, after a failure."""

    verb, kind = "after a failure", ProofKind.FAILURE

    def apply(self) -> None:
        """`mark-<key>` is seen or absent; `reached` is the highest speed of the log."""
        marks = {key[5:]: str(value) for key, value in self.data.items() if key.startswith("mark-") and value in ("seen", "absent")}
        if not marks:
            raise Refused("Say of at least one mark whether it is there.")
        reached = self.text("reached", 24)
        speed = None
        if reached:
            number = reached.replace(",", "").replace("rpm", "").strip()
            if not number.replace(".", "", 1).isdigit():
                raise Refused(fields={"reached": "Write the highest speed of the log as 11200."})
            speed = float(number) / 60.0
        self.cleaned = {"phase": Phase.AFTER}
        self._keep({"reached": speed}, {"marks": marks})


class TakeFound(Command):
    """Take over what came of a file that was worked out apart."""

    verb = "file worked out"
    judged = refreshes = False
    reversible = False

    def apply(self) -> None:
        """The `test`; one that is not done yet stays as it is."""
        row = any_test_or_404(self.subject, number_of(self.text("test")))
        row = ProofTest.objects.select_for_update(no_key=True).get(pk=row.pk)
        if PENDING not in row.found:
            return
        asked = tell_work(row)
        if isinstance(asked, tasks.Ready):
            self.ledger.set(row, found=asked.value)
            self.note(str(row), "", f"{row.made_on:%d %b %Y}")
            if row.kind == ProofKind.SOUND:
                tell_heard(self, row)


class RemoveTest(Command):
    """Take a test off the record; its file goes with it, and forecasts that it had told are open again."""

    verb = "test removed"
    judged = refreshes = False
    reversible = False

    def apply(self) -> None:
        """The one of `test`."""
        row = any_test_or_404(self.subject, number_of(self.text("test")))
        if PENDING in row.found:
            leave_out(row.found[PENDING])
        for each in Forecast.objects.select_for_update(no_key=True).filter(test=row):
            self.ledger.set(each, result=None, test=None)
        for kept in ProofFile.objects.filter(test=row):
            self.ledger.destroy(kept)
        self.note(str(row), f"{row.made_on:%d %b %Y}", "")
        self.ledger.destroy(row)


class AnchorTo(Command):
    """Rest the prediction of the motion at speed on where a test says that the valves gave up."""

    verb = "gave up"
    judged = False

    def apply(self) -> None:
        """The `test`, on one `side`."""
        row = test_or_404(self.subject, number_of(self.text("test")), ProofKind.REV, ProofKind.SOUND)
        speed, doubt = speed_of(row)
        side = self.text("side")
        if side not in set(Side):
            raise Refused("Say which side it was: intake or exhaust.")
        role = "stock" if row.phase == Phase.BEFORE else "proposed"
        self.made = observe(self, role=role, side=side, speed=speed, spread=doubt, note=f"{row.get_kind_display()}, {row.made_on:%d %b %Y}")


def speed_of(test: ProofTest) -> tuple[float, float]:
    """Speed (rev/s) and doubt (k = 2) at which a rev test or a recording says it gave up."""
    if test.kind == ProofKind.REV:
        return float(test.readings["speed"]), float(test.readings["doubt"])
    return float(test.found["end"]["speed"]), 2.0 * float(test.found["end"]["doubt"])


def tell_work(row: ProofTest) -> tasks.Asked:
    """How far the working out of a test's file is; begun anew where nobody knows of it, as after the results were cleared."""

    def work() -> Work:
        file = file_of(row)
        return work_of(
            row.kind, row.conditions, row.build, bytes(file.data) if file else b"", file.columns if file else {}, file.units if file else {}
        )

    return asked_of(row.found[PENDING], work)


def tell_heard(command: Command, row: ProofTest) -> None:
    """Give the forecast of float its result where a recording after the work was heard to end with clatter."""
    if row.phase == Phase.AFTER and row.found["odds"]["clatter"] >= 0.5:
        tell_float(command, row.found["end"]["speed"], row)
