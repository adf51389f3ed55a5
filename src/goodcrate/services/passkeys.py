"""Passkeys, a second way in: keys that a device keeps and never shows. What a device answers is read and checked by
`webauthn`; here stands who may have one, that a question is answered once, and who is let in.

Nothing of the device but its key is asked for (no attestation), and it has to make sure itself who holds it: by a
finger, a face or a code.
"""

import hashlib
import struct
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime, timedelta
from ipaddress import ip_address
from uuid import UUID

import webauthn
from sqlalchemy import ColumnElement, delete, select
from webauthn.helpers import (
    parse_authentication_credential_json,
    parse_client_data_json,
    parse_registration_credential_json,
)
from webauthn.helpers.exceptions import WebAuthnException
from webauthn.helpers.structs import (
    AuthenticatorSelectionCriteria,
    PublicKeyCredentialDescriptor,
    ResidentKeyRequirement,
    UserVerificationRequirement,
)

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import say
from goodcrate.db.accounts import Passkey, PasskeyQuestion, UserAccount
from goodcrate.db.session import AccountSession, Database
from goodcrate.services.accounts import Door, SignedIn, SignInRefused, device_words, knows_password, let_in
from goodcrate.services.calling import let_go, utc_now

OPEN_FOR = timedelta(minutes=5)
"""How long a device has to answer."""
MOST = 10
LONGEST_ANSWER = 20_000


@dataclass(frozen=True)
class Site:
    """Where we are asked: the name that keys are bound to, and how the browser names the whole place."""

    host: str
    origin: str

    @property
    def has_keys(self) -> bool:
        """Whether keys can be bound to it: to a name they can, to a bare address they cannot."""
        try:
            ip_address(self.host.strip("[]"))
        except ValueError:
            return bool(self.host)
        return False


@dataclass(frozen=True)
class KeyOfOnes:
    """A passkey as the account page lists it; `used_at` is None until somebody came in by it."""

    key: str
    device: str
    made_at: datetime
    used_at: datetime | None


def ask_for_new(database: Database, signed: SignedIn, password: str, site: Site) -> str:
    """What a device is asked to make a new key, as JSON; it may answer once.

    Raises:
        InvalidInput: for a wrong password (who finds a browser open must not get a key of their own), or too many.
    """
    if not knows_password(database, signed.user_id, password):
        raise InvalidInput("password", say("This is not your password."), say("Type the one you sign in with."))
    with database.accounts() as session, session.begin():
        there = session.scalars(select(Passkey.credential_id).where(Passkey.user_id == signed.user_id)).all()
        if len(there) >= MOST:
            raise InvalidInput("password", say("There are {MOST} passkeys already.", MOST=MOST), say("Remove one."))
        options = webauthn.generate_registration_options(
            rp_id=site.host,
            rp_name="Good Crate",
            user_id=signed.user_id.bytes,
            user_name=signed.user_name,
            authenticator_selection=AuthenticatorSelectionCriteria(
                resident_key=ResidentKeyRequirement.REQUIRED, user_verification=UserVerificationRequirement.REQUIRED
            ),
            exclude_credentials=[PublicKeyCredentialDescriptor(id=one) for one in there],
        )
        _open(session, options.challenge, signed.user_id)
        return webauthn.options_to_json(options)


def add(database: Database, signed: SignedIn, site: Site, answer: str, device: str) -> None:
    """Keep the key a device made. Sending its answer twice keeps it once, and says the second time that it is over.

    Raises:
        InvalidInput: when it is no answer to a question of ours.
    """
    with database.accounts() as session, session.begin():
        with _telling():
            said = parse_registration_credential_json(answer[:LONGEST_ANSWER])
            made = webauthn.verify_registration_response(
                credential=said,
                expected_challenge=_asked(
                    session, said.response.client_data_json, PasskeyQuestion.user_id == signed.user_id
                ),
                expected_rp_id=site.host,
                expected_origin=site.origin,
                require_user_verification=True,
            )
        id_hash = _hash(made.credential_id)
        if session.get(Passkey, id_hash) is not None:
            raise InvalidInput("passkey", say("This passkey is here already."), say("Nothing is to be done."))
        session.add(
            Passkey(
                id_hash=id_hash,
                user_id=signed.user_id,
                credential_id=made.credential_id,
                public_key=made.credential_public_key,
                sign_count=made.sign_count,
                device=device_words(device),
                made_at=utc_now(),
            )
        )


