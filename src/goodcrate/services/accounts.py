"""The door: the first account, signing in and out, passwords, and waiting after too many failures."""

import hashlib
import secrets
import time
from collections import OrderedDict
from collections.abc import Callable, Collection, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from datetime import datetime, timedelta
from math import ceil
from uuid import UUID, uuid4
from weakref import WeakKeyDictionary

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerifyMismatchError
from sqlalchemy import bindparam, delete, func, select, update
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.exc import OperationalError

from goodcrate.core.ground.errors import GoodCrateError, InvalidInput, InvalidInputs
from goodcrate.core.ground.passwords import LONGEST, faults_of_password
from goodcrate.core.ground.roles import EATER, OWNER
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import PLAIN, Writing
from goodcrate.db.accounts import Household, KnownDevice, Passkey, PasskeyQuestion, SignIn, SignInTry, UserAccount
from goodcrate.db.changes import HouseholdChangeRow, counts_of_new
from goodcrate.db.foods import FoodStampRow
from goodcrate.db.session import AccountSession, Database
from goodcrate.formats.reference import common_passwords
from goodcrate.services.calling import Caller, let_go, utc_now

FIRST_DELAY, LONGEST_DELAY = timedelta(seconds=5), timedelta(minutes=15)
"""Between tries once the free ones are used up: doubled from failure to failure."""
FREE_FOR_A_NAME = 60
"""Failures of a name from anywhere, devices it has signed in with apart, before tries from elsewhere must wait."""
ANYWHERE = "*"
LONGEST_QUEUE_S = 20
FORGOTTEN_AFTER = timedelta(days=1)
SEEN_EVERY = timedelta(minutes=10)
_hasher = PasswordHasher(time_cost=2, memory_cost=19_456, parallelism=1)  # OWASP's argon2id minimum
_NOBODYS_HASH = _hasher.hash(secrets.token_hex(16))


def hashed(password: str) -> str:
    """A password as it is kept."""
    return _hasher.hash(password)


class SignInRefused(GoodCrateError):
    """Name and password do not belong together; which of the two is not said."""


