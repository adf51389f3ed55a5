"""Routes of the people: who belongs to the household, what each may do, invitations, and the household's end."""

from contextlib import suppress
from uuid import UUID

from fastapi import APIRouter, Request
from fastapi.responses import Response

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.roles import COOK, EATER, OWNER
from goodcrate.core.ground.typed import id_of
from goodcrate.core.ground.wording import Saying
from goodcrate.services import people
from goodcrate.services.calling import NotFound
from goodcrate.services.targets.household_eaters import list_eaters
from goodcrate.web.again import AgainRoute
from goodcrate.web.door.routes import left
from goodcrate.web.pages import NO_FAULTS, Faults, go, page
from goodcrate.web.security import Posted, Signed, Visitor, text

router = APIRouter(prefix="/people", route_class=AgainRoute)
ROLE_WORDS = {
    OWNER: Saying("owner: everything, the people and the data too"),
    COOK: Saying("cook: plans, cooks, portions, sees all that is eaten"),
    EATER: Saying("eater: their own day and their own boxes"),
}
SHORT_ROLES = {OWNER: Saying("the owner"), COOK: Saying("a cook"), EATER: Saying("an eater")}


def _people_page(
    request: Request,
    visitor: Visitor,
    faults: Faults = NO_FAULTS,
    status: int = 200,
    link: str = "",
    code: tuple[str, str] | None = None,
) -> Response:
    eaters = list_eaters(visitor.caller)
    return page(
        request,
        visitor,
        "people/page.html",
        "",
        status=status,
        faults=faults,
        people=people.people_of(visitor.caller),
        invited=people.invitations(visitor.caller),
        eaters=eaters,
        eater_names={e.id: e.name for e in eaters},
        roles=ROLE_WORDS,
        short_roles=SHORT_ROLES,
        link=link,
        code=code,
        invited_days=people.INVITED_FOR.days,
        may_invite=request.app.state.settings.sign_up != "closed",
    )


@router.get("")
def show(request: Request, visitor: Signed) -> Response:
    """Everybody of the household."""
    return _people_page(request, visitor)


@router.post("/invite")
def invite(request: Request, visitor: Signed, form: Posted) -> Response:
    """Make a link that lets one person in; it is shown this once."""
    try:
        token = people.invite(visitor.caller, text(form, "role"), id_of(text(form, "eater_id")))
    except InvalidInput as error:
        return _people_page(request, visitor, Faults.of(error, {"role", "eater_id"}), 422)
    return _people_page(request, visitor, link=f"{str(request.base_url).rstrip('/')}/join/{token}")


@router.post("/invitations/{key}/take-back")
def take_back(visitor: Signed, form: Posted, key: str) -> Response:
    """An invitation leads nowhere any more."""
    people.take_invitation_back(visitor.caller, key)
    return go("/people")


@router.post("/{user_id}/role")
def change_role(request: Request, visitor: Signed, form: Posted, user_id: UUID) -> Response:
    """Somebody may do more, or less."""
    try:
        people.change_role(visitor.caller, user_id, text(form, "role"), id_of(text(form, "eater_id")))
    except InvalidInput as error:
        return _people_page(request, visitor, Faults.of(error, set()), 422)
    return go("/people")


@router.post("/{user_id}/hand-over")
def hand_over(request: Request, visitor: Signed, form: Posted, user_id: UUID) -> Response:
    """Somebody else owns the household."""
    try:
        people.hand_over(visitor.caller, user_id)
    except InvalidInput as error:
        return _people_page(request, visitor, Faults.of(error, set()), 422)
    return go("/account")


@router.post("/{user_id}/code")
def recovery_code(request: Request, visitor: Signed, form: Posted, user_id: UUID) -> Response:
    """A code for somebody who forgot their password; it is shown this once."""
    code = people.recovery_code_for(visitor.caller, user_id)
    name = next(p.name for p in people.people_of(visitor.caller) if p.id == user_id)
    return _people_page(request, visitor, code=(name, code))


@router.post("/{user_id}/remove")
def remove(request: Request, visitor: Signed, form: Posted, user_id: UUID) -> Response:
    """Somebody belongs to the household no more."""
    try:
        with suppress(NotFound):  # removed before
            people.remove(visitor.caller, user_id)
    except InvalidInput as error:
        return _people_page(request, visitor, Faults.of(error, set()), 422)
    return left() if user_id == visitor.signed.user_id else go("/people")


@router.post("/delete-household")
def delete_household(request: Request, visitor: Signed, form: Posted) -> Response:
    """The end of the household, and of all its accounts."""
    try:
        people.delete_household(visitor.caller, text(form, "typed"))
    except InvalidInput as error:
        return _people_page(request, visitor, Faults.of(error, {"typed"}), 422)
    return left()
