"""A generator of requests over every route: what a browser would send, bent out of shape; the same for one seed."""

import json
import random
import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from html.parser import HTMLParser
from urllib.parse import parse_qsl, urlencode, urlsplit

from fastapi import FastAPI
from fastapi.routing import APIRoute
from starlette.routing import BaseRoute

NASTY: Sequence[str] = (
    "",
    " ",
    "0",
    "-1",
    "²",
    "٣",
    "1.250",
    "1e308",
    "1e999",
    "nan",
    "inf",
    "9" * 20,
    "9" * 400,
    "9" * 4400,
    "1" * 8000 + "!",
    "x" * 36,
    "1" * 36,
    "11111111-2222-4333-8444-555555555555",
    "0001-01-01",
    "9999-12-31",
    "2026-02-30",
    "2026-11-22",
    "2026-11-22T18:30",
    "9999-12-31T23:59",
    "../../etc/passwd",
    "<b>&amp;\"'",
    "\x00",
    "\ufdfa" * 300,
    "🥕" * 2000,
    "a" * 60_000,
    "' OR 1=1 --",
    "%s%n",
    "{{7*7}}",
    "null",
    "[]",
    "{}",
    "[[[[",
    "true",
    "250 g",
    "2–3 cups",
    "1/0 cup",
    "half a dozen",
    "12:61",
    "25",
    "06:45",
    "200/300",
    "60–90",
    "up to 1",
    "weighed",
    "demo:oats",
    "oats_rolled",
    "\r\n250",
    "250\t g",
    "–",
    "on",
    "off",
)
DOCUMENTS: Sequence[object] = (
    1,
    "x",
    None,
    [],
    {},
    {"@type": "Recipe"},
    {"@type": "Recipe", "name": {"a": 1}, "recipeIngredient": {"b": []}},
    {"@type": ["Recipe"], "recipeIngredient": ["1e308 g oats", "9" * 400 + " g oats"], "recipeYield": "1e400"},
    {"@type": "Recipe", "gc:document": {"version": 1}},
    {"@type": "Recipe", "gc:document": "x"},
)


TIMES_EACH = 4
LEAVES = ("/sign-out", "/account/sign-out-everywhere")
"""Signing out would end the walk, and all that follows would be answered by the door."""


@dataclass(frozen=True)
class Request:
    """One request: form fields as pairs; `file` is what is uploaded under the name `file`."""

    method: str
    url: str
    fields: tuple[tuple[str, str], ...] = ()
    file: bytes | None = None

    def said(self) -> str:
        """For a message: enough to send it again by hand."""
        return f"{self.method} {self.url[:200]} {[(k, v[:60]) for k, v in self.fields][:40]!r}"


@dataclass
class Form:
    """A form as a page has it."""

    method: str
    action: str
    fields: list[tuple[str, str]] = field(default_factory=list)


class _Page(HTMLParser):
    """Links and forms of a page."""

    def __init__(self, address: str) -> None:
        super().__init__()
        self.address, self.links, self.forms = address, list[str](), list[Form]()
        self._open: Form | None = None
        self._select = ""
        self._area: tuple[str, str] | None = None

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        a = {k: v or "" for k, v in attrs}
        for name in ("href", "hx-get"):
            if a.get(name, "").startswith("/") and not a[name].startswith("/static"):
                self.links.append(a[name])
        if a.get("hx-post", "").startswith("/"):
            self.forms.append(Form("POST", a["hx-post"]))
        if tag == "form":
            self._open = Form(a.get("method", "get").upper(), a.get("action") or self.address)
            self.forms.append(self._open)
        elif self._open is not None and a.get("name"):
            if tag == "input" and (a.get("type") not in ("checkbox", "radio", "file") or "checked" in a):
                self._open.fields.append((a["name"], a.get("value", "on" if a.get("type") == "checkbox" else "")))
            elif tag == "button":
                self._open.fields.append((a["name"], a.get("value", "")))
            elif tag == "select":
                self._select = a["name"]
                self._open.fields.append((a["name"], ""))
            elif tag == "textarea":
                self._area = (a["name"], "")
        elif tag == "option" and self._select and self._open is not None and "selected" in a:
            self._open.fields[-1] = (self._select, a.get("value", ""))

    def handle_data(self, data: str) -> None:
        if self._area is not None:
            self._area = (self._area[0], self._area[1] + data)

    def handle_endtag(self, tag: str) -> None:
        if tag == "form":
            self._open = None
        elif tag == "select":
            self._select = ""
        elif tag == "textarea" and self._area is not None:
            if self._open is not None:
                self._open.fields.append(self._area)
            self._area = None


