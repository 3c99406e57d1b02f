"""Facts of an engine and its job, by the names that conditions of steps ask."""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from valvetrain.parts.engine import Adjuster, EngineKind, Follower, Gear
from valvetrain.studies.job.steps import Facts


class JobKind(StrEnum):
    """What is done."""

    SPRINGS = "springs"
    FULL = "full"
    CAMS = "cams"
    CLEARANCES = "clearances"
    VALVES = "valves"
    REFRESH = "refresh"
    OVER_REV = "over_rev"
    STUDS = "studs"
    GALLERY = "gallery"
    SURFACING = "surfacing"


KIND_WORDS = {
    JobKind.SPRINGS: "Springs, head on", JobKind.FULL: "Full head build", JobKind.CAMS: "Cams", JobKind.CLEARANCES: "Clearances only",
    JobKind.VALVES: "Valve, seat and guide work", JobKind.REFRESH: "Refresh", JobKind.OVER_REV: "Inspection after an over-rev",
    JobKind.STUDS: "Studs and threads", JobKind.GALLERY: "Cleaning the oil galleries", JobKind.SURFACING: "Surfacing and gasket",
}  # fmt: skip
# Parts that may be renewed, as conditions ask of them.
RENEWED = {
    "cam": "newcam", "spring": "newspring", "retainer": "newret", "valve": "newvalve", "seat": "newseat", "guide": "newguide", "follower": "newfollower",
    "seal": "newseal",
}  # fmt: skip
_HEAD_OFF = frozenset({JobKind.FULL, JobKind.VALVES, JobKind.GALLERY, JobKind.SURFACING})
_ADJUSTERS = {
    Adjuster.SHIM_UNDER: "under", Adjuster.SHIM_OVER: "over", Adjuster.SHIM_ON_STEM: "stem", Adjuster.GRADED_BUCKET: "graded", Adjuster.SCREW: "screw",
    Adjuster.LASH_CAP: "cap", Adjuster.STEM_GRIND: "grind", Adjuster.HYDRAULIC: "hyd",
}  # fmt: skip
# What an engine is told to have, each a fact of its own.
HAS = {
    "liquid": "Cooled by water", "ratchet": "Chain with a ratchet tensioner", "jets": "Oil jets at the rollers", "deflect": "Oil deflectors or an upper chain guide",
    "sealed": "Caps or half-moons set in sealant", "liners": "Wet liners", "decomp": "Decompressor", "tip": "Rockers that tip aside",
    "passes": "Spring seats that pass over the seal", "governed": "Governor", "craft": "Sits in a hull", "wheels": "Stands on wheels", "phaser": "Cam phaser",
}  # fmt: skip


# What else may be so of a job.
ASKS = {
    "runs": "It runs", "outside": "A clearance is outside its limits", "first": "It is the first time for whoever does it", "revs": "It will turn faster",
    "boost": "It will have more boost", "studs": "Studs come out", "broken": "A stud is broken", "gallery": "Oil galleries are cleaned",
    "blast": "The head is blasted", "surfaced": "The head is surfaced", "degree": "The cams are degreed in", "titanium": "Valves of titanium or coated",
    "keyhole": "Keyhole retainers, no keepers",
}  # fmt: skip


@dataclass(frozen=True)
class JobSpec:
    """A job. `here` is machine, engine or head; `hold` rope or air; `lapping` hand, shop or none; `seal_order` seat or seal; `drive` chain, belt or gears; `held` caps, bridge or
    bores; `has` of HAS; `renewed` of RENEWED; `asks` what else is so, of ASKS."""

    kind: JobKind
    here: str = "machine"
    in_frame: bool = False
    hold: str = "rope"
    lapping: str = "none"
    seal_order: str = "seat"
    drive: str = "chain"
    held: str = "caps"
    has: frozenset[str] = frozenset()
    renewed: frozenset[str] = frozenset()
    asks: frozenset[str] = frozenset({"runs"})


def _of_engine(kind: EngineKind, spec: JobSpec) -> set[str]:
    facts = {_ADJUSTERS[kind.adjuster]} | (set(spec.has) & HAS.keys())
    if kind.caps:
        facts.add("cap")
    overhead = kind.gear in (Gear.DOHC, Gear.OHC)
    facts.add("ohc" if overhead else "pushrod" if kind.gear is Gear.PUSH_ROD else "sidevalve")
    if overhead:
        facts |= {"interf", spec.drive}
        facts.add({Follower.BUCKET: "bucket", Follower.FINGER: "finger"}.get(kind.follower, "rocker"))
    if spec.drive != "chain" or not overhead:
        facts -= {"ratchet"}
    if not overhead:
        facts -= {"phaser", "jets"}
    if "rocker" not in facts:
        facts -= {"tip"}
    return facts


