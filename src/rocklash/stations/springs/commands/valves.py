"""Mutations of the page Valve by valve: heights, shims, weighings, and a rocker's inertia."""

from collections.abc import Callable

from django.db import transaction
from django.http import QueryDict
from django.shortcuts import get_object_or_404
from django.utils import timezone

from rocklash.answers.valves import WEIGHED
from rocklash.commands.base import journal, require_change
from rocklash.commands.facts import note_kept
from rocklash.records.figure_column import stored_figure
from rocklash.records.models import Build, Membership, Part, Position, SetupRole, SetupSide, ValveFit, Weighing
from rocklash.stations.springs.commands.springs import number_of
from rocklash.stations.springs.pages.valves import fingerprint
from valvetrain.errors import QuantityError, ValveTrainError
from valvetrain.parts.catalogue import FIGURES, Owner
from valvetrain.parts.figure import Figure
from valvetrain.quantities import parse
from valvetrain.studies.springs.installed import height_from_protrusion
from valvetrain.studies.springs.mass_ledger import mean_of_weighings, rocker_by_geometry, rocker_by_pendulum, rocker_by_weighing
from valvetrain.units import QuantityKind, UnitSystem, show, unit_symbol

_MOVED = "Meanwhile somebody else measured {name}. Yours stands in the fields: send again to use it, or reload to take theirs."


def _row(build: Build, post: QueryDict) -> SetupSide:
    rows = SetupSide.objects.select_for_update(of=("self",)).filter(setup__build=build, setup__role=SetupRole.PROPOSED)
    return get_object_or_404(rows, pk=number_of(post.get("row", "")))


def _place(build: Build, row: SetupSide, post: QueryDict) -> Position:
    return get_object_or_404(Position, engine=build.engine, side=row.side, pk=number_of(post.get("valve", "")))


def _length(post: QueryDict, key: str, figure: str, system: UnitSystem) -> float | None:
    text = post.get(key, "").strip()
    if not text:
        return None
    value = parse(text, QuantityKind.LENGTH, system).value
    if figure:
        FIGURES[Owner.FIT, figure].check(value, system)
    elif not 1e-3 <= value <= 150e-3:
        raise QuantityError(
            f"{show(value, QuantityKind.LENGTH, system)} {unit_symbol(QuantityKind.LENGTH, system)} cannot be. Is the unit right?"
        )
    return value


def keep_stand(member: Membership, build: Build, post: QueryDict) -> str:
    """Keep how one valve's springs stand: a height, or protrusion and retainer drop, and the shim. A sentence when it was not kept."""
    require_change(member)
    system = UnitSystem(member.user.unit_system)
    with transaction.atomic():
        row = _row(build, post)
        place = _place(build, row, post)
        now = ValveFit.objects.select_for_update().filter(setup_side=row, position=place).first()
        try:
            height = _length(post, "height", "installed_height", system)
            protrusion, drop = _length(post, "protrusion", "", system), _length(post, "drop", "", system)
            shim = _length(post, "shim", "spring_shim", system)
            if (protrusion is None) != (drop is None):
                return f"{place}: protrusion and the retainer's drop go together; or give the height itself. Nothing was kept."
            if protrusion is not None and drop is not None:
                height = height_from_protrusion(protrusion, drop)
                FIGURES[Owner.FIT, "installed_height"].check(height, system)
        except ValveTrainError as error:
            return f"{place}: {error} Nothing was kept."
        if post.get("seen", "") != fingerprint(now):
            return _MOVED.format(name=place)
        if height is None and shim is None:
            ValveFit.objects.filter(setup_side=row, position=place).delete()
        else:
            values = {"height": height, "protrusion": protrusion, "drop": drop, "shim": shim, "by": member.user}
            ValveFit.objects.update_or_create(setup_side=row, position=place, defaults=values)
        told = [f"{show(value, QuantityKind.LENGTH)} mm" if value is not None else "not told" for value in (height, shim)]
        journal(member, "valve height", f"{build.name}: {place}", fingerprint(now), f"height {told[0]}, shim {told[1]}")
        return note_kept(member, build)


def lay_shims(member: Membership, build: Build, post: QueryDict, shims: dict[int, float]) -> str:
    """Put the planned shims (m, by the position's number) under every valve of a side."""
    require_change(member)
    with transaction.atomic():
        row = _row(build, post)
        for place in Position.objects.filter(engine=build.engine, side=row.side, pk__in=shims):
            ValveFit.objects.update_or_create(setup_side=row, position=place, defaults={"shim": shims[place.pk], "by": member.user})
        journal(member, "spring shims", f"{build.name}: {row.side}", "", ", ".join(f"{value * 1e3:.2f}" for value in shims.values()))
        return note_kept(member, build)


