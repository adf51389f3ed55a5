"""A newcomer's whole way: from the first page of an empty installation to labels for boxes that were filled by weight,
every click and key counted, as docs/first-evening.md says."""

import re

from playwright.sync_api import Page, expect

from goodcrate.settings import CHECKOUT
from tests.browser.conftest import Sight
from tests.browser.test_first_evening import Hands, first_evening

MOST_CLICKS = 20
TARE_G = 1000


def expected_g(page: Page) -> int:
    """What the pot should weigh, as its page says it."""
    expect(page.get_by_label("Pot with food, g")).to_be_visible()
    words = page.locator(".bench header .sub").inner_text()
    found = re.search(r"([\d,]+) (?:± [\d,]+ )?g", words)
    assert found is not None, words
    return int(found[1].replace(",", ""))


def test_from_nothing_to_labelled_boxes(empty_sight: Sight) -> None:
    page, hands = empty_sight.page, Hands()
    first_evening(empty_sight, hands)
    hands.press(page, "7")
    hands.click(page.locator(".pot").first)
    hands.click(page.locator(".notin").get_by_role("button", name="In as planned"))
    hands.fill(page.get_by_label("Pot with food, g"), str(expected_g(page) + TARE_G))
    hands.fill(page.get_by_label("Empty pot, g"), str(TARE_G))
    hands.click(page.get_by_role("button", name="Weigh the pot"))
    hands.click(page.get_by_role("button", name="Fill all as divided"))
    expect(page.get_by_text("All packed")).to_be_visible()
    hands.click(page.get_by_role("link", name="Labels of this session"))
    with page.expect_response(re.compile(r"/labels\.pdf\?")) as sheet:
        hands.click(page.get_by_role("button", name=re.compile("PDF|labels|Print")).first)
    assert page.request.get(sheet.value.url).body().startswith(b"%PDF")

    assert hands.clicks <= MOST_CLICKS
    told = (CHECKOUT / "docs" / "first-evening.md").read_text()
    assert f"**{hands.clicks} clicks, {hands.fields} fields and {hands.keys} keys**" in told, (hands, "docs")
