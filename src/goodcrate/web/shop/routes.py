"""Routes of shopping: the list of a week, what is ticked on it, the list taken elsewhere, how the household shops."""

from datetime import date
from typing import Annotated

from fastapi import Request
from fastapi.responses import JSONResponse, PlainTextResponse, Response

from goodcrate.core.foods.packs import AIMS
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.typed import id_of
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import coins, week_start
from goodcrate.core.shop.shelf import BOUGHT, KINDS, MOST_BOUGHT_G, NOT_THERE, OPEN, ShelfEvent
from goodcrate.formats.csv_table import as_text as cell
from goodcrate.formats.csv_table import write_table
from goodcrate.services.shop import shelf
from goodcrate.services.shop.habits import MOST_BUDGET, MOST_SPARE_PCT, ShopSettings, save_settings
from goodcrate.services.shop.listing import shopping_of
from goodcrate.services.week.nearby import nearby_sessions, week_at_hand
from goodcrate.services.week.weeks import new_id
from goodcrate.web.addresses import Day
from goodcrate.web.field_kinds import number, one_of, weight, words
from goodcrate.web.fields import Fields, maybe
from goodcrate.web.figures import plain
from goodcrate.web.pages import NO_FAULTS, Faults, fragment, go, page, render
from goodcrate.web.security import Posted, Signed, Visitor, text
from goodcrate.web.shop.address import router
from goodcrate.web.shop.lists_out import CSV_HEADER, as_rows, as_text
from goodcrate.web.shop.view import AISLES, basket_of, said_of, shop_view


class TickFields(Fields):
    """What is said at the shelf of a food: ticked, not there, or open again; how much was bought, and what it cost."""

    kind: Annotated[str, one_of(KINDS)] = BOUGHT
    grams: Annotated[float | None, maybe(weight(MOST_BOUGHT_G, allow_zero=False))] = None
    price: Annotated[float | None, maybe(number(0, MOST_BUDGET, "", Saying("What all of it cost, such as 2.40.")))] = (
        None
    )
    shop: Annotated[str, words(40)] = ""


class SettingsFields(Fields):
    """How the household shops, as it is typed."""

    aisles: Annotated[str, words(2000)] = ""
    spare_pct: Annotated[float, number(0, MOST_SPARE_PCT, "%", Saying("Per cent, from 0 to 50."))] = 0.0
    aim: Annotated[str, one_of(AIMS)] = "least_left"
    week_budget: Annotated[
        float | None, maybe(number(0, MOST_BUDGET, "", Saying("What a week may cost, such as 80.")))
    ] = None


@router.get("")
def this_week(request: Request, visitor: Signed) -> Response:
    """On to the list of the session that is at hand."""
    today = request.app.state.clock()
    return go(f"/shop/{week_at_hand(visitor.caller, today) or week_start(today)}")


def list_page(
    request: Request,
    visitor: Visitor,
    first_day: date,
    faults: Faults = NO_FAULTS,
    typed: dict[str, str] | None = None,
    status: int = 200,
) -> Response:
    """What a week has to buy, by aisle."""
    week = shopping_of(visitor.caller, first_day)
    view = None if week is None else shop_view(week)
    return page(
        request,
        visitor,
        "shop/page.html",
        "shop",
        status=status,
        faults=faults,
        view=view,
        week=week,
        first_day=first_day,
        tape=view.tape if view and view.lines else None,
        nearby=nearby_sessions(visitor.caller, first_day),
        new_id=new_id(),
        aims=AIMS,
        usual_aisles=AISLES,
        typed=typed or ({} if week is None else _as_typed(week.settings)),
    )


def _as_typed(settings: ShopSettings) -> dict[str, str]:
    budget = "" if settings.week_budget is None else coins(settings.week_budget)
    return {
        "aisles": "\n".join(settings.aisles),
        "spare_pct": plain(settings.spare_pct),
        "aim": settings.aim,
        "week_budget": budget,
    }


@router.get("/{first_day}")
def list_of_week(request: Request, visitor: Signed, first_day: Day) -> Response:
    """What a week has to buy, by aisle."""
    return list_page(request, visitor, first_day)


