"""The door's rules: who is asking, whether a write is really theirs, and what a browser may load."""

import asyncio
import hmac
import socket
from collections.abc import AsyncIterator, Callable, Mapping
from dataclasses import dataclass
from ipaddress import ip_address
from typing import Annotated
from urllib.parse import parse_qsl, quote

from fastapi import Depends, HTTPException, Request
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import FormData, Headers, MutableHeaders, UploadFile
from starlette.responses import PlainTextResponse, Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from goodcrate.core.ground.wording import WORDS, say
from goodcrate.core.ground.writing import WRITING
from goodcrate.formats.archive.container import LARGEST_ARCHIVE_BYTES
from goodcrate.formats.catalogues import words_of
from goodcrate.services.accounts import SignedIn, remembered, signed_in
from goodcrate.services.calling import Caller, Database
from goodcrate.services.week.history import close_what_is_over, is_settled
from goodcrate.web.roles import may_go, route_of

COOKIE = "goodcrate_session"
DOOR_COOKIE = "goodcrate_door"
DEVICE_COOKIE = "goodcrate_device"
LARGEST_BODY_BYTES = 1_000_000
MOST_FIELDS = 6000
LARGEST_FILES: Mapping[str, int] = {
    "/foods/files": 8_000_000,
    "/recipes/import": 12_000_000,
    "/archive/bring": LARGEST_ARCHIVE_BYTES,
}
"""The addresses that take files, or what was pasted instead of one, and how many bytes of it."""
FORM_AROUND_BYTES = 200_000

HEADERS = {
    "content-security-policy": (
        "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self'; font-src 'self'; connect-src 'self'; "
        "form-action 'self'; base-uri 'none'; frame-ancestors 'none'; manifest-src 'self'"
    ),
    "x-content-type-options": "nosniff",
    "x-frame-options": "DENY",
    "referrer-policy": "same-origin",
    "cross-origin-opener-policy": "same-origin",
    "cross-origin-resource-policy": "same-origin",
    "permissions-policy": "camera=(), microphone=(), geolocation=()",
}


BODY_SECONDS = 30.0
"""How long the next part of a request's body may take to arrive."""


