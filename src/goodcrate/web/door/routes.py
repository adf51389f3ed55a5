"""Routes of the door."""

import secrets
from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, Response

from goodcrate.core.ground.document import Document
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.roles import EATER
from goodcrate.services import accounts, people
from goodcrate.services.accounts import SignInRefused, TooManyAttempts
from goodcrate.services.calling import NotFound
from goodcrate.services.passkeys import Site, has_any, keys_of
from goodcrate.web.again import AgainRoute
from goodcrate.web.pages import NO_FAULTS, WEB, Faults, go, page, render
from goodcrate.web.security import COOKIE, DEVICE_COOKIE, DOOR_COOKIE, DoorForm, Posted, Signed, Visitor, is_https, text

router = APIRouter(route_class=AgainRoute)
LONGEST_TOKEN = 100


def _door(request: Request, template: str, status: int = 200, **values: object) -> HTMLResponse:
    """A page of the door, with a fresh token in its cookie and its form."""
    token = request.cookies.get(DOOR_COOKIE) or secrets.token_urlsafe(24)
    response = HTMLResponse(render(template, csrf=token, **{"faults": NO_FAULTS, **values}), status_code=status)
    response.set_cookie(DOOR_COOKIE, token, httponly=True, samesite="strict", secure=is_https(request))
    if status >= 400:
        response.headers["HX-Push-Url"] = "false"
    return response


@router.get("/")
def start(request: Request, visitor: Signed) -> Response:
    """The week is where a cook begins at a desk, and the day on a phone."""
    if visitor.signed.role == EATER:
        return go("/today")
    is_phone = request.headers.get("sec-ch-ua-mobile") == "?1" or "Mobi" in request.headers.get("user-agent", "")
    return go("/today" if is_phone else "/week")


@router.get("/favicon.ico")
def favicon() -> Response:
    """The crate, for browsers that ask without looking."""
    return Response((WEB / "static" / "crate.svg").read_bytes(), media_type="image/svg+xml")


@router.get("/first-run")
def first_run(request: Request) -> Response:
    """Sign-up: open until the first account is made, and after that where the server is open."""
    return _door(request, "door/first_run.html", typed={}) if _may_sign_up(request) else go("/sign-in")


def _may_sign_up(request: Request) -> bool:
    return request.app.state.settings.sign_up == "open" or not accounts.has_account(request.app.state.database)


@router.post("/first-run")
def make_account(request: Request, form: DoorForm) -> Response:
    """Make a household and its first account, and sign in; the recovery code is shown this once."""
    if not _may_sign_up(request):
        return go("/sign-in")
    typed = {name: text(form, name) for name in ("household_name", "name", "password")}
    is_open = request.app.state.settings.sign_up == "open"
    try:
        _, code = people.sign_up(request.app.state.database, **typed, may_be_another=is_open)
    except InvalidInputs as error:
        return _door(request, "door/first_run.html", 422, typed=typed, faults=Faults.of(error))
    told: Document = {"name": typed["name"].strip(), "household_name": typed["household_name"].strip(), "code": code}
    shown = _door(request, "door/code.html", onward="/targets/first", **told)
    return _signed_in(request, typed["name"], typed["password"], shown)


@router.get("/join/{invitation}")
def joining(request: Request, invitation: str) -> Response:
    """An invitation: to what, and the account it makes."""
    there = _invited_to(request, invitation)
    return _door(request, "door/join.html", 200 if there else 404, there=there, invitation=invitation, name="")


def _invited_to(request: Request, invitation: str) -> people.Welcome | None:
    if request.app.state.settings.sign_up == "closed":
        return None
    return people.welcome(request.app.state.database, invitation[:LONGEST_TOKEN])


@router.post("/join/{invitation}")
def join(request: Request, form: DoorForm, invitation: str) -> Response:
    """Come in by an invitation; the recovery code is shown this once."""
    there, name, password = _invited_to(request, invitation), text(form, "name"), text(form, "password")
    if there is None:
        return _door(request, "door/join.html", 404, there=None)
    try:
        code = people.join(request.app.state.database, invitation[:LONGEST_TOKEN], name, password)
    except NotFound:
        return _door(request, "door/join.html", 404, there=None)
    except InvalidInputs as error:
        told: Document = {"there": there, "invitation": invitation, "name": name}
        return _door(request, "door/join.html", 422, faults=Faults.of(error), **told)
    told = {"name": name.strip(), "household_name": there.household_name, "code": code}
    return _signed_in(request, name, password, _door(request, "door/code.html", onward="/", **told))


@router.get("/recover")
def recovering(request: Request) -> Response:
    """Where a forgotten password is replaced, by the code."""
    return _door(request, "door/recover.html", name="", code="")


@router.post("/recover")
def recover(request: Request, form: DoorForm) -> Response:
    """Another password by the recovery code; the next code is shown this once."""
    name, code, settings = text(form, "name"), text(form, "code"), request.app.state.settings
    try:
        token, device, next_code = accounts.recover(
            request.app.state.database,
            name,
            code,
            text(form, "new"),
            knock(request),
            free=settings.sign_in_failures,
            days=settings.session_days,
        )
    except TooManyAttempts as error:
        return _door(request, "door/recover.html", 429, name=name, code=code, faults=Faults({}, str(error)))
    except SignInRefused as error:
        faults = Faults({"code": str(error)})
        return _door(request, "door/recover.html", 422, name=name, code=code, faults=faults)
    except InvalidInputs as error:
        return _door(request, "door/recover.html", 422, name=name, code=code, faults=Faults.of(error, {"new"}))
    told: Document = {"name": name.strip(), "household_name": "", "code": next_code}
    return carrying(request, _door(request, "door/code.html", onward="/", **told), token, device)


