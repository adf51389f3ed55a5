"""Every route, tried by those who must not: nobody, a neighbour with our ids, a form without its token."""

import re
from datetime import date
from uuid import UUID, uuid4

import pytest
from fastapi import FastAPI
from fastapi.routing import APIRoute
from fastapi.testclient import TestClient

from goodcrate.core.foods.packs import Pack
from goodcrate.db.session import Database
from goodcrate.formats.recipe_jsonld import find_recipes
from goodcrate.services import accounts
from goodcrate.services.calling import Caller
from goodcrate.services.cook import cooking
from goodcrate.services.foods import food_files, labels
from goodcrate.services.foods import packs_known as packs
from goodcrate.services.portion import filling, spares
from goodcrate.services.recipes import recipe_files
from goodcrate.services.store import house
from goodcrate.services.week import repeating, weeks
from goodcrate.web.security import HEADERS
from tests.conftest import Cook, name_of, sign_in, text_of
from tests.services.kitchen import MONDAY, furnish, planner_job
from tests.web import racing

DOOR = {"/sign-in", "/first-run", "/favicon.ico", "/recover", "/join/{invitation}"}
DOOR |= {"/healthz", "/readyz", "/metrics"}  # for whoever runs the server (`test_server`)
IN_THE_HAND = {"/box/{box_id}", "/calendar/{token}/week.ics"}
"""What whoever holds a packed box, or a secret, may read of it (`test_box_page`, `test_calendar_link`)."""
LEAVES = ("/sign-out", "/sign-out-everywhere")
GONE_IS_GONE = {
    "/recipes/{recipe_id}/remove-broken",
    "/week/{first_day}/sessions/{session_id}/remove",
    "/week/{first_day}/pattern/{pattern_id}/remove",
    "/people/{user_id}/remove",
    "/people/invitations/{key}/take-back",
}
"""Taking away what is not there, or not theirs, is done already."""
ASKS_FOR_MORE = {"/foods/scan", "/foods/compare"}
"""Pages that need something in their address."""
LOOKED_AT_FIRST = {"/targets/{eater_id}", "/recipes/{recipe_id}", "/foods/files/{file_id}"}
"""A form that lacks fields is told so before anything is looked for; whole ones are sent too. A file says to choose it
again."""
COMPUTING = ("/compute", "/scale", "/fit", "/fit-lines", "/swap", "/autosave")
"""What is computed from the form alone, and saves nothing of a form without ingredients."""


def routes(client: TestClient) -> list[tuple[str, str]]:
    """Every method and path of the app but the static files."""
    app = client.app
    assert isinstance(app, FastAPI)
    found = []
    for route in app.router.routes:
        inner = getattr(route, "original_router", None)
        for one in inner.routes if inner is not None else [route]:
            if isinstance(one, APIRoute):
                found += [(method, one.path) for method in sorted(one.methods or ())]
    return found


def filled(path: str, ids: dict[str, object]) -> str:
    return re.sub(r"{(\w+)}", lambda m: str(ids[m[1]]), path)


@pytest.fixture
def ids(household: Caller) -> dict[str, object]:
    """Real ids of a furnished household, by the names the routes give them."""
    kitchen = furnish(household)
    picture = weeks.week_picture(household, MONDAY)
    assert picture is not None
    worked = picture.outcome.batches[0]
    batch_id = cooking.batch_id_for(picture.week.id, worked.plan.session_key, worked.plan.component_key)
    cooking.start_batch(household, MONDAY, batch_id)
    picture = weeks.week_picture(household, MONDAY)
    assert picture is not None
    label = {"basis": "100g", "energy_kcal": "62", "protein_g": "11"}
    food_key = labels.save_food(household, labels.FoodInput(uuid4(), "Skyr", label, group="dairy"))
    file_id = uuid4()
    food_files.upload(household, file_id, "foods.csv", b"name,kcal\nHarbour oats,375\n")
    import_id = uuid4()
    recipe_files.upload(household, import_id, "two.json", find_recipes('[{"@type": "Recipe"}, {"@type": "Recipe"}]'))
    job = planner_job(picture.week.id)
    job_id = job.id
    with household.transaction() as session:
        session.add(job)
    pattern_id = uuid4()
    repeating.save_pattern(household, MONDAY, pattern_id, "our week")
    thing_id = uuid4()
    house.put_in(household, house.ThingInput(thing_id, "fridge", MONDAY, typed="200 g quark"))
    box_id = uuid4()
    filling.weigh_pot(household, MONDAY, batch_id, uuid4(), 2100, 0)
    spares.pack_spare(household, MONDAY, batch_id, box_id, uuid4(), 100)
    spares.take_out_spare(household, MONDAY, batch_id, box_id, uuid4())
    filling.take_out_pot(household, MONDAY, batch_id, uuid4())
    pack_id = uuid4()
    packs.add_pack(household, pack_id, food_key, Pack(food_key, 500, 2.10), "the lock shop", MONDAY)
    return {
        "row_id": thing_id,
        "user_id": household.user_id,
        "invitation": "guessed",
        "pack_id": pack_id,
        "job_id": job_id,
        "pattern_id": pattern_id,
        "eater_id": kitchen.eater_id,
        "recipe_id": kitchen.recipe_id,
        "first_day": MONDAY,
        "session_id": picture.sessions[0].key,
        "placement_id": picture.meals[0].id,
        "batch_id": batch_id,
        "line_id": UUID(picture.outcome.batches[0].outcome.state.lines[0].key),
        "key": food_key,
        "file_id": file_id,
        "import_id": import_id,
        "version": 1,
        "slot_id": kitchen.slot_id,
        "meal_id": picture.meals[0].id,
        "token": "guessed",
        "change_id": racing.target_change(kitchen),
        "shelf_id": racing.shelf(kitchen),
        "noted_id": racing.off_plan_noted(kitchen),
        "box_id": box_id,
    }


