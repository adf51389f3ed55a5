"""One food of the list: what it is for, its packs and prices, what is always kept, and what is taken instead."""

from datetime import date
from typing import Annotated
from uuid import UUID

from fastapi import Request
from fastapi.responses import Response

from goodcrate.core.foods.packs import Pack
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.typed import id_of
from goodcrate.core.ground.wording import Saying
from goodcrate.services.foods import packs_known as packs
from goodcrate.services.foods.packs_known import food_on_sale
from goodcrate.services.shop.habits import MOST_FLOOR_G, keep_always
from goodcrate.services.shop.listing import shopping_of
from goodcrate.services.shop.taking_instead import Swap, take_instead, told_of, undo_instead
from goodcrate.services.week.weeks import new_id
from goodcrate.web.addresses import Day
from goodcrate.web.field_kinds import number, weight, words
from goodcrate.web.fields import Fields, maybe
from goodcrate.web.figures import plain
from goodcrate.web.finder import NOTHING_ASKED, ask_finder
from goodcrate.web.pages import NO_FAULTS, Faults, go, page
from goodcrate.web.security import Posted, Signed, Visitor, text
from goodcrate.web.shop.address import router
from goodcrate.web.shop.prices import price_chart
from goodcrate.web.shop.view import shop_view

MOST_FOUND = 8


class PackFields(Fields):
    """A pack as it is typed: what is in it, its price, and where."""

    pack_g: Annotated[float, weight(25_000, allow_zero=False)]
    price: Annotated[float | None, maybe(number(0, 1_000_000, "", Saying("What one pack costs, such as 2.40.")))] = None
    shop: Annotated[str, words(40)] = ""


class FloorFields(Fields):
    """What is always kept."""

    floor_g: Annotated[float, weight(MOST_FLOOR_G)]


def food_page(
    request: Request,
    visitor: Visitor,
    first_day: date,
    key: str,
    *,
    faults: Faults = NO_FAULTS,
    typed: dict[str, str] | None = None,
    q: str = "",
    status: int = 200,
) -> Response:
    """A food of the list; with `q` what could be taken instead, and what each would bring to the boxes."""
    sold = food_on_sale(visitor.caller, key)
    week = shopping_of(visitor.caller, first_day)
    view = None if week is None else shop_view(week)
    floor_g = 0.0 if week is None else week.floors.get(key, 0.0)
    rows = [] if view is None else [r for a in view.aisles for r in a.rows] + list(view.there)
    answer = ask_finder(request, visitor, q, limit=MOST_FOUND) if q.strip() else NOTHING_ASKED
    others = [x.food for x in answer.lines if x.food.key != key]
    return page(
        request,
        visitor,
        "shop/food.html",
        "shop",
        status=status,
        faults=faults,
        typed={"pack_g": "", "price": "", "shop": "", "floor_g": plain(floor_g), **(typed or {})},
        first_day=first_day,
        food=sold.food,
        packs=sold.packs,
        chart=price_chart(sold.packs),
        row=next((r for r in rows if r.line.food.key == key), None),
        q=q,
        answer=answer,
        told=[] if week is None else [told_of(week.picture, key, other) for other in others],
        new_id=new_id(),
    )


@router.get("/{first_day}/food/{key}")
def show_food(request: Request, visitor: Signed, first_day: Day, key: str, q: str = "") -> Response:
    """What a food is for, its packs and prices, and what could be taken instead."""
    return food_page(request, visitor, first_day, key, q=q)


@router.post("/{first_day}/food/{key}/packs")
def add_pack(request: Request, visitor: Signed, form: Posted, first_day: Day, key: str) -> Response:
    """Note a pack and what it costs today."""
    try:
        read = PackFields.of(form)
        pack = Pack(key, read.pack_g, read.price)
        day = request.app.state.clock()
        packs.add_pack(visitor.caller, id_of(text(form, "id")) or new_id(), key, pack, read.shop, day)
    except (InvalidInput, InvalidInputs) as error:
        faults, typed = Faults.of(error, PackFields.names()), dict(PackFields.as_typed(form))
        return food_page(request, visitor, first_day, key, faults=faults, typed=typed, status=422)
    return go(f"/shop/{first_day}/food/{key}")


@router.post("/{first_day}/food/{key}/packs/{pack_id}/remove")
def remove_pack(visitor: Signed, form: Posted, first_day: Day, key: str, pack_id: UUID) -> Response:
    """Take a pack out."""
    packs.remove_pack(visitor.caller, pack_id)
    return go(f"/shop/{first_day}/food/{key}")


@router.post("/{first_day}/food/{key}/floor")
def keep(request: Request, visitor: Signed, form: Posted, first_day: Day, key: str) -> Response:
    """Say how much of it is always kept."""
    try:
        keep_always(visitor.caller, key, FloorFields.of(form).floor_g)
    except (InvalidInput, InvalidInputs) as error:
        faults, typed = Faults.of(error, FloorFields.names()), dict(FloorFields.as_typed(form))
        return food_page(request, visitor, first_day, key, faults=faults, typed=typed, status=422)
    return go(f"/shop/{first_day}/food/{key}")


@router.post("/{first_day}/food/{key}/instead")
def instead(request: Request, visitor: Signed, form: Posted, first_day: Day, key: str) -> Response:
    """Take another food wherever this week's recipes say this one."""
    row_id, swap = id_of(text(form, "id")) or new_id(), Swap(key, text(form, "other"))
    try:
        take_instead(visitor.caller, first_day, row_id, swap, request.app.state.clock())
    except InvalidInput as error:
        return food_page(request, visitor, first_day, key, faults=Faults.of(error, {"other"}), status=422)
    return go(f"/shop/{first_day}#food-{swap.other_key}")


@router.post("/{first_day}/instead/{row_id}/undo")
def undo(request: Request, visitor: Signed, form: Posted, first_day: Day, row_id: UUID) -> Response:
    """Take again what the recipes say."""
    undo_instead(visitor.caller, first_day, row_id, request.app.state.clock())
    return go(f"/shop/{first_day}")
