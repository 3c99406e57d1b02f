"""What would mend a check, and what that does to the others: each remedy is tried on the model, never guessed."""

import math
from bisect import bisect_right
from collections.abc import Callable
from dataclasses import dataclass, replace

from valvetrain.parts.figure import Figure
from valvetrain.parts.gaps import GapKind
from valvetrain.parts.setup import Goal, Setup, TrainSide
from valvetrain.parts.spring import PackedSpring
from valvetrain.studies.checks.assessment import check_again, holds_to, margin_on
from valvetrain.studies.checks.check import Check, CheckCode, CheckSubject, Effect, Remedy, Verdict
from valvetrain.units import QuantityKind

_SHIM_STEP, _SHIM_MOST = 0.1e-3, 2.5e-3
_LIGHTEST_RETAINER = 0.55  # share of a steel retainer's mass that titanium of the same shape keeps; source: judgement

Change = Callable[[TrainSide, float], TrainSide]


def add_shim(side: TrainSide, amount: float) -> TrainSide:
    """The side with `amount` (m) more spring shim."""
    return replace(side, spring_shim=side.spring_shim.plus(amount))


def lighten_retainer(side: TrainSide, amount: float) -> TrainSide:
    """The side with a retainer lighter by `amount` (kg)."""
    return replace(side, masses={**side.masses, "retainer": side.masses["retainer"].plus(-amount)})


def stiffen(side: TrainSide, amount: float) -> TrainSide:
    """The side with springs that push `amount` (N) more at the same height, rate and solid height alike."""
    total = sum(packed.spring.load.value for packed in side.springs)
    springs = []
    for packed in side.springs:
        share = packed.spring.load.value / total if total > 0 else 1.0 / len(side.springs)
        springs.append(PackedSpring(replace(packed.spring, load=packed.spring.load.plus(amount * share)), packed.step))
    return replace(side, springs=tuple(springs))


def shorten_solid(side: TrainSide, amount: float) -> TrainSide:
    """The side with springs that are solid `amount` (m) lower."""
    springs = [
        PackedSpring(replace(packed.spring, solid_height=packed.spring.solid_height.plus(-amount)), packed.step) for packed in side.springs
    ]
    return replace(side, springs=tuple(springs))


def deepen_seat(side: TrainSide, amount: float) -> TrainSide:
    """The side with spring seats cut `amount` (m) deeper into the head."""
    return replace(side, installed_height=side.installed_height.plus(amount))


def lower_seal(side: TrainSide, amount: float) -> TrainSide:
    """The side with seal or guide `amount` (m) lower."""
    return replace(side, retainer_to_seal=side.retainer_to_seal.plus(amount))


def _alone(setup: Setup, side: TrainSide) -> Setup:
    return replace(setup, sides={**setup.sides, side.side: side})


def _effect(check: Check) -> Effect:
    return Effect(check.code, check.about, check.kind, check.figure, check.verdict)


@dataclass(frozen=True)
class _Case:
    """A check on one side of a set-up, with all its neighbours, ready to try changes on."""

    setup: Setup
    side: TrainSide
    goal: Goal
    check: Check
    checks: tuple[Check, ...]

    def attempt(
        self, action: str, kind: QuantityKind, change: Change, steps: list[float], neighbours: tuple[CheckSubject, ...]
    ) -> list[Remedy]:
        """The least step that lets the check hold; else the least that brings its margin to zero; else the largest."""
        if not steps:
            return []
        margins: dict[float, float] = {}

        def margin(amount: float) -> float:
            if amount not in margins:
                margins[amount] = margin_on(self.check, change(self.side, amount), self.side)
            return margins[amount]

        amount, suffices = steps[-1], False
        # what is above its limit already is only mended by clearing its spread too
        doubt = self.check.spread if self.check.low is None else self.check.figure - self.check.low
        targets = (doubt,) if self.check.margin >= 0.0 else (doubt, 0.0)
        for target in targets:
            if margin(steps[-1]) > target:
                # the margin grows with the amount, so halving finds the least
                place = bisect_right(steps, target, key=margin)
                # the spread moves a little with the change: go on until the promise is kept with the new spread too
                while target and place < len(steps) - 1 and self._after(change, steps[place]).verdict is not Verdict.HOLDS:
                    place += 1
                if target and self._after(change, steps[place]).verdict is not Verdict.HOLDS:
                    continue
                amount, suffices = steps[place], True
                break
        changed = _alone(self.setup, change(self.side, amount))
        effects = [_effect(check_again(self.check, changed, self.goal, self.setup))]
        for code in neighbours:
            same = [check for check in self.checks if check.code is code and check.side is self.check.side and check is not self.check]
            if same:
                after = (check_again(check, changed, self.goal, self.setup) for check in same)
                before = min(same, key=lambda check: check.margin).verdict
                effects.append(replace(_effect(min(after, key=lambda check: check.margin)), before=before))
        return [Remedy(action, amount, kind, suffices, tuple(effects))]

    def _after(self, change: Change, amount: float) -> Check:
        return check_again(self.check, _alone(self.setup, change(self.side, amount)), self.goal, self.setup)

    def shim_steps(self) -> list[float]:
        """Shim thicknesses that keep every spring of the side clear of coil bind."""
        binds = [check.margin for check in self.checks if check.code is GapKind.COIL_BIND and check.side is self.side.side]
        count = math.floor(min(*binds, _SHIM_MOST) / _SHIM_STEP + 1e-9)
        return [round((number + 1) * _SHIM_STEP, 7) for number in range(count)]


