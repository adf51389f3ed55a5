"""Passkeys: whose key answers is let in, once for each question, and nobody else by anything else."""

import json
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from datetime import timedelta

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.db.session import Database
from goodcrate.services import accounts, passkeys, people
from goodcrate.services.accounts import SignedIn, SignInRefused
from goodcrate.services.calling import Caller, utc_now
from goodcrate.services.passkeys import Site
from tests.authenticator import PRESENT, Authenticator, as_bytes, as_text
from tests.conftest import PASSWORD, name_of

HERE = Site("localhost", "http://localhost")
DOOR = accounts.Door("127.0.0.1", "Mozilla/5.0 (X11; Linux) Chrome/156.0")


@pytest.fixture
def signed(database: Database, household: Caller) -> SignedIn:
    token, _ = accounts.sign_in(database, name_of(database, household), PASSWORD, DOOR, free=3, days=1)
    found = accounts.signed_in(database, token)
    assert found is not None
    return found


def with_key(database: Database, signed: SignedIn) -> Authenticator:
    """A device that has a key of theirs."""
    device = Authenticator()
    answer = device.make(passkeys.ask_for_new(database, signed, PASSWORD, HERE))
    passkeys.add(database, signed, HERE, answer, DOOR.device)
    return device


def come_in(database: Database, answer: str, site: Site = HERE) -> SignedIn | None:
    return accounts.signed_in(database, passkeys.sign_in(database, site, answer, DOOR, 1)[0])


def test_whose_key_answers_is_let_in(database: Database, signed: SignedIn) -> None:
    device, other = with_key(database, signed), with_key(database, signed)
    assert [(key.device, key.used_at) for key in passkeys.keys_of(database, signed)] == [("Chrome, Linux", None)] * 2
    for one in (device, other, device):
        came = come_in(database, one.sign(passkeys.ask(database, HERE)))
        assert came is not None
        assert came.user_id == signed.user_id
    assert all(key.used_at for key in passkeys.keys_of(database, signed))


def test_a_key_is_made_only_with_the_password_and_kept_once(database: Database, signed: SignedIn) -> None:
    with pytest.raises(InvalidInput, match="not your password"):
        passkeys.ask_for_new(database, signed, "barley", HERE)
    device = Authenticator()
    question = passkeys.ask_for_new(database, signed, PASSWORD, HERE)
    answer = device.make(question)
    passkeys.add(database, signed, HERE, answer, DOOR.device)
    with pytest.raises(InvalidInput, match="sent before"):
        passkeys.add(database, signed, HERE, answer, DOOR.device)
    again = passkeys.ask_for_new(database, signed, PASSWORD, HERE)
    assert [as_bytes(one["id"]) for one in json.loads(again)["excludeCredentials"]] == [device.key_id]
    with pytest.raises(InvalidInput, match="here already"):
        passkeys.add(database, signed, HERE, device.make(again), DOOR.device)
    for _ in range(passkeys.MOST - 1):
        with_key(database, signed)
    with pytest.raises(InvalidInput, match="10 passkeys already"):
        passkeys.ask_for_new(database, signed, PASSWORD, HERE)


def forged(device: Authenticator) -> Authenticator:
    """Another device that says it has the same key."""
    return Authenticator(key_id=device.key_id)


@pytest.mark.parametrize(
    "changed",
    [
        forged,
        lambda device: replace(device, origin="http://localhost.example"),
        lambda device: replace(device, flags=PRESENT),  # nobody made sure who holds it
        lambda device: replace(device, flags=0),
        lambda device: replace(device, count=-1),  # it has signed as often before: a copy of the device
        lambda _: Authenticator(),
    ],
)
def test_nothing_else_is_an_answer(
    database: Database, signed: SignedIn, changed: Callable[[Authenticator], Authenticator]
) -> None:
    device = with_key(database, signed)
    assert come_in(database, device.sign(passkeys.ask(database, HERE)))
    question = passkeys.ask(database, HERE)
    with pytest.raises(SignInRefused):
        come_in(database, changed(device).sign(question))
    assert come_in(database, device.sign(question))  # who was not let in has used nothing up


