"""The pantry: what food is in the house, where, how long it keeps; put right by one tap, added by hand."""

from datetime import date
from typing import Annotated
from uuid import UUID

from fastapi import Request
from fastapi.responses import Response

from goodcrate.core.ground.errors import InvalidInputs
from goodcrate.core.ground.typed import id_of
from goodcrate.core.ground.wording import Saying
from goodcrate.services.shop.habits import always_kept
from goodcrate.services.store.house import PLACES, ThingInput, house, put_in
from goodcrate.services.store.pantry import MOST_G, Put, put_right
from goodcrate.services.week.weeks import new_id
from goodcrate.web.field_kinds import day, one_of, weight, words
from goodcrate.web.fields import Fields, maybe
from goodcrate.web.pages import NO_FAULTS, Faults, go, page
from goodcrate.web.security import Posted, Signed, Visitor, text
from goodcrate.web.shop.address import router

BLANK = {"typed": "", "place": "fridge", "until": "", "is_open": "", "grams": ""}


class PutFields(Fields):
    """What is really there of a food."""

    grams: Annotated[float, weight(MOST_G)]
    place: Annotated[str, one_of(PLACES, Saying("Fridge, freezer or cupboard."))]
    until: Annotated[date | None, maybe(day())] = None
    first: bool = False


class AddFields(Fields):
    """A food that is in the house."""

    typed: Annotated[str, words(400)]
    place: Annotated[str, one_of(PLACES, Saying("Fridge, freezer or cupboard."))]
    until: Annotated[date | None, maybe(day())] = None
    is_open: bool = False


def pantry_page(
    request: Request,
    visitor: Visitor,
    faults: Faults = NO_FAULTS,
    typed: dict[str, str] | None = None,
    at: str = "",
    status: int = 200,
) -> Response:
    """All food in the house by place; `at` is the row whose form was refused."""
    there = house(visitor.caller)
    return page(
        request,
        visitor,
        "shop/pantry.html",
        "shop",
        status=status,
        faults=faults,
        typed={**BLANK, **(typed or {})},
        at=at,
        places=PLACES,
        by_place={key: [f for f in there.foods if f.place == key] for key in PLACES},
        kept=always_kept(visitor.caller),
        day=request.app.state.clock(),
        new_id=new_id(),
    )


@router.get("/pantry")
def show_pantry(request: Request, visitor: Signed) -> Response:
    """What food is in the house, by place."""
    return pantry_page(request, visitor)


@router.post("/pantry")
def add_to_pantry(request: Request, visitor: Signed, form: Posted) -> Response:
    """Note a food that is in the house."""
    try:
        read = AddFields.of(form)
        thing = ThingInput(
            id_of(text(form, "id")) or new_id(),
            read.place,
            request.app.state.clock(),
            read.until,
            typed=read.typed,
            is_open=read.is_open,
        )
        put_in(visitor.caller, thing)
    except InvalidInputs as error:
        faults, typed = Faults.of(error, AddFields.names()), dict(AddFields.as_typed(form))
        return pantry_page(request, visitor, faults, typed, "new", 422)
    return go("/shop/pantry")


@router.post("/pantry/{row_id}")
def put_food_right(request: Request, visitor: Signed, form: Posted, row_id: UUID) -> Response:
    """Say what is really there."""
    try:
        read = PutFields.of(form)
        put_right(
            visitor.caller, row_id, Put(0.0 if "gone" in form else read.grams, read.place, read.until, read.first)
        )
    except InvalidInputs as error:
        faults, typed = Faults.of(error, PutFields.names()), dict(PutFields.as_typed(form))
        return pantry_page(request, visitor, faults, typed, str(row_id), 422)
    return go(f"/shop/pantry#thing-{row_id}")
