"""Households, the people who sign in, their sign-ins and devices, and tries that failed (for the delay)."""

from dataclasses import fields
from datetime import datetime
from typing import ClassVar
from uuid import UUID

from sqlalchemy import BINARY, DECIMAL, VARBINARY, BigInteger, CheckConstraint, ForeignKey, Index, String
from sqlalchemy.dialects.mysql import DATETIME
from sqlalchemy.orm import Mapped, mapped_column

from goodcrate.core.ground.roles import OWNER
from goodcrate.core.ground.writing import Writing
from goodcrate.db.base import Base, Name
from goodcrate.db.stored import Stored

UtcTime = DATETIME(fsp=6)


class Household(Base):
    """People and a kitchen that share recipes, boxes and a fridge.

    `seed` is what ids of things that come with the product are made from: its own id, or that of the household an
    archive was made of, so that they are the same things there. It was `put_away_at` when another took its place,
    which has its id as `before_id`: nobody belongs to it then.
    """

    __tablename__ = "household"
    counts_stamp: ClassVar[bool] = True  # its measures weigh what is typed

    id: Mapped[UUID] = mapped_column(primary_key=True)
    name: Mapped[Name]
    currency_code: Mapped[str] = mapped_column(String(3), default="XTS")
    currency_symbol: Mapped[str] = mapped_column(String(8), default="¤")
    measures: Mapped[str] = mapped_column(String(12), default="metric")
    polyol_share: Mapped[float] = mapped_column(default=0.5)
    leaves_traces_out: Mapped[bool] = mapped_column(default=False)
    shows_net_carbohydrate: Mapped[bool] = mapped_column(default=False)
    hides_spread: Mapped[bool] = mapped_column(default=False)
    marks: Mapped[str] = mapped_column(String(12), default="ask")
    dates: Mapped[str] = mapped_column(String(4), default="dmy")
    first_weekday: Mapped[int] = mapped_column(default=0)
    body_weight: Mapped[str] = mapped_column(String(2), default="kg")
    body_height: Mapped[str] = mapped_column(String(2), default="cm")
    heat: Mapped[str] = mapped_column(String(1), default="C")
    money_first: Mapped[bool] = mapped_column(default=False)
    money_decimals: Mapped[int] = mapped_column(default=2)
    language: Mapped[str] = mapped_column(String(12), default="en")
    fridge_boxes: Mapped[int | None]
    freezer_boxes: Mapped[int | None]
    keep_rule: Mapped[str] = mapped_column(String(10), default="usual")
    aisles: Mapped[list[str] | None] = mapped_column(Stored)
    spare_pct: Mapped[float] = mapped_column(default=0.0)
    pack_aim: Mapped[str] = mapped_column(String(12), default="least_left")
    week_budget: Mapped[float | None] = mapped_column(DECIMAL(9, 2, asdecimal=False))
    version: Mapped[int] = mapped_column(default=1)
    created_at: Mapped[datetime] = mapped_column(UtcTime)
    seed: Mapped[UUID]
    put_away_at: Mapped[datetime | None] = mapped_column(UtcTime, index=True)
    before_id: Mapped[UUID | None]

    __mapper_args__ = {"version_id_col": version}

    @property
    def writing(self) -> Writing:
        """How figures are written for it."""
        return Writing(**{name: getattr(self, name) for name in WRITTEN}, money=self.currency_symbol)


WRITTEN = tuple(f.name for f in fields(Writing) if f.name != "money")
"""The columns that say how it writes; the sign of its money is one of its own."""


class UserAccount(Base):
    """One person's door key: a sign-in name and an argon2 hash; what they may do, and which eater they are.

    `recovery_hash` is of the code that lets them in without their password, once; `recovery_until` when it runs out.
    """

    __tablename__ = "user_account"
    __table_args__ = (CheckConstraint("role IN ('owner', 'cook', 'eater')", name="role"),)

    id: Mapped[UUID] = mapped_column(primary_key=True)
    household_id: Mapped[UUID] = mapped_column(ForeignKey("household.id"))
    name: Mapped[str] = mapped_column(String(80), unique=True)
    password_hash: Mapped[str] = mapped_column(String(200))
    created_at: Mapped[datetime] = mapped_column(UtcTime)
    role: Mapped[str] = mapped_column(String(8), default=OWNER)
    eater_id: Mapped[UUID | None]
    recovery_hash: Mapped[bytes | None] = mapped_column(BINARY(32))
    recovery_until: Mapped[datetime | None] = mapped_column(UtcTime)


