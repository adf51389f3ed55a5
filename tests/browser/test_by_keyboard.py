"""A whole day of the job by keyboard alone, the line cut once, and how often the focus has to be moved for it."""

import re
from collections.abc import Iterator
from dataclasses import dataclass

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.browser.conftest import Sight, cut_the_line
from tests.browser.test_paths import sign_in

ONCE = {
    "gap": 70,
    "its recipes": 20,
    "new recipe": 16,
    "component": 9,
    "finder": 5,
    "saved": 48,
    "pot": 16,
    "divide": 15,
}
"""Tab keys that the same day took before grids were one stop, counted by the same walk."""


@dataclass
class Hands:
    """Fingers on the keys: no pointer, every move of the focus counted."""

    page: Page
    moves: int = 0

    def press(self, key: str) -> None:
        self.page.keyboard.press(key)

    def move(self, key: str) -> None:
        self.press(key)
        self.moves += 1

    def walk_to(self, target: Locator, key: str = "Tab", most: int = 20) -> None:
        """Move on until it has the focus."""
        expect(target).to_be_visible()
        there, left = "element => element === document.activeElement", most
        while not target.evaluate(there):
            assert left, f"{target} is more than {most} moves of {key} away"
            self.move(key)
            left -= 1

    def to_the_page(self) -> None:
        """Past the route, by the link for it."""
        self.walk_to(self.page.get_by_role("link", name="Skip to the page"), most=1)
        self.press("Enter")

    def type(self, text: str) -> None:
        self.press("Control+a")
        self.page.keyboard.type(text)


@pytest.fixture
def hands(fresh_demo_sight: Sight) -> Iterator[Hands]:
    page = sign_in(fresh_demo_sight)
    page.reload()
    expect(page.locator("html")).to_have_attribute("data-keys", "ready")
    yield Hands(page)
    away = ("DISCONNECTED", "Failed to fetch")
    fresh_demo_sight.complaints[:] = [c for c in fresh_demo_sight.complaints if not any(word in c for word in away)]


def fill_a_gap(hands: Hands) -> None:
    page = hands.page
    expect(page.locator("#fit")).to_contain_text("days in their bands")
    hands.to_the_page()
    hands.walk_to(page.locator(".dayrow.today .slot > a").first)
    gap = page.locator(".gap").first
    for _ in range(5):
        hands.move("ArrowDown")
    hands.walk_to(gap, "ArrowRight", most=4)
    hands.press("Enter")
    expect(page.locator("#tape")).to_contain_text("Place")
    expect(gap).to_be_focused()
    hands.walk_to(page.locator("#tape [name=recipe]").first, most=6)
    hands.press("Space")
    hands.press("Enter")
    expect(page).to_have_url(re.compile(r"\?box="))
    expect(page.locator(".box:focus, #tape :focus")).to_have_count(1)


def write_a_recipe(hands: Hands) -> None:
    page = hands.page
    hands.press("3")
    expect(page.locator(".library")).to_be_visible()
    hands.walk_to(page.get_by_role("link", name="New recipe"), most=6)
    hands.press("Enter")
    name = page.get_by_label("Name of the recipe")
    expect(name).to_be_focused()
    hands.type("Barley for two")
    hands.walk_to(page.locator("[name^=component-][name$=-name]"), most=12)
    hands.type("barley")
    finder = page.get_by_label("Find an ingredient for this component")
    hands.walk_to(finder, most=6)
    hands.type("barley")
    expect(page.locator(".found button").first).to_be_visible()
    hands.press("Enter")
    amount = page.get_by_label(re.compile("^Amount of "))
    expect(amount).to_be_focused()
    hands.type("160")
    hands.press("Control+s")
    expect(page).to_have_url(re.compile(r"/recipes/[0-9a-f-]{36}$"))
    expect(name).to_have_value("Barley for two")


def open_the_quark(hands: Hands, stage: str, *arrows: str) -> None:
    """From where the grid of pots is entered."""
    page = hands.page
    hands.press("Escape")
    hands.press(stage)
    expect(page.locator(".pots").first).to_be_visible()
    hands.walk_to(page.locator(".pots").first.locator('.pot[tabindex="0"]'), most=4)
    for arrow in arrows:
        hands.move(arrow)
    expect(page.locator(".pot", has_text="rhubarb quark").first).to_be_focused()
    hands.press("Enter")
    expect(page.get_by_role("heading", name="Rhubarb quark")).to_be_visible()


def weigh_a_batch(hands: Hands) -> None:
    """The line is away while the second weight is sent."""
    page = hands.page
    open_the_quark(hands, "6", "ArrowRight")
    start = page.get_by_role("button", name="Start weighing")
    hands.walk_to(start, most=3)
    hands.press("Enter")
    expect(start).to_be_hidden()
    fields = page.locator(".weighlist [name=net]")
    expect(fields).to_have_count(3)
    planned = [str(field.get_attribute("placeholder")) for field in fields.all()]
    for n, grams in enumerate(planned):
        row = page.locator(".weighlist li").nth(n)
        hands.walk_to(row.get_by_label("Grams of"), most=3)
        hands.type(grams)
        if n == 1:
            cut_the_line(page)
        hands.press("Enter")
        if n == 1:
            expect(page.locator("#lost")).to_contain_text("Not connected")
            expect(row.get_by_label("Grams of")).to_have_value(grams)
            page.context.set_offline(False)
        expect(page.locator(".weighlist li.done")).to_have_count(n + 1)


def divide_its_pot(hands: Hands) -> None:
    page = hands.page
    open_the_quark(hands, "7", "ArrowRight", "ArrowUp")
    hands.walk_to(page.get_by_label("Pot with food, g"), most=2)
    hands.type("1095")
    hands.walk_to(page.get_by_label("Empty pot, g"), most=1)
    hands.type("0")
    hands.press("Enter")
    for packed in range(3):
        hands.walk_to(page.get_by_label("What is in the box, g"), most=3)
        hands.press("Enter")
        expect(page.locator(".tallbox .in.ok")).to_have_count(packed + 1)
    expect(page.locator(".now")).to_contain_text("All packed")


def test_a_day_of_the_job_by_keyboard_with_the_line_cut_once(hands: Hands) -> None:
    fill_a_gap(hands)
    write_a_recipe(hands)
    weigh_a_batch(hands)
    divide_its_pot(hands)
    assert hands.moves <= sum(ONCE.values()) / 3, hands.moves
