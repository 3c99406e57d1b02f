"""The answer to the question that was asked, in a headline and a few sentences."""

from valvetrain.parts.gaps import GapKind
from valvetrain.studies.checks.check import Check, CheckCode, Verdict
from valvetrain.studies.review.build import SetupReview
from valvetrain.units import QuantityKind, UnitSystem, quantity, show
from valvetrain.wording.checks import title
from valvetrain.wording.inputs import input_name


def _listed(names: list[str]) -> str:
    if len(names) > 5:
        names = [*names[:4], f"{len(names) - 4} more"]
    text = " and ".join(names) if len(names) < 3 else f"{', '.join(names[:-1])} and {names[-1]}"
    return text[:1].upper() + text[1:].lower()


def headline(found: SetupReview) -> str:
    """The answer in two or three words."""
    return {
        Verdict.SHORT: "Does not hold the goal yet.",
        Verdict.UNPROVEN: "Not proven yet.",
        Verdict.SLIM: "It holds, but only just.",
        Verdict.HOLDS: "It holds.",
    }[found.verdict]


def answer(found: SetupReview, goal: float, system: UnitSystem) -> str:
    """Whether the valves follow the cams to the goal (crank rev/s), and what holds them back: the question that was asked."""
    moved = [check for check in found.checks if check.code is CheckCode.MOTION]
    known = {check.side for check in moved}
    rigid = [check for check in found.checks if check.code is CheckCode.FLOAT and check.side not in known]
    speeds = moved + rigid
    if not speeds:
        return ""
    worst = min(speeds, key=lambda check: check.figure if check.low is None else check.low)
    to, low = quantity(goal, QuantityKind.SPEED, system), worst.low if worst.low is not None else worst.figure - worst.spread
    high = worst.high if worst.high is not None else worst.figure + worst.spread
    between = f"{show(low, QuantityKind.SPEED, system)} and {quantity(high, QuantityKind.SPEED, system)}"
    side = worst.about.split(" ")[0]
    if low >= goal:
        if rigid:  # vibration and surge may still take some of it: that is not known yet, or cannot be judged
            return f"As rigid parts, before vibration and surge, the valves follow the cams to {to}: the {side} lets go between {between}."
        return f"The valves follow the cams to {to}: the {side} lets go between {between}."
    if high < goal:
        return f"The valves do not follow the cams to {to}: the {side} lets go between {between}."
    first = input_name(worst.dominant[0][0]) if worst.dominant else ""
    decides = f" What would settle it most: {first}." if first else ""
    return f"Whether the valves follow the cams to {to} is not proven: the {side} lets go between {between}.{decides}"


def summary(found: SetupReview, system: UnitSystem, goal: float | None = None) -> list[str]:
    """Sentences below the headline: what falls short by how much, what is marginal, what is not proven, what holds."""
    follows = answer(found, goal, system) if goal is not None else ""
    sentences = [follows] if follows else []
    sentences += [
        f"{title(check)} is {'short' if check.at_least else 'over'} by {quantity(abs(check.margin), check.kind, system)}."
        for check in found.checks
        if check.verdict is Verdict.SHORT
    ]
    for verdict, words in ((Verdict.SLIM, "marginal"), (Verdict.UNPROVEN, "not proven: these rest on estimates; measure first")):
        names = [title(check).lower() for check in found.checks if check.verdict is verdict]
        if names:
            sentences.append(f"{_listed(names)} {'is' if len(names) == 1 else 'are'} {words}.")
    holding = sum(check.verdict is Verdict.HOLDS for check in found.checks)
    if holding:
        sentences.append(f"{holding} of {len(found.checks)} checks hold.")
    return sentences


def three_answers(found: SetupReview, goal: float, system: UnitSystem) -> list[str]:
    """In the order of danger: whether the valves follow, whether the seats are held, whether everything has room; and what else falls short."""
    said = [answer(found, goal, system)]
    seats = [check for check in found.checks if check.code is CheckCode.SEAT]
    if seats:  # worst first, as all checks are
        said.append(_seat(seats[0], system))
    gaps = [check for check in found.checks if isinstance(check.code, GapKind)]
    if gaps:
        said.append(_room(gaps, system))
    others = [check for check in found.checks if check.verdict is Verdict.SHORT and check.code not in (CheckCode.SEAT, CheckCode.MOTION, CheckCode.FLOAT) and check not in gaps]  # fmt: skip
    said += [
        f"{title(check)} is {'short' if check.at_least else 'over'} by {quantity(abs(check.margin), check.kind, system)}."
        for check in others
    ]
    return [each for each in said if each]


def _seat(check: Check, system: UnitSystem) -> str:
    side = check.about.split(" ")[0]
    has, needs = show(check.figure, check.kind, system), quantity(check.limit, check.kind, system)
    return {
        Verdict.HOLDS: f"The seats are held: {has} of {needs} needed, {side}.",
        Verdict.SLIM: f"The seats are held, but only just: {has} of {needs} needed, {side}.",
        Verdict.UNPROVEN: f"Whether the seats are held is not proven: {has} of {needs} needed, {side}.",
        Verdict.SHORT: f"The {side} seat is not held: {has} of {needs} needed.",
    }[check.verdict]


def _room(gaps: list[Check], system: UnitSystem) -> str:
    first = gaps[0]
    if first.verdict is Verdict.SHORT:
        short = [check for check in gaps if check.verdict is Verdict.SHORT]
        return f"Not everything has room: {_listed([f'{title(check)} by {quantity(abs(check.margin), check.kind, system)}'.lower() for check in short])} short."
    if first.verdict is Verdict.UNPROVEN:
        open_ = sum(check.verdict is Verdict.UNPROVEN for check in gaps)
        return f"Whether everything has room is not proven: {open_} of {len(gaps)} gaps rest on estimates."
    return f"Everything has room: tightest is {title(first).lower()}, {quantity(first.margin, first.kind, system)} in hand."


def good_to(found: SetupReview, system: UnitSystem) -> str:
    """What the parts are good for as they stand."""
    if found.good_to is None:
        return "Fewer revs will not fix this: a clearance or seat force is short."
    speed = int(found.good_to * 6.0) / 6.0
    return f"As it stands: safe to {quantity(speed, QuantityKind.SPEED, system)}, margin included."
