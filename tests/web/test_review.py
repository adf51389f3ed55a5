"""A week looked back on: days on their beams, why one is as it is, what the days brought; and what is not known."""

import re
from uuid import uuid4

from goodcrate.services.at_table import eating, off_plan
from goodcrate.services.calling import Caller
from tests.conftest import MONDAY, Cook, text_of
from tests.services.kitchen import furnish
from tests.web import racing

THERE = f"/review/{MONDAY}"


def signed(words: str) -> int:
    return int(words.replace(",", "").replace("−", "-").replace("+", ""))


def test_a_day_shows_how_it_came_about_to_the_last_kcal(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    first, second = racing.meals(kitchen)[:2]
    assert cook.client.get("/review", follow_redirects=False).headers["location"] == THERE
    assert "nothing said of it yet" in text_of(cook.get(THERE))
    assert "Say on Today what was eaten" in text_of(cook.get(THERE))
    eating.say_eaten(household, MONDAY, first, uuid4(), eating.Said("part_eaten", share=0.5))
    off_plan.note(household, kitchen.eater_id, MONDAY, uuid4(), "cake, 350 kcal")
    eating.say_eaten(household, MONDAY, second, uuid4(), eating.Said("given_away"))
    page = cook.get(f"{THERE}?day={kitchen.eater_id}.{MONDAY}")
    read = text_of(page)
    for words in ("How Maren’s Monday came about", "Turkey pot: eaten in part", "cake, 350 kcal", "What Maren’s days"):
        assert words in read
    table = text_of(page[page.index('class="bars"') :].split("</table>")[0])
    planned, eaten = (signed(n) for n in re.findall(r"(?:planned|eaten) ([\d,]+) kcal", table))
    steps = [signed(n) for n in re.findall(r" ([+−][\d,]+)(?: |$)", table)]
    assert len(steps) == 2
    assert planned + sum(steps) == eaten
    assert "Turkey pot: given away" in text_of(cook.get(f"{THERE}?day={kitchen.eater_id}.{MONDAY.replace(day=24)}"))
    assert "not known" in read
    assert re.search(r"Iron .*? of (8|18)", read), "what is asked of any adult, or of this one"


def test_a_day_that_is_not_over_is_not_judged(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    off_plan.note(household, kitchen.eater_id, MONDAY, uuid4(), "cake, 350 kcal")
    read = text_of(cook.get(THERE))
    assert re.search(r"350 of [\d,]+ kcal so far", read)
    assert "What Maren’s days" not in read, "no day is over"


def test_where_no_week_is_the_page_teaches(cook: Cook) -> None:
    assert "each day stands here on its beam" in text_of(cook.get("/review"))
    assert "each day stands here on its beam" in text_of(cook.get("/review/2030-01-07"))
