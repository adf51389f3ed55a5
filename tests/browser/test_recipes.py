"""A recipe of three components from pasted lines by keyboard only, with a version for one eater; another in and out."""

import json
import re
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.browser.conftest import Sight
from tests.browser.test_paths import sign_in

BEANS = """2 x 400 g tins butter beans, drained
200 g celery
1½ tbsp rapeseed oil
20 ml cream
a glug of moonshine"""
GRAIN = "250 g millet, dry\nsalt to taste"
DRESSING = "45 g olive oil\n30 g lemon juice"
METHOD = """Sweat the celery in the oil, 8 minutes
Add the beans and simmer for 20 minutes
Swell the millet for 22 minutes
Cool all of it spread out, 30 minutes"""
PAGE = {
    "@context": "https://schema.org",
    "@type": "Recipe",
    "name": "Dill potatoes",
    "recipeYield": "4 servings",
    "recipeIngredient": ["800 g potatoes, raw", "20 g dill", "1 tbsp rapeseed oil"],
    "recipeInstructions": [{"@type": "HowToStep", "text": "Boil the potatoes for 20 minutes"}],
}


def tab_to(page: Page, selector: str, most: int = 140) -> None:
    """Tab on until something is focused: what cannot be reached by keyboard fails here."""
    for _ in range(most):
        if page.evaluate("s => document.activeElement?.matches(s) ?? false", selector):
            return
        page.keyboard.press("Tab")
    raise AssertionError(f"{selector} cannot be reached with the Tab key")


def choose_by_arrows(page: Page, name: str) -> None:
    """Go down a select that has the focus to the choice of a name."""
    chosen = "document.activeElement.selectedOptions[0]?.text ?? ''"
    for _ in range(60):
        if page.evaluate(chosen).startswith(name):
            return
        page.keyboard.press("ArrowDown")
    raise AssertionError(f"no choice begins with {name}")


def paste_lines(page: Page, text: str, component: int) -> None:
    """Open a component's paste area, type the lines, read them; all by keyboard."""
    holder = f".component:nth-of-type({component})"
    tab_to(page, f"{holder} .paste summary")
    page.keyboard.press("Enter")
    tab_to(page, f"{holder} .paste textarea", 3)
    page.keyboard.insert_text(text)
    page.keyboard.press("Control+Enter")
    expect(page.locator(f"{holder} .line")).to_have_count(len(text.splitlines()))
    expect(page.locator(f"{holder} .paste[open]")).to_have_count(0)  # now the focus has moved on


