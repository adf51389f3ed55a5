"""Routes of portioning: the pots of a week, and the bench where one is weighed and divided."""

from collections.abc import Callable, Sequence
from datetime import date
from urllib.parse import quote
from uuid import UUID

from fastapi import Request
from fastapi.responses import Response

from goodcrate.core.cook.batch_record import BY_EYE, COUNTED_IN, ON_SCALE, RESTS, SHORTFALLS
from goodcrate.core.ground.amounts import LARGEST_LINE_G, LARGEST_POT_G, MEASURES, read_grams
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.nutrients import Tally
from goodcrate.core.ground.typed import id_of, read_whole, share_of
from goodcrate.core.ground.writing import shown, week_start
from goodcrate.core.portion.on_scale import NOTHING_ON_G
from goodcrate.core.recipes.vessels import COOKS_IN, Vessel
from goodcrate.services.cook.running import now_cooking
from goodcrate.services.kitchen import keep_tare
from goodcrate.services.portion import dividing, filling, spares
from goodcrate.services.week.nearby import nearby_sessions, week_at_hand
from goodcrate.services.week.weeks import WeekPicture, new_id, week_picture
from goodcrate.web.addresses import Day
from goodcrate.web.cook.routes import event_id, find_card
from goodcrate.web.cook.tapes import batch_tape
from goodcrate.web.cook.view import BatchCard, by_session_and_recipe
from goodcrate.web.drawing import texture_of
from goodcrate.web.pages import NO_FAULTS, Faults, go, page
from goodcrate.web.portion import view
from goodcrate.web.portion.address import router
from goodcrate.web.scale import scale_of
from goodcrate.web.security import Posted, Signed, Visitor, text


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
    chosen = request.query_params.get("box", "")
    boxes = view.boxes_on_bench(picture, card, chosen)
    outcome = card.worked.outcome
    current = next((box for box in boxes if box.is_current), None)
    last = view.last_filled(card, boxes)
    scale = scale_of(request)
    per_g = outcome.state.batch.portion(1.0, standard_error_g=0.0) if outcome.state.batch.cooked_g > 0 else Tally()
    around = _around(boxes, current)
    return page(
        request,
        visitor,
        "portion/bench.html",
        "portion",
        status=status,
        card=card,
        boxes=boxes,
        faults=faults,
        current=current,
        last=last,
        typed=typed or {},
        first_day=first_day,
        event=new_id(),
        undo_event=new_id(),
        other_event=new_id(),
        tape=batch_tape(card, picture.shown, f"/cook/{first_day}/{card.id}"),
        left_g=outcome.left_g,
        remainder_g=outcome.remainder_g,
        pot_level=min(1.0, outcome.left_g / outcome.state.available_g) if outcome.state.available_g > 0 else 0.0,
        pots=outcome.state.pots_g,
        shortfalls=SHORTFALLS,
        new_id=new_id(),
        ids=new_id,
        is_asked=_is_asked(request, card, status),
        uneven=view.took_other_than_divided(card, last),
        has_scale=scale is not None,
        has_pan=scale is not None and scale.has_pan,
        nothing_on_g=NOTHING_ON_G,
        texture=texture_of(outcome.state.batch.tally),
        per_g_kcal=per_g.amount("energy_kcal").value,
        per_g_protein=per_g.amount("protein_g").value,
        container_words=view.container_words(current) if current else "",
        next_box=around[1],
        previous_box=around[0],
        vessels=_vessels_for(picture),
        thrown_out=", ".join(line.food.name.lower() for line in outcome.state.lines if line.is_discarded),
        takers=view.who_takes_rest(picture, boxes, outcome) if outcome.state.pot_g is not None else [],
        other_boxes=view.other_boxes(picture, card) if outcome.state.pot_g is not None and outcome.left_g >= 1 else [],
        topped_up=view.topped_up_words(picture, card),
        rests=RESTS,
        piece_g=outcome.piece_g,
        piece_word=str(COUNTED_IN[card.worked.record.piece_kind][0]),
        counted_in=COUNTED_IN,
        measures=MEASURES,
        not_taken=_not_taken(request),
        mark=filling.last_weighed(visitor.caller, batch_id),
        short_for=card.worked.record.short_for,
        eaters_of_pot=list(dict.fromkeys((box.eater.id, box.eater_name, box.known_by) for box in boxes)),
    )


