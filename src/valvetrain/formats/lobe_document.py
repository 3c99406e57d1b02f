"""The form of a lobe in JSON, in a file of its own or inside a build file."""

import math
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from valvetrain.parts.lobe import Lobe, Origin, StatedAt

_MOST = 20_000


class LobeDocument(BaseModel):
    """A lobe file. Angles in degrees of the cam from the lobe centre, lifts in mm before clearance, spreads k = 2."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    format: Literal["rocklash.lobe/1"]
    name: str = ""
    at: StatedAt = StatedAt.VALVE
    origin: Origin = Origin.TABLE
    angles_deg: Annotated[list[float], Field(min_length=8, max_length=_MOST)]
    lifts_mm: Annotated[list[float], Field(min_length=8, max_length=_MOST)]
    lift_spread_mm: Annotated[float, Field(ge=0)] = 0.01
    duration_spread_deg: Annotated[float, Field(ge=0)] = 0.2
    acceleration_share: Annotated[float, Field(ge=0)] = 0.03

    def lobe(self) -> Lobe:
        """The core's lobe."""
        return Lobe(
            tuple(math.radians(angle) for angle in self.angles_deg),
            tuple(lift / 1e3 for lift in self.lifts_mm),
            self.at,
            self.origin,
            self.lift_spread_mm / 1e3,
            math.radians(self.duration_spread_deg),
            self.acceleration_share,
        )


def document(lobe: Lobe, name: str = "") -> LobeDocument:
    """The file form of a lobe."""
    return LobeDocument(
        format="rocklash.lobe/1",
        name=name,
        at=lobe.at,
        origin=lobe.origin,
        angles_deg=[round(math.degrees(angle), 7) for angle in lobe.angles],
        lifts_mm=[round(lift * 1e3, 9) for lift in lobe.lifts],
        lift_spread_mm=round(lobe.lift_spread * 1e3, 6),
        duration_spread_deg=round(math.degrees(lobe.duration_spread), 6),
        acceleration_share=round(lobe.acceleration_share, 6),
    )
