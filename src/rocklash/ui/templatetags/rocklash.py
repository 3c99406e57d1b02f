"""Template tags: marks, icons and figures. Registered as built-ins, so that no template loads them."""

from collections.abc import Hashable, Mapping
from functools import lru_cache
from secrets import token_hex
from typing import Any, Protocol

from django import template
from django.template import Context
from django.template.loader import get_template
from django.utils.html import format_html, format_html_join
from django.utils.safestring import SafeString, mark_safe

from rocklash.ui.drawings import shapes
from valvetrain import wording
from valvetrain.units import QuantityKind, UnitSystem, show, unit_symbol
from valvetrain.wording.cautions import Place, cautions_at, situation_of

register = template.Library()


class Told(Protocol):
    """A drawing that can be told as a table."""

    def figures(self) -> shapes.Figures:
        """The table."""


class Drawn(Protocol):
    """Any drawing that was laid out."""

    def shape(self, **told: Any) -> shapes.Shape:
        """The whole drawing."""


_VERDICT = {
    "holds": '<circle class="m-cur" cx="8" cy="8" r="7.2"/><path class="m-tick" d="M4.6 8.3l2.4 2.4 4.6-5"/>',
    "slim": '<path class="s-cur" d="M8 1l7 7-7 7-7-7z"/><path class="m-cur" d="M1 8h14l-7 7z"/>',
    "short": '<path class="m-cur" d="M1 2h14L8 15z"/><path class="m-tick" d="M4.5 5.6h7"/>',
    "unproven": '<rect class="m-unproven" x="1.5" y="1.5" width="13" height="13"/><circle class="m-cur" cx="8" cy="8" r="2.2"/>',
    "in range": '<circle class="m-cur" cx="8" cy="8" r="7.2"/><path class="m-tick" d="M4.6 8.3l2.4 2.4 4.6-5"/>',
    "tight": '<path class="m-cur" d="M1 2h14L8 15z"/>',
    "loose": '<path class="m-cur" d="M1 14h14L8 1z"/>',
    "undecided": '<rect class="m-unproven" x="1.5" y="1.5" width="13" height="13"/><circle class="m-cur" cx="8" cy="8" r="2.2"/>',
}
_CSS = {"in range": "v-holds", "tight": "v-short", "loose": "v-short", "undecided": "v-unproven"}
_STATE = {
    "done": '<rect class="st-cur" width="10" height="10"/>',
    "work": '<rect class="st-o" x=".7" y=".7" width="8.6" height="8.6"/><path class="st-cur" d="M0 10V0l10 10z"/>',
    "none": '<rect class="st-d" x=".7" y=".7" width="8.6" height="8.6"/>',
    "waits": '<path class="st-cur" d="M1 0h3v10H1zM6 0h3v10H6z"/>',
}


@register.simple_tag
def verdict(word: str, text: str = "") -> SafeString:
    """A verdict as shape, word and colour, always all three."""
    css = _CSS.get(word, f"v-{word}")
    return mark_safe(  # noqa: S308  (fixed shapes; words come from enumerations)
        f'<span class="verdict {css}"><svg class="{css}" viewBox="0 0 16 16" aria-hidden="true">{_VERDICT[word]}</svg>{text or wording.verdict_word(word)}</span>'
    )


@register.simple_tag
def verdict_shape(word: str) -> SafeString:
    """Only the shape, where the word stands beside it anyway."""
    css = _CSS.get(word, f"v-{word}")
    return mark_safe(f'<span class="verdict {css}"><svg class="{css}" viewBox="0 0 16 16" aria-hidden="true">{_VERDICT[word]}</svg></span>')  # noqa: S308  (fixed shapes; words come from enumerations)


@register.simple_tag
def state_mark(state: str) -> SafeString:
    """The mark of a station's state."""
    return mark_safe(f'<svg viewBox="0 0 10 10" aria-hidden="true">{_STATE[state]}</svg>')  # noqa: S308  (fixed shapes; words come from enumerations)


@lru_cache(maxsize=4096)
def _piece(template_name: str, drawn: tuple[tuple[str, Hashable], ...]) -> SafeString:
    # numbers of a drawing are written as they are: looking up how a language writes each took a third of the time
    return get_template(template_name).template.render(Context(dict(drawn), use_l10n=False))  # type: ignore[attr-defined,no-any-return]


@register.simple_tag
def piece(template_name: str, **drawn: Hashable) -> SafeString:
    """A template of nothing but frozen drawings and words. Few of them change from page to page: equal ones are written out once a process."""
    return _piece(template_name, tuple(drawn.items()))


