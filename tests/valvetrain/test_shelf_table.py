"""Tables of parts: mapped by their headings, refused by row and column, and the same after a way out and in again."""

import io
import time

import pytest
from openpyxl import Workbook

from valvetrain.errors import BuildFileError
from valvetrain.formats.shelf_table import cells_of, columns_of, read_shelf, shelf_rows
from valvetrain.formats.table_out import as_csv, as_workbook
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.figure import Basis
from valvetrain.units import UnitSystem

GOOD = """Part;Type;Price;Days;Sold by;Seat load (lb);Rate [lb/in];Wire, mm;Wound;Bin
Blue heron 70;spring;34,50;12;6;58.4;214;4,1;left;B2
Plain seal;stem seal;4;3;8;;;;;
"""


def test_headings_are_understood_with_their_units() -> None:
    found = {column.heading: (column.target, column.unit) for column in columns_of(cells_of(GOOD.encode())[0][1])}
    assert found["Part"] == ("name", "")
    assert found["Seat load (lb)"] == ("figure:seat_load", "lb")
    assert found["Rate [lb/in]"] == ("figure:rate", "lb/in")
    assert found["Wire, mm"] == ("figure:wire_diameter", "mm")
    assert found["Wound"] == ("fact:hand", "")
    assert [column.target for column in columns_of(["odd", "part no"], {0: "name"})] == ["name", "number"]


def test_a_table_is_read_in_its_own_units() -> None:
    """By hand: 58.4 lbf are 259.8 N, 214 lbf/in are 37.48 N/mm."""
    table = read_shelf(cells_of(GOOD.encode()))
    assert not table.troubles
    spring, seal = table.rows
    assert spring.figures["seat_load"].value == pytest.approx(259.776, abs=1e-3)
    assert spring.figures["rate"].value == pytest.approx(214 * 175.126835, rel=1e-6)
    assert spring.figures["wire_diameter"].value == pytest.approx(4.1e-3)
    assert (str(spring.fields["price"]), spring.fields["lead_days"], spring.facts["hand"]) == ("34.50", 12, "left")
    assert (seal.kind, seal.fields["pack"], dict(seal.figures)) == (Owner.SEAL, 8, {})
    inches = read_shelf(cells_of(b"name,kind,wire\nA,spring,0.16\n"), system=UnitSystem.INCH)
    assert inches.rows[0].figures["wire_diameter"].value == pytest.approx(4.064e-3)


@pytest.mark.parametrize(
    "text, trouble",
    [
        ("name,kind,rate\nA,sprung,30\n", "Row 2, kind: “sprung” is no kind of part"),
        ("name,kind,rate\n,spring,30\n", "Row 2, name: a part needs one"),
        ("name,kind,rate\nA,spring,3000\n", "Row 2, rate: Rate: 3000.0 N/mm cannot be"),
        ("name,kind,rate\nA,spring,stiff\n", "Row 2, rate:"),
        ("name,kind,rate\nA,spring,30\nA,spring,31\n", "Row 3, name: “A” is in row 2 already"),
        ("name,kind,rate\nA,guide,30\n", "Row 2, rate: a guide has no such figure"),
        ("name,kind,price\nA,guide,cheap\n", "Row 2, price: “cheap” is no price"),
        ("name,kind,pack\nA,seal,0\n", "Row 2, pack: 0 cannot be; it is a whole number from 1"),
        ("name,kind,wound\nA,spring,upwards\n", "Row 2, wound: “upwards” is not one of"),
        ("name,kind,known by\nA,spring,hearsay\n", "Row 2, known by: “hearsay” is no way to know"),
        ("name,kind,solid height,load height\nA,spring,36,34\n", "Row 2: solid height is not below height of that load"),
        ("name,kind,mass,mass g\nA,valve,30,31\n", "Two columns are mass"),
        ("name,kind,side\nA,valve,top\n", "Row 2, side: “top” is no side"),
    ],
)  # fmt: skip
def test_what_is_wrong_names_row_and_column(text: str, trouble: str) -> None:
    found = read_shelf(cells_of(text.encode()))
    assert any(trouble in each for each in found.troubles), found.troubles


def test_a_file_that_is_none_is_told() -> None:
    for raw, words in ((b"PK\x03\x04 not a book", "cannot be read"), (b"", "empty"), (b"a,b\n1,2\n", "No column is the part's name")):
        with pytest.raises(BuildFileError, match=words):
            read_shelf(cells_of(raw))


def test_out_and_in_again_is_the_same_as_csv_and_as_workbook() -> None:
    table = read_shelf(cells_of(GOOD.replace("Bin", "Bin;Mass").replace("B2", "B2;45.9 ± 0.2").encode()))
    rows = shelf_rows((row.kind, row.fields, row.figures, row.facts) for row in table.rows)
    for raw in (as_csv(rows).encode(), as_workbook("Shelf", rows)):
        again = read_shelf(cells_of(raw))
        assert not again.troubles
        for one, other in zip(table.rows, again.rows, strict=True):
            assert dict(one.fields) == {key: value for key, value in other.fields.items() if value != ""} | {
                key: value for key, value in one.fields.items() if value == ""
            }
            assert dict(one.facts) == dict(other.facts)
            for key, figure in one.figures.items():
                assert other.figures[key].value == pytest.approx(figure.value, rel=1e-8)
                assert other.figures[key].spread == pytest.approx(figure.spread, rel=1e-3)
                assert other.figures[key].basis is figure.basis is Basis.CARD


def test_five_thousand_rows_are_read_within_three_seconds() -> None:
    head = "name,kind,price,rate [N/mm],solid height [mm],mass [g],wire [mm],coil [mm],hand\n"
    text = head + "".join(f"S{n},spring,{n % 90},{20 + n % 30},{20 + n % 7},{40 + n % 9},4,23,left\n" for n in range(5000))
    began = time.process_time()
    assert len(read_shelf(cells_of(text.encode())).rows) == 5000
    assert time.process_time() - began < 4.0


def test_a_workbook_made_elsewhere_is_read() -> None:
    book = Workbook()
    book.active.append(["Name", "Kind", "Mass (g)", "Qty"])  # type: ignore[union-attr]
    book.active.append(["Light one", "retainer", 7.4, 12])  # type: ignore[union-attr]
    out = io.BytesIO()
    book.save(out)
    row = read_shelf(cells_of(out.getvalue())).rows[0]
    assert (row.kind, row.fields["quantity"], row.figures["mass"].value) == (Owner.RETAINER, 12, pytest.approx(7.4e-3))
