"""Every address of the app, found by following its links: one of each kind, also of pages added later."""

import re
from collections.abc import Callable, Iterator, Sequence
from html import unescape
from urllib.parse import parse_qsl, urljoin, urlsplit

FIRST = (
    *("/week", "/targets", "/foods", "/recipes", "/shop", "/cook", "/portion", "/store", "/review"),
    *("/settings", "/account"),
)
_LINK = re.compile(r"""<a\b[^>]*?\bhref="([^"#]+)""")
_IDS = re.compile(r"[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}|\d{4}-\d\d-\d\d")
_OF_FOODS = "new|files|measures|compare|scan|about|label"
"""What stands in an address of Foods where others have a food’s key."""


def kind_of(address: str) -> str:
    """What kind of page it is: its path with ids left out, and the names of what it asks."""
    parts = urlsplit(address)
    path = _IDS.sub("…", parts.path)
    path = re.sub(rf"^/foods/(?!(?:{_OF_FOODS})\b)[^/]+", "/foods/…", path)
    path = re.sub(r"^(/shop/…/food)/[^/]+", r"\1/…", path)
    names = {name for name, _ in parse_qsl(parts.query, keep_blank_values=True)}
    if path == "/review/…":  # what is chosen there combines: each choice is looked at once
        names = {next((name for name in ("what", "on", "of", "day") if name in names), "")}
    return f"{path}?{'&'.join(sorted(names))}"


def addresses(fetch: Callable[[str], str | None], first: Sequence[str] = FIRST) -> Iterator[str]:
    """One address of each kind that can be reached by links; `fetch` answers None for what is no page."""
    waiting, seen = list(first), set[str]()
    while waiting:
        address = waiting.pop(0)
        kind = kind_of(address)
        if kind in seen:
            continue
        seen.add(kind)
        html = fetch(address)
        if html is None:
            continue
        yield address
        for href in _LINK.findall(html):
            there = urlsplit(urljoin(f"http://here{address}", unescape(href)))
            if there.netloc == "here":
                waiting.append(there.path + (f"?{there.query}" if there.query else ""))
