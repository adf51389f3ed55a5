"""`docs/worked-example.md`, reckoned once more from plain numbers, against what the pages of the demo show."""

import re

import pytest

from goodcrate.formats.reference import read_table
from goodcrate.services.calling import Caller
from goodcrate.services.week import weeks
from goodcrate.settings import CHECKOUT
from tests.conftest import MONDAY, Cook, text_of

KCAL = {
    row["key"]: float(row["kcal"])
    for name in ("foods-animal.csv", "foods-produce.csv", "foods-staples.csv")
    for row in read_table(name)
}
PAGE = (CHECKOUT / "docs" / "worked-example.md").read_text()


def share_of_recipe(lines: str, recipe_servings: float, mine: float) -> float:
    """kcal in one box of a batch nobody has cooked yet, by hand: its share of the recipe as it is written."""
    pairs = [part.split() for part in lines.split(",")]
    return sum(float(g) * KCAL[key] / 100 for key, g in pairs) * mine / recipe_servings


RYE = "rye_flakes_dry 180, milk_semi_skimmed 480, yoghurt_strained_0 300, plum_raw 300, sunflower_seeds 36"
MACKEREL = (
    "mackerel_smoked 360",
    "pearl_barley_dry 220, beetroot_raw 640, spring_onion_raw 40, rapeseed_oil 18",
    "yoghurt_strained_0 200, horseradish_cream 30, dill_fresh 6",
)
RHUBARB = ("quark 600, rhubarb_raw 350, honey 45", "rolled_oats_dry 90")

SERVING_KCAL = (1200 * 1.14 + 900 * 0.25 + 200 * 0.40 + 8 * 3.33 + 40 * 8.99 + 800 * 0.37 + 300 * 0.77 + 40 * 7.45) / 6
SERVING_PROTEIN = (1200 * 0.208 + 900 * 0.013 + 200 * 0.011 + 8 * 0.198 + 800 * 0.011 + 300 * 0.02 + 40 * 0.006) / 6
POT_KCAL = 820 * 1.14 + 604 * 0.25 + 135 * 0.40 + 5 * 3.33 + 29 * 8.99
MASH_KCAL = 540 * 0.37 + 203 * 0.77 + 27 * 7.45
DINNER_KCAL = 445 * POT_KCAL / 1263 + 248 * MASH_KCAL / 717
DAY_KCAL = (
    share_of_recipe(RYE, 3, 1.25)
    + sum(share_of_recipe(part, 4, 1.3) for part in MACKEREL)
    + sum(share_of_recipe(part, 3, 1.1) for part in RHUBARB)
    + DINNER_KCAL
)


def test_the_page_says_what_the_sums_give() -> None:
    for figure in (
        f"{SERVING_KCAL:.2f}",
        f"**{SERVING_KCAL:.0f} kcal**",
        f"**{SERVING_PROTEIN:.1f} g**",
        f"{POT_KCAL:,.2f}",
        f"{MASH_KCAL:.2f}",
        f"{POT_KCAL / 1263:.5f}",
        f"{MASH_KCAL / 717:.5f}",
        f"{DINNER_KCAL:.1f}",
        f"**{DAY_KCAL:,.0f}**",
    ):
        assert figure in PAGE, figure


def test_the_recipe_shows_them(boat: Cook) -> None:
    row = re.search(r"Turkey thigh and caraway cabbage pot.*?</tr>", boat.get("/recipes"), re.S)
    assert row is not None
    assert f"{SERVING_KCAL:.0f}" in text_of(row[0])
    address = re.search(r'href="(/recipes/[^"]+)"><b>Turkey thigh', boat.get("/recipes"))
    assert address is not None
    text = text_of(boat.get(address[1]))
    assert "481 kcal" in text
    assert "46.7 g protein" in text


@pytest.fixture
def tuesday(demo: Caller) -> weeks.WeekPicture:
    picture = weeks.week_picture(demo, MONDAY)
    assert picture is not None
    return picture


def test_tuesdays_box_and_day_show_them(boat: Cook, tuesday: weeks.WeekPicture) -> None:
    maren = tuesday.eaters[0]
    meals = [p for p in tuesday.meals if p.eater_id == maren.id and p.day == tuesday.dates[1]]
    box = text_of(boat.get(f"/week/{MONDAY}?box={meals[3].id}"))
    assert "turkey and cabbage 445 g × 1.12 499" in box
    assert "swede mash 248 g × 0.78 193" in box
    assert f"energy {DINNER_KCAL:.0f} ± 3 kcal" in box
    lunch = text_of(boat.get(f"/week/{MONDAY}?box={meals[1].id}"))
    assert "energy 823 ± 18 kcal" in lunch
    assert "Nearly all of the ± is rapeseed oil" in lunch
    day = text_of(boat.get(f"/week/{MONDAY}?day={maren.id}.2026-11-24"))
    assert f"energy {DAY_KCAL:,.0f} ±" in day
    assert "Energy in band, −22" in day


def test_the_pot_and_its_division_show_them(boat: Cook) -> None:
    address = re.search(r'href="(/portion/[^"]+)"\s*>\s*<b>turkey and cabbage', boat.get("/portion"))
    assert address is not None
    text = text_of(boat.get(address[1]))
    assert "1,263 g in the pot · 97 % of expected, cooked down" in text
    assert re.search(r"432 g ✓.*445 g ✓.*386 g ✓", text)
    assert "whole batch 1,417 ± 6 kcal" in text
