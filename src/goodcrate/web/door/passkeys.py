"""Routes of passkeys: one made on the account page, and one asked for at the door. The script of both pages asks for a
question first, and sends the form with the device's answer."""

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, Response

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.services import passkeys
from goodcrate.services.accounts import SignInRefused
from goodcrate.web.again import AgainRoute
from goodcrate.web.door.routes import account_page, carrying, knock, own_path, sign_in_refused, site_of
from goodcrate.web.pages import Faults, go
from goodcrate.web.security import DoorForm, Posted, Signed, text

router = APIRouter(route_class=AgainRoute)


def _asked(question: str) -> Response:
    return Response(question, media_type="application/json")


@router.post("/sign-in/passkey/ask")
def ask(request: Request, form: DoorForm) -> Response:
    """What the device is asked of whoever is at the door."""
    return _asked(passkeys.ask(request.app.state.database, site_of(request)))


@router.post("/sign-in/passkey")
def sign_in(request: Request, form: DoorForm) -> Response:
    """Let in whose passkey answered."""
    settings, target = request.app.state.settings, text(form, "next", "/")
    try:
        token, device = passkeys.sign_in(
            request.app.state.database, site_of(request), text(form, "answer"), knock(request), settings.session_days
        )
    except SignInRefused as error:
        return sign_in_refused(request, str(error), target)
    return carrying(request, go(own_path(target)), token, device)


@router.post("/account/passkeys/ask")
def ask_for_new(request: Request, visitor: Signed, form: Posted) -> Response:
    """What the device is asked for a new passkey, once the password is right."""
    try:
        typed = text(form, "password")
        return _asked(passkeys.ask_for_new(request.app.state.database, visitor.signed, typed, site_of(request)))
    except InvalidInput as error:
        return JSONResponse({"error": error.message}, status_code=422)


@router.post("/account/passkeys")
def add(request: Request, visitor: Signed, form: Posted) -> Response:
    """Keep the passkey that was made."""
    device, answer = request.headers.get("user-agent", ""), text(form, "answer")
    try:
        passkeys.add(request.app.state.database, visitor.signed, site_of(request), answer, device)
    except InvalidInput as error:
        return account_page(request, visitor, Faults.of(error, {"passkey"}), 422)
    return go("/account?done=passkey")


@router.post("/account/passkeys/{key}/remove")
def remove(request: Request, visitor: Signed, form: Posted, key: str) -> Response:
    """Let nobody in by it any more."""
    passkeys.remove(request.app.state.database, visitor.signed, key)
    return go("/account")
