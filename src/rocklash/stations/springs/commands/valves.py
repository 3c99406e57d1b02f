"""Changes of the page Valve by valve: heights, shims, weighings, and a rocker's inertia."""

from collections.abc import Callable

from django.shortcuts import get_object_or_404

from rocklash.answers.results import result_of
from rocklash.answers.valves import WEIGHED, load_asked, planned_shims, valves_answer
from rocklash.commands.base import Command, Refused, number_of
from rocklash.commands.figures import now_text
from rocklash.records.figure_column import fit_fingerprint, stored_figure
from rocklash.records.models import Part, Position, SetupRole, SetupSide, ValveFit, Weighing
from rocklash.stations.springs.forms import SwingForm
from valvetrain.errors import QuantityError, ValveTrainError
from valvetrain.parts.catalogue import FIGURES, Owner
from valvetrain.parts.engine import Side
from valvetrain.parts.figure import Figure
from valvetrain.quantities import parse
from valvetrain.studies.springs.installed import height_from_protrusion
from valvetrain.studies.springs.mass_ledger import mean_of_weighings, rocker_by_geometry, rocker_by_pendulum, rocker_by_weighing
from valvetrain.units import LENGTH, QuantityKind, amount, quantity

_MOVED = "Meanwhile somebody else measured {name}. Yours is still in the fields: send again to use it, or reload to take theirs."


class _OfARow(Command):
    """A command on one proposed side."""

    def side_row(self) -> SetupSide:
        """The side that was sent, locked."""
        rows = SetupSide.objects.select_for_update(of=("self",), no_key=True).filter(
            setup__build=self.subject, setup__role=SetupRole.PROPOSED
        )
        return get_object_or_404(rows, pk=number_of(self.text("row")))

    def place(self, row: SetupSide) -> Position:
        """The valve that was sent."""
        return get_object_or_404(Position, engine=self.subject.engine_id, side=row.side, pk=number_of(self.text("valve")))

    def keep_mass(self, part: Part, owner: Owner, figure: Figure) -> None:
        """The part's mass becomes the figure."""
        FIGURES[owner, "mass"].check(figure.value)
        by = self.member.user.username
        stored = stored_figure(owner, "mass", figure.value, figure.basis, by=by, at=now_text(), spread=figure.spread)
        self.ledger.set(part, figures=part.figures | {"mass": stored})


class KeepStand(_OfARow):
    """Keep how one valve's springs stand: a height, or protrusion and retainer drop, and the shim; all empty takes it back."""

    verb = "valve height"

    def apply(self) -> None:
        """`seen` is the fit the person saw."""
        row = self.side_row()
        place = self.place(row)
        now = ValveFit.objects.select_for_update(no_key=True).filter(setup_side=row, position=place).first()
        try:
            height, protrusion, drop, shim = self._lengths(place)
        except ValveTrainError as error:
            raise Refused(f"{place}: {error.sentence} {self.nothing}") from error
        if self.text("seen") != fit_fingerprint(now):
            raise Refused(_MOVED.format(name=place), conflict=True)
        if height is not None or shim is not None:
            values = {"height": height, "protrusion": protrusion, "drop": drop, "shim": shim, "by": self.member.user}
            self.ledger.put(ValveFit, {"setup_side": row, "position": place}, **values)
        elif now:
            self.ledger.drop(now)
        told = [quantity(value, LENGTH, self.system) if value is not None else "not known" for value in (height, shim)]
        self.note(f"{place}", fit_fingerprint(now), f"height {told[0]}, shim {told[1]}")

    def _lengths(self, place: Position) -> tuple[float | None, float | None, float | None, float | None]:
        height = self._length("height", "installed_height")
        protrusion, drop, shim = self._length("protrusion"), self._length("drop"), self._length("shim", "spring_shim")
        if (protrusion is None) != (drop is None):
            raise Refused(f"{place}: protrusion and the retainer's drop go together; or give the height itself. {self.nothing}")
        if protrusion is not None and drop is not None:
            height = height_from_protrusion(protrusion, drop)
            FIGURES[Owner.FIT, "installed_height"].check(height, self.system)
        return height, protrusion, drop, shim

    def _length(self, key: str, figure: str = "") -> float | None:
        if not self.text(key):
            return None
        value = parse(self.text(key), LENGTH, self.system).value
        if figure:
            FIGURES[Owner.FIT, figure].check(value, self.system)
        elif not 1e-3 <= value <= 150e-3:
            raise QuantityError(f"{amount(value, LENGTH)} cannot be. Is the unit right?")
        return value


