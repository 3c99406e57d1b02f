"""How a lobe sits under its follower: curvature, hollow and grinding wheel, contact travel, push, contact stress, and what forbids it."""

import math
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from valvetrain.errors import ValveTrainError
from valvetrain.formulas.cam_followers import force_at_lobe, least_face_diameter
from valvetrain.formulas.contact_stress import (
    contact_modulus,
    crowned_half_width,
    crowned_pressure,
    line_half_width,
    line_pressure,
    shear_depth,
)
from valvetrain.formulas.separation import contact_force
from valvetrain.parts.cam_drive import Contact, LobeShape, Path, lobe_from_valve
from valvetrain.parts.cam_source import CamSource
from valvetrain.parts.figure import Basis, FigureMap
from valvetrain.parts.setup import TrainSide
from valvetrain.studies.train.lobe_bands import MEMBERS, Band, over_members
from valvetrain.studies.train.side_figures import moving_mass, nominal_force, tightest
from valvetrain.units import LENGTH, amount

_STEEL = (206e9, 0.3)  # modulus Pa and Poisson's ratio of cam and follower; source: en13906
_USUAL_WIDTH = 10e-3  # m of lobe width while none is known; source: judgement
# Usual limits of contact pressure, Pa: flat and domed tappets, rollers, pads. Source: trade (METHODS section 4)
STRESS_LIMIT = {Contact.FLAT: 700e6, Contact.DOMED: 1000e6, Contact.ROLLER: 1400e6, Contact.PAD: 900e6}
_PUSH_LIMIT = math.radians(30.0)  # of a straight roller follower; source: norton_cam
_LEAST_NOSE = 1.5e-3  # m; below, the nose wears however hard it is. Source: judgement
_FACES = {Contact.FLAT: "flat", Contact.DOMED: "domed", Contact.ROLLER: "roller", Contact.PAD: "pad"}


@dataclass(frozen=True)
class LobeFit:
    """A lobe under its follower. Lengths m, angles rad, pressures Pa; None where it does not apply or is not known.

    `stress_band` holds the stress at the goal over every lobe that the card may be; `half_width` of the contact at the nose (the narrow way, at
    the goal) and `shear_depth`, how deep below the surface the greatest shear lies.

    `hollow` is the smallest radius of a hollow flank and `wheel` the diameter of the largest wheel that grinds it. `travel` are the
    farthest contacts to either side; `face_needed` the smallest round face. `refusals` say why lobe and follower do not go together,
    `doubts` what would say so if the assumed geometry were the true one.
    """

    shape: LobeShape
    contact: Contact
    nose_radius: float
    flank_radius: float
    least_radius: float
    hollow: float | None
    wheel: float | None
    travel: tuple[float, float]
    face_needed: float | None
    face_has: float | None
    pressure: float
    force_cranking: float
    force_goal: float
    stress_cranking: float | None
    stress_goal: float | None
    stress_limit: float
    exact: bool
    width_known: bool
    refusals: tuple[str, ...]
    doubts: tuple[str, ...]
    stress_band: tuple[float, float] | None = None
    half_width: float | None = None
    shear_depth: float | None = None


def _stress(contact: Contact, force: float, radius: float, face: float, width: float) -> float | None:
    """Largest pressure at the nose, Pa; None where the lobe has no round nose or nothing presses."""
    if force <= 0.0 or radius <= 0.0:
        return None
    modulus = contact_modulus(*_STEEL, *_STEEL)
    if contact is Contact.DOMED:
        return crowned_pressure(force, 1.0 / radius + 1.0 / face, 1.0 / face, modulus)
    bend = 1.0 / radius + (0.0 if contact is Contact.FLAT else 1.0 / face)
    return line_pressure(force, width, bend, modulus)


