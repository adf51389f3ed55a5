"""Routes of shopping: the list of a week, and the same as plain text."""

from fastapi import APIRouter, Request
from fastapi.responses import PlainTextResponse, Response

from goodcrate.core.ground.writing import week_start
from goodcrate.services.shop.listing import shopping_of
from goodcrate.services.week.nearby import nearby_sessions, week_at_hand
from goodcrate.web.addresses import Day
from goodcrate.web.again import AgainRoute
from goodcrate.web.pages import go, page
from goodcrate.web.security import Signed
from goodcrate.web.shop.view import as_text, shop_view

router = APIRouter(prefix="/shop", route_class=AgainRoute)


@router.get("")
def this_week(request: Request, visitor: Signed) -> Response:
    """On to the list of the session that is at hand."""
    today = request.app.state.clock()
    return go(f"/shop/{week_at_hand(visitor.caller, today) or week_start(today)}")


@router.get("/{first_day}")
def list_of_week(request: Request, visitor: Signed, first_day: Day) -> Response:
    """What a week has to buy, by aisle."""
    week = shopping_of(visitor.caller, first_day)
    view = None if week is None else shop_view(week)
    return page(
        request,
        visitor,
        "shop/page.html",
        "shop",
        view=view,
        week=week,
        first_day=first_day,
        tape=view.tape if view and view.lines else None,
        nearby=nearby_sessions(visitor.caller, first_day),
    )


@router.get("/{first_day}/list.txt")
def list_as_text(visitor: Signed, first_day: Day) -> Response:
    """The list as plain text."""
    week = shopping_of(visitor.caller, first_day)
    return PlainTextResponse("" if week is None else as_text(shop_view(week)))
