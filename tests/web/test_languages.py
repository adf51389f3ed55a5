"""Every sentence goes through the catalogue: in a made-up language no English is left, and a translation is a file."""

import csv
import json
import re
import string
from collections.abc import Iterator
from contextvars import copy_context
from dataclasses import replace
from datetime import date
from html import unescape
from pathlib import Path
from uuid import uuid4

import pytest
from babel.messages.pofile import write_po
from fastapi.testclient import TestClient
from icalendar import Calendar
from sqlalchemy import select

from goodcrate.core.ground.wording import WORDS, Saying, say
from goodcrate.core.ground.writing import day_month, many, plainly
from goodcrate.db.base import Base
from goodcrate.formats import catalogues
from goodcrate.jobs import worker
from goodcrate.services import household as settings_of
from goodcrate.services.calling import Caller
from goodcrate.services.plan.run import PLANNING_KIND
from goodcrate.shelf.all_recipes import SHELF
from goodcrate.web import languages
from goodcrate.web.sentences import sentences, translated
from tests.browser.walking import addresses
from tests.conftest import Cook
from tests.services.kitchen import furnish
from tests.web import racing
from tests.web.test_calendar_link import link_of
from tests.web.test_written_so import written_so

STRANGE = str.maketrans(string.ascii_letters, "ȧƀċḋėƒġħıĵķŀṁṅȯṗɋŕşŧŭṽẇẋẏżȦƁĊḊĖƑĠĦĺĴĶĿṀṄȮṖɊŔŞŦŬṼẆẊẎŻ")
"""Each letter for one that English has not."""
_HELD = re.compile(r"(\{[^}]*\}|</?\d+>|%s)")


def strange(message: str) -> str:
    """A message in the made-up language: what is held in it stays."""
    return "".join(part if n % 2 else part.translate(STRANGE) for n, part in enumerate(_HELD.split(message)))


