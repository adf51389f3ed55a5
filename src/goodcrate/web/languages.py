"""The languages pages can be read in: English, and each catalogue in `languages/`, named by its language (`de.po`).

A translation is a file: `python -m goodcrate.web.languages > messages.pot` lists what there is to translate, any tool
for gettext catalogues fills it in.
"""

import ast
import gettext
import re
import sys
from collections.abc import Collection, Iterator, Mapping
from functools import cache
from io import BytesIO
from pathlib import Path

from babel import Locale, UnknownLocaleError
from babel.messages import Catalog
from babel.messages.pofile import read_po, write_po

from goodcrate.core.ground.wording import DAYS, DAYS_SHORT, ENGLISH, MONTHS, WORDS, Words
from goodcrate.web.sentences import counted_words, sentences

PACKAGE = Path(__file__).parents[1]
FOLDER = PACKAGE / "languages"
SAID = ("say", "Saying", "many")
"""Functions whose first text is a message; `many` gives the words for one and more."""


@cache
def languages() -> Mapping[str, str]:
    """The languages there are, each by its own name."""
    names = {ENGLISH: "English"}
    for path in sorted(FOLDER.glob("*.po")):
        try:
            names[path.stem] = str(Locale.parse(path.stem).get_display_name(path.stem) or path.stem).capitalize()
        except (ValueError, UnknownLocaleError):
            names[path.stem] = path.stem
    return names


class _Languages(Collection[str]):
    """What a household may choose, looked up when it chooses."""

    def __contains__(self, language: object) -> bool:
        return language in languages()

    def __iter__(self) -> Iterator[str]:
        return iter(languages())

    def __len__(self) -> int:
        return len(languages())


LANGUAGES = _Languages()


@cache
def words_of(language: str) -> Words:
    """A language's words; English for one there is no catalogue of."""
    path = FOLDER / f"{language}.po"
    if language == ENGLISH or language not in languages():
        return Words()
    return words_in(path.read_bytes(), language)


def words_in(content: bytes, language: str) -> Words:
    """The words of a catalogue as its file holds it; what is marked as unsure in it is left in English."""
    catalogue = read_po(BytesIO(content), locale=None, abort_invalid=True)
    messages: dict[str, str] = {}
    plurals: dict[str, tuple[str, ...]] = {}
    for message in catalogue:
        if message.fuzzy or not message.id:
            continue
        if isinstance(message.id, tuple | list):
            forms = tuple(str(form) for form in message.string or () if form)
            if forms:
                plurals[message.id[0]] = forms
        elif message.string:
            messages[message.id] = str(message.string)
    return Words(language, messages, plurals, gettext.c2py(catalogue.plural_expr), **_calendar(language, messages))


def _calendar(language: str, messages: Mapping[str, str]) -> Mapping[str, tuple[str, ...]]:
    """Names of months and days, as people write them in a language."""
    try:
        locale = Locale.parse(language)
    except (ValueError, UnknownLocaleError):
        names = {"months": MONTHS, "days": DAYS, "days_short": DAYS_SHORT}
        return {kind: tuple(messages.get(name, name) for name in english) for kind, english in names.items()}
    months, days = locale.months["format"]["wide"], locale.days["stand-alone"]
    return {
        "months": tuple(months[n] for n in range(1, 13)),
        "days": tuple(days["wide"][n] for n in range(7)),
        "days_short": tuple(days["abbreviated"][n] for n in range(7)),
    }


def in_code(source: str) -> Iterator[tuple[int, str | tuple[str, str]]]:
    """Messages of a Python source, with their lines; those of counts are two words."""
    for node in ast.walk(ast.parse(source)):
        if not isinstance(node, ast.Call):
            continue
        name = node.func.id if isinstance(node.func, ast.Name) else getattr(node.func, "attr", "")
        texts = [a.value for a in node.args if isinstance(a, ast.Constant) and isinstance(a.value, str)]
        if name == "many" and texts:
            yield node.lineno, (texts[0], texts[1] if len(texts) > 1 else f"{texts[0]}s")
        elif name in SAID and texts and node.args and isinstance(node.args[0], ast.Constant):
            yield node.lineno, texts[0]


_IN_A_SCRIPT = re.compile(r'\binWords\(\s*"((?:[^"\\]|\\.)*)"')


@cache
def said_by_scripts() -> tuple[tuple[str, str, int], ...]:
    """What the scripts of pages say: message, script and line."""
    path = PACKAGE / "web/static/js/app.js"
    source, place = path.read_text(encoding="utf-8"), str(path.relative_to(PACKAGE))
    return tuple((m[1], place, source.count("\n", 0, m.start()) + 1) for m in _IN_A_SCRIPT.finditer(source))


def words_of_scripts() -> dict[str, str]:
    """The same in the reader's language, for the page to hand to its scripts; nothing in English."""
    words = WORDS.get()
    if words.language == ENGLISH:
        return {}
    return {message: words.of(message) for message, _, _ in said_by_scripts()}


def messages() -> Catalog:
    """Every message of the product, with where it stands."""
    catalogue = Catalog(project="Good Crate", charset="utf-8", fuzzy=False)
    for name in (*MONTHS, *DAYS, *DAYS_SHORT):  # of languages whose calendar nobody knows
        catalogue.add(name)
    for path in sorted(PACKAGE.rglob("*.html")):
        source, place = path.read_text(encoding="utf-8"), str(path.relative_to(PACKAGE))
        for found in sentences(source):
            catalogue.add(found.message, locations=[(place, source.count("\n", 0, found.start) + 1)])
        for at, one, more in counted_words(source):
            catalogue.add((one, more), locations=[(place, source.count("\n", 0, at) + 1)])
    for spoken, place, line in said_by_scripts():
        catalogue.add(spoken, locations=[(place, line)])
    for path in sorted(PACKAGE.rglob("*.py")):
        for line, message in in_code(path.read_text(encoding="utf-8")):
            catalogue.add(message, locations=[(str(path.relative_to(PACKAGE)), line)])
    return catalogue


if __name__ == "__main__":
    write_po(sys.stdout.buffer, messages(), width=100)
