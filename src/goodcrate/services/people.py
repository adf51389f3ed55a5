"""People of households: who makes one, who is invited into it, what each may do, and who goes."""

import secrets
from dataclasses import dataclass
from datetime import datetime, timedelta
from uuid import UUID, uuid4

from sqlalchemy import delete, func, select

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.passwords import faults_of_password
from goodcrate.core.ground.roles import COOK, EATER, OWNER, ROLES
from goodcrate.core.ground.wording import Saying, say
from goodcrate.db.accounts import Household, Invitation, KnownDevice, Passkey, PasskeyQuestion, SignIn, UserAccount
from goodcrate.db.session import AccountSession, Database
from goodcrate.db.targets import EaterRow
from goodcrate.db.whole import take_out_household
from goodcrate.formats.reference import common_passwords
from goodcrate.services.accounts import (
    caller_named,
    has_account,
    hash_of,
    hash_of_code,
    hashed,
    look_again,
    new_recovery_code,
    put_household,
)
from goodcrate.services.calling import Caller, NotFound, let_go, utc_now

INVITED_FOR = timedelta(days=7)
CODE_FROM_OWNER_FOR = timedelta(days=1)


def sign_up(
    database: Database, household_name: str, name: str, password: str, *, may_be_another: bool = False
) -> tuple[Caller, str]:
    """A household with its first person, its owner; answers their recovery code, which is shown this once.

    Raises:
        InvalidInputs: naming every field that cannot be used; or when somebody has signed up already, unless there
            `may_be_another` household.
    """
    household_name, name = household_name.strip(), name.strip()
    if not may_be_another and has_account(database):
        raise InvalidInputs([_TAKEN])
    faults = []
    if not household_name or len(household_name) > 160:
        faults.append(InvalidInput("household_name", say("The household needs a name."), say("Up to 160 letters.")))
    faults.extend(faults_of_person(database, name, password, household_name))
    if faults:
        raise InvalidInputs(faults)
    password_hash, code = hashed(password), new_recovery_code()
    with database.engine.connect() as door:
        # One sign-up at a time until it is committed, also across processes: two first runs must not make two
        # households.
        door.execute(select(func.get_lock("goodcrate-first-run", 10)))
        try:
            if not may_be_another and has_account(database):
                raise InvalidInputs([_TAKEN])
            with database.accounts() as session, session.begin():
                return put_household(session, database, household_name, name, password_hash, code), code
        finally:
            door.execute(select(func.release_lock("goodcrate-first-run")))


_TAKEN = InvalidInput("name", Saying("This kitchen already has its account."), Saying("Sign in instead."))


def faults_of_person(database: Database, name: str, password: str, household_name: str) -> list[InvalidInput]:
    """What is wrong with the name and the password of somebody new here."""
    faults = []
    if not name or len(name) > 80:
        faults.append(InvalidInput("name", say("You need a name to sign in with."), say("Up to 80 letters.")))
    elif caller_named(database, name) is not None:
        faults.append(
            InvalidInput("name", say("Somebody signs in with this name here already."), say("Choose another."))
        )
    return [*faults, *faults_of_password(password, common_passwords(), (name, household_name))]


def households(database: Database) -> list[Caller]:
    """Every household that somebody belongs to, each as its first person; the oldest first."""
    with database.accounts() as session:
        people = select(UserAccount.household_id, UserAccount.id).order_by(UserAccount.created_at, UserAccount.id)
        first: dict[UUID, UUID] = {}
        for household_id, user_id in session.execute(people):
            first.setdefault(household_id, user_id)
    return [Caller(database, household_id, user_id) for household_id, user_id in first.items()]


def nobody(database: Database) -> Caller:
    """A caller of no household: for it nothing is there."""
    return Caller(database, UUID(int=0))


def settle_in(caller: Caller, name: str) -> str:
    """The first person of a household that nobody belongs to yet; answers the password they sign in with.

    Raises:
        InvalidInput: when the name is taken, or none.
    """
    name, password = name.strip(), secrets.token_urlsafe(12)
    if not name or len(name) > 80 or caller_named(caller.database, name) is not None:
        raise InvalidInput("name", say("You need a name to sign in with."), say("Up to 80 letters."))
    with caller.database.accounts() as session, session.begin():
        home = session.get_one(Household, caller.household_id)
        home.put_away_at = None
        password_hash = hashed(password)
        session.add(
            UserAccount(id=uuid4(), household_id=home.id, name=name, password_hash=password_hash, created_at=utc_now())
        )
    return password


