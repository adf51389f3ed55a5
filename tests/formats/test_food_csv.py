"""Foods as CSV: what is written reads back the same, whatever a spreadsheet did to it, and bad rows say why."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from goodcrate.core.foods.food import Food
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.formats.csv_table import LARGEST_FILE_BYTES, decode_file
from goodcrate.formats.food_csv import COLUMNS, read_foods, write_foods
from goodcrate.formats.reference import reference_foods
from goodcrate.settings import CHECKOUT

FOODS = list(reference_foods().values())
PRICED = replace(FOODS[0], price=3.4, serving_g=125.0, barcode="2319425008132")


def same(read: Food, given: Food) -> bool:
    """Equal but for the key, which a file keeps beside the food."""
    return replace(read, key=given.key) == given


def test_every_typical_food_survives_the_way_out_and_in() -> None:
    rows = list(read_foods(write_foods([*FOODS[1:], PRICED])))
    assert [row.faults for row in rows if row.faults] == []
    for row, food in zip(rows, [*FOODS[1:], PRICED], strict=True):
        assert row.food is not None
        assert row.given_key == food.key
        assert same(row.food, food), food.key


@given(st.text(st.characters(exclude_categories=["C"]), min_size=1, max_size=60).map(str.strip).filter(bool))
def test_no_name_or_note_breaks_the_file_or_runs_as_a_formula(text: str) -> None:
    odd = replace(PRICED, name=text, note=f"={text}")
    written = write_foods([odd])
    assert not any(cell.startswith(("=", "+", "@")) for cell in written.splitlines()[-1].split(","))
    (row,) = read_foods(written)
    assert row.food is not None
    assert (row.food.name, row.food.note) == (text[:160], f"={text}")


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "cp1252"])
@pytest.mark.parametrize("delimiter", [",", ";", "\t"])
def test_spreadsheets_encodings_and_separators(encoding: str, delimiter: str) -> None:
    lines = ["name;kcal;protein_g;allergens", 'Käse aus der Schleuse;350;"25,5";milk|sulphites']
    data = "\r\n".join(line.replace(";", delimiter) for line in lines).encode(encoding)
    decoded = decode_file(data)
    assert bool(decoded.notice) is (encoding == "cp1252")
    (row,) = read_foods(decoded.text)
    assert row.food is not None
    assert row.food.name == "Käse aus der Schleuse"
    assert row.food.composition.get("protein_g") == 25.5
    assert row.food.allergens == {"milk", "sulphites"}


@pytest.mark.parametrize(
    ("cells", "field", "says"),
    [
        ("Beans,80,130,1,legume", "protein_g", "131 g in 100 g"),
        ("Beans,80,-3,1,legume", "protein_g", "not possible"),
        ("Beans,eighty,3,1,legume", "energy_kcal", "not a number"),
        ('Beans,80,"1,500",1,legume', "protein_g", "two ways"),
        ("Beans,1500,3,1,legume", "energy_kcal", "more than pure fat"),
        (",80,3,1,legume", "name", "no name"),
        ("Beans,,,,legume", "energy_kcal", "no figure"),
        ("Beans,80,3,1,furniture", "group", "no group"),
        ("Beans,80,12,5,1,legume", "row", "decimal comma"),
    ],
)
def test_a_bad_row_says_why_and_blocks_nobody(cells: str, field: str, says: str) -> None:
    rows = list(read_foods(f"name,kcal,protein_g,fat_g,group\n{cells}\nOats,375,13,7,grain\n"))
    assert [row.food is None for row in rows] == [True, False]
    assert rows[0].line == 2
    assert field in [fault.field for fault in rows[0].faults]
    assert says in " ".join(fault.message for fault in rows[0].faults)


def test_a_row_whose_energy_does_not_add_up_is_taken_and_queried() -> None:
    (row,) = read_foods("name,kcal,protein_g,fat_g,carbohydrate_g\nOats,175,13,7,60\n")
    assert row.food is not None
    assert "give 355 kcal" in row.queries[0]


def test_other_ways_to_give_a_figure() -> None:
    header = "name,energy_kj,salt_g,available_carbohydrate_g,fibre_g,protein_g,fat_g"
    (row,) = read_foods(f"{header}\nBread,1004,1.05,43.2,6.1,8.4,2.6\n")
    assert row.food is not None
    figures = row.food.composition
    assert figures.get("energy_kcal") == pytest.approx(239.96, abs=0.01)
    assert figures.get("sodium_mg") == pytest.approx(420)
    assert figures.get("carbohydrate_g") == pytest.approx(49.3)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("a,b,c\n1,2,3\n", "no column “name”"),
        ("name,group\nOats,grain\n", "No column holds a figure"),
        ("name,kcal,colour\nOats,3,red\n", "Unknown columns: colour"),
        ("name,kcal,kcal\nOats,3,3\n", "twice"),
        ('name,kcal\n"Oats,3\n' + "x" * 140_000, "unclosed quote"),
    ],
)
def test_a_file_that_is_no_food_table_says_so(text: str, says: str) -> None:
    with pytest.raises(InvalidInput, match=says):
        list(read_foods(text))


@pytest.mark.parametrize(
    ("data", "encoding", "field", "says"),
    [
        (b"", "auto", "file", "empty"),
        (b"x" * (LARGEST_FILE_BYTES + 1), "auto", "file", "8 MB is too large"),
        (b"name\x00kcal", "auto", "file", "no text file"),
        ("name\nKäse".encode("cp1252"), "utf-8", "encoding", "Line 2 is not UTF-8"),
        (b"name", "klingon", "encoding", "no encoding"),
    ],
)
def test_files_that_cannot_be_read_are_refused(data: bytes, encoding: str, field: str, says: str) -> None:
    with pytest.raises(InvalidInput, match=says) as caught:
        decode_file(data, encoding)
    assert caught.value.field == field


def test_the_manual_names_every_column() -> None:
    manual = (CHECKOUT / "docs" / "foods-csv.md").read_text()
    assert [column for column in COLUMNS if f"`{column}`" not in manual] == []