def test_an_answer_counts_once_and_only_to_a_question_of_ours(
    database: Database, signed: SignedIn, monkeypatch: pytest.MonkeyPatch
) -> None:
    device = with_key(database, signed)
    answer = device.sign(passkeys.ask(database, HERE))

    def knocks(_: int) -> bool:
        try:
            return come_in(database, answer) is not None
        except SignInRefused:
            return False

    with ThreadPoolExecutor(4) as pool:
        assert sorted(pool.map(knocks, range(4))) == [False, False, False, True]
    own = passkeys.ask_for_new(database, signed, PASSWORD, HERE)
    for question in ({"challenge": as_text(bytes(64)), "rpId": "localhost"}, json.loads(own) | {"rpId": "localhost"}):
        with pytest.raises(SignInRefused, match="took too long"):
            come_in(database, device.sign(json.dumps(question)))
    late = device.sign(passkeys.ask(database, HERE))
    then = utc_now() + passkeys.OPEN_FOR + timedelta(seconds=1)
    monkeypatch.setattr(passkeys, "utc_now", lambda: then)
    with pytest.raises(SignInRefused, match="took too long"):
        come_in(database, late)


def test_a_new_key_is_only_for_who_asked_for_it(database: Database, signed: SignedIn, neighbour: Caller) -> None:
    token, _ = accounts.sign_in(database, name_of(database, neighbour), PASSWORD, DOOR, free=3, days=1)
    other = accounts.signed_in(database, token)
    assert other is not None
    answer = Authenticator().make(passkeys.ask_for_new(database, signed, PASSWORD, HERE))
    with pytest.raises(InvalidInput, match="took too long"):
        passkeys.add(database, other, HERE, answer, DOOR.device)
    with_key(database, signed)
    (key,) = passkeys.keys_of(database, signed)
    passkeys.remove(database, other, key.key)
    assert passkeys.keys_of(database, signed) == [key]
    assert passkeys.keys_of(database, other) == []


def test_a_key_that_was_removed_lets_nobody_in(database: Database, signed: SignedIn, household: Caller) -> None:
    removed, lost = with_key(database, signed), with_key(database, signed)
    newest = passkeys.keys_of(database, signed)[0]
    passkeys.remove(database, signed, newest.key)
    with pytest.raises(SignInRefused, match="Nobody here"):
        come_in(database, lost.sign(passkeys.ask(database, HERE)))
    assert come_in(database, removed.sign(passkeys.ask(database, HERE)))
    code = people.recovery_code_for(household, signed.user_id)
    accounts.recover(database, signed.user_name, code, "another-long-one", DOOR, free=5, days=1)
    with pytest.raises(SignInRefused, match="Nobody here"):  # whoever got in meanwhile may have made it
        come_in(database, removed.sign(passkeys.ask(database, HERE)))
    assert not passkeys.keys_of(database, signed)


@pytest.mark.parametrize(
    ("host", "has"), [("boat.example", True), ("localhost", True), ("192.0.2.7", False), ("[::1]", False), ("", False)]
)
def test_keys_are_bound_to_a_name(host: str, has: bool) -> None:
    assert Site(host, f"https://{host}").has_keys == has


JSON = st.recursive(
    st.none() | st.booleans() | st.integers() | st.text(max_size=20),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=8), inner, max_size=3),
    max_leaves=8,
)


@pytest.fixture
def asked(database: Database, signed: SignedIn) -> tuple[Authenticator, str, str]:
    """A device that has a key, what it is asked for another one, and what it is asked at the door."""
    device, at_door = with_key(database, signed), passkeys.ask(database, HERE)
    return device, passkeys.ask_for_new(database, signed, PASSWORD, HERE), at_door


def refused(database: Database, signed: SignedIn, *, making: bool, sent: str) -> None:
    with pytest.raises(InvalidInput if making else SignInRefused):
        passkeys.add(database, signed, HERE, sent, "") if making else come_in(database, sent)


@settings(max_examples=150, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(where=st.sampled_from(["id", "rawId", "type", "response", "clientDataJSON"]), what=JSON, cut=st.integers(0, 40))
@pytest.mark.parametrize("part", ["attestationObject", "authenticatorData", "signature"])
def test_hostile_answers_are_refused_in_a_sentence(
    database: Database,
    signed: SignedIn,
    asked: tuple[Authenticator, str, str],
    part: str,
    where: str,
    what: object,
    cut: int,
) -> None:
    device, for_new, at_door = asked
    making = part == "attestationObject"
    short, other = (json.loads(device.make(for_new) if making else device.sign(at_door)) for _ in range(2))
    short["response"][part] = short["response"][part][:cut]
    (other["response"] if where == "clientDataJSON" else other)[where] = what
    for sent in (json.dumps(short), json.dumps(other), json.dumps(other)[:cut], json.dumps(what)):
        refused(database, signed, making=making, sent=sent)
