"""Routes of portioning: the pots of a week, and the bench where one is weighed and divided."""

from collections.abc import Callable
from datetime import date
from uuid import UUID

from fastapi import APIRouter, Request
from fastapi.responses import Response

from goodcrate.core.cook.batch_record import SHORTFALLS
from goodcrate.core.ground.amounts import LARGEST_LINE_G, LARGEST_POT_G, read_grams
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.typed import id_of
from goodcrate.core.ground.writing import week_start
from goodcrate.services.cook.running import now_cooking
from goodcrate.services.portion import filling
from goodcrate.services.week.nearby import nearby_sessions, week_at_hand
from goodcrate.services.week.weeks import new_id, week_picture
from goodcrate.web.addresses import Day
from goodcrate.web.again import AgainRoute
from goodcrate.web.cook.routes import event_id, find_card
from goodcrate.web.cook.tapes import batch_tape
from goodcrate.web.cook.view import BatchCard, boxes_on_bench, by_session_and_recipe, took_other_than_divided
from goodcrate.web.pages import NO_FAULTS, Faults, go, page
from goodcrate.web.security import Posted, Signed, Visitor, text

router = APIRouter(prefix="/portion", route_class=AgainRoute)


@router.get("")
def this_week(request: Request, visitor: Signed) -> Response:
    """On to the pots of what is being cooked, else of the session that is at hand."""
    today = request.app.state.clock()
    cooked = now_cooking(visitor.caller)
    first_day = cooked[0] if cooked else week_at_hand(visitor.caller, today)
    return go(f"/portion/{first_day or week_start(today)}")


@router.get("/{first_day}")
def pots(request: Request, visitor: Signed, first_day: Day) -> Response:
    """The week's batches, as pots to weigh and divide."""
    picture = week_picture(visitor.caller, first_day)
    groups = by_session_and_recipe(picture) if picture else {}
    nearby = nearby_sessions(visitor.caller, first_day)
    return page(request, visitor, "portion/page.html", "portion", groups=groups, first_day=first_day, nearby=nearby)


def _bench(
    request: Request,
    visitor: Visitor,
    first_day: date,
    batch_id: UUID,
    *,
    faults: Faults = NO_FAULTS,
    typed: dict[str, str] | None = None,
    status: int = 200,
) -> Response:
    picture, card = find_card(visitor, first_day, batch_id)
    boxes = boxes_on_bench(picture, card)
    packed = [box for box in boxes if box.is_packed]
    last = packed[-1] if packed else None
    return page(
        request,
        visitor,
        "portion/bench.html",
        "portion",
        status=status,
        card=card,
        boxes=boxes,
        faults=faults,
        current=next((box for box in boxes if box.is_current), None),
        last=last,
        typed=typed or {},
        first_day=first_day,
        event=new_id(),
        tape=batch_tape(card, picture.shown, f"/cook/{first_day}/{card.id}"),
        left_g=card.worked.outcome.left_g,
        pots=card.worked.outcome.state.pots_g,
        shortfalls=SHORTFALLS,
        new_id=new_id(),
        ids=new_id,
        is_asked=_is_asked(request, card, status),
        uneven=took_other_than_divided(card, last),
    )


def _is_asked(request: Request, card: BatchCard, status: int) -> bool:
    """Whether nothing is asked any more about what is not in yet: somebody weighs the pot all the same, or is at it."""
    return bool(status != 200 or request.query_params.get("all_the_same") or len(card.worked.record.pots) > 1)


@router.get("/{first_day}/{batch_id}")
def bench(request: Request, visitor: Signed, first_day: Day, batch_id: UUID) -> Response:
    """One pot on the bench."""
    return _bench(request, visitor, first_day, batch_id)


def _act(
    request: Request, visitor: Visitor, first_day: date, batch_id: UUID, act: Callable[[], None], typed: dict[str, str]
) -> Response:
    """Do one thing at the bench; a refusal shows the bench again with what was typed."""
    try:
        act()
    except (InvalidInput, InvalidInputs) as error:
        faults = Faults.of(error, {"gross_g", "tare_g", "shortfall", "net_g", "spare_g", "pot", "box"})
        return _bench(request, visitor, first_day, batch_id, faults=faults, typed=typed, status=422)
    return go(f"/portion/{first_day}/{batch_id}")


