"""Changes of the Cams station: candidates, lobes from logs and files, degreeing in, the simulated wheel."""

import math

from django.shortcuts import get_object_or_404

from rocklash.answers.cams import fit_of_text
from rocklash.answers.results import result_of
from rocklash.commands.base import Command, Refused, number_of
from rocklash.commands.figures import now_text
from rocklash.commands.parts import ChoosePart
from rocklash.desk.files import sent_bytes, sent_text
from rocklash.records.figure_column import Stored, stored_figure, stored_from
from rocklash.records.models import CamCandidate, CamLog, CamTiming, Part, SetupRole, SetupSide
from rocklash.records.selectors.builds import parts_that_fit
from rocklash.stations.cams.forms import CamFileForm, DegreeForm, LogForm
from valvetrain.errors import ValveTrainError
from valvetrain.formats import lobe_file
from valvetrain.formats.lobe_document import document
from valvetrain.formulas.cam_timing import equal_lift_centre
from valvetrain.parts.catalogue import FIGURES, Owner
from valvetrain.parts.engine import Side
from valvetrain.parts.figure import Basis
from valvetrain.parts.lobe import Lobe, StatedAt, from_lobe
from valvetrain.studies.cams.degree_wheel import DegreeWheelFit, lobe_of
from valvetrain.studies.regrind.from_build import Regrind

_LONGEST_NAME = 80
_LOW, _HIGH = 1.0e-3, 0.4  # heights at which durations are taken: 1 mm, and this share of the lift, which tells the flank's fullness


class _OfASide(Command):
    """A command on the cams of one proposed side."""

    judged = False

    def side_row(self) -> SetupSide:
        """The proposed side that was sent."""
        rows = SetupSide.objects.select_related("cam").filter(setup__build=self.subject, setup__role=SetupRole.PROPOSED)
        return get_object_or_404(rows, pk=number_of(self.text("row")))

    def letter(self) -> str:
        """B or C."""
        letter = self.text("letter")
        if letter not in ("B", "C"):
            raise Refused("There is room for two more cams, B and C.")
        return letter

    def name_free(self, name: str) -> str:
        """The name, where the shop has no cam of it yet."""
        if not 1 <= len(name) <= _LONGEST_NAME:
            raise Refused(f"Give the new cam a name of up to {_LONGEST_NAME} letters, such as its grind and side.")
        if parts_that_fit(self.subject).filter(kind="cam", name=name).exists():
            raise Refused(f"There is a cam called “{name}” already: choose it from the list, or give this one another name.")
        return name

    def lay_beside(self, row: SetupSide, cam: Part) -> None:
        """Lay a new cam beside the others, where there is room."""
        taken = set(CamCandidate.objects.filter(setup_side=row).values_list("letter", flat=True))
        free = next((letter for letter in ("B", "C") if letter not in taken), None)
        if free:
            self.ledger.make(CamCandidate, setup_side=row, cam=cam, letter=free)


class LayBeside(_OfASide):
    """Lay a cam beside stock and proposed as B or C, or take it away again."""

    verb = "laid beside"

    def apply(self) -> None:
        """Without a part what lies there is taken away."""
        row, letter = self.side_row(), self.letter()
        there = CamCandidate.objects.select_for_update(no_key=True).filter(setup_side=row, letter=letter).first()
        if not self.text("part"):
            if there:
                self.note(f"{row.side}, {letter}", str(there.cam), "")
                self.ledger.drop(there)
            return
        cam = get_object_or_404(parts_that_fit(self.subject), kind="cam", pk=number_of(self.text("part")))
        self.note(f"{row.side}, {letter}", str(there.cam) if there else "", cam.name)
        self.ledger.put(CamCandidate, {"setup_side": row, "letter": letter}, cam=cam)


