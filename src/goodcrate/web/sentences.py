"""The sentences of the templates: found in their sources, so that no template marks them, and translated there.

A sentence is what a person reads in one go: text with the figures and the inline elements in it. “Start the week of
{{ day }}, <b>now</b>” is the message “Start the week of {1}, <2>now</2>”: both may change places in another language.
Attributes that are read or shown are sentences too, and so are the words inside of expressions.
English is the source: its templates are compiled as they stand, and cost nothing.
"""

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import NamedTuple

from jinja2 import Environment
from jinja2.ext import Extension

from goodcrate.core.ground.writing import plural_of

INLINE = frozenset(
    "a abbr b br code em i kbd mark q s small span strong sub sup time u var wbr".split()  # noqa: SIM905 — reads as one
)
READ = frozenset({"alt", "aria-description", "aria-label", "aria-roledescription", "aria-valuetext", "content",
                  "data-confirm", "data-says", "hx-confirm", "label", "placeholder", "title"})  # fmt: skip
"""Attributes whose value is read or shown; `content` only of a description."""
_MEANT_FOR_MACHINES = frozenset({"script", "style"})

_JINJA = r"\{#.*?#\}|\{%.*?%\}|\{\{.*?\}\}"
_QUOTED = rf'"(?:{_JINJA}|[^"])*"|\'(?:{_JINJA}|[^\'])*\''
_TOKEN = re.compile(rf"(?P<jinja>{_JINJA})|(?P<tag><!--.*?-->|<!?/?[a-zA-Z](?:{_JINJA}|{_QUOTED}|[^<>\"'])*>)", re.S)
_NAME = re.compile(r"</?([a-zA-Z][a-zA-Z0-9]*)")
_ATTRIBUTE = re.compile(rf"\s([a-z][a-z-]*)=(?:\"((?:{_JINJA}|[^\"])*)\"|'((?:{_JINJA}|[^'])*)')", re.S)
_LITERAL = re.compile(r'"((?:[^"\\]|\\.)*)"' + r"|'((?:[^'\\]|\\.)*)'")
_WORD = re.compile(r"[^\W\d_]{2,}")
_SENTENCE = re.compile(r"[^\W\d_][\w’']*[,;:]? \W?[^\W\d_]|^[A-Z][a-z]+\b")
_BEFORE_A_VALUE = re.compile(r"(?:^|~|\belse|\bor)\s*$")
_AFTER_A_VALUE = re.compile(r"^\s*(?:$|~|if\b|else\b|or\b)")
_HELD = re.compile(r"\{(\d+)\}|<(/?)(\d+)>")


class Found(NamedTuple):
    """A sentence in a source: where it stands, its message, and what stands for its figures and elements."""

    start: int
    end: int
    message: str
    held: tuple[str, ...]
    quote: str = ""


@dataclass(frozen=True)
class _Token:
    kind: str
    start: int
    end: int
    source: str


def _tokens(source: str) -> Iterator[_Token]:
    at, machine = 0, ""
    for found in _TOKEN.finditer(source):
        if found.start() > at:
            yield _Token("machine" if machine else "text", at, found.start(), source[at : found.start()])
        kind = "tag" if found["tag"] else {"{{": "value", "{%": "block", "{#": "note"}[found[0][:2]]
        yield _Token(kind, found.start(), found.end(), found[0])
        name = _NAME.match(found[0])
        if kind == "tag" and name is not None and name[1].lower() in _MEANT_FOR_MACHINES:
            machine = "" if found[0].startswith("</") else name[1]
        at = found.end()
    if at < len(source):
        yield _Token("text", at, len(source), source[at:])


def _is_inline(token: _Token) -> bool:
    name = _NAME.match(token.source)
    return name is not None and name[1].lower() in INLINE


def sentences(source: str) -> list[Found]:
    """Every sentence of a template's source, in its order; those of attributes and expressions inside of others too."""
    found: list[Found] = []
    run: list[_Token] = []
    for token in _tokens(source):
        if token.kind in ("text", "value") or (token.kind == "tag" and _is_inline(token)):
            run.append(token)
        elif token.kind != "note":
            found += _of_run(run)
            run = []
        if token.kind == "tag":
            found += _of_tag(token)
        elif token.kind in ("value", "block"):
            found += _of_expression(token)
    found += _of_run(run)
    return sorted(found, key=lambda f: (f.start, -f.end))


def _of_run(run: list[_Token]) -> Iterator[Found]:
    """The sentences of a run of text, values and inline elements: one, or one of each element when only those have
    words in them."""
    while run and run[0].kind == "text" and not run[0].source.strip():
        run = run[1:]
    while run and run[-1].kind == "text" and not run[-1].source.strip():
        run = run[:-1]
    if not any(_has_words(t) for t in run):
        return
    parts = list(_parts(run))
    if any(_has_words(t) for part in parts if len(part) == 1 for t in part):
        yield _message(run)
        return
    for part in parts:
        is_whole = len(part) > 1 and part[-1].source.startswith("</")
        yield from _of_run(part[1:-1] if is_whole else part[1:])


def _has_words(token: _Token) -> bool:
    return token.kind == "text" and _WORD.search(_plain(token.source)) is not None


def _parts(run: list[_Token]) -> Iterator[list[_Token]]:
    """What stands side by side: texts and values alone, elements whole; one that is not closed is all that follows."""
    part: list[_Token] = []
    depth = 0
    for token in run:
        part.append(token)
        if token.kind == "tag" and not _is_void(token):
            depth += -1 if token.source.startswith("</") else 1
        if depth <= 0:
            yield part
            part, depth = [], 0
    if part:
        yield part


