"""Changes of the Job station: the order for the machine shop, and what was measured before and after."""

from django.shortcuts import get_object_or_404
from django.utils import timezone

from rocklash.commands.base import Command, Refused, number_of
from rocklash.records.models import Position, ShopOrder, ShopReading
from rocklash.stations.job.forms import OrderForm
from valvetrain.errors import QuantityError
from valvetrain.quantities import parse
from valvetrain.studies.head.shop import HEAD_MEASURES, MEASURES, WORKS
from valvetrain.units import LENGTH, amount, quantity

_MM = 1e-3
# What a measure can be at all, m: beyond it the unit is wrong.
_BOUNDS = {
    "protrusion": (5.0, 90.0), "contact": (0.2, 6.0), "runout": (0.0, 1.0), "play": (0.0, 0.6), "margin": (0.1, 6.0), "guide_height": (0.0, 40.0),
    "face_off": (0.0, 4.0), "flatness": (0.0, 1.0),
}  # fmt: skip
STEPS = ("sent", "back", "closed")
_DONE = {"sent": "sent to the machine shop", "back": "back from the machine shop", "closed": "checked and closed"}


class _OfTheShop(Command):
    """A command on the visit under way; nothing of it moves a check of the build."""

    judged = False

    def order(self) -> ShopOrder:
        """The open order, locked. Raises Refused where there is none."""
        found = ShopOrder.objects.select_for_update(no_key=True).filter(build=self.subject, closed_at=None).first()
        if found is None:
            raise Refused("No order is open: begin one first.", conflict=True)
        return found


class BeginOrder(_OfTheShop):
    """Begin an order for the machine shop."""

    verb = "machine shop, order begun"

    def apply(self) -> None:
        """One is open at a time."""
        if ShopOrder.objects.filter(build=self.subject, closed_at=None).exists():
            return
        self.ledger.make(ShopOrder, build=self.subject, by=self.member.user)
        self.note("")


class KeepOrder(_OfTheShop):
    """Keep what is written on the order."""

    verb = "machine shop, order"
    form = OrderForm

    def apply(self) -> None:
        """`seen` is the order as the person saw it."""
        order, told = self.order(), self.cleaned
        works = [key for key in WORKS if key in told["works"]]
        if self.text("seen", 2000) != order_fingerprint(order):
            raise Refused("Meanwhile somebody else wrote on this order. Yours is still in the fields: send again to use it.", conflict=True)
        before = ", ".join(order.works)
        self.ledger.set(order, works=works, shop=told["shop"], wanted=told["wanted"], note=told["note"])
        self.note("order", before, ", ".join(works))


def order_fingerprint(order: ShopOrder) -> str:
    """What a person saw of an order."""
    return f"{','.join(order.works)}|{order.shop}|{order.wanted or ''}|{order.note}"[:1900]


class StepOrder(_OfTheShop):
    """The head goes to the shop, comes back, or the order is closed; a step can be taken back by undo."""

    verb = "machine shop"

    def apply(self) -> None:
        """`step` is the next one of `STEPS`."""
        order, step = self.order(), self.text("step")
        if step not in STEPS:
            raise Refused("There is no such step.")
        column = f"{step}_at"
        if getattr(order, column):
            return
        if step == "sent" and not order.works:
            raise Refused("Nothing is asked of the shop yet: tick what is to be done and save it, then send the head.")
        if step != "sent" and not order.sent_at:
            raise Refused("It has not been sent yet.", conflict=True)
        if step == "closed" and not order.back_at:
            raise Refused("It is not back yet.", conflict=True)
        self.ledger.set(order, **{column: timezone.now()})
        self.note("", "", _DONE[step])


class KeepMeasure(_OfTheShop):
    """Keep one measure of one valve or of the head; an empty text takes it back."""

    verb = "machine shop, measured"

    def apply(self) -> None:
        """`valve` is a position's number or `head`, `stage` before or back; `seen` the value the person saw."""
        order, measure, stage, text = self.order(), self.text("measure"), self.text("stage"), self.text("text", 80)
        place = self._place(measure)
        if stage not in ("before", "back"):
            raise Refused("It is measured before it goes, or when it is back.")
        if stage == "back" and not order.sent_at:
            raise Refused("It has not been sent yet: measure it as before.")
        now = (
            ShopReading.objects.select_for_update(of=("self",), no_key=True)
            .filter(order=order, position=place, measure=measure, stage=stage)
            .first()
        )
        value = self._value(measure, text) if text else None
        if (value is None and now is None) or (value is not None and now is not None and abs(now.value - value) < 1e-9):
            return
        if self.text("seen") != seen_of(now):
            raise Refused(
                f"Meanwhile this became {quantity(now.value, LENGTH, self.system) if now else 'not known'}. Yours is still in the field: send again to use it.",
                conflict=True,
            )
        name = f"{place or 'head'}, {(MEASURES | HEAD_MEASURES)[measure].lower()} {stage}"
        before = quantity(now.value, LENGTH, self.system) if now else "not known"
        if value is None:
            assert now
            self.ledger.drop(now)
        else:
            row = {"order": order, "position": place, "measure": measure, "stage": stage}
            self.ledger.put(ShopReading, row, value=value, typed=text, by=self.member.user)
        self.note(name, before, quantity(value, LENGTH, self.system) if value is not None else "not known")

    def _place(self, measure: str) -> Position | None:
        if self.text("valve") == "head":
            if measure not in HEAD_MEASURES:
                raise Refused("There is no such measure of the head.")
            return None
        if measure not in MEASURES:
            raise Refused("There is no such measure of a valve.")
        return get_object_or_404(Position, engine=self.subject.engine_id, pk=number_of(self.text("valve")))

    def _value(self, measure: str, text: str) -> float:
        value = parse(text, LENGTH, self.system).value
        low, high = (end * _MM for end in _BOUNDS[measure])
        if not low <= value <= high:
            name = (MEASURES | HEAD_MEASURES)[measure]
            raise QuantityError(
                f"{name}: {amount(value, LENGTH)} cannot be; it lies between {amount(low, LENGTH)} and {amount(high, LENGTH)}."
            )
        return value


def seen_of(row: ShopReading | None) -> str:
    """What a person saw of a reading."""
    return f"{row.value:.7f}" if row else "none"