@dataclass(frozen=True)
class Person:
    """Somebody of a household: what they may do, and which eater they are, if they said so."""

    id: UUID
    name: str
    role: str
    eater_id: UUID | None
    since: datetime
    seen_at: datetime | None


@dataclass(frozen=True)
class Invited:
    """An invitation that waits, by its key."""

    key: str
    role: str
    eater_id: UUID | None
    until: datetime


@dataclass(frozen=True)
class Welcome:
    """What an invitation is to: the household, and what one may do there."""

    household_name: str
    role: str


def people_of(caller: Caller) -> list[Person]:
    """Everybody of the household, the oldest first."""
    with caller.database.accounts() as session:
        seen = select(func.max(SignIn.seen_at)).where(SignIn.user_id == UserAccount.id).scalar_subquery()
        here = select(UserAccount, seen).where(UserAccount.household_id == caller.household_id)
        rows = session.execute(here.order_by(UserAccount.created_at, UserAccount.id)).all()
    return [Person(u.id, u.name, u.role, u.eater_id, u.created_at, seen_at) for u, seen_at in rows]


def invite(caller: Caller, role: str, eater_id: UUID | None) -> str:
    """A link's secret that lets one person in, once, within its days; only its hash is kept.

    Raises:
        InvalidInput: for a role that is none, or an eater's without whose day it is.
    """
    eater_id = _checked(caller, role, eater_id)
    token, now = secrets.token_urlsafe(24), utc_now()
    row = Invitation(
        token_hash=hash_of(token),
        household_id=caller.household_id,
        role=role,
        eater_id=eater_id,
        made_at=now,
        expires_at=now + INVITED_FOR,
    )
    with caller.database.accounts() as session, session.begin():
        let_go(session, Invitation, Invitation.expires_at < now)
        session.add(row)
    return token


def _checked(caller: Caller, role: str, eater_id: UUID | None) -> UUID | None:
    if role not in ROLES:
        raise InvalidInput("role", say("What may they do?"), say("Choose one."))
    with caller.transaction() as session:
        is_there = eater_id is not None and session.find(EaterRow, eater_id) is not None
    if role == EATER and not is_there:
        raise InvalidInput("eater_id", say("Whose day is theirs?"), say("Choose an eater."))
    return eater_id if is_there else None


def invitations(caller: Caller) -> list[Invited]:
    """The invitations that wait."""
    with caller.database.accounts() as session:
        here = (Invitation.household_id == caller.household_id, Invitation.expires_at > utc_now())
        rows = session.scalars(select(Invitation).where(*here).order_by(Invitation.made_at)).all()
    return [Invited(row.token_hash.hex()[:16], row.role, row.eater_id, row.expires_at) for row in rows]


def take_invitation_back(caller: Caller, key: str) -> None:
    """Let an invitation lead nowhere; one that is gone stays so."""
    with caller.database.accounts() as session, session.begin():
        mine = select(Invitation.token_hash).where(Invitation.household_id == caller.household_id)
        gone = [token_hash for token_hash in session.scalars(mine) if token_hash.hex()[:16] == key]
        session.execute(delete(Invitation).where(Invitation.token_hash.in_(gone)))


def welcome(database: Database, token: str) -> Welcome | None:
    """What an invitation is to; None for one that leads nowhere (any more)."""
    with database.accounts() as session:
        there = select(Invitation, Household.name).join(Household, Household.id == Invitation.household_id)
        row = session.execute(there.where(Invitation.token_hash == hash_of(token), Invitation.expires_at > utc_now()))
        found = row.one_or_none()
        return None if found is None else Welcome(found[1], found[0].role)


def join(database: Database, token: str, name: str, password: str) -> str:
    """Come in by an invitation; answers the recovery code, which is shown this once. The invitation is used up.

    Raises:
        InvalidInputs: naming what cannot be used; the invitation still waits then.
        NotFound: when it leads nowhere (any more).
    """
    there, name = welcome(database, token), name.strip()
    if there is None:
        raise NotFound(say("invitation"))
    if faults := faults_of_person(database, name, password, there.household_name):
        raise InvalidInputs(faults)
    password_hash, code = hashed(password), new_recovery_code()
    with database.accounts() as session, session.begin():
        row = session.get(Invitation, hash_of(token), with_for_update=True)
        if row is None or row.expires_at < utc_now():
            raise NotFound(say("invitation"))
        session.add(
            UserAccount(
                id=uuid4(),
                household_id=row.household_id,
                name=name,
                password_hash=password_hash,
                created_at=utc_now(),
                role=row.role,
                eater_id=row.eater_id,
                recovery_hash=hash_of_code(code),
            )
        )
        session.delete(row)
    return code