def _not_taken(request: Request) -> str:
    """Grams the scale accepted and nobody wrote down, since another device weighed something just then."""
    try:
        return shown(read_grams(request.query_params.get("not_taken", ""), "net_g", LARGEST_LINE_G), 1)
    except InvalidInput:
        return ""


def _around(
    boxes: Sequence[view.BoxOnBench], current: view.BoxOnBench | None
) -> tuple[view.BoxOnBench | None, view.BoxOnBench | None]:
    """The boxes before and after the current one, round the whole row."""
    if current is None or len(boxes) < 2:
        return None, None
    n = boxes.index(current)
    return boxes[n - 1], boxes[(n + 1) % len(boxes)]


def _vessels_for(picture: WeekPicture) -> list[Vessel]:
    """The vessels something is cooked in, those of a known tare first."""
    return sorted((v for v in picture.vessels if v.kind in COOKS_IN), key=lambda v: v.tare_g is None)


def _is_asked(request: Request, card: BatchCard, status: int) -> bool:
    """Whether nothing is asked any more about what is not in yet: somebody weighs the pot all the same, or is at it."""
    return bool(status != 200 or request.query_params.get("all_the_same") or len(card.worked.record.pots) > 1)


@router.get("/{first_day}/{batch_id}")
def bench(request: Request, visitor: Signed, first_day: Day, batch_id: UUID) -> Response:
    """One pot on the bench."""
    return _bench(request, visitor, first_day, batch_id)


_FIELDS = {"gross_g", "tare_g", "still_in_g", "shortfall", "net_g", "pieces", "spare_g", "rest_g", "pot", "box", "step"}


def act_on_bench(
    request: Request, visitor: Visitor, first_day: date, batch_id: UUID, act: Callable[[], None], typed: dict[str, str]
) -> Response:
    """Do one thing at the bench; a refusal shows the bench again with what was typed."""
    try:
        act()
    except (InvalidInput, InvalidInputs) as error:
        faults = Faults.of(error, _FIELDS)
        return _bench(request, visitor, first_day, batch_id, faults=faults, typed=typed, status=422)
    return go(f"/portion/{first_day}/{batch_id}")


@router.post("/{first_day}/{batch_id}/pot")
def weigh_pot(request: Request, visitor: Signed, form: Posted, first_day: Day, batch_id: UUID) -> Response:
    """Log the pot, gross and tare."""
    typed = {name: text(form, name) for name in ("gross_g", "tare_g", "shortfall", "still_in_g", "vessel")}
    vessel_id = id_of(typed["vessel"])

    def act() -> None:
        gross_g = read_grams(typed["gross_g"], "gross_g", LARGEST_POT_G, allow_zero=False)
        tare_g = read_grams(typed["tare_g"] or "0", "tare_g", LARGEST_POT_G)
        empty_g = tare_g
        # bones and leaves that are still in are no food: they count as the vessel's
        tare_g += read_grams(typed["still_in_g"] or "0", "still_in_g", LARGEST_POT_G)
        event, pot_id = event_id(text(form, "event")), id_of(text(form, "pot"))
        shortfall = typed["shortfall"] or None
        filling.weigh_pot(
            visitor.caller,
            first_day,
            batch_id,
            event,
            gross_g,
            tare_g,
            shortfall=shortfall,
            pot_id=pot_id,
            vessel_id=vessel_id,
        )
        if vessel_id is not None and text(form, "keep_tare") and empty_g > 0:
            keep_tare(visitor.caller, vessel_id, empty_g)

    return act_on_bench(request, visitor, first_day, batch_id, act, typed)