def _contact_patch(contact: Contact, force: float, radius: float, face: float, width: float) -> tuple[float, float]:
    """Half width of the contact the narrow way (m), and the depth of greatest shear below it (m)."""
    modulus = contact_modulus(*_STEEL, *_STEEL)
    if contact is Contact.DOMED:
        half = crowned_half_width(force, 1.0 / radius + 1.0 / face, 1.0 / face, modulus)
    else:
        half = line_half_width(force, width, 1.0 / radius + (0.0 if contact is Contact.FLAT else 1.0 / face), modulus)
    return half, shear_depth(half)


@lru_cache(maxsize=64)
def _noses(source: CamSource) -> list[tuple[float, float, float, float] | None]:
    """Acceleration, lever, cosine of the push and radius at the nose of each lobe that the card may be; None where the face cannot follow."""
    lobes = source.lobes
    assert lobes
    found: list[tuple[float, float, float, float] | None] = []
    for number in lobes.rows(MEMBERS):
        curve = lobes.curve(int(number))
        near = slice(max(curve.nose - 2, 0), curve.nose + 3)
        part = replace(curve, **{name: getattr(curve, name)[near] for name in ("angle", "lift", "velocity", "acceleration", "jerk")})
        try:
            shape = lobe_from_valve(source.drive, source.base, part)
        except ValveTrainError:
            found.append(None)
            continue
        at = part.nose
        found.append((float(part.acceleration[at]), float(shape.lever[at]), math.cos(float(shape.pressure[at])), float(shape.radius[at])))
    return found


def _stress_band(train: TrainSide, width: float, spring: float, goal_speed: float) -> Band | None:
    """Largest pressure at the nose at a crank speed (Pa), over every lobe that the card may be."""
    if train.cam.lobes is None:
        return None
    noses, drive = _noses(train.cam), train.cam.drive
    bends = np.array([nose[0] if nose else 0.0 for nose in noses])
    values: list[float | None] = []
    for nose, force in zip(noses, contact_force(moving_mass(train).value, bends, np.array(spring), goal_speed / 2.0), strict=True):
        try:
            push = train.on_a_lobe * float(force)
            values.append(_stress(drive.contact, push * nose[1] / nose[2], nose[3], drive.radius, width) if nose else None)
        except ValveTrainError:  # it lets go before the goal: nothing presses there
            values.append(None)
    return over_members(values)


def lobe_fit(train: TrainSide, cam: FigureMap, follower: FigureMap, ground_for: str, goal_speed: float) -> LobeFit:
    """Everything of the lobe under its follower; `goal_speed` is the crankshaft's in rev/s, `ground_for` what the cam's maker says.

    Raises ValveTrainError when the geometry cannot carry the lift at all.
    """
    drive, base, curve = train.cam.drive, train.cam.base, train.curve
    shape = lobe_from_valve(drive, base, curve)
    lifted = curve.lift > 0.02 * curve.full
    nose = curve.nose
    radius = np.where(lifted, shape.radius, base)
    hollow_at = lifted & (shape.radius < 0.0)
    opening = int(np.argmax(np.where(curve.angle < 0.0, curve.acceleration, -np.inf)))
    spring = float(nominal_force(train, tightest(train), np.array(max(curve.full - train.clearance.value, 0.0))))
    inertia = contact_force(moving_mass(train).value, curve.acceleration[nose : nose + 1], np.array([spring]), goal_speed / 2.0)
    lean = math.cos(float(shape.pressure[nose]))
    cranking = train.on_a_lobe * force_at_lobe(spring, float(shape.lever[nose])) / lean
    goal = train.on_a_lobe * float(inertia[0]) * float(shape.lever[nose]) / lean
    width = cam["lobe_width"].value if "lobe_width" in cam else _USUAL_WIDTH
    hollow = float(-shape.radius[hollow_at].max()) if hollow_at.any() and drive.contact is not Contact.FLAT else None
    travel = (float(max(shape.travel.max(), 0.0)), float(max(-shape.travel.min(), 0.0)))
    face_has = follower["face_diameter"].value if "face_diameter" in follower else None
    face_needed = (
        least_face_diameter(*travel, width) if drive.path is Path.STRAIGHT and drive.contact in (Contact.FLAT, Contact.DOMED) else None
    )
    exact = train.cam.exact and cam["base_diameter"].basis is not Basis.ESTIMATE
    found = LobeFit(
        shape=shape,
        contact=drive.contact,
        nose_radius=float(shape.radius[nose]),
        flank_radius=float(shape.radius[opening]),
        least_radius=float(radius[lifted & ~hollow_at].min()) if (lifted & ~hollow_at).any() else float(radius.min()),
        hollow=hollow,
        wheel=2.0 * hollow if hollow else None,
        travel=travel,
        face_needed=face_needed,
        face_has=face_has,
        pressure=float(np.abs(shape.pressure[lifted]).max()),
        force_cranking=cranking,
        force_goal=goal,
        stress_cranking=_stress(drive.contact, cranking, float(shape.radius[nose]), drive.radius, width),
        stress_goal=_stress(drive.contact, goal, float(shape.radius[nose]), drive.radius, width),
        stress_limit=STRESS_LIMIT[drive.contact],
        exact=exact,
        width_known="lobe_width" in cam,
        refusals=(),
        doubts=(),
    )
    if goal > 0.0 and found.nose_radius > 0.0:
        half, depth = _contact_patch(drive.contact, goal, found.nose_radius, drive.radius, width)
        found = replace(found, half_width=half, shear_depth=depth)
    band = _stress_band(train, width, spring, goal_speed)
    if band is not None:
        found = replace(found, stress_band=(band.low, band.high))
    refusals, doubts = _troubles(found, hollow_flat=bool((shape.radius[lifted] <= 0.0).any()), ground_for=ground_for)
    return replace(found, refusals=tuple(refusals), doubts=tuple(doubts))


