"""Routes of cooking: the batches a week asks for, and weighing the ingredients of one."""

from datetime import date
from uuid import UUID

from fastapi import Request
from fastapi.responses import Response

from goodcrate.core.ground.amounts import LARGEST_LINE_G, read_grams
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.typed import id_of
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import week_start
from goodcrate.services.calling import NotFound
from goodcrate.services.cook import cooking
from goodcrate.services.cook.running import now_cooking
from goodcrate.services.week.nearby import nearby_sessions, week_at_hand
from goodcrate.services.week.weeks import WeekPicture, new_id, week_picture
from goodcrate.web.addresses import Day
from goodcrate.web.cook.address import router
from goodcrate.web.cook.tapes import batch_tape
from goodcrate.web.cook.view import BatchCard, batch_cards, by_session_and_recipe
from goodcrate.web.figures import plain
from goodcrate.web.pages import NO_FAULTS, Faults, go, page
from goodcrate.web.security import Posted, Signed, Visitor, text


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


def _batch_page(
    request: Request,
    visitor: Visitor,
    first_day: date,
    batch_id: UUID,
    *,
    faults: Faults = NO_FAULTS,
    typed: dict[str, str] | None = None,
    asked: dict[str, dict[str, str]] | None = None,
    status: int = 200,
) -> Response:
    picture, card = find_card(visitor, first_day, batch_id)
    planned = card.worked.record.lines
    state = card.worked.outcome.state
    rows = [(p, line) for p, line in zip(planned, state.lines, strict=True) if not line.is_poured_off]
    poured = [line for line in state.lines if line.is_poured_off]
    current = next((line.key for _, line in rows if line.key not in state.weighed_keys), "")
    return page(
        request,
        visitor,
        "cook/batch.html",
        "cook",
        status=status,
        card=card,
        rows=rows,
        poured=poured,
        current=current,
        weighed=state.weighed_keys,
        typed=typed or {},
        asked=asked or {},
        faults=faults,
        first_day=first_day,
        tape=batch_tape(card, picture.shown, f"/cook/{first_day}/{card.id}"),
        event_ids={line.key: new_id() for line in state.lines},
    )


@router.get("/{first_day}/{batch_id}")
def one_batch(request: Request, visitor: Signed, first_day: Day, batch_id: UUID) -> Response:
    """One batch: its ingredients, planned beside weighed."""
    return _batch_page(request, visitor, first_day, batch_id)


@router.post("/{first_day}/{batch_id}/start")
def start_batch(request: Request, visitor: Signed, form: Posted, first_day: Day, batch_id: UUID) -> Response:
    """Fix the planned weights and begin."""
    cooking.start_batch(visitor.caller, first_day, batch_id)
    return go(f"/cook/{first_day}/{batch_id}")


@router.post("/{first_day}/{batch_id}/lines/{line_id}")
def weigh_line(
    request: Request, visitor: Signed, form: Posted, first_day: Day, batch_id: UUID, line_id: UUID
) -> Response:
    """Log what was weighed of one ingredient."""
    field, typed = f"line-{line_id}", text(form, "net")
    try:
        net_g = read_grams(typed, field, LARGEST_LINE_G)
        event, is_sure = event_id(text(form, "event")), bool(typed) and text(form, "sure") == typed
        cooking.weigh_ingredient(visitor.caller, first_day, batch_id, line_id, event, net_g, is_sure=is_sure)
    except cooking.FarFromPlan as asked:
        instead = plain(round(asked.instead_g)) if asked.instead_g else ""
        doubt = {"words": asked.problem, "typed": typed, "grams": plain(net_g), "instead": instead}
        kept = {field: typed}
        return _batch_page(request, visitor, first_day, batch_id, typed=kept, asked={field: doubt}, status=422)
    except (InvalidInput, InvalidInputs) as error:
        message = error.message if isinstance(error, InvalidInput) else error.faults[0].message
        faults = Faults({field: message})
        return _batch_page(request, visitor, first_day, batch_id, faults=faults, typed={field: typed}, status=422)
    return go(f"/cook/{first_day}/{batch_id}")


@router.post("/{first_day}/{batch_id}/lines/{line_id}/take-out")
def take_out_line(
    request: Request, visitor: Signed, form: Posted, first_day: Day, batch_id: UUID, line_id: UUID
) -> Response:
    """Take an ingredient's weighing back; it stays in the log."""
    cooking.weigh_ingredient(visitor.caller, first_day, batch_id, line_id, event_id(text(form, "event")), None)
    return go(f"/cook/{first_day}/{batch_id}")


def event_id(typed: str) -> UUID:
    """The client-made id of an event.

    Raises:
        InvalidInput: when the form carries none.
    """
    found = id_of(typed)
    if found is None:
        raise InvalidInput("event", say("This form carries no id."), say("Reload the page and send it again."))
    return found