@router.post("/{first_day}/{batch_id}/pot/take-out")
def take_out_pot(request: Request, visitor: Signed, form: Posted, first_day: Day, batch_id: UUID) -> Response:
    """Take the pot's weight back."""
    event = event_id(text(form, "event"))
    return act_on_bench(
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
    return act_on_bench(
        request, visitor, first_day, batch_id, lambda: filling.add_pot(visitor.caller, first_day, batch_id, pot_id), {}
    )


@router.post("/{first_day}/{batch_id}/pots/remove")
def leave_pot_out(request: Request, visitor: Signed, form: Posted, first_day: Day, batch_id: UUID) -> Response:
    """The pot that was added last was none."""
    event = event_id(text(form, "event"))
    return act_on_bench(
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
        spares.pack_spare(visitor.caller, first_day, batch_id, box_id, event_id(text(form, "event")), net_g)

    return act_on_bench(request, visitor, first_day, batch_id, act, typed)


@router.post("/{first_day}/{batch_id}/spare/{box_id}/take-out")
def take_out_spare(
    request: Request, visitor: Signed, form: Posted, first_day: Day, batch_id: UUID, box_id: UUID
) -> Response:
    """Take a box for nobody back."""
    event = event_id(text(form, "event"))
    return act_on_bench(
        request,
        visitor,
        first_day,
        batch_id,
        lambda: spares.take_out_spare(visitor.caller, first_day, batch_id, box_id, event),
        {},
    )


@router.post("/{first_day}/{batch_id}/boxes/{placement_id}")
def weigh_box(
    request: Request, visitor: Signed, form: Posted, first_day: Day, batch_id: UUID, placement_id: UUID
) -> Response:
    """Log what one box holds: typed, as the scale showed it (then with what was tared off), or in pieces."""
    typed = {name: text(form, name) for name in ("net_g", "pieces")}
    seen = text(form, "seen")
    if seen and seen != str(filling.last_weighed(visitor.caller, batch_id)):
        # the scale accepted it by itself, and another device had weighed something since: show what stands
        if filling.holds(visitor.caller, first_day, batch_id, placement_id) == typed["net_g"].strip():
            return go(f"/portion/{first_day}/{batch_id}")  # it was this very reading
        return go(f"/portion/{first_day}/{batch_id}?not_taken={quote(typed['net_g'])}")

    def act() -> None:
        event = event_id(text(form, "event"))
        if typed["pieces"]:
            filled = filling.Filled(
                0.0, pieces=read_whole(typed["pieces"], "pieces", smallest=1, largest=dividing.MOST_PIECES)
            )
        else:
            share = share_of(typed["net_g"])
            if share is None:
                net_g = read_grams(typed["net_g"], "net_g", LARGEST_LINE_G, allow_zero=False)
            else:  # juice or oil that is poured over one plate: so much of the pan, by eye
                net_g = filling.share_of_pot_g(visitor.caller, first_day, batch_id, share)
            tare = text(form, "scale_tare")
            tare_g = read_grams(tare, "net_g", LARGEST_POT_G) if tare else None
            filled = filling.Filled(net_g, tare_g, how=ON_SCALE if tare else BY_EYE if share is not None else "")
        filling.weigh_box(visitor.caller, first_day, batch_id, placement_id, event, filled)

    return act_on_bench(request, visitor, first_day, batch_id, act, typed)


@router.post("/{first_day}/{batch_id}/boxes/{placement_id}/take-out")
def take_out_box(
    request: Request, visitor: Signed, form: Posted, first_day: Day, batch_id: UUID, placement_id: UUID
) -> Response:
    """Take one box's weight back."""
    event = event_id(text(form, "event"))
    return act_on_bench(
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
    return act_on_bench(
        request,
        visitor,
        first_day,
        batch_id,
        lambda: filling.fill_as_divided(visitor.caller, first_day, batch_id, event),
        {},
    )
