"""From rows to the core's record of a build."""

from rocklash.answers.own_priors import own_figures
from rocklash.answers.stale import Changes, stale_gaps
from rocklash.records.figure_column import figures_of
from rocklash.records.models import Build, Engine, Part, SetupRole, SetupSide
from valvetrain.formats.build_file import PRACTICE, FlowDocument
from valvetrain.formats.lobe_document import LobeDocument
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Adjuster, EngineKind, Follower, Gear, Side, Use, ValvePosition, kind_told
from valvetrain.parts.gaps import GapKind, GapReading, Way
from valvetrain.parts.record import BuildRecord, PartRecord, SideRecord, ValveStand

PART_OWNERS = {
    "cam": Owner.CAM,
    "low_cam": Owner.CAM,
    "valve": Owner.VALVE,
    "retainer": Owner.RETAINER,
    "keepers": Owner.KEEPERS,
    "follower": Owner.FOLLOWER,
    "shim": Owner.SHIM,
    "outer_spring": Owner.SPRING,
    "inner_spring": Owner.SPRING,
}


def kind_of(engine: Engine) -> EngineKind:
    """Make-up of an engine row."""
    words = Gear(engine.gear), Follower(engine.follower), Adjuster(engine.adjuster)
    return kind_told(engine.cylinders, engine.valves_per_side, *words, engine.facts)


def _part(part: Part | None, owner: Owner) -> PartRecord:
    if part is None:
        return PartRecord()
    lobe = LobeDocument.model_validate(part.lobe).lobe() if part.lobe else None
    return PartRecord(part.name, figures_of(part.figures, owner), dict(part.facts), lobe)


def side_record(row: SetupSide) -> SideRecord:
    """Parts and fit of one side of a set-up."""
    parts: dict[Owner, PartRecord] = {
        owner: _part(getattr(row, field), owner)
        for field, owner in PART_OWNERS.items()
        if owner is not Owner.SPRING and field != "low_cam" and getattr(row, field) is not None
    }
    springs = [_part(row.outer_spring, Owner.SPRING)]
    if row.inner_spring:
        springs.append(_part(row.inner_spring, Owner.SPRING))
    low = _part(row.low_cam, Owner.CAM) if row.low_cam else None
    stands = {fit.position.name: ValveStand(fit.height, fit.shim) for fit in row.valve_fits.all()}
    return SideRecord(parts, tuple(springs), figures_of(row.figures, Owner.FIT), low, stands)


def part_record(part: Part) -> PartRecord:
    """The core's record of one part."""
    return _part(part, Owner(part.kind))


def positions_of(engine: Engine) -> tuple[ValvePosition, ...]:
    """Where the valves sit."""
    return tuple(ValvePosition(row.name, Side(row.side), row.cylinder, row.deviation) for row in engine.positions.all())


def gaps_of(build: Build) -> tuple[GapReading, ...]:
    """The gaps measured in a build, without those that a change of parts made void."""
    readings = list(build.gap_readings.all())
    stale = stale_gaps(changes_of(build), readings) if readings else {}
    return tuple(
        GapReading(GapKind(row.gap), Side(row.position.side), row.position.name, Way(row.way), row.value, row.spread, row.angle, row.rest)
        for row in readings
        if row.pk not in stale or not stale[row.pk].void
    )


def changes_of(build: Build) -> Changes:
    """What was changed in the proposed set-up since things were read."""
    return Changes(build, kind_of(build.engine), side_rows(build))


def side_rows(build: Build) -> dict[tuple[str, str], SetupSide]:
    """Rows of the set-ups by role and side."""
    return {(setup.role, row.side): row for setup in build.setups.all() for row in setup.sides.all()}


def keyhole_of(row: SetupSide) -> bool:
    """Whether the retainer of a side slides on by its keyhole: then there are no keepers."""
    return bool(row.retainer and row.retainer.facts.get("held_by") == "keyhole")


def engine_words(engine: Engine) -> dict[str, str]:
    """Words of the catalogue and, where they are told, firing order, the manual's note and the shape of the shims."""
    told = {"firing": engine.firing_order, "lash_note": engine.clearance_note, "shim_shape": engine.shim_shape}
    return dict(engine.facts) | {key: word for key, word in told.items() if word}


def record_of(build: Build) -> BuildRecord:
    """The core's record of a build; expects the rows fetched as records.selectors.builds does."""
    rows = side_rows(build)
    facts = engine_words(build.engine) | ({PRACTICE: "yes"} if build.practice else {})
    return BuildRecord(
        name=build.name,
        kind=kind_of(build.engine),
        engine=figures_of(build.engine.figures, Owner.ENGINE),
        goal=figures_of(build.figures, Owner.GOAL),
        use=Use(build.use),
        positions=positions_of(build.engine),
        stock={side: side_record(rows[SetupRole.STOCK, side.value]) for side in Side},
        proposed={side: side_record(rows[SetupRole.PROPOSED, side.value]) for side in Side},
        facts=facts,
        gaps=gaps_of(build),
        goal_facts=dict(build.facts),
        flows=tuple(FlowDocument.model_validate(row).test() for row in build.flows),
        own=own_figures(build),
    )
