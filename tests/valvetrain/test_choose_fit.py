"""Fit rules by table: for each rule a pair of parts that goes together, one that does not, and one that cannot be told."""

import math

import pytest

from valvetrain.parts.catalogue import FACTS, FIGURES, Owner
from valvetrain.parts.figure import Figure
from valvetrain.parts.record import PartRecord
from valvetrain.studies.choose.fit import Fit, findings_of, fit_rules, judge_fit
from valvetrain.units import UnitSystem, told

MM, DEG = 1e-3, math.radians(1.0)
# rule: (left, right) that fit, (left, right) that clash; numbers in mm or degrees, words as kept. By hand from the rule's own words.
TABLE: dict[str, tuple[tuple[object, object], tuple[object, object]]] = {
    "stem-guide": ((5.97, 6.0), (6.0, 6.0)), "stem-guide-part": ((5.97, 6.0), (5.85, 6.0)), "stem-keepers": ((6.0, 6.0), (5.5, 6.0)),
    "groove-keepers": (("round", "round"), ("square", "round")), "stem-retainer": ((6.0, 6.0), (6.0, 7.0)),
    "keepers-retainer-cone": ((7.0, 7.0), (7.0, 10.0)), "keepers-retainer-stem": ((6.0, 6.0), (5.5, 6.0)), "tip-retainer": ((2.0, 3.0), (2.0, 2.3)),
    "outer-step": ((19.0, 19.4), (19.0, 18.5)), "inner-step": ((12.0, 12.3), (12.0, 13.5)), "outer-edge": ((27.0, 27.0), (28.0, 27.0)),
    "nest": ((18.0, 18.8), (18.7, 18.8)), "nest-hand": (("left", "right"), ("left", "left")), "outer-pocket": ((27.0, 28.2), (27.5, 28.2)),
    "spring-locator": ((19.0, 19.4), (19.0, 20.5)), "spring-locator-part": ((19.0, 19.4), (19.6, 19.4)), "spring-seal": ((11.0, 12.0), (11.0, 11.3)),
    "spring-seal-part": ((11.0, 12.0), (11.6, 12.0)), "seat-seal": ((11.0, 11.5), (12.0, 11.5)), "seal-guide": ((10.8, 11.0), (10.2, 11.0)),
    "seal-stem": ((6.0, 6.0), (5.5, 6.0)), "retainer-casting": ((27.0, 29.0), (28.5, 29.0)), "retainer-bucket": ((27.0, 28.0), (27.6, 28.0)),
    "bucket-bore": ((32.96, 33.0), (32.99, 33.0)), "bucket-shim": ((29.0, 29.1), (29.0, 29.5)), "retainer-shim": ((9.5, 9.6), (9.5, 9.5)),
    "ground-for": (("flat", "flat"), ("roller", "flat")), "crown-turns": (("crowned", "turns"), ("straight", "turns")),
    "cam-face": (("billet", "coated"), ("billet", "hardened")), "feed": (("hole", "hole"), ("second", "hole")), "tip-hard": (("hardened", "pad"), ("soft", "pad")),
    "valve-seat": (("titanium 6-4", "copper"), ("titanium 6-4", "sintered")), "valve-insert": ((31.0, 33.0), (31.0, 31.5)),
    "valve-insert-head": ((31.0, 33.0), (32.5, 33.0)), "throat": ((28.0, 31.0), (30.5, 31.0)), "cap-tip": ((6.0, 6.05), (6.0, 6.0)),
    "valve-length": ((101.5, 101.6), (101.5, 103.0)), "arm-neighbour": ((18.0, 20.0), (19.5, 20.0)), "nose-tunnel": ((27.0, 28.0), (27.8, 28.0)),
    "cam-drive": (("bolted", "bolted"), ("pressed", "bolted")),
    "cap-depth": ((2.0, 2.6), (2.4, 2.6)),
}  # fmt: skip


def _part(part: str, what: str, value: object, unit: float) -> PartRecord:
    key = {"stem": "stem_diameter", "tip_across": "tip_diameter", "inside": "inner_across", "outside": "outer_across"}.get(what, what)
    if part == "follower" and what in ("inside", "outside"):
        key = what
    if isinstance(value, str):
        return PartRecord(part, {}, {what: value})
    return PartRecord(part, {key: Figure(float(value) * unit)})  # type: ignore[arg-type]


@pytest.mark.parametrize("rule", fit_rules(), ids=lambda rule: rule.id)
def test_each_rule_knows_a_pair_that_fits_one_that_clashes_and_one_untold(rule: object) -> None:
    assert rule.id in TABLE, f"no case for {rule.id}"  # type: ignore[attr-defined]
    found = next(each for each in fit_rules() if each is rule)
    unit = DEG if "cone" in found.id else MM
    for pair, fit in zip(TABLE[found.id], (Fit.FITS, Fit.CLASH), strict=True):
        left, right = (
            _part(part, what, value, unit) for (part, what), value in zip((found.left, found.right), pair, strict=True)
        )  # fmt: skip
        got = judge_fit(found, left, right)
        assert got.fit is fit, (found.id, pair, got)
        assert bool(got.sentence) is (fit is Fit.CLASH)
        assert judge_fit(found, left, PartRecord("other")).fit is Fit.UNTOLD
    # both dimensions are named, in the reader's units
    words = told(got.sentence, UnitSystem.METRIC)
    assert "{" not in words
    assert (" mm" in words or "°" in words or " deg" in words) is not isinstance(pair[0], str), words


def test_every_side_of_a_rule_is_a_figure_or_a_word_that_can_be_told() -> None:
    derived = {"stem", "inside", "outside", "tip_across"}
    owners = {"outer": Owner.SPRING, "inner": Owner.SPRING, "innermost": Owner.SPRING, "head": Owner.FIT}
    for rule in fit_rules():
        for part, what in (rule.left, rule.right):
            owner = owners[part] if part in owners else Owner(part)
            told_somewhere = (owner, what) in FIGURES or (owner, what) in FACTS or (Owner.ENGINE, what) in FACTS
            assert told_somewhere or what in derived, (rule.id, part, what)


def test_a_gap_within_the_doubt_of_its_dimensions_is_no_clash() -> None:
    rule = next(each for each in fit_rules() if each.id == "outer-step")
    step = PartRecord("retainer", {"step_outer": Figure(19.0 * MM, 0.05 * MM)})
    spring = PartRecord("spring", {"wire_diameter": Figure(4.0 * MM, 0.02 * MM), "mean_diameter": Figure(22.92 * MM, 0.05 * MM)})
    assert judge_fit(rule, step, spring).fit is Fit.DOUBT  # 18.92 inside over 19.0, each unsure by some hundredths
    assert judge_fit(rule, PartRecord("r", {"step_outer": Figure(19.3 * MM)}), spring).fit is Fit.CLASH


def test_the_innermost_spring_is_what_stands_nearest_to_the_seal() -> None:
    head = PartRecord("the head", {"seal_across": Figure(11.0 * MM)})
    outer, inner = (PartRecord(name, {"inner_across": Figure(across * MM)}) for name, across in (("outer", 18.0), ("inner", 11.2)))
    alone = findings_of({"outer": outer, "head": head})
    both = findings_of({"outer": outer, "inner": inner, "head": head})
    assert not [each for each in alone if each.fit is Fit.CLASH]
    assert [each.rule.id for each in both if each.fit is Fit.CLASH] == ["spring-seal"]
