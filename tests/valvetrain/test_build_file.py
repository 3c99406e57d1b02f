"""The open build file and the command line."""

import json
from dataclasses import replace
from pathlib import Path

import jsonschema
import pytest

from tests.valvetrain.builders import known_build
from valvetrain.__main__ import main
from valvetrain.errors import BuildFileError
from valvetrain.formats import build_file

DEMO = Path(build_file.__file__).parents[2] / "rocklash/demo/builds"


@pytest.mark.parametrize("path", sorted(DEMO.glob("*.json")), ids=lambda path: path.stem)
def test_demo_files_are_valid_and_survive_the_round_trip(path: Path) -> None:
    text = path.read_text(encoding="utf-8")
    jsonschema.validate(json.loads(text), build_file.schema())
    record = build_file.read(text)
    assert build_file.read(build_file.write(record)) == build_file.read(build_file.write(build_file.read(build_file.write(record))))


def test_round_trip_keeps_every_figure() -> None:
    record = known_build(boost=0.6e5)
    again = build_file.read(build_file.write(record))
    assert again.goal["boost"].value == pytest.approx(0.6e5)
    assert again.stock.keys() == record.stock.keys()
    assert again.positions == record.positions
    assert again.kind == record.kind


def _demo() -> dict[str, object]:
    return json.loads((DEMO / "petrel_1498.json").read_text(encoding="utf-8"))


def _broken(path: list[str], value: object) -> str:
    document = _demo()
    place: dict[str, object] = document
    for step in path[:-1]:
        place = place[step]  # type: ignore[assignment]
    place[path[-1]] = value
    return json.dumps(document)


@pytest.mark.parametrize(
    ("text", "part"),
    [
        ("", "not JSON: line 1"),
        ("{", "not JSON: line 1"),
        ("[" * 100000, "nested too deeply|not JSON"),
        ('{"format": "rocklash.build/9"}', "format"),
        (_broken(["engine", "cylinders"], 40), "engine.cylinders"),
        (_broken(["engine", "follower"], "tappet"), "does not go with dohc"),
        (_broken(["engine", "figures", "bore"], {"value": 96, "unit": "kg"}), "engine.figures.bore"),
        (_broken(["engine", "figures", "bore"], {"value": 96, "unit": "m"}), "lies between 20.00 and 200.00 mm"),
        (_broken(["engine", "figures", "bore"], {"value": float("nan"), "unit": "mm"}), "engine.figures.bore"),
        (_broken(["engine", "figures", "colour"], {"value": 1}), "colour is not a figure of engine"),
        (_broken(["surprise"], 1), "surprise"),
        ("x" * 2_000_001, "too large"),
    ],
)
def test_bad_files_are_refused_with_place_and_trouble(text: str, part: str) -> None:
    with pytest.raises(BuildFileError, match=part):
        build_file.read(text)


def test_assess_from_a_shell(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    assert main(["assess", str(DEMO / "petrel_1498.json")]) == 0
    said = capsys.readouterr().out
    assert "Petrel 1498, proposed: Does not hold the goal yet." in said
    assert "Measure next:" in said
    bad = tmp_path / "bad.json"
    bad.write_text("no", encoding="utf-8")
    assert main(["assess", str(bad)]) == 2
    assert "not JSON" in capsys.readouterr().err
    assert main(["assess", str(tmp_path / "none.json")]) == 2
    assert main(["schema"]) == 0
    assert json.loads(capsys.readouterr().out.split("\n", 0)[0])["title"] == build_file.FORMAT


def test_inch_units_from_a_shell(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["assess", str(DEMO / "petrel_1498.json"), "--units", "inch", "--setup", "stock"]) == 0
    said = capsys.readouterr().out
    assert "lbf" in said
    assert " N " not in said


def test_a_part_is_told_from_its_figures() -> None:
    record = known_build()
    named = replace(record, name="é ü “quoted”")
    assert build_file.read(build_file.write(named)).name == "é ü “quoted”"
