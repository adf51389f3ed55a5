"""The page of a box, behind the code on its label: for its household with all that happened to it, for anybody else
with what it is and how it is heated."""

from datetime import datetime
from uuid import UUID

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from goodcrate.core.foods.food import ALLERGEN_WORDS
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.typed import id_of
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import clock, day_month, shown, weekday
from goodcrate.core.store.box import (
    EATEN,
    FROZEN,
    GIVEN_AWAY,
    MOVED,
    PACKED,
    PART_EATEN,
    SWAPPED,
    TAKEN_OUT,
    THAWED,
    THROWN_AWAY,
    UNDONE,
    BoxEvent,
    standing,
)
from goodcrate.core.store.box_code import box_code
from goodcrate.core.store.for_the_meal import heating_words, is_heated
from goodcrate.formats.reference import keep_groups
from goodcrate.services.at_table.box_page import BoxCard, box_card, say_of_box, swap_box, undo_of_box
from goodcrate.services.at_table.store_map import put_on, shelves_of
from goodcrate.services.calling import NotFound
from goodcrate.services.household import speak_for
from goodcrate.services.store.finding import as_found
from goodcrate.services.week.weeks import new_id
from goodcrate.web.again import AgainRoute
from goodcrate.web.at_table import WHYS, said_in, swap_offers
from goodcrate.web.drawing import draw_box
from goodcrate.web.figures import measured
from goodcrate.web.pages import NO_FAULTS, Faults, go, page, render
from goodcrate.web.security import Anybody, Posted, Signed, SignInFirst, Visitor, text

router = APIRouter(prefix="/box", route_class=AgainRoute)
TOLD = {
    PACKED: Saying("packed"),
    MOVED: Saying("put away"),
    FROZEN: Saying("frozen"),
    THAWED: Saying("out of the freezer"),
    TAKEN_OUT: Saying("taken out"),
    EATEN: Saying("eaten"),
    PART_EATEN: Saying("eaten in part"),
    SWAPPED: Saying("for another meal"),
    GIVEN_AWAY: Saying("given away"),
    THROWN_AWAY: Saying("thrown away"),
    UNDONE: Saying("undone"),
}
PLACES = {"fridge": Saying("fridge"), "freezer": Saying("freezer"), "cupboard": Saying("cupboard")}


def _heat(card: BoxCard) -> str:
    return heating_words(card.recipe, keep_groups()) if is_heated(card.recipe, keep_groups()) else say("Eat it cold.")


def _story(card: BoxCard) -> list[dict[str, object]]:
    counts = {event.key for event in standing(card.box.log)}
    return [
        {
            "key": event.key,
            "at": _at(event.at),
            "words": _words(event),
            "counts": event.key in counts,
            "may_undo": event.key in counts and event.kind not in (PACKED, UNDONE),
        }
        for event in card.box.log
    ]


def _at(at: datetime) -> str:
    return f"{weekday(at.date())} {day_month(at.date())}, {clock(at.time())}"


def _words(event: BoxEvent) -> str:
    words = say(str(TOLD[event.kind]))
    if event.grams is not None:
        words = say("{what}, {grams} g", what=words, grams=shown(event.grams))
    if event.place:
        words = say("{what}: {place}", what=words, place=say(str(PLACES.get(event.place, event.place))))
    return f"{words}, {event.why}" if event.why else words


@router.get("/{box_id}")
def show(request: Request, visitor: Anybody, box_id: UUID) -> Response:
    """A box: whole for its household, for anybody else who holds it what it is, and nothing of whose."""
    if visitor is not None:
        return _page(request, visitor, box_id)
    finder = as_found(request.app.state.database, box_id)
    if finder is None:
        raise SignInFirst(f"/box/{box_id}")
    speak_for(finder)
    return _in_the_hand(request, box_card(finder, box_id), box_id)


def _in_the_hand(request: Request, card: BoxCard, box_id: UUID) -> Response:
    """What whoever holds a box may read of it."""
    html = render(
        "today/found.html",
        card=card,
        code=box_code(box_id),
        heat=_heat(card),
        allergens=sorted(ALLERGEN_WORDS[a] for a in card.allergens),
        is_past=card.until is not None and card.until < request.app.state.clock(),
    )
    return HTMLResponse(html)


