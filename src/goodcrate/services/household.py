"""The household's own settings: its name, its money, and how it measures."""

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from uuid import UUID

from goodcrate.core.foods.measures import CONVENTIONS
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.wording import WORDS, say
from goodcrate.core.ground.writing import MOST_MONEY_DECIMALS, PLAIN, WAYS, WRITING, Writing, short
from goodcrate.db.accounts import WRITTEN, Household
from goodcrate.db.changes import Memo
from goodcrate.formats.catalogues import words_of
from goodcrate.services.calling import Caller, older_than, saying_again

NO_MONEY_CODE, NO_MONEY_SYMBOL = "XTS", "¤"
"""ISO 4217 keeps XTS for no real money; ¤ is the sign for any."""


@dataclass(frozen=True)
class Settings:
    """A household's settings. `polyol_share` is the share of polyols that net carbohydrate leaves out."""

    name: str
    currency_code: str
    currency_symbol: str
    convention: str
    polyol_share: float
    shows_net_carbohydrate: bool = False
    hides_spread: bool = False
    writing: Writing = PLAIN
    version: int | None = field(default=None, compare=False)

    @property
    def currency(self) -> str:
        """What stands beside a price."""
        return self.currency_symbol


_SEEDS: Memo[UUID] = Memo(5000)


def seed_of(caller: Caller) -> UUID:
    """What ids of things that come with the product are made from in a household; it never changes."""
    known = _SEEDS.find(caller.household_id)
    if known is not None:
        return known
    with caller.transaction() as session:
        return _SEEDS.put(caller.household_id, session.get_one(Household, caller.household_id).seed)


def settings(caller: Caller) -> Settings:
    """The household's settings."""
    with caller.transaction() as session:
        row = session.get_one(Household, caller.household_id)
        return Settings(
            row.name,
            row.currency_code,
            row.currency_symbol,
            row.measures,
            row.polyol_share,
            shows_net_carbohydrate=row.shows_net_carbohydrate,
            hides_spread=row.hides_spread,
            writing=row.writing,
            version=row.version,
        )


def speak_for(caller: Caller) -> None:
    """From now on say and write everything as a household does, though nobody of it is signed in: a job that it asked
    for, its calendar, its boxes."""
    writing = settings(caller).writing
    WRITING.set(writing)
    WORDS.set(words_of(writing.language))


def save_settings(caller: Caller, typed: Settings) -> None:
    """Keep the household's settings.

    Raises:
        InvalidInputs: naming each that cannot be.
        StaleWrite: when somebody changed the household's settings since `version`.
    """
    if faults := list(_faults(typed)):
        raise InvalidInputs(faults)
    with caller.transaction() as session:
        row = session.get_one(Household, session.household_id)
        with saying_again(session, older_than(say("settings page"), row.version, typed.version)):
            row.name, row.currency_code = typed.name.strip(), typed.currency_code
            row.currency_symbol = typed.currency_symbol.strip()
            row.measures, row.polyol_share = typed.convention, typed.polyol_share
            row.shows_net_carbohydrate, row.hides_spread = typed.shows_net_carbohydrate, typed.hides_spread
            for name in WRITTEN:
                setattr(row, name, getattr(typed.writing, name))


def _faults(typed: Settings) -> Iterator[InvalidInput]:
    if not 1 <= len(typed.name.strip()) <= 160:
        yield InvalidInput("name", say("A household needs a name."), say("Up to 160 letters."))
    if re.fullmatch(r"[A-Z]{3}", typed.currency_code) is None:
        wanted = say("Three capital letters, as on bank papers.")
        yield InvalidInput(
            "currency_code", say("“{currency_code}” is no currency.", currency_code=typed.currency_code[:8]), wanted
        )
    if not 1 <= len(typed.currency_symbol.strip()) <= 8:
        yield InvalidInput("currency_symbol", say("How is a price marked?"), say("A sign or a short word."))
    for name, known in WAYS.items():
        if getattr(typed.writing, name) not in known:
            yield InvalidInput(
                name, say("“{writing}” is no way we know.", writing=getattr(typed.writing, name)), say("Choose one.")
            )
    if re.fullmatch(r"[a-z]{2,3}(_[A-Za-z]{2,4})?", typed.writing.language) is None:
        yield InvalidInput(
            "language",
            say("“{language}” is no language we know.", language=typed.writing.language[:24]),
            say("Choose one."),
        )
    if not 0 <= typed.writing.money_decimals <= MOST_MONEY_DECIMALS:
        yield InvalidInput(
            "money_decimals",
            say("Prices have no such decimals."),
            say("0 to {MOST_MONEY_DECIMALS}.", MOST_MONEY_DECIMALS=MOST_MONEY_DECIMALS),
        )
    if typed.convention not in CONVENTIONS:
        yield InvalidInput(
            "convention", say("“{convention}” is no set we know.", convention=typed.convention[:24]), say("Choose one.")
        )
    if not 0 <= typed.polyol_share <= 1:
        yield InvalidInput(
            "polyol_share",
            say("{polyol_share} % is no share.", polyol_share=short(typed.polyol_share * 100)),
            say("From 0 to 100 %."),
        )
