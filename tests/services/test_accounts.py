"""The door: one first run, sign-ins that wait after guessing."""

import time
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from datetime import timedelta

import pytest
from sqlalchemy import select

from goodcrate.core.ground.errors import InvalidInputs
from goodcrate.core.ground.passwords import faults_of_password
from goodcrate.db.accounts import SignInTry
from goodcrate.db.session import Database
from goodcrate.formats.reference import common_passwords
from goodcrate.services import accounts, people
from goodcrate.services.calling import Caller, utc_now
from tests.conftest import PASSWORD, name_of


def enter(database: Database, name: str, password: str, address: str = "127.0.0.1") -> str:
    return accounts.sign_in(database, name, password, accounts.Door(address), free=3, days=30)[0]


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


def test_guessing_waits_longer_and_longer_where_it_is_done(
    database: Database, household: Caller, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Only there: whoever has the right password gets in from elsewhere, and from a device that is known."""
    name, clock = name_of(database, household), [utc_now()]
    monkeypatch.setattr("goodcrate.services.accounts.utc_now", lambda: clock[0])
    own = accounts.Door("192.0.2.7")
    _, device = accounts.sign_in(database, name, PASSWORD, own, free=3, days=30)
    for _ in range(3):
        with pytest.raises(accounts.SignInRefused):
            enter(database, name, "wrong password", "192.0.2.7")
    waits = []
    for n in range(10):
        with pytest.raises(accounts.TooManyAttempts) as caught:
            enter(database, name, PASSWORD, "192.0.2.7")  # also the right one: a guess is not told
        waits.append(caught.value.seconds)
        clock[0] += timedelta(seconds=caught.value.seconds)
        with pytest.raises(accounts.SignInRefused):
            enter(database, name, f"wrong password {n}", "192.0.2.7")
    assert waits == sorted(waits)
    assert (waits[0], waits[-1]) == (5, 900)
    assert "Try again in 15 min" in str(accounts.TooManyAttempts(waits[-1]))
    assert enter(database, name, PASSWORD, "192.0.2.8")
    known = accounts.Door("192.0.2.7", device_token=device)
    assert accounts.sign_in(database, name, PASSWORD, known, free=3, days=30)[1] == device
    clock[0] += timedelta(days=2)
    assert enter(database, name, PASSWORD, "192.0.2.7")  # forgotten after a day
    with database.accounts() as session:
        assert session.scalars(select(SignInTry).where(SignInTry.name == name)).all() == []


def test_many_guesses_at_once_get_no_more_than_one_after_another(
    database: Database, household: Caller, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(accounts, "FIRST_DELAY", timedelta(minutes=5))  # a busy machine takes seconds for them
    name = name_of(database, household)
    looked_at = []

    def guess(n: int) -> None:
        try:
            enter(database, name, f"wrong password {n}", "192.0.2.20")
        except accounts.SignInRefused:
            looked_at.append(n)
        except accounts.TooManyAttempts:
            pass

    with ThreadPoolExecutor(8) as hands:
        list(hands.map(guess, range(24)))
    assert len(looked_at) == 3


def test_guessing_from_everywhere_slows_everybody_but_known_devices(database: Database, household: Caller) -> None:
    name = name_of(database, household)
    _, device = accounts.sign_in(database, name, PASSWORD, accounts.Door("192.0.2.1"), free=3, days=30)
    for n in range(accounts.FREE_FOR_A_NAME):
        with suppress(accounts.SignInRefused):
            enter(database, name, "wrong password", f"198.51.100.{n}")
    with pytest.raises(accounts.TooManyAttempts):
        enter(database, name, PASSWORD, "203.0.113.5")
    known = accounts.Door("203.0.113.5", device_token=device)
    assert accounts.sign_in(database, name, PASSWORD, known, free=3, days=30)
    another = accounts.add_household(database, "Elsewhere", f"{name}-2", PASSWORD)
    stolen = accounts.Door("203.0.113.5", device_token=device)  # another's device is not known for this name
    assert accounts.sign_in(database, name_of(database, another), PASSWORD, stolen, free=3, days=30)[1] != device


@pytest.mark.parametrize(
    ("password", "why"),
    [
        ("short", "5 characters are too few"),
        ("aaaaaaaaaa", "only 1 different character"),
        ("1212121212", "only 2"),
        ("abcdefghijkl", "counts up"),
        ("9876543210", "counts"),
        ("1234567890", "counts"),
        ("Lockside 12", "a name on this page"),
        ("qwertyuiop", "commonest"),
        ("Password123", "commonest"),
        ("x" * 1001, "too long"),
    ],
)
def test_a_password_that_is_guessed_first_is_refused_with_the_reason(password: str, why: str) -> None:
    faults = list(faults_of_password(password, common_passwords(), ("Maren", "Lockside")))
    assert len(faults) == 1
    assert why in faults[0].message
    assert list(faults_of_password(PASSWORD, common_passwords(), ("Maren", "Lockside"))) == []


def test_another_password_signs_every_other_browser_out(database: Database, household: Caller) -> None:
    name = name_of(database, household)
    here, there = enter(database, name, PASSWORD), enter(database, name, PASSWORD, "192.0.2.30")
    signed = accounts.signed_in(database, here)
    assert signed is not None
    assert [d.is_this for d in accounts.open_doors(database, signed, here)].count(True) == 1
    wrong = (("wrong one", "millet-and-marrow", "old"), (PASSWORD, "aaaaaaaaaa", "new"), (PASSWORD, PASSWORD, "new"))
    for old, new, field in wrong:
        with pytest.raises(InvalidInputs) as caught:
            accounts.change_password(database, signed, here, old, new)
        assert [f.field for f in caught.value.faults] == [field]
    accounts.change_password(database, signed, here, PASSWORD, "millet-and-marrow")
    assert accounts.signed_in(database, there) is None
    assert accounts.signed_in(database, here) is not None
    with pytest.raises(accounts.SignInRefused):
        enter(database, name, PASSWORD)
    third = enter(database, name, "millet-and-marrow")
    key = next(d.key for d in accounts.open_doors(database, signed, here) if not d.is_this)
    accounts.close_doors(database, signed, key)
    assert accounts.signed_in(database, third) is None
    accounts.close_doors(database, signed)
    assert accounts.signed_in(database, here) is None


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
        people.sign_up(database, "Second boat", "second", PASSWORD)


def test_a_first_run_names_every_field_that_cannot_be_used(database: Database, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(people, "has_account", lambda _: False)
    with pytest.raises(InvalidInputs) as caught:
        people.sign_up(database, "", " ", "short")
    assert [f.field for f in caught.value.faults] == ["household_name", "name", "password"]
