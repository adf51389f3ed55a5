"""What once lost work: lines pasted beside others, a save that met another, drafts that came back, stale faults."""

import re

from playwright.sync_api import Page, Route, expect

from tests.browser.conftest import Sight
from tests.browser.test_paths import sign_in


def test_lines_are_pasted_into_the_first_of_two_components(demo_sight: Sight) -> None:
    page = sign_in(demo_sight)
    demo_sight.go("/recipes/new")
    page.get_by_label("Name of the recipe").fill("Two parts")
    page.get_by_role("button", name="Add a component").click()
    expect(page.locator(".component")).to_have_count(2)
    for n, (name, line, food) in enumerate((("grain", "250 g millet, dry", "Millet"), ("veg", "300 g okra", "Okra"))):
        part = page.locator(".component").nth(n)
        part.locator("input[name$='-name']").fill(name)
        part.locator(".paste summary").click()
        part.locator(".paste textarea").fill(line)
        part.get_by_role("button", name="Read these lines").click()
        expect(part.locator(".line")).to_contain_text(food)
    expect(page.locator(".component").first.locator(".line")).to_have_count(1)


def test_pasted_lines_that_come_late_are_counted_and_refused_ones_stay(demo_sight: Sight) -> None:
    """Figures that were under way before the lines came do not pass for their arrival."""
    page = sign_in(demo_sight)
    demo_sight.go("/recipes/new")
    held: list[Route] = []

    def hold(route: Route) -> None:
        held.append(route)

    page.route("**/recipes/paste", hold)
    page.locator(".paste summary").first.click()
    area = page.locator(".component .paste textarea")
    with page.expect_response("**/compute"):
        area.fill("300 g okra")
        with page.expect_request("**/recipes/paste"):
            area.press("Control+Enter")
    with page.expect_response("**/compute"):  # figures of what was typed meanwhile come in before the lines
        page.get_by_label("Name of the recipe").fill("Okra")
    expect(area).to_have_value("300 g okra")
    held.pop().continue_()
    expect(page.locator(".line")).to_contain_text("Okra")
    expect(area).to_have_value("")
    expect(page.locator("#live .num").first).not_to_have_text("–")

    page.locator(".paste summary").first.click()
    area.fill("10 g okra\n" * 400)
    page.unroute("**/recipes/paste")
    area.press("Control+Enter")
    expect(page.locator(".component .notice")).to_contain_text("400 lines are more than a recipe holds")
    expect(area).to_have_value("10 g okra\n" * 400)


def test_save_is_pressed_while_the_page_saves_itself(demo_sight: Sight) -> None:
    """The save by itself is held back at the door until the button was pressed: the button's save stays."""
    page = sign_in(demo_sight)
    demo_sight.go("/recipes?q=split pea")
    page.get_by_role("link", name="Split pea and dill soup").click()
    name = page.get_by_label("Name of the recipe")
    for n in range(2):
        with page.expect_request("**/autosave"):
            name.fill(f"Split pea and dill soup {n}")
        name.fill(f"Split pea and dill soup, second {n}")
        save(page)
        expect(name).to_have_value(f"Split pea and dill soup, second {n}")
        expect(page.locator("main")).not_to_contain_text("changed elsewhere")
        page.reload()
        expect(name).to_have_value(f"Split pea and dill soup, second {n}")
    name.fill("Split pea and dill soup")
    save(page)


def save(page: Page) -> None:
    """Press Save and wait until it is answered."""
    address = re.compile(r"/recipes/[0-9a-f-]{36}$")
    with page.expect_response(lambda r: r.request.method == "POST" and bool(address.search(r.url))) as answer:
        page.get_by_role("button", name="Save the recipe").click()
    assert answer.value.status == 303


def test_a_label_draft_keeps_its_choices_and_is_gone_once_saved(demo_sight: Sight) -> None:
    page = sign_in(demo_sight)
    demo_sight.go("/foods/new")
    page.get_by_label("Name of the food").fill("Lock shop oatmeal")
    page.locator(".basis label", has_text="serving").click()
    page.locator('#label [name="basis_g"]').fill("40")
    page.locator('#label [name="energy_kcal"]').fill("150")
    page.get_by_label("inside carbohydrate").check()
    page.reload()
    page.get_by_role("button", name="Put it back").click()
    expect(page.get_by_label("Name of the food")).to_have_value("Lock shop oatmeal")
    expect(page.get_by_label("inside carbohydrate")).to_be_checked()
    assert page.locator('[name="basis"]:checked').get_attribute("value") == "serving"
    expect(page.locator("#per100-energy_kcal")).to_contain_text("375")

    # Refused once: the fault goes when its field is mended, and the label is saved.
    page.get_by_role("button", name="Save the food").click()
    expect(page.locator("#fault-diet")).to_contain_text("What is it made of?")
    page.get_by_label("Made of").select_option(label="plants only")
    expect(page.locator("#fault-diet")).to_have_count(0)
    page.get_by_label("Kind").select_option(label="grain, bread")
    expect(page.locator(".fault")).to_have_count(0)
    page.get_by_role("button", name="Save the food").click()
    expect(page.get_by_role("heading", name="Where the figures are from")).to_be_visible()
    demo_sight.go("/foods/new")
    expect(page.locator("[data-draft-bar]")).to_be_hidden()
    expect(page.get_by_label("Name of the food")).to_have_value("")


def test_the_other_session_is_one_tap_away(fresh_demo_sight: Sight) -> None:
    page = sign_in(fresh_demo_sight)
    fresh_demo_sight.go("/week/2026-11-30")
    page.get_by_role("button").filter(has_text="Start the week").click()
    expect(page.locator(".dayrow")).to_have_count(7)
    fresh_demo_sight.go("/cook")
    expect(page).to_have_url(re.compile("/cook/2026-11-23$"))
    page.get_by_role("link", name="29 November, 14:00 →").click()
    expect(page).to_have_url(re.compile("/cook/2026-11-30$"))
    page.get_by_role("link", name=re.compile("← .*November")).click()
    expect(page).to_have_url(re.compile("/cook/2026-11-23$"))
