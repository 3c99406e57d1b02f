"""The demo, its placeholders and the documentation are invented throughout: check values of the trade stand in tests only."""

import json
import re
from pathlib import Path

import pytest

from rocklash.demo import load

ROOT = Path(__file__).resolve().parents[2]
DEMO = Path(load.__file__).parent
# Common practice, no source: figures that practitioners gave, by what they were given of
TRADE = {
    "limiter": {5200, 8000, 10000},
    "goal_rpm": {5600, 9000},
    "over_rev": {9200, 4500},
    "chain_pins": {15},
    "peak": {9200},
    "seat_load": {18},
    "load": {18},
}
WORDS = re.compile(
    r"(?<![\d,.])(5,?200|5,?600|9,?200|12,?000) ?rpm|\b18 lb\b|\b15 (chain )?pins|placeholder=\"(9,200|1\.450|1\.933|1\.550)\"|4\.5 mm of squish"
)
TEXTS = [
    *ROOT.glob("src/rocklash/**/*.html"),
    *ROOT.glob("docs/*.md"),
    ROOT / "README.md",
    *(ROOT / "src/rocklash").glob("**/*.py"),
    ROOT / "src/valvetrain/quantities.py",
]


def _figures(node: object, key: str = "") -> list[tuple[str, float]]:
    if isinstance(node, dict):
        own = [(key, float(node["value"]))] if isinstance(node.get("value"), int | float) else []
        return own + [pair for name, below in node.items() for pair in _figures(below, name)]
    return [pair for below in node for pair in _figures(below, key)] if isinstance(node, list) else []


@pytest.mark.parametrize("path", sorted(DEMO.glob("builds/*.json")), ids=lambda path: path.stem)
def test_no_demo_figure_is_a_check_value_of_the_trade(path: Path) -> None:
    figures = _figures(json.loads(path.read_text(encoding="utf-8")))
    assert len(figures) > 20
    assert not [(key, value) for key, value in figures if value in TRADE.get(key, set())]


@pytest.mark.parametrize("path", TEXTS, ids=lambda path: str(path.relative_to(ROOT)))
def test_no_page_or_paper_repeats_one(path: Path) -> None:
    assert not WORDS.findall(path.read_text(encoding="utf-8"))


def test_the_check_can_fail() -> None:
    assert WORDS.findall("springs marked 18 lb hold 5,600 rpm")