def test_the_app_has_routes_to_try(client: TestClient) -> None:
    assert len(routes(client)) > 35


def test_nobody_gets_anywhere_but_the_door(client: TestClient, ids: dict[str, object]) -> None:
    for method, path in routes(client):
        if path in DOOR | IN_THE_HAND:
            continue
        answer = client.request(method, filled(path, ids), follow_redirects=False)
        assert answer.status_code == 303, (method, path)
        assert answer.headers["location"].startswith("/sign-in"), (method, path)


def test_a_write_without_its_token_is_refused(client: TestClient, cook: Cook, ids: dict[str, object]) -> None:
    for method, path in routes(client):
        if method == "POST":
            for data in ({}, {"csrf": "guessed"}):
                assert client.post(filled(path, ids), data=data).status_code == 403, path


def test_a_write_from_another_site_is_refused(client: TestClient, cook: Cook) -> None:
    for headers in ({"sec-fetch-site": "cross-site"}, {"origin": "https://elsewhere.example"}):
        assert client.post("/sign-out", data={"csrf": cook.csrf}, headers=headers).status_code == 403
    assert cook.get("/recipes")


def test_a_neighbour_with_our_ids_finds_nothing(
    client: TestClient, database: Database, household: Caller, ids: dict[str, object]
) -> None:
    ours_at_home = sign_in(client, name_of(database, household))
    whole_forms = [
        racing.own_form(ours_at_home, page, page)
        for page in (f"/targets/{ids['eater_id']}", f"/recipes/{ids['recipe_id']}")
    ]
    neighbour = accounts.add_household(database, "Next mooring", f"n-{uuid4().hex[:10]}", "barley-and-beetroot")
    cook = sign_in(client, name_of(database, neighbour))
    weeks.open_week(neighbour, date(2026, 11, 23))
    for url, whole in whole_forms:
        assert client.post(url, data=whole | {"csrf": cook.csrf}, follow_redirects=False).status_code == 404, url
    before = weeks.week_picture(household, MONDAY)
    fields = {
        "csrf": cook.csrf,
        "name": "Taken over",
        "servings": "3",
        "version": "1",
        "net": "5",
        "net_g": "5",
        "gross_g": "900",
        "tare_g": "0",
        "event": str(uuid4()),
        "starts_at": "2026-11-24T10:00",
        "id": str(uuid4()),
        "gap": f"{ids['eater_id']}.{ids['slot_id']}.2026-11-24",
        "recipe": str(ids["recipe_id"]),
        "days": "2026-11-24",
        "to": f"{ids['eater_id']}.{ids['slot_id']}.2026-11-24",
        "aim": "least_cooking",
        "grams": "5",
        "place": "fridge",
        "pack_g": "500",
        "floor_g": "500",
        "other": "cabbage_raw",
    }
    ours = {str(v) for k, v in ids.items() if isinstance(v, UUID)}
    for method, path in routes(client):
        if path in DOOR or path.endswith(LEAVES) or path.endswith(COMPUTING):
            continue
        url = filled(path, ids)
        if method == "GET":
            answer = client.get(url)
            assert answer.status_code in ((422,) if path in ASKS_FOR_MORE else (200, 204, 404)), (
                path,
                answer.status_code,
            )
            if re.search(r"{(?!first_day)", path):
                assert answer.status_code == 404, (method, path)
            assert not [mark for mark in ours if mark in answer.text], (method, path)
        elif re.search(r"{(?!first_day)", path):
            answer = client.post(url, data=fields, follow_redirects=False)
            refused = 303 if path in GONE_IS_GONE else 422 if path in LOOKED_AT_FIRST else 404
            assert answer.status_code == refused, (method, path, answer.status_code)
        elif path.endswith("/place"):
            assert client.post(url, data=fields, follow_redirects=False).status_code == 404
    after = weeks.week_picture(household, MONDAY)
    assert before is not None
    assert after is not None
    assert after.recipes == before.recipes
    assert after.outcome == before.outcome
    assert [e.name for e in after.eaters] == [e.name for e in before.eaters]


