"""Three awkward labels, a loose vegetable and a scanned cheese become a mixed salad by the gram (docs/labels.md)."""

import re
import threading
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from goodcrate.db.migrate import upgrade
from goodcrate.db.server import EmbeddedServer, running
from goodcrate.db.session import Database
from goodcrate.devices.catalogue import HttpCatalogue
from goodcrate.devices.catalogue_service import CatalogueService
from goodcrate.services.accounts import add_household
from tests.browser.conftest import Sight, looking, served

CHEESE = "2319425008132"
NUTS = {
    "pieces": "12",
    "basis_g": "15",
    "energy_kcal": "94",
    "fat_g": "8",
    "carbohydrate_g": "1",
    "fibre_g": "2",
    "protein_g": "3",
    "salt_g": "0.12",
}
CROUTONS = {
    "energy_kcal": "1690",
    "fat_g": "12",
    "carbohydrate_g": "58",
    "sugars_g": "3",
    "fibre_g": "5.5",
    "protein_g": "11.2",
    "salt_g": "1.3",
}
SEEDS = {
    "basis_g": "28",
    "energy_kcal": "160",
    "fat_g": "13",
    "carbohydrate_g": "5",
    "fibre_g": "3",
    "protein_g": "7",
    "sodium_mg": "3",
}


@pytest.fixture
def catalogue() -> Iterator[CatalogueService]:
    service = CatalogueService()
    thread = threading.Thread(target=service.serve_forever, kwargs={"poll_interval": 0.02}, daemon=True)
    thread.start()
    yield service
    service.shutdown()
    service.server_close()
    thread.join(5)


@pytest.fixture
def galley(chromium: Browser, tmp_path: Path, catalogue: CatalogueService) -> Iterator[Sight]:
    """An empty kitchen with its account, and the stand-in catalogue beside it."""
    with running(EmbeddedServer(tmp_path / "mariadb", durable=False)) as server:
        upgrade(server.url)
        database = Database(server.url)
        add_household(database, "The Lockside boat", "maren", "barley-and-beetroot")
        with served(database, HttpCatalogue(catalogue.address)) as base, looking(chromium, base) as sight:
            sight.go("/sign-in")
            sight.page.get_by_label("Name").fill("maren")
            sight.page.get_by_label("Password").fill("barley-and-beetroot")
            sight.page.get_by_role("button", name="Sign in").click()
            sight.page.wait_for_url("**/week/*", wait_until="load")
            yield sight
        database.close()


def type_label(page: Page, name: str, basis: str, kind: str, figures: dict[str, str]) -> None:
    """Fill a label in the order it is printed."""
    page.get_by_label("Name of the food").fill(name)
    page.locator(".basis label", has_text=basis).click()
    for field, figure in figures.items():
        page.locator(f'#label [name="{field}"]').fill(figure)
    page.get_by_label("Kind").select_option(label=kind)
    page.get_by_label("Made of").select_option(label="plants only")


def stage(page: Page, name: str) -> None:
    """Along the route."""
    page.locator(".route").get_by_role("link", name=name).click()
    expect(page.get_by_role("heading", name=name, exact=True)).to_be_visible()


def save(page: Page) -> None:
    page.get_by_role("button", name="Save the food").click()
    expect(page.get_by_role("heading", name="Where the figures are from")).to_be_visible()


def scan(page: Page, code: str) -> None:
    """What a keyboard-type scanner does: digits faster than anybody types, then Enter, on a busy machine too."""
    page.evaluate(
        """code => {
          for (const key of [...code, "Enter"])
            document.activeElement.dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true, cancelable: true }))
        }""",
        code,
    )


def add(page: Page, words: str, name: str) -> None:
    """An amount and a name into the recipe's finder; the first that is found is taken."""
    finder = page.locator("[data-finder]").last
    finder.fill(words)
    expect(page.locator(".found button").first).to_contain_text(name)
    finder.press("Enter")
    expect(page.locator(".line", has_text=name)).to_be_visible()


