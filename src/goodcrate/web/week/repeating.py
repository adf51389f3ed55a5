"""Routes of repeating: another week or a pattern into the gaps, and a week kept as a pattern."""

from uuid import UUID

from fastapi import Request
from fastapi.responses import Response

from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.typed import id_of, whole_of
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import many
from goodcrate.services.week import repeating
from goodcrate.services.week.repeating import Repeat
from goodcrate.services.week.weeks import new_id
from goodcrate.web.addresses import Day
from goodcrate.web.pages import Faults, go
from goodcrate.web.security import Posted, Signed, text
from goodcrate.web.week.address import router
from goodcrate.web.week.routes import week_page

FIELDS = {"source", "shift", "instead_of", "take", "pattern_name"}


@router.post("/{first_day}/repeat")
def repeat_week(request: Request, visitor: Signed, form: Posted, first_day: Day) -> Response:
    """Fill the gaps from another week."""
    typed = {name: text(form, name).strip()[:80] for name in ("source", "shift", "instead_of", "take")}
    try:
        shift = typed["shift"].replace("−", "-").lstrip("+") or "0"
        days = whole_of(shift.removeprefix("-"), 99)
        if days is None:
            raise InvalidInput(
                "shift", say("“{typed}” is no number of days.", typed=typed["shift"][:12]), say("Such as 1 or −2.")
            )
        days = -days if shift.startswith("-") else days
        sent = id_of(text(form, "id")) or new_id()
        wanted = Repeat(typed["source"], days, typed["instead_of"], typed["take"], sent)
        done = repeating.repeat(visitor.caller, first_day, wanted)
    except (InvalidInput, InvalidInputs) as error:
        return week_page(
            request, visitor, first_day, faults=Faults.of(error, FIELDS), status=422, typed=typed, repeats="1"
        )
    if done.left_out:
        said = " ".join(done.left_out[:4])
        words = say("{placed} copied. Left out: {said}", placed=many(len(done.placed), "meal"), said=said)
        return week_page(
            request,
            visitor,
            first_day,
            faults=Faults({}, words),
            typed=typed,
            repeats="1",
            came=".".join(map(str, done.placed)),
        )
    return go(f"/week/{first_day}?came={'.'.join(map(str, done.placed))}&repeats=1")


@router.post("/{first_day}/pattern")
def save_pattern(request: Request, visitor: Signed, form: Posted, first_day: Day) -> Response:
    """Keep the week as a pattern."""
    name = text(form, "pattern_name")
    try:
        repeating.save_pattern(visitor.caller, first_day, id_of(text(form, "id")) or new_id(), name)
    except InvalidInput as fault:
        typed = {"pattern_name": name}
        return week_page(
            request, visitor, first_day, faults=Faults.of(fault, FIELDS), status=422, typed=typed, repeats="1"
        )
    return go(f"/week/{first_day}?repeats=1")


@router.post("/{first_day}/pattern/{pattern_id}/remove")
def remove_pattern(request: Request, visitor: Signed, form: Posted, first_day: Day, pattern_id: UUID) -> Response:
    """Forget a pattern."""
    repeating.remove_pattern(visitor.caller, pattern_id)
    return go(f"/week/{first_day}?repeats=1")