def test_every_answer_carries_the_security_headers(client: TestClient, cook: Cook) -> None:
    for url in ("/sign-in", "/week/2026-11-23", "/nowhere", "/static/app.css", "/recipes/not-an-id"):
        answer = client.get(url)
        for name, value in HEADERS.items():
            assert answer.headers[name] == value, (url, name)
    policy = HEADERS["content-security-policy"]
    assert "unsafe" not in policy
    assert "default-src 'none'" in policy


def test_the_session_cookie_is_out_of_reach_of_scripts(
    client: TestClient, household: Caller, database: Database
) -> None:
    page = client.get("/sign-in").text
    token = re.search(r'name="csrf" value="([^"]+)"', page)
    assert token is not None
    form = {"csrf": token[1], "name": name_of(database, household), "password": "barley-and-beetroot"}
    answer = client.post("/sign-in", data=form, follow_redirects=False)
    cookie = next(c for c in answer.headers.get_list("set-cookie") if c.startswith("goodcrate_session"))
    assert "HttpOnly" in cookie
    assert "SameSite=lax" in cookie
    assert "Secure" not in cookie
    behind_tls = TestClient(client.app, base_url="https://localhost")
    page = behind_tls.get("/sign-in").text
    token = re.search(r'name="csrf" value="([^"]+)"', page)
    assert token is not None
    answer = behind_tls.post("/sign-in", data=form | {"csrf": token[1]}, follow_redirects=False)
    assert all("Secure" in c for c in answer.headers.get_list("set-cookie"))
    assert "strict-transport-security" in answer.headers


def test_signing_in_leads_only_to_our_own_pages(client: TestClient, household: Caller, database: Database) -> None:
    for target, location in (
        ("//elsewhere.example", "/"),
        ("https://elsewhere.example", "/"),
        ("/recipes", "/recipes"),
    ):
        page = client.get("/sign-in").text
        token = re.search(r'name="csrf" value="([^"]+)"', page)
        assert token is not None
        form = {
            "csrf": token[1],
            "name": name_of(database, household),
            "password": "barley-and-beetroot",
            "next": target,
        }
        assert client.post("/sign-in", data=form, follow_redirects=False).headers["location"] == location


def test_guessing_at_the_door_has_to_wait(client: TestClient) -> None:
    name = f"guessed-{uuid4().hex[:8]}"
    answers = []
    for _ in range(7):
        page = client.get("/sign-in").text
        token = re.search(r'name="csrf" value="([^"]+)"', page)
        assert token is not None
        answers.append(client.post("/sign-in", data={"csrf": token[1], "name": name, "password": "no"}).status_code)
    assert answers == [422] * 5 + [429] * 2


def test_a_fault_of_ours_shows_no_trace(client: TestClient, cook: Cook, monkeypatch: pytest.MonkeyPatch) -> None:
    def broken(*_: object, **__: object) -> None:
        raise RuntimeError("a secret of the kitchen")

    monkeypatch.setattr("goodcrate.services.recipes.library.list_recipes", broken)
    answer = client.get("/recipes")
    assert answer.status_code == 500
    assert "Something broke" in answer.text
    assert "secret" not in answer.text
    assert "Traceback" not in answer.text


def test_too_much_is_refused(client: TestClient, cook: Cook) -> None:
    answer = client.post("/sign-out", data={"csrf": cook.csrf, "more": "x" * 1_100_000})
    assert answer.status_code == 413


def test_addresses_that_lead_nowhere_say_so(cook: Cook) -> None:
    much = "9" * 400
    for url in (
        "/nowhere",
        "/week/2026-13-99",
        "/recipes/17",
        f"/recipes/step?after={much}",
        "/foods/no-such-food",
        f"/cook/2026-11-23/{uuid4()}",
    ):
        assert "Not here" in text_of(cook.get(url, expect=404))
    assert "week" in text_of(cook.get("/week/2026-11-23?box=nonsense&day=a.b&gap=x").lower())