def _page(
    request: Request, visitor: Visitor, box_id: UUID, faults: Faults = NO_FAULTS, typed: str = "", status: int = 200
) -> Response:
    card = box_card(visitor.caller, box_id)
    if visitor.caller.only_eater not in (None, card.meal.eater_id if card.meal else None):
        return _in_the_hand(request, card, box_id)
    meal, table, only = card.meal, card.table, visitor.caller.only_eater
    eater = None if meal is None or table is None else next(e for e in table.picture.eaters if e.id == meal.eater_id)
    slot = None if meal is None or eater is None else next(s for s in eater.slots if s.id == meal.slot_id)
    return page(
        request,
        visitor,
        "today/box.html",
        "store",
        status=status,
        faults=faults,
        typed=typed,
        card=card,
        box_id=box_id,
        code=box_code(box_id),
        heat=_heat(card),
        allergens=sorted(ALLERGEN_WORDS[a] for a in card.allergens),
        is_past=card.until is not None and card.until < request.app.state.clock(),
        eater=eater,
        slot=slot,
        story=_story(card),
        stands=_stands(visitor, card),
        only_eats=only is not None,
        ids=new_id,
        others=() if meal is None or table is None or only else swap_offers(table, meal, request.app.state.clock()),
        whys=WHYS,
        drawing=draw_box(card.parts),
        kcal=measured(card.tally.amount("energy_kcal"), "energy_kcal"),
        protein=measured(card.tally.amount("protein_g"), "protein_g"),
    )


def _stands(visitor: Visitor, card: BoxCard) -> list[tuple[str, str, bool]]:
    """Where it can stand: the household's shelves, and the places that have none; and whether it stands there."""
    shelves = shelves_of(visitor.caller)
    here = card.box.shelf
    found = [(s.key, f"{s.name}, {say(str(PLACES[s.place]))}", s.key == here) for s in shelves]
    bare = [key for key in PLACES if all(s.place != key for s in shelves)]
    return [*found, *((key, say(str(PLACES[key])), card.box.place == key and not here) for key in bare)]


@router.post("/{box_id}/said")
def said(request: Request, visitor: Signed, form: Posted, box_id: UUID) -> Response:
    """What became of the box."""
    event = id_of(text(form, "event")) or new_id()
    try:
        say_of_box(visitor.caller, box_id, event, said_in(form))
    except InvalidInput as error:
        return _page(request, visitor, box_id, Faults.of(error, {"grams", "why"}), text(form, "grams"), 422)
    return go(f"/store?ate={box_id}&event={event}" if text(form, "back") == "map" else f"/box/{box_id}")


@router.post("/{box_id}/swap")
def swap(request: Request, visitor: Signed, form: Posted, box_id: UUID) -> Response:
    """Swap it with another meal's box."""
    try:
        swap_box(visitor.caller, box_id, id_of(text(form, "other")), id_of(text(form, "event")) or new_id())
    except InvalidInput as error:
        return _page(request, visitor, box_id, Faults.of(error, {"other"}), "", 422)
    return go(f"/box/{box_id}")


@router.post("/{box_id}/move")
def move(request: Request, visitor: Signed, form: Posted, box_id: UUID) -> Response:
    """Where it is now."""
    try:
        put_on(visitor.caller, box_id, id_of(text(form, "event")) or new_id(), text(form, "place"))
    except InvalidInput as error:
        return _page(request, visitor, box_id, Faults.of(error, {"place"}), "", 422)
    return go(f"/box/{box_id}")


@router.post("/{box_id}/undo")
def undo(visitor: Signed, form: Posted, box_id: UUID) -> Response:
    """Take back one thing that happened to it."""
    event = id_of(text(form, "event"))
    if event is None:
        raise NotFound(say("note"))
    undo_of_box(visitor.caller, box_id, event)
    return go("/store" if text(form, "back") == "map" else f"/box/{box_id}")