class Propose(_OfASide):
    """Propose a cam that lies beside; the one proposed before takes its place."""

    verb = "part"
    judged = True
    nothing = "The part was not changed."

    def apply(self) -> None:
        """`seen` is the proposed cam that the person saw."""
        row = self.side_row()
        candidate = get_object_or_404(CamCandidate.objects.select_for_update(no_key=True), setup_side=row, letter=self.letter())
        before = row.cam
        asked = {"row": str(row.pk), "slot": "cam", "part": str(candidate.cam_id), "seen": self.text("seen")}
        choice = ChoosePart(self.member, self.build, asked)
        self.include(choice)
        self.ledger.set(candidate, cam=before)
        self.about, self.before, self.after = choice.about, choice.before, choice.after


class NewCam(_OfASide):
    """A cam of which nothing is known yet, on the shelf and laid beside where there is room."""

    verb = "new cam"

    def apply(self) -> None:
        """The cam is what was made."""
        row, name = self.side_row(), self.name_free(self.text("name", _LONGEST_NAME + 1))
        self.made = self.ledger.make(Part, workshop=self.subject.workshop, kind="cam", name=name, side=row.side)
        self.lay_beside(row, self.made)
        self.note(row.side, "", name)


class _OfACam(Command):
    """A command on one cam, its target: it writes over the cam's points and figures."""

    def standing(self) -> object:
        """Points and figures of the cam."""
        return Part.objects.filter(pk=self.target.pk).values_list("lobe", "figures").first()

    def lock(self) -> None:
        """The cam too: it may lie in other builds."""
        super().lock()
        self.cam()

    def cam(self) -> Part:
        """The cam, locked."""
        return Part.objects.select_for_update(no_key=True).get(pk=self.target.pk)

    def figure(self, key: str, value: float, spread: float | None = None) -> dict[str, object]:
        """A measured figure of the cam as it is kept."""
        FIGURES[Owner.CAM, key].check(value)
        return stored_figure(Owner.CAM, key, value, Basis.MEASURED, by=self.member.user.username, at=now_text(), spread=spread)

    def keep_lobe(self, cam: Part, lobe: Lobe | None, figures: Stored, **more: object) -> None:
        """Points or none, with the figures that go with them."""
        points = document(lobe, cam.name).model_dump(mode="json") if lobe else None
        self.ledger.set(cam, lobe=points, figures=figures, **more)


class KeepLog(_OfACam):
    """Fit a degree-wheel log and keep it with its cam."""

    verb = "degree wheel"
    form = LogForm

    def apply(self) -> None:
        """The log as typed or as a file; its angles of the crank unless told otherwise."""
        crank, lean = self.cleaned["angles"] == "crank", self.cleaned["tilt"]
        tilt = lean.value if lean else 0.0
        if not 0.0 <= tilt <= math.radians(30.0):
            raise Refused(
                f"An indicator {math.degrees(tilt):.0f}° off the valve's axis measures something else: bring it below 30°. {self.nothing}"
            )
        text = sent_text(self, "One reading a crank degree is plenty.")
        log, found = fit_of_text(text, crank=crank, tilt=tilt, system=self.system)
        lobe, mirrored = lobe_of(found, StatedAt(self.cleaned["at"]))
        figures = self._figures(found)
        if self.cleaned["zero"] == "tdc" and crank:
            figures["lobe_centre"] = self.figure("lobe_centre", abs(2.0 * found.nose))
        cam = self.cam()
        kept = {key: figure for key, figure in cam.figures.items() if key[-2:] not in ("_2", "_3", "_4")}
        self.keep_lobe(cam, lobe, kept | figures)
        peak, band = found.peak_acceleration
        self.ledger.make(
            CamLog, part=cam, by=self.member.user, text=text, crank=crank, readings=len(log.angle), dropped=len(found.dropped), noise=found.noise,
            acceleration=peak, acceleration_spread=band, coarse=found.coarse, mirrored=mirrored, tilt=tilt, system=self.system.value,
        )  # fmt: skip
        self.note(f"{cam}", "", f"{len(log.angle)} readings, {len(found.dropped)} left out")

    def _figures(self, found: DegreeWheelFit) -> Stored:
        """Measured figures of the cam: lift, and durations at two heights where the log reaches them on both flanks."""
        # what the fit itself is sure of, k = 2: noise at the peak and a quarter of a cam degree on each flank
        stored = {"lift": self.figure("lift", found.peak_lift, 2.0 * found.noise + float(found.lift_spread.max()))}
        for number, height in ((1, _LOW), (2, found.peak_lift * _HIGH)):
            try:
                duration = 2.0 * found.duration_at(height)
            except ValveTrainError:
                continue  # a log of one flank has no duration of its own
            stored[f"height_{number}"] = self.figure(f"height_{number}", height)
            stored[f"duration_{number}"] = self.figure(f"duration_{number}", duration, math.radians(0.5))
        return stored


