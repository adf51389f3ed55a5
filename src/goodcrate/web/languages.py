"""What the product says, found where it says it: `python -m goodcrate.web.languages > messages.pot` lists what there is
to translate. A translation is a file (`formats.catalogues`); any tool for gettext catalogues fills it in.
"""

import ast
import re
import sys
from collections.abc import Collection, Iterator
from functools import cache
from pathlib import Path

from babel.messages import Catalog
from babel.messages.pofile import write_po

from goodcrate.core.ground.wording import DAYS, DAYS_SHORT, ENGLISH, MONTHS, WORDS
from goodcrate.formats.catalogues import languages
from goodcrate.web.sentences import counted_words, sentences

PACKAGE = Path(__file__).parents[1]
SAID = ("say", "Saying", "many")
"""Functions whose first text is a message; `many` gives the words for one and more."""


class _Languages(Collection[str]):
    """What a household may choose, looked up when it chooses."""

    def __contains__(self, language: object) -> bool:
        return language in languages()

    def __iter__(self) -> Iterator[str]:
        return iter(languages())

    def __len__(self) -> int:
        return len(languages())


LANGUAGES = _Languages()


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
    path = PACKAGE / "web/static/js/app.min.js"
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