def _troubles(found: LobeFit, *, hollow_flat: bool, ground_for: str) -> tuple[list[str], list[str]]:
    """Why the pair must be refused, and what would refuse it if the assumed geometry were true."""
    refusals, computed = [], []
    contact = found.contact
    if ground_for and Contact(ground_for) is not contact:
        refusals.append(
            f"The lobe is ground for a {_FACES[Contact(ground_for)]} follower and rides under a {_FACES[contact]} one: lift, velocity and "
            "contact would all differ from the card. Choose a cam ground for this follower, or the follower it was ground for."
        )
    if contact is Contact.FLAT and hollow_flat:
        computed.append(
            f"Under a flat face this lift curve needs a lobe of negative radius (down to {amount(found.least_radius, LENGTH, 1)}): the face would "
            "bridge it and the valve would jump. It is a curve for a roller or a pad, or the base circle is too small."
        )
    elif found.least_radius < _LEAST_NOSE:
        computed.append(
            f"The lobe comes to a radius of {amount(found.least_radius, LENGTH, 1)}: an edge that wears and breaks through its film."
        )
    if found.face_needed and found.face_has and found.face_needed > found.face_has:
        computed.append(
            f"The contact travels off the face: it needs {amount(found.face_needed, LENGTH, 1)} across, and the follower has "
            f"{amount(found.face_has, LENGTH, 1)}. The lobe's flank would dig into the edge."
        )
    if contact is Contact.ROLLER and found.pressure > _PUSH_LIMIT:
        computed.append(f"The roller is pushed at {math.degrees(found.pressure):.0f}° to its path; above 30° a straight follower binds.")
    return (refusals + computed, []) if found.exact else (refusals, computed)


def outline_of(train: TrainSide, points: int = 180) -> tuple[LobeShape, np.ndarray]:
    """The lobe's shape and its whole closed outline (complex, m, own axes): the flanks, then the heel round the base circle.

    Raises ValveTrainError when no lobe gives this lift.
    """
    shape = lobe_from_valve(train.cam.drive, train.cam.base, train.curve)
    start, end = np.angle(shape.outline[-1]), np.angle(shape.outline[0])
    way = -train.cam.drive.sense
    sweep = (way * (end - start)) % (2.0 * math.pi)
    heel = train.cam.base * np.exp(1j * (start + way * np.linspace(0.0, sweep, points)[1:-1]))
    return shape, np.concatenate([shape.outline, heel])
