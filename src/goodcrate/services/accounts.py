"""The door: the first account, signing in and out, and waiting after too many failures."""

import hashlib
import secrets
import time
from collections import OrderedDict
from dataclasses import dataclass
from datetime import datetime, timedelta
from uuid import UUID, uuid4
from weakref import WeakKeyDictionary

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerifyMismatchError
from sqlalchemy import bindparam, delete, func, select

from goodcrate.core.errors import GoodCrateError, InvalidInput, InvalidInputs
from goodcrate.db.accounts import Household, SignIn, SignInFailure, UserAccount
from goodcrate.db.foods import FoodStampRow
from goodcrate.db.session import AccountSession, Database
from goodcrate.services.calling import Caller, utc_now

FAILURE_WINDOW = timedelta(minutes=15)
FAILURES_PER_ADDRESS = 30
SHORTEST_PASSWORD = 10
_hasher = PasswordHasher(time_cost=2, memory_cost=19_456, parallelism=1)  # OWASP's argon2id minimum
_NOBODYS_HASH = _hasher.hash(secrets.token_hex(16))


class SignInRefused(GoodCrateError):
    """Name and password do not belong together; which of the two is not said."""


class TooManyAttempts(GoodCrateError):
    """Guessing has to wait; `minutes` until the next try counts."""

    def __init__(self, minutes: int) -> None:
        self.minutes = minutes
        super().__init__(f"Too many failed sign-ins. Try again in {minutes} min.")


@dataclass(frozen=True)
class SignedIn:
    """A browser's sign-in: who, where, and the token that proves its forms are ours."""

    user_id: UUID
    user_name: str
    household_id: UUID
    household_name: str
    csrf_token: str


def has_account(database: Database) -> bool:
    """Whether anybody has signed up yet; the sign-up page is open only until then."""
    with database.accounts() as session:
        return session.scalar(select(UserAccount.id).limit(1)) is not None


def sign_up(database: Database, household_name: str, name: str, password: str) -> Caller:
    """The first run: one household with its first account.

    Raises:
        InvalidInputs: naming every field that cannot be used, or when somebody has signed up already.
    """
    faults = []
    household_name, name = household_name.strip(), name.strip()
    if not household_name or len(household_name) > 160:
        faults.append(InvalidInput("household_name", "The household needs a name.", "Up to 160 letters."))
    if not name or len(name) > 80:
        faults.append(InvalidInput("name", "You need a name to sign in with.", "Up to 80 letters."))
    if len(password) < SHORTEST_PASSWORD:
        faults.append(
            InvalidInput("password", f"{len(password)} characters are too few.", f"At least {SHORTEST_PASSWORD}.")
        )
    elif len(password) > 1000:
        faults.append(InvalidInput("password", "This is too long.", "At most 1,000 characters."))
    if faults:
        raise InvalidInputs(faults)
    password_hash = _hasher.hash(password)
    with database.accounts() as session, session.begin():
        # One sign-up at a time, also across processes: two first runs must not make two households.
        session.execute(select(func.get_lock("goodcrate-first-run", 10)))
        try:
            if session.scalar(select(UserAccount.id).limit(1)) is not None:
                raise InvalidInputs([InvalidInput("name", "This kitchen already has its account.", "Sign in instead.")])
            caller = _add_household(session, database, household_name, name, password_hash)
            session.flush()
        finally:
            session.execute(select(func.release_lock("goodcrate-first-run")))
    return caller


def add_household(database: Database, household_name: str, name: str, password: str) -> Caller:
    """One more household with its own account (the demo, and tests of the walls between households)."""
    password_hash = _hasher.hash(password)
    with database.accounts() as session, session.begin():
        return _add_household(session, database, household_name, name, password_hash)


def _add_household(
    session: AccountSession, database: Database, household_name: str, name: str, password_hash: str
) -> Caller:
    now = utc_now()
    household = Household(id=uuid4(), name=household_name, created_at=now)
    session.add(household)
    session.flush()
    session.add(FoodStampRow(household_id=household.id, value=0))
    user = UserAccount(id=uuid4(), household_id=household.id, name=name, password_hash=password_hash, created_at=now)
    session.add(user)
    return Caller(database, household.id, user.id)


