"""At the scale: a weight far from plan is asked about where it was typed, and one tap answers."""

from playwright.sync_api import expect

from tests.browser.conftest import Sight
from tests.browser.test_paths import sign_in


def barley_page(sight: Sight) -> None:
    """The demo's barley batch, begun."""
    page = sign_in(sight)
    sight.go("/cook")
    page.get_by_role("link", name="barley and beetroot").first.click()
    start = page.get_by_role("button", name="Start weighing")
    start.click()
    expect(page.locator(".weighlist .now")).to_contain_text("Pearl barley")


def test_dry_food_weighed_cooked_is_caught_and_counted_dry(fresh_demo_sight: Sight) -> None:
    barley_page(fresh_demo_sight)
    page = fresh_demo_sight.page
    page.set_viewport_size({"width": 390, "height": 844})
    field = page.get_by_label("Grams of Pearl barley, dry weighed")
    field.fill("571 g")
    field.press("Enter")
    question = page.get_by_role("alert").filter(has_text="when cooked")
    expect(question).to_contain_text("did you weigh them cooked?")
    expect(field).to_have_value("571 g")
    expect(page.get_by_role("button", name="Yes, 571 g")).to_be_visible()
    page.get_by_role("button", name="It was cooked: count 200 g").click()
    expect(page.locator(".weighlist .done")).to_contain_text("200")
    expect(page.locator(".weighlist .now")).to_contain_text("Beetroot")
