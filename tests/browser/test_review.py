"""The demo week is closed, looked back on, and two things are taken into the next one."""

from datetime import timedelta

import pytest
from playwright.sync_api import expect

from goodcrate.core.ground.writing import shown
from goodcrate.demo.eaten import live_through
from goodcrate.services.recipes import library
from goodcrate.services.week import weeks
from tests.browser.conftest import Sight
from tests.browser.test_paths import sign_in
from tests.conftest import MONDAY
from tests.formats.test_compute_review import by_hand

THERE, NEXT = f"/review/{MONDAY}", MONDAY + timedelta(days=7)


def number(words: str) -> float:
    return float(words.replace(",", "").replace("−", "-").replace("+", ""))


def test_the_week_is_closed_read_and_taken_into_the_next(fresh_demo_sight: Sight) -> None:
    sight = fresh_demo_sight
    page, caller = sight.page, sight.caller
    assert caller is not None
    live_through(caller, MONDAY, close=False)
    sign_in(sight)
    sight.go(THERE)
    expect(page.locator("h1")).to_have_text("Week 48, looked back on")
    page.get_by_role("button", name="Close the week").click()
    expect(page.locator("h1")).to_have_text("Week 48, closed")

    page.locator(".reviewdays tbody tr:nth-child(2) a").first.click()
    expect(page.get_by_role("heading", name="Why Maren’s Tuesday was short")).to_be_visible()
    rows = (row.locator("td").all_inner_texts() for row in page.locator("#tape tbody tr:not(.note)").all())
    told = {cells[0].split("\n")[0]: cells[-1] for cells in rows if len(cells) >= 2}
    hand = by_hand()
    for step, words in (
        ("planned", "planned, 4 boxes"),
        ("snack, thrown away", "snack: thrown away"),
        ("dinner, left", "dinner: 69 g left"),
        ("oat biscuits", "oat biscuits, 185 kcal"),
        ("dinner, the stove", "dinner: 27 g less butter, 2.0 g more rapeseed oil"),
        ("lunch, the box", "lunch: 24 g more in the box"),
        ("dinner, the box", "dinner: 8.6 g more in the box"),
        ("eaten", "eaten"),
    ):
        assert number(told[words]) == pytest.approx(hand[step], abs=0.051), step
    expect(page.locator("#tape")).to_contain_text("short by 216")

    page.get_by_role("link", name="Start it").click()
    page.get_by_role("button").filter(has_text="Start the week").click()
    page.get_by_role("link", name="Repeat a week").first.click()
    page.locator("form[action$='/repeat'] button").first.click()
    expect(page.locator("#bench").get_by_text("Rhubarb quark pot").first).to_be_visible()
    sight.go(THERE)
    smaller = page.locator("li.proposal").filter(has_text="Rhubarb quark pot with toasted oats of 188 g")
    smaller.get_by_role("button", name="Use in week 49").click()
    expect(page.locator(".proposal.taken").filter(has_text="Rhubarb quark pot")).to_be_visible()
    learned = page.locator("li.proposal").filter(has_text="Leek and quark oven slice: expect a yield of")
    if not learned.is_visible():
        page.locator(".moreproposals summary").click()
    words = learned.locator("h3").inner_text()
    learned.get_by_role("button", name="Use in week 49").click()
    expect(page.locator(".proposal.taken").filter(has_text="Leek and quark")).to_have_count(1)

    recipe = next(p.recipe for p in library.list_recipes(caller) if p.recipe.name == "Leek and quark oven slice")
    slice_ = recipe.components[0]
    assert slice_.cooked_g is not None
    yielded = slice_.cooked_g / sum(line.weighed_in_g for line in slice_.lines)
    assert f"yield of {shown(yielded, 2)}," in words
    following = weeks.week_picture(caller, NEXT)
    assert following is not None
    snacks = [m for m in following.meals if following.recipes[str(m.recipe_id)].name.startswith("Rhubarb")]
    assert [round(m.servings, 6) for m in snacks] == [0.55] * 3, "half of 1.1"
    batch = next(w for w in following.outcome.batches if w.plan.component_key == slice_.key)
    assert batch.outcome.state.expected_g == pytest.approx(
        yielded * sum(line.weighed_in_g for line in batch.outcome.state.lines), rel=0.003
    )

    taken = page.locator(".proposal.taken").filter(has_text="Rhubarb quark pot")
    taken.get_by_role("button", name="Undo").click()
    expect(page.locator(".proposal.taken").filter(has_text="Rhubarb quark pot")).to_have_count(0)
    following = weeks.week_picture(caller, NEXT)
    assert following is not None
    assert {m.servings for m in following.meals if m.id in {s.id for s in snacks}} == {1.1}
