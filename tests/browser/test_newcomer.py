"""A newcomer's whole way: from the first page of an empty installation to labels for boxes that were filled by weight,
every click and key counted, as docs/first-evening.md says."""

import re
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.browser.conftest import Sight
from tests.browser.test_first_evening import Hands, first_evening

MOST_CLICKS = 20
TARE_G = 1000


def planned_g(page: Page) -> int:
    """What the pot should weigh, as its page says it."""
    found = re.search(r"([\d,]+) ?g", page.locator("[data-planned-pot], .potplan, .bench header").first.inner_text())
    assert found is not None
    return int(found[1].replace(",", ""))


def test_from_nothing_to_labelled_boxes(empty_sight: Sight, tmp_path: Path) -> None:
    page, hands = empty_sight.page, Hands()
    first_evening(empty_sight, hands)
    hands.press(page, "7")
    hands.click(page.locator(".pot").first)
    hands.click(page.locator(".notin").get_by_role("button", name="In as planned"))
    expect(page.locator(".notin")).to_have_count(0)
    print(page.locator("main").inner_text()[:1500])
