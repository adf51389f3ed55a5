"""Routes of the Store stage: boxes, leftovers and opened packs in the house, noted and taken out."""

from datetime import date
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Request
from fastapi.responses import Response

from goodcrate.core.ground.amounts import read_number
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.typed import id_of, read_whole
from goodcrate.core.ground.wording import Saying
from goodcrate.core.portion.week_outcome import BoxPart
from goodcrate.core.recipes.recipe import Recipe, serving_of
from goodcrate.core.store.box import TAKEN_OUT
from goodcrate.core.store.box_code import box_code
from goodcrate.core.store.shelves import MOST_LITRES, Shelf
from goodcrate.services.at_table import store_map
from goodcrate.services.recipes import library
from goodcrate.services.store import house
from goodcrate.services.store.house import MOST_BOXES, PLACES, TakenOut, ThingInput
from goodcrate.services.week.weeks import new_id
from goodcrate.web.again import AgainRoute
from goodcrate.web.drawing import BoxDrawing, draw_box
from goodcrate.web.field_kinds import an_id, day, one_of, weight, whole, words
from goodcrate.web.fields import Fields, maybe
from goodcrate.web.pages import NO_FAULTS, Faults, go, page
from goodcrate.web.security import Posted, Signed, Visitor, text
from goodcrate.web.store import map_view

router = APIRouter(prefix="/store", route_class=AgainRoute)
WAYS_OUT = {
    "eaten": Saying("eaten"),
    "given_away": Saying("given away"),
    "thrown_away:too old": Saying("thrown away, too old"),
    "thrown_away:spoilt": Saying("thrown away, spoilt"),
    "thrown_away:not liked": Saying("thrown away, not liked"),
    "taken_out": Saying("not there any more"),
}
"""What can become of a box: the kind of event, with the reason where one is due."""
FIELDS = (
    "code",
    "where",
    "shelf_name",
    "shelf_place",
    "shelf_boxes",
    "shelf_litres",
    "recipe_id",
    "count",
    "grams",
    "typed",
    "place",
    "since",
    "until",
)


class ThingFields(Fields):
    """What is noted of anything in the house."""

    place: Annotated[str, one_of(PLACES, Saying("Fridge, freezer or cupboard."))]
    since: Annotated[date, day()]
    until: Annotated[date | None, maybe(day())] = None


class BoxFields(ThingFields):
    """Boxes of a recipe as they are typed."""

    recipe_id: Annotated[UUID, an_id(Saying("No recipe is chosen. Choose one."))]
    count: Annotated[int, whole(1, MOST_BOXES)]
    grams: Annotated[float | None, maybe(weight())] = None


class FoodFields(ThingFields):
    """An opened food as it is typed."""

    typed: Annotated[str, words(400)]


def _drawn(recipe: Recipe, servings: float) -> BoxDrawing:
    """A box of so many servings, as its recipe is written."""
    return draw_box(
        [
            BoxPart(p.component.key, p.component.name, p.grams * servings, "", p.tally.scaled(servings))
            for p in serving_of(recipe).parts
        ]
    )


def _store_page(
    request: Request,
    visitor: Visitor,
    faults: Faults = NO_FAULTS,
    status: int = 200,
    typed: dict[str, str] | None = None,
    gone: str = "",
    event: str = "",
    put: str = "",
    ate: str = "",
) -> Response:
    there, today = house.house(visitor.caller), request.app.state.clock()
    on_map = store_map.store_map(visitor.caller)
    blank = dict.fromkeys(FIELDS, "") | {"kind": "", "since": today.isoformat(), "count": "1", "place": "fridge"}
    shown = {**blank, **(typed or {})}
    return page(
        request,
        visitor,
        "store/page.html",
        "store",
        status=status,
        faults=faults,
        house=there,
        foods=[f for f in there.foods if f.wants_using],
        typed=shown,
        places=PLACES,
        new_id=new_id(),
        gone=gone,
        event=event,
        day=today,
        ways_out=WAYS_OUT,
        recipes=[p.recipe for p in library.list_recipes(visitor.caller)],
        drawings={b.id: _drawn(b.recipe, b.servings) for b in there.boxes},
        places_drawn=map_view.drawn(on_map, [f for f in there.foods if f.wants_using], today),
        to_put_away=on_map.to_put_away,
        eat_first=map_view.eat_first(on_map, today),
        past=map_view.past(on_map, today),
        shelves=on_map.shelves,
        on_map=len(on_map.boxes),
        codes={b.box.key: box_code(UUID(b.box.key)) for b in on_map.boxes},
        ids=new_id,
        put=map_view.put_words(on_map, id_of(put)),
        ate=map_view.ate_words(visitor.caller, id_of(ate), id_of(event)),
        stands=map_view.where_words(on_map),
    )