class TooManyAttempts(GoodCrateError):
    """Guessing has to wait; `seconds` until the next try counts."""

    def __init__(self, seconds: int) -> None:
        self.seconds = seconds
        wait = f"{seconds} s" if seconds < 120 else say("{part} min", part=-(-seconds // 60))
        super().__init__(say("Too many failed sign-ins. Try again in {wait}.", wait=wait))


@dataclass(frozen=True)
class SignedIn:
    """A browser's sign-in: who, where, the token that proves its forms are ours, and how figures are written there."""

    user_id: UUID
    user_name: str
    household_id: UUID
    household_name: str
    csrf_token: str
    writing: Writing = PLAIN
    role: str = OWNER
    eater_id: UUID | None = None

    @property
    def only_eater(self) -> UUID | None:
        """The one eater somebody acts for who only eats (an id of nobody, where none is said); None for the others."""
        return (self.eater_id or UUID(int=0)) if self.role == EATER else None


@dataclass(frozen=True)
class Door:
    """Where somebody knocks: the address, what the browser calls itself, and the token of a device that is known."""

    address: str
    device: str = ""
    device_token: str = ""


@dataclass(frozen=True)
class OpenDoor:
    """A browser that is signed in, as the account page lists it."""

    key: str
    device: str
    address: str
    since: datetime
    seen_at: datetime | None
    is_this: bool


def has_account(database: Database) -> bool:
    """Whether anybody has signed up yet; the sign-up page is open only until then."""
    with database.accounts() as session:
        return session.scalar(select(UserAccount.id).limit(1)) is not None


def new_recovery_code() -> str:
    """A code that lets somebody in without their password: 100 bits, in letters and digits that are not mixed up."""
    letters = "".join(secrets.choice("ABCDEFGHJKLMNPQRSTUVWXYZ23456789") for _ in range(20))
    return "-".join(letters[n : n + 5] for n in range(0, 20, 5))


def hash_of_code(typed: str) -> bytes:
    """A recovery code as it is kept, however it was typed."""
    return hash_of("".join(letter for letter in typed.upper() if letter.isalnum()))


def add_household(database: Database, household_name: str, name: str, password: str) -> Caller:
    """One more household with its own account (the demo, and tests of the walls between households)."""
    password_hash = hashed(password)
    with database.accounts() as session, session.begin():
        return put_household(session, database, household_name, name, password_hash)


def put_household(
    session: AccountSession, database: Database, household_name: str, name: str, password_hash: str, code: str = ""
) -> Caller:
    """Put a new household in with its owner, inside the caller's transaction; `code` is their recovery code."""
    now = utc_now()
    household_id = uuid4()
    household = Household(id=household_id, name=household_name, created_at=now, seed=household_id)
    session.add(household)
    session.flush()
    session.add(FoodStampRow(household_id=household.id, value=0))
    session.add(HouseholdChangeRow(**counts_of_new(household.id)))
    user = UserAccount(id=uuid4(), household_id=household.id, name=name, password_hash=password_hash, created_at=now)
    user.recovery_hash = hash_of_code(code) if code else None
    session.add(user)
    return Caller(database, household.id, user.id)


def caller_named(database: Database, name: str) -> Caller | None:
    """The person who signs in under a name, or None."""
    with database.accounts() as session:
        user = session.scalar(select(UserAccount).where(UserAccount.name == name.strip()))
        return None if user is None else Caller(database, user.household_id, user.id)


def _matches(user: UserAccount | None, password: str) -> bool:
    """Whether a password is the person's. A wrong name costs as much time as a wrong password."""
    try:
        _hasher.verify(user.password_hash if user else _NOBODYS_HASH, password[:LONGEST])
    except (VerifyMismatchError, InvalidHashError):
        return False
    return user is not None


def sign_in(database: Database, name: str, password: str, door: Door, *, free: int, days: int) -> tuple[str, str]:
    """Check name and password; answers a fresh session token and the device's token.

    Raises:
        TooManyAttempts: after `free` failures at one place the wait doubles from failure to failure.
        SignInRefused: when name and password do not belong together.
    """
    words = say("This name and password do not belong together.")
    user, device = _knocked(database, name, door, free, lambda user: _matches(user, password), words)
    return let_in(database, user, device, door, days)


def recover(
    database: Database, name: str, code: str, new: str, door: Door, *, free: int, days: int
) -> tuple[str, str, str]:
    """Let somebody in by their recovery code, with another password; answers the tokens of `sign_in` and the next code.

    The code works once; every browser is signed out, no device stays known, and no passkey stays.

    Raises:
        InvalidInputs: when the new password cannot be used; the code is not used up then.
        TooManyAttempts: guessing waits as it does at the door.
        SignInRefused: when name and code do not belong together, or the code has run out.
    """
    faults = list(faults_of_password(new, common_passwords(), (name,), "new"))
    if faults:
        raise InvalidInputs(faults)
    words = say("This name and code do not belong together, or the code has run out.")
    user, _ = _knocked(database, name, door, free, lambda user: _is_code_of(user, code), words)
    next_code, password_hash = new_recovery_code(), hashed(new)
    with database.accounts() as session, session.begin():
        row = session.get_one(UserAccount, user.id, with_for_update=True)
        if not _is_code_of(row, code):
            raise SignInRefused(words)
        row.password_hash, row.recovery_hash, row.recovery_until = password_hash, hash_of_code(next_code), None
        session.execute(delete(SignIn).where(SignIn.user_id == user.id))
        for kind in (KnownDevice, Passkey, PasskeyQuestion):
            session.execute(delete(kind).where(kind.user_id == user.id))
    _REMEMBERED.pop(database, None)
    return *let_in(database, user, None, door, days), next_code


def _is_code_of(user: UserAccount | None, code: str) -> bool:
    kept = (user.recovery_hash if user else None) or bytes(32)
    is_right = secrets.compare_digest(kept, hash_of_code(code))
    is_over = user is not None and user.recovery_until is not None and user.recovery_until < utc_now()
    return is_right and not is_over


def _knocked(
    database: Database, name: str, door: Door, free: int, is_right: Callable[[UserAccount | None], bool], words: str
) -> tuple[UserAccount, KnownDevice | None]:
    """Who knocks, and the device they are known by.

    Tries from one place are looked at one after another, so that many at once get no more than in a row. Failures are
    counted by name and address; a device that has signed in with this name before is counted by itself, so nobody
    else's guessing keeps it out.
    """
    now, name = utc_now(), name.strip()[:80]
    with database.accounts() as session:
        user = session.scalar(select(UserAccount).where(UserAccount.name == name))
        device = _device(session, user, door)
        here = f"device:{device.token_hash.hex()[:32]}" if device else door.address[:64]
        places = {here: free} if device else {here: free, ANYWHERE: FREE_FOR_A_NAME}
        session.commit()
        with _one_at_a_time(database, f"{name}|{here}"):
            now = utc_now()  # the others in the queue have taken their time
            _refuse_guessing(session, name, places, now)
            matches = is_right(user)
            if user is None or not matches:
                for place, most in places.items():
                    _count_failure(session, name, place, most, now)
                session.commit()
                raise SignInRefused(words)
        session.execute(delete(SignInTry).where(SignInTry.name == name, SignInTry.place == here))
        session.commit()
    return user, device


def let_in(database: Database, user: UserAccount, device: KnownDevice | None, door: Door, days: int) -> tuple[str, str]:
    """A fresh sign-in of somebody who has shown who they are; answers the tokens of `sign_in`."""
    now = utc_now()
    token, device_token = secrets.token_urlsafe(32), door.device_token if device else secrets.token_urlsafe(32)
    with database.accounts() as session, session.begin():
        session.add(
            SignIn(
                token_hash=hash_of(token),
                user_id=user.id,
                csrf_token=secrets.token_urlsafe(24),
                created_at=now,
                expires_at=now + timedelta(days=days),
                device=device_words(door.device),
                address=door.address[:64],
                seen_at=now,
            )
        )
        if device is None:
            session.add(KnownDevice(token_hash=hash_of(device_token), user_id=user.id, seen_at=now))
        else:
            session.execute(update(KnownDevice).where(KnownDevice.token_hash == device.token_hash).values(seen_at=now))
    _prune(database, now)
    return token, device_token


@contextmanager
def _one_at_a_time(database: Database, what: str) -> Iterator[None]:
    """Alone with something among all processes; the lock is a connection's own, and ends with it."""
    lock = f"goodcrate-door-{hashlib.sha256(what.encode()).hexdigest()[:32]}"
    with database.engine.connect() as connection:
        if not connection.scalar(select(func.get_lock(lock, LONGEST_QUEUE_S))):
            raise TooManyAttempts(LONGEST_QUEUE_S)
        try:
            yield
        finally:
            connection.execute(select(func.release_lock(lock)))


def _device(session: AccountSession, user: UserAccount | None, door: Door) -> KnownDevice | None:
    """The known device behind a token, if it is this person's."""
    if user is None or not door.device_token:
        return None
    device = session.get(KnownDevice, hash_of(door.device_token))
    return device if device is not None and device.user_id == user.id else None


def _refuse_guessing(session: AccountSession, name: str, places: Collection[str], now: datetime) -> None:
    waits = session.scalars(
        select(SignInTry.next_at).where(
            SignInTry.name == name,
            SignInTry.place.in_(places),
            SignInTry.last_at > now - FORGOTTEN_AFTER,
            SignInTry.next_at > now,
        )
    ).all()
    session.commit()
    if waits:
        raise TooManyAttempts(max(1, ceil((max(waits) - now).total_seconds())))


def _count_failure(session: AccountSession, name: str, place: str, free: int, now: datetime) -> None:
    """Note a failure at one place, and from when the next try there counts."""
    fresh = insert(SignInTry).values(name=name, place=place, failures=0, last_at=now, next_at=now)
    session.execute(fresh.on_duplicate_key_update(name=name))
    row = session.execute(
        select(SignInTry).where(SignInTry.name == name, SignInTry.place == place).with_for_update()
    ).scalar_one()
    row.failures = 1 if now - row.last_at > FORGOTTEN_AFTER else row.failures + 1
    row.last_at = now
    beyond = row.failures - free
    row.next_at = now - FIRST_DELAY if beyond < 0 else now + min(LONGEST_DELAY, FIRST_DELAY * 2 ** min(beyond, 16))


def _prune(database: Database, now: datetime) -> None:
    """Let go what has run out; whoever meets another in this leaves it to them."""
    with suppress(OperationalError), database.accounts() as session, session.begin():
        let_go(session, SignInTry, SignInTry.last_at < now - FORGOTTEN_AFTER)
        let_go(session, SignIn, SignIn.expires_at < now)
        let_go(session, KnownDevice, KnownDevice.seen_at < now - KNOWN_FOR)


KNOWN_FOR = timedelta(days=400)
_BROWSERS = ("Firefox", "Edg", "OPR", "Chrome", "Safari")
_SYSTEMS = ("Android", "iPhone", "iPad", "Windows", "Mac OS X", "Linux")


def device_words(user_agent: str) -> str:
    """What a browser calls itself, in two words: “Firefox, Linux”."""
    words = [next((w for w in kinds if w in user_agent[:400]), "") for kinds in (_BROWSERS, _SYSTEMS)]
    named = {"Edg": "Edge", "OPR": "Opera", "Mac OS X": "Mac"}
    return ", ".join(named.get(w, w) for w in words if w) or say("a browser")


def knows_password(database: Database, user_id: UUID, password: str) -> bool:
    """Whether a password is the person's."""
    with database.accounts() as session:
        user = session.get(UserAccount, user_id)
    return _matches(user, password)


def change_password(database: Database, signed: SignedIn, token: str, old: str, new: str) -> None:
    """Another password for the person who is signed in; every other browser is signed out, and no device stays known.

    Raises:
        InvalidInputs: when the old one is wrong, or the new one cannot be used.
    """
    with database.accounts() as session:
        user = session.get_one(UserAccount, signed.user_id)
    if not _matches(user, old):
        raise InvalidInputs(
            [InvalidInput("old", say("This is not your password."), say("Type the one you sign in with."))]
        )
    faults = list(faults_of_password(new, common_passwords(), (signed.user_name, signed.household_name), "new"))
    if not faults and new == old:
        faults = [InvalidInput("new", say("This is the old one."), say("Choose another."))]
    if faults:
        raise InvalidInputs(faults)
    password_hash = hashed(new)
    with database.accounts() as session, session.begin():
        row = session.get_one(UserAccount, user.id, with_for_update=True)
        if row.password_hash != user.password_hash:
            fault = InvalidInput("old", say("It was changed at this moment."), say("Type the one you sign in with."))
            raise InvalidInputs([fault])
        row.password_hash = password_hash
        session.execute(delete(SignIn).where(SignIn.user_id == user.id, SignIn.token_hash != hash_of(token)))
        session.execute(delete(KnownDevice).where(KnownDevice.user_id == user.id))
    _REMEMBERED.pop(database, None)


def open_doors(database: Database, signed: SignedIn, token: str) -> list[OpenDoor]:
    """Where the person is signed in, the latest first."""
    with database.accounts() as session:
        rows = session.scalars(
            select(SignIn)
            .where(SignIn.user_id == signed.user_id, SignIn.expires_at > utc_now())
            .order_by(SignIn.created_at.desc())
        ).all()
    return [
        OpenDoor(r.token_hash.hex()[:16], r.device, r.address, r.created_at, r.seen_at, r.token_hash == hash_of(token))
        for r in rows
    ]


def close_doors(database: Database, signed: SignedIn, key: str | None = None) -> None:
    """Sign out everywhere, and let no device stay known; or, by its key, in one browser, if it is signed in."""
    with database.accounts() as session, session.begin():
        mine = session.scalars(select(SignIn.token_hash).where(SignIn.user_id == signed.user_id)).all()
        gone = [h for h in mine if key is None or h.hex()[:16] == key]
        session.execute(delete(SignIn).where(SignIn.token_hash.in_(gone)))
        if key is None:
            session.execute(delete(KnownDevice).where(KnownDevice.user_id == signed.user_id))
    _REMEMBERED.pop(database, None)


_WHOSE_TOKEN = (  # put together once: every request asks it
    select(
        UserAccount.id,
        UserAccount.name,
        UserAccount.role,
        UserAccount.eater_id,
        Household,
        SignIn.csrf_token,
        SignIn.seen_at,
    )
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
    found = _REMEMBERED[database].get(hash_of(token)) if database in _REMEMBERED else None
    return found[1] if found and time.monotonic() - found[0] < REMEMBERED_S else None


def signed_in(database: Database, token: str) -> SignedIn | None:
    """Who a session token belongs to, or None when it is unknown or has run out."""
    with database.accounts() as session:
        now = utc_now()
        row = session.execute(_WHOSE_TOKEN, {"token_hash": hash_of(token), "now": now}).one_or_none()
        signed = None
        if row is not None:
            home = row.Household
            may = {"role": row.role, "eater_id": row.eater_id}
            signed = SignedIn(row.id, row.name, home.id, home.name, row.csrf_token, writing=home.writing, **may)
        if row is not None and (row.seen_at is None or now - row.seen_at > SEEN_EVERY):
            session.execute(update(SignIn).where(SignIn.token_hash == hash_of(token)).values(seen_at=now))
            session.commit()
    known = _REMEMBERED.setdefault(database, OrderedDict())
    known.pop(hash_of(token), None)
    if signed is None:
        return None
    known[hash_of(token)] = (time.monotonic(), signed)
    while len(known) > _MOST_REMEMBERED:
        known.popitem(last=False)
    return signed


def look_again(database: Database) -> None:
    """Ask the database whose each sign-in is before the next page: a name that stands on all of them has changed."""
    _REMEMBERED.pop(database, None)


def sign_out(database: Database, token: str) -> None:
    """Forget a session token, at once here and within seconds in any other process."""
    with database.accounts() as session, session.begin():
        session.execute(delete(SignIn).where(SignIn.token_hash == hash_of(token)))
    if database in _REMEMBERED:
        _REMEMBERED[database].pop(hash_of(token), None)


def hash_of(token: str) -> bytes:
    """A secret as it is kept."""
    return hashlib.sha256(token.encode()).digest()
