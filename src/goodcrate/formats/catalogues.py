"""Translations: gettext catalogues, one file a language (`de.po`), and the languages there are."""

import gettext
from collections.abc import Mapping
from functools import cache
from io import BytesIO
from pathlib import Path

from babel import Locale, UnknownLocaleError
from babel.messages.pofile import read_po

from goodcrate.core.ground.wording import DAYS, DAYS_SHORT, ENGLISH, MONTHS, Words

FOLDER = Path(__file__).parents[1] / "languages"


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