def ask(database: Database, site: Site) -> str:
    """What a device is asked of whoever is at the door, as JSON; it may answer once."""
    options = webauthn.generate_authentication_options(
        rp_id=site.host, user_verification=UserVerificationRequirement.REQUIRED
    )
    with database.accounts() as session, session.begin():
        _open(session, options.challenge, None)
    return webauthn.options_to_json(options)


def sign_in(database: Database, site: Site, answer: str, door: Door, days: int) -> tuple[str, str]:
    """Let in whose key answered; the tokens are those of `accounts.sign_in`.

    Raises:
        SignInRefused: when nobody here has that key, or it is no answer to a question of ours.
    """
    try:
        with database.accounts() as session, session.begin():
            user = _whose(session, site, answer)
    except InvalidInput as error:
        raise SignInRefused(error.message) from None
    return let_in(database, user, None, door, days)


def _whose(session: AccountSession, site: Site, answer: str) -> UserAccount:
    with _telling():
        said = parse_authentication_credential_json(answer[:LONGEST_ANSWER])
    row = session.get(Passkey, _hash(said.raw_id), with_for_update=True)
    if row is None:
        raise InvalidInput("passkey", say("Nobody here has this passkey."), say("Use your name and password."))
    with _telling():
        proven = webauthn.verify_authentication_response(
            credential=said,
            expected_challenge=_asked(session, said.response.client_data_json, PasskeyQuestion.user_id.is_(None)),
            expected_rp_id=site.host,
            expected_origin=site.origin,
            credential_public_key=row.public_key,
            credential_current_sign_count=row.sign_count,
            require_user_verification=True,
        )
    row.sign_count, row.used_at = proven.new_sign_count, utc_now()
    return session.get_one(UserAccount, row.user_id)


def has_any(database: Database) -> bool:
    """Whether anybody can come in by a passkey."""
    with database.accounts() as session:
        return session.scalar(select(Passkey.id_hash).limit(1)) is not None


def keys_of(database: Database, signed: SignedIn) -> list[KeyOfOnes]:
    """The person's passkeys, the newest first."""
    with database.accounts() as session:
        rows = session.scalars(
            select(Passkey).where(Passkey.user_id == signed.user_id).order_by(Passkey.made_at.desc(), Passkey.id_hash)
        )
        return [KeyOfOnes(row.id_hash.hex()[:16], row.device, row.made_at, row.used_at) for row in rows]


def remove(database: Database, signed: SignedIn, key: str) -> None:
    """Let nobody in by a key of the person's any more, if it is there; whoever came in by it stays in."""
    with database.accounts() as session, session.begin():
        mine = session.scalars(select(Passkey.id_hash).where(Passkey.user_id == signed.user_id)).all()
        session.execute(delete(Passkey).where(Passkey.id_hash.in_([h for h in mine if h.hex()[:16] == key])))


def _open(session: AccountSession, challenge: bytes, user_id: UUID | None) -> None:
    """Keep a question until it is answered, or over; those that are over go."""
    now = utc_now()
    let_go(session, PasskeyQuestion, PasskeyQuestion.open_until < now)
    session.add(PasskeyQuestion(challenge_hash=_hash(challenge), user_id=user_id, open_until=now + OPEN_FOR))


def _asked(session: AccountSession, client_data: bytes, of_whom: ColumnElement[bool]) -> bytes:
    """The question that is answered, which is over by that.

    Raises:
        InvalidInput: when we did not ask it, or not this person, or it is over.
    """
    challenge = parse_client_data_json(client_data).challenge
    still_open = (PasskeyQuestion.challenge_hash == _hash(challenge), PasskeyQuestion.open_until >= utc_now())
    row = session.scalar(select(PasskeyQuestion).where(*still_open, of_whom).with_for_update())
    if row is None:
        raise InvalidInput("passkey", say("This took too long, or was sent before."), say("Try again."))
    session.delete(row)
    return challenge


@contextmanager
def _telling() -> Iterator[None]:
    """Whatever is wrong with an answer is one thing to whoever sent it.

    Raises:
        InvalidInput: for anything the library stumbles over.
    """
    try:
        yield
    except (WebAuthnException, *STUMBLES):
        raise InvalidInput("passkey", say("This passkey could not be read."), say("Try again.")) from None


STUMBLES = (ValueError, KeyError, TypeError, IndexError, AttributeError, struct.error)


def _hash(secret: bytes) -> bytes:
    return hashlib.sha256(secret).digest()
