"""Clearances in plain words."""

from valvetrain.units import LENGTH, amount, bare

_COUNTS = {"card": "The card's counts here.", "manual": "The manual's counts here."}


def card_against_manual(side: str, card: float, least: float, most: float, counts: str) -> str:
    """What a cam's card (m) says against the manual, and which counts; amounts in SI until they are told."""
    return (
        f"The card of the proposed {side} cam names {amount(card, LENGTH)}, the manual allows {bare(least, LENGTH)} to {amount(most, LENGTH)}. "
        f"A clearance belongs to its cam. {_COUNTS.get(counts, 'Say which counts: until then the manual does.')}"
    )
