"""Three days of the demo week on a phone: put away, weighed, eaten, a slip, swapped, soaked, thawed, thrown away.

The figures are those of the worked example in docs/store.md, done by hand from what the labels of the boxes say.
"""

import re
from collections import Counter
from datetime import timedelta

from playwright.sync_api import Locator, Page, expect
from sqlalchemy import select

from goodcrate.db.at_table import DoneRow, OffPlanRow
from goodcrate.db.store import BoxEventRow
from tests.browser.conftest import Sight, cut_the_line
from tests.browser.test_paths import sign_in
from tests.conftest import MONDAY

TUESDAY, SATURDAY = MONDAY + timedelta(days=1), MONDAY + timedelta(days=5)
BY_HAND = {MONDAY: 2677, TUESDAY: 2082, SATURDAY: 1137}
"""What docs/store.md comes to, in kcal."""


def now(page: Page, button: str) -> None:
    """Press a button of the meal that is next."""
    page.locator(".mealcard.here").get_by_role("button", name=button, exact=True).click()


def card(page: Page, dish: str) -> Locator:
    """The card of a meal by its dish."""
    return page.locator(".mealcard", has=page.locator("h2", has_text=dish))


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
    first = page.locator(".mapbox.ghost code").first.inner_text()
    page.get_by_label("Scan a box, or type its code").fill(first)
    page.get_by_role("button", name="Put it there").click()
    expect(page.get_by_text("1 in, 2 to come")).to_be_visible()
    page.get_by_role("button", name="Put away as drawn").click()
    expect(page.get_by_text("to put away")).to_have_count(0)
    expect(page.get_by_text("3 in, 11 free")).to_be_visible()
    _monday(sight, page)
    _tuesday(sight, page)
    _saturday(sight, page)
    for day, kcal in BY_HAND.items():
        sight.go(f"/today?day={day}")
        assert abs(total(page) - kcal) <= 1, day
    _each_event_once(sight)


def _monday(sight: Sight, page: Page) -> None:
    """Two jobs, seeds weighed, breakfast eaten, lunch in part and undone, a slip and a smaller box for it."""
    sight.go("/today")
    whole = total(page)
    assert whole == 2414
    page.locator(".mealcard.here .jobtick").first.click()
    expect(page.locator(".mealcard.here .jobtick").first).to_have_attribute("aria-pressed", "true")
    page.locator(".mealcard.here .weigh summary").click()
    page.get_by_label("Sunflower seeds, g").fill("20")
    page.get_by_role("button", name="Weighed").first.click()
    expect(page.locator(".mealcard.here .jobtick").last).to_have_attribute("aria-pressed", "true")
    weighed = total(page)
    now(page, "Eaten")
    expect(page.locator(".mealcard.over")).to_have_count(1)
    assert total(page) == weighed
    now(page, "Half")
    expect(page.get_by_text("eaten in part")).to_be_visible()
    assert abs(weighed - total(page) - 411) <= 1  # half of 823 kcal
    card(page, "mackerel").get_by_role("button", name="Undo").click()
    expect(page.locator(".mealcard.over")).to_have_count(1)
    assert total(page) == weighed
    now(page, "Eaten")
    expect(page.locator(".mealcard.over")).to_have_count(2)
    page.locator(".tonight .jobtick").first.click()
    expect(page.locator(".tonight .jobtick").first).to_have_attribute("aria-pressed", "true")
    page.get_by_label("What, and how much").fill("birthday cake, 450 kcal")
    page.get_by_role("button", name="Note it").click()
    expect(page.locator(".eatenlist")).to_contain_text("450 ± 113 kcal")
    assert total(page) == weighed + 450
    expect(page.locator(".slipmoves li").first).to_contain_text("The week’s mean")
    page.get_by_role("button", name="I ate so much").first.click()
    expect(page.locator(".mealcard.over")).to_have_count(3)
    assert whole < total(page) < weighed + 450
    expect(page.locator(".daybeams p.ok").last).to_contain_text("enough")  # never below the protein floor


def _tuesday(sight: Sight, page: Page) -> None:
    """Swapped with another day, and back; then on the boat's far side: no connection, and the phone started anew."""
    sight.go(f"/today?day={TUESDAY}")
    tuesday = total(page)
    page.locator(".mealcard.here .other > summary").click()
    other = page.locator(".mealcard.here select[name=other]")
    expect(other.locator("option").first).to_contain_text(re.compile("Maren|Oskar"))
    page.locator(".mealcard.here").get_by_role("button", name="Swap").click()
    expect(page.get_by_text("swapped with").first).to_be_visible()
    page.locator(".mealcard", has_text="swapped with").get_by_role("button", name="Undo").first.click()
    expect(page.get_by_text("swapped with")).to_have_count(0)
    assert total(page) == tuesday
    page.wait_for_function(
        """async () => navigator.serviceWorker.controller
        && await (await caches.open('good-crate-list')).match(location.pathname + location.search)"""
    )
    cut_the_line(page)
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
    card(page, "Rhubarb").get_by_role("button", name="Not", exact=True).click()
    expect(page.get_by_text("left for another day")).to_be_visible()


def _saturday(sight: Sight, page: Page) -> None:
    """A box thaws for Sunday; dinner is dropped, and said so."""
    sight.go(f"/today?day={SATURDAY}")
    thaws = page.locator(".tonight .job", has_text="freezer to fridge").locator(".jobtick")
    thaws.click()
    expect(thaws).to_have_attribute("aria-pressed", "true")
    dinner = card(page, "Chicken thigh")
    dinner.locator(".other > summary").click()
    dinner.get_by_label("Why thrown away").select_option("spilt")
    dinner.get_by_role("button", name="Thrown away").click()
    expect(dinner).to_contain_text("thrown away")


def _each_event_once(sight: Sight) -> None:
    """What was pressed stands in the logs once each, in its order, whatever was sent again."""
    assert sight.caller is not None
    with sight.caller.transaction() as session:
        events = session.scalars(select(BoxEventRow.kind).where(BoxEventRow.kind != "packed")).all()
        besides = session.scalars(select(OffPlanRow.said)).all()
        jobs = session.execute(select(DoneRow.subject, DoneRow.grams).order_by(DoneRow.seq)).all()
    # a swap moves two boxes and a box that is left goes to nobody; undoing one undoes that it was packed by it as well
    assert Counter(events) == {"moved": 3, "eaten": 3, "part_eaten": 2, "swapped": 3, "thrown_away": 1, "undone": 6}
    assert besides == ["birthday cake, 450 kcal"]
    assert [subject.partition(":")[0] for subject, _ in jobs] == ["now", "weighed", "now", "night", "night", "thaw"]
    assert [grams for _, grams in jobs if grams is not None] == [20]