@register.simple_tag(takes_context=True)
def act(context: Context, name: str = "", **row: object) -> SafeString:
    """What every form that changes something carries: the token, which command it is, on which row, what stands of it, and a key by which a form sent twice
    is done once."""
    sent = {"act": name} if name else {}
    sent |= {key: str(value) for key, value in row.items()}
    told = context.get("stands")
    shown = told(name, sent) if told else ""
    sent |= {"stands": shown} if shown else {}
    named = format_html_join("", '<input type="hidden" name="{}" value="{}">', sent.items())
    token = context.get("csrf_token", "")
    return format_html(
        '<input type="hidden" name="csrfmiddlewaretoken" value="{}">{}<input type="hidden" name="once" value="{}">',
        token,
        named,
        token_hex(6),
    )


@register.simple_tag
def once() -> SafeString:
    """The key alone, for the many small forms that only htmx sends: it sends the token in a header."""
    return format_html('<input type="hidden" name="once" value="{}">', token_hex(6))


_SIGNS = {
    "eye": '<path d="M1 8q7-8 14 0q-7 8-14 0z"/><circle cx="8" cy="8" r="2"/>',
    "hand": '<path d="M4 15V7M4 7V4M7 7V2M10 7V3M13 8V5M4 9q0 6 5 6q4 0 4-7"/>',
    "burst": '<path d="M8 1l2 4 5-1-3 4 3 4-5-1-2 4-2-4-5 1 3-4-3-4 5 1z"/>',
    "flame": '<path d="M8 1q5 5 4 9a4 4 0 01-8 0q0-2 2-4q0 2 1 2q2-2 1-7z"/>',
    "dust": '<path d="M2 13h12M4 10h1M8 10h1M12 10h1M6 7h1M10 7h1M8 4h1"/>',
    "stop": '<path d="M5 1h6l4 4v6l-4 4H5l-4-4V5zM5 8h6"/>',
}


@register.simple_tag(takes_context=True)
def cautions(context: Context, place: str) -> SafeString:
    """The cautions of a place that apply to the build at hand, from the registry."""
    answer = context["answer"]
    about = situation_of(answer.record, answer.review.completed if answer.review else None)
    found = cautions_at(Place(place), about)
    if place != Place.SHEET:
        found = tuple(each for each in found if each.id != "practice")  # every page says that above itself
    return mark_safe(  # noqa: S308  (words and signs of the registry)
        "".join(
            f'<p class="caution{" strong" if each.grave else ""}" data-caution="{each.id}"><svg class="sign" viewBox="0 0 16 16" aria-hidden="true">'
            f"{_SIGNS[each.shape]}</svg>{each.words}</p>"
            for each in found
        )
    )


_KEY = "the-key-of-this-form"


@register.simple_tag(takes_context=True)
def figure(context: Context, f: Hashable) -> SafeString:
    """A figure's form. Of the many on a page one or two change from answer to answer: equal ones are written out once a process, and each
    time given a key of their own."""
    drawn = {"f": f, "action": context["action"], "may_change": context["member"].may_change, "bases": context["bases"], "key": _KEY}
    form = _piece("ui/field.html", tuple(drawn.items()))
    return mark_safe(form.replace(_KEY, token_hex(6), 1))  # noqa: S308  (written by the template above)


@register.simple_tag
def quantity(value: float, kind: str, system: str, decimals: int | None = None) -> str:
    """An SI value with its unit in the person's system."""
    return f"{show(value, QuantityKind(kind), UnitSystem(system), decimals)} {unit_symbol(QuantityKind(kind), UnitSystem(system))}".strip()


@register.simple_tag
def sign(name: str) -> SafeString:
    """The sign of a caution."""
    return mark_safe(f'<svg class="sign" viewBox="0 0 16 16" aria-hidden="true">{_SIGNS[name]}</svg>')  # noqa: S308  (signs of the registry)


@register.filter
def at(found: Mapping[int, str], key: int) -> str:
    """What stands in a mapping under a key."""
    return found.get(key, "")


@register.filter
def told(text: str, system: str) -> str:
    """A sentence of the core in the reader's units."""
    return wording.told(text, UnitSystem(system))


@register.simple_tag
def draw(drawn: Drawn, **told: object) -> SafeString:
    """A drawing that was laid out, written out; `told` is what its `shape` is told."""
    return shapes.written(drawn if isinstance(drawn, shapes.Shape) else drawn.shape(**told))


@register.simple_tag
def in_figures(drawn: Told, of: str) -> SafeString:
    """A drawing as a table, folded beside it; `of` names the drawing."""
    return _piece("ui/in_figures.html", (("table", drawn.figures()), ("of", of)))
