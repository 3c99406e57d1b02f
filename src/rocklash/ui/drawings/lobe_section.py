"""A lobe on its follower in section, to scale, with what a page needs to turn it. Drawn in a view box of 300 x 230."""

import math
from dataclasses import dataclass

from rocklash.ui.drawings.readout import packed
from rocklash.ui.drawings.shapes import Shape, circle, drawing, group, path, steps

WIDTH, HEIGHT = 300.0, 230.0
_ROOM = 2.55  # base radii across which the drawing must hold


@dataclass(frozen=True)
class SectionData:
    """Points in mm, the cam's centre at zero, y towards the follower.

    `outline` closed lobe in its own axes; `touch` and `centre` over the cam angle as they stand in the engine; `path` how far the
    follower has moved, mm straight or degrees of swing. `face` flat, domed, roller or pad; `radius` of that face; `across` of a bucket.
    `pivot` is the x of the pivot, None for a straight follower; `valve_arm` its length to the valve, `beyond` the pivot for a rocker.
    """

    outline: tuple[tuple[float, float], ...]
    angle: tuple[float, ...]
    touch: tuple[tuple[float, float], ...]
    centre: tuple[tuple[float, float], ...]
    path: tuple[float, ...]
    face: str
    radius: float
    across: float
    base: float
    sense: int
    pivot: float | None = None
    valve_arm: float = 0.0
    beyond: bool = False


@dataclass(frozen=True)
class Section:
    """The section laid out; `turn` is what the page's script moves things by, an entry a sample, packed."""

    lobe: str
    base: str
    centre: tuple[float, float]
    follower: str
    round_face: tuple[float, float, float] | None
    cap: str
    pivot: tuple[float, float] | None
    stem: tuple[float, float] | None
    touch: tuple[float, float]
    turn: dict[str, object]

    def shape(self) -> Shape:
        """The whole drawing; lobe and follower are groups that the page turns and slides."""
        face = [circle("f-face", *self.round_face)] if self.round_face else []
        cap = [path("f-body", self.cap)] if self.cap else []
        if self.pivot:
            drawn = [group("", path("f-arm", self.follower), *face, *cap, data_swing="")]
            drawn += [path("k-lead", f"M{self.stem[0]} {self.stem[1]}v16")] if self.stem else []
            drawn += [circle("sheet edge", *self.pivot, 7), circle("k-dot", *self.pivot, 2)]
        else:
            body = [path("f-body", self.follower)] if self.follower else []
            drawn = [group("", *body, *cap, *face, data_slide="")]
        x, y = self.centre
        drawn.append(group("", path("lobe-edge", self.lobe), circle("grid", x, y, float(self.base)), data_lobe=""))
        drawn += [path("k-axis", f"M{x} {y}m-9 0h18m-9 -9v18"), circle("x-touch", *self.touch, 4.5, data_touch="")]
        said = "Lobe and follower in section, to scale; turn them with the crank angle slider."
        return drawing("lobe", f"0 0 {WIDTH:g} {HEIGHT:g}", said, *drawn)


def _path(points: list[tuple[float, float]], *, close: bool) -> str:
    return steps(points) + ("z" if close else "")


def _under(data: SectionData, x: float, y: float) -> tuple[float, float]:
    """Where the finger's body passes under its face: a third of the way from the touching side to the face's centre, at most 5 mm."""
    reach = math.hypot(x, y) or 1.0
    inset = data.radius - min(data.radius / 3.0, 5.0) if data.face == "pad" else 0.0
    return x * (1.0 - inset / reach), y * (1.0 - inset / reach)


def _tip(data: SectionData, x: float, y: float) -> tuple[float, float]:
    """Where a finger meets the valve, its length to scale, in line from the pivot under the face; the face itself without a pivot."""
    if data.pivot is None:
        return x, y
    middle = _under(data, x, y)
    dx, dy = middle[0] - data.pivot, middle[1]
    length = math.hypot(dx, dy)
    arm = -data.valve_arm if data.beyond else data.valve_arm
    return data.pivot + dx / length * arm, dy / length * arm


