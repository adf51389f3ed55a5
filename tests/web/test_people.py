"""Several people in a household: who comes in and how, what each role may ask, and what nobody sees of another."""

import re
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from datetime import timedelta
from pathlib import Path
from threading import Barrier
from uuid import UUID, uuid4

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from sqlalchemy import func, select

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.roles import COOK, EATER, OWNER, ROLES
from goodcrate.db.accounts import UserAccount
from goodcrate.db.session import Database
from goodcrate.demo.load import load_demo
from goodcrate.services import accounts, people
from goodcrate.services.accounts import SignInRefused, TooManyAttempts
from goodcrate.services.at_table import eating, off_plan
from goodcrate.services.at_table.today import today_of
from goodcrate.services.calling import Caller, NotFound, utc_now
from goodcrate.services.jobs import process
from goodcrate.services.store.boxes import own_box_id
from goodcrate.services.targets.household_eaters import list_eaters
from goodcrate.services.week.weeks import week_picture
from goodcrate.settings import Settings
from goodcrate.web.app import create_app
from goodcrate.web.roles import FOR_EATERS, FOR_OWNERS, may_go
from tests.conftest import MONDAY, PASSWORD, Cook, _no_lifespan, name_of, sign_in, text_of
from tests.hostile import routes_of
from tests.services.kitchen import furnish

NEW_PASSWORD = "millet-and-marrow"
OPEN = {"/first-run", "/sign-in", "/recover", "/join/{invitation}", "/calendar/{token}/week.ics", "/favicon.ico"}
OPEN |= {"/healthz", "/readyz", "/metrics", "/sign-in/passkey/ask", "/sign-in/passkey"}
"""What asks nobody who they are."""


