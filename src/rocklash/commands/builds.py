"""From the core's record of a build to rows: import of a build file, the demo, and engines from a template."""

from dataclasses import replace

from django.utils import timezone

from rocklash.answers.rows import PART_OWNERS, record_of
from rocklash.commands.base import Command, Refused
from rocklash.commands.ledger import Ledger
from rocklash.records.figure_column import figures_of, stored_from
from rocklash.records.models import Build, Engine, GapReading, Membership, Part, Position, Setup, SetupRole, SetupSide, ValveFit
from valvetrain.formats.build_file import PRACTICE, flow_document
from valvetrain.formats.lobe_document import document
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.engine import Adjuster, EngineKind, Side, ValvePosition
from valvetrain.parts.record import BuildRecord, PartRecord, SideRecord

_USUAL_NAMES = {
    Owner.CAM: "cam",
    Owner.VALVE: "valve",
    Owner.RETAINER: "retainer",
    Owner.KEEPERS: "keepers",
    Owner.FOLLOWER: "follower",
    Owner.SHIM: "lash shim",
    Owner.SPRING: "spring",
}
_BOTH_SIDES = {Owner.RETAINER, Owner.KEEPERS, Owner.FOLLOWER, Owner.SHIM, Owner.SPRING}


def usual_positions(kind: EngineKind) -> tuple[ValvePosition, ...]:
    """Names of the valves as the trade counts them: EX 1 left, EX 1 right, ... IN 2 right."""
    across = {1: ("",), 2: (" left", " right"), 3: (" left", " middle", " right")}[kind.valves_per_side]
    return tuple(
        ValvePosition(f"{short} {cylinder}{where}", side, cylinder)
        for side, short in ((Side.EXHAUST, "EX"), (Side.INTAKE, "IN"))
        for cylinder in range(1, kind.cylinders + 1)
        for where in across
    )


class _Shelf:
    """Creates each part once, however many sides use it."""

    def __init__(self, member: Membership, engine: Engine, ledger: Ledger, *, alone: bool) -> None:
        self.member, self.engine, self.ledger, self.alone = member, engine, ledger, alone
        self.made: dict[tuple[Owner, str, str], Part] = {}

    def _on_shelf(self, owner: Owner, name: str, record: PartRecord) -> Part | None:
        """The same part where the shelf has it already: same kind, name and figures."""
        known = Part.objects.filter(workshop=self.member.workshop, engine=None, kind=owner.value, name=name)
        wanted = {key: (figure.value, figure.spread, figure.basis) for key, figure in record.figures.items()}
        lobe = document(record.lobe).model_dump(mode="json") if record.lobe else None
        for part in known:
            has = {key: (figure.value, figure.spread, figure.basis) for key, figure in figures_of(part.figures, owner).items()}
            if has == wanted and part.facts == dict(record.facts) and part.lobe == lobe:
                return part
        return None

    def part(self, record: PartRecord, owner: Owner, side: Side, *, stock: bool) -> Part:
        name = record.name or f"Stock {'' if owner in _BOTH_SIDES and owner is not Owner.SPRING else side.value + ' '}{_USUAL_NAMES[owner]}"
        key = (owner, name, "" if owner in _BOTH_SIDES and record.name else side.value)
        if key not in self.made:
            own = stock or not record.name or self.alone
            self.made[key] = (None if own else self._on_shelf(owner, name, record)) or self.ledger.make(
                Part,
                workshop=self.member.workshop,
                engine=self.engine if own else None,
                kind=owner.value,
                name=name,
                side="" if owner in _BOTH_SIDES and record.name else side.value,
                stock=stock,
                figures=stored_from(record.figures),
                facts=dict(record.facts),
                lobe=document(record.lobe).model_dump(mode="json") if record.lobe else None,
            )
        return self.made[key]


def _choose(row: SetupSide, record: SideRecord, shelf: _Shelf, kind: EngineKind, *, stock: bool) -> None:
    for field, owner in PART_OWNERS.items():
        if owner is Owner.SPRING or field == "low_cam":
            continue
        if owner is Owner.SHIM and owner not in record.parts and kind.adjuster in {Adjuster.SCREW, Adjuster.STEM_GRIND, Adjuster.HYDRAULIC}:
            continue
        setattr(row, field, shelf.part(record.parts.get(owner, PartRecord()), owner, Side(row.side), stock=stock))
    if record.low_cam:
        row.low_cam = shelf.part(
            replace(record.low_cam, name=record.low_cam.name or f"Low {row.side} cam"), Owner.CAM, Side(row.side), stock=stock
        )
    row.outer_spring = shelf.part(record.springs[0], Owner.SPRING, Side(row.side), stock=stock)
    if len(record.springs) > 1:
        row.inner_spring = shelf.part(record.springs[1], Owner.SPRING, Side(row.side), stock=stock)


def _keep_stands(ledger: Ledger, row: SetupSide, engine: Engine, record: SideRecord) -> None:
    """How single valves' springs were found to stand."""
    places = {place.name: place for place in engine.positions.all()}
    stands = [
        ValveFit(setup_side=row, position=places[name], by=ledger.member.user, height=stand.height, shim=stand.shim)
        for name, stand in record.stands.items()
        if name in places
    ]
    ledger.made(ValveFit.objects.bulk_create(stands))


