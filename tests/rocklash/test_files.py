"""Files in and out: one door, one mapping, one writer, whatever somebody sends."""

import csv
import io
import re
import time
import tomllib
from pathlib import Path

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from openpyxl import load_workbook

import rocklash
from rocklash.records.models import Build, Membership, Position, Reading
from tests.rocklash.conftest import address, client_for
from valvetrain.errors import QuantityError
from valvetrain.formats.table_out import as_csv, as_workbook
from valvetrain.quantities import parse
from valvetrain.units import QuantityKind

EVIL = ["=1+1", "+1+cmd", "-1+1", "@SUM(A1)", "\t=1", "\r=1", '=HYPERLINK("x")', "＝1+1"]


@pytest.mark.parametrize("cell", EVIL)
def test_no_cell_from_a_person_is_a_formula(cell: str) -> None:
    """OWASP's list of what a spreadsheet takes for a formula (CSV injection): equals, plus, minus, at, tab, carriage return."""
    (back,) = next(csv.reader(io.StringIO(as_csv([[cell]]), newline="")))
    assert back.startswith("'")
    sheet = load_workbook(io.BytesIO(as_workbook("x", [[cell, "EX 1", 0.25]]))).active
    assert sheet is not None
    assert [each.data_type for each in sheet[1]] == ["s", "s", "n"]


@pytest.mark.parametrize("number", ["-0.25", "+3", "-1e5", "0.12"])
def test_a_number_stays_as_it_is_typed(number: str) -> None:
    assert as_csv([[number]]) == f"{number}\n"


def test_an_engine_with_an_evil_name_leaves_as_text(petrel: Build, builder: Membership) -> None:
    Build.objects.filter(pk=petrel.pk).update(name="=cmd|' /C calc'!A0")
    Position.objects.filter(pk=petrel.engine.positions.first().pk).update(name="=2+3")  # type: ignore[union-attr]
    client = client_for(builder)
    book = load_workbook(io.BytesIO(client.get(address(petrel, "lash/sheet.xlsx")).content)).active
    assert book is not None
    assert book["A1"].data_type == "s"
    assert "'=2+3" in client.get(address(petrel, "lash/sheet.csv")).content.decode()


@pytest.mark.parametrize(
    ("raw", "said"),
    [
        (b"valve;goes\rEX 1 fore;0.23\rEX 1 aft;0.24\r", "2 readings"),  # an old spreadsheet's line ends
        ("valve;goes\nEX 1 fore;0,23\n".encode("utf-16"), "1 readings"),
        ("valve;goes\nEX 1 fore;0.23\n".encode("utf-8-sig"), "1 readings"),
        (b"valve;goes\nEX 1 fore;0.23\x00\n", "not text"),
        (b'valve;goes\n"EX 1 fore;0.23\n', "is no valve of this engine"),
        (b"valve;goes\n" + b"x" * 500 + b";0.2\n", "Row 2: a cell holds more than 200"),
        (b"valve;goes\n" + b"EX;0.2\n" * 500, "rows are more than"),
        (b"x" * 300_000, "larger than 0.2 MB"),
        (b"PK\x03\x04 zip", "packed or binary"),
        (b"valve;goes\nEX 1 fore;0.2 9**9**9\n", "holds two numbers"),
        (b"valve;goes\nEX 1 fore;0.2 kg**9**9\n", "not a unit"),
    ],
)
def test_whatever_is_sent_gets_a_sentence_within_a_second(petrel: Build, builder: Membership, raw: bytes, said: str) -> None:
    begun = time.monotonic()
    answer = client_for(builder).post(address(petrel, "lash/in/"), {"file": SimpleUploadedFile("x.csv", raw)})
    assert time.monotonic() - begun < 2.0
    assert said in answer.content.decode()
    assert not Reading.objects.exists()


@pytest.mark.parametrize("unit", ["9**9**9", "mm**9**9", "lambda: 1", "__import__('os')", "kg*m**2**3**4"])
def test_a_unit_from_outside_is_looked_up_never_run(unit: str) -> None:
    begun = time.perf_counter()
    with pytest.raises(QuantityError, match=r"not a unit|two numbers"):
        parse(f"3 {unit}", QuantityKind.LENGTH)
    assert time.perf_counter() - begun < 0.01


def test_a_kept_field_travels_in_fifteen_kilobytes(petrel: Build, builder: Membership) -> None:
    answer = client_for(builder, htmx=True).get(address(petrel, "springs/") + "?side=exhaust", headers={"Accept-Encoding": "gzip"})
    assert answer["Content-Encoding"] == "gzip"
    assert len(answer.content) < 15_000


def test_every_setting_stands_in_the_reference() -> None:
    root = Path(__file__).resolve().parents[2]
    settings = "".join(path.read_text(encoding="utf-8") for path in (root / "src/rocklash/config/settings").glob("*.py"))
    told = (root / "docs/settings.md").read_text(encoding="utf-8")
    asked = set(re.findall(r'env(?:\.\w+)?\("(\w+)"', settings))
    assert asked
    assert all(f"`{name}`" in told for name in asked)


def test_the_version_is_one_and_stands_on_every_page(petrel: Build, builder: Membership) -> None:
    root = Path(__file__).resolve().parents[2]
    assert tomllib.loads((root / "pyproject.toml").read_text(encoding="utf-8"))["project"]["version"] == rocklash.__version__
    assert f"Rock Lash {rocklash.__version__}" in client_for(builder).get(address(petrel)).content.decode()
