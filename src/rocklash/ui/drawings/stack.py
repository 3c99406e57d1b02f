"""The spring stack of one valve to scale: shut on the left of the axis, full lift on the right. Input in mm."""

from dataclasses import dataclass

from rocklash.ui.drawings.shapes import Shape, circle, drawing, hatch, path, polygon, rect, text


@dataclass(frozen=True)
class CoilData:
    """A spring for the drawing, mm: heights when shut and open, where its seat is, wire and coils."""

    name: str
    shut: float
    open: float
    step: float
    solid: float
    wire: float
    mean: float
    coils: float


@dataclass(frozen=True)
class StackData:
    """One valve, mm."""

    valve: str
    lift: float
    installed: float
    shim: float
    seal_gap: float
    stem: float
    springs: tuple[CoilData, ...]
    bucket: float
    tightest: tuple[str, str, str]
    keepers: bool = True
    cap: bool = True
    lever: bool = False
    screw: bool = False


@dataclass(frozen=True)
class Dim:
    """A dimension: a line with arrows from y1 to y2 at x, and its texts."""

    x: float
    y1: float
    y2: float
    text: str
    other: str
    words: str
    right: bool

    @property
    def mid(self) -> float:
        """Where its text stands."""
        return round((self.y1 + self.y2) / 2 - 4, 1)

    def shapes(self) -> list[Shape]:
        """Line with arrows, and three lines of text beside it."""
        x, y1, y2, css, dx = round(self.x, 1), self.y1, self.y2, "" if self.right else " end", 7 if self.right else -7
        return [
            path("dim", f"M{x} {y1}V{y2}M{x} {y1}m-4 6l4-6 4 6M{x} {y2}m-4-6l4 6 4-6"),
            text(f"s15 b halo{css}", x, self.mid, self.text, dx=dx),
            text(f"s12 i3 halo{css}", x, self.mid, self.other, dx=dx, dy="1.15em"),
            text(f"s12 i2 halo{css}", x, self.mid, self.words, dx=dx, dy="2.25em"),
        ]


@dataclass(frozen=True)
class Balloon:
    """A numbered balloon with a leader to the part; numbers key to the mass ledger."""

    number: int
    x: float
    y: float
    to_x: float
    to_y: float

    def shapes(self) -> list[Shape]:
        """Leader, dot on the part, and the number in its ball."""
        return [
            path("k-lead", f"M{self.x} {self.y}L{self.to_x} {self.to_y}"),
            circle("k-dot", self.to_x, self.to_y, 2),
            circle("k-ball", self.x, self.y, 9),
            text("s12 mid", self.x, self.y, str(self.number), dy=4),
        ]


@dataclass(frozen=True)
class Half:
    """One half of the section."""

    retainer: tuple[tuple[float, float], ...]
    keeper: tuple[float, float, float, float]
    coils: tuple[tuple[float, float, float], ...]
    tip: float
    under: float