@router.post("/{first_day}/ticks")
def tick(request: Request, visitor: Signed, form: Posted, first_day: Day) -> Response:
    """Note what became of a food at the shelf. A script is answered with what changed, a form with the list."""
    asked_by_script = request.headers.get("accept", "").startswith("application/json")
    today = request.app.state.clock()
    key, tick_g, *_ = (*text(form, "tick").rsplit("|", 1), "")  # a form without scripts: one button a row
    food_key = text(form, "food") or key
    try:
        read = TickFields.of(form) if text(form, "food") else _ticked(tick_g)
        event = ShelfEvent(food_key, read.kind, read.grams, read.price, read.shop)
        event_id = id_of(text(form, "event")) or new_id()
        shelf.note(visitor.caller, first_day, event_id, event, today)
    except (InvalidInput, InvalidInputs) as error:
        faults = Faults.of(error, set())
        if asked_by_script:
            return JSONResponse({"fault": faults.general, "food": food_key}, 422)
        return list_page(request, visitor, first_day, faults, status=422)
    if asked_by_script:
        since = text(form, "since")
        return _news(visitor, first_day, int(since) if since.isdecimal() and len(since) < 19 else 0)
    return go(f"/shop/{first_day}#food-{food_key}")


def _ticked(said: str) -> TickFields:
    """A row's button: the grams it buys, nothing for what nobody weighs; `open` and `not_there` say so."""
    faults: list[InvalidInput] = []
    is_word = said in (OPEN, NOT_THERE)
    sent = {"kind": said if is_word else BOUGHT, "grams": "" if is_word else said, "price": "", "shop": ""}
    read = TickFields.partly(sent, "", faults)
    if faults:
        raise InvalidInputs(faults)
    return read


@router.get("/{first_day}/news")
def news(visitor: Signed, first_day: Day, since: int = 0) -> Response:
    """What was said at the shelf since an event, for the other phones; nothing when nothing was."""
    if not 0 <= since < 2**62:
        return JSONResponse({"fault": say("This is no event.")}, 422)
    return _news(visitor, first_day, since)


def _news(visitor: Visitor, first_day: date, since: int) -> Response:
    found = shelf.news_since(visitor.caller, first_day, since)
    if not found.foods:
        return Response(status_code=204)
    week = shopping_of(visitor.caller, first_day)
    rows, basket = {}, ""
    for key, event in found.foods.items():
        still = 0.0 if week is None or key not in week.still else week.still[key].buy_g
        state, told = said_of(event, still)
        rows[key] = {"state": state, "told": told}
    if week is not None:
        basket = render("shop/_basket.html", basket=basket_of(week))
    return JSONResponse(
        {
            "seq": found.seq,
            "rows": rows,
            "basket": basket,
            "changed": any(e.kind == "instead" for e in found.foods.values()),
        }
    )


@router.get("/{first_day}/cost")
def cost(visitor: Signed, first_day: Day) -> Response:
    """What all of the list costs, for the page of the week; nothing before there is one."""
    week = shopping_of(visitor.caller, first_day)
    if week is None or not week.shopping.to_buy:
        return Response(status_code=204)
    return PlainTextResponse(basket_of(week).whole)


@router.post("/{first_day}/settings")
def settings(request: Request, visitor: Signed, form: Posted, first_day: Day) -> Response:
    """Save how the household shops."""
    try:
        read = SettingsFields.of(form)
        names = tuple(dict.fromkeys(name.strip() for name in read.aisles.splitlines() if name.strip()))
        save_settings(visitor.caller, ShopSettings(names, read.spare_pct, read.aim, read.week_budget))
    except InvalidInputs as error:
        faults = Faults.of(error, SettingsFields.names())
        return list_page(request, visitor, first_day, faults, dict(SettingsFields.as_typed(form)), 422)
    return go(f"/shop/{first_day}")


@router.get("/{first_day}/list.txt")
def list_as_text(visitor: Signed, first_day: Day) -> Response:
    """The list as plain text."""
    week = shopping_of(visitor.caller, first_day)
    return PlainTextResponse("" if week is None else as_text(week, shop_view(week)))


@router.get("/{first_day}/list.csv")
def list_as_csv(visitor: Signed, first_day: Day) -> Response:
    """The list as a table."""
    week = shopping_of(visitor.caller, first_day)
    rows = [] if week is None else as_rows(week, shop_view(week))
    table = write_table(CSV_HEADER, [[cell(x) if isinstance(x, str) else x for x in row] for row in rows])
    name = f"attachment; filename=good-crate-list-{first_day}.csv"
    return PlainTextResponse(table, media_type="text/csv; charset=utf-8", headers={"content-disposition": name})


@router.get("/{first_day}/print")
def list_to_print(visitor: Signed, first_day: Day) -> Response:
    """The list on one side of paper, with boxes to tick."""
    week = shopping_of(visitor.caller, first_day)
    view = None if week is None else shop_view(week)
    return fragment("shop/print.html", week=week, view=view, first_day=first_day)
