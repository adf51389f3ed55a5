"""A first evening: from the first page to a planned week, every click and every field counted."""

import re
from dataclasses import dataclass

from playwright.sync_api import Locator, Page, expect

from goodcrate.settings import CHECKOUT
from tests.browser.conftest import Sight
from tests.browser.test_planning import PLANNED_MS

MOST_CLICKS, MOST_FIELDS = 12, 8


@dataclass
class Hands:
    """Counts what the cook does; nothing here is clicked or typed past it."""

    clicks: int = 0
    fields: int = 0
    keys: int = 0

    def click(self, what: Locator) -> None:
        what.click(timeout=PLANNED_MS)
        self.clicks += 1

    def fill(self, what: Locator, words: str) -> None:
        what.fill(words)
        self.fields += 1
        self.keys += len(words)

    def press(self, page: Page, key: str) -> None:
        page.keyboard.press(key)
        self.keys += 1


def first_evening(empty_sight: Sight, hands: Hands) -> None:
    """From the first page to a planned week."""
    page = empty_sight.page
    empty_sight.go("/")
    hands.fill(page.get_by_label("What is your household called?"), "The Lockside boat")
    hands.fill(page.get_by_label("Your name, to sign in with"), "maren")
    hands.fill(page.get_by_label("A password, at least 10 characters"), "barley-and-beetroot")
    hands.click(page.get_by_role("button", name="Start"))
    hands.click(page.get_by_role("link", name="I have it"))
    hands.fill(page.get_by_label("Name", exact=True), "Maren Tidewell")
    hands.fill(page.get_by_label("Energy, kcal a day"), "2150")
    hands.fill(page.get_by_label("Protein, g a day"), "120")
    hands.click(page.get_by_role("button", name="Save, and choose recipes"))
    hands.click(page.get_by_role("button", name="Take all 40"))
    hands.click(page.get_by_role("button", name="Plan this week"))
    hands.click(page.get_by_role("button", name="Take this week").first)
    expect(page).to_have_url(re.compile(r"/week/2026-11-24\?taken="))


def test_a_new_household_has_a_planned_week_on_its_first_evening(empty_sight: Sight) -> None:
    page, hands = empty_sight.page, Hands()
    first_evening(empty_sight, hands)
    expect(page.locator(".box")).to_have_count(24)  # Tuesday to Sunday, four meals a day
    expect(page.locator(".bench header")).to_contain_text("6 of 6 days in band")

    assert hands.clicks <= MOST_CLICKS
    assert hands.fields <= MOST_FIELDS
    told = (CHECKOUT / "docs" / "first-evening.md").read_text()
    assert f"**{hands.clicks} clicks and {hands.fields} fields**" in told
    assert f"{hands.keys} keys" in told


def test_a_second_eater_gets_an_empty_page_and_what_suits_both_is_taken(empty_sight: Sight) -> None:
    page = empty_sight.page
    empty_sight.go("/")
    page.get_by_label("What is your household called?").fill("The Lockside boat")
    page.get_by_label("Your name, to sign in with").fill("maren")
    page.get_by_label("A password, at least 10 characters").fill("barley-and-beetroot")
    page.get_by_role("button", name="Start").click()
    page.get_by_role("link", name="I have it").click()
    page.get_by_label("Name", exact=True).fill("Maren Tidewell")
    page.get_by_label("Energy, kcal a day").fill("2150")
    page.get_by_label("Protein, g a day").fill("120")
    page.get_by_role("button", name="Save, and add another eater").click()
    expect(page.get_by_role("heading", name="Who else eats?")).to_be_visible()
    expect(page.get_by_label("Name", exact=True)).to_have_value("")
    for label in ("Energy, kcal a day", "Protein, g a day"):
        expect(page.get_by_label(label)).to_have_value("")
    page.get_by_label("Name", exact=True).fill("Oskar Quill")
    page.get_by_label("Energy for a day").select_option("body")
    page.get_by_label("Sex, for the equation").select_option("male")
    for label, figure in (("Years", "41"), ("Height, cm", "182"), ("Weight, kg", "84")):
        page.get_by_label(label).fill(figure)
    page.get_by_label("Protein, g a day").fill("120")
    expect(page.locator("#targettape")).to_contain_text("Mifflin")
    page.get_by_text("Allergies, diet, dislikes").click()
    page.get_by_label("celery").check()
    page.get_by_label("pork", exact=True).check()
    page.get_by_role("button", name="Save, and choose recipes").click()
    expect(page.get_by_role("heading", name="Not for everybody here")).to_be_visible()
    expect(page.locator(".plainlist")).to_contain_text("Split pea and dill soup holds celery")
    page.get_by_role("button", name="Take Turkey thigh and caraway cabbage pot").click()
    expect(page.locator(".shelfcard.taken")).to_have_count(1)
    expect(page.get_by_role("button", name="Plan this week")).to_be_visible()
    page.get_by_role("button", name=re.compile(r"Take all \d+")).click()
    expect(page.get_by_role("button", name=re.compile("Take all"))).to_have_count(0)
