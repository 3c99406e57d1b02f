"""Reading and printing what people type. Factors: NIST SP 811 appendix B (definitions)."""

import contextlib
import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from valvetrain.errors import QuantityError
from valvetrain.quantities import parse, plain
from valvetrain.units import QuantityKind, UnitSystem, show

INCH = UnitSystem.INCH


@pytest.mark.parametrize(
    ("text", "kind", "system", "si"),
    [
        ("0.15", QuantityKind.LENGTH, UnitSystem.METRIC, 0.15e-3),
        ("0,15 mm", QuantityKind.LENGTH, UnitSystem.METRIC, 0.15e-3),
        (".006", QuantityKind.LENGTH, INCH, 0.1524e-3),
        ("6 thou", QuantityKind.LENGTH, UnitSystem.METRIC, 0.1524e-3),
        (".006 in", QuantityKind.LENGTH, UnitSystem.METRIC, 0.1524e-3),
        ('.006"', QuantityKind.LENGTH, UnitSystem.METRIC, 0.1524e-3),
        ("3/8 in", QuantityKind.LENGTH, UnitSystem.METRIC, 9.525e-3),
        ("1 1/2 in", QuantityKind.LENGTH, UnitSystem.METRIC, 38.1e-3),
        ("18 lb", QuantityKind.FORCE, UnitSystem.METRIC, 80.067989074689),
        ("18 kg", QuantityKind.FORCE, UnitSystem.METRIC, 176.5197),
        ("80 N", QuantityKind.FORCE, INCH, 80.0),
        ("8.7 ft-lb", QuantityKind.TORQUE, UnitSystem.METRIC, 11.795616150483),
        ("12 Nm", QuantityKind.TORQUE, INCH, 12.0),
        ("9 psi", QuantityKind.PRESSURE, UnitSystem.METRIC, 62052.815638515),
        ("0.6 bar", QuantityKind.PRESSURE, INCH, 60000.0),
        ("8,400", QuantityKind.SPEED, UnitSystem.METRIC, 140.0),
        ("8400 rpm", QuantityKind.SPEED, INCH, 140.0),
        ("12 600 rpm", QuantityKind.SPEED, UnitSystem.METRIC, 210.0),
        ("6 thousandths", QuantityKind.LENGTH, UnitSystem.METRIC, 0.1524e-3),
        ("6 mils", QuantityKind.LENGTH, UnitSystem.METRIC, 0.1524e-3),
        (".006''", QuantityKind.LENGTH, UnitSystem.METRIC, 0.1524e-3),
        ("12 N·m", QuantityKind.TORQUE, INCH, 12.0),
        ("8.7 ft-lbs", QuantityKind.TORQUE, UnitSystem.METRIC, 11.795616150483),
        ("9psi", QuantityKind.PRESSURE, UnitSystem.METRIC, 62052.815638515),
        ("1 lbf/in", QuantityKind.RATE, UnitSystem.METRIC, 175.12683524647636),
        ("64 F", QuantityKind.TEMPERATURE, UnitSystem.METRIC, 290.92777777778),
        ("\N{MINUS SIGN}0.02", QuantityKind.LENGTH, UnitSystem.METRIC, -0.02e-3),
    ],
)
def test_reads_what_people_type(text: str, kind: QuantityKind, system: UnitSystem, si: float) -> None:
    typed = parse(text, kind, system)
    assert typed.value == pytest.approx(si, rel=1e-9)
    assert typed.text == text


@pytest.mark.parametrize(
    ("text", "kind", "part"),
    [
        ("", QuantityKind.LENGTH, "Nothing is typed"),
        ("abc", QuantityKind.LENGTH, "not a length"),
        ("nan", QuantityKind.MASS, "not a mass"),
        ("inf", QuantityKind.MASS, "not a mass"),
        ("1e999", QuantityKind.LENGTH, "too large"),
        ("12 N", QuantityKind.LENGTH, "not a unit of a length"),
        ("5 bananas", QuantityKind.FORCE, "not a unit of a force"),
        ("0.15 0.20", QuantityKind.LENGTH, "two numbers"),
        ("1,250", QuantityKind.LENGTH, "1250 or 1.250"),
        ("1/0 in", QuantityKind.LENGTH, "divides by zero"),
        ("9" * 50, QuantityKind.SPEED, "too long"),
        ("8400 rad/s", QuantityKind.SPEED, "not a unit of an engine speed"),
    ],
)
def test_refuses_nonsense_with_a_sentence_and_an_example(text: str, kind: QuantityKind, part: str) -> None:
    with pytest.raises(QuantityError) as refused:
        parse(text, kind)
    assert part in str(refused.value)


@given(st.text(max_size=30), st.sampled_from(list(QuantityKind)), st.sampled_from(list(UnitSystem)))
def test_any_text_is_read_or_refused_but_never_breaks(text: str, kind: QuantityKind, system: UnitSystem) -> None:
    with contextlib.suppress(QuantityError):  # anything else that is raised fails the check
        assert math.isfinite(parse(text, kind, system).value)


@given(st.floats(1e-6, 0.5), st.sampled_from(list(UnitSystem)))
def test_a_field_value_survives_the_round_trip(value: float, system: UnitSystem) -> None:
    step = 0.5e-4 * (1e-3 if system is UnitSystem.METRIC else 0.0254 / 10)
    assert parse(plain(value, QuantityKind.LENGTH, system), QuantityKind.LENGTH, system).value == pytest.approx(value, abs=step * 1.01)


def test_prints_the_way_the_trade_reads() -> None:
    assert show(0.152e-3, QuantityKind.LENGTH, INCH) == ".0060"
    assert show(-0.5e-3, QuantityKind.LENGTH) == "\N{MINUS SIGN}0.50"
    assert show(-1e-9, QuantityKind.LENGTH) == "0.00"
    assert show(140.0, QuantityKind.SPEED) == "8,400"
    assert show(10.0, QuantityKind.TEMPERATURE, difference=True) == "10"
