"""The list as a page and as text."""

import re

from tests.conftest import MONDAY, Cook, text_of


def test_the_list_of_the_demo_week(boat: Cook) -> None:
    html = boat.get(f"/shop/{MONDAY}")
    text = text_of(html)
    rows = re.findall(r'<tr\s+id="food-[^>]*>(.*?)</tr>', html, re.S)
    cottage = next(text_of(row) for row in rows if "Cottage cheese, plain" in row)
    assert "6 × 200 g" in cottage
    assert "8.70 ¤" in cottage
    assert "Vegetables" in text
    assert "at the till ≥ " in text
    assert "a box, of 54 ≥ " in text
    assert html.index("Vegetables") < html.index("Dairy") < html.index("Spices")
    assert len(rows) > 50


def test_the_list_as_text(boat: Cook) -> None:
    said = boat.client.get(f"/shop/{MONDAY}/list.txt")
    assert said.headers["content-type"].startswith("text/plain")
    assert "VEGETABLES\n- " in said.text
    assert "- Cottage cheese, plain, 4 % fat: 6 × 200 g" in said.text
    assert boat.client.get("/shop/2031-01-06/list.txt").text == ""


def test_a_week_without_meals_says_what_will_stand_there(boat: Cook) -> None:
    assert "Nothing to buy yet" in text_of(boat.get("/shop/2031-01-06"))