def test_a_mixed_salad_from_labels_a_vegetable_and_a_scan(galley: Sight, catalogue: CatalogueService) -> None:
    page = galley.page
    page.keyboard.press("2")
    expect(page.get_by_role("heading", name="Foods")).to_be_visible()

    # “About 12 pieces (15 g)”: the grams count, whole grams leave doubt.
    page.get_by_role("link", name="Type a label").click()
    type_label(page, "Smoked nuts", "pieces", "nuts and seeds", NUTS)
    expect(page.locator("#per100-energy_kcal")).to_contain_text("627")
    expect(page.locator("#per100-protein_g")).to_contain_text("20.0 g ± 1.9")
    expect(page.locator("#label-tape")).to_contain_text("94 × 100 ÷ 15")
    expect(page.locator("#queries")).to_contain_text("It adds up")
    save(page)

    # Kilojoules typed at kcal: queried with the likeliest cause, mended with one key.
    stage(page, "Foods")
    page.get_by_role("link", name="Type a label").click()
    type_label(page, "Rye croutons", "100 g", "grain, bread", CROUTONS)
    expect(page.locator("#queries")).to_contain_text("1690 are kJ, typed as kcal")
    page.keyboard.press("F2")
    expect(page.locator('[name="energy_kj"]')).to_have_value("1690")
    expect(page.locator("#queries")).to_contain_text("It adds up")
    expect(page.locator("#per100-energy_kj")).to_contain_text("404")
    save(page)

    # Fibre inside carbohydrate and sodium; an impossible figure is refused and nothing typed is lost.
    stage(page, "Foods")
    page.get_by_role("link", name="Type a label").click()
    type_label(page, "Seed mix", "serving", "nuts and seeds", SEEDS | {"sugars_g": "9"})
    page.get_by_label("inside carbohydrate").check()
    page.get_by_role("button", name="Save the food").click()
    expect(page.locator("#said-sugars_g")).to_contain_text("more than the 17.9 g of carbohydrate")
    expect(page.locator('#label [name="protein_g"]')).to_have_value("7")
    page.locator('#label [name="sugars_g"]').fill("1")
    expect(page.locator("#said-sugars_g")).to_be_empty()
    save(page)

    # The scanner: the catalogue fails once, then answers; the scanned label is looked over and saved.
    catalogue.mode = "refuses"
    scan(page, CHEESE)
    expect(page.get_by_text("refuses to answer")).to_be_visible()
    catalogue.mode = "answers"
    stage(page, "Foods")
    expect(page.get_by_role("heading", name="Foods")).to_be_visible()
    scan(page, CHEESE)
    expect(page.get_by_label("Name of the food")).to_have_value("Brined salad cheese")
    expect(page.get_by_label("Barcode")).to_have_value(CHEESE)
    save(page)
    scan(page, CHEESE)
    expect(page.get_by_role("heading", name="Brined salad cheese")).to_be_visible()

    # What this much is, straight from the finder; one slip in the name is forgiven.
    stage(page, "Foods")
    page.get_by_placeholder("37 g hazelnuts").fill("20 g smokde nuts")
    expect(page.locator(".muchis")).to_contain_text("125")
    expect(page.locator("#find-tape")).to_contain_text("20 × 6.267")
    assert "q=20+g+smokde+nuts" in page.url

    # The salad, by the gram; its figures are those of the hand calculation.
    stage(page, "Recipes")
    page.get_by_role("link", name="Weigh one of your own").click()
    page.get_by_label("Name of the recipe").fill("Mixed salad")
    page.get_by_label("Makes, servings").fill("2")
    for words, name in (
        ("180 g cucumber raw", "Cucumber"),
        ("20 g smoked nuts", "Smoked nuts"),
        ("25 g rye croutons", "Rye croutons"),
        ("15 g seed mix", "Seed mix"),
        ("60 g brined salad", "Brined salad cheese"),
    ):
        add(page, words, name)
    expect(page.locator("#live .num").first).to_have_text("249")
    expect(page.locator("#live")).to_contain_text("kcal ± 3")
    expect(page.locator("#live .num").nth(1)).to_have_text("10.7")
    page.get_by_role("button", name="Save the recipe").click()
    expect(page).to_have_url(re.compile(r"/recipes/[0-9a-f-]{36}$"))
    expect(page.locator("#live .num").first).to_have_text("249")
    expect(page.locator("#tape")).to_contain_text("Brined salad cheese")


def test_a_spoon_is_asked_for_its_density_once_and_weighed_with_one_click(demo_sight: Sight) -> None:
    from tests.browser.test_paths import sign_in

    page = sign_in(demo_sight)
    demo_sight.go("/recipes/new")
    page.get_by_label("Name of the recipe").fill("Tempeh crumbs")
    add(page, "10 tbsp tempeh", "Tempeh, plain")
    page.get_by_label("Makes, servings").fill("1")
    fact = page.get_by_label("How heavy is tempeh, plain? Weigh 100 ml of it.")
    fact.fill("55")
    expect(page.locator(".line .working")).to_contain_text("10 tablespoons × 15 ml × 0.55 g per ml = 82.5 g")
    page.get_by_role("button", name="Save the recipe").click()
    expect(page).to_have_url(re.compile(r"/recipes/[0-9a-f-]{36}$"))
    demo_sight.go("/foods?q=1 tbsp tempeh")
    expect(page.locator(".muchis")).to_contain_text("0.55 g per ml")
    page.go_back()
    page.get_by_role("button", name="Weigh it now").click()
    amount = page.locator(".line input[name$='-amount']")
    expect(amount).to_be_focused()
    amount.fill("17")
    expect(page.locator("#tape")).not_to_contain_text("Weigh it now")
