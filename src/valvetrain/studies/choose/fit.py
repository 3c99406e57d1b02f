"""What goes together: rules from a data file, each about two dimensions or two words of two parts, said by name."""

import csv
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from functools import cache
from pathlib import Path

import valvetrain
from valvetrain.parts.catalogue import FACTS, Owner
from valvetrain.parts.figure import Figure, FigureMap
from valvetrain.parts.record import PartRecord
from valvetrain.quantities import from_unit
from valvetrain.units import LENGTH, QuantityKind, amount

_FILE = Path(str(valvetrain.__path__[0])) / "data" / "fit_rules.csv"
_OWNERS = {"outer": Owner.SPRING, "inner": Owner.SPRING, "innermost": Owner.SPRING, "head": Owner.FIT}


class Fit(StrEnum):
    """What a rule says of two parts, best first."""

    FITS = "fits"
    UNTOLD = "not known"
    DOUBT = "in doubt"
    CLASH = "clashes"


@dataclass(frozen=True, kw_only=True)
class FitRule:
    """One rule. `left` and `right` name a part and what of it; the gap is right less left (`half` of it to each side), SI, from `low` to `high`;
    None leaves an end open. `pairs` are the words that do not go together."""

    id: str
    left: tuple[str, str]
    right: tuple[str, str]
    how: str
    low: float | None
    high: float | None
    kind: QuantityKind
    pairs: frozenset[tuple[str, str]]
    basis: str
    words: str

    @property
    def about(self) -> tuple[str, str]:
        """The two parts it is about."""
        return self.left[0], self.right[0]


@dataclass(frozen=True, kw_only=True)
class Finding:
    """What a rule found; the sentence holds amounts in SI."""

    rule: FitRule
    fit: Fit
    sentence: str


@cache
def fit_rules() -> tuple[FitRule, ...]:
    """The rules of the data file, in its order."""
    found = []
    with _FILE.open(encoding="utf-8", newline="") as file:
        for row in csv.DictReader(file):
            kind = QuantityKind.ANGLE if row["unit"] == "deg" else QuantityKind.LENGTH
            ends = (
                [from_unit(float(row[key]), kind, row["unit"]) if row[key] else None for key in ("low", "high")]
                if row["unit"]
                else [None] * 2
            )
            pairs = _pairs(row["low"]) if row["how"] == "not" else frozenset()
            left, right = (_named(row[key]) for key in ("left", "right"))
            found.append(
                FitRule(
                    id=row["id"], left=left, right=right, how=row["how"], low=ends[0], high=ends[1], kind=kind, pairs=pairs,
                    basis=row["basis"], words=row["words"],
                )
            )  # fmt: skip
    return tuple(found)


def _named(text: str) -> tuple[str, str]:
    part, _, what = text.partition(".")
    return part, what


def _pairs(text: str) -> frozenset[tuple[str, str]]:
    """`a/b c d/e` with blanks inside words: a slash parts the two, and a word of the catalogue ends where the next pair begins."""
    words: list[list[str]] = []
    for token in text.split(" "):
        if words and "/" not in words[-1][0] and "/" in token:
            words[-1][0] += " " + token
        else:
            words.append([token])
    return frozenset((pair[0].split("/")[0], pair[0].split("/")[1]) for pair in words)


def _derived(figures: FigureMap, what: str) -> Figure | None:
    """Across a spring from its wire and coils where nobody told it; the tip of a valve is its stem's where nobody told it."""
    if what in ("outside", "inside") and ("wire_diameter" in figures and "mean_diameter" in figures):
        mean, wire, sign = figures["mean_diameter"], figures["wire_diameter"], 1.0 if what == "outside" else -1.0
        told = figures.get("outer_across" if what == "outside" else "inner_across")
        return told or Figure(mean.value + sign * wire.value, mean.spread + wire.spread, mean.basis)
    if what == "outside":
        return figures.get("outside") or figures.get("outer_across")
    if what == "inside":
        return figures.get("inside") or figures.get("inner_across")
    if what == "stem":
        return figures.get("stem_diameter")
    if what == "tip_across":
        return figures.get("tip_diameter") or figures.get("stem_diameter")
    return figures.get(what)


def _word(part: PartRecord, owner: Owner, what: str) -> tuple[str, str]:
    """A word of a part as it is kept, and as a person reads it."""
    told = part.facts.get(what, "")
    fact = FACTS.get((Owner.ENGINE if owner is Owner.FIT else owner, what))
    return told, fact.choices.get(told, told) if fact and told else told


def judge_fit(rule: FitRule, left: PartRecord, right: PartRecord) -> Finding:
    """What one rule says of two parts."""
    if rule.how in ("same", "differ", "not"):
        a, a_words = _word(left, _owner(rule.left[0]), rule.left[1])
        b, b_words = _word(right, _owner(rule.right[0]), rule.right[1])
        if not a or not b:
            return Finding(rule=rule, fit=Fit.UNTOLD, sentence="")
        good = a == b if rule.how == "same" else a != b if rule.how == "differ" else (a, b) not in rule.pairs
        words = rule.words.format(left=left.name, right=right.name, a=a_words, b=b_words)
        return Finding(rule=rule, fit=Fit.FITS if good else Fit.CLASH, sentence="" if good else words)
    a_figure, b_figure = _derived(left.figures, rule.left[1]), _derived(right.figures, rule.right[1])
    if a_figure is None or b_figure is None:
        return Finding(rule=rule, fit=Fit.UNTOLD, sentence="")
    share = 0.5 if rule.how == "half" else 1.0
    gap, spread = (b_figure.value - a_figure.value) * share, (a_figure.spread + b_figure.spread) * share
    if rule.how == "equal":
        gap = abs(gap)
    low, high = rule.low if rule.how != "equal" else None, rule.high
    short = max(low - gap if low is not None else -1.0, gap - high if high is not None else -1.0)
    fit = Fit.FITS if short <= 1e-9 else Fit.DOUBT if short <= spread else Fit.CLASH
    if fit is Fit.FITS:
        return Finding(rule=rule, fit=fit, sentence="")
    kind, places = (QuantityKind.ANGLE, 1) if rule.kind is QuantityKind.ANGLE else (LENGTH, 2)
    told = lambda value: amount(value, kind, places)
    words = rule.words.format(
        left=left.name or f"the {rule.left[0]}", right=right.name or f"the {rule.right[0]}", a=told(a_figure.value), b=told(b_figure.value),
        gap=told(gap), low=told(rule.low or 0.0), high=told(rule.high or 0.0),
    )  # fmt: skip
    return Finding(rule=rule, fit=fit, sentence=words[:1].upper() + words[1:])


def _owner(part: str) -> Owner:
    return _OWNERS[part] if part in _OWNERS else Owner(part)


def findings_of(parts: Mapping[str, PartRecord]) -> tuple[Finding, ...]:
    """Every rule whose two parts are among `parts` (by the names of the data file: valve, keepers, outer, head ...), worst first."""
    there = dict(parts)
    if "innermost" not in there and "outer" in there:
        there["innermost"] = there.get("inner") or there["outer"]
    found = [
        judge_fit(rule, there[rule.left[0]], there[rule.right[0]]) for rule in fit_rules() if all(part in there for part in rule.about)
    ]
    return tuple(sorted(found, key=lambda each: -list(Fit).index(each.fit)))


def clash(rules: tuple[FitRule, ...], left: PartRecord, right: PartRecord) -> bool:
    """Whether any of the rules, all about these two parts, says that they cannot go together."""
    return any(judge_fit(rule, left, right).fit is Fit.CLASH for rule in rules)