@router.post("/{first_day}/{batch_id}/pot")
def weigh_pot(request: Request, visitor: Signed, form: Posted, first_day: Day, batch_id: UUID) -> Response:
    """Log the pot, gross and tare."""
    typed = {name: text(form, name) for name in ("gross_g", "tare_g", "shortfall")}

    def act() -> None:
        gross_g = read_grams(typed["gross_g"], "gross_g", LARGEST_POT_G, allow_zero=False)
        tare_g = read_grams(typed["tare_g"] or "0", "tare_g", LARGEST_POT_G)
        event, pot_id = event_id(text(form, "event")), id_of(text(form, "pot"))
        shortfall = typed["shortfall"] or None
        filling.weigh_pot(
            visitor.caller, first_day, batch_id, event, gross_g, tare_g, shortfall=shortfall, pot_id=pot_id
        )

    return _act(request, visitor, first_day, batch_id, act, typed)


@router.post("/{first_day}/{batch_id}/pot/take-out")
def take_out_pot(request: Request, visitor: Signed, form: Posted, first_day: Day, batch_id: UUID) -> Response:
    """Take the pot's weight back."""
    event = event_id(text(form, "event"))
    return _act(
        request,
        visitor,
        first_day,
        batch_id,
        lambda: filling.take_out_pot(visitor.caller, first_day, batch_id, event),
        {},
    )


@router.post("/{first_day}/{batch_id}/pots")
def add_pot(request: Request, visitor: Signed, form: Posted, first_day: Day, batch_id: UUID) -> Response:
    """One pot more that the batch came out of."""
    pot_id = id_of(text(form, "id")) or new_id()
    return _act(
        request, visitor, first_day, batch_id, lambda: filling.add_pot(visitor.caller, first_day, batch_id, pot_id), {}
    )


@router.post("/{first_day}/{batch_id}/pots/remove")
def leave_pot_out(request: Request, visitor: Signed, form: Posted, first_day: Day, batch_id: UUID) -> Response:
    """The pot that was added last was none."""
    event = event_id(text(form, "event"))
    return _act(
        request,
        visitor,
        first_day,
        batch_id,
        lambda: filling.leave_pot_out(visitor.caller, first_day, batch_id, event),
        {},
    )


@router.post("/{first_day}/{batch_id}/spare")
def pack_spare(request: Request, visitor: Signed, form: Posted, first_day: Day, batch_id: UUID) -> Response:
    """Pack what is over into a box that is for nobody yet."""
    typed = {"spare_g": text(form, "spare_g")}

    def act() -> None:
        net_g = read_grams(typed["spare_g"], "spare_g", LARGEST_LINE_G, allow_zero=False)
        box_id = id_of(text(form, "id")) or new_id()
        filling.pack_spare(visitor.caller, first_day, batch_id, box_id, event_id(text(form, "event")), net_g)

    return _act(request, visitor, first_day, batch_id, act, typed)


@router.post("/{first_day}/{batch_id}/spare/{box_id}/take-out")
def take_out_spare(
    request: Request, visitor: Signed, form: Posted, first_day: Day, batch_id: UUID, box_id: UUID
) -> Response:
    """Take a box for nobody back."""
    event = event_id(text(form, "event"))
    return _act(
        request,
        visitor,
        first_day,
        batch_id,
        lambda: filling.take_out_spare(visitor.caller, first_day, batch_id, box_id, event),
        {},
    )


@router.post("/{first_day}/{batch_id}/boxes/{placement_id}")
def weigh_box(
    request: Request, visitor: Signed, form: Posted, first_day: Day, batch_id: UUID, placement_id: UUID
) -> Response:
    """Log what one box holds."""
    typed = {"net_g": text(form, "net_g")}

    def act() -> None:
        net_g = read_grams(typed["net_g"], "net_g", LARGEST_LINE_G, allow_zero=False)
        event = event_id(text(form, "event"))
        filling.weigh_box(visitor.caller, first_day, batch_id, placement_id, event, net_g)

    return _act(request, visitor, first_day, batch_id, act, typed)


@router.post("/{first_day}/{batch_id}/boxes/{placement_id}/take-out")
def take_out_box(
    request: Request, visitor: Signed, form: Posted, first_day: Day, batch_id: UUID, placement_id: UUID
) -> Response:
    """Take one box's weight back."""
    event = event_id(text(form, "event"))
    return _act(
        request,
        visitor,
        first_day,
        batch_id,
        lambda: filling.take_out_box(visitor.caller, first_day, batch_id, placement_id, event),
        {},
    )


@router.post("/{first_day}/{batch_id}/fill")
def fill(request: Request, visitor: Signed, form: Posted, first_day: Day, batch_id: UUID) -> Response:
    """Log every open box exactly as divided."""
    event = event_id(text(form, "event"))
    return _act(
        request,
        visitor,
        first_day,
        batch_id,
        lambda: filling.fill_as_divided(visitor.caller, first_day, batch_id, event),
        {},
    )
