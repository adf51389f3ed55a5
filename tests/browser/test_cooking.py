"""A session is cooked on two devices: the sheet is made, steps are ticked, one takes longer, a page is loaded again."""

import re

from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import PATIENCE_MS, Sight
from tests.browser.test_paths import sign_in
from tests.browser.test_shopping import second_phone
from tests.conftest import MONDAY


def first_step(page: Page) -> str:
    return page.locator(".nowstep h2").first.inner_text()


def seconds_left(page: Page) -> int:
    shown = page.locator(".timer .left b").first
    expect(shown).to_have_text(re.compile(r"^\d+:\d\d$"))
    minutes, seconds = shown.inner_text().split(":")
    return int(minutes) * 60 + int(seconds)


def begin_a_timer(page: Page) -> None:
    """Put on the first thing that cooks by itself and asks for ingredients, as the porridge does not; among sheets as
    short as each other it is not always the same."""
    for _ in range(10):
        steps = page.locator(".nowstep").filter(has_not_text="porridge")
        on = steps.get_by_role("button", name=re.compile("It is on"))
        if on.count():
            on.first.click()
            return
        there = page.locator(".nowstep, .timer").count()
        others = page.locator(".nextsteps > div").filter(has_not_text="porridge")
        others.get_by_role("button", name="Begin now").first.click()
        expect(page.locator(".nowstep, .timer")).not_to_have_count(there)
        if page.locator(".timer").count():
            return
    raise AssertionError("nothing cooks by itself")


def test_a_session_is_cooked_on_two_devices(fresh_demo_sight: Sight, chromium: Browser) -> None:
    sight = fresh_demo_sight
    mine = sign_in(sight)
    mine.goto(f"{sight.base}/cook/{MONDAY}")
    mine.get_by_role("link", name="Run sheet").first.click()
    # Nobody clicks: the page asks for its sheet by itself, and shows it when it is made.
    expect(mine.locator(".sheethead")).to_be_visible(timeout=PATIENCE_MS * 4)
    expect(mine.locator(".ifs")).to_contain_text("A pause every hour", timeout=PATIENCE_MS * 4)
    expect(mine.locator(".lanes .lane")).not_to_have_count(0)
    assert mine.evaluate("scrollY") == 0, "what comes pushes nobody down the page"
    mine.locator(".if", has_text="burners").click()
    expect(mine).to_have_url(re.compile("burners=2"))
    expect(mine.locator(".sheethead")).to_be_visible(timeout=PATIENCE_MS * 4)
    mine.get_by_role("link", name="Back to the sheet as it was").click()
    expect(mine).to_have_url(re.compile(r"/sheet/[^?]+$"))
    expect(mine.locator(".ifs")).to_be_visible()
    mine.get_by_role("button", name="Start cooking").click()
    expect(mine.locator(".nowstep").first).to_be_visible()

    with second_phone(chromium, sight.base) as theirs:
        # Theirs is an hour ahead: what is counted down is the server's time.
        theirs.add_init_script("const own = Date.now; Date.now = () => own() + 3600000;")
        theirs.goto(mine.url)
        was = first_step(mine)
        assert first_step(theirs) == was
        theirs.locator(".nowstep").first.get_by_role("button", name="Needs 10 more minutes").click()
        begin_a_timer(mine)
        expect(theirs.locator(".timer")).to_have_count(1)
        left = seconds_left(theirs)
        assert 0 < left <= 121 * 60
        assert abs(seconds_left(mine) - left) < 60
        theirs.reload()
        assert left - 60 < seconds_left(theirs) <= left, "the timer is the server's"
        # Something is forgotten: it is asked before the pot comes off, on both, until somebody says.
        asked = theirs.locator(".notin").first
        expect(asked).to_contain_text("not in yet")
        count = theirs.locator(".notin").count()
        expect(theirs.locator(".timer").get_by_role("button", name="Off all the same")).to_have_count(1)
        mine.locator(".timer .notin").get_by_role("button", name="In as planned").click()
        expect(theirs.locator(".notin")).to_have_count(count - 1, timeout=PATIENCE_MS)
        expect(theirs.locator(".timer").get_by_role("button", name="Done")).to_have_count(1)
        # By its name: which step stands first may change while the page hears of what was said.
        skipped = first_step(mine)
        mine.locator(".nowstep", has_text=skipped).get_by_role("button", name="Skip for now").click()
        expect(theirs.locator(".putoff")).to_contain_text(skipped)
        expect(theirs.locator(".nowstep").first).not_to_contain_text(skipped)
        theirs.locator(".putoff").get_by_role("button", name="Done").click()
        expect(mine.locator("header")).to_contain_text("1 of 43 steps done", timeout=PATIENCE_MS)
