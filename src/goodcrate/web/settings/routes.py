"""Routes of the settings."""

from collections.abc import Mapping
from dataclasses import replace
from datetime import date
from typing import Annotated

from fastapi import APIRouter, Request
from fastapi.responses import Response

from goodcrate.core.foods.measures import CONVENTIONS
from goodcrate.core.ground.errors import InvalidInputs
from goodcrate.core.ground.wording import Saying
from goodcrate.core.ground.writing import (
    DATES,
    HEATS,
    HEIGHTS,
    MARKS,
    MOST_MONEY_DECIMALS,
    WAYS,
    WEIGHTS,
    WRITING,
    Writing,
    dated,
    written,
)
from goodcrate.formats.catalogues import languages
from goodcrate.services import accounts, calendar_links, household
from goodcrate.services.calling import StaleWrite
from goodcrate.services.household import Settings
from goodcrate.web.again import AgainRoute
from goodcrate.web.field_kinds import number, one_of, whole, words
from goodcrate.web.fields import Fields, maybe
from goodcrate.web.figures import plain
from goodcrate.web.languages import LANGUAGES
from goodcrate.web.pages import NO_FAULTS, Faults, go, page
from goodcrate.web.security import Posted, Signed, Visitor, text

router = APIRouter(prefix="/settings", route_class=AgainRoute)


class SettingsFields(Fields):
    """The settings as they are typed."""

    name: Annotated[str, words(160, Saying("A household needs a name."))]
    currency_code: Annotated[str, words(3, Saying("Three capital letters, as on bank papers."))]
    currency_symbol: Annotated[str, words(8, Saying("How is a price marked?"))]
    convention: Annotated[str, one_of(CONVENTIONS)]
    language: Annotated[str, one_of(LANGUAGES)]
    marks: Annotated[str, one_of(MARKS)]
    dates: Annotated[str, one_of(DATES)]
    first_weekday: Annotated[int, whole(0, 6, Saying("Choose one."))]
    body_weight: Annotated[str, one_of(WEIGHTS)]
    body_height: Annotated[str, one_of(HEIGHTS)]
    heat: Annotated[str, one_of(HEATS)]
    money_first: bool = False
    money_decimals: Annotated[int, whole(0, MOST_MONEY_DECIMALS, f"0 to {MOST_MONEY_DECIMALS}.")]
    polyol_share: Annotated[float, number(0, 100, "%", Saying("Per cent, from 0 to 100."), scale=0.01)]
    shows_net_carbohydrate: bool = False
    hides_spread: bool = False
    version: Annotated[int | None, maybe(whole(0, 10**9))] = None

    @property
    def settings(self) -> Settings:
        """What the service keeps."""
        said = self.model_dump()
        writing = Writing(**{name: said.pop(name) for name in IN_WRITING}, money=self.currency_symbol)
        return Settings(**said, writing=writing)


IN_WRITING = (*WAYS, "money_first", "money_decimals", "language")


def _typed_of(there: Settings) -> Mapping[str, str]:
    return {
        "name": there.name,
        "currency_code": there.currency_code,
        "currency_symbol": there.currency_symbol,
        "convention": there.convention,
        **{name: str(getattr(there.writing, name)) for name in (*WAYS, "money_decimals", "language")},
        "money_first": "on" if there.writing.money_first else "",
        "polyol_share": plain(there.polyol_share * 100),
        "shows_net_carbohydrate": "on" if there.shows_net_carbohydrate else "",
        "hides_spread": "on" if there.hides_spread else "",
    }


def _date_so(order: str) -> str:
    """A day in an order of its parts, for whoever chooses one."""
    with written(replace(WRITING.get(), dates=order)):
        return dated(date(2026, 11, 23))


def _settings_page(
    request: Request,
    visitor: Visitor,
    faults: Faults = NO_FAULTS,
    status: int = 200,
    typed: Mapping[str, str] | None = None,
    done: str = "",
    link: str = "",
) -> Response:
    there = household.settings(visitor.caller)
    return page(
        request,
        visitor,
        "settings/page.html",
        "",
        status=status,
        faults=faults,
        typed=typed or _typed_of(there),
        conventions=CONVENTIONS,
        ways={**WAYS, "dates": {order: _date_so(order) for order in DATES}},
        languages=languages(),
        marks={key: marks.words for key, marks in MARKS.items()},
        version=there.version,
        done=done,
        link=link,
        has_link=calendar_links.has_calendar_link(visitor.caller.database, visitor.caller.household_id),
    )


@router.get("")
def show(request: Request, visitor: Signed, done: str = "") -> Response:
    """The household's settings."""
    return _settings_page(request, visitor, done=done)


@router.post("")
def save(request: Request, visitor: Signed, form: Posted) -> Response:
    """Keep them."""
    typed = SettingsFields.as_typed(form)
    try:
        fields = SettingsFields.of(form)
        household.save_settings(visitor.caller, fields.settings)
    except StaleWrite as error:
        return _settings_page(request, visitor, Faults.of(error), 409, typed)
    except InvalidInputs as error:
        return _settings_page(request, visitor, Faults.of(error, SettingsFields.names()), 422, typed)
    accounts.look_again(visitor.caller.database)  # the household's name stands in the frame of every page
    return go("/settings?done=1")


@router.post("/calendar")
def calendar_link(request: Request, visitor: Signed, form: Posted) -> Response:
    """Make a new secret link to the calendar, shown this once, or let none lead to it."""
    database, household_id = visitor.caller.database, visitor.caller.household_id
    if text(form, "act") == "revoke":
        calendar_links.revoke_calendar_link(database, household_id)
        return go("/settings#calendar")
    token = calendar_links.make_calendar_link(database, household_id)
    return _settings_page(request, visitor, link=f"{str(request.base_url).rstrip('/')}/calendar/{token}/week.ics")
