"""What tests say, in words. Amounts stand in SI inside the sentences until somebody reads them."""

from collections.abc import Sequence

from valvetrain.studies.proof.compression import CompressionResult, Evenness
from valvetrain.studies.proof.dyno import Comparison
from valvetrain.studies.proof.leak_down import POINTS_AT, Hiss, LeakResult, Soundness
from valvetrain.studies.proof.own_hand import DEFAULT_HALF, ENOUGH, Hand
from valvetrain.studies.proof.score import Score
from valvetrain.units import QuantityKind, amount

_EVENNESS = {
    Evenness.SINGLE: "One cylinder: only the expected pressure and its own history tell.", Evenness.EVEN: "The cylinders are even",
    Evenness.WATCH: "The cylinders lie apart: watch them", Evenness.UNEVEN: "The cylinders are uneven",
}  # fmt: skip
_SOUND = {
    Soundness.GOOD: "tight", Soundness.USABLE: "usable", Soundness.WATCH: "leaks: watch it", Soundness.REPAIR: "leaks: repair it",
}  # fmt: skip
_ODDS = {
    "limiter": "clean, as of a limiter",
    "ragged": "ragged, as of misfires",
    "clatter": "with clatter, as of valves",
    "cannot_tell": "cannot tell",
}
_WAYS = {"limiter": "clean", "ragged": "ragged", "clatter": "with clatter"}


def compression_sentence(found: CompressionResult) -> str:
    """The verdict in one or two sentences."""
    words = _EVENNESS[found.evenness]
    if found.evenness is not Evenness.SINGLE:
        words += f": {100 * found.spread:.0f} % between highest and lowest, of the highest."
    if found.level is not None and found.expected is not None:
        low, high = (amount(each, QuantityKind.PRESSURE) for each in (found.expected.low, found.expected.high))
        where = {-1: "All lie below", 0: "They lie within", 1: "All lie above"}[found.level]
        words += f" {where} the {low} to {high} that such an engine gives, known to about 15 %."
    return words


def causes_sentence(number: int, causes: Sequence[str]) -> str:
    """Where to look on a low cylinder, in the usual order."""
    return f"Cylinder {number} is low. Look in this order: {', '.join(causes)}."


def leak_words(found: LeakResult) -> str:
    """One cylinder's leak-down in words."""
    if found.on_reference >= 1.0:
        return "open: nothing builds up. Is the piston at the top of compression?"
    points = [f"{hiss}: {POINTS_AT[hiss]}" for hiss in found.hisses if hiss is not Hiss.NOWHERE]
    return "; ".join([_SOUND[found.soundness], *points])


def odds_sentence(odds: dict[str, float]) -> str:
    """How it gave up, as odds; never a verdict."""
    best = max(("limiter", "ragged", "clatter"), key=lambda key: odds[key])
    if odds["cannot_tell"] >= odds[best] or odds[best] < 0.4:
        return "How it gave up cannot be made out from this recording."
    return f"It ends {_WAYS[best]}, with odds of {100 * odds[best]:.0f} in 100."


def odds_rows(odds: dict[str, float]) -> list[tuple[str, float]]:
    """Each way with its odds, in words."""
    return [(_ODDS[key], odds[key]) for key in ("limiter", "ragged", "clatter", "cannot_tell")]


def comparison_sentence(found: Comparison) -> str:
    """What a change did, where it lives first, then where it lost."""
    parts = []
    if found.in_use is not None:
        band = found.in_use
        low, high = (amount(each, QuantityKind.SPEED) for each in (band.low, band.high))
        if abs(band.gain) < 2.0 * band.noise:
            parts.append(f"From {low} to {high}, where it lives: no difference beyond the runs' own spread")
        else:
            parts.append(f"From {low} to {high}, where it lives: {_percent(band.gain)}")
    for band in found.bands:
        if found.in_use is None or band.gain < 0.0:
            low, high = (amount(each, QuantityKind.SPEED) for each in (band.low, band.high))
            parts.append(f"{'gained' if band.gain > 0 else 'lost'} from {low} to {high}: {_percent(band.gain)}")
    if not parts:
        return "No difference beyond the runs' own spread."
    text = "; ".join(parts) + "."
    return text[0].upper() + text[1:]


def _percent(part: float) -> str:
    return f"{100 * part:+.1f} %".replace("-", "\N{MINUS SIGN}")


def hand_sentence(hand: Hand) -> str:
    """What is known of a hand, plainly."""
    trade = amount(DEFAULT_HALF, QuantityKind.LENGTH)
    if not hand.pairs:
        return f"No shim has been promised and checked again on a signed sheet: ±{trade} counts, as the trade has it."
    if not hand.used:
        return f"{hand.pairs} of {ENOUGH} pairs are there: until then ±{trade} counts, as the trade has it."
    own = amount(hand.half, QuantityKind.LENGTH)
    way = "wider than" if hand.wider else "finer than"
    return f"{hand.pairs} pairs: the next re-check lies within ±{own} of its promise in 95 of 100, {way} the trade's ±{trade}."


def score_sentence(scores: Sequence[Score]) -> str:
    """How often bands held, over everything."""
    count, held = sum(each.count for each in scores), sum(each.held for each in scores)
    if not count:
        return "No forecast has its result yet."
    narrow = [each.kind for each in scores if each.too_narrow]
    words = f"{held} of {count} bands held; they are meant to hold 95 in 100"
    return (
        f"{words}, and are too narrow for {', '.join(narrow)}."
        if narrow
        else f"{words}, and so few results speak neither for nor against them."
        if count < 20
        else f"{words}."
    )