def _keep_gaps(ledger: Ledger, build: Build, engine: Engine, record: BuildRecord) -> None:
    places = {place.name: place for place in engine.positions.all()}
    gaps = [
        GapReading(
            build=build, position=places[gap.valve], gap=gap.gap.value, way=gap.way.value, value=gap.value, spread=gap.spread,
            angle=gap.angle, rest=gap.rest, by=ledger.member.user,
        )
        for gap in record.gaps
        if gap.valve in places
    ]  # fmt: skip
    ledger.made(GapReading.objects.bulk_create(gaps))


class KeepRecord(Command):
    """Make engine, parts, build and set-ups of a record (the target) in the member's workshop."""

    verb = "started build"
    reversible = False  # an engine that others have worked on since must not vanish by one press
    judged = False  # a file may hold figures that contradict one another: it is kept, and every page says so

    def apply(self) -> None:
        """Everything, and the build as what was made."""
        self.build = self.made = _keep(self.ledger, self.target, self.text("description"))
        self.note("")


class MakePractice(KeepRecord):
    """A copy of a build (the target) to practise on, with parts of its own: nothing that is read there touches what others use."""

    verb = "practice copy"

    def apply(self) -> None:
        """The copy is what was made; a practice copy is not copied again."""
        source: Build = self.target
        if source.practice:
            raise Refused("This is a practice copy already: practise here.")
        record = replace(record_of(source), name=f"{source.name[:60]}, practice")
        record = replace(record, facts={**record.facts, PRACTICE: "yes"})
        self.build = self.made = _keep(self.ledger, record, source.engine.description)
        self.note("", "", f"of {source.name}")


class CopyBuild(KeepRecord):
    """A copy of a build beside it (the target), to see what would be if: figures and parts are the same, what was read and done on the engine is not."""

    verb = "copied build"

    def apply(self) -> None:
        """The copy is what was made."""
        source: Build = self.target
        if source.practice:
            raise Refused("This is a practice copy: copy the build itself.")
        name = self.text("name", 80) or f"{source.name[:70]}, what if"
        self.build = self.made = _keep(self.ledger, replace(record_of(source), name=name), source.engine.description)
        self.note("", "", f"of {source.name}")


class RenameBuild(Command):
    """Give a build another name; its engine takes it too where it was called the same."""

    verb = "renamed"
    judged = False

    def standing(self) -> object:
        """What it is called."""
        return Build.objects.only("name").get(pk=self.subject.pk).name

    def apply(self) -> None:
        """The name as sent."""
        build, name = Build.objects.select_for_update(no_key=True).get(pk=self.subject.pk), self.text("name", 80)
        if not name:
            raise Refused("A build needs a name, for example Ruff 208.")
        if name == build.name:
            return
        self.note("name", build.name, name)
        engine = Engine.objects.select_for_update(no_key=True).get(pk=build.engine_id)
        if engine.name == build.name:
            self.ledger.set(engine, name=name)
        self.ledger.set(build, name=name)


class DeleteBuild(Command):
    """Take a build off every list; nothing of it is lost, and it can be had back."""

    verb = "deleted"
    reversible = judged = refreshes = False

    def apply(self) -> None:
        """Once; not while its engine is open."""
        if self.subject.jobs.filter(closed_at=None).exists():
            raise Refused("Its engine is open: close the job first, so that nothing that is out of it is forgotten.")
        now = timezone.now()
        self.ledger.set(self.subject, deleted_at=now, archived_at=self.subject.archived_at or now)
        self.note("")


def _keep(ledger: Ledger, record: BuildRecord, description: str) -> Build:
    kind, shop = record.kind, ledger.member.workshop
    words = dict(record.facts)
    practice = words.pop(PRACTICE, "") == "yes"
    engine: Engine = ledger.make(
        Engine,
        workshop=shop,
        name=record.name,
        description=description,
        cylinders=kind.cylinders,
        valves_per_side=kind.valves_per_side,
        gear=kind.gear.value,
        follower=kind.follower.value,
        adjuster=kind.adjuster.value,
        figures=stored_from(record.engine),
        firing_order=words.pop("firing", "")[:60],
        clearance_note=words.pop("lash_note", "")[:300],
        shim_shape=words.pop("shim_shape", "")[:40],
        facts=words,
    )
    places = record.positions or usual_positions(kind)
    positions = [
        Position(engine=engine, name=place.name, side=place.side.value, cylinder=place.cylinder, place=number, deviation=place.deviation)
        for number, place in enumerate(places)
    ]
    ledger.made(Position.objects.bulk_create(positions))
    build: Build = ledger.make(
        Build,
        workshop=shop,
        engine=engine,
        name=record.name,
        use=record.use.value,
        figures=stored_from(record.goal),
        facts=dict(record.goal_facts),
        flows=[flow_document(test).model_dump(mode="json") for test in record.flows],
        practice=practice,
    )
    shelf = _Shelf(ledger.member, engine, ledger, alone=practice)
    for role, sides in ((SetupRole.STOCK, record.stock), (SetupRole.PROPOSED, record.proposed)):
        setup = ledger.make(Setup, build=build, role=role)
        for side in Side:
            row = SetupSide(setup=setup, side=side.value, figures=stored_from(sides[side].fit))
            _choose(row, sides[side], shelf, kind, stock=role == SetupRole.STOCK or sides[side] == record.stock[side])
            row.save()
            ledger.made([row])
            _keep_stands(ledger, row, engine, sides[side])
    _keep_gaps(ledger, build, engine, record)
    return build


def keep_record(member: Membership, record: BuildRecord, *, description: str = "") -> Build:
    """The build that a record became. Raises PermissionDenied."""
    build: Build = KeepRecord(member, None, {"description": description}, target=record).run().made
    return build
