"""The short page of a first evening: name, a day's energy and protein, how many meals; the rest can wait."""

from collections.abc import Mapping
from uuid import UUID, uuid5

from fastapi import Request
from fastapi.responses import Response
from starlette.datastructures import FormData

from goodcrate.core.ground.errors import InvalidInputs
from goodcrate.core.ground.typed import id_of
from goodcrate.core.ground.wording import Saying
from goodcrate.core.targets.target_ways import BODY
from goodcrate.services.calling import StaleWrite
from goodcrate.services.targets import household_eaters
from goodcrate.services.week.weeks import new_id
from goodcrate.web.pages import NO_FAULTS, Faults, go, page
from goodcrate.web.security import Posted, Signed, Visitor, text
from goodcrate.web.targets.address import CHOICES, router
from goodcrate.web.targets.forms import EaterForm
from goodcrate.web.targets.slot_form import SlotForm
from goodcrate.web.targets.tape import target_tape

BREAKFAST, LUNCH, SNACK, DINNER = ("breakfast", "07:00"), ("lunch", "12:30"), ("snack", "16:00"), ("dinner", "19:00")
SECOND_SNACK = (Saying("evening snack"), "21:00")
MEALS: Mapping[str, tuple[tuple[str, str], ...]] = {
    "2": (LUNCH, DINNER),
    "3": (BREAKFAST, LUNCH, DINNER),
    "4": (BREAKFAST, LUNCH, SNACK, DINNER),
    "5": (BREAKFAST, LUNCH, SNACK, DINNER, SECOND_SNACK),
}
"""The slots that so many meals a day begin with; all can be changed afterwards."""
MEAL_WORDS = {n: f"{n}: {', '.join(name for name, _ in slots)}" for n, slots in MEALS.items()}
USUAL_MEALS = "4"


def _slots(form: FormData, eater_id: UUID) -> list[SlotForm]:
    """The slots of so many meals; a page that is sent twice makes the same ones."""
    slots = []
    for name, at in MEALS.get(text(form, "meals_a_day"), MEALS[USUAL_MEALS]):
        slot = SlotForm(str(uuid5(eater_id, name)), name, at)
        if name == LUNCH[0] and "lunch_travels" in form:
            slot.eaten_cold = slot.travels = True
        slots.append(slot)
    return slots


def _page(
    request: Request, visitor: Visitor, form: EaterForm, faults: Faults = NO_FAULTS, sent: FormData | None = None
) -> Response:
    eaters = household_eaters.list_eaters(visitor.caller)
    return page(
        request,
        visitor,
        "targets/first.html",
        "targets",
        status=422 if faults else 200,
        form=form,
        faults=faults,
        tape=target_tape(form),
        eaters=eaters,
        meals=MEAL_WORDS,
        meals_a_day=text(sent, "meals_a_day") if sent else USUAL_MEALS,
        lunch_travels=sent is not None and "lunch_travels" in sent,
        has_exclusions=bool(form.allergens or form.no_pork or form.facts["diet"] or form.facts["dislikes"]),
        **CHOICES,
    )


@router.get("/first")
def first_eater(request: Request, visitor: Signed) -> Response:
    """The short page, empty."""
    form = EaterForm.blank()
    form.day_types, form.slots = form.day_types[:1], []
    return _page(request, visitor, form)


@router.post("/first")
def save_first_eater(request: Request, visitor: Signed, form: Posted) -> Response:
    """Save the eater, and on to the next one or to the recipes."""
    eater_id = id_of(text(form, "id")) or new_id()
    typed = EaterForm.of_post(form, str(eater_id))
    typed.day_types = typed.day_types[:1] or EaterForm.blank().day_types[:1]
    typed.slots = _slots(form, eater_id)
    if typed.day_types[0].energy_way != BODY:
        typed.was_asked, typed.conditions = False, set()  # the question stands with the body size and was not seen
    try:
        household_eaters.save_eater(visitor.caller, typed.read())
    except InvalidInputs as error:
        return _page(request, visitor, typed, Faults.of(error, typed.field_names()), form)
    except StaleWrite:
        pass  # sent before: this eater is there
    return go("/targets/first" if text(form, "next") == "another" else "/recipes/shelf")