@pytest.fixture(autouse=True)
def no_worker(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(process, "launch", lambda *_: None)


@dataclass
class Boat:
    """A household with two eaters, and somebody who only eats as the first of them."""

    owner: Caller
    eater: Caller
    name: str

    @property
    def own_meals(self) -> list[UUID]:
        return [m for m, who in self._meals() if who == self.eater.only_eater]

    @property
    def others_meals(self) -> list[UUID]:
        return [m for m, who in self._meals() if who != self.eater.only_eater]

    def _meals(self) -> Iterator[tuple[UUID, UUID]]:
        picture = week_picture(self.owner, MONDAY)
        assert picture is not None
        for meal in sorted(picture.meals, key=lambda m: (m.day, str(m.id))):
            yield meal.id, meal.eater_id


@pytest.fixture
def boat_of_two(database: Database) -> Boat:
    owner = load_demo(database, MONDAY, f"two-{uuid4().hex[:8]}")
    first = list_eaters(owner)[0]
    name = f"eats-{uuid4().hex[:8]}"
    people.join(database, people.invite(owner, EATER, first.id), name, PASSWORD)
    found = accounts.caller_named(database, name)
    assert found is not None
    return Boat(owner, Caller(database, owner.household_id, found.user_id, first.id), name)


def in_as(client: TestClient, role: str, caller: Caller, eater_id: UUID | None = None) -> Cook:
    name = f"{role}-{uuid4().hex[:8]}"
    people.join(caller.database, people.invite(caller, role, eater_id), name, PASSWORD)
    return sign_in(client, name)


def door_token(client: TestClient, url: str) -> str:
    token = re.search(r'name="csrf" value="([^"]+)"', client.get(url).text)
    assert token is not None
    return token[1]


@pytest.mark.parametrize("role", ROLES)
def test_every_route_answers_each_role_as_it_should(client: TestClient, household: Caller, role: str) -> None:
    kitchen = furnish(household)
    somebody = in_as(client, role, household, kitchen.eater_id)
    ids = {"first_day": str(MONDAY), "key": "cabbage_raw", "version": "1", "token": "guessed", "invitation": "guessed"}
    assert isinstance(client.app, FastAPI)
    tried = set()
    for method, path in routes_of(client.app):
        if path in OPEN:
            continue
        if path in ("/sign-out", "/account/sign-out-everywhere", "/account/leave"):
            continue  # they end what is tried here
        url = re.sub(r"{(\w+)}", lambda m: ids.get(m[1], str(uuid4())), path)
        send = {"csrf": somebody.csrf} if method == "POST" else None
        status = client.request(method, url, follow_redirects=False, data=send).status_code
        tried.add(path)
        if may_go(role, path):
            assert status != 403, (role, method, path)
            assert status < 500, (role, method, path)
        else:
            assert status == 403, (role, method, path, status)
    assert set(FOR_EATERS) - tried <= {"/sign-out", "/account/sign-out-everywhere", "/account/leave"}
    owners = {path for path in tried if path.startswith(FOR_OWNERS)}
    assert len(owners) > 12
    assert all(may_go(OWNER, path) and not may_go(COOK, path) for path in owners)
    assert not may_go("nobody", "/today")


def test_somebody_invited_comes_in_once(client: TestClient, household: Caller, database: Database) -> None:
    kitchen = furnish(household)
    owner = sign_in(client, name_of(database, household))
    refused = owner.post("/people/invite", {"role": "eater"}, expect=422)
    assert "Whose day is theirs?" in text_of(refused.text)
    shown = owner.post("/people/invite", {"role": "eater", "eater_id": str(kitchen.eater_id)}, expect=200).text
    link = re.search(r"/join/[\w-]+", shown)
    assert link is not None
    assert link[0] not in owner.get("/people"), "the link is shown once"
    client.cookies.clear()
    assert "invites you to see your day" in text_of(client.get(link[0]).text)
    name, token = f"maren-{uuid4().hex[:6]}", door_token(client, link[0])
    weak = client.post(link[0], data={"csrf": token, "name": name, "password": "short"})
    assert weak.status_code == 422
    assert f'value="{name}"' in weak.text, "what was typed stays"
    came = client.post(link[0], data={"csrf": token, "name": name, "password": PASSWORD})
    assert re.search(r"<code>(\w{5}-){3}\w{5}</code>", came.text), "the recovery code is shown"
    assert "Good Crate Today A test galley" in text_of(client.get("/").text), "only Today is on the route"
    client.cookies.clear()
    again = client.get(link[0])
    assert again.status_code == 404
    assert "leads nowhere" in text_of(again.text)
    token = door_token(client, "/sign-in")
    late = client.post(link[0], data={"csrf": token, "name": f"{name}2", "password": PASSWORD})
    assert late.status_code == 404


def test_two_who_follow_one_link_are_one(household: Caller, database: Database) -> None:
    token, start = people.invite(household, COOK, None), Barrier(3)

    def come(n: int) -> bool:
        start.wait(60)
        try:
            people.join(database, token, f"{token[:10]} {n}", PASSWORD)
        except NotFound:
            return False
        return True

    with ThreadPoolExecutor(3) as hands:
        assert sorted(hands.map(come, range(3))) == [False, False, True]
    assert len(people.people_of(household)) == 2


def test_an_invitation_runs_out_and_can_be_taken_back(
    household: Caller, neighbour: Caller, database: Database, monkeypatch: pytest.MonkeyPatch
) -> None:
    token = people.invite(household, COOK, None)
    (waits,) = people.invitations(household)
    people.take_invitation_back(neighbour, waits.key)
    assert people.welcome(database, token) is not None, "a neighbour takes nothing back"
    people.take_invitation_back(household, waits.key)
    assert people.welcome(database, token) is None
    token = people.invite(household, COOK, None)
    later = utc_now() + people.INVITED_FOR + timedelta(minutes=1)
    monkeypatch.setattr(people, "utc_now", lambda: later)
    assert people.welcome(database, token) is None
    with pytest.raises(NotFound):
        people.join(database, token, f"late-{uuid4().hex[:8]}", PASSWORD)


def test_a_name_is_one_persons_on_the_whole_server(household: Caller, neighbour: Caller, database: Database) -> None:
    with pytest.raises(InvalidInputs, match="Somebody signs in with this name"):
        people.join(database, people.invite(household, COOK, None), name_of(database, neighbour), PASSWORD)


def test_an_eater_sees_and_marks_their_own_and_nothing_else(client: TestClient, boat_of_two: Boat) -> None:
    eater = sign_in(client, boat_of_two.name)
    first, other = list_eaters(boat_of_two.owner)
    page = eater.get(f"/today?eater={other.id}")
    assert other.first_name not in text_of(page)
    assert 'href="/week"' not in page
    assert 'href="/targets"' not in page
    own, others = boat_of_two.own_meals[0], boat_of_two.others_meals[0]
    assert str(own) in page
    assert str(others) not in page
    there = f"/today/{MONDAY}"
    eater.post(f"{there}/{own}/eaten", {"kind": "eaten", "event": str(uuid4())})
    today = today_of(boat_of_two.owner, MONDAY)
    assert today is not None
    assert today.table.plates[str(own)].fate == "eaten"
    before = {key: plate.fate for key, plate in today.table.plates.items()}
    for url, fields in (
        (f"{there}/{others}/eaten", {"kind": "eaten"}),
        (f"{there}/{others}/swap", {"other": str(own)}),
        (f"{there}/{own}/swap", {"other": str(others)}),
        (f"{there}/{others}/weighed", {"line": "x", "weighed": "3"}),
        ("/today/off-plan", {"eater": str(other.id), "typed": "cake, 350 kcal"}),
        ("/today/done", {"subject": f"now:{others}:x", "is_done": "1"}),
        (f"/box/{own_box_id(others)}/said", {"kind": "eaten"}),
    ):
        eater.post(url, {"event": str(uuid4()), **fields}, expect=404)
    for url in ("/targets", f"/targets/{first.id}", f"/review/weight/{other.id}", "/review", "/week", "/store"):
        eater.get(url, expect=403)
    today = today_of(boat_of_two.owner, MONDAY)
    assert today is not None
    assert {key: plate.fate for key, plate in today.table.plates.items()} == before
    assert "In the week" not in eater.get(f"/box/{own_box_id(own)}")
    others_box = text_of(eater.get(f"/box/{own_box_id(others)}"))
    assert other.first_name not in others_box, "of another’s box they read what anybody may who holds it"


def test_an_eater_takes_back_only_what_is_theirs(client: TestClient, boat_of_two: Boat) -> None:
    eater, owner = sign_in(client, boat_of_two.name), boat_of_two.owner
    _, other = list_eaters(owner)
    event, noted = uuid4(), uuid4()
    eating.say_eaten(owner, MONDAY, boat_of_two.others_meals[0], event, eating.Said("eaten"))
    off_plan.note(owner, other.id, MONDAY, noted, "cake, 350 kcal")
    eater.post(f"/today/{MONDAY}/undo", {"event": str(event)}, expect=404)
    eater.post(f"/today/off-plan/{noted}/back", {}, expect=404)
    eater.post(f"/box/{own_box_id(boat_of_two.others_meals[0])}/undo", {"event": str(event)}, expect=404)
    mine = uuid4()
    eating.say_eaten(owner, MONDAY, boat_of_two.own_meals[0], mine, eating.Said("eaten"))
    eater.post(f"/today/{MONDAY}/undo", {"event": str(mine)})
    today = today_of(owner, MONDAY)
    assert today is not None
    assert today.table.plates[str(boat_of_two.others_meals[0])].fate == "eaten"
    assert today.table.plates[str(boat_of_two.own_meals[0])].fate == "to_come"


def test_who_eats_as_nobody_sees_nobodys_day(client: TestClient, boat_of_two: Boat, database: Database) -> None:
    with database.accounts() as session, session.begin():
        session.get_one(UserAccount, boat_of_two.eater.user_id).eater_id = None
    eater = sign_in(client, boat_of_two.name)
    page = eater.get("/today")
    assert "Your day is not here yet" in text_of(page)
    eater.post(f"/today/{MONDAY}/{boat_of_two.own_meals[0]}/eaten", {"kind": "eaten"}, expect=404)


def test_a_household_always_has_an_owner(household: Caller, neighbour: Caller, database: Database) -> None:
    assert household.user_id is not None
    with pytest.raises(InvalidInput, match="Nobody would own"):
        people.remove(household, household.user_id)
    with pytest.raises(InvalidInput, match="Nobody would own"):
        people.change_role(household, household.user_id, COOK, None)
    people.join(database, people.invite(household, COOK, None), f"heir-{uuid4().hex[:8]}", PASSWORD)
    heir = next(p.id for p in people.people_of(household) if p.id != household.user_id)
    with pytest.raises(NotFound):
        people.hand_over(neighbour, heir)
    people.hand_over(household, heir)
    assert {p.id: p.role for p in people.people_of(household)} == {heir: OWNER, household.user_id: COOK}
    people.remove(household, household.user_id)
    assert [p.id for p in people.people_of(household)] == [heir]


def test_two_owners_cannot_both_go(household: Caller, database: Database) -> None:
    people.join(database, people.invite(household, OWNER, None), f"two-{uuid4().hex[:8]}", PASSWORD)
    both, start = [p.id for p in people.people_of(household)], Barrier(2)

    def go(user_id: UUID) -> bool:
        start.wait(60)
        try:
            people.remove(household, user_id)
        except InvalidInput:
            return False
        return True

    with ThreadPoolExecutor(2) as hands:
        assert sorted(hands.map(go, both)) == [False, True]
    assert [p.role for p in people.people_of(household)] == [OWNER]


def test_who_is_removed_is_out_and_what_they_said_stays(client: TestClient, household: Caller) -> None:
    kitchen = furnish(household)
    cook = in_as(client, COOK, household)
    who = next(p.id for p in people.people_of(household) if p.role == COOK)
    picture = week_picture(household, MONDAY)
    assert picture is not None
    meal, event = picture.meals[0].id, uuid4()
    cook.post(f"/today/{MONDAY}/{meal}/eaten", {"kind": "eaten", "event": str(event)})
    people.remove(household, who)
    answer = cook.client.get("/week", follow_redirects=False)
    assert answer.headers["location"].startswith("/sign-in")
    today = today_of(household, MONDAY)
    assert today is not None
    assert today.table.plates[str(meal)].fate == "eaten", kitchen


def test_leaving_takes_the_account_and_no_more(client: TestClient, household: Caller, database: Database) -> None:
    owner = sign_in(client, name_of(database, household))
    refused = owner.post("/account/leave", expect=422)
    assert "Nobody would own this household" in text_of(refused.text)
    client.cookies.clear()
    cook = in_as(client, COOK, household)
    left = cook.post("/account/leave")
    assert left.headers["clear-site-data"] == '"storage"'
    assert len(people.people_of(household)) == 1


def test_a_forgotten_password_is_replaced_by_the_code_once(
    client: TestClient, household: Caller, database: Database
) -> None:
    name = name_of(database, household)
    owner = sign_in(client, name)
    shown = re.search(r'class="secret">([\w-]{23})<', owner.post("/account/code", expect=200).text)
    assert shown is not None
    code = shown[1]
    client.cookies.clear()
    token = door_token(client, "/recover")
    typed = {"csrf": token, "name": name, "code": code.lower().replace("-", " "), "new": NEW_PASSWORD}
    wrong = client.post("/recover", data=typed | {"code": "AAAAA-AAAAA-AAAAA-AAAAA"})
    assert wrong.status_code == 422
    weak = client.post("/recover", data=typed | {"new": "short"})
    assert weak.status_code == 422
    came = client.post("/recover", data=typed)
    assert came.status_code == 200
    next_code = re.search(r"<code>([\w-]{23})</code>", came.text)
    assert next_code is not None
    assert next_code[1] != code
    assert client.get("/week", follow_redirects=False).headers.get("location", "").startswith("/week"), "signed in"
    door = accounts.Door("elsewhere")
    with pytest.raises(SignInRefused):
        accounts.recover(database, name, code, "another-long-one", door, free=5, days=1)
    with pytest.raises(SignInRefused):
        accounts.sign_in(database, name, PASSWORD, door, free=5, days=1)
    assert accounts.sign_in(database, name, NEW_PASSWORD, door, free=5, days=1)


def test_a_code_from_the_owner_runs_out_and_guessing_waits(household: Caller, database: Database) -> None:
    name = f"forgot-{uuid4().hex[:8]}"
    people.join(database, people.invite(household, COOK, None), name, PASSWORD)
    who = next(p.id for p in people.people_of(household) if p.name == name)
    code, door = people.recovery_code_for(household, who), accounts.Door("there")
    with database.accounts() as session, session.begin():
        until = session.get_one(UserAccount, who).recovery_until
        assert until is not None
        assert until < utc_now() + people.CODE_FROM_OWNER_FOR
        session.get_one(UserAccount, who).recovery_until = utc_now() - timedelta(seconds=1)
    with pytest.raises(SignInRefused):
        accounts.recover(database, name, code, NEW_PASSWORD, door, free=9, days=1)
    code = people.recovery_code_for(household, who)
    for _ in range(3):
        with pytest.raises((SignInRefused, TooManyAttempts)):
            accounts.recover(database, name, "guess", NEW_PASSWORD, accounts.Door("guesser"), free=2, days=1)
    with pytest.raises(TooManyAttempts):
        accounts.recover(database, name, code, NEW_PASSWORD, accounts.Door("guesser"), free=2, days=1)
    assert accounts.recover(database, name, code, NEW_PASSWORD, accounts.Door("home"), free=9, days=1)


def test_deleting_the_household_takes_all_of_it_and_nothing_else(
    client: TestClient, household: Caller, neighbour: Caller, database: Database
) -> None:
    furnish(household)
    furnish(neighbour)
    owner = sign_in(client, name_of(database, household))
    in_as(TestClient(client.app, base_url="http://localhost"), COOK, household)
    refused = owner.post("/people/delete-household", {"typed": "another boat"}, expect=422)
    assert "not what the household is called" in text_of(refused.text)
    owner.post("/people/delete-household", {"typed": "A test galley"})
    with database.accounts() as session:
        there = select(func.count(UserAccount.id)).where(UserAccount.household_id == household.household_id)
        assert session.scalar(there) == 0
    assert week_picture(household, MONDAY) is None
    assert week_picture(neighbour, MONDAY) is not None
    answer = client.get("/week", follow_redirects=False)
    assert answer.headers["location"].startswith("/sign-in")


@pytest.mark.parametrize(("how", "door", "link"), [("open", 200, 200), ("invited", 303, 200), ("closed", 303, 404)])
def test_sign_up_is_open_by_invitation_or_closed(
    database: Database, household: Caller, how: str, door: int, link: int
) -> None:
    app = create_app(database, Settings(data_dir=Path("unused"), sign_up=how), clock=lambda: MONDAY)
    app.router.lifespan_context = _no_lifespan
    token = people.invite(household, COOK, None)
    with TestClient(app, base_url="http://localhost") as client:
        assert client.get("/first-run", follow_redirects=False).status_code == door
        assert client.get(f"/join/{token}").status_code == link
        csrf = door_token(client, "/sign-in")
        typed = {"csrf": csrf, "household_name": "Another", "name": f"another-{how}-{uuid4().hex[:6]}"}
        made = client.post("/first-run", data=typed | {"password": PASSWORD}, follow_redirects=False)
        assert made.status_code == door
        assert (accounts.caller_named(database, typed["name"]) is not None) == (how == "open")
        sent = {"csrf": csrf, "name": f"in-{how}-{uuid4().hex[:6]}", "password": PASSWORD}
        assert client.post(f"/join/{token}", data=sent, follow_redirects=False).status_code == link
