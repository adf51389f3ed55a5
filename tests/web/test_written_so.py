"""Every page is written and read as its household writes: no figure, date or unit of another way stands on any."""

import re
from collections.abc import Iterator
from contextlib import contextmanager

from goodcrate.core.ground.wording import MONTHS
from goodcrate.services.calling import Caller
from tests.browser.walking import addresses
from tests.conftest import Cook, text_of
from tests.hostile import forms_of
from tests.services.kitchen import furnish

ABROAD = {
    "marks": "comma",
    "dates": "mdy",
    "first_weekday": "6",
    "body_weight": "lb",
    "body_height": "ft",
    "heat": "F",
    "currency_symbol": "$",
    "money_first": "on",
    "money_decimals": "2",
}


@contextmanager
def written_so(cook: Cook, **ways: str) -> Iterator[None]:
    """The household's settings for a while."""
    before = dict(forms_of("/settings", cook.get("/settings"))["/settings"].fields)
    cook.post("/settings", before | ways)
    try:
        yield
    finally:
        now = dict(forms_of("/settings", cook.get("/settings"))["/settings"].fields)
        kept = {name: value for name, value in before.items() if name != "version"}
        ticks = {name: now[name] for name in ("csrf", "version")}
        cook.post("/settings", kept | ticks)


_POINTED = re.compile(r"(?<![\w.,])\d+\.(?:\d{1,2}|\d{4,})(?![\w.])|(?<![\w.,])[1-9]\d{0,2},000\b")
_MONTH = "|".join(MONTHS)
_DAY_FIRST = re.compile(rf"(?<!week )(?<![:\d])(?<!{r' )(?<!'.join(MONTHS)} )\b\d{{1,2}} (?:{_MONTH})\b", re.IGNORECASE)
"""A day before its month; “week of November 23 January 31” are two dates, one after the other."""


def foreign(html: str) -> list[str]:
    """What stands on a page in another way, with what is around it; the choices of the settings are all ways."""
    text = re.sub(r"Thousands and decimals .*? A week begins on", "", text_of(html))
    return [text[max(0, f.start() - 30) : f.end() + 20] for p in (_POINTED, _DAY_FIRST) for f in p.finditer(text)]


def test_a_date_of_another_way_is_told_from_two_that_follow_each_other() -> None:
    assert foreign("<p>on 23 November</p>")
    assert foreign("<p>the 3 January 2027 batch</p>")
    assert not foreign("<h1>Week of November 23</h1><p>January 31, 2027, 14:00</p>")


def test_no_page_writes_a_figure_or_a_date_another_way(boat: Cook) -> None:
    def fetch(address: str) -> str | None:
        answer = boat.client.get(address)
        return answer.text if "text/html" in answer.headers.get("content-type", "") else None

    with written_so(boat, **ABROAD):
        walked = list(addresses(fetch))
        wrong = {address: found for address in walked if (found := foreign(fetch(address) or ""))}
    assert len(walked) > 30
    assert wrong == {}


def form_at(cook: Cook, page: str, action: str) -> dict[str, str]:
    return dict(forms_of(page, cook.get(page))[action].fields)


def test_a_body_is_typed_in_pounds_feet_and_inches_and_kept(cook: Cook, household: Caller) -> None:
    eater = f"/targets/{furnish(household).eater_id}"
    with written_so(cook, **ABROAD):
        body = {"sex": "female", "age_years": "34", "height_cm": "5 ft 8 in", "weight_kg": "160"}
        cook.post(eater, form_at(cook, eater, eater) | body)
        shown = form_at(cook, eater, eater)
        assert (shown["height_cm"], shown["weight_kg"]) == ("5′ 8″", "160")
        refused = cook.post(eater, shown | {"height_cm": "68"}, expect=422)
        assert "“68” is no height in feet and inches. Such as 5′ 8″, or 172 cm." in text_of(refused.text)
        cook.post(eater, form_at(cook, eater, eater) | {"weight_kg": "73,5 kg", "height_cm": "172 cm"})
        assert form_at(cook, eater, eater)["weight_kg"] == "162"
    shown = form_at(cook, eater, eater)
    assert (shown["height_cm"], shown["weight_kg"]) == ("172", "73.5")


def test_a_step_is_heated_in_fahrenheit(cook: Cook, household: Caller) -> None:
    recipe = f"/recipes/{furnish(household).recipe_id}"
    step = {"step": "0b6f5f0e-2f1c-4c57-9c53-3b6e1b3a2f10"}
    place = f"step-{step['step']}"
    with written_so(cook, **ABROAD):
        typed = form_at(cook, recipe, recipe) | step
        typed |= {f"{place}-text": "Bake it", f"{place}-equipment": "oven", f"{place}-temperature": "350–375"}
        cook.post(recipe, typed)
        assert form_at(cook, recipe, recipe)[f"{place}-temperature"] == "350–375"
        typed |= {"version": form_at(cook, recipe, recipe)["version"], f"{place}-temperature": "900"}
        assert "From 86 to 572 °F." in text_of(cook.post(recipe, typed, expect=422).text)
        assert "Oven, °F" in text_of(cook.get(recipe))
    assert form_at(cook, recipe, recipe)[f"{place}-temperature"] == "176.7–190.6"


def test_a_household_of_sundays_begins_its_weeks_on_them(cook: Cook, household: Caller) -> None:
    with written_so(cook, first_weekday="6"):
        assert cook.client.get("/week", follow_redirects=False).headers["location"] == "/week/2026-11-22"
        furnish(household)
        assert "Start the week of 13–19 December" in text_of(cook.get("/week/2026-12-13"))
        cook.post("/week/2026-12-13/open", {"days": "7"})
    there = text_of(cook.get("/week/2026-12-20"))
    assert "Start the week of 20–27 December" in there, "the Sunday joins the week that begins on Monday"


def test_what_no_household_writes_is_refused(cook: Cook) -> None:
    typed = form_at(cook, "/settings", "/settings")
    for name, value in (("marks", "dots"), ("first_weekday", "2"), ("heat", "K"), ("money_decimals", "4")):
        refused = cook.post("/settings", typed | {name: value}, expect=422)
        assert f'id="fault-{name}"' in refused.text, name
