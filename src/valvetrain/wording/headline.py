"""The answer to the question that was asked, in a headline and a few sentences."""

from valvetrain.studies.checks.check import CheckCode, Verdict
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
        Verdict.SHORT: "Not yet.",
        Verdict.UNPROVEN: "Unproven.",
        Verdict.SLIM: "It holds, slimly.",
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
    """Sentences below the headline: what falls short by how much, what is slim, what is unproven, what holds."""
    follows = answer(found, goal, system) if goal is not None else ""
    sentences = [follows] if follows else []
    sentences += [
        f"{title(check)} is {'short' if check.at_least else 'over'} by {quantity(abs(check.margin), check.kind, system)}."
        for check in found.checks
        if check.verdict is Verdict.SHORT
    ]
    for verdict, words in ((Verdict.SLIM, "slim"), (Verdict.UNPROVEN, "unproven: estimates decide")):
        names = [title(check).lower() for check in found.checks if check.verdict is verdict]
        if names:
            sentences.append(f"{_listed(names)} {'is' if len(names) == 1 else 'are'} {words}.")
    holding = sum(check.verdict is Verdict.HOLDS for check in found.checks)
    if holding:
        sentences.append(f"{holding} of {len(found.checks)} checks hold.")
    return sentences


def good_to(found: SetupReview, system: UnitSystem) -> str:
    """What the parts are good for as they stand."""
    if found.good_to is None:
        return "No lower speed mends this: a gap or a seat force falls short."
    speed = int(found.good_to * 6.0) / 6.0
    return f"As it stands the figures are good to {quantity(speed, QuantityKind.SPEED, system)}, reserve kept."