def sign_in(database: Database, name: str, password: str, address: str, *, allowed_failures: int, days: int) -> str:
    """Check name and password and return a fresh session token.

    Raises:
        TooManyAttempts: after `allowed_failures` for the name, or many from one address, within 15 minutes.
        SignInRefused: when name and password do not belong together.
    """
    now, name = utc_now(), name.strip()[:80]
    with database.accounts() as session, session.begin():
        _refuse_guessing(session, name, address, now, allowed_failures)
        user = session.scalar(select(UserAccount).where(UserAccount.name == name))
    try:
        # A wrong name costs as much time as a wrong password.
        _hasher.verify(user.password_hash if user else _NOBODYS_HASH, password[:1000])
        matches = user is not None
    except (VerifyMismatchError, InvalidHashError):
        matches = False
    if user is None or not matches:
        with database.accounts() as session, session.begin():
            session.add(SignInFailure(name=name, address=address[:64], at=now))
        raise SignInRefused("This name and password do not belong together.")
    token = secrets.token_urlsafe(32)
    with database.accounts() as session, session.begin():
        session.execute(delete(SignInFailure).where(SignInFailure.name == name))
        session.execute(delete(SignIn).where(SignIn.expires_at < now))
        session.add(
            SignIn(
                token_hash=_hash(token),
                user_id=user.id,
                csrf_token=secrets.token_urlsafe(24),
                created_at=now,
                expires_at=now + timedelta(days=days),
            )
        )
    return token


def _refuse_guessing(session: AccountSession, name: str, address: str, now: datetime, allowed: int) -> None:
    since = now - FAILURE_WINDOW
    for column, value, most in (
        (SignInFailure.name, name, allowed),
        (SignInFailure.address, address[:64], FAILURES_PER_ADDRESS),
    ):
        times = session.scalars(
            select(SignInFailure.at).where(column == value, SignInFailure.at > since).order_by(SignInFailure.at.desc())
        ).all()
        if len(times) >= most:
            wait = times[most - 1] + FAILURE_WINDOW - now
            raise TooManyAttempts(max(1, -(-int(wait.total_seconds()) // 60)))


_WHOSE_TOKEN = (  # put together once: every request asks it
    select(UserAccount.id, UserAccount.name, Household.id, Household.name, SignIn.csrf_token)
    .join(UserAccount, SignIn.user_id == UserAccount.id)
    .join(Household, UserAccount.household_id == Household.id)
    .where(SignIn.token_hash == bindparam("token_hash"), SignIn.expires_at > bindparam("now"))
)


REMEMBERED_S = 5.0
"""How long a sign-in is taken for granted before the database is asked again: typing asks many times a second."""
_MOST_REMEMBERED = 500
_REMEMBERED: WeakKeyDictionary[Database, OrderedDict[bytes, tuple[float, SignedIn]]] = WeakKeyDictionary()


def remembered(database: Database, token: str) -> SignedIn | None:
    """Who a token belonged to within the last seconds, without asking the database; None when that is not known."""
    found = _REMEMBERED[database].get(_hash(token)) if database in _REMEMBERED else None
    return found[1] if found and time.monotonic() - found[0] < REMEMBERED_S else None


def signed_in(database: Database, token: str) -> SignedIn | None:
    """Who a session token belongs to, or None when it is unknown or has run out."""
    with database.accounts() as session:
        row = session.execute(_WHOSE_TOKEN, {"token_hash": _hash(token), "now": utc_now()}).one_or_none()
    known = _REMEMBERED.setdefault(database, OrderedDict())
    known.pop(_hash(token), None)
    if row is None:
        return None
    signed = SignedIn(*row)
    known[_hash(token)] = (time.monotonic(), signed)
    while len(known) > _MOST_REMEMBERED:
        known.popitem(last=False)
    return signed


def sign_out(database: Database, token: str) -> None:
    """Forget a session token, at once here and within seconds in any other process."""
    with database.accounts() as session, session.begin():
        session.execute(delete(SignIn).where(SignIn.token_hash == _hash(token)))
    if database in _REMEMBERED:
        _REMEMBERED[database].pop(_hash(token), None)


def _hash(token: str) -> bytes:
    return hashlib.sha256(token.encode()).digest()
