"""The pages of passkeys: made on the account page, asked for at the door, and only where a browser can."""

import re

from fastapi.testclient import TestClient

from goodcrate.db.session import Database
from goodcrate.services.calling import Caller
from tests.authenticator import Authenticator
from tests.conftest import PASSWORD, Cook, name_of, sign_in, text_of


def made(cook: Cook) -> Authenticator:
    """A device that has a key of whoever is signed in."""
    device = Authenticator()
    question = cook.post("/account/passkeys/ask", {"password": PASSWORD}, expect=200)
    assert question.headers["content-type"] == "application/json"
    answer = cook.post("/account/passkeys", {"answer": device.make(question.text)})
    assert answer.headers["location"] == "/account?done=passkey"
    return device


def at_the_door(client: TestClient) -> dict[str, str]:
    """What the form of the door sends by itself."""
    form = re.search(r'action="/sign-in/passkey".*?</form>', client.get("/sign-in").text, re.S)
    assert form is not None
    return dict(re.findall(r'name="(csrf|next)" value="([^"]+)"', form[0]))


def test_in_by_a_passkey_and_out_with_it(client: TestClient, cook: Cook, household: Caller, database: Database) -> None:
    page = cook.get("/account")
    assert 'data-passkey="/account/passkeys/ask"' in page
    device = made(cook)
    assert "not used yet" in text_of(cook.get("/account?done=passkey"))
    cook.post("/sign-out")
    sent = at_the_door(client)
    question = client.post("/sign-in/passkey/ask", data=sent).text
    answer = client.post("/sign-in/passkey", data={**sent, "answer": device.sign(question)}, follow_redirects=False)
    assert (answer.status_code, answer.headers["location"]) == (303, "/")
    account = client.get("/account").text
    assert name_of(database, household) in account
    assert "last used" in text_of(account)
    twice = client.post("/sign-in/passkey", data={**sent, "answer": device.sign(question)})
    assert twice.status_code == 422
    assert "took too long, or was sent before" in text_of(twice.text)
    again = sign_in(client, name_of(database, household))
    key = re.search(r"/account/passkeys/(\w+)/remove", again.get("/account"))
    assert key is not None
    again.post(key[0])
    assert key[0] not in again.get("/account")


def test_what_is_wrong_is_said_and_nothing_is_made(cook: Cook) -> None:
    refused = cook.post("/account/passkeys/ask", {"password": "barley"}, expect=422)
    assert refused.json() == {"error": "This is not your password. Type the one you sign in with."}
    assert "could not be read" in text_of(cook.post("/account/passkeys", {"answer": "{}"}, expect=422).text)
    cook.post("/account/passkeys/ask", {"csrf": "a neighbour", "password": PASSWORD}, expect=403)


def test_where_no_key_can_be_bound_none_is_offered(cook: Cook) -> None:
    cook.client.headers["host"] = "127.0.0.1:8100"
    page = cook.get("/account")
    assert "data-passkey=" not in page
    assert "a name of its own and https" in text_of(page)
    assert "data-passkey=" not in cook.client.get("/sign-in").text
