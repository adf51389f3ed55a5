"""Routes of targets: the eaters, and the form of one."""

from uuid import UUID

from fastapi import APIRouter, Request
from fastapi.responses import Response

from goodcrate.core.errors import InvalidInputs
from goodcrate.core.foods import ALLERGENS
from goodcrate.core.targets import low_energy_caution
from goodcrate.services import targets
from goodcrate.services.calling import StaleWrite
from goodcrate.web.pages import NO_FAULTS, Faults, go, page
from goodcrate.web.security import Posted, Signed, Visitor
from goodcrate.web.targets.forms import WEEKDAYS, EaterForm

router = APIRouter(prefix="/targets")


@router.get("")
def eater_list(request: Request, visitor: Signed) -> Response:
    """Everybody with their days and slots."""
    eaters = targets.list_eaters(visitor.caller)
    cautions = {d.id: low_energy_caution(d.energy_kcal) for e in eaters for d in e.day_types}
    return page(
        request, visitor, "targets/page.html", "targets",
        eaters=eaters, cautions=cautions, allergens=ALLERGENS, weekdays=WEEKDAYS,
    )  # fmt: skip


def _form_page(
    request: Request, visitor: Visitor, form: EaterForm, faults: Faults = NO_FAULTS, status: int = 200
) -> Response:
    return page(
        request, visitor, "targets/form.html", "targets", status=status,
        form=form, faults=faults, allergens=ALLERGENS, weekdays=WEEKDAYS,
    )  # fmt: skip


@router.get("/new")
def new_eater(request: Request, visitor: Signed) -> Response:
    """The form of a new eater."""
    return _form_page(request, visitor, EaterForm.blank())


@router.get("/{eater_id}")
def edit_eater(request: Request, visitor: Signed, eater_id: UUID) -> Response:
    """The form of one eater."""
    return _form_page(request, visitor, EaterForm.of_eater(targets.get_eater(visitor.caller, eater_id)))


@router.post("/{eater_id}")
def save_eater(request: Request, visitor: Signed, form: Posted, eater_id: UUID) -> Response:
    """Save an eater, new or changed."""
    typed = EaterForm.of_post(form, str(eater_id))
    try:
        targets.save_eater(visitor.caller, typed.read())
    except InvalidInputs as error:
        return _form_page(request, visitor, typed, Faults.of(error, typed.field_names()), 422)
    except StaleWrite as error:
        typed.version = error.current_version
        return _form_page(request, visitor, typed, Faults.of(error), 409)
    return go("/targets")
