"""The door: one first run, sign-ins that wait after guessing."""

import time
from datetime import timedelta

import pytest

from goodcrate.core.errors import InvalidInputs
from goodcrate.db.session import Database
from goodcrate.services import accounts
from goodcrate.services.calling import Caller, utc_now
from tests.conftest import PASSWORD, name_of


def enter(database: Database, name: str, password: str, address: str = "127.0.0.1") -> str:
    return accounts.sign_in(database, name, password, address, allowed_failures=3, days=30)


def test_signing_in_and_out(database: Database, household: Caller) -> None:
    token = enter(database, name_of(database, household), PASSWORD)
    signed = accounts.signed_in(database, token)
    assert signed is not None
    assert signed.household_id == household.household_id
    accounts.sign_out(database, token)
    assert accounts.signed_in(database, token) is None


def test_a_sign_in_is_taken_for_granted_for_seconds_only_and_never_after_signing_out(
    database: Database, household: Caller, monkeypatch: pytest.MonkeyPatch
) -> None:
    token = enter(database, name_of(database, household), PASSWORD)
    assert accounts.remembered(database, token) is None  # nobody has come with it yet
    signed = accounts.signed_in(database, token)
    assert accounts.remembered(database, token) == signed
    assert accounts.remembered(database, token + "x") is None
    later = time.monotonic() + accounts.REMEMBERED_S + 1
    monkeypatch.setattr("goodcrate.services.accounts.time.monotonic", lambda: later)
    assert accounts.remembered(database, token) is None
    monkeypatch.undo()
    accounts.signed_in(database, token)
    accounts.sign_out(database, token)
    assert accounts.remembered(database, token) is None


def test_guessing_has_to_wait_and_a_right_password_too(
    database: Database, household: Caller, monkeypatch: pytest.MonkeyPatch
) -> None:
    name = name_of(database, household)
    for _ in range(3):
        with pytest.raises(accounts.SignInRefused):
            enter(database, name, "wrong password", "192.0.2.7")
    with pytest.raises(accounts.TooManyAttempts) as caught:
        enter(database, name, PASSWORD, "192.0.2.8")
    assert 1 <= caught.value.minutes <= 15
    later = utc_now() + timedelta(minutes=16)
    monkeypatch.setattr("goodcrate.services.accounts.utc_now", lambda: later)
    assert enter(database, name, PASSWORD)


def test_an_unknown_name_is_refused_like_a_wrong_password(database: Database) -> None:
    with pytest.raises(accounts.SignInRefused, match="do not belong together"):
        enter(database, "nobody at all", PASSWORD, "192.0.2.9")


def test_a_run_out_sign_in_is_forgotten(database: Database, household: Caller, monkeypatch: pytest.MonkeyPatch) -> None:
    token = enter(database, name_of(database, household), PASSWORD)
    later = utc_now() + timedelta(days=31)
    monkeypatch.setattr("goodcrate.services.accounts.utc_now", lambda: later)
    assert accounts.signed_in(database, token) is None


def test_sign_up_is_over_once_somebody_has_an_account(database: Database, household: Caller) -> None:
    assert accounts.has_account(database)
    with pytest.raises(InvalidInputs, match="already has its account"):
        accounts.sign_up(database, "Second boat", "second", PASSWORD)
    with pytest.raises(InvalidInputs) as caught:
        accounts.sign_up(database, "", " ", "short")
    assert [f.field for f in caught.value.faults] == ["household_name", "name", "password"]