class Shield:
    """What holds for every request and answer: the host is ours, a body has a size and a time, the headers are there
    (also on pages that broke), and `HEAD` is `GET` without its body."""

    def __init__(self, app: ASGIApp, hosts: frozenset[str], broken: Callable[[Scope, Exception], Response]) -> None:
        self.app, self.hosts, self.broken = app, hosts, broken

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        file_bytes = LARGEST_FILES.get(scope["path"])
        most = LARGEST_BODY_BYTES if file_bytes is None else file_bytes + FORM_AROUND_BYTES
        seen, has_begun, is_whole = 0, False, False
        is_head = scope["method"] == "HEAD"
        scope = {**scope, "method": "GET"} if is_head else scope

        async def counted() -> Message:
            nonlocal seen, is_whole
            try:
                message = await asyncio.wait_for(receive(), None if is_whole else BODY_SECONDS)
            except TimeoutError:
                raise HTTPException(408, say("The rest of this request did not arrive. Send it again.")) from None
            seen += len(message.get("body", b""))
            is_whole = not message.get("more_body", False)
            if seen > most:
                raise HTTPException(
                    413, say("This is too large: at most {mb} MB are taken here.", mb=most // 1_000_000)
                )
            return message

        async def shielded(message: Message) -> None:
            nonlocal has_begun
            if message["type"] == "http.response.start":
                has_begun = True
                headers = MutableHeaders(scope=message)
                for name, value in HEADERS.items():
                    headers.setdefault(name, value)
                if not scope["path"].startswith("/static/"):
                    headers.setdefault("cache-control", "no-store")
                if scope["scheme"] == "https":
                    headers.setdefault("strict-transport-security", "max-age=31536000")
            elif is_head:
                message = {**message, "body": b""}
            await send(message)

        if not is_our_host(Headers(scope=scope).get("host", ""), self.hosts):
            words = say("Good Crate does not answer to this name. GOODCRATE_HOSTS sets the names.")
            refused = PlainTextResponse(words, 421)
            await refused(scope, counted, shielded)
            return
        try:
            await self.app(scope, counted, shielded)
        except Exception as error:
            if has_begun:
                raise
            await self.broken(scope, error)(scope, counted, shielded)


def our_hosts(named: str) -> frozenset[str]:
    """The names the app answers to: those set, this machine's own, and localhost."""
    machine = socket.gethostname().lower()
    return frozenset(
        {n.strip().lower() for n in named.split(",") if n.strip()}
        | {"localhost", machine, f"{machine.split('.')[0]}.local"}
    )


def is_our_host(host: str, hosts: frozenset[str]) -> bool:
    """Whether a request's host is a name of ours or a bare address: a page of another name that points here (DNS
    rebinding) is not answered."""
    name = host.rsplit(":", 1)[0] if host.rsplit(":", 1)[-1].isdigit() else host
    if name.lower().rstrip(".") in hosts:
        return True
    try:
        ip_address(name.strip("[]"))
    except ValueError:
        return False
    return True


class SignInFirst(Exception):
    """Nobody is signed in; `target` is where they wanted to go."""

    def __init__(self, target: str) -> None:
        self.target = target


@dataclass(frozen=True)
class Visitor:
    """The signed-in person behind a request, with the services' caller for their household."""

    signed: SignedIn
    caller: Caller
    token: str


async def require_visitor(request: Request) -> Visitor:
    """Who is asking; sends everybody else to the door."""
    database: Database = request.app.state.database
    token = request.cookies.get(COOKIE, "")
    signed = None
    if token:
        signed = remembered(database, token) or await run_in_threadpool(signed_in, database, token)
    if signed is None:
        raise SignInFirst(quote(request.url.path) if request.method == "GET" else "/")
    WRITING.set(signed.writing)
    WORDS.set(words_of(signed.writing.language))
    if not may_go(signed.role, route_of(request)):
        raise HTTPException(403, say("This is for whoever cooks here, or owns the household."))
    caller = Caller(database, signed.household_id, signed.user_id, signed.only_eater)
    today = request.app.state.clock()
    if not is_settled(caller, today):
        await run_in_threadpool(close_what_is_over, caller, today)
    return Visitor(signed, caller, token)


Signed = Annotated[Visitor, Depends(require_visitor)]


async def visitor_or_nobody(request: Request) -> Visitor | None:
    """Who is asking; None for somebody who is not signed in."""
    try:
        return await require_visitor(request)
    except SignInFirst:
        return None


Anybody = Annotated[Visitor | None, Depends(visitor_or_nobody)]


def same_origin(request: Request) -> bool:
    """Whether the browser says this write comes from our own pages."""
    site = request.headers.get("sec-fetch-site")
    if site is not None:
        return site in ("same-origin", "none")
    origin = request.headers.get("origin")
    return origin is None or origin.split("://", 1)[-1] == request.headers.get("host", "")


async def posted_form(request: Request, visitor: Signed) -> FormData:
    """The form of a write, once it carries this sign-in's own token and comes from our own pages."""
    if request.headers.get("content-type", "").startswith("application/x-www-form-urlencoded"):
        # The standard library's reader: a recipe is sent with every key typed, and the other one takes thrice as long.
        sent = (await request.body()).decode("latin-1")
        try:
            fields: list[tuple[str, str | UploadFile]] = [
                *parse_qsl(sent, keep_blank_values=True, max_num_fields=MOST_FIELDS)
            ]
            form = FormData(fields)
        except ValueError:
            raise HTTPException(
                400, say("These are more than {MOST_FIELDS} fields.", MOST_FIELDS=MOST_FIELDS)
            ) from None
    else:
        form = await request.form(max_fields=MOST_FIELDS, max_files=0)
    _refuse_strangers(request, visitor, form)
    return form


def _refuse_strangers(request: Request, visitor: Visitor, form: FormData) -> None:
    typed = form.get("csrf", "")
    token = typed if isinstance(typed, str) else ""
    if not same_origin(request) or not hmac.compare_digest(token.encode(), visitor.signed.csrf_token.encode()):
        raise HTTPException(403, say("This form is no longer valid. Reload the page and send it again."))


Posted = Annotated[FormData, Depends(posted_form)]


async def posted_file(request: Request, visitor: Signed) -> AsyncIterator[FormData]:
    """The form of an upload: one file, and the same proof that it is really theirs. The file is closed afterwards."""
    largest = LARGEST_FILES.get(request.url.path, LARGEST_BODY_BYTES)
    async with request.form(max_fields=20, max_files=1, max_part_size=largest + FORM_AROUND_BYTES) as form:
        _refuse_strangers(request, visitor, form)
        yield form


PostedFile = Annotated[FormData, Depends(posted_file)]


async def door_form(request: Request) -> FormData:
    """A form of the door (nobody is signed in yet): its token must match the cookie its page set."""
    form = await request.form(max_fields=20, max_files=0)
    typed, cookie = form.get("csrf", ""), request.cookies.get(DOOR_COOKIE, "")
    matches = isinstance(typed, str) and len(cookie) >= 20 and hmac.compare_digest(typed.encode(), cookie.encode())
    if not same_origin(request) or not matches:
        raise HTTPException(403, say("This form is no longer valid. Reload the page and send it again."))
    return form


DoorForm = Annotated[FormData, Depends(door_form)]
Sent = Mapping[str, UploadFile | str]
"""What was sent, by field; of a field sent twice the last."""


def text(form: Sent, name: str, default: str = "") -> str:
    """A text field of a form; uploads and absent fields count as the default."""
    value = form.get(name, default)
    return default if isinstance(value, UploadFile) else value


def content_of(sent: UploadFile) -> bytes:
    """What an uploaded file holds, from its beginning: a request may be worked on again."""
    sent.file.seek(0)
    return sent.file.read()


def is_https(request: Request) -> bool:
    """Whether the browser reached us over TLS (also behind a trusted proxy)."""
    return request.url.scheme == "https"