def change_role(caller: Caller, user_id: UUID, role: str, eater_id: UUID | None) -> None:
    """Let somebody of the household do more or less, or be another eater.

    Raises:
        NotFound: when the household has no such person.
        InvalidInput: when nobody would own the household any more, or it is not said whose day is theirs.
    """
    with caller.database.accounts() as session:
        _person(session, caller, user_id)
    eater_id = _checked(caller, role, eater_id)
    with caller.database.accounts() as session, session.begin():
        row = _person(session, caller, user_id)
        if row.role == OWNER and role != OWNER:
            _refuse_nobody(session, row)
        row.role, row.eater_id = role, eater_id
    look_again(caller.database)


def hand_over(caller: Caller, user_id: UUID) -> None:
    """Somebody else owns the household from now on, and the caller cooks in it.

    Raises:
        NotFound: when the household has no such person.
        InvalidInput: when it is the caller.
    """
    if user_id == caller.user_id:
        raise InvalidInput("role", say("It is yours already."), say("Choose somebody else."))
    with caller.database.accounts() as session, session.begin():
        heir = _person(session, caller, user_id)
        heir.role = OWNER
        for row in session.scalars(select(UserAccount).where(UserAccount.id == caller.user_id)):
            row.role = COOK
    look_again(caller.database)


def _person(session: AccountSession, caller: Caller, user_id: UUID) -> UserAccount:
    """Somebody of the household, inside the caller's transaction, which has its people to itself."""
    session.get(Household, caller.household_id, with_for_update=True)
    row = session.get(UserAccount, user_id)
    if row is None or row.household_id != caller.household_id:
        raise NotFound(say("person"))
    return row


def _refuse_nobody(session: AccountSession, row: UserAccount) -> None:
    others = (UserAccount.household_id == row.household_id, UserAccount.role == OWNER, UserAccount.id != row.id)
    if session.scalar(select(UserAccount.id).where(*others).limit(1)) is None:
        wanted = say("Hand it over to somebody first, or delete it.")
        raise InvalidInput("role", say("Nobody would own this household any more."), wanted)


def remove(caller: Caller, user_id: UUID) -> None:
    """Somebody belongs to the household no more: their account goes, what they weighed and said stays.

    Raises:
        NotFound: when the household has no such person.
        InvalidInput: when nobody would own the household any more.
    """
    with caller.database.accounts() as session, session.begin():
        row = _person(session, caller, user_id)
        if row.role == OWNER:
            _refuse_nobody(session, row)
        _delete_account(session, row)
    look_again(caller.database)


def _delete_account(session: AccountSession, row: UserAccount) -> None:
    session.execute(delete(SignIn).where(SignIn.user_id == row.id))
    for kind in (KnownDevice, Passkey, PasskeyQuestion):
        session.execute(delete(kind).where(kind.user_id == row.id))
    session.delete(row)
    session.flush()


def recovery_code_for(caller: Caller, user_id: UUID) -> str:
    """A code with which somebody who forgot their password gets in, within a day; the one they had works no more.

    Raises:
        NotFound: when the household has no such person.
    """
    code = new_recovery_code()
    with caller.database.accounts() as session, session.begin():
        row = _person(session, caller, user_id)
        row.recovery_hash = hash_of_code(code)
        row.recovery_until = None if user_id == caller.user_id else utc_now() + CODE_FROM_OWNER_FOR
    return code


def delete_household(caller: Caller, typed: str) -> None:
    """Delete the household with everything in it and the accounts of all its people. Nothing brings it back.

    Raises:
        InvalidInput: when its name was not typed as it is.
    """
    with caller.database.accounts() as session, session.begin():
        home = session.get_one(Household, caller.household_id, with_for_update=True)
        if typed.strip() != home.name.strip():
            wanted = say("Type “{name}”.", name=home.name)
            raise InvalidInput("typed", say("This is not what the household is called."), wanted)
        for row in session.scalars(select(UserAccount).where(UserAccount.household_id == home.id)).all():
            _delete_account(session, row)
        # Cut off from here on, what is left is taken out with the households that were put away.
        home.put_away_at, before = datetime(2000, 1, 1), home.before_id
    look_again(caller.database)
    for household_id in (caller.household_id, before):
        if household_id is not None:
            take_out_household(caller.database.engine, household_id)
