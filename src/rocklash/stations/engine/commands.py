"""Changes of the Engine station beside its plain figures."""

import hashlib

from django.shortcuts import get_object_or_404

from rocklash.answers.pictures import made_anew
from rocklash.answers.rows import kind_of
from rocklash.commands.base import Command, Refused, number_of
from rocklash.commands.builds import usual_positions
from rocklash.commands.figures import holder_of
from rocklash.desk.files import sent_bytes
from rocklash.records.models import Engine, GapReading, Photo, Position, Reading, ValveFit, Weighing
from rocklash.stations.engine.forms import IdentityForm, LayoutForm
from valvetrain.errors import QuantityError
from valvetrain.parts.catalogue import FIGURES
from valvetrain.parts.figure import Basis
from valvetrain.quantities import parse
from valvetrain.units import LENGTH, amount, quantity

_MOST = 3e-3  # m; a spring that stands 3 mm off its side's figure is a slip of the pen


class KeepDeviation(Command):
    """Keep how much higher one valve's spring stands than its side's figure; empty means zero."""

    verb = "valve height"
    nothing = ""

    def apply(self) -> None:
        """`valve` is the position's number, `seen` the difference the person saw."""
        row = get_object_or_404(
            Position.objects.select_for_update(no_key=True), engine=self.subject.engine_id, pk=number_of(self.text("valve"))
        )
        text, value = self.text("text"), 0.0
        self.made = row.pk
        if text:
            value = parse(text, LENGTH, self.system).value
            if abs(value) > _MOST:
                raise QuantityError(
                    f"{row.name}: {amount(value, LENGTH)} is too much. Give the difference to the side's figure, for example 0.05."
                )
        if abs(value - row.deviation) < 1e-9:
            return
        if self.text("seen") != f"{row.deviation:.7f}":
            raise Refused("Meanwhile somebody changed this. Yours is still in the field: press Enter to use it.", conflict=True)
        self.note(row.name, quantity(row.deviation, LENGTH, self.system), quantity(value, LENGTH, self.system))
        self.ledger.set(row, deviation=value)


def seen_of(engine: Engine, *columns: str) -> str:
    """What a person saw of an engine's words, as its form sends it back."""
    return hashlib.blake2b(repr([getattr(engine, name) for name in columns]).encode(), digest_size=8).hexdigest()


class _OnEngine(Command):
    columns: tuple[str, ...]

    def engine(self) -> Engine:
        """The engine, locked, as the person saw it."""
        engine = Engine.objects.select_for_update(no_key=True).get(pk=self.subject.engine_id)
        if self.cleaned["seen"] != seen_of(engine, *self.columns):
            raise Refused("Meanwhile somebody changed this. Look at it again; yours is still in the fields.", conflict=True)
        return engine


class KeepIdentity(_OnEngine):
    """Keep serial number, owner and which manual is meant. The journal names what changed, not the owner."""

    verb = "engine's papers"
    judged = False
    form = IdentityForm
    columns = ("serial", "owner", "manual")

    def apply(self) -> None:
        """As sent."""
        engine = self.engine()
        changed = [name for name in self.columns if getattr(engine, name) != self.cleaned[name]]
        self.ledger.set(engine, **{name: self.cleaned[name] for name in self.columns})
        self.note(", ".join(changed))


class KeepPage(Command):
    """Keep on which page of the manual a maker's figure stands."""

    verb = "manual's page"
    judged = False

    def apply(self) -> None:
        """`seen` is the page the person saw."""
        row, owner = holder_of(self.subject, self.text("holder"), lock=True)
        key, page = self.text("key"), self.text("page", 21)
        figure = row.figures.get(key)
        if figure is None or figure["basis"] != Basis.MAKER:
            raise Refused("Only what the maker says is from the manual.")
        if len(page) > 20:
            raise Refused("Name the page in up to 20 letters, such as 5-12.")
        now = figure.get("page", "")
        if page == now:
            return
        if self.text("seen") != now:
            raise Refused(f"Meanwhile this became page {now or 'none'}.", conflict=True)
        self.ledger.set(row, figures={**row.figures, key: {**figure, "page": page}})
        self.note(FIGURES[owner, key].label.lower(), now, page)


