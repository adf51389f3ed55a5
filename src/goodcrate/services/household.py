"""The household's own settings: its name, its money, and how it measures."""

import re
from collections.abc import Iterator
from dataclasses import dataclass, field

from goodcrate.core.foods.measures import CONVENTIONS
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.writing import MOST_MONEY_DECIMALS, PLAIN, WAYS, Writing, short
from goodcrate.db.accounts import WRITTEN, Household
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
        with saying_again(session, older_than("settings page", row.version, typed.version)):
            row.name, row.currency_code = typed.name.strip(), typed.currency_code
            row.currency_symbol = typed.currency_symbol.strip()
            row.measures, row.polyol_share = typed.convention, typed.polyol_share
            row.shows_net_carbohydrate, row.hides_spread = typed.shows_net_carbohydrate, typed.hides_spread
            for name in WRITTEN:
                setattr(row, name, getattr(typed.writing, name))


def _faults(typed: Settings) -> Iterator[InvalidInput]:
    if not 1 <= len(typed.name.strip()) <= 160:
        yield InvalidInput("name", "A household needs a name.", "Up to 160 letters.")
    if re.fullmatch(r"[A-Z]{3}", typed.currency_code) is None:
        wanted = "Three capital letters, as on bank papers."
        yield InvalidInput("currency_code", f"“{typed.currency_code[:8]}” is no currency.", wanted)
    if not 1 <= len(typed.currency_symbol.strip()) <= 8:
        yield InvalidInput("currency_symbol", "How is a price marked?", "A sign or a short word.")
    for name, known in WAYS.items():
        if getattr(typed.writing, name) not in known:
            yield InvalidInput(name, f"“{getattr(typed.writing, name)}” is no way we know.", "Choose one.")
    if re.fullmatch(r"[a-z]{2,3}(_[A-Za-z]{2,4})?", typed.writing.language) is None:
        yield InvalidInput("language", f"“{typed.writing.language[:24]}” is no language we know.", "Choose one.")
    if not 0 <= typed.writing.money_decimals <= MOST_MONEY_DECIMALS:
        yield InvalidInput("money_decimals", "Prices have no such decimals.", f"0 to {MOST_MONEY_DECIMALS}.")
    if typed.convention not in CONVENTIONS:
        yield InvalidInput("convention", f"“{typed.convention[:24]}” is no set we know.", "Choose one.")
    if not 0 <= typed.polyol_share <= 1:
        yield InvalidInput("polyol_share", f"{short(typed.polyol_share * 100)} % is no share.", "From 0 to 100 %.")
