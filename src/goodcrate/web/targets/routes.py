"""Routes of targets: the eaters, and the form of one."""

from uuid import UUID

from fastapi import Request
from fastapi.responses import Response

from goodcrate.core.ground.errors import InvalidInputs
from goodcrate.core.recipes.counting import MOST_TRACE_KCAL
from goodcrate.core.targets.day_target import BANDED
from goodcrate.services import kitchen
from goodcrate.services.calling import StaleWrite
from goodcrate.services.targets import household_eaters
from goodcrate.web.pages import NO_FAULTS, Faults, fragment, go, page
from goodcrate.web.security import Posted, Signed, Visitor, text
from goodcrate.web.targets.address import CHOICES, router
from goodcrate.web.targets.forms import EaterForm
from goodcrate.web.targets.tape import target_tape


@router.get("")
def eater_list(request: Request, visitor: Signed) -> Response:
    """Everybody with their days and slots."""
    eaters, aside = household_eaters.list_eaters(visitor.caller), household_eaters.list_put_aside(visitor.caller)
    tapes = {e.id: target_tape(EaterForm.of_eater(e)) for e in eaters}
    return page(
        request,
        visitor,
        "targets/page.html",
        "targets",
        tapes=tapes,
        aside=aside,
        eaters=eaters,
        **CHOICES,
        most_trace_kcal=MOST_TRACE_KCAL,
        leaves_traces_out=kitchen.who_and_what(visitor.caller).leaves_traces_out,
    )


@router.post("/counting")
def count_so(request: Request, visitor: Signed, form: Posted) -> Response:
    """Count everything, or leave traces out."""
    kitchen.count_traces(visitor.caller, leave_out=text(form, "traces") == "leave")
    return go("/targets")


def _form_page(
    request: Request, visitor: Visitor, form: EaterForm, faults: Faults = NO_FAULTS, status: int = 200
) -> Response:
    return page(
        request,
        visitor,
        "targets/form.html",
        "targets",
        status=status,
        form=form,
        faults=faults,
        tape=target_tape(form),
        banded=BANDED,
        **CHOICES,
    )


@router.post("/{eater_id}/compute")
def compute(request: Request, visitor: Signed, form: Posted, eater_id: UUID) -> Response:
    """The working of what is typed right now; nothing is saved."""
    return fragment("targets/_tape.html", tape=target_tape(EaterForm.of_post(form, str(eater_id))))


@router.get("/new")
def new_eater(request: Request, visitor: Signed) -> Response:
    """The form of a new eater."""
    return _form_page(request, visitor, EaterForm.blank())


@router.get("/{eater_id}")
def edit_eater(request: Request, visitor: Signed, eater_id: UUID) -> Response:
    """The form of one eater."""
    return _form_page(request, visitor, EaterForm.of_eater(household_eaters.get_eater(visitor.caller, eater_id)))


@router.post("/{eater_id}/aside")
def put_aside(request: Request, visitor: Signed, form: Posted, eater_id: UUID) -> Response:
    """Put an eater aside, or take them back; past weeks keep them."""
    household_eaters.put_aside(visitor.caller, eater_id, aside=text(form, "aside") == "1")
    return go("/targets")


@router.post("/{eater_id}")
def save_eater(request: Request, visitor: Signed, form: Posted, eater_id: UUID) -> Response:
    """Save an eater, new or changed."""
    typed = EaterForm.of_post(form, str(eater_id))
    try:
        household_eaters.save_eater(visitor.caller, typed.read())
    except InvalidInputs as error:
        return _form_page(request, visitor, typed, Faults.of(error, typed.field_names()), 422)
    except StaleWrite as error:
        typed.version = error.current_version
        return _form_page(request, visitor, typed, Faults.of(error), 409)
    return go("/targets")
