"""A person's pairs of promise and re-check."""

from rocklash.records.models import Workshop
from rocklash.records.selectors.proof import hand_pairs
from valvetrain.studies.proof.own_hand import Pair
from valvetrain.studies.proof.score import Forecast


def pairs_of(workshop: Workshop, by: int | None = None) -> list[Pair]:
    """A person's pairs of promise and re-check, from the workshop's signed sheets."""
    return [
        Pair(promised=each.promised, read=each.read, valve=each.valve, other_hand=each.other_hand, by_label=each.by_label)
        for each in hand_pairs(workshop, by)
    ]


def promises_of(workshop: Workshop) -> list[Forecast]:
    """Every clearance that a shim promised, with its band and what the re-check read: forecasts that were kept with the sheet."""
    return [
        Forecast(kind="clearance by a shim", middle=each.promised, low=each.low, high=each.high, result=each.read)
        for each in hand_pairs(workshop)
    ]
