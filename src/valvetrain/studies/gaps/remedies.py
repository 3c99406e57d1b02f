"""What would free room between piston and valve, and what each way costs elsewhere; every one is tried on the model."""

import math
from dataclasses import replace

import numpy as np

from valvetrain.parts.engine import Side
from valvetrain.parts.gaps import GapKind
from valvetrain.studies.checks.assessment import judge
from valvetrain.studies.checks.check import Check, Effect, Remedy, SideEffect, Verdict
from valvetrain.studies.gaps.gaps import RoomReview
from valvetrain.studies.gaps.geometry import RoomGeometry
from valvetrain.studies.gaps.piston import gap_over, phaser_ends
from valvetrain.studies.train.assembly import CompletedBuild
from valvetrain.units import QuantityKind

_NEAR = np.radians(np.linspace(-75.0, 75.0, 301))
_MOST_POCKET, _MOST_GASKET, _MOST_TURN, _MOST_LASH = 2.0e-3, 0.6e-3, 12.0, 0.10e-3


def clearance_volume(geometry: RoomGeometry) -> float:
    """Volume over the piston at its top, m3, from the compression ratio (source: definition)."""
    chamber = geometry.chamber
    return math.pi / 4.0 * chamber.bore.value**2 * chamber.stroke.value / (chamber.compression.value - 1.0)


def ratio_after(geometry: RoomGeometry, added: float) -> float:
    """Compression ratio with `added` m3 more over the piston (source: definition)."""
    chamber = geometry.chamber
    swept = math.pi / 4.0 * chamber.bore.value**2 * chamber.stroke.value
    return 1.0 + swept / (clearance_volume(geometry) + added)


def floor_share(geometry: RoomGeometry, side: Side) -> float:
    """Gap along the stem gained per metre that the floor goes down along the bore."""
    place = geometry.places[side]
    return math.cos(place.pocket_angle.value) / math.cos(place.angle.value - place.pocket_angle.value)


def _judged(check: Check, figure: float) -> Verdict:
    return judge(figure - check.limit, check.spread, on_estimates=check.verdict is Verdict.UNPROVEN)


def _remedy(
    check: Check, action: str, amount: float, kind: QuantityKind, gain: float, prices: tuple[SideEffect, ...], wanted: float
) -> Remedy:
    after = check.figure + gain
    effect = Effect(check.code, check.about, check.kind, after, _judged(check, after))
    return Remedy(action, amount, kind, gain >= wanted - 1e-9, (effect,), prices)


def _up(value: float, step: float) -> float:
    return math.ceil(value / step - 1e-9) * step


def piston_remedies(check: Check, done: CompletedBuild, review: RoomReview) -> tuple[Remedy, ...]:
    """Ways to bring a piston gap to its limit with its spread to spare, those that suffice first."""
    if check.side is None or check.side not in review.pistons:
        return ()
    side, geometry, least = check.side, review.geometry, review.pistons[check.side]
    wanted = check.limit + check.spread - check.figure
    if wanted <= 0.0:
        return ()
    place, chamber, train = geometry.places[side], geometry.chamber, done.proposed.sides[side]
    share, ratio = floor_share(geometry, side), chamber.compression.value
    deeper = min(_up(wanted / share, 0.1e-3), _MOST_POCKET)
    floor = math.pi / 4.0 * place.pocket_diameter.value**2 * deeper * chamber.valves_per_side
    found = [
        _remedy(
            check, "deeper pockets", deeper, QuantityKind.LENGTH, deeper * share,
            (SideEffect("compression ratio", ratio, ratio_after(geometry, floor), QuantityKind.NUMBER),), wanted,
        )
    ]  # fmt: skip
    thicker = min(_up(wanted / share, 0.05e-3), _MOST_GASKET)
    area = math.pi / 4.0 * chamber.bore.value**2
    found.append(
        _remedy(
            check, "a thicker gasket", thicker, QuantityKind.LENGTH, thicker * share,
            (SideEffect("compression ratio", ratio, ratio_after(geometry, area * thicker), QuantityKind.NUMBER),), wanted,
        )
    )  # fmt: skip
    sense = -1.0 if side is Side.INTAKE else 1.0  # intake later, exhaust earlier: away from overlap TDC
    for turn in np.arange(1.0, _MOST_TURN + 0.5, 1.0):
        shifted = least.advance + sense * math.radians(turn)
        gain = float(gap_over(geometry, train, least.rest.figure.value, _NEAR, shifted).min()) - least.value
        if gain >= wanted or turn == _MOST_TURN:
            action = "the cam later" if side is Side.INTAKE else "the cam earlier"
            price = SideEffect("overlap, degrees", 0.0, -float(turn), QuantityKind.NUMBER)
            found.append(_remedy(check, action, math.radians(turn), QuantityKind.ANGLE, gain, (price,), wanted))
            break
    ends = phaser_ends(done.engine, side)
    if ends[1] > ends[0]:
        found += _less_range(check, done, review, wanted, ends)
    lash = min(_up(wanted, 0.01e-3), _MOST_LASH)
    narrower = train.curve.duration_at(train.clearance.value + 1e-4) - train.curve.duration_at(train.clearance.value + lash + 1e-4)
    price = SideEffect("duration, degrees", 0.0, -math.degrees(narrower), QuantityKind.NUMBER)
    found.append(_remedy(check, "more clearance", lash / done.blade_ratio, QuantityKind.LENGTH, lash, (price,), wanted))
    return tuple(sorted(found, key=lambda remedy: not remedy.suffices))


def _less_range(check: Check, done: CompletedBuild, review: RoomReview, wanted: float, ends: tuple[float, float]) -> list[Remedy]:
    """A stop in the phaser that keeps it from its last degrees."""
    assert check.side is not None
    side, train, rest = check.side, done.proposed.sides[check.side], review.pistons[check.side].rest.figure.value
    whole = math.degrees(ends[1] - ends[0])
    for cut in range(1, int(whole) + 1):
        left = (ends[0], ends[1] - math.radians(cut)) if side is Side.INTAKE else (ends[0] + math.radians(cut), ends[1])
        value = min(float(gap_over(review.geometry, train, rest, _NEAR, advance).min()) for advance in left)
        if value - check.figure >= wanted or cut == int(whole):
            price = SideEffect("phaser's range, degrees", whole, whole - cut, QuantityKind.NUMBER)
            return [_remedy(check, "less phaser range", math.radians(cut), QuantityKind.ANGLE, value - check.figure, (price,), wanted)]
    return []


def remedied(done: CompletedBuild, review: RoomReview) -> RoomReview:
    """The review with ways out in every piston check that does not hold; a mere guess is to be measured, not mended."""
    checks = tuple(
        replace(check, remedies=piston_remedies(check, done, review))
        if check.code is GapKind.PISTON_VALVE and check.verdict is not Verdict.HOLDS and review.how[check.code, check.about] != "estimate"
        else check
        for check in review.checks
    )
    return replace(review, checks=checks)