class LayShims(_OfARow):
    """Put the planned shims under every valve of a side."""

    verb = "spring shims"

    def standing(self) -> object:
        """The shims under the valves of this side."""
        return list(ValveFit.objects.filter(setup_side=number_of(self.text("row"))).order_by("pk").values_list("position_id", "shim"))

    def apply(self) -> None:
        """The plan as the page shows it, to the seat load its address names or to what the goal needs."""
        row = self.side_row()
        plan = valves_answer(result_of(self.subject), Side(row.side), load_asked(str(self.query.get("wanted", "")), self.system))
        shims = planned_shims(self.subject, plan) if plan else {}
        for place in Position.objects.filter(engine=self.subject.engine_id, side=row.side, pk__in=shims):
            self.ledger.put(ValveFit, {"setup_side": row, "position": place}, shim=shims[place.pk], by=self.member.user)
        self.note(row.side, "", ", ".join(quantity(value, LENGTH, self.system) for value in shims.values()))


class Weigh(_OfARow):
    """Keep one part of one valve on the scale; the part's mass becomes the mean of its weighings. An empty text takes it back."""

    verb = "weighed"

    def apply(self) -> None:
        """`slot` is the part's place, `seen` the weighing the person saw."""
        slot, text = self.text("slot"), self.text("mass", 40)
        if slot not in WEIGHED:
            raise Refused("There is no such part to weigh.")
        row = self.side_row()
        place = self.place(row)
        part = Part.objects.select_for_update(no_key=True).filter(pk=getattr(row, f"{slot}_id")).first()
        if part is None:
            raise Refused(f"There is no {slot} in this set-up to weigh.")
        now = Weighing.objects.select_for_update(no_key=True).filter(setup_side=row, position=place, slot=slot).first()
        if self.data.get("seen", "none") != (f"{now.mass:.7f}" if now else "none"):
            raise Refused(_MOVED.format(name=f"the {slot} of {place}"), conflict=True)
        self.note(f"{place}, {slot}", quantity(now.mass, QuantityKind.MASS, self.system, 2) if now else "", text or "removed")
        try:
            if text:
                mass = parse(text, QuantityKind.MASS, self.system).value
                FIGURES[WEIGHED[slot], "mass"].check(mass, self.system)
                self.ledger.put(Weighing, {"setup_side": row, "position": place, "slot": slot}, mass=mass, by=self.member.user)
            elif now:
                self.ledger.drop(now)
            masses = list(Weighing.objects.filter(setup_side=row, slot=slot).values_list("mass", flat=True))
            if masses:
                self.keep_mass(part, WEIGHED[slot], mean_of_weighings(masses))
        except ValveTrainError as error:
            raise Refused(f"{place}, {slot}: {error.sentence} {self.nothing}") from error


_SWING_FIELDS = {
    "geometry": ("mass", "valve_arm", "other_arm"),
    "pendulum": ("mass", "centre", "swings", "seconds", "valve_arm"),
    "weighing": ("valve_end", "other_end", "valve_arm", "other_arm"),
}
_SWING_WAYS: dict[str, Callable[..., Figure]] = {
    "geometry": rocker_by_geometry,
    "pendulum": rocker_by_pendulum,
    "weighing": rocker_by_weighing,
}


class KeepSwing(_OfARow):
    """A rocker's or finger's mass at the valve from its inertia: by geometry, pendulum or weighing its ends."""

    verb = "inertia"
    form = SwingForm

    def standing(self) -> object:
        """The follower's mass."""
        row = SetupSide.objects.filter(setup__build=self.subject, pk=number_of(self.text("row"))).select_related("follower").first()
        return row.follower.figures.get("mass", "none") if row and row.follower else None

    def apply(self) -> None:
        """`way` names which figures count."""
        way = self.cleaned["way"]
        part = Part.objects.select_for_update(no_key=True).filter(pk=self.side_row().follower_id or 0).first()
        if part is None:
            raise Refused("There is no follower in this set-up.")
        labels, typed = SwingForm.base_fields, {key: self.cleaned[key] for key in _SWING_FIELDS[way]}
        missing = [key for key, value in typed.items() if value is None and key != "other_arm"]  # an arm not known is the pivot itself
        if missing:
            raise Refused(fields={key: f"{labels[key].label} is missing: this way needs it." for key in missing})
        figure = _SWING_WAYS[way](*(value.value if value else 0.0 for value in typed.values()))
        self.keep_mass(part, Owner.FOLLOWER, figure)
        told = ", ".join(f"{str(labels[key].label).lower()} {value.text if value else '0'}" for key, value in typed.items())
        self.note(f"{part}, {way}", told, f"{quantity(figure.value, QuantityKind.MASS, self.system, 2)} at the valve")
