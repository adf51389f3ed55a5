"""Several people and the whole of their data: somebody is invited and eats on a phone; all of it moves elsewhere."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import Browser, expect

from goodcrate.db.server import EmbeddedServer
from goodcrate.db.session import Database
from goodcrate.services.archive.weeks_csv import first_days, meals_of_week
from goodcrate.services.at_table.today import today_of
from goodcrate.services.calling import Caller
from goodcrate.services.people import households, people_of
from tests.browser.conftest import Sight, empty_served, looking
from tests.browser.test_paths import sign_in
from tests.conftest import MONDAY

PASSWORD = "barley-and-beetroot"


def figures_of(caller: Caller) -> list[object]:
    """Every meal of every week, with all its nutrients and how sure they are; and what became of each."""
    there: list[object] = [meals_of_week(caller, day) for day in first_days(caller)]
    today = today_of(caller, MONDAY)
    assert today is not None
    return [*there, {key: plate.fate for key, plate in today.table.plates.items()}]


def test_a_second_person_eats_on_a_phone_and_all_of_it_moves_elsewhere(
    fresh_demo_sight: Sight, chromium: Browser, tmp_path: Path
) -> None:
    page, caller = sign_in(fresh_demo_sight), fresh_demo_sight.caller
    assert caller is not None
    fresh_demo_sight.go("/settings")
    page.get_by_role("link", name="People").click()
    page.get_by_role("radio", name=re.compile("^eater")).check()
    page.get_by_label("Whose day is theirs").select_option("Maren Tidewell")
    page.get_by_role("button", name="Make a link").click()
    link = page.locator("code.secret").inner_text()

    phone = chromium.new_context(viewport={"width": 390, "height": 844}, is_mobile=True, has_touch=True)
    hand = phone.new_page()
    hand.goto(link)
    hand.get_by_label("Your name, to sign in with").fill("maren")
    hand.get_by_label("A password, at least 10 characters").fill(PASSWORD)
    hand.get_by_role("button", name="Come in").tap()
    expect(hand.get_by_role("heading", name="Keep this code")).to_be_visible()
    hand.get_by_role("link", name="I have it").tap()
    now = hand.locator(".mealcard.here")
    dish = now.locator("h2").inner_text()
    now.get_by_role("button", name="Eaten").tap()
    expect(hand.locator(".mealcard.over h2").first).to_have_text(dish)
    expect(hand.locator("nav.route")).not_to_contain_text("Targets")
    hand.goto(link)
    expect(hand.get_by_role("heading", name="This invitation leads nowhere")).to_be_visible()
    phone.close()

    page.goto(f"{fresh_demo_sight.base}/today")
    expect(page.locator(".mealcard.over h2").first).to_have_text(dish)
    page.goto(f"{fresh_demo_sight.base}/archive")
    page.get_by_role("button", name="Make the archive").click()
    with page.expect_download() as fetched:
        page.get_by_role("link", name="Save the archive").click()
    archive = tmp_path / "boat.zip"
    fetched.value.save_as(archive)
    assert [p.role for p in people_of(caller)] == ["owner", "eater"]
    there = figures_of(caller)
    _restored_elsewhere(chromium, archive, tmp_path, there)


def _restored_elsewhere(chromium: Browser, archive: Path, tmp_path: Path, there: list[object]) -> None:
    with empty_served(tmp_path / "elsewhere") as base, looking(chromium, base) as sight:
        page = sight.page
        sight.go("/")
        page.get_by_label("What is your household called?").fill("Another mooring")
        page.get_by_label("Your name, to sign in with").fill("oskar")
        page.get_by_label("A password, at least 10 characters").fill(PASSWORD)
        page.get_by_role("button", name="Start").click()
        page.get_by_role("link", name="I have it").click()
        sight.go("/archive")
        page.get_by_label("An archive").set_input_files(archive)
        page.get_by_role("button", name="See what would come").click()
        expect(page.locator("#work")).to_contain_text("Maren Tidewell, Oskar Quill")
        page.get_by_role("button", name="Take it in").click()
        expect(page.locator("#work")).to_contain_text("Taken in.")
        page.get_by_role("link", name="To the week").click()
        expect(page.locator("nav.route")).to_contain_text("The Lockside boat")
        expect(page.locator(".box").first).to_be_visible()
        database = Database(EmbeddedServer(tmp_path / "elsewhere").url)
        try:
            (restored,) = households(database)
            assert figures_of(restored) == there
        finally:
            database.close()


@pytest.mark.parametrize("width", [1280, 390])
def test_a_broken_archive_is_refused_at_its_field(demo_sight: Sight, tmp_path: Path, width: int) -> None:
    page, broken = sign_in(demo_sight), tmp_path / "broken.zip"
    broken.write_bytes(b"PK this is none")
    page.set_viewport_size({"width": width, "height": 844})
    demo_sight.go("/archive")
    page.get_by_role("button", name="See what would come").click()
    expect(page.locator(".fault")).to_contain_text("No file was chosen")
    page.get_by_label("An archive").set_input_files(broken)
    page.get_by_role("button", name="See what would come").click()
    expect(page.locator("#work")).to_contain_text("This is no zip file, or not all of it.")
    page.locator("#work").get_by_role("link", name="Your data").click()
    expect(page.get_by_role("button", name="Make the archive")).to_be_visible()