def _is_void(token: _Token) -> bool:
    name = _NAME.match(token.source)
    return token.source.endswith("/>") or (name is not None and name[1].lower() in ("br", "wbr"))


def _plain(text: str) -> str:
    return re.sub(r"&#?\w+;", " ", text)


def _message(run: list[_Token]) -> Found:
    parts: list[str] = []
    held: list[str] = []
    opened: list[tuple[str, int]] = []
    for token in run:
        if token.kind == "text":
            parts.append(token.source)
        elif token.kind == "value":
            held.append(token.source)
            parts.append(f"{{{len(held)}}}")
        else:
            name = (_NAME.match(token.source) or [""])[1]
            closes = token.source.startswith("</")
            held.append(token.source)
            if closes and opened and opened[-1][0] == name:
                parts.append(f"</{opened.pop()[1]}>")
            else:
                parts.append(f"<{len(held)}>")
                if not closes and not _is_void(token):
                    opened.append((name, len(held)))
    return _at(run[0].start, run[-1].end, "".join(parts), held)


def _at(start: int, end: int, text: str, held: list[str], quote: str = "") -> Found:
    """A sentence without the blanks around it."""
    left = len(text) - len(text.lstrip())
    right = len(text) - len(text.rstrip())
    return Found(start + left, end - right, re.sub(r"\s+", " ", text.strip()), tuple(held), quote)


def _of_tag(token: _Token) -> Iterator[Found]:
    """Sentences of the attributes that are read, and of the values inside of them."""
    describes = 'name="description"' in token.source
    for attribute in _ATTRIBUTE.finditer(token.source):
        name, group = attribute[1], 2 if attribute[2] is not None else 3
        if name not in READ or (name == "content" and not describes):
            continue
        start = token.start + attribute.start(group)
        inner = [_Token(t.kind, start + t.start, start + t.end, t.source) for t in _tokens(attribute[group])]
        run = [t for t in inner if t.kind in ("text", "value")]
        if len(run) == len(inner):
            yield from _of_run(run)
        else:
            piece: list[_Token] = []
            for t in inner:
                if t.kind in ("text", "value"):
                    piece.append(t)
                else:
                    yield from _of_run(piece)
                    piece = []
            yield from _of_run(piece)
        for t in inner:
            if t.kind in ("value", "block"):
                yield from _of_expression(t)


def _of_expression(token: _Token) -> Iterator[Found]:
    """Words inside of an expression: whole sentences anywhere, single words where they are what is written."""
    if token.source.startswith("{%") and not re.match(r"\{%[-+]?\s*(?:set|for|call|with)\b", token.source):
        return
    body = token.source[2:-2].strip("-+")
    offset = token.start + token.source.index(body)
    for literal in _LITERAL.finditer(body):
        group = 1 if literal[1] is not None else 2
        text = literal[group]
        if not _WORD.search(text) or "/" in text or "_" in text or "\\" in text:
            continue
        is_written = (
            token.kind == "value"
            and _BEFORE_A_VALUE.search(body[: literal.start()])
            and _AFTER_A_VALUE.search(body[literal.end() :])
        )
        if is_written or _SENTENCE.search(text):
            yield _at(offset + literal.start(group), offset + literal.end(group), text, [], literal[0][0])


def translated(source: str, say: Callable[[str], str]) -> str:
    """A template's source in another language; `say` gives a message in it, or as it is."""
    out: list[str] = []
    at = 0
    for found in sentences(source):
        if found.start < at:
            continue
        said = say(found.message)
        if said == found.message and not any(sentences(held) for held in found.held):
            continue
        out += [source[at : found.start], _put_together(found, said, say)]
        at = found.end
    return "".join([*out, source[at:]])


def _put_together(found: Found, said: str, say: Callable[[str], str]) -> str:
    """A sentence with its figures and elements back in their places; what is held is put into the language too."""

    def put(place: re.Match[str]) -> str:
        number = int(place[1] or place[3])
        if place[2]:
            name = (_NAME.match(found.held[number - 1]) or ["", ""])[1]
            return f"</{name}>"
        if not 1 <= number <= len(found.held):
            return place[0]
        return translated(found.held[number - 1], say)

    if found.quote:
        return said.replace(found.quote, "’")
    return _HELD.sub(put, said)


class InALanguage(Extension):
    """Templates of an environment with a `say` are put into its language when they are compiled."""

    priority = 50

    def preprocess(self, source: str, name: str | None, filename: str | None = None) -> str:  # noqa: ARG002
        """The source in the environment's language."""
        return translated(source, self.environment.say)  # type: ignore[attr-defined]


def in_language(environment: Environment, say: Callable[[str], str]) -> Environment:
    """An environment whose templates are in a language; `say` gives a message in it."""
    other = environment.overlay(extensions=[InALanguage], cache_size=400)
    other.say = say  # type: ignore[attr-defined]
    return other


_COUNTED = re.compile(r"\|\s*counted\(\s*[\"']([a-z ]+)[\"']\s*\)")


def counted_words(source: str) -> Iterator[tuple[int, str, str]]:
    """The words of what a template counts: where, the one, and more of it."""
    for found in _COUNTED.finditer(source):
        yield found.start(), found[1], plural_of(found[1])
