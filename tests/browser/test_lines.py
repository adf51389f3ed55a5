"""Twenty lines as a cook writes them are pasted, two are corrected, and the kitchen remembers both."""

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import Sight
from tests.browser.test_paths import sign_in
from tests.browser.test_recipes import paste_lines

LINES = """• 2 large onions, finely chopped
3 cloves of garlic, crushed
1 thumb-sized piece of ginger
2 carrots (about 150 g), grated
1 x 400 g tin chickpeas, drained and rinsed
400g can chopped tomatoes
200 g red lentils, rinsed
1½ tbsp rapeseed oil
1 tsp ground cumin
½ tsp tumeric
1 litre vegetable stock
1 small bunch of parsley, to serve
juice of half a lemon
150 g Greek yoghurt
300 g basmati rice
1 tin tuna in spring water, drained
4 slices wholemeal bread
50 g butter, softened
100 g cheddar
salt and pepper to taste"""


def new_recipe(page: Page, name: str, text: str) -> None:
    """A recipe of one component from pasted lines."""
    page.goto(page.url.split("/recipes")[0] + "/recipes/new")
    page.get_by_label("Name of the recipe").fill(name)
    paste_lines(page, text, 1)


def test_twenty_pasted_lines_two_corrected_and_remembered(demo_sight: Sight) -> None:
    page = sign_in(demo_sight)
    page.keyboard.press("3")
    expect(page.get_by_role("heading", name="Recipes")).to_be_visible()
    new_recipe(page, "Twenty things", LINES)
    rows = page.locator(".component .line")
    expect(rows).to_have_count(20)
    expect(page.locator(".line.waits")).to_have_count(1)  # only the yoghurt leaves open what it is
    expect(page.locator(".line", has_text="tin chickpeas").locator(".amount input")).to_have_value("240 g")

    yoghurt = page.locator(".line", has_text="150 g Greek yoghurt")
    expect(yoghurt).to_contain_text("How much fat?")
    yoghurt.get_by_role("button", name=re.compile("0 ?% fat")).first.click()
    expect(page.locator(".line.waits")).to_have_count(0)

    cheese = page.locator(".line", has_text="“100 g cheddar”")
    rather = cheese.locator(".rather button").first
    meant = (rather.text_content() or "").strip()
    rather.click()
    expect(cheese.locator(".what > a")).to_have_text(meant)
    with page.expect_response(lambda answer: answer.url.endswith("/autosave"), timeout=60_000):
        pass
    expect(page.locator("#saved")).to_contain_text("Saved")

    new_recipe(page, "Two things", "150 g Greek yoghurt\n80 g cheddar")
    expect(page.locator(".line.waits")).to_have_count(0)
    expect(page.locator(".line", has_text="Greek yoghurt").locator(".what > a")).to_contain_text(re.compile("0 ?% fat"))
    expect(page.locator(".line", has_text="“80 g cheddar”").locator(".what > a")).to_have_text(meant)
