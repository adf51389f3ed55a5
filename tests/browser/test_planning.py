"""A whole week planned in the browser: first an impossible wish, then one click, then a week taken."""

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import Sight
from tests.browser.test_paths import sign_in

PLANNED_MS = 300_000


def stop(page: Page) -> None:
    """Stop the planner if it still runs; what it has stays."""
    if page.locator(".planbar").count():
        page.get_by_role("button", name="Stop").click(force=True)
    expect(page.locator(".planbar")).to_have_count(0, timeout=PLANNED_MS)


def plan(page: Page) -> None:
    """Begin a job, and wait until the page shows that one and none before it."""
    found = page.locator("#found")
    before = found.get_attribute("data-job") or ""
    page.locator(".wishes .btn.go").click()
    expect(found).to_have_attribute("data-job", re.compile(f"^(?!{before or 'none'})"))


def test_a_week_is_planned_after_an_impossible_wish(fresh_demo_sight: Sight) -> None:
    page = sign_in(fresh_demo_sight)
    page.get_by_role("link", name="Next week").click()
    page.get_by_role("button", name="Start the week").click()
    page.get_by_text("Add a session").click()
    page.locator("[name=starts_at]").fill("2026-12-02T18:30")
    page.get_by_role("button", name="Add the session").click()
    page.get_by_role("link", name="Plan the 56 gaps").click()
    expect(page.locator("#found")).to_contain_text("Nothing changes until you take one.")

    page.get_by_label("Most meals of one dish per eater").fill("many")
    page.get_by_role("button", name="Plan the 56 gaps").click()
    expect(page.get_by_label("Most meals of one dish per eater")).to_have_attribute("aria-invalid", "true")
    page.get_by_label("Most meals of one dish per eater").fill("7")
    plan(page)  # the drawer, the boxes there are and the large ones do not hold the boat's week: the way out is named
    expect(page.locator(".conflicts")).to_contain_text("this makes it work", timeout=PLANNED_MS)
    expect(page.locator(".planbar")).to_have_count(0, timeout=PLANNED_MS)
    expect(page.locator(".conflicts .query")).to_have_count(1)
    expect(page.locator(".conflicts")).to_contain_text("The fridge is full at the end of a session.")
    expect(page.locator(".conflicts")).to_contain_text("too few large boxes for so many large portions")
    page.locator(".conflicts").get_by_role("button", name=re.compile("boxes in the fridge")).click()
    expect(page.locator(".plan").first).to_contain_text("14 of 14", timeout=PLANNED_MS)
    stop(page)

    page.get_by_label("Most meals of one dish per eater").fill("3")
    page.get_by_label("Most different dishes per meal").fill("1")
    plan(page)
    expect(page.locator(".conflicts")).to_contain_text("No week can keep to all of this", timeout=PLANNED_MS)
    expect(page.locator(".planbar")).to_have_count(0, timeout=PLANNED_MS)
    expect(page.locator(".conflicts .query")).to_have_count(1)
    expect(page.locator(".conflicts")).to_contain_text("with one less it is proven that no week can be")
    page.locator(".conflicts").get_by_role("button", name=re.compile("dish up to")).click()
    expect(page.get_by_label("Most meals of one dish per eater")).to_have_value("7")
    expect(page.locator(".plan").first).to_contain_text("14 of 14", timeout=PLANNED_MS)  # the change does free a week
    stop(page)

    page.get_by_label("Most different dishes per meal").fill("2")
    plan(page)
    page.reload()  # the job goes on, and is found again
    expect(page.locator(".plan").first).to_contain_text("Least cooking", timeout=PLANNED_MS)
    expect(page.locator(".plan .provenmark").first).to_have_text("✓ proven best", timeout=PLANNED_MS)
    varied = page.locator(".plan", has_text="variety")
    expect(varied.locator(".provenmark")).to_have_text("best found", timeout=PLANNED_MS)
    expect(varied).to_contain_text("no week takes less than")
    stop(page)
    page.get_by_role("button", name="Take this week").first.click()
    expect(page.get_by_role("heading", name="Week 49")).to_be_visible()
    expect(page.locator(".gap")).to_have_count(0)
    expect(page.locator("header .sub")).to_contain_text("14 of 14 days in band")
    last = page.locator(".dayrow").last.evaluate("row => row.getBoundingClientRect().bottom")
    assert last <= 800  # seven days without scrolling

    # A dinner is pinned by its key, two more with a choice, and the rest is planned anew.
    dinner = page.locator(".dayrow").nth(1).locator(".box").nth(3)
    kept = dinner.locator(".name").inner_text()
    dinner.focus()
    page.keyboard.press("p")
    expect(page.locator(".pinmark")).to_have_count(1)
    page.locator(".dayrow").nth(2).locator(".box").nth(0).focus()
    page.keyboard.press("x")
    page.locator(".dayrow").nth(3).locator(".box").nth(0).click(modifiers=["Control"])
    expect(page.locator("#choosebar")).to_contain_text("2 meals chosen")
    page.keyboard.press("p")
    expect(page.locator(".pinmark")).to_have_count(3)
    page.get_by_role("link", name="Plan again").click()
    page.get_by_label("all but the 3 pinned").check()
    page.get_by_label("Most different dishes per meal").fill("3")
    page.get_by_label("Most meals of one dish per eater").fill("5")
    plan(page)
    expect(page.locator(".plan").first).to_contain_text("14 of 14", timeout=PLANNED_MS)
    stop(page)
    page.get_by_role("button", name="Take this week").first.click()
    expect(page.locator("header .sub")).to_contain_text("14 of 14 days in band")
    expect(page.locator(".pinmark")).to_have_count(3)
    expect(page.locator(".dayrow").nth(1).locator(".box .name").nth(3)).to_have_text(kept)
    anew = page.locator(".box .name").all_inner_texts()
    page.get_by_role("button", name="Undo the plan").click()
    page.get_by_role("link", name="To the week").click()
    expect(page.locator(".gap")).to_have_count(0)
    assert page.locator(".box .name").all_inner_texts() != anew  # the week before is back
