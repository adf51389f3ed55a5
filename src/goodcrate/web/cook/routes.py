"""Routes of cooking: the batches a week asks for, and weighing the ingredients of one."""

from datetime import date
from uuid import UUID

from fastapi import Request
from fastapi.responses import Response

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.typed import id_of
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import week_start
from goodcrate.services.calling import NotFound
from goodcrate.services.cook.running import now_cooking
from goodcrate.services.week.nearby import nearby_sessions, week_at_hand
from goodcrate.services.week.weeks import WeekPicture, week_picture
from goodcrate.web.addresses import Day
from goodcrate.web.cook.address import router
from goodcrate.web.cook.view import BatchCard, batch_cards, by_session_and_recipe
from goodcrate.web.pages import go, page
from goodcrate.web.security import Signed, Visitor


@router.get("")
def this_week(request: Request, visitor: Signed) -> Response:
    """On to what is being cooked, else to the batches of the session that is at hand."""
    if there := now_cooking(visitor.caller):
        return go(f"/cook/{there[0]}/now/{there[1]}")
    today = request.app.state.clock()
    return go(f"/cook/{week_at_hand(visitor.caller, today) or week_start(today)}")


@router.get("/{first_day}")
def batches(request: Request, visitor: Signed, first_day: Day) -> Response:
    """What each prep session of a week cooks."""
    picture = week_picture(visitor.caller, first_day)
    groups = by_session_and_recipe(picture) if picture else {}
    nearby = nearby_sessions(visitor.caller, first_day)
    return page(request, visitor, "cook/page.html", "cook", groups=groups, first_day=first_day, nearby=nearby)


def find_card(visitor: Visitor, first_day: date, batch_id: UUID) -> tuple[WeekPicture, BatchCard]:
    """One batch of a week.

    Raises:
        NotFound: when the week asks for no such batch.
    """
    picture = week_picture(visitor.caller, first_day)
    for card in batch_cards(picture) if picture else []:
        if picture and card.id == batch_id:
            return picture, card
    raise NotFound("batch")


def event_id(typed: str) -> UUID:
    """The client-made id of an event.

    Raises:
        InvalidInput: when the form carries none.
    """
    found = id_of(typed)
    if found is None:
        raise InvalidInput("event", say("This form carries no id."), say("Reload the page and send it again."))
    return found