@router.get("/sign-in")
def sign_in_page(request: Request, target: Annotated[str, Query(alias="next")] = "/") -> Response:
    """The sign-in page; on a fresh installation, the first run."""
    if not accounts.has_account(request.app.state.database):
        return go("/first-run")
    return _sign_in_page(request, name="", next=target)


def _sign_in_page(request: Request, status: int = 200, **values: object) -> HTMLResponse:
    is_open = request.app.state.settings.sign_up == "open"
    has_keys = site_of(request).has_keys and has_any(request.app.state.database)
    return _door(request, "door/sign_in.html", status, is_open=is_open, has_keys=has_keys, **values)


@router.post("/sign-in")
def sign_in(request: Request, form: DoorForm) -> Response:
    """Check name and password."""
    name, target = text(form, "name"), text(form, "next", "/")
    try:
        return _signed_in(request, name, text(form, "password"), go(own_path(target)))
    except TooManyAttempts as error:
        faults, status = Faults({}, str(error)), 429
    except SignInRefused as error:
        faults, status = Faults({"password": str(error)}), 422
    return _sign_in_page(request, status, name=name, next=target, faults=faults)


@router.post("/sign-out")
def sign_out(request: Request, visitor: Signed, form: Posted) -> Response:
    """Forget this browser."""
    accounts.sign_out(request.app.state.database, visitor.token)
    return left()


def sign_in_refused(request: Request, why: str, target: str) -> Response:
    """The sign-in page, and why nobody was let in by a passkey."""
    return _sign_in_page(request, 422, name="", next=target, faults=Faults({"passkey": why}))


def site_of(request: Request) -> Site:
    """Where the browser thinks it is."""
    return Site(request.url.hostname or "", f"{request.url.scheme}://{request.url.netloc}")


def knock(request: Request) -> accounts.Door:
    """Where this request knocks."""
    return accounts.Door(
        request.client.host if request.client else "unknown",
        request.headers.get("user-agent", ""),
        request.cookies.get(DEVICE_COOKIE, ""),
    )


def own_path(target: str) -> str:
    """Only paths of our own: an address on another site would be an open redirect."""
    return target if target.startswith("/") and not target.startswith(("//", "/\\")) else "/"


def _signed_in(request: Request, name: str, password: str, response: Response) -> Response:
    settings = request.app.state.settings
    token, device = accounts.sign_in(
        request.app.state.database,
        name,
        password,
        knock(request),
        free=settings.sign_in_failures,
        days=settings.session_days,
    )
    return carrying(request, response, token, device)


def carrying(request: Request, response: Response, token: str, device: str) -> Response:
    """An answer that signs the browser in."""
    days = request.app.state.settings.session_days
    response.set_cookie(COOKIE, token, httponly=True, samesite="lax", secure=is_https(request), max_age=days * 86_400)
    known_for = int(accounts.KNOWN_FOR.total_seconds())
    response.set_cookie(
        DEVICE_COOKIE, device, httponly=True, samesite="strict", secure=is_https(request), max_age=known_for
    )
    return response


def account_page(
    request: Request, visitor: Visitor, faults: Faults = NO_FAULTS, status: int = 200, done: str = "", code: str = ""
) -> Response:
    """The account page."""
    database, signed = request.app.state.database, visitor.signed
    doors, keys = accounts.open_doors(database, signed, visitor.token), keys_of(database, signed)
    may_add = site_of(request).has_keys
    told: Document = {"may_add": may_add, "faults": faults, "doors": doors, "keys": keys, "done": done, "code": code}
    return page(request, visitor, "door/account.html", "", status=status, **told)


@router.get("/account")
def account(request: Request, visitor: Signed, done: str = "") -> Response:
    """The password, and where one is signed in."""
    return account_page(request, visitor, done=done if done in ("password", "passkey") else "")


@router.post("/account/password")
def change_password(request: Request, visitor: Signed, form: Posted) -> Response:
    """Another password; every other browser is signed out."""
    try:
        accounts.change_password(
            request.app.state.database, visitor.signed, visitor.token, text(form, "old"), text(form, "new")
        )
    except InvalidInputs as error:
        return account_page(request, visitor, Faults.of(error, {"old", "new"}), 422)
    return go("/account?done=password")


@router.post("/account/code")
def recovery_code(request: Request, visitor: Signed, form: Posted) -> Response:
    """A new recovery code of one's own, shown this once; the one before works no more."""
    return account_page(request, visitor, code=people.recovery_code_for(visitor.caller, visitor.signed.user_id))


@router.post("/account/leave")
def leave(request: Request, visitor: Signed, form: Posted) -> Response:
    """Leave the household: the account goes."""
    try:
        people.remove(visitor.caller, visitor.signed.user_id)
    except InvalidInput as error:
        return account_page(request, visitor, Faults.of(error, set()), 422)
    return left()


@router.post("/account/sign-out-everywhere")
def sign_out_everywhere(request: Request, visitor: Signed, form: Posted) -> Response:
    """Forget every browser, this one too."""
    accounts.close_doors(request.app.state.database, visitor.signed)
    return left()


@router.post("/account/browsers/{key}/sign-out")
def sign_out_one(request: Request, visitor: Signed, form: Posted, key: str) -> Response:
    """Forget one browser."""
    accounts.close_doors(request.app.state.database, visitor.signed, key)
    return go("/account")


def left() -> Response:
    """Out of the door: nothing of the sign-in stays in the browser."""
    response = go("/sign-in")
    response.delete_cookie(COOKIE)
    response.headers["clear-site-data"] = '"storage"'  # what was typed and kept in the browser goes too
    return response
