"""Changes of Springs & masses: what an engine was seen to do, tester logs, what the packet says, the simulated tester."""

from django.db import transaction
from django.shortcuts import get_object_or_404

from rocklash.answers.calibration import learning_of, stop_learning
from rocklash.answers.results import result_of
from rocklash.answers.tester import fits_of_text, place_of
from rocklash.commands.base import Command, Refused, number_of
from rocklash.commands.figures import now_text
from rocklash.commands.observations import observe
from rocklash.desk.files import sent_text
from rocklash.records.figure_column import stored_figure
from rocklash.records.models import Observation, Part, SpringLog
from rocklash.stations.springs.forms import ObservationForm, SpringLogForm
from valvetrain.errors import QuantityError
from valvetrain.parts.catalogue import FIGURES, Owner
from valvetrain.parts.engine import Side
from valvetrain.parts.figure import Basis
from valvetrain.quantities import parse
from valvetrain.studies.motion.calibration import USUAL_DOUBT
from valvetrain.studies.springs.spring_test import read_set
from valvetrain.units import QuantityKind, UnitSystem, show


class KeepObservation(Command):
    """Keep where an engine gave up, with its evidence; the newest one is what a prediction rests on."""

    verb = "gave up"
    judged = False
    form = ObservationForm

    def apply(self) -> None:
        """`speed` with the `doubt` about it, on one side of one set-up."""
        side, role, speed = self.cleaned["side"], self.cleaned["role"], self.cleaned["speed"].value
        doubt = self.cleaned["doubt"]
        spread = doubt.value if doubt else USUAL_DOUBT * speed
        if not 0.0 <= spread <= 0.5 * speed:
            told = show(spread, QuantityKind.SPEED), show(speed, QuantityKind.SPEED)
            raise Refused(f"A doubt of {told[0]} rpm about {told[1]} rpm tells nothing: give less, or nothing.")
        self.made = observe(self, role=role, side=side, speed=speed, spread=spread, note=self.cleaned["note"])


class UseObservation(Command):
    """Rest the prediction on an observation, or leave it out; it stays on record either way."""

    verb = "gave up"
    judged = False

    def apply(self) -> None:
        """`use` is yes or anything else."""
        mine = Observation.objects.select_for_update(of=("self",), no_key=True).filter(build=self.subject)
        row = get_object_or_404(mine, pk=number_of(self.text("observation")))
        use = self.text("use") == "yes"
        if use:
            for other in mine.filter(side=row.side, in_use=True).exclude(pk=row.pk):
                self.ledger.set(other, in_use=False)
        self.ledger.set(row, in_use=use)
        learning = None if use else learning_of(result_of(self.subject), row)
        if learning and learning.running:
            transaction.on_commit(lambda: stop_learning(learning))  # nobody waits for it any more
        self.note(f"{row.role} {row.side}", "", "used" if use else "left out")


class _OfASpring(Command):
    """A command on one spring, its target: it writes over what the part tells."""

    def standing(self) -> object:
        """Figures and words of the spring."""
        return Part.objects.filter(pk=self.target.pk).values_list("figures", "facts").first()

    def lock(self) -> None:
        """The spring too: it may lie in other builds."""
        super().lock()
        self.spring()

    def spring(self) -> Part:
        """The spring, locked."""
        return Part.objects.select_for_update(no_key=True).get(pk=self.target.pk)


class KeepSpringLog(_OfASpring):
    """Fit a tester log and keep it with its spring: measured figures of the part are the set's."""

    verb = "spring tester"
    form = SpringLogForm

    def apply(self) -> None:
        """The log as typed or as a file, `leans` of single springs, and whether they are `used`."""
        used, side = self.cleaned["state"] == "used", self.text("side")
        place = place_of(result_of(self.subject), self.subject, self.target, Side(side) if side in set(Side) else Side.INTAKE)
        text = sent_text(self, "Ten heights a spring are plenty.")
        fits = fits_of_text(text, self.system)
        leans = _leans(self.cleaned["leans"], {fit.name for fit in fits}, self.system)
        height = place.height if place else fits[0].height
        found = read_set(list(fits), height, place.lift if place else height - fits[0].low, leans=leans)
        spring, figures = self.spring(), {}
        for key, figure in found.figures.items():
            FIGURES[Owner.SPRING, key].check(figure.value, self.system)
            figures[key] = stored_figure(
                Owner.SPRING,
                key,
                figure.value,
                Basis.MEASURED,
                by=self.member.user.username,
                at=now_text(),
                spread=max(figure.spread, 1e-9),
            )
        kept = {key: figure for key, figure in spring.figures.items() if key != "bend"}
        self.ledger.set(spring, figures=kept | figures, facts=spring.facts | {"state": "used" if used else "new"})
        count = sum(fit.bound.size for fit in fits)
        self.ledger.make(
            SpringLog, part=spring, by=self.member.user, text=text, system=self.system.value, used=used, leans=leans, readings=count
        )
        self.note(f"{spring}", "", f"{len(fits)} springs, {count} readings")


def _leans(text: str, names: set[str], system: UnitSystem) -> dict[str, float]:
    """`2: 1.5, 3: 0.4` as lengths by spring. Raises QuantityError for what is neither."""
    found = {}
    for item in filter(None, (part.strip() for part in text.replace(";", ",").split(","))):
        name, _, lean = item.partition(":")
        if name.strip() not in names or not lean.strip():
            listed = ", ".join(sorted(names))
            raise QuantityError(
                f"“{item}” is not a spring of this log and how far it leans: write for example {min(names)}: 1.2 (springs: {listed})."
            )
        found[name.strip()] = parse(lean.strip(), QuantityKind.LENGTH, system).value
    return found
