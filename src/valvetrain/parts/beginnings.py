"""Plausible engines to begin from: invented ones of the usual kinds, whose figures stay estimates until the owner's take their place."""

from dataclasses import dataclass
from math import isclose
from typing import Final

from valvetrain.parts.engine import Adjuster, EngineKind, Follower, Gear, Use

_MM, _BAR = 1e-3, 1e5


@dataclass(frozen=True)
class Beginning:
    """A kind of engine and what is usual with it, SI: bore and stroke (m), stock limiter and a goal (rev/s), boost (Pa, gauge)."""

    key: str
    name: str
    kind: EngineKind
    use: Use
    figures: dict[str, float]

    def supposes(self, key: str, value: float) -> bool:
        """Whether a figure is the one that this engine began with, to 0.2 %: what nobody changed nobody has measured."""
        own = self.figures.get(key)
        return own is not None and isclose(own, value, rel_tol=2e-3)


def _figures(bore: float, stroke: float, limiter: float, goal: float, boost: float = 0.0) -> dict[str, float]:
    found = {"bore": bore * _MM, "stroke": stroke * _MM, "limiter": limiter / 60.0, "goal_rpm": goal / 60.0}
    return found | ({"boost": boost * _BAR} if boost else {})


# Source: invented, within what is common for each kind (common practice, no source).
BEGINNINGS: Final[dict[str, Beginning]] = {
    each.key: each
    for each in (
        Beginning(
            "ice", "Ice or dirt single, two camshafts", EngineKind(1, 2, Gear.DOHC, Follower.BUCKET, Adjuster.SHIM_UNDER), Use.MOTOCROSS,
            _figures(94.0, 64.0, 10600, 11000),
        ),
        Beginning(
            "trail", "Trail single, one camshaft, rockers", EngineKind(1, 2, Gear.OHC, Follower.ROCKER, Adjuster.SCREW), Use.TRAIL,
            _figures(87.0, 66.0, 7600, 8000),
        ),
        Beginning(
            "kart", "Push-rod kart single", EngineKind(1, 1, Gear.PUSH_ROD, Follower.ROCKER, Adjuster.LASH_CAP), Use.ROAD_RACE,
            _figures(69.0, 55.0, 5000, 5600),
        ),
        Beginning(
            "craft", "Supercharged watercraft triple", EngineKind(3, 2, Gear.DOHC, Follower.BUCKET, Adjuster.SHIM_UNDER), Use.RESCUE,
            _figures(97.0, 66.0, 7800, 8200, 0.5),
        ),
        Beginning(
            "twin", "Road twin, finger followers", EngineKind(2, 2, Gear.DOHC, Follower.FINGER, Adjuster.SHIM_ON_STEM), Use.STREET,
            _figures(86.0, 58.0, 10200, 10800),
        ),
        Beginning(
            "work", "Side-valve work engine", EngineKind(1, 1, Gear.SIDE_VALVE, Follower.TAPPET, Adjuster.STEM_GRIND), Use.WORK,
            _figures(76.0, 60.0, 3400, 3600),
        ),
    )
}  # fmt: skip
