"""What a shop knows of a build, with gaps: the form in which builds enter the core, from a file or from records."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import EngineKind, Side, Use, ValvePosition
from valvetrain.parts.figure import FigureMap
from valvetrain.parts.flow import FlowTest
from valvetrain.parts.gaps import GapReading
from valvetrain.parts.lobe import Lobe


@dataclass(frozen=True)
class PartRecord:
    """A part by name with the figures and facts known of it, keyed as in the catalogue; a cam may carry its lobe point by point."""

    name: str = ""
    figures: FigureMap = field(default_factory=dict)
    facts: Mapping[str, str] = field(default_factory=dict)
    lobe: Lobe | None = None


@dataclass(frozen=True)
class ValveStand:
    """How one valve's springs were found to stand in a set-up, m: `height` shut without shim, `shim` under them; None is not known."""

    height: float | None = None
    shim: float | None = None


@dataclass(frozen=True)
class SideRecord:
    """The parts on one side of a set-up; `springs` outer first; `fit` holds installed height and the like; `stands` by valve.

    `low_cam` is the lobe that a two-profile train runs on below its change-over.
    """

    parts: Mapping[Owner, PartRecord] = field(default_factory=dict)
    springs: tuple[PartRecord, ...] = (PartRecord(),)
    fit: FigureMap = field(default_factory=dict)
    low_cam: PartRecord | None = None
    stands: Mapping[str, ValveStand] = field(default_factory=dict)


@dataclass(frozen=True)
class BuildRecord:
    """A build: engine, goal, stock and proposed set-ups, where the valves sit, and the gaps and flows measured in it. `facts` are words of the
    engine, `goal_facts` those of the goal: fuel, air. `own` is what the workshop learnt: parts of what the trade supposes, by the key of the engine's
    figure; it stays with the workshop and is in no build file."""

    name: str
    kind: EngineKind
    engine: FigureMap
    goal: FigureMap
    use: Use
    positions: tuple[ValvePosition, ...]
    stock: Mapping[Side, SideRecord]
    proposed: Mapping[Side, SideRecord]
    facts: Mapping[str, str] = field(default_factory=dict)
    gaps: tuple[GapReading, ...] = ()
    goal_facts: Mapping[str, str] = field(default_factory=dict)
    flows: tuple[FlowTest, ...] = ()
    own: FigureMap = field(default_factory=dict)
