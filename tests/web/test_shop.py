"""The list as a page and as text."""

import csv
import re
from io import StringIO
from uuid import uuid4

import pytest

from goodcrate.services.calling import Caller
from tests.conftest import MONDAY, Cook, text_of
from tests.services.kitchen import furnish


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


LIST = f"/shop/{MONDAY}"


def rows_of(table: str) -> dict[str, list[str]]:
    return {row[1]: row for row in csv.reader(StringIO(table))}


def test_the_list_as_a_table_and_on_paper(boat: Cook) -> None:
    answer = boat.client.get(f"{LIST}/list.csv")
    assert answer.headers["content-type"].startswith("text/csv")
    rows = rows_of(answer.text)
    assert rows["Cottage cheese, plain, 4 % fat"][5:9] == ["1150.0", "6 x 200", "50.0", "8.70"]
    paper = text_of(boat.get(f"{LIST}/print"))
    assert "Shopping list 23–29 November" in paper
    assert "read the label: no celery (Oskar Quill)" in paper
    assert "Cottage cheese, plain, 4 % fat 6 × 200 g" in paper


def test_a_row_is_ticked_without_scripts_and_opened_again(cook: Cook, household: Caller) -> None:
    furnish(household, 2)
    button = re.search(r'name="tick"\s+value="(cabbage_raw\|[^"]+)"', cook.get(LIST))
    assert button is not None
    cook.post(f"{LIST}/ticks", {"tick": button[1], "event": str(uuid4())})
    html = text_of(cook.get(LIST))
    assert "1,800 g bought" in html
    assert "1 of 3 in the basket" in html
    cook.post(f"{LIST}/ticks", {"tick": "cabbage_raw|open", "event": str(uuid4())})
    assert "0 of 3" in text_of(cook.get(LIST))


@pytest.mark.parametrize(
    "said",
    [
        {"tick": "cabbage_raw|-900"},
        {"food": "cabbage_raw", "grams": "0"},
        {"food": "cabbage_raw", "grams": "lots"},
        {"food": "cabbage_raw", "grams": "900", "price": "-1"},
        {"food": "cabbage_raw", "grams": "900", "price": "1000000000"},
        {"food": "cabbage_raw", "kind": "eaten"},
    ],
)
def test_a_tick_that_cannot_be_is_told_and_nothing_is_noted(
    cook: Cook, household: Caller, said: dict[str, str]
) -> None:
    furnish(household)
    assert cook.client.post(f"{LIST}/ticks", data={"csrf": cook.csrf, **said}).status_code == 422
    asked = cook.client.post(f"{LIST}/ticks", data={"csrf": cook.csrf, **said}, headers={"accept": "application/json"})
    assert asked.status_code == 422
    assert asked.json()["fault"]
    assert cook.client.get(f"{LIST}/news").status_code == 204


def test_a_script_is_answered_with_what_changed(cook: Cook, household: Caller) -> None:
    furnish(household, 2)
    sent = {
        "csrf": cook.csrf,
        "food": "cabbage_raw",
        "grams": "1800",
        "price": "2.80",
        "event": str(uuid4()),
        "since": "0",
    }
    for _ in range(2):
        said = cook.client.post(f"{LIST}/ticks", data=sent, headers={"accept": "application/json"}).json()
        assert said["rows"] == {"cabbage_raw": {"state": "bought", "told": "1,800 g bought, 2.80 ¤"}}
        assert "1 of 3" in text_of(said["basket"])
    assert cook.client.get(f"{LIST}/news?since={said['seq']}").status_code == 204
    for bad, status in (("-1", 422), ("nine", 404)):
        assert cook.client.get(f"{LIST}/news?since={bad}").status_code == status


@pytest.mark.parametrize(("grams", "price"), [("0", "1"), ("-5", "1"), ("900", "-1"), ("900", "1e9"), ("some", "1")])
def test_a_pack_that_cannot_be_is_told_at_its_field(cook: Cook, household: Caller, grams: str, price: str) -> None:
    furnish(household)
    there = f"{LIST}/food/cabbage_raw"
    answer = cook.client.post(
        f"{there}/packs", data={"csrf": cook.csrf, "pack_g": grams, "price": price, "shop": "quay"}
    )
    assert answer.status_code == 422
    assert f'value="{grams}"' in answer.text, "what was typed stays"
    assert 'role="alert"' in answer.text
    assert "quay" not in cook.get(there)


def test_packs_are_noted_and_their_price_is_drawn(cook: Cook, household: Caller) -> None:
    furnish(household, 2)
    there = f"{LIST}/food/cabbage_raw"
    for price in ("1.20", "1.60"):
        cook.post(f"{there}/packs", {"pack_g": "800", "price": price, "shop": "quay", "id": str(uuid4())})
    html = cook.get(there)
    assert "100 g: 0.15 ¤ on 23 November, 0.20 ¤ on 23 November" in text_of(html)
    assert html.split("pricechart")[1].count("<circle cx=") == 2


def test_the_pantry_teaches_takes_in_and_is_put_right(cook: Cook) -> None:
    assert "Nothing is noted in the house" in text_of(cook.get("/shop/pantry"))
    cook.post("/shop/pantry", {"typed": "500 g rolled oats", "place": "cupboard", "id": str(uuid4())})
    html = cook.get("/shop/pantry")
    assert "not opened: the date on the pack counts" in text_of(html)
    thing = re.search(r'action="(/shop/pantry/[^"]+)"', html)
    assert thing is not None
    refused = cook.client.post(thing[1], data={"csrf": cook.csrf, "grams": "-3", "place": "cupboard"})
    assert refused.status_code == 422
    assert 'value="-3"' in refused.text
    cook.post(thing[1], {"grams": "320", "place": "cupboard", "first": "on", "until": "2027-01-31"})
    html = cook.get("/shop/pantry")
    assert "use first" in text_of(html)
    assert "until 31 January 2027" in text_of(html)


def test_how_a_household_shops_orders_the_aisles(cook: Cook, household: Caller) -> None:
    furnish(household)
    html = cook.get(LIST)
    assert html.index("Vegetables") < html.index("Butcher")
    said = {"aisles": "butcher\nvegetables", "spare_pct": "0", "aim": "least_left", "week_budget": "4"}
    assert cook.post(f"{LIST}/settings", said).status_code == 303
    html = cook.get(LIST)
    assert html.index("Butcher") < html.index("Vegetables")
    assert "in the budget of 4.00 ¤" in text_of(html)
    refused = cook.client.post(f"{LIST}/settings", data={"csrf": cook.csrf, **said, "spare_pct": "80"})
    assert refused.status_code == 422
    assert 'value="80"' in refused.text


def test_the_worker_is_served_for_the_list_alone(cook: Cook) -> None:
    answer = cook.client.get("/shop/worker.js")
    assert answer.headers["service-worker-allowed"] == "/shop"
    assert answer.headers["content-type"].startswith("text/javascript")
    assert "good-crate-list" in answer.text