@dataclass(frozen=True)
class Stack:
    """A stack laid out in a view box of `width` x `height` pixels; `axis` is the stem's axis."""

    width: float
    height: float
    axis: float
    seat: float
    scale: float
    shut: Half
    open: Half
    head: tuple[tuple[float, float, float, float], ...]
    shim: tuple[float, float, float, float] | None
    stem_half: float
    bottom: float
    seal: tuple[float, float, float, float]
    guide: tuple[float, float]
    bucket_left: float
    bucket_right: float
    bucket_shut: float
    bucket_open: float
    solid_y: float
    dims: tuple[Dim, ...]
    balloons: tuple[Balloon, ...]
    data: StackData

    @property
    def lash_w(self) -> float:
        """Half width of the lash shim on the stem's tip."""
        return round(self.stem_half * 1.5, 1)

    @property
    def lash_h(self) -> float:
        """Height of the lash shim; drawn 2 mm, its size is the Lash station's business."""
        return round(2.0 * self.scale, 1)

    @property
    def crown_shut(self) -> float:
        """Underside of the bucket's crown, shut."""
        return round(self.shut.tip - self.lash_h, 1)

    @property
    def crown_open(self) -> float:
        """Underside of the bucket's crown, full lift."""
        return round(self.open.tip - self.lash_h, 1)

    @property
    def lash_x(self) -> float:
        """Left edge of the lash shim of the shut half."""
        return round(self.axis - self.lash_w, 1)

    def _lever(self, half: Half, end: float, sign: int) -> Shape:
        """The end of a rocker or finger over the tip of one half: an arm that comes down to a nose, or to its screw."""
        axis, tip = self.axis, half.tip - (self.lash_h if self.data.cap else 0.0)
        nose = 7.0 if self.data.screw else 11.0
        points = [
            (axis, tip),
            (axis + sign * nose, tip),
            (axis + sign * (nose + 3), tip - 14),
            (end, tip - 20),
            (end, tip - 34),
            (axis, tip - 34),
        ]
        return polygon("k-steel", [(round(x, 1), round(y, 1)) for x, y in points])

    def _parts(self) -> list[Shape]:
        """The parts from the outside in: what lies over what."""
        axis, bottom, stem, shut, full = self.axis, self.bottom, self.stem_half, self.shut, self.open
        left, right, (seal_x, _, seal_w, _) = self.bucket_left, self.bucket_right, self.seal
        drawn = [rect("k-head", *box) for box in self.head]
        drawn += [text("b mid", left, 16, "Shut"), text("b mid", right, 16, "Full lift")]
        if self.data.lever:
            drawn += [self._lever(shut, left, -1), self._lever(full, right, 1)]
        else:
            drawn.append(path("k-steel", f"M{axis} {self.bucket_shut}H{left}V{shut.under}h5V{self.crown_shut}H{axis}z"))
            drawn.append(path("k-steel", f"M{axis} {self.bucket_open}H{right}V{full.under}h-5V{self.crown_open}H{axis}z"))
        if self.shim:
            drawn.append(rect("k-brass", *self.shim))
        drawn += [circle("k-coil", *coil) for coil in (*shut.coils, *full.coils)]
        drawn.append(path("k-guide", f"M{seal_x} {self.guide[0]}h{seal_w}V{bottom}h-{seal_w}z"))
        drawn += [rect("k-dark", *self.seal), polygon("k-part", shut.retainer), polygon("k-part", full.retainer)]
        drawn.append(path("k-part", f"M{axis} {shut.tip}h-{stem}V{bottom}h{stem}z"))
        drawn.append(path("k-part", f"M{axis} {full.tip}h{stem}V{bottom}h-{stem}z"))
        if self.data.keepers:
            drawn += [rect("k-dark", *half.keeper) for half in (shut, full)]
        if not self.data.cap:
            return drawn
        up = f"translate(0 -{self.lash_h})"
        tips = ((self.lash_x, shut.tip), (axis, full.tip))
        return drawn + [rect("k-brass", x, y, self.lash_w, self.lash_h, transform=up) for x, y in tips]

    def shape(self, spoken: str) -> Shape:
        """The whole drawing."""
        right, solid = self.bucket_right, self.solid_y
        drawn = [*self._parts(), path("k-axis", f"M{self.axis} 22V{self.bottom}"), path("k-solid", f"M{self.axis} {solid}H{right}")]
        drawn.append(text("s12 brasst halo end", right, solid, "solid", dx=-6, dy=12))
        drawn += [each for dim in self.dims for each in dim.shapes()] + [each for balloon in self.balloons for each in balloon.shapes()]
        return drawing("stack", f"-20 0 {self.width + 40} {self.height}", spoken, *drawn, patterns=[hatch("hatch", "k-hatch")])


def coil_shape(solid: float) -> tuple[float, float, float]:
    """Wire, mean diameter and coils to draw a spring of which only the solid height (mm) is known: 6.5 coils, index 6.6."""
    wire = solid / 6.5
    return wire, 6.6 * wire, 6.5


def _coils(spring: CoilData, height: float, axis: float, seat: float, scale: float, sign: int) -> list[tuple[float, float, float]]:
    radius = spring.wire / 2 * scale
    count = max(round(spring.coils), 3)
    first, last = seat - spring.step * scale - radius, seat - (spring.step + height) * scale + radius
    # a coil seen in section rises half a pitch from one side to the other; the end coils lie flat
    places = [first + (last - first) * n / (count - 1) for n in range(count)]
    return [(round(axis + sign * spring.mean / 2 * scale, 1), round(y, 1), round(radius, 1)) for y in places]


def _half(data: StackData, axis: float, seat: float, scale: float, lift: float, sign: int) -> Half:
    under = seat - (data.shim + data.installed - data.shim - lift) * scale
    stem, tip = data.stem / 2 * scale, under - 5.2 * scale
    outer = max((s.mean + s.wire) / 2 for s in data.springs) * scale
    inner = outer * 0.52
    edge = [
        (stem + 1, under - 4.6 * scale),
        (inner, under - 4.6 * scale),
        (inner, under - 2.2 * scale),
        (outer, under - 2.2 * scale),
        (outer, under),
        (inner * 0.98, under),
        (inner * 0.9, under + 2.4 * scale),
        (stem + 2.2 * scale, under + 2.4 * scale),
    ]
    shape = tuple((round(axis + sign * x, 1), round(y, 1)) for x, y in edge)
    left = axis + (stem if sign > 0 else -stem - 1.7 * scale)
    keeper = (round(left, 1), round(under - 4.2 * scale, 1), round(1.7 * scale, 1), round(5.4 * scale, 1))
    coils = []
    for spring in data.springs:
        height = spring.shut if lift == 0 else spring.open
        coils += _coils(spring, height, axis, seat - data.shim * scale, scale, sign)
    return Half(shape, keeper, tuple(coils), round(tip, 1), round(under, 1))