class Invitation(Base):
    """A link that lets one person in, once, until it runs out. Only its hash is kept."""

    __tablename__ = "invitation"
    __table_args__ = (CheckConstraint("role IN ('owner', 'cook', 'eater')", name="role"),)

    token_hash: Mapped[bytes] = mapped_column(BINARY(32), primary_key=True)
    household_id: Mapped[UUID] = mapped_column(ForeignKey("household.id"), index=True)
    role: Mapped[str] = mapped_column(String(8))
    eater_id: Mapped[UUID | None]
    made_at: Mapped[datetime] = mapped_column(UtcTime)
    expires_at: Mapped[datetime] = mapped_column(UtcTime)


class SignIn(Base):
    """A browser that is signed in. Only the hash of its token is kept."""

    __tablename__ = "sign_in"

    token_hash: Mapped[bytes] = mapped_column(BINARY(32), primary_key=True)
    user_id: Mapped[UUID] = mapped_column(ForeignKey("user_account.id"))
    csrf_token: Mapped[str] = mapped_column(String(64))
    created_at: Mapped[datetime] = mapped_column(UtcTime)
    expires_at: Mapped[datetime] = mapped_column(UtcTime)
    device: Mapped[str] = mapped_column(String(80), default="")
    address: Mapped[str] = mapped_column(String(64), default="")
    seen_at: Mapped[datetime | None] = mapped_column(UtcTime)


class SignInTry(Base):
    """Tries to sign in that failed, or are being checked, by name and place (an address, or a device that is known)."""

    __tablename__ = "sign_in_try"
    __table_args__ = (Index(None, "last_at"),)

    name: Mapped[str] = mapped_column(String(80), primary_key=True)
    place: Mapped[str] = mapped_column(String(72), primary_key=True)
    failures: Mapped[int]
    last_at: Mapped[datetime] = mapped_column(UtcTime)
    next_at: Mapped[datetime] = mapped_column(UtcTime)


class KnownDevice(Base):
    """A browser somebody has signed in with: nobody else's guessing keeps it out. Only its token's hash is kept."""

    __tablename__ = "known_device"

    token_hash: Mapped[bytes] = mapped_column(BINARY(32), primary_key=True)
    user_id: Mapped[UUID] = mapped_column(ForeignKey("user_account.id"))
    seen_at: Mapped[datetime] = mapped_column(UtcTime)


class Passkey(Base):
    """A key of a device that lets one person in: only its public half, and how often it has signed, as the device
    counts. It goes by the hash of its id."""

    __tablename__ = "passkey"

    id_hash: Mapped[bytes] = mapped_column(BINARY(32), primary_key=True)
    user_id: Mapped[UUID] = mapped_column(ForeignKey("user_account.id"), index=True)
    credential_id: Mapped[bytes] = mapped_column(VARBINARY(1023))
    public_key: Mapped[bytes] = mapped_column(VARBINARY(4000))
    sign_count: Mapped[int] = mapped_column(BigInteger)
    device: Mapped[str] = mapped_column(String(80))
    made_at: Mapped[datetime] = mapped_column(UtcTime)
    used_at: Mapped[datetime | None] = mapped_column(UtcTime)


class PasskeyQuestion(Base):
    """What a device was asked and has not answered; `user_id` is whose new key it is about, NULL at the door."""

    __tablename__ = "passkey_question"

    challenge_hash: Mapped[bytes] = mapped_column(BINARY(32), primary_key=True)
    user_id: Mapped[UUID | None] = mapped_column(ForeignKey("user_account.id"), index=True)
    open_until: Mapped[datetime] = mapped_column(UtcTime, index=True)


class CalendarLink(Base):
    """The secret link behind which a household's calendar is read; only its hash is kept, and a new one replaces it."""

    __tablename__ = "calendar_link"

    token_hash: Mapped[bytes] = mapped_column(BINARY(32), primary_key=True)
    household_id: Mapped[UUID] = mapped_column(ForeignKey("household.id"), unique=True)
    made_at: Mapped[datetime] = mapped_column(UtcTime)
