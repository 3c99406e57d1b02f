"""Cams of a build: what both pairs do, and their curves over the crank angle."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rocklash.bridge.results import Answer
from valvetrain.parts.engine import Side
from valvetrain.parts.setup import Setup
from valvetrain.studies.cam_events import CamPair, Difference, cam_pair, centre_of, differences, trade


@dataclass(frozen=True)
class CamAnswer:
    """Stock and proposed pair, their differences and the sentence."""

    stock: CamPair
    proposed: CamPair
    rows: list[Difference]
    sentence: str


@dataclass(frozen=True)
class CrankCurves:
    """Lift (m), velocity (m/s) and acceleration (m/s2) of one valve at the goal over crank degrees from overlap TDC."""

    side: Side
    role: str
    crank: NDArray[np.float64]
    lift: NDArray[np.float64]
    velocity: NDArray[np.float64]
    acceleration: NDArray[np.float64]


def cam_answer(answer: Answer) -> CamAnswer:
    """Compare the cams of a build; needs a review."""
    assert answer.review
    done = answer.review.completed
    stock, proposed = (cam_pair(setup, done.engine, done.goal.goal_rpm) for setup in (done.stock, done.proposed))
    return CamAnswer(stock, proposed, differences(stock, proposed), trade(stock, proposed))


def _curves(setup: Setup, side: Side, role: str, speed: float) -> CrankCurves:
    train = setup.sides[side]
    curve = train.curve
    omega = math.pi * speed  # camshaft rad/s at half the crank's rev/s
    crank = np.degrees(centre_of(train) + 2.0 * curve.angle)
    lift = np.maximum(curve.lift - train.clearance.value, 0.0)
    return CrankCurves(side, role, crank, lift, curve.velocity * omega, curve.acceleration * omega**2)


def crank_curves(answer: Answer) -> list[CrankCurves]:
    """Curves of all four lobes, stock first."""
    assert answer.review
    done = answer.review.completed
    pairs = (("stock", done.stock), ("proposed", done.proposed))
    return [_curves(setup, side, role, done.goal.goal_rpm) for role, setup in pairs for side in (Side.EXHAUST, Side.INTAKE)]
