"""Three days of the demo week on a phone: put away, eaten, in part, thawed, soaked, swapped, a slip, thrown away."""

import re
from datetime import timedelta

from playwright.sync_api import Page, expect

from tests.browser.conftest import Sight
from tests.browser.test_paths import sign_in
from tests.conftest import MONDAY

TUESDAY, WEDNESDAY = MONDAY + timedelta(days=1), MONDAY + timedelta(days=2)


def now(page: Page, button: str) -> None:
    """Press a button of the meal that is next."""
    page.locator(".mealcard.here").get_by_role("button", name=button, exact=True).click()


def total(page: Page) -> float:
    """What the day comes to, in kcal."""
    return float(page.locator(".daybeams b").first.inner_text().replace(",", ""))


def eaten(page: Page) -> float:
    said = re.search(r"([\d,]+) eaten", page.locator(".daybeams").inner_text())
    assert said is not None
    return float(said[1].replace(",", ""))


def test_three_days_are_lived_on_a_phone(fresh_demo_sight: Sight) -> None:
    sight = fresh_demo_sight
    sight.page.set_viewport_size({"width": 390, "height": 844})
    page = sign_in(sight)
    sight.go("/store")
    page.get_by_role("button", name="Put away as drawn").click()
    expect(page.get_by_text("to put away")).to_have_count(0)
    expect(page.get_by_text("3 in, 11 free")).to_be_visible()

    # Monday: two jobs, breakfast eaten, lunch in part, an undo
    sight.go("/today")
    whole = total(page)
    page.locator(".mealcard.here .jobtick").first.click()
    expect(page.locator(".mealcard.here .jobtick").first).to_have_attribute("aria-pressed", "true")
    now(page, "Eaten")
    expect(page.locator(".mealcard.over")).to_have_count(1)
    assert total(page) == whole
    assert eaten(page) == 569
    now(page, "Half")
    expect(page.get_by_text("eaten in part")).to_be_visible()
    half = total(page)
    assert abs(whole - half - 412) <= 1  # half of 824 kcal
    page.locator(".mealcard.over", has_text="mackerel").get_by_role("button", name="Undo").click()
    expect(page.locator(".mealcard.over")).to_have_count(1)
    assert total(page) == whole
    now(page, "Eaten")
    expect(page.locator(".mealcard.over")).to_have_count(2)
    page.locator(".tonight .jobtick").first.click()
    expect(page.locator(".tonight .jobtick").first).to_have_attribute("aria-pressed", "true")

    # a slip, and a smaller box for it
    page.get_by_label("What, and how much").fill("birthday cake, 450 kcal")
    page.get_by_role("button", name="Note it").click()
    expect(page.locator(".eatenlist")).to_contain_text("450 ± 113 kcal")
    assert total(page) == whole + 450
    expect(page.locator(".slipmoves li").first).to_contain_text("The week’s mean")
    page.get_by_role("button", name="I ate so much").first.click()
    expect(page.locator(".mealcard.over")).to_have_count(3)
    assert whole < total(page) < whole + 450
    expect(page.locator(".daybeams p.ok").last).to_contain_text("enough")  # never below the protein floor

    # Tuesday: swapped with Wednesday, and back
    sight.go(f"/today?day={TUESDAY}")
    tuesday = total(page)
    page.locator(".mealcard.here summary").click()
    other = page.locator(".mealcard.here select[name=other]")
    expect(other.locator("option").first).to_contain_text(re.compile("Maren|Oskar"))
    page.locator(".mealcard.here").get_by_role("button", name="Swap").click()
    expect(page.get_by_text("swapped with").first).to_be_visible()
    page.locator(".mealcard", has_text="swapped with").get_by_role("button", name="Undo").first.click()
    expect(page.get_by_text("swapped with")).to_have_count(0)
    assert total(page) == tuesday

    # still Tuesday, on the boat's far side: no connection, and the phone is even started anew
    page.wait_for_function(
        """async () => navigator.serviceWorker.controller
        && await (await caches.open('good-crate-list')).match(location.pathname + location.search)"""
    )
    page.context.set_offline(True)
    now(page, "Eaten")
    expect(page.locator("#tablewaits")).to_contain_text("1 thing waits")
    page.locator(".tonight .jobtick").first.click()
    expect(page.locator("#tablewaits")).to_contain_text("2 things wait")
    page.reload()
    expect(page.locator(".mealcard.here .waitnote")).to_contain_text("Eaten: sent when there is a connection.")
    expect(page.locator(".tonight .jobtick").first).to_have_attribute("aria-pressed", "true")
    page.context.set_offline(False)
    expect(page.locator(".mealcard.over")).to_have_count(1)
    expect(page.locator("#tablewaits")).to_be_hidden()
    expect(page.locator(".tonight .jobtick").first).to_have_attribute("aria-pressed", "true")
    assert total(page) == tuesday
    sight.complaints[:] = [c for c in sight.complaints if "net::ERR_" not in c and "Failed to fetch" not in c]

    # Wednesday: one left, one thrown away at its own page
    sight.go(f"/today?day={WEDNESDAY}")
    now(page, "Not")
    expect(page.get_by_text("left for another day")).to_be_visible()
    sight.go("/store")
    page.locator(".mapbox", has_text="Wed").first.click()
    page.get_by_label("Why thrown away").fill("dropped it")
    page.get_by_role("button", name="Thrown away").click()
    expect(page.locator(".eatenlist").first).to_contain_text("thrown away, dropped it")
    sight.go("/store")
    expect(page.locator(".mapbox", has_text="Wed")).to_have_count(0)
