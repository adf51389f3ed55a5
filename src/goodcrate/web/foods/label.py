"""The pages of a food's label, read live while one types."""

from fastapi import Request
from fastapi.responses import Response

from goodcrate.core.foods.food import ALLERGENS, COOKS_LIKE, GROUPS, STATES
from goodcrate.core.foods.label import LabelReading
from goodcrate.core.foods.label_figures import FIELDS, PRINTED
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.wording import Saying, say
from goodcrate.services import household, kitchen
from goodcrate.services.calling import StaleWrite
from goodcrate.services.foods import labels, own_foods
from goodcrate.services.foods.scan import scan
from goodcrate.services.week.weeks import new_id
from goodcrate.web.foods.address import router
from goodcrate.web.foods.label_form import GUESS, MICROS, LabelFields, LabelForm
from goodcrate.web.foods.tapes import label_tape
from goodcrate.web.pages import NO_FAULTS, Faults, fragment, go, page
from goodcrate.web.security import Posted, Signed, Visitor

FOOD_DIETS = {
    "plant": Saying("plants only"),
    "dairy": Saying("with milk"),
    "egg": Saying("with egg"),
    "honey": Saying("with honey"),
    "fish": Saying("fish, shellfish"),
    "meat": Saying("meat"),
    "none": Saying("neither (minerals)"),
}
FORM_FIELDS = LabelFields.names() | set(FIELDS)
_SAME_PLACE = {"pack_g": "pack", "serving_g": "basis_g", "density_g_per_ml": "density", "each_g": "basis_g"}


SHORT_BASES = {
    "100g": Saying("100 g"),
    "100ml": Saying("100 ml"),
    "serving": Saying("serving"),
    "pack": Saying("pack"),
    "pieces": Saying("pieces"),
}
SHORT_FIBRE = {"apart": Saying("apart from carbohydrate"), "inside": Saying("inside carbohydrate")}
"""The choices of a label, said shortly beside each other."""


def _faults(error: InvalidInputs) -> Faults:
    moved = [InvalidInput(_SAME_PLACE.get(f.field, f.field), f.problem, f.wanted) for f in error.faults]
    return Faults.of(InvalidInputs(moved), FORM_FIELDS)


def _show(
    request: Request, visitor: Visitor, form: LabelForm, faults: Faults = NO_FAULTS, status: int = 200, notice: str = ""
) -> Response:
    reading = form.reading()
    return page(
        request,
        visitor,
        "foods/label.html",
        "foods",
        status=status,
        form=form,
        faults=faults,
        reading=reading,
        tape=label_tape(form.name, reading, kitchen.who_and_what(visitor.caller).shown),
        per_100=_per_100(reading),
        notice=notice,
        bases=SHORT_BASES,
        fibre=SHORT_FIBRE,
        printed=PRINTED,
        micros=MICROS,
        kinds_of_state=STATES,
        groups=GROUPS,
        allergens=ALLERGENS,
        diets=FOOD_DIETS,
        cooks_like=COOKS_LIKE,
        guess=GUESS,
        currency=household.settings(visitor.caller).currency,
        is_taught=True,
    )


def _per_100(reading: LabelReading) -> dict[str, tuple[float | None, float, str]]:
    """Figure, error and unit per 100 g beside each printed line."""
    return {line.key: (line.per_100_g, line.standard_error, line.unit) for line in reading.lines}


@router.get("/new")
def new_food(request: Request, visitor: Signed, name: str = "", barcode: str = "") -> Response:
    """An empty label."""
    return _show(request, visitor, LabelForm(str(new_id()), name=name[:160], barcode=barcode[:14]))


@router.get("/scan")
def scanned(request: Request, visitor: Signed, code: str = "") -> Response:
    """On from a barcode: to the household's food, to the catalogue's label to look over, or to an empty one."""
    try:
        found = scan(visitor.caller, code, request.app.state.catalogue)
    except InvalidInput as fault:
        form = LabelForm(str(new_id()), barcode=code[:20])
        return _show(request, visitor, form, Faults({"barcode": fault.message}), 422)
    if found.food is not None:
        return go(f"/foods/{found.food.key}")
    form = LabelForm.of_scan(found)
    if found.item is None:
        return _show(request, visitor, form, notice=found.notice)
    return _show(
        request, visitor, form, notice=say("From the catalogue. Compare it with the pack in your hand, then save.")
    )


@router.get("/{key}/label")
def edit_label(request: Request, visitor: Signed, key: str) -> Response:
    """A known food's label, or the label that takes the place of a typical food's figures."""
    return _show(request, visitor, LabelForm.of_food(own_foods.food_page(visitor.caller, key)))


@router.post("/label/compute")
def compute(request: Request, visitor: Signed, form: Posted) -> Response:
    """What the label typed so far says; nothing is saved."""
    typed = LabelForm.of_post(form)
    reading = typed.reading()
    by_field = {f.field: f.message for f in reading.faults}
    return fragment(
        "foods/_label_live.html",
        form=typed,
        reading=reading,
        tape=label_tape(typed.name, reading, kitchen.who_and_what(visitor.caller).shown),
        printed=PRINTED,
        per_100=_per_100(reading),
        faults=Faults(by_field),
        is_fragment=True,
    )


@router.post("/label")
def save(request: Request, visitor: Signed, form: Posted) -> Response:
    """Save a food from its label, new or changed."""
    typed = LabelForm.of_post(form)
    try:
        key = labels.save_food(visitor.caller, typed.read())
    except InvalidInputs as error:
        return _show(request, visitor, typed, _faults(error), 422)
    except StaleWrite as error:
        typed.version = error.current_version
        return _show(request, visitor, typed, Faults.of(error), 409)
    return go(f"/foods/{key}")
