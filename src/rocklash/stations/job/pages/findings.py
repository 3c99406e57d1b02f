"""What was found, and where each part went, as view-models."""

from dataclasses import dataclass

from django.utils.timezone import localtime

from rocklash.records.models import Build, Finding, PartPlace
from rocklash.stations.job.commands.findings import SLOTS
from valvetrain.parts.engine import SHIMMED, Gear
from valvetrain.studies.job.knowledge import GRADES, signs

# What to look at next, and where in the product it is. Words of the data file -> (station's address, words).
_LINKS = {
    "height": ("spring-valves", "installed heights"), "force": ("springs", "springs"), "bind": ("springs", "coil bind"), "float": ("springs", "float"),
    "clearance": ("lash", "clearances"), "timing": ("cam-timing", "cam timing"), "protrusion": ("spring-valves", "protrusion"),
    "piston": ("room-measure", "piston gap"), "seat": ("job-shop", "machine shop's sheet"), "guide": ("job-shop", "machine shop's sheet"),
    "ratio": ("room", "compression and room"), "spring": ("springs", "springs"), "lobe": ("cams", "cams"), "lift": ("cams", "cams"),
}  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class PictureView:
    """One picture."""

    pk: int
    caption: str
    width: int
    height: int


@dataclass(frozen=True, kw_only=True)
class FindingView:
    """One finding; `looks` are (address, words) of what follows."""

    pk: int
    number: int
    part: str
    where: str
    sees: str
    means: str
    follows: str
    words: str
    measured: str
    grade: int
    grade_words: str
    settled: str
    when: str
    pictures: list[PictureView]
    looks: list[tuple[str, str]]
    same: str


def sentence(words: str) -> str:
    """What was typed, with a capital and a full stop."""
    return words[:1].upper() + words[1:] + ("" if not words or words[-1] in ".!?" else ".")


def findings_page(rows: list[Finding]) -> list[FindingView]:
    """Open ones first, the gravest first; a sign found on several parts of one kind says so."""
    known = signs()
    places: dict[tuple[str, str], set[int]] = {}
    for row in rows:
        if row.sign and row.position_id:
            places.setdefault((row.part, row.sign), set()).add(row.position_id)
    found = []
    for row in sorted(rows, key=lambda row: (bool(row.settled), row.grade, row.number)):
        sign = known.get(row.sign)
        looks = list(dict.fromkeys(_LINKS[each] for each in (sign.looks if sign else ()) if each in _LINKS))
        many = len(places.get((row.part, row.sign), ()))
        same = f"The same on {many} of them" + (
            ": is it a mark of casting or turning? Dye tells." if row.sign == "ret-hair" and many > 2 else "."
        )
        found.append(
            FindingView(
                pk=row.pk, number=row.number, part=row.part, where=row.position.name if row.position else row.place, sees=sign.sign if sign else "",
                means=sign.means if sign else "", follows=sign.follows if sign else "", words=sentence(row.words), measured=row.measured, grade=row.grade,
                grade_words=GRADES[row.grade], settled=row.settled, when=f"{localtime(row.at):%d %b %Y}", looks=looks, same=same if many > 1 else "",
                pictures=[
                    PictureView(pk=each.pk, caption=each.caption, width=each.width, height=each.height) for each in row.pictures.all()
                ],
            )
        )  # fmt: skip
    return found


def slots_of(build: Build) -> tuple[str, ...]:
    """Parts of a valve that this engine has."""
    engine = build.engine
    gear, shimmed = engine.gear, engine.adjuster in SHIMMED
    return tuple(
        slot for slot in SLOTS
        if (slot != "push-rod" or gear == Gear.PUSH_ROD) and (slot != "shim" or shimmed)
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class PlaceRow:
    """One valve's parts: for each slot where it came from, in words; empty for its own."""

    name: str
    cells: list[tuple[str, str]]
    worst: int


def places_page(names: list[str], rows: list[PartPlace], findings: list[Finding], slots: tuple[str, ...]) -> list[PlaceRow]:
    """Which part lies where; `worst` is the worst grade of an open finding at the valve (0 for none)."""
    by = {(row.position.name, row.slot): row for row in rows}
    worst: dict[str, int] = {}
    for found in findings:
        if found.position and not found.settled:
            worst[found.position.name] = min(worst.get(found.position.name, 9), found.grade)

    def cell(name: str, slot: str) -> str:
        row = by.get((name, slot))
        if row is None:
            return ""
        return ", ".join(word for word in ("new" if row.came_from == "new" else f"from {row.came_from}", row.way, row.why) if word)

    return [PlaceRow(name=name, cells=[(slot, cell(name, slot)) for slot in slots], worst=worst.get(name, 0)) for name in names]