# Order of the mass ledger: valve, retainer, keepers, follower, lash shim, outer spring, inner spring.
LEDGER_NUMBERS = {
    "valve": 1,
    "retainer": 2,
    "keepers": 3,
    "follower": 4,
    "shim": 5,
    "spring, ⅓": 6,
    "outer spring, ⅓": 6,
    "inner spring, ⅓": 7,
}


def _balloons(data: StackData, shut: Half, axis: float, scale: float, bucket: float, left: float) -> tuple[Balloon, ...]:
    """Balloons down the left edge, in the order in which their leaders end, so that no two leaders cross."""
    first = shut.coils[0]
    outer = [coil for coil in shut.coils if coil[0] == first[0] and coil[2] == first[2]]
    inner = [coil for coil in shut.coils if coil not in outer]
    targets = [
        (4, axis - data.bucket / 2 * scale + 10, bucket + 6 if not data.lever else shut.tip - 30),
        *([(5, axis - data.stem * 0.3 * scale, shut.tip - 1.2 * scale)] if data.cap else []),
        *([(3, shut.keeper[0] + shut.keeper[2] / 2, shut.keeper[1] + 8)] if data.keepers else []),
        (2, shut.retainer[3][0] + 14, shut.under - 1.0 * scale),
        (6, outer[len(outer) // 2][0], outer[len(outer) // 2][1]),
    ]
    if inner:
        targets.append((7, inner[len(inner) // 3][0], inner[len(inner) // 3][1]))
    targets.append((1, axis - 4, shut.coils[0][1] + 34))
    targets.sort(key=lambda target: target[2])
    places: list[Balloon] = []
    for number, x, y in targets:
        top = max(y - 8, places[-1].y + 25 if places else 34.0)
        places.append(Balloon(number, round(left + 18 if top > shut.under + 6 else left + 4, 1), round(top, 1), round(x, 1), round(y, 1)))
    return tuple(places)


def draw(data: StackData, mm: dict[str, str], inch: dict[str, str]) -> Stack:
    """Lay the stack out in 442 x 452 pixels. `mm` and `inch` carry the printed dimensions by name."""
    width, height, axis, seat = 442.0, 452.0, 212.0, 376.0
    scale = min(300.0 / (data.installed + 8.0), 8.2)
    half_bucket = data.bucket / 2 * scale
    shut, opened = _half(data, axis, seat, scale, 0.0, -1), _half(data, axis, seat, scale, data.lift, 1)
    seal_top = shut.under + (2.4 + data.seal_gap) * scale
    stem = data.stem / 2 * scale
    outer = data.springs[0]
    solid_y = seat - (data.shim + outer.step + outer.solid) * scale
    bucket_shut, bucket_open = shut.tip - 4.6 * scale, opened.tip - 4.6 * scale
    head = (
        (axis - half_bucket - 26, seat - 30 * scale, 26 - 2, height - 22 - (seat - 30 * scale)),
        (axis + half_bucket + 2, seat - 30 * scale, 24, height - 22 - (seat - 30 * scale)),
        (axis - half_bucket - 4, seat, 2 * half_bucket + 8, height - 22 - seat),
    )
    left, right = axis - half_bucket - 44, axis + half_bucket + 44
    dims = (
        Dim(left, round(shut.under, 1), seat, mm["installed"], inch["installed"], "installed", False),
        Dim(right, round(bucket_shut, 1), round(bucket_open, 1), mm["lift"], inch["lift"], "lift", True),
        Dim(right, round(opened.under, 1), seat, mm["open"], inch["open"], "outer, open", True),
    )
    balloons = _balloons(data, shut, axis, scale, bucket_shut, left)
    shim = (axis - half_bucket * 0.86, seat - data.shim * scale, half_bucket * 1.72, data.shim * scale) if data.shim > 0.02 else None
    return Stack(
        width=width, height=height, axis=axis, seat=seat, scale=round(scale, 3), shut=shut, open=opened,
        head=tuple((round(a, 1), round(b, 1), round(c, 1), round(d, 1)) for a, b, c, d in head),
        shim=tuple(round(v, 1) for v in shim) if shim else None,  # type: ignore[arg-type]
        stem_half=round(stem, 1), bottom=height - 22, seal=(round(axis - stem - 2.6 * scale, 1), round(seal_top, 1), round(2 * stem + 5.2 * scale, 1), round(6.5 * scale, 1)),
        guide=(round(seal_top + 5.0 * scale, 1), round(2.2 * scale, 1)), bucket_left=round(axis - half_bucket, 1), bucket_right=round(axis + half_bucket, 1),
        bucket_shut=round(bucket_shut, 1), bucket_open=round(bucket_open, 1), solid_y=round(solid_y, 1), dims=dims, balloons=balloons, data=data,
    )  # fmt: skip
