"""Routes of several meals at once, and of the fridge and freezer they wait in."""

from typing import Annotated
from uuid import UUID

from fastapi import Request
from fastapi.responses import Response

from goodcrate.core.ground.errors import InvalidInputs
from goodcrate.core.ground.typed import day_of, id_of
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.week.storing import CAUTIOUS, USUAL
from goodcrate.services import kitchen
from goodcrate.services.calling import StaleWrite
from goodcrate.services.kitchen import MOST_BOXES, Capacity
from goodcrate.services.week import choosing
from goodcrate.services.week.weeks import new_id
from goodcrate.web.addresses import Day
from goodcrate.web.field_kinds import one_of, whole
from goodcrate.web.fields import Fields, maybe
from goodcrate.web.pages import Faults, go
from goodcrate.web.security import Posted, Signed, text
from goodcrate.web.week.address import router
from goodcrate.web.week.routes import week_page

MOST_CHOSEN = 400
"""Ids read from an address: far more than a week has meals."""
ACTS = ("pin", "unpin", "remove", "restore", "row")


class CapacityFields(Fields):
    """How much fridge and freezer hold, as it is typed; an empty field is not counted."""

    fridge_boxes: Annotated[int | None, maybe(whole(0, MOST_BOXES, Saying("Such as 14.")))] = None
    freezer_boxes: Annotated[int | None, maybe(whole(0, MOST_BOXES, Saying("Such as 14.")))] = None
    keep_rule: Annotated[str, one_of((CAUTIOUS, USUAL), Saying("Cautious or usual."))] = USUAL
    version: Annotated[int | None, maybe(whole(0, 10**9))] = None


def ids_of(words: str) -> list[UUID]:
    """Ids in an address, with dots between them; anything that is no id falls away."""
    found = [id_of(word) for word in words.split(".")[:MOST_CHOSEN]]
    return list(dict.fromkeys(f for f in found if f is not None))


@router.post("/{first_day}/many")
def many_meals(request: Request, visitor: Signed, form: Posted, first_day: Day) -> Response:
    """Pin, let go, take out, put back, or copy along their rows: all chosen meals at once."""
    act, ids = text(form, "act"), ids_of(".".join(str(v) for v in form.getlist("meals")))
    there, caller = f"/week/{first_day}", visitor.caller
    box = f"?box={ids[0]}&set=1" if len(ids) == 1 else ""
    try:
        if act in ("pin", "unpin"):
            choosing.pin(caller, first_day, ids, on=act == "pin")
            return go(there + box)
        if act == "remove":
            gone = choosing.take_out(caller, first_day, ids)
            return go(f"{there}?gone={'.'.join(map(str, gone))}")
        if act == "restore":
            choosing.put_back(caller, first_day, ids)
            return go(there)
        sent = [day_of(v) for v in form.getlist("days")]
        days = [d for d in sent if d is not None]
        if act == "row" and len(days) == len(sent):
            sent_as = id_of(text(form, "id")) or new_id()
            done = choosing.copy_along(caller, first_day, ids, days if "some_days" in form else None, sent=sent_as)
            came = ".".join(map(str, done.placed))
            return go(f"{there}?came={came}&gone={'.'.join(map(str, done.gave_way))}&box={ids[0]}")
    except InvalidInputs as error:
        return week_page(request, visitor, first_day, faults=Faults.of(error, set()), status=422)
    return week_page(
        request, visitor, first_day, faults=Faults({}, say("That is nothing to do with meals.")), status=422
    )


@router.post("/{first_day}/capacity")
def save_capacity(request: Request, visitor: Signed, form: Posted, first_day: Day) -> Response:
    """How many boxes fridge and freezer hold, and by which guidance they keep."""
    typed = CapacityFields.as_typed(form)
    try:
        fields = CapacityFields.of(form)
        kitchen.save_capacity(visitor.caller, Capacity(**fields.model_dump()))
    except StaleWrite as error:
        return week_page(request, visitor, first_day, faults=Faults.of(error), status=409, typed=typed)
    except InvalidInputs as error:
        faults = Faults.of(error, CapacityFields.names())
        return week_page(request, visitor, first_day, faults=faults, status=422, typed=typed)
    return go(f"/week/{first_day}")