def remedies_for(check: Check, setup: Setup, goal: Goal, checks: tuple[Check, ...]) -> tuple[Remedy, ...]:
    """Remedies of one check among `checks`, those first that suffice and leave no neighbour worse off, in the order of their price in the
    trade."""
    side = setup.sides.get(check.side) if check.side else None
    found: list[Remedy] = []
    if side:
        case = _Case(setup, side, goal, check, checks)
        if check.code in (CheckCode.FLOAT, CheckCode.SEAT):
            others = (CheckCode.SEAT if check.code is CheckCode.FLOAT else CheckCode.FLOAT, GapKind.COIL_BIND)
            found += case.attempt("more spring shim", QuantityKind.LENGTH, add_shim, case.shim_steps(), others)
            if check.code is CheckCode.FLOAT:
                most = side.masses["retainer"].value * (1.0 - _LIGHTEST_RETAINER)
                steps = [most * (number + 1) / 10.0 for number in range(10)]
                found += case.attempt("lighter retainer", QuantityKind.MASS, lighten_retainer, steps, ())
            steps = [float(number) * 5.0 for number in range(1, 81)]
            found += case.attempt("stiffer springs at this height", QuantityKind.FORCE, stiffen, steps, others[:1])
        if check.code is GapKind.COIL_BIND:
            shim = side.spring_shim.value
            steps = [shim * (number + 1) / 10.0 for number in range(10)] if shim > 0.0 else []
            take_out: Change = lambda s, amount: add_shim(s, -amount)
            found += case.attempt("less spring shim", QuantityKind.LENGTH, take_out, steps, (CheckCode.FLOAT, CheckCode.SEAT))
            cut = [float(number) * 0.1e-3 for number in range(1, 16)]
            found += case.attempt("spring seat cut deeper", QuantityKind.LENGTH, deepen_seat, cut, (CheckCode.FLOAT, CheckCode.SEAT))
            lower = [float(number) * 0.1e-3 for number in range(1, 81)]
            found += case.attempt("springs with a lower solid height", QuantityKind.LENGTH, shorten_solid, lower, ())
        if check.code is GapKind.RETAINER:
            steps = [float(number) * 0.1e-3 for number in range(1, 61)]
            found += case.attempt("lower seal or guide", QuantityKind.LENGTH, lower_seal, steps, ())
    found += _lower_goal(check, setup, goal)
    return tuple(sorted(found, key=lambda remedy: (not remedy.suffices, bool(remedy.spoils))))


def _lower_goal(check: Check, setup: Setup, goal: Goal) -> list[Remedy]:
    """The goal speed, or the boost, at which the check would just hold as it stands."""
    if check.code in (CheckCode.FLOAT, CheckCode.PISTON, CheckCode.LIFTERS):
        speed = math.floor(holds_to(check, goal) * 6.0) / 6.0  # to whole 10 rpm
        if not 0.0 < speed < goal.goal_rpm:
            return []
        lowered = replace(goal, goal_rpm=speed, over_rev=min(goal.over_rev, speed * (1.0 + goal.reserve)))
        action, amount, kind = "a lower goal", speed, QuantityKind.SPEED
    elif check.code is CheckCode.LOW_FLOAT and check.side:
        low = setup.low[check.side]
        speed = math.floor((check.figure - check.spread if check.low is None else check.low) / (1.0 + goal.reserve) * 6.0) / 6.0
        if not 0.0 < speed < low.switch_speed.value:
            return []
        earlier = replace(low, switch_speed=replace(low.switch_speed, value=speed))
        after = check_again(check, replace(setup, low={**setup.low, check.side: earlier}), goal)
        return [Remedy("an earlier change-over", speed, QuantityKind.SPEED, after.margin >= 0.0, (_effect(after),))]
    elif check.code is CheckCode.SEAT and goal.boost.value > 0.0 and check.side == "intake":
        side, room = setup.sides[check.side], check.margin - check.spread
        area = math.pi / 4.0 * ((side.head_diameter.value - side.seat_width.value) ** 2 - side.stem_diameter.value**2)
        boost = math.floor((goal.boost.value + room / area) / 1e3) * 1e3
        if not 0.0 < boost < goal.boost.value:
            return []
        lowered = replace(goal, boost=Figure(boost, goal.boost.spread, goal.boost.basis))
        action, amount, kind = "less boost", boost, QuantityKind.PRESSURE
    else:
        return []
    after = check_again(check, setup, lowered, setup)
    return [Remedy(action, amount, kind, after.margin >= 0.0, (_effect(after),))]