class KeepFile(_OfACam):
    """Take a cam from a lift table, a lobe file or a build file."""

    verb = "cam from file"
    form = CamFileForm

    def apply(self) -> None:
        """The file, with the side of a build file that is meant."""
        told_side = self.text("side")
        side = Side(told_side) if told_side in set(Side) else Side.INTAKE
        raw = sent_bytes(self, "A lift table of a row a degree is 10,000 characters.")
        crank, at = self.cleaned["angles"] == "crank", StatedAt(self.cleaned["at"])
        lobe, record = lobe_file.read(raw, side=side, crank=crank, system=self.system, at=at)
        if lobe:
            FIGURES[Owner.CAM, "lift"].check(from_lobe(lobe).full, self.system)
        cam = self.cam()
        facts = dict(record.facts) if record else cam.facts
        self.keep_lobe(cam, lobe, stored_from(record.figures) if record else cam.figures, facts=facts)
        self.note(f"{cam}", "", "build file" if record else "lift table")


class SetAside(_OfACam):
    """Go back from points to the card; the logs stay."""

    verb = "points set aside"

    def apply(self) -> None:
        """Only the points go."""
        cam = self.cam()
        self.keep_lobe(cam, None, cam.figures)
        self.note(f"{cam}", "points", "card")


class DegreeIn(_OfASide):
    """Record two wheel readings at one lift."""

    verb = "degreed in"
    form = DegreeForm
    nothing = "Nothing was recorded."

    def apply(self) -> None:
        """`first` and `second` are crank angles after overlap TDC."""
        row = self.side_row()
        first, second = (self.cleaned[name].value for name in ("first", "second"))
        centre = equal_lift_centre(first, second)
        told = centre if row.side == Side.INTAKE else -centre
        FIGURES[Owner.CAM, "lobe_centre"].check(told, self.system)
        result = result_of(self.subject)
        if result.review is None:
            raise Refused(f"{result.contradiction} {self.nothing}")
        wanted = result.review.completed.proposed_sides[Side(row.side)].cam.figures["lobe_centre"].value
        self.ledger.make(CamTiming, setup_side=row, by=self.member.user, first=first, second=second, centre=told, wanted=wanted)
        self.note(row.side, f"{math.degrees(wanted):.1f}°", f"{math.degrees(told):.1f}°")


class LayRegrind(_OfASide):
    """Keep the ground lobe that the page shows as a new cam, laid beside the others."""

    verb = "regrind"

    def apply(self) -> None:
        """What was asked stands in the page's address; the target is the lobe that follows from it."""
        row, name = self.side_row(), self.name_free(self.text("name", _LONGEST_NAME + 1))
        found: Regrind | None = self.target
        if found is None or found.side.value != row.side:
            raise Refused("There is no ground lobe here to save: look at what the page says.", conflict=found is not None)
        part = found.record.proposed[found.side].parts[Owner.CAM]
        assert part.lobe
        self.made = self.ledger.make(
            Part, workshop=self.subject.workshop, kind="cam", name=name, side=row.side, figures=stored_from(part.figures), facts=dict(part.facts),
            lobe=document(part.lobe, name).model_dump(mode="json"), note="A proposal, computed: for a grinder to check.",
        )  # fmt: skip
        self.lay_beside(row, self.made)
        self.note(row.side, "", name)
