"""Routes of the door."""

import secrets
from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, Response

from goodcrate.core.ground.errors import InvalidInputs
from goodcrate.services import accounts
from goodcrate.services.accounts import SignInRefused, TooManyAttempts
from goodcrate.web.again import AgainRoute
from goodcrate.web.pages import NO_FAULTS, WEB, Faults, go, page, render
from goodcrate.web.security import COOKIE, DEVICE_COOKIE, DOOR_COOKIE, DoorForm, Posted, Signed, Visitor, is_https, text

router = APIRouter(route_class=AgainRoute)


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
    is_phone = request.headers.get("sec-ch-ua-mobile") == "?1" or "Mobi" in request.headers.get("user-agent", "")
    return go("/today" if is_phone else "/week")


@router.get("/favicon.ico")
def favicon() -> Response:
    """The crate, for browsers that ask without looking."""
    return Response((WEB / "static" / "crate.svg").read_bytes(), media_type="image/svg+xml")


@router.get("/first-run")
def first_run(request: Request) -> Response:
    """Sign-up, open until the first account is made."""
    if accounts.has_account(request.app.state.database):
        return go("/sign-in")
    return _door(request, "door/first_run.html", typed={})


@router.post("/first-run")
def make_first_account(request: Request, form: DoorForm) -> Response:
    """Make the household and its first account, and sign in."""
    if accounts.has_account(request.app.state.database):
        return go("/sign-in")
    typed = {name: text(form, name) for name in ("household_name", "name", "password")}
    try:
        accounts.sign_up(request.app.state.database, typed["household_name"], typed["name"], typed["password"])
    except InvalidInputs as error:
        return _door(request, "door/first_run.html", 422, typed=typed, faults=Faults.of(error))
    return _signed_in(request, typed["name"], typed["password"], "/targets/first")


@router.get("/sign-in")
def sign_in_page(request: Request, target: Annotated[str, Query(alias="next")] = "/") -> Response:
    """The sign-in page; on a fresh installation, the first run."""
    if not accounts.has_account(request.app.state.database):
        return go("/first-run")
    return _door(request, "door/sign_in.html", name="", next=target)


@router.post("/sign-in")
def sign_in(request: Request, form: DoorForm) -> Response:
    """Check name and password."""
    name, target = text(form, "name"), text(form, "next", "/")
    try:
        return _signed_in(request, name, text(form, "password"), target)
    except TooManyAttempts as error:
        faults, status = Faults({}, str(error)), 429
    except SignInRefused as error:
        faults, status = Faults({"password": str(error)}), 422
    return _door(request, "door/sign_in.html", status, name=name, next=target, faults=faults)


@router.post("/sign-out")
def sign_out(request: Request, visitor: Signed, form: Posted) -> Response:
    """Forget this browser."""
    accounts.sign_out(request.app.state.database, visitor.token)
    return _left()


def _signed_in(request: Request, name: str, password: str, target: str) -> Response:
    settings = request.app.state.settings
    knock = accounts.Door(
        request.client.host if request.client else "unknown",
        request.headers.get("user-agent", ""),
        request.cookies.get(DEVICE_COOKIE, ""),
    )
    token, device = accounts.sign_in(
        request.app.state.database, name, password, knock, free=settings.sign_in_failures, days=settings.session_days
    )
    # Only paths of our own: an address on another site would be an open redirect.
    response = go(target if target.startswith("/") and not target.startswith(("//", "/\\")) else "/")
    response.set_cookie(
        COOKIE, token, httponly=True, samesite="lax", secure=is_https(request), max_age=settings.session_days * 86_400
    )
    known_for = int(accounts.KNOWN_FOR.total_seconds())
    response.set_cookie(
        DEVICE_COOKIE, device, httponly=True, samesite="strict", secure=is_https(request), max_age=known_for
    )
    return response


def _account_page(
    request: Request, visitor: Visitor, faults: Faults = NO_FAULTS, status: int = 200, done: str = ""
) -> Response:
    doors = accounts.open_doors(request.app.state.database, visitor.signed, visitor.token)
    return page(request, visitor, "door/account.html", "", status=status, faults=faults, doors=doors, done=done)


@router.get("/account")
def account(request: Request, visitor: Signed, done: str = "") -> Response:
    """The password, and where one is signed in."""
    return _account_page(request, visitor, done="1" if done == "password" else "")


@router.post("/account/password")
def change_password(request: Request, visitor: Signed, form: Posted) -> Response:
    """Another password; every other browser is signed out."""
    try:
        accounts.change_password(
            request.app.state.database, visitor.signed, visitor.token, text(form, "old"), text(form, "new")
        )
    except InvalidInputs as error:
        return _account_page(request, visitor, Faults.of(error, {"old", "new"}), 422)
    return go("/account?done=password")


@router.post("/account/sign-out-everywhere")
def sign_out_everywhere(request: Request, visitor: Signed, form: Posted) -> Response:
    """Forget every browser, this one too."""
    accounts.close_doors(request.app.state.database, visitor.signed)
    return _left()


@router.post("/account/browsers/{key}/sign-out")
def sign_out_one(request: Request, visitor: Signed, form: Posted, key: str) -> Response:
    """Forget one browser."""
    accounts.close_doors(request.app.state.database, visitor.signed, key)
    return go("/account")


def _left() -> Response:
    response = go("/sign-in")
    response.delete_cookie(COOKIE)
    response.headers["clear-site-data"] = '"storage"'  # what was typed and kept in the browser goes too
    return response