def _keep_mass(part: Part, owner: Owner, figure: Figure, by: str) -> None:
    now = timezone.now().isoformat(timespec="seconds")
    FIGURES[owner, "mass"].check(figure.value)
    stored = stored_figure(owner, "mass", figure.value, figure.basis, "", "", by, now)
    part.figures["mass"] = stored | {"spread": figure.spread}
    part.save(update_fields=["figures"])


def weigh(member: Membership, build: Build, post: QueryDict) -> str:
    """Keep one part of one valve on the scale; the part's mass becomes the mean of its weighings. An empty text takes it back."""
    require_change(member)
    system, slot = UnitSystem(member.user.unit_system), post.get("slot", "")
    if slot not in WEIGHED:
        return "There is no such part to weigh."
    with transaction.atomic():
        row = _row(build, post)
        place = _place(build, row, post)
        part = Part.objects.select_for_update().filter(pk=getattr(row, f"{slot}_id")).first()
        if part is None:
            return f"There is no {slot} in this set-up to weigh."
        now = Weighing.objects.select_for_update().filter(setup_side=row, position=place, slot=slot).first()
        if post.get("seen", "none") != (f"{now.mass:.7f}" if now else "none"):
            return _MOVED.format(name=f"the {slot} of {place}")
        try:
            text = post.get("mass", "").strip()
            if text:
                mass = parse(text, QuantityKind.MASS, system).value
                FIGURES[WEIGHED[slot], "mass"].check(mass, system)
                Weighing.objects.update_or_create(setup_side=row, position=place, slot=slot, defaults={"mass": mass, "by": member.user})
            else:
                Weighing.objects.filter(setup_side=row, position=place, slot=slot).delete()
            masses = list(Weighing.objects.filter(setup_side=row, slot=slot).values_list("mass", flat=True))
            if masses:
                _keep_mass(part, WEIGHED[slot], mean_of_weighings(masses), member.user.username)
        except ValveTrainError as error:
            transaction.set_rollback(True)
            return f"{place}, {slot}: {error} Nothing was kept."
        journal(member, "weighed", f"{build.name}: {place}, {slot}", f"{now.mass * 1e3:.2f} g" if now else "", f"{text or 'taken back'}")
        return note_kept(member, build)


_SWING_FIELDS = {
    "geometry": (("mass", QuantityKind.MASS), ("valve_arm", QuantityKind.LENGTH), ("other_arm", QuantityKind.LENGTH)),
    "pendulum": (
        ("mass", QuantityKind.MASS),
        ("centre", QuantityKind.LENGTH),
        ("swings", QuantityKind.NUMBER),
        ("seconds", QuantityKind.NUMBER),
        ("valve_arm", QuantityKind.LENGTH),
    ),
    "weighing": (
        ("valve_end", QuantityKind.MASS),
        ("other_end", QuantityKind.MASS),
        ("valve_arm", QuantityKind.LENGTH),
        ("other_arm", QuantityKind.LENGTH),
    ),
}
_SWING_WAYS: dict[str, Callable[..., Figure]] = {
    "geometry": rocker_by_geometry,
    "pendulum": rocker_by_pendulum,
    "weighing": rocker_by_weighing,
}
_SWING_NAMES = {
    "mass": "mass", "valve_arm": "arm to the valve", "other_arm": "other arm", "centre": "centre of mass below the pivot", "swings": "swings",
    "seconds": "seconds", "valve_end": "reading at the valve's end", "other_end": "reading at the other end",
}  # fmt: skip


def keep_swing(member: Membership, build: Build, post: QueryDict) -> str:
    """A rocker's or finger's mass at the valve from its inertia: by geometry, pendulum or weighing its ends."""
    require_change(member)
    system, way = UnitSystem(member.user.unit_system), post.get("way", "")
    if way not in _SWING_WAYS:
        return "Choose geometry, pendulum or weighing."
    with transaction.atomic():
        row = _row(build, post)
        part = Part.objects.select_for_update().filter(pk=row.follower_id or 0).first()
        if part is None:
            return "There is no follower in this set-up."
        values = []
        for key, kind in _SWING_FIELDS[way]:
            text = post.get(key, "").strip()
            if not text and key == "other_arm":
                values.append(0.0)
                continue
            try:
                values.append(parse(text, kind, system).value)
            except QuantityError as error:
                return f"{_SWING_NAMES[key].capitalize()}: {error} Nothing was kept."
        try:
            figure = _SWING_WAYS[way](*values)
            _keep_mass(part, Owner.FOLLOWER, figure, member.user.username)
        except ValveTrainError as error:
            return f"{error} Nothing was kept."
        told = ", ".join(f"{_SWING_NAMES[key]} {post.get(key, '').strip() or '0'}" for key, _ in _SWING_FIELDS[way])
        journal(member, "inertia", f"{build.name}: {part}, {way}", told, f"{figure.value * 1e3:.2f} g at the valve")
        return note_kept(member, build)