class AddPhoto(Command):
    """Keep a photograph of the engine, made anew."""

    verb = "photograph"
    reversible = False
    judged = refreshes = False

    def apply(self) -> None:
        """`file` and `caption` as sent."""
        raw = sent_bytes(self, "A photograph of a phone is enough.", _LARGEST_PHOTO)
        if not raw:
            raise Refused("Choose a photograph first.")
        if Photo.objects.filter(engine=self.subject.engine).count() >= _MOST_PHOTOS:
            raise Refused(f"There are {_MOST_PHOTOS} photographs of this engine already: remove one first.")
        picture, caption = made_anew(raw), self.text("caption", 120)
        self.ledger.make(
            Photo,
            engine=self.subject.engine,
            by=self.member.user,
            caption=caption,
            width=picture.width,
            height=picture.height,
            data=picture.data,
        )
        self.note("", "", caption or "a photograph")


class RemovePhoto(Command):
    """Remove a photograph for good."""

    verb = "photograph removed"
    reversible = False
    judged = refreshes = False

    def apply(self) -> None:
        """The one named by `photo`."""
        photo = get_object_or_404(
            Photo.objects.select_for_update(no_key=True), engine=self.subject.engine_id, pk=number_of(self.text("photo"))
        )
        self.note("", str(photo), "")
        self.ledger.destroy(photo)


_LARGEST_PHOTO, _MOST_PHOTOS = 12_000_000, 40


class CorrectLayout(_OnEngine):
    """Correct the layout after the start. What that changes is told first, and done when it is sent again."""

    verb = "layout"
    nothing = "The layout was not changed."
    form = LayoutForm
    columns = ("cylinders", "valves_per_side", "gear", "follower", "adjuster")

    def apply(self) -> None:
        """Valves are laid anew where their number changes: only while nothing was read at one of them."""
        engine, wanted = self.engine(), {name: self.cleaned[name] for name in self.columns}
        changed = [name for name in self.columns if getattr(engine, name) != wanted[name]]
        if not changed:
            return
        anew = {"cylinders", "valves_per_side"} & set(changed)
        if anew and self._was_read(engine):
            raise Refused(
                "Something was read at the valves of this engine already: their number cannot change. Begin another engine for it."
            )
        if self.data.get("sure") != "yes":
            raise Refused(self._tells(changed, anew=bool(anew)), made="sure")
        before = ", ".join(str(getattr(engine, name)) for name in changed)
        self.ledger.set(engine, **wanted)
        if anew:
            for place in engine.positions.all():
                self.ledger.drop(place)
            places = usual_positions(kind_of(engine))
            self.ledger.made(
                Position.objects.bulk_create(
                    Position(engine=engine, name=place.name, side=place.side.value, cylinder=place.cylinder, place=number)
                    for number, place in enumerate(places)
                )
            )
        self.note("layout", before, ", ".join(str(wanted[name]) for name in changed))

    def _was_read(self, engine: Engine) -> bool:
        return any(model.objects.filter(position__engine=engine).exists() for model in (Reading, GapReading, ValveFit, Weighing))

    def _tells(self, changed: list[str], *, anew: bool) -> str:
        words = {
            "cylinders": "the valves are renamed", "valves_per_side": "the valves are renamed",
            "gear": "estimates of masses, springs and stiffness, the steps of measuring and the crank positions are those of the other gear",
            "follower": "lift through the follower, its mass and the contact on the lobe are judged again",
            "adjuster": "clearances are set another way: readings stay, a plan of shims may not",
        }  # fmt: skip
        told = list(dict.fromkeys(words[name] for name in changed))
        deviations = " Differences of single springs are forgotten." if anew else ""
        return f"This changes: {'; '.join(told)}.{deviations} Figures that you typed stay. Send it again to do it."