@pytest.fixture
def made_up(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[str]:
    """The code of a language whose catalogue has everything the product says."""
    catalogue = languages.messages()
    for message in catalogue:
        if message.id:
            message.string = strange(message.id) if isinstance(message.id, str) else tuple(map(strange, message.id))
    with (tmp_path / "qps.po").open("wb") as file:
        write_po(file, catalogue)
    monkeypatch.setattr(catalogues, "FOLDER", tmp_path)
    catalogues.languages.cache_clear()
    catalogues.words_of.cache_clear()
    yield "qps"
    catalogues.languages.cache_clear()
    catalogues.words_of.cache_clear()


def texts_of_data(caller: Caller) -> set[str]:
    """Whatever the household wrote and the tables hold: names, notes, sources. Nobody translates those here."""
    found: set[str] = set()

    def add(value: object) -> None:
        if isinstance(value, str):
            found.update((value, value.split(",")[0], value.replace("_", " "), *value.split()[:1]))
        elif isinstance(value, dict):
            for inner in value.values():
                add(inner)
        elif isinstance(value, list | tuple):
            for inner in value:
                add(inner)

    with caller.transaction() as session:
        for table in Base.metadata.sorted_tables:
            for row in session.connection().execute(select(table)):
                add(tuple(row))
    add([(r.name, r.note, [c.name for c in r.components]) for r in SHELF.values()])
    for path in (Path(languages.PACKAGE) / "reference").glob("*.csv"):
        for cells in csv.reader(path.read_text(encoding="utf-8").splitlines()):
            add(cells)
    return {re.sub(r"\s+", " ", text).strip().lower() for text in found if re.search(r"[a-z]{2}", text, re.I)}


UNITS = {
    "kcal",
    "good",
    "crate",
    "good crate",
    "min",
    "esc",
    "del",
    "ctrl",
    "alt",
    "shift",
    "enter",
    "csv",
    "json",
    "xts",
    "english",
    "qps",
    "html",
    "mb",
    "utf",
    "json-ld",
    "testclient",
    "utc",
}
_TEXT = re.compile(r"<(script|style|code|title)\b.*?</\1>|<!--.*?-->|<[^>]+>", re.S)
_SPOKEN = re.compile(r'\b(?:aria-label|title|placeholder|alt)="([^"]+)"')
_ENGLISH = re.compile(r"[A-Za-z]{3,}")


class Data:
    """The texts of the data, to be taken out of a page's."""

    def __init__(self, texts: set[str]) -> None:
        self.by_first: dict[str, list[str]] = {}
        for text in sorted(texts | UNITS, key=len, reverse=True):
            self.by_first.setdefault(re.split(r"\W", text, maxsplit=1)[0], []).append(text)

    def without(self, text: str) -> str:
        """A text without any of them."""
        low, at, left = text.lower(), 0, []
        while at < len(text):
            word = re.compile(r"\w*").match(low, at)
            known = next((t for t in self.by_first.get(word[0] if word else "", []) if low.startswith(t, at)), None)
            if known and not low[at + len(known) : at + len(known) + 1].isalpha():
                at += len(known)
                continue
            step = max(1, len(word[0]) if word else 1)
            left.append(text[at : at + step])
            at += step
        return "".join(left)


def english_left(html: str, data: Data) -> list[str]:
    body = html.split("<body", 1)[-1]
    pieces = [unescape(t) for t in _TEXT.sub("\0", body).split("\0") if t.strip()]
    pieces += [unescape(t) for t in _SPOKEN.findall(body)]
    return [
        p.strip() for p in pieces if p and _ENGLISH.search(p) and _ENGLISH.search(data.without(" ".join(p.split())))
    ]


def test_no_english_is_left_in_a_made_up_language(boat: Cook, demo: Caller, made_up: str) -> None:
    def fetch(address: str) -> str | None:
        answer = boat.client.get(address)
        return answer.text if "text/html" in answer.headers.get("content-type", "") else None

    with written_so(boat, language=made_up):
        pages = {address: fetch(address) or "" for address in addresses(fetch)}
    data = Data(texts_of_data(demo))
    left = {address: found for address, html in pages.items() if (found := english_left(html, data))}
    assert len(pages) > 30
    assert all('lang="qps"' in html for html in pages.values())
    assert left == {}
    told = re.search(r'data-words="([^"]*)"', pages["/week"])
    assert told is not None
    assert len(told[1]) > 500
    assert strange("Connected again.") in json.loads(unescape(told[1])).values()


def test_a_job_says_what_it_says_in_the_words_of_who_asked(
    made_up: str, household: Caller, monkeypatch: pytest.MonkeyPatch
) -> None:
    there = settings_of.settings(household)
    settings_of.save_settings(household, replace(there, writing=replace(there.writing, language=made_up)))
    said: list[str] = []
    monkeypatch.setattr(worker, "beat", lambda *_, **row: said.append(row["said"]))

    def broken(*_: object) -> None:
        raise ZeroDivisionError

    def as_a_process() -> None:
        settings_of.speak_for(household)
        with pytest.raises(ZeroDivisionError):
            worker.run(household, replace(PLANNING_KIND, run=broken), uuid4())

    copy_context().run(as_a_process)
    assert said == [strange("Planning failed. Your week is unchanged.")]


def test_scripts_say_nothing_that_is_not_in_the_catalogue() -> None:
    said = {message for message, _, _ in languages.said_by_scripts()}
    assert len(said) > 25
    for path in (languages.PACKAGE.parents[1] / "assets/js").glob("*.js"):
        for text in re.findall(r'"((?:[^"\\\n]|\\.)*)"', re.sub(r"^\s*//.*$", "", path.read_text(), flags=re.M)):
            if re.search(r"^[A-Z][a-z]+ [a-z]", text):
                assert text in said, f"{path.name}: {text}"


def test_a_page_in_english_without_the_catalogue_is_caught(boat: Cook, demo: Caller) -> None:
    data = Data(texts_of_data(demo))
    assert "Settings" in english_left(boat.get("/settings"), data)
    assert english_left('<body><p title="Choose one">Ŧħė Butter beans, canned</p></body>', data) == ["Choose one"]


def test_the_sentences_of_a_template_are_whole_and_put_back_in_another_order() -> None:
    source = (
        '<p>Start <b>{{ day|span }}</b> at {{ hour }}{% if x %}: {{ "none" if y else z }}{% endif %}</p>'
        '<a title="Go {{ n }}">'
    )
    assert [f.message for f in sentences(source)] == ["Start <1>{2}</1> at {4}", "none", "Go {1}"]
    words = {"Start <1>{2}</1> at {4}": "{4}: <1>{2}</1>", "none": "keine", "Go {1}": '{1} "los"'}
    said = translated(source, lambda message: words.get(message, message))
    assert said.startswith('<p>{{ hour }}: <b>{{ day|span }}</b>{% if x %}: {{ "keine"')
    assert translated(source, lambda message: message) == source


def test_machine_words_are_no_sentences() -> None:
    for source in (
        '<script>let words = "not said";</script>',
        '<input class="btn small go" name="some name" value="{{ x }}" />',
        "<p>{{ 12|grams }} {# a note #}</p>",
        '<td class="{{ "over now" if x }}">{{ y }}</td>',
    ):
        assert sentences(source) == [], source


def test_texts_of_tables_and_code_are_said_in_the_readers_language() -> None:
    catalogue = b"""
msgid ""
msgstr ""
"Content-Type: text/plain; charset=utf-8\\n"
"Plural-Forms: nplurals=3; plural=n==1 ? 0 : n<5 ? 1 : 2;\\n"

msgid "{grams} g are left"
msgstr "zbyva {grams} g"

msgid "by eye"
msgstr "od oka"

#, fuzzy
msgid "to taste"
msgstr "nejiste"

msgid "box"
msgid_plural "boxes"
msgstr[0] "krabicka"
msgstr[1] "krabicky"
msgstr[2] "krabicek"
"""
    label = Saying("by eye")
    before = WORDS.set(catalogues.words_in(catalogue, "cs"))
    try:
        assert say("{grams} g are left", grams=250) == "zbyva 250 g"
        assert (f"{label}", str(label), label + "!", "~" + label) == ("od oka", "od oka", "od oka!", "~od oka")
        assert label == "by eye", "as a value it stays what it is"
        assert say("to taste") == "to taste", "what its translator is not sure of is left"
        assert [many(n, "box") for n in (1, 2, 7)] == ["1 krabicka", "2 krabicky", "7 krabicek"]
        assert day_month(date(2026, 11, 23)) == "23 listopadu"
        with plainly():
            assert (say("by eye"), many(2, "box"), day_month(date(2026, 11, 23))) == (
                "by eye",
                "2 boxes",
                "23 November",
            )
    finally:
        WORDS.reset(before)
    assert (f"{label}", say("by eye")) == ("by eye", "by eye")


def test_files_are_written_plainly_whoever_asks(boat: Cook) -> None:
    before = {
        name: boat.client.get(name).text for name in ("/recipes/export.json", "/recipes/lines.csv", "/foods/export.csv")
    }
    with written_so(boat, marks="comma", heat="F", dates="mdy"):
        after = {name: boat.client.get(name).text for name in before}
    assert all(len(text) > 1000 for text in before.values())
    assert after == before


def test_a_calendar_and_a_box_speak_their_households_language_to_strangers(
    made_up: str, cook: Cook, household: Caller, client: TestClient
) -> None:
    link, box = link_of(cook), racing.packed_box(furnish(household))
    there = settings_of.settings(household)
    settings_of.save_settings(household, replace(there, writing=replace(there.writing, language=made_up)))
    stranger = TestClient(client.app, base_url="http://localhost")
    said = [str(e["summary"]) for e in Calendar.from_ical(stranger.get(link).text).walk("VEVENT")]
    assert strange("Eat by today: {dish}").format(dish="Turkey pot") in said
    assert strange("When in doubt, throw it out.") in stranger.get(f"/box/{box}").text
