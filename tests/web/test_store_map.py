"""The map of fridge and freezer: shelves the household names, boxes put away, moved, and past their date."""

from uuid import uuid4

import pytest
from fastapi.testclient import TestClient

from goodcrate.core.store.box_code import box_code
from goodcrate.services.at_table import store_map
from goodcrate.services.calling import Caller
from goodcrate.services.store.boxes import own_box_id
from tests.conftest import MONDAY, Cook, text_of
from tests.services.kitchen import furnish
from tests.web import racing
from tests.web.test_today import event, kcal


def shelf(cook: Cook, name: str, place: str, boxes: str = "") -> str:
    shelf_id = str(uuid4())
    for _ in range(2):  # sent twice is named once
        cook.post("/store/shelves", {"id": shelf_id, "name": name, "place": place, "boxes": boxes, "litres": ""})
    return shelf_id


def test_packed_boxes_arrive_and_are_put_away_as_drawn(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    there = racing.weighed(cook, kitchen)
    drawer, box = shelf(cook, "drawer", "fridge", "14"), own_box_id(racing.meals(kitchen)[0])
    shelf(cook, "ice box", "freezer", "6")
    cook.post(f"/portion/{there}/fill", event())
    read = text_of(cook.get("/store"))
    for words in ("3 boxes to put away", "0 in, 3 to come, 14 free", "Maren", "Turkey pot", "Eat first"):
        assert words in read
    sent = event()
    for _ in range(2):
        cook.post("/store/put-away", sent)
    read = text_of(cook.get("/store"))
    assert "to put away" not in read
    assert "3 in, 11 free" in read
    cook.post(f"/box/{box}/move", event(place="freezer"))
    assert "2 in, 12 free" in text_of(cook.get("/store"))
    cook.post(f"/box/{box}/move", event(place=drawer))
    assert "3 in, 11 free" in text_of(cook.get("/store"))
    cook.post(f"/box/{box}/said", event(kind="eaten"))
    assert "2 in, 12 free" in text_of(cook.get("/store"))
    cook.post(f"/store/shelves/{drawer}/away", {})
    assert "2 boxes" in text_of(cook.get("/store"))
    assert all(b.standing.place == "fridge" for b in store_map.store_map(household).loose("fridge"))


def test_a_scanned_or_typed_code_puts_one_box_away(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    there = racing.weighed(cook, kitchen)
    drawer = shelf(cook, "drawer", "fridge", "14")
    cook.post(f"/portion/{there}/fill", event())
    first, second, third = (own_box_id(meal) for meal in racing.meals(kitchen))
    sent = event(code=f"https://boat.example/box/{first}")
    for _ in range(2):  # a scanner that reads twice
        cook.post("/store/scan", sent)
    assert "1 in, 2 to come" in text_of(cook.get("/store"))
    shown = text_of(cook.get(f"/store?put={first}&event={sent['event']}"))
    assert f"{box_code(first)} Turkey pot: drawer." in shown
    cook.post("/store/scan", event(code=box_code(second).lower().replace("0", "o").replace("1", "l")))
    assert "2 in, 1 to come" in text_of(cook.get("/store"))
    cook.post("/store/scan", event(code=str(third), where="freezer"))
    assert [str(b.standing.place) for b in store_map.store_map(household).boxes if b.box.key == str(third)] == [
        "freezer"
    ]
    for typed, words in (
        (box_code(first), "is put away already"),
        ("!!", "is no box’s code"),
        ("", "is no box’s code"),
        (str(uuid4()), "No box with the code"),
    ):
        refused = cook.post("/store/scan", event(code=typed), expect=422).text
        assert words in text_of(refused)
        assert f'value="{typed}"' in refused
    cook.post("/store/scan", event(code=box_code(first), where=str(uuid4())), expect=404)
    cook.post(f"/box/{first}/undo", {"event": sent["event"]})
    assert "1 in, 1 to come" in text_of(cook.get("/store"))
    cook.post("/store/scan", event(code=box_code(first), where=drawer))
    assert "2 in, 12 free" in text_of(cook.get("/store"))


def test_the_days_box_is_eaten_from_the_map_and_comes_back(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    there = racing.weighed(cook, kitchen)
    cook.post(f"/portion/{there}/fill", event())
    box, code = own_box_id(racing.meals(kitchen)[0]), box_code(own_box_id(racing.meals(kitchen)[0]))
    assert cook.get("/store").count(">Eaten</button>") == 1, "tomorrow's boxes are for tomorrow"
    sent = event(kind="eaten", back="map")
    answer = cook.post(f"/box/{box}/said", sent)
    then = answer.headers["location"]
    read = text_of(cook.get(then))
    assert f"{code} Turkey pot is eaten." in read
    assert "2 boxes" in read
    assert kcal(kitchen)[0] == pytest.approx(kcal(kitchen)[1])
    back = cook.post(f"/box/{box}/undo", {"event": sent["event"], "back": "map"})
    assert back.headers["location"] == "/store"
    read = text_of(cook.get(then))
    assert "is eaten" not in read
    assert "3 boxes" in read
    assert kcal(kitchen)[0] == 0


def test_a_box_past_its_date_is_marked_and_not_offered(cook: Cook, household: Caller, client: TestClient) -> None:
    kitchen = furnish(household)
    there = racing.weighed(cook, kitchen)
    cook.post(f"/portion/{there}/fill", event())
    client.app.state.clock = lambda: MONDAY.replace(day=30)  # type: ignore[attr-defined]
    read = text_of(cook.get("/store"))
    assert "Past their date" in read
    assert "Eat first" not in read
    box = own_box_id(racing.meals(kitchen)[0])
    assert "Past its date since" in text_of(cook.get(f"/box/{box}"))
    assert ">Eaten</button>" not in cook.get(f"/box/{box}")


def test_shelves_that_cannot_be_are_refused_and_nothing_is_lost(cook: Cook, household: Caller) -> None:
    for wrong in (
        {"name": ""},
        {"boxes": "-2"},
        {"boxes": "many"},
        {"litres": "1e9"},
        {"litres": "NaN"},
        {"place": "roof"},
    ):
        typed = {"id": str(uuid4()), "name": "drawer", "place": "fridge", "boxes": "14", "litres": "30", **wrong}
        refused = cook.post("/store/shelves", typed, expect=422).text
        assert f'value="{typed["name"]}"' in refused
        assert f'value="{typed["boxes"]}"' in refused
    cook.post(f"/store/shelves/{uuid4()}/away", {}, expect=404)
    kitchen = furnish(household)
    cook.post(f"/box/{racing.packed_box(kitchen)}/move", event(place=str(uuid4())), expect=404)
