"""The page behind a label's code: whole for its household, what it is and how it is heated for anybody who holds it."""

from uuid import UUID, uuid4

from fastapi.testclient import TestClient

from goodcrate.services.calling import Caller
from goodcrate.services.portion import spares
from goodcrate.services.store.boxes import own_box_id
from tests.conftest import MONDAY, Cook, text_of
from tests.services.kitchen import furnish
from tests.web import racing
from tests.web.test_today import event, kcal


def test_a_box_tells_its_story_and_each_thing_is_taken_back(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    there = racing.weighed(cook, kitchen)
    meal = racing.meals(kitchen)[0]
    address = f"/box/{own_box_id(meal)}"
    assert "it is planned, and not packed" in text_of(cook.get(address))
    cook.post(f"/portion/{there}/boxes/{meal}", event(net_g="650"))
    read = text_of(cook.get(address))
    for words in ("Turkey pot", "Maren’s Monday", "packed: fridge", "650 g"):
        assert words in read
    sent = event(kind="half")
    for _ in range(2):
        cook.post(f"{address}/said", sent)
    assert "eaten in part, 325 g" in text_of(cook.get(address))
    assert kcal(kitchen)[0] > 0
    for grams, words in (("326", "There are 325 g in it."), ("-1", "negative")):
        refused = cook.post(f"{address}/said", event(kind="part_eaten", grams=grams), expect=422).text
        assert words in text_of(refused)
        assert f'value="{grams}"' in refused
    cook.post(f"{address}/said", event(kind="thrown_away", why=""), expect=422)
    for _ in range(2):
        cook.post(f"{address}/undo", {"event": sent["event"]})
    assert kcal(kitchen)[0] == 0
    cook.post(f"{address}/move", event(place="freezer"))
    assert "put away: freezer" in text_of(cook.get(address))
    cook.post(f"{address}/move", event(place="roof"), expect=422)
    cook.post(f"{address}/undo", {"event": str(uuid4())}, expect=404)


def test_a_box_for_nobody_is_eaten_too(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    there = racing.weighed(cook, kitchen)
    batch = there.split("/")[1]
    spare = uuid4()
    spares.pack_spare(household, MONDAY, UUID(batch), spare, uuid4(), 100)
    cook.post(f"/box/{spare}/said", event(kind="left"), expect=422)
    cook.post(f"/box/{spare}/said", event(kind="half"))
    cook.post(f"/box/{spare}/said", event(kind="eaten"))
    assert "eaten in part, 50 g" in text_of(cook.get(f"/box/{spare}"))
    cook.post(f"/box/{spare}/said", event(kind="eaten"), expect=422)


def test_who_holds_a_box_reads_what_it_is_and_nothing_of_the_household(
    cook: Cook, household: Caller, client: TestClient
) -> None:
    kitchen = furnish(household)
    there = racing.weighed(cook, kitchen)
    meal = racing.meals(kitchen)[0]
    address = f"/box/{own_box_id(meal)}"
    cook.post(f"/portion/{there}/boxes/{meal}", event(net_g="650"))
    stranger = TestClient(client.app, base_url="http://localhost")
    read = text_of(stranger.get(address).text)
    for words in ("Turkey pot", "Made", "Eat by"):
        assert words in read
    for words in ("Maren", "galley", "kcal", "650", "Monday"):
        assert words not in read
    assert str(meal) not in stranger.get(address).text
    assert stranger.post(f"{address}/said", data=event(kind="eaten"), follow_redirects=False).status_code == 303
    planned = stranger.get(f"/box/{own_box_id(racing.meals(kitchen)[1])}", follow_redirects=False)
    assert planned.headers["location"].startswith("/sign-in")
    assert stranger.get(f"/box/{uuid4()}", follow_redirects=False).status_code == 303
    assert str(MONDAY.year) not in read


def test_a_phone_opens_on_the_day_and_a_desk_on_the_week(cook: Cook) -> None:
    for headers, where in (
        ({}, "/week"),
        ({"sec-ch-ua-mobile": "?1"}, "/today"),
        ({"user-agent": "Some Mobile browser"}, "/today"),
    ):
        answer = cook.client.get("/", headers=headers, follow_redirects=False)
        assert answer.headers["location"] == where
