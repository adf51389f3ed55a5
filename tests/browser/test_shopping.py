"""A week is shopped: two phones, the line cut in the middle, something else taken, what stays in the pantry."""

import re
from collections.abc import Iterator
from contextlib import contextmanager

from playwright.sync_api import Browser, Locator, Page, expect

from tests.browser.conftest import PATIENCE_MS, Sight, cut_the_line
from tests.browser.test_paths import sign_in
from tests.conftest import MONDAY

LIST = f"/shop/{MONDAY}"


@contextmanager
def second_phone(chromium: Browser, base: str) -> Iterator[Page]:
    context = chromium.new_context(viewport={"width": 390, "height": 844}, locale="en-GB")
    context.set_default_timeout(PATIENCE_MS)
    page = context.new_page()
    try:
        sign_in(Sight(page, base, []))
        yield page
    finally:
        context.close()


def row(page: Page, key: str) -> Locator:
    return page.locator(f'tr[data-food="{key}"]')


def tick(page: Page, key: str) -> None:
    row(page, key).get_by_role("button").click()


def is_kept(page: Page) -> None:
    page.wait_for_function(
        """async () => navigator.serviceWorker.controller
        && await (await caches.open('good-crate-list')).match(location.pathname)"""
    )


def test_a_week_is_shopped_by_two_phones_and_the_line_is_cut(fresh_demo_sight: Sight, chromium: Browser) -> None:
    sight = fresh_demo_sight
    sight.page.set_viewport_size({"width": 390, "height": 844})
    mine = sign_in(sight)
    with second_phone(chromium, sight.base) as theirs:
        for page in (mine, theirs):
            page.goto(sight.base + LIST)
        is_kept(mine)
        for n in range(mine.locator(".tickbox").count()):
            box = mine.locator(".tickbox").nth(n).locator("xpath=ancestor::tr").bounding_box()
            assert box is not None
            assert box["height"] >= 56

        tick(mine, "beetroot_raw")
        expect(row(theirs, "beetroot_raw")).to_contain_text("1,000 g bought")
        expect(theirs.locator("#basket")).to_contain_text("1 of 58")

        cut_the_line(mine)
        for key in ("carrot_raw", "swede_raw"):
            tick(mine, key)
        expect(mine.locator("#waits")).to_contain_text("2 ticks wait")
        mine.reload()
        expect(row(mine, "carrot_raw")).to_have_attribute("data-state", "bought")
        expect(mine.locator("#waits")).to_contain_text("2 ticks wait")
        tick(theirs, "carrot_raw")
        expect(row(theirs, "carrot_raw")).to_contain_text("1,000 g bought")
        mine.context.set_offline(False)
        expect(row(theirs, "swede_raw")).to_contain_text("1,200 g bought")
        expect(mine.locator("#waits")).to_be_hidden()

        row(theirs, "venison_raw").get_by_role("link").click()
        theirs.get_by_role("textbox", name="Bought g").fill("1200 g")
        theirs.get_by_role("button", name="Not there").click()
        expect(row(mine, "venison_raw")).to_contain_text("was not there")
    away = ("net::ERR_", "Failed to fetch")
    sight.complaints[:] = [c for c in sight.complaints if not any(word in c for word in away)]

    mine.goto(sight.base + "/shop/pantry")
    carrot = mine.locator("li", has_text="Carrot, raw")
    expect(carrot.get_by_label("Grams there")).to_have_value("1000")


def test_a_tap_that_meets_the_other_phones_tick_does_not_take_it_back(
    fresh_demo_sight: Sight, chromium: Browser
) -> None:
    mine = sign_in(fresh_demo_sight)
    mine.goto(fresh_demo_sight.base + LIST)
    with second_phone(chromium, fresh_demo_sight.base) as theirs:
        theirs.clock.install()
        theirs.goto(fresh_demo_sight.base + LIST)
        theirs.clock.pause_at(theirs.evaluate("Date.now()") + 1000)
        tick(mine, "carrot_raw")
        expect(row(mine, "carrot_raw")).to_contain_text("1,000 g bought")
        expect(row(theirs, "carrot_raw")).to_have_attribute("data-state", "open")
        theirs.clock.run_for(800)  # it asks
        expect(row(theirs, "carrot_raw")).to_have_attribute("data-state", "bought")
        tick(theirs, "carrot_raw")
        expect(row(theirs, "carrot_raw")).to_have_attribute("data-state", "bought")
        theirs.clock.run_for(1100)
        tick(theirs, "carrot_raw")
        expect(row(theirs, "carrot_raw")).to_have_attribute("data-state", "open")


def test_something_else_reaches_the_boxes_and_what_stays_the_pantry(fresh_demo_sight: Sight) -> None:
    sight = fresh_demo_sight
    page = sign_in(sight)
    sight.go(f"/week/{MONDAY}")
    stew = page.locator(".slot .box", has_text="Venison").first
    (before,) = re.findall(r"\d+ kcal", stew.inner_text())
    sight.go(f"{LIST}/food/venison_raw")
    page.get_by_label("What did you take").fill("pork shoulder")
    page.get_by_role("button", name="Find").click()
    first = page.locator(".others li").first
    expect(first).to_contain_text("which Oskar Quill does not eat")
    expect(first.get_by_role("button")).to_have_count(0)
    page.get_by_label("What did you take").fill("turkey thigh raw")
    page.get_by_role("button", name="Find").click()
    expect(first).to_contain_text(re.compile(r"kcal, [+−±][\d.]+ g protein a box"))
    first.get_by_role("button", name="Take it").click()
    expect(page.locator(".notice.took")).to_contain_text("instead of Venison")
    expect(row(page, "venison_raw")).to_have_count(0)
    sight.go(f"/week/{MONDAY}")
    expect(stew).not_to_contain_text(before)
    sight.go(LIST)
    page.get_by_role("button", name="Undo").click()
    expect(row(page, "venison_raw")).to_have_count(1)
    sight.go(f"/week/{MONDAY}")
    expect(stew).to_contain_text(before)

    sight.go(LIST)
    expect(page.locator("#tape")).to_contain_text("What a box costs")
    tick(page, "swede_raw")
    expect(row(page, "swede_raw")).to_contain_text("1,200 g bought")
    sight.go("/cook")
    page.locator(".pot", has_text="swede mash").click()
    swede = page.locator("li", has_text="Swede")
    swede.get_by_label("Grams of").fill("560 g")
    swede.get_by_role("button", name="Weighed").click()
    expect(page.locator("li.done", has_text="Swede")).to_contain_text("560")
    sight.go("/shop/pantry")
    left = page.locator("li", has_text="Swede")
    expect(left.get_by_label("Grams there")).to_have_value("500")  # 1200 − 560 ÷ 0.8
    expect(left).to_contain_text("700 g of 1,200 g weighed in since")
    left.get_by_label("Grams there").fill("450")
    left.get_by_role("button", name="Put right").click()
    expect(left.get_by_label("Grams there")).to_have_value("450")
