"""Net carbohydrate and the spread as foods vary, where a household wants them; own dishes beside foods."""

import re
from dataclasses import replace
from math import hypot

from goodcrate.core.foods.variation import spread_of
from goodcrate.core.ground.nutrients import Tally
from goodcrate.core.targets.eater import Extra
from goodcrate.formats.reference import reference_foods
from goodcrate.services.calling import Caller
from goodcrate.services.recipes import starter_shelf
from goodcrate.services.recipes.starter_shelf import household_id
from goodcrate.services.week.weeks import week_picture
from goodcrate.web.week.tapes import day_tape
from goodcrate.web.week.view import eater_day_at, week_view
from tests.conftest import Cook, text_of
from tests.hostile import forms_of
from tests.services.kitchen import MONDAY, furnish
from tests.web import racing


def set_figures(cook: Cook, **ticks: str) -> None:
    fields = dict(forms_of("/settings", cook.get("/settings"))["/settings"].fields)
    for name in ("shows_net_carbohydrate", "hides_spread"):
        fields.pop(name, None)
    cook.post("/settings", fields | ticks)


def test_net_carbohydrate_stands_where_carbohydrate_stands_if_wished(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    there = racing.batch(kitchen)
    pages = [
        "/foods?q=100+g+rye+flakes",
        "/foods/compare?food=quark&food=feta",
        f"/recipes/{kitchen.recipe_id}",
        f"/recipes/{kitchen.recipe_id}/print",
        f"/week/{MONDAY}?box={racing.meals(kitchen)[0]}",
        f"/week/{MONDAY}?day={kitchen.eater_id}.{MONDAY}",
        f"/cook/{there}",
    ]
    for page in pages:
        assert "net carbohydrate" not in text_of(cook.get(page)), page
    set_figures(cook, shows_net_carbohydrate="on")
    for page in pages:
        assert "net carbohydrate" in text_of(cook.get(page)), page
    assert text_of(cook.get("/foods/quark")).count("net carbohydrate") == 2  # in the table, and its working on the tape
    row = re.search(r"Rye flakes.*?</tr>", cook.get("/foods?q=rye+flakes"), re.S)
    assert row is not None
    assert re.search(r"net \d+", text_of(row[0]))


def test_the_spread_stands_beside_the_weighing_unless_it_is_hidden(cook: Cook, household: Caller) -> None:
    kitchen = furnish(household)
    pages = [
        f"/recipes/{kitchen.recipe_id}",
        f"/week/{MONDAY}?box={racing.meals(kitchen)[0]}",
        f"/week/{MONDAY}?day={kitchen.eater_id}.{MONDAY}",
        f"/cook/{racing.batch(kitchen)}",
        "/foods?q=120+g+quark",
    ]
    for page in pages:
        assert re.search(r"± \d+ kcal as foods vary", text_of(cook.get(page))), page
    head = text_of(cook.get(pages[0]))
    assert re.search(r"energy ± \d+ kcal weighed, ± \d+ kcal as foods vary", head)
    set_figures(cook, hides_spread="on")
    for page in pages:
        assert "as foods vary" not in text_of(cook.get(page)), page


def test_a_sauce_of_ones_own_beside_a_bought_one(cook: Cook, household: Caller) -> None:
    starter_shelf.take(household, ["herbsauce", "butterbean"])
    sauce = household_id(household, "herbsauce")
    dressing = household_id(household, "butterbean", 1)
    page = cook.get(f"/foods/compare?food=mayonnaise&food=recipe:{sauce}&food=component:{dressing}")
    text = text_of(page)
    assert "Herb yoghurt sauce" in text
    assert "Butter bean, fennel and orange box: dressing" in text
    assert "In a level tablespoon" in text
    assert "no density known" in text  # the herbs
    assert "In a serving no serving known 80 g 27 g" in text
    assert f'href="/recipes/{sauce}"' in page
    chosen = cook.get(f"/foods?food=recipe:{sauce}")
    assert f'name="food" value="recipe:{sauce}" checked' in chosen
    offered = cook.get("/foods/compare?food=mayonnaise&food=quark")
    assert f'value="component:{dressing}"' in offered
    unknown = text_of(cook.get("/foods/compare?food=quark&food=recipe:none&food=component:", expect=422))
    assert "1 foods cannot be compared" in unknown


def test_a_days_spread_holds_what_is_eaten_besides(demo: Caller) -> None:
    picture = week_picture(demo, MONDAY)
    assert picture is not None
    row = eater_day_at(week_view(picture, MONDAY), picture.eaters[0].id, MONDAY)
    assert row is not None
    brie = reference_foods()["brie"]
    extra = Extra("200 g brie", Tally.of(brie.composition, 200, 0, "brie"), brie)
    more = replace(row, eater=replace(row.eater, extras=(extra,)))
    kcal, with_brie = (
        int(re.findall(r"± (\d+) kcal as foods vary", day_tape(picture, day, MONDAY).sums[0].note)[0])
        for day in (row, more)
    )
    of_brie = spread_of([(brie, 200.0)], ["energy_kcal"])["energy_kcal"]
    assert abs(with_brie - hypot(kcal, of_brie)) <= 1
