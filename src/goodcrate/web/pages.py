"""Rendering: one Jinja environment, the frame around every page, and the route along its edge."""

import hashlib
import re
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from functools import cache, lru_cache
from pathlib import Path

from fastapi import Request
from fastapi.responses import HTMLResponse, RedirectResponse, Response
from jinja2 import Environment, FileSystemLoader, StrictUndefined, pass_context
from jinja2.ext import Extension
from jinja2.runtime import Context

from goodcrate.core.ground import writing
from goodcrate.core.ground.errors import InvalidInput, InvalidInputs
from goodcrate.core.ground.wording import ENGLISH, WORDS, Words, say
from goodcrate.services.calling import StaleWrite
from goodcrate.services.route import STAGES, StageState, route_states
from goodcrate.web import drawing, figures
from goodcrate.web.languages import words_of_scripts
from goodcrate.web.security import Visitor
from goodcrate.web.sentences import in_language

WEB = Path(__file__).parent
STATIC = WEB / "static"


_BLOCKS = "div|section|p|h[1-6]|ul|ol|li|table|thead|tbody|tr|td|th|rect|title|path|use|line"
"""Tags around which a blank says nothing: blocks, cells of tables, and what is drawn in an SVG."""


class TightTags(Extension):
    """Tags are sent on one line, unindented and close together where a blank says nothing, however the formatter laid
    them out: pages are smaller, and nothing of them changes."""

    def preprocess(self, source: str, name: str | None, filename: str | None = None) -> str:  # noqa: ARG002
        """The source of a template with no line ends and spare blanks inside its tags, and no indent."""
        # An attribute that may be missing, and brings its own blank, needs none before it.
        closed = re.sub(r'\s+(?=/>|\{\{ " )|\s*\n\s*(?=>)', "", source).replace("<br/>", "<br>")
        tight = re.sub(r'\s*\n\s*(?=[a-z][a-z:-]*=")', " ", closed)
        close = re.sub(rf"\s*\n\s*(?=</?(?:{_BLOCKS})\b)", "", tight)
        # Jinja drops the line end after a tag of its own: the blank that follows it is the one that counts.
        return re.sub(r"(?<!%\})\n[ \t]+", "\n", re.sub(r"%\}\n[ \t]+", "%}\n ", close))


templates = Environment(
    loader=FileSystemLoader(WEB),
    autoescape=True,
    undefined=StrictUndefined,
    extensions=[TightTags],
    trim_blocks=True,
    lstrip_blocks=True,
    auto_reload=False,
)


@lru_cache
def static_url(name: str) -> str:
    """The address of a static file with its content's mark, so that it can be cached for good."""
    mark = hashlib.sha256((STATIC / name).read_bytes()).hexdigest()[:10]
    return f"/static/{name}?v={mark}"


def _each_time(worded: Callable[..., str]) -> Callable[..., str]:
    """A filter that is asked whenever a page is made: how its words are written depends on who asks, so a template must
    not keep those of a fixed figure."""

    @pass_context
    def asked(_context: Context, *args: object, **named: object) -> str:
        return worded(*args, **named)

    return asked


templates.globals.update(static=static_url, stages=STAGES, textures=drawing.TEXTURES)
templates.globals.update(
    writing=writing.WRITING.get,
    language=lambda: WORDS.get().language.replace("_", "-"),
    heat=writing.heat,
    heat_unit=writing.heat_unit,
    weekdays_in_order=writing.weekdays_in_order,
    weekday_name=writing.weekday_name,
    words_of_scripts=words_of_scripts,
)
for _name in ("clock", "day_month", "weekday", "weekday_whole", "session_time", "span", "dated", "price",
              "coins", "week_number", "figures_told", "short", "shown", "signed"):  # fmt: skip
    templates.filters[_name] = _each_time(getattr(writing, _name))
for _name in ("whole", "grams", "number", "plain", "percent",
              "measured", "expected_weight", "and_doubt", "sentence", "percent_signed", "at_least_one",
              "counted", "conditions", "oven_heat", "from_to", "full_sentence"):  # fmt: skip
    templates.filters[_name] = _each_time(getattr(figures, _name))
templates.filters["shares_spoken"] = _each_time(drawing.shares_spoken)


@dataclass(frozen=True)
class Faults:
    """What is wrong in a form, by field; also knows a general message."""

    by_field: Mapping[str, str]
    general: str = ""

    def __bool__(self) -> bool:
        return bool(self.by_field or self.general)

    def at(self, field: str) -> str:
        """The message for one field, or nothing."""
        return self.by_field.get(field, "")

    def any_at(self, prefix: str, fields: Iterable[str]) -> bool:
        """Whether one of these fields, named `prefix-field`, has a fault."""
        return any(f"{prefix}-{field}" in self.by_field for field in fields)

    @classmethod
    def of(cls, error: InvalidInput | InvalidInputs | StaleWrite, known: set[str] | None = None) -> "Faults":
        """Faults of an error; those whose field is not on the page (`known`) become the general message."""
        if isinstance(error, StaleWrite):
            return cls({}, say("{error} What you typed is kept below: look it over and save again.", error=error))
        faults = (error,) if isinstance(error, InvalidInput) else error.faults
        by_field = {f.field: f.message for f in faults if known is None or f.field in known}
        general = " ".join(f.message for f in faults if f.field not in by_field)
        return cls(by_field, general)


NO_FAULTS = Faults({})
CHOICES = ("box", "gap", "day", "food", "repeats", "set", "moved")
"""Names in an address that say something is chosen: its working is what a phone shows first."""


@lru_cache(maxsize=8)
def _in(words: Words) -> Environment:
    return templates if words.language == ENGLISH else in_language(templates, words.of)


def render(template: str, **values: object) -> str:
    """A template as text."""
    return _in(WORDS.get()).get_template(template).render(**values)


def read_templates() -> None:
    """Have every template at hand: to read one takes longer than to show it a few times."""
    for name in templates.list_templates(["html"]):
        templates.get_template(name)


def page(
    request: Request, visitor: Visitor, template: str, stage: str, *, status: int = 200, **values: object
) -> HTMLResponse:
    """A whole page of one stage, in the frame."""
    today = request.app.state.clock()
    states: Mapping[str, StageState] = route_states(visitor.caller, today)
    html = render(
        template,
        visitor=visitor,
        csrf=visitor.signed.csrf_token,
        stage=stage,
        states=states,
        today=today,
        has_choice=any(name in request.query_params for name in CHOICES),
        **{"faults": NO_FAULTS, "tape": None, **values},
    )
    response = HTMLResponse(html, status_code=status)
    if status >= 400:
        response.headers["HX-Push-Url"] = "false"  # a refused form keeps the address it was shown at
    return response


def fragment(template: str, **values: object) -> HTMLResponse:
    """Part of a page, for htmx to swap."""
    return HTMLResponse(render(template, **values))


def go(url: str) -> RedirectResponse:
    """After a write, on to the page that shows it."""
    return RedirectResponse(url, status_code=303)


@cache
def _worker_script() -> str:
    return (STATIC / "js" / "shelf-worker.min.js").read_text("utf-8")


def service_worker(scope: str) -> Response:
    """The service worker for the pages under an address. It has to be served from above them, which is why it is no
    static file; browsers ask for it anew by themselves."""
    headers = {"cache-control": "no-cache", "service-worker-allowed": scope}
    return Response(_worker_script(), media_type="text/javascript; charset=utf-8", headers=headers)
