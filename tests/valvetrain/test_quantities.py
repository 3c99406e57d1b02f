"""Reading and printing what people type. Factors: NIST SP 811 appendix B (definitions)."""

import contextlib
import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from valvetrain.errors import QuantityError
from valvetrain.quantities import Kind, System, parse, plain, show

INCH = System.INCH


@pytest.mark.parametrize(
    ("text", "kind", "system", "si"),
    [
        ("0.15", Kind.LENGTH, System.METRIC, 0.15e-3),
        ("0,15 mm", Kind.LENGTH, System.METRIC, 0.15e-3),
        (".006", Kind.LENGTH, INCH, 0.1524e-3),
        ("6 thou", Kind.LENGTH, System.METRIC, 0.1524e-3),
        (".006 in", Kind.LENGTH, System.METRIC, 0.1524e-3),
        ('.006"', Kind.LENGTH, System.METRIC, 0.1524e-3),
        ("3/8 in", Kind.LENGTH, System.METRIC, 9.525e-3),
        ("1 1/2 in", Kind.LENGTH, System.METRIC, 38.1e-3),
        ("18 lb", Kind.FORCE, System.METRIC, 80.067989074689),
        ("18 kg", Kind.FORCE, System.METRIC, 176.5197),
        ("80 N", Kind.FORCE, INCH, 80.0),
        ("8.7 ft-lb", Kind.TORQUE, System.METRIC, 11.795616150483),
        ("12 Nm", Kind.TORQUE, INCH, 12.0),
        ("9 psi", Kind.PRESSURE, System.METRIC, 62052.815638515),
        ("0.6 bar", Kind.PRESSURE, INCH, 60000.0),
        ("8,400", Kind.SPEED, System.METRIC, 140.0),
        ("8400 rpm", Kind.SPEED, INCH, 140.0),
        ("12 600 rpm", Kind.SPEED, System.METRIC, 210.0),
        ("6 thousandths", Kind.LENGTH, System.METRIC, 0.1524e-3),
        ("6 mils", Kind.LENGTH, System.METRIC, 0.1524e-3),
        (".006''", Kind.LENGTH, System.METRIC, 0.1524e-3),
        ("12 N·m", Kind.TORQUE, INCH, 12.0),
        ("8.7 ft-lbs", Kind.TORQUE, System.METRIC, 11.795616150483),
        ("9psi", Kind.PRESSURE, System.METRIC, 62052.815638515),
        ("1 lbf/in", Kind.RATE, System.METRIC, 175.12683524647636),
        ("64 F", Kind.TEMPERATURE, System.METRIC, 290.92777777778),
        ("\N{MINUS SIGN}0.02", Kind.LENGTH, System.METRIC, -0.02e-3),
    ],
)
def test_reads_what_people_type(text: str, kind: Kind, system: System, si: float) -> None:
    typed = parse(text, kind, system)
    assert typed.value == pytest.approx(si, rel=1e-9)
    assert typed.text == text


@pytest.mark.parametrize(
    ("text", "kind", "part"),
    [
        ("", Kind.LENGTH, "Nothing is typed"),
        ("abc", Kind.LENGTH, "not a length"),
        ("nan", Kind.MASS, "not a mass"),
        ("inf", Kind.MASS, "not a mass"),
        ("1e999", Kind.LENGTH, "too large"),
        ("12 N", Kind.LENGTH, "not a unit of a length"),
        ("5 bananas", Kind.FORCE, "not a unit of a force"),
        ("0.15 0.20", Kind.LENGTH, "two numbers"),
        ("1,250", Kind.LENGTH, "1250 or 1.250"),
        ("1/0 in", Kind.LENGTH, "divides by zero"),
        ("9" * 50, Kind.SPEED, "too long"),
        ("8400 rad/s", Kind.SPEED, "not a unit of an engine speed"),
    ],
)
def test_refuses_nonsense_with_a_sentence_and_an_example(text: str, kind: Kind, part: str) -> None:
    with pytest.raises(QuantityError) as refused:
        parse(text, kind)
    assert part in str(refused.value)


@given(st.text(max_size=30), st.sampled_from(list(Kind)), st.sampled_from(list(System)))
def test_any_text_is_read_or_refused_but_never_breaks(text: str, kind: Kind, system: System) -> None:
    with contextlib.suppress(QuantityError):  # anything else that is raised fails the check
        assert math.isfinite(parse(text, kind, system).value)


@given(st.floats(1e-6, 0.5), st.sampled_from(list(System)))
def test_a_field_value_survives_the_round_trip(value: float, system: System) -> None:
    step = 0.5e-4 * (1e-3 if system is System.METRIC else 0.0254 / 10)
    assert parse(plain(value, Kind.LENGTH, system), Kind.LENGTH, system).value == pytest.approx(value, abs=step * 1.01)


def test_prints_the_way_the_trade_reads() -> None:
    assert show(0.152e-3, Kind.LENGTH, INCH) == ".0060"
    assert show(-0.5e-3, Kind.LENGTH) == "\N{MINUS SIGN}0.50"
    assert show(-1e-9, Kind.LENGTH) == "0.00"
    assert show(140.0, Kind.SPEED) == "8,400"
    assert show(10.0, Kind.TEMPERATURE, difference=True) == "10"