def facts_of(kind: EngineKind, spec: JobSpec) -> Facts:
    """Every fact of a job that a condition may ask."""
    facts = _of_engine(kind, spec)
    overhead, side_valve = "ohc" in facts, "sidevalve" in facts
    off = spec.kind in _HEAD_OFF or spec.here == "head" or (spec.kind is JobKind.REFRESH and "valve" in spec.renewed)
    facts.add("headoff" if off else "headon")
    if spec.here == "head":
        facts.add("loose")
    if spec.here != "machine":
        facts -= {"wheels", "craft"}
    if spec.in_frame and spec.here == "machine":
        facts.add("inframe")
    springs = spec.kind in (JobKind.SPRINGS, JobKind.FULL, JobKind.VALVES, JobKind.REFRESH) or bool(
        spec.renewed & {"spring", "retainer", "seal", "valve"}
    )
    out = springs and off and spec.kind in (JobKind.FULL, JobKind.VALVES, JobKind.REFRESH)
    if springs:
        facts |= {"springs", "keyhole" if "keyhole" in spec.asks else "keepers"} | (set() if side_valve else {"seal"})
    if out:
        facts.add("vout")
    if spec.kind is not JobKind.STUDS:
        facts.add("turns")
        if "hyd" not in facts:
            facts.add("lash")
    outside = "outside" in spec.asks
    if outside:
        facts.add("correct")
    if outside and facts & {"under", "stem", "graded"} and overhead and "turns" in facts:
        facts.add("shimout")
    if overhead and (spec.kind is JobKind.CAMS or off or (springs and "tip" not in facts) or "cam" in spec.renewed or "shimout" in facts):
        facts |= {"camout", spec.held}
    if not overhead and (spec.kind is JobKind.CAMS or "cam" in spec.renewed or "follower" in spec.renewed):
        facts.add("blockcam")
    if springs and not side_valve:
        facts.add("bench" if off else spec.hold)
    shop = (
        bool(spec.renewed & {"seat", "guide"})
        or "surfaced" in spec.asks
        or spec.kind is JobKind.SURFACING
        or (out and spec.lapping == "shop")
    )
    if shop and off:
        facts.add("shop")
    if out and spec.lapping == "hand" and "titanium" not in spec.asks:
        facts.add("lap")
    return frozenset(facts | _of_job(spec, facts, off=off))


def _of_job(spec: JobSpec, facts: set[str], *, off: bool) -> set[str]:
    asks, found = spec.asks, {RENEWED[part] for part in spec.renewed if part in RENEWED}
    if spec.renewed:
        found.add("new")
    found |= {word for word in ("revs", "boost", "first") if word in asks}
    if "runs" in asks and spec.here != "head":
        found.add("runs")
    if spec.kind is JobKind.CLEARANCES:
        found.add("clearonly")
    if spec.kind is JobKind.OVER_REV:
        found.add("overrev")
    if spec.kind is JobKind.STUDS or "studs" in asks:
        found.add("studs")
        found |= {"broken"} & asks
    if off and (spec.kind is JobKind.GALLERY or "gallery" in asks):
        found.add("gallery")
        found |= {"blast"} & asks
    if "titanium" in asks:
        found.add("ti")
    if spec.seal_order == "seal":
        found.add("sealfirst")
    surfaced = spec.kind is JobKind.SURFACING or "surfaced" in asks
    if "ohc" in facts and (off or facts & {"camout"}) and ("cam" in spec.renewed or surfaced or "degree" in asks):
        found.add("degree")
    if surfaced or spec.renewed & {"cam", "valve", "seat"}:
        found.add("gapcheck")
    return found


def words_of(facts: Mapping[str, str]) -> frozenset[str]:
    """What the words of an engine say it has."""
    found = set()
    if facts.get("cooling") == "water":
        found.add("liquid")
    if facts.get("machine") == "water":
        found.add("craft")
    if facts.get("machine") in ("gearbox", "single"):
        found.add("wheels")
    if facts.get("machine") == "governed":
        found.add("governed")
    return frozenset(found)
