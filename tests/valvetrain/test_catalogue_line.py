"""The catalogue line against force by hand; gaps in words."""

import math

import pytest

from tests.valvetrain.builders import known_build
from valvetrain.parts.engine import Side
from valvetrain.studies.springs.catalogue_line import catalogue_line, force_at
from valvetrain.studies.train.assembly import complete
from valvetrain.units import UnitSystem, told
from valvetrain.wording.gaps import clay_first, crank_words, least_gap_words


def test_the_line_is_what_the_spring_gives() -> None:
    """178 N at 37.2 mm, 38.4 N/mm, lift 9.25 less 0.25 mm: 178 + 9 x 38.4 = 523.6 N at 28.2 mm, solid at 26.1."""
    train = complete(known_build()).proposed.sides[Side.INTAKE]
    line = catalogue_line(train)
    assert (line.shut, line.seat) == (pytest.approx(37.2e-3), pytest.approx(178.0))
    assert (line.open, line.opened) == (pytest.approx(28.2e-3), pytest.approx(523.6))
    assert (line.rate, line.bind) == (pytest.approx(38400.0), pytest.approx(26.1e-3))
    assert force_at(train, 30e-3) == pytest.approx(178.0 + 7.2 * 38.4)


def test_crank_angles_read_as_a_builder_says_them() -> None:
    assert crank_words(math.radians(12.4)) == "12° after TDC"
    assert crank_words(math.radians(-9.6)) == "10° before TDC"
    assert crank_words(0.001) == "at TDC"


def test_the_clay_goes_where_least_is_left() -> None:
    said = told(clay_first([("exhaust", 2.1e-3, 0.4e-3, -0.19, "EX 1"), ("intake", 2.6e-3, 0.4e-3, 0.21, "")]), UnitSystem.INCH)
    assert said.index("EX 1") < said.index("intake")
    assert ".0827 in" in said
    assert "11° before TDC" in said
    assert "a guess" in least_gap_words("intake", 2e-3, 1e-3, 0.1, 1.5e-3, "estimate")