def test_a_recipe_from_pasted_lines_by_keyboard_only(demo_sight: Sight) -> None:
    page = sign_in(demo_sight)
    page.keyboard.press("3")
    expect(page.get_by_role("heading", name="Recipes")).to_be_visible()
    tab_to(page, 'a[href="/recipes/new"]')
    page.keyboard.press("Enter")
    expect(page.get_by_label("Name of the recipe")).to_be_focused()
    page.keyboard.type("Bean and millet box")

    # First component: pasted lines; what is unsure asks in its row, what is nonsense is kept and marked.
    tab_to(page, ".component input[name$='-name']")
    page.keyboard.type("beans")
    paste_lines(page, BEANS, 1)
    expect(page.locator("#live")).to_contain_text("without 2 lines not understood yet")
    expect(page.locator(".line.waits").first).to_contain_text("Single, whipping or double?")
    tab_to(page, ".line.waits .ask button")
    page.keyboard.press("Enter")
    expect(page.locator("#live")).to_contain_text("without 1 line not understood yet")

    # Two more components, each with its own paste.
    for number, (name, lines) in enumerate((("millet", GRAIN), ("dressing", DRESSING)), 2):
        tab_to(page, '[hx-get="/recipes/component"]')
        page.keyboard.press("Enter")
        expect(page.locator(".component")).to_have_count(number)
        expect(page.locator(f".component:nth-of-type({number}) input[name$='-name']")).to_be_focused()
        page.keyboard.type(name)
        paste_lines(page, lines, number)
    expect(page.locator("#live .num").first).not_to_have_text("–")

    # The method, pasted: minutes and hands are read from the words.
    tab_to(page, "#part-steps .paste summary")
    page.keyboard.press("Enter")
    tab_to(page, "#part-steps .paste textarea", 3)
    page.keyboard.insert_text(METHOD)
    page.keyboard.press("Control+Enter")
    expect(page.locator(".step")).to_have_count(4)
    expect(page.locator("#part-steps .paste[open]")).to_have_count(0)
    expect(page.locator("#steps-sum")).to_contain_text("8 min of work, 1 h 12 unattended")

    # Oskar must not get celery: a version without it, by keyboard too.
    expect(page.locator("#live-notes")).to_contain_text("not for 1 of you")
    tab_to(page, "[name='swap-line']")
    choose_by_arrows(page, "Celery")
    expect(page.locator("#swap")).to_contain_text("Leave celery")
    tab_to(page, "#swap [data-adds]:last-of-type")
    with page.expect_response(lambda answer: answer.url.endswith("/autosave"), timeout=60_000):
        page.keyboard.press("Enter")
    expect(page.locator("#variant-live")).to_contain_text("Oskar")
    expect(page.locator("#variant-live")).to_contain_text("cooked apart: beans")
    expect(page.locator("#live-notes")).not_to_contain_text("not for 1 of you")

    # It has saved itself.
    expect(page.locator("#saved")).to_contain_text("Saved")
    page.keyboard.press("Escape")
    expect(page).to_have_url(re.compile(r"/recipes/new$"))
    demo_sight.go("/recipes?q=millet box")
    page.get_by_role("link", name="Bean and millet box").click()
    expect(page.locator(".component")).to_have_count(3)
    expect(page.locator(".line.waits")).to_contain_text("a glug of moonshine")
    expect(page.locator("#variant-live")).to_contain_text("without celery")


def test_a_recipe_is_taken_in_fitted_and_taken_out(demo_sight: Sight, tmp_path: Path) -> None:
    page = sign_in(demo_sight)
    demo_sight.go("/recipes/import")
    page.get_by_label("JSON-LD, or the whole source").fill(json.dumps(PAGE))
    page.get_by_role("button", name="Read it").click()
    expect(page.get_by_role("heading", name="Dill potatoes")).to_be_visible()
    expect(page.locator("table")).to_contain_text("Potato, raw, peeled")
    page.get_by_role("button", name="Import it").click()
    expect(page.get_by_label("Name of the recipe")).to_have_value("Dill potatoes")

    # About 260 kcal: potatoes may move.
    before = page.locator("#live .num").first.inner_text()
    page.get_by_label("About, kcal").fill("260")
    page.locator("#fit-lines").get_by_label(re.compile("Potato, raw")).first.check()
    page.get_by_role("button", name="Fit it").click()
    expect(page.locator("#fitted")).to_contain_text(f"a serving {before} → 2")
    page.get_by_role("button", name="Take these weights").click()
    expect(page.locator("#live .num").first).to_have_text(re.compile(r"^2[56]\d$"))
    was = page.locator("#saved").inner_text()
    page.get_by_role("button", name="Save the recipe").click()
    expect(page.locator("#saved")).not_to_have_text(was)
    expect(page.locator("#saved")).to_contain_text("version")

    # Out again, whole; and undo brings the first weights back.
    with page.expect_download() as download:
        page.locator("#part-more").get_by_role("link", name="JSON-LD").click()
    exported = json.loads(Path(download.value.path()).read_text())
    assert exported["name"] == "Dill potatoes"
    assert re.match(r"2[56]\d kcal", exported["nutrition"]["calories"])
    page.get_by_role("button", name="Undo").click()
    expect(page.locator("#live .num").first).to_have_text(before)
