"""Gaps in plain words; amounts in SI until they are told."""

import math

from valvetrain.units import LENGTH, amount


def crank_words(at: float) -> str:
    """A crank angle (rad from overlap TDC) as `12° after TDC`."""
    degrees = math.degrees(at)
    return "at TDC" if abs(degrees) < 0.5 else f"{abs(degrees):.0f}° {'after' if degrees > 0 else 'before'} TDC"


def least_gap_words(side: str, value: float, spread: float, at: float, limit: float, how: str) -> str:
    """How near the piston comes (m) with the proposed cam, where, and how it is known."""
    known = "a guess until it is measured" if how == "estimate" else how
    return (
        f"Piston to {side} valve with the proposed cam: {amount(value, LENGTH)} ±{amount(spread, LENGTH)}, {crank_words(at)} of overlap, at least "
        f"{amount(limit, LENGTH)} ({known})."
    )


def clay_first(places: list[tuple[str, float, float, float, str]]) -> str:
    """Where the clay goes, tightest first: side, gap and spread (m), crank angle (rad) and valve of each."""
    said = [
        f"{valve or side} ({side}, computed {amount(value, LENGTH)} ±{amount(spread, LENGTH)}, {crank_words(at)} of overlap)"
        for side, value, spread, at, valve in places
    ]
    return f"Put the clay first under {', then under '.join(said)}; under each valve about as thick as twice what is expected, and turn by hand."