@router.get("")
def show(
    request: Request, visitor: Signed, gone: str = "", event: str = "", put: str = "", where: str = "", ate: str = ""
) -> Response:
    """What is in the house already, what keeps shortest first."""
    return _store_page(request, visitor, typed={"where": where}, gone=gone, event=event, put=put, ate=ate)


@router.post("")
def note(request: Request, visitor: Signed, form: Posted) -> Response:
    """Note boxes of a recipe, or an opened food."""
    kind = BoxFields if text(form, "kind") == "boxes" else FoodFields
    row_id = id_of(text(form, "id")) or new_id()
    try:
        house.put_in(visitor.caller, ThingInput(row_id, **kind.of(form).model_dump()))
    except InvalidInputs as error:
        typed = {**kind.as_typed(form), "kind": text(form, "kind"), "recipe": text(form, "recipe")}
        faults = Faults.of(error, {"recipe", *BoxFields.names(), *FoodFields.names()})
        return _store_page(request, visitor, faults, 422, typed)
    return go("/store")


@router.post("/put-away")
def put_away(visitor: Signed, form: Posted) -> Response:
    """Put every packed box where the map draws it."""
    store_map.put_away(visitor.caller, id_of(text(form, "event")) or new_id())
    return go("/store")


@router.post("/scan")
def scan(request: Request, visitor: Signed, form: Posted) -> Response:
    """Put the box with a scanned or typed code away."""
    typed, event = {name: text(form, name) for name in ("code", "where")}, id_of(text(form, "event")) or new_id()
    try:
        box_id = store_map.put_scanned(visitor.caller, event, typed["code"], typed["where"])
    except InvalidInput as error:
        return _store_page(request, visitor, Faults.of(error, {"code", "place"}), 422, typed)
    return go(f"/store?put={box_id}&event={event}" + (f"&where={typed['where']}" if typed["where"] else ""))


@router.post("/shelves")
def name_shelf(request: Request, visitor: Signed, form: Posted) -> Response:
    """Name a shelf or drawer, or change one."""
    typed = {name: text(form, name) for name in ("name", "place", "boxes", "litres")}
    try:
        boxes = read_whole(typed["boxes"], "shelf_boxes", smallest=1, largest=999) if typed["boxes"].strip() else None
        litres = None
        if typed["litres"].strip():
            litres = read_number(typed["litres"].removesuffix("l").strip(), "shelf_litres", largest=MOST_LITRES)
        shelf_id = id_of(text(form, "id")) or new_id()
        store_map.name_shelf(visitor.caller, Shelf(str(shelf_id), typed["name"], typed["place"], boxes, litres))
    except (InvalidInput, InvalidInputs) as error:
        faults = Faults.of(error, {"shelf_name", "shelf_place", "shelf_boxes", "shelf_litres"})
        return _store_page(request, visitor, faults, 422, {f"shelf_{name}": value for name, value in typed.items()})
    return go("/store#shelves")


@router.post("/shelves/{shelf_id}/away")
def take_shelf_away(visitor: Signed, form: Posted, shelf_id: UUID) -> Response:
    """A shelf is not there any more."""
    store_map.take_shelf_away(visitor.caller, shelf_id)
    return go("/store#shelves")


@router.post("/{row_id}/out")
def take_out(request: Request, visitor: Signed, form: Posted, row_id: UUID) -> Response:
    """Say that it is not there any more, or so many of its boxes, and what became of them."""
    sent = id_of(text(form, "event"))
    kind, _, why = text(form, "kind", TAKEN_OUT).partition(":")
    try:
        count = read_whole(text(form, "count"), "out", smallest=1, largest=999) if text(form, "count") else None
        house.take_out(visitor.caller, row_id, TakenOut(sent or new_id(), kind, count, why))
    except InvalidInput as error:
        faults = Faults.of(InvalidInput(f"out-{row_id}", error.problem, error.wanted), {f"out-{row_id}"})
        return _store_page(request, visitor, faults, 422)
    return go(f"/store?gone={row_id}" + (f"&event={sent}" if sent else ""))


@router.post("/{row_id}/back")
def put_back(request: Request, visitor: Signed, form: Posted, row_id: UUID) -> Response:
    """Say that it is there after all: what went last, or with the event that is named."""
    house.put_back(visitor.caller, row_id, id_of(text(form, "event")))
    return go("/store")