def _rim(data: SectionData, x: float, y: float) -> list[tuple[float, float]]:
    """The part of a pad that can touch: 50 degrees of its circle to either side, towards the cam."""
    up = math.atan2(-y, -x)
    turns = (up + math.radians(5 * n) for n in range(-10, 11))
    return [(x + data.radius * math.cos(turn), y + data.radius * math.sin(turn)) for turn in turns]


def draw(data: SectionData) -> Section:
    """Lay out lobe and follower at the nose."""
    reach = max(math.hypot(x, y) for x, y in data.outline)
    rest = min(range(len(data.angle)), key=lambda n: abs(data.angle[n]))
    face_x, face_y = data.centre[rest]
    tip = _tip(data, face_x, face_y)
    # a pad is drawn as the cap of its circle that can touch, a roller whole; the follower goes down by the lift at most
    down = max(y for _, y in data.centre)
    rim = max(y for _, y in _rim(data, face_x, face_y)) + down - face_y
    body = {"roller": down + data.radius + 5.0, "pad": rim, "flat": down + 11.0, "domed": down - data.radius + 14.0}[data.face]
    low = max(body, tip[1] + 3.0) if data.pivot is not None else body
    rims = [x for x, _ in _rim(data, face_x, face_y)] if data.face == "pad" else [-data.across / 2.0, data.across / 2.0]
    left, right = min(-reach, *rims) - 2.0, max(reach, *rims) + 2.0
    if data.pivot is not None:
        right, left = max(right, data.pivot + 6.0, tip[0] + 4.0), min(left, tip[0] - 4.0)
    scale = min((WIDTH - 16.0) / (right - left), (HEIGHT - 16.0) / (reach + low + 2.0))
    ox = 8.0 - left * scale + (WIDTH - 16.0 - (right - left) * scale) / 2.0
    oy = 8.0 + reach * scale

    def at(x: float, y: float) -> tuple[float, float]:
        return round(ox + x * scale, 1), round(oy + y * scale, 1)

    follower, round_face, pivot, stem, cap = "", None, None, None, []
    if data.pivot is not None:
        round_face = (*at(face_x, face_y), round(data.radius * scale, 1)) if data.face == "roller" else None
        pivot = at(data.pivot, 0.0)
        middle = _under(data, face_x, face_y)
        follower = _path([pivot, at(*middle), at(*tip)], close=False)
        stem = at(*tip)
        cap = [] if round_face else [at(*point) for point in _rim(data, face_x, face_y)]
    elif data.face == "pad":
        cap = [at(*point) for point in _rim(data, face_x, face_y)]
    elif data.face == "roller":
        round_face = (*at(face_x, face_y), round(data.radius * scale, 1))
        follower = _path([at(face_x - 2.5, face_y), at(face_x - 2.5, body), at(face_x + 2.5, body), at(face_x + 2.5, face_y)], close=True)
    else:
        half = data.across / 2.0
        bow = 0.0 if data.face == "flat" else data.radius - math.sqrt(max(data.radius**2 - half**2, 0.0))
        top = face_y if data.face == "flat" else face_y - data.radius
        crown = [at(half * n / 10.0, top + bow * (n / 10.0) ** 2) for n in range(-10, 11)]
        follower = _path([at(-half, body), *crown, at(half, body)], close=True)
    return Section(
        lobe=_path([at(*point) for point in data.outline], close=True),
        base=str(round(data.base * scale, 1)),
        centre=at(0.0, 0.0),
        follower=follower,
        round_face=round_face,
        cap=_path(cap, close=True) if cap else "",
        pivot=pivot,
        stem=stem,
        touch=at(*data.touch[rest]),
        turn={
            "angle": packed(data.angle, 2),
            "touch": [packed(along, 1) for along in zip(*(at(*point) for point in data.touch), strict=True)],
            "move": packed([(value - data.path[rest]) * (1.0 if data.pivot is not None else scale) for value in data.path], 2),
            "sense": data.sense,
            "swing": data.pivot is not None,
            "pivot": pivot,
            "centre": at(0.0, 0.0),
        },
    )