def forms_of(address: str, html: str) -> dict[str, Form]:
    """The forms of a page, by their action."""
    page = _Page(address)
    page.feed(html)
    return {form.action: form for form in page.forms}


def routes_of(app: FastAPI) -> list[tuple[str, str]]:
    """Method and path of every route, signing out left aside: it would end the walk."""
    waiting: list[BaseRoute] = list(app.routes)
    found = []
    while waiting:
        route = waiting.pop(0)
        if isinstance(route, APIRoute):
            found += [(method, route.path) for method in sorted(route.methods or ())]
        else:
            waiting += getattr(getattr(route, "original_router", None), "routes", [])
    return [(method, path) for method, path in found if path not in LEAVES]


class Generator:
    """Learns pages, then makes requests. `read` gives it a page's HTML."""

    def __init__(self, routes: Sequence[tuple[str, str]], seed: int) -> None:
        self.routes, self.dice = list(routes), random.Random(seed)  # noqa: S311 — chance, not a secret
        self.links: dict[str, None] = {}
        self.forms: dict[tuple[str, str], Form] = {}
        self.ids: dict[str, None] = {}
        self.names: dict[str, None] = dict.fromkeys(("id", "event", "version", "gap", "meals", "days"))

    def read(self, address: str, html: str) -> list[str]:
        """Take a page in; answers the links nobody has followed yet."""
        page = _Page(address)
        page.feed(html)
        fresh = [link for link in page.links if link not in self.links]
        self.links.update(dict.fromkeys(page.links))
        for form in page.forms:
            if form.action in LEAVES:
                continue
            known = self.forms.get((form.method, form.action))
            if known is None or len(known.fields) < len(form.fields):
                self.forms[form.method, form.action] = form
            for name, value in form.fields:
                self.names[name] = None
                if len(value) == 36:
                    self.ids[value] = None
        for link in page.links:
            self.ids.update(dict.fromkeys(part for part in urlsplit(link).path.split("/") if len(part) in (10, 36)))
        return list(dict.fromkeys(fresh))

    def requests(self, count: int, csrf: str) -> Iterator[Request]:
        """So many requests: each route bare with junk once, each field of each form with junk a few times, then bent
        forms, links and routes by turns."""
        for method, path in self.routes:
            yield self._bare(method, path, csrf)
        fields = self._fields_of_each_form()
        self.dice.shuffle(fields)
        for form, name in fields[: count - len(self.routes)]:
            yield self._with(form, name, csrf)
        forms, links = list(self.forms.values()), list(self.links)
        for _ in range(max(0, count - len(self.routes) - len(fields))):
            way = self.dice.random()
            if way < 0.6:
                yield self._bent(self.dice.choice(forms), csrf)
            elif way < 0.8:
                yield Request("GET", self._bent_link(self.dice.choice(links)))
            else:
                yield self._bare(*self.dice.choice(self.routes), csrf)

    def _fields_of_each_form(self) -> list[tuple[Form, str]]:
        """A form of each kind with a field of each kind of it, `TIMES_EACH`; ids apart, they are the same."""
        kinds: dict[tuple[str, str], tuple[Form, str]] = {}
        for form in self.forms.values():
            for name, _ in form.fields:
                kinds[_without_ids(form.action), _without_ids(name)] = form, name
        return [found for found in kinds.values() if found[1] != "csrf"] * TIMES_EACH

    def _with(self, form: Form, name: str, csrf: str) -> Request:
        sent = tuple((k, self._value() if k == name else csrf if k == "csrf" else v) for k, v in form.fields)
        if form.method == "GET":
            return Request("GET", f"{form.action.split('?')[0]}?{urlencode([(k, v[:500]) for k, v in sent])}")
        return Request("POST", form.action, sent if "csrf" in dict(sent) else (("csrf", csrf), *sent))

    def _bare(self, method: str, path: str, csrf: str) -> Request:
        ids = list(self.ids)
        parts = []
        for part in path.split("/"):
            chosen = self.dice.choice(ids) if self.dice.random() < 0.7 else self._nasty(200)
            parts.append(_in_path(chosen if part.startswith("{") else part))
        url = "/".join(parts) or "/"
        names = self.dice.sample(list(self.names), min(len(self.names), self.dice.randint(0, 8)))
        fields = [(name, self._value()) for name in names]
        if method == "GET":
            return Request("GET", url + ("?" + urlencode([(k, v[:500]) for k, v in fields]) if fields else ""))
        file = self._file() if path.endswith(("/files", "/import")) and self.dice.random() < 0.8 else None
        return Request(method, url, (("csrf", csrf), *fields), file)

    def _bent(self, form: Form, csrf: str) -> Request:
        fields = [(k, csrf if k == "csrf" else v) for k, v in form.fields]
        fields += [] if any(k == "csrf" for k, _ in fields) else [("csrf", csrf)]
        for _ in range(self.dice.randint(1, 3)):
            at = self.dice.randrange(len(fields))
            name, value = fields[at]
            if name == "csrf":
                continue
            act = self.dice.random()
            if act < 0.7:
                fields[at] = (name, self._value())
            elif act < 0.8:
                del fields[at]
            elif act < 0.9:
                fields.append((name, self._value()))
            else:
                fields[at] = (name, value + self._nasty(100))
        action = form.action if self.dice.random() < 0.85 else self._bent_link(form.action)
        if form.method == "GET":
            return Request("GET", f"{action.split('?')[0]}?{urlencode([(k, v[:500]) for k, v in fields])}")
        file = self._file() if action.endswith(("/files", "/import")) else None
        return Request("POST", action, tuple(fields), file)

    def _bent_link(self, link: str) -> str:
        at = urlsplit(link)
        parts, query = at.path.split("/"), parse_qsl(at.query)
        if query and self.dice.random() < 0.7:
            n = self.dice.randrange(len(query))
            query[n] = (query[n][0], self._value()[:500])
        elif len(parts) > 2:
            parts[self.dice.randrange(2, len(parts))] = _in_path(self._value()[:200])
        return "/".join(parts) + ("?" + urlencode(query) if query else "")

    def _value(self) -> str:
        return self.dice.choice(list(self.ids)) if self.dice.random() < 0.2 else self._nasty(60_000)

    def _nasty(self, most: int) -> str:
        return self.dice.choice(NASTY)[:most]

    def _file(self) -> bytes:
        kind = self.dice.random()
        if kind < 0.4:
            return json.dumps(self.dice.choice(DOCUMENTS)).encode()
        if kind < 0.6:
            return f"recipe,ingredient,servings\n{self._nasty(500)},{self._nasty(500)},{self._nasty(50)}\n".encode()
        if kind < 0.8:
            return f"name,kcal,protein_g\n{self._nasty(500)},{self._nasty(50)},{self._nasty(50)}\n".encode()
        return self._nasty(60_000).encode() if kind < 0.9 else self.dice.randbytes(400)


def _without_ids(text: str) -> str:
    return re.sub(r"[0-9a-f]{8}-[0-9a-f-]{27}|\d{4}-\d\d-\d\d|\d+", "*", text)


def _in_path(part: str) -> str:
    return "".join(c if c.isascii() and (c.isalnum() or c in "-._:") else f"%{c.encode()[0]:02x}" for c in part)


def walk(generator: Generator, fetch: Callable[[str], str | None], most: int) -> None:
    """Follow links from the week on until `most` pages are known; `fetch` answers None for what is no page."""
    waiting, seen = ["/week", "/targets", "/foods", "/recipes", "/cook", "/portion", "/store"], set[str]()
    kinds: dict[str, int] = {}
    while waiting and len(seen) < most:
        url = waiting.pop(0)
        kind = "/".join("…" if len(part) in (10, 36) else part for part in urlsplit(url).path.split("/"))
        if url in seen or kinds.get(kind, 0) >= 4:
            continue
        seen.add(url)
        kinds[kind] = kinds.get(kind, 0) + 1
        html = fetch(url)
        if html is not None:
            waiting += generator.read(url, html)
