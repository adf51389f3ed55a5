"""The whole thin path as a person walks it: in the demo, and from nothing."""

import re

from playwright.sync_api import Page, Route, expect

from goodcrate.demo.week import SIGN_IN_NAME, SIGN_IN_PASSWORD
from tests.browser.conftest import Sight


def sign_in(sight: Sight) -> Page:
    sight.go("/")
    page = sight.page
    page.get_by_label("Name").fill(SIGN_IN_NAME)
    page.get_by_label("Password").fill(SIGN_IN_PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("heading", name="Week 48")).to_be_visible()
    expect(page.locator("html")).to_have_attribute("data-keys", "ready")
    return page


def add_ingredient(page: Page, words: str, name: str, grams: str) -> None:
    """Find a food by keyboard, take the first that is found, type its grams."""
    finder = page.get_by_placeholder("Add an ingredient").last
    finder.fill(words)
    expect(page.locator(".found button").first).to_contain_text(name)
    finder.press("Enter")
    amount = page.locator(".line", has_text=name).locator("input[name$='-amount']")
    expect(amount).to_be_focused()
    amount.fill(grams)


def test_the_demo_from_target_to_box(demo_sight: Sight) -> None:
    page = sign_in(demo_sight)

    # Targets: Maren's rest day goes from 150 to 145 g of protein.
    page.keyboard.press("1")
    expect(page.get_by_role("heading", name="Targets")).to_be_visible()
    page.locator(".eater", has_text="Maren").get_by_role("link", name="Change").click()
    page.locator(".daytype").nth(1).get_by_label("g a day").fill("145 g")
    page.get_by_role("button", name="Save the eater").click()
    expect(page.locator(".eater", has_text="Maren")).to_contain_text("at least 145 g")

    # Recipes: a new one by weighed ingredients, figures live while grams are typed.
    page.keyboard.press("3")
    page.get_by_role("link", name="New recipe").click()
    page.get_by_label("Name of the recipe").fill("Barley with quark")
    add_ingredient(page, "barley dry", "Pearl barley, dry", "200")
    expect(page.locator("#live")).to_contain_text("173 kcal")  # 200 g × 3.45 ÷ 4
    add_ingredient(page, "quark", "Quark", "0,4 kg")
    page.get_by_label("Makes, servings").fill("2")
    expect(page.locator("#live .num").first).to_have_text(re.compile(r"^4\d\d$"))
    expect(page.locator("#tape")).to_contain_text("Pearl barley, dry")
    typed = page.locator("#live .num").first.inner_text()
    page.get_by_role("button", name="Save the recipe").click()
    expect(page).to_have_url(re.compile(r"/recipes/[0-9a-f-]{36}$"))
    expect(page.locator("#live .num").first).to_have_text(typed)

    # Week: into Saturday's empty snack, and on Sunday evening.
    page.keyboard.press("4")
    page.get_by_role("link", name="Place a meal: Maren Tidewell, Sat 16:00 snack").click()
    expect(page.locator("#tape")).to_contain_text("The day still lacks")
    page.get_by_label("Barley with quark").check()
    page.get_by_label("Servings in the box").fill("0,7")
    page.get_by_role("button", name="Place it").click()
    expect(page).to_have_url(re.compile(r"\?box="))
    expect(page.locator("#tape")).to_contain_text("Barley with quark")
    saturday = page.get_by_role("link", name="Maren Sat, the day’s working")
    expect(saturday).to_contain_text("in band")

    # Cook: the swede for the mash was heavier than planned.
    page.keyboard.press("6")
    page.locator(".pot", has_text="swede mash").click()
    swede = page.locator("li", has_text="Swede")
    swede.get_by_label("Grams of").fill("560 g")
    swede.get_by_role("button", name="Weighed").click()
    expect(page.locator("li.done", has_text="Swede")).to_contain_text("560")
    expect(page.locator("#tape")).to_contain_text("against the plan")

    # Portion: the pot is weighed already; one box takes more, the others follow.
    page.get_by_role("link", name="On to the pot").click()
    first, second = page.locator(".tallbox .in").nth(0), page.locator(".tallbox .in").nth(1)
    before = second.inner_text()
    page.get_by_label("What is in the box, g").fill("270")
    page.get_by_role("button", name="Accept").click()
    expect(first).to_contain_text("270 g ✓")
    expect(second).not_to_have_text(before)
    divided = second.inner_text().removesuffix(" g")
    expect(page.get_by_label("What is in the box, g")).to_have_value(divided)  # not what was typed for the first
    expect(page.get_by_label("What is in the box, g")).to_be_focused()
    page.get_by_role("button", name="Fill all as divided").click()
    expect(page.get_by_text("All packed")).to_be_visible()
    packed = [int(re.sub(r"\D", "", text)) for text in page.locator(".tallbox .in").all_inner_texts()]
    assert packed[0] == 270
    assert sum(packed) == 717

    # And the week shows the box as packed, with what is really in it.
    page.keyboard.press("4")
    expect(page.get_by_role("img", name="packed").first).to_be_visible()
    page.get_by_role("link", name="Turkey thigh and caraway cabbage pot").first.click()
    expect(page.locator("#tape")).to_contain_text("270 g")
    page.go_back()
    expect(page.locator("#tape")).to_contain_text("Prep sessions")


def test_from_an_empty_household(empty_sight: Sight) -> None:
    page = empty_sight.page
    empty_sight.go("/")
    page.get_by_label("What is your household called?").fill("The Lockside boat")
    page.get_by_label("Your name, to sign in with").fill("oskar")
    page.get_by_label("A password, at least 10 characters").fill("short")
    page.get_by_role("button", name="Start").click()
    expect(page.locator(".fault")).to_contain_text("5 characters are too few")
    page.get_by_label("A password, at least 10 characters").fill("a longer password")
    page.get_by_role("button", name="Start").click()
    page.get_by_role("link", name="I have it").click()

    page.get_by_role("link", name="All settings of an eater").click()
    expect(page.get_by_role("heading", name="New eater")).to_be_visible()
    page.get_by_label("Name", exact=True).fill("Oskar Quill")
    page.locator(".daytype").first.get_by_label("kcal a day").fill("1,950")
    page.locator(".daytype").first.get_by_label("g a day").fill("lots")
    page.get_by_label("celery").check()
    page.get_by_role("button", name="Save the eater").click()
    expect(page.locator(".fault")).to_contain_text("not a number")
    expect(page.locator(".daytype").first.get_by_label("kcal a day")).to_have_value("1,950")
    page.locator(".daytype").first.get_by_label("g a day").fill("120")
    page.get_by_role("button", name="Save the eater").click()
    expect(page.locator(".eater")).to_contain_text("1,892–2,009 kcal")

    page.keyboard.press("3")
    page.get_by_role("link", name="Weigh one of your own").click()
    page.get_by_label("Name of the recipe").fill("Turkey and cabbage")
    add_ingredient(page, "turkey thigh raw", "Turkey thigh", "1,5 kg")
    add_ingredient(page, "cabbage raw", "abbage", "twenty")
    page.get_by_role("button", name="Save the recipe").click()
    expect(page.locator(".fault").first).to_contain_text("not an amount")
    expect(page.locator(".line").nth(1).locator("input[name$='-amount']")).to_have_value("twenty")
    page.locator(".line").nth(1).locator("input[name$='-amount']").fill("900")
    page.get_by_role("button", name="Save the recipe").click()
    expect(page).to_have_url(re.compile(r"/recipes/[0-9a-f-]{36}$"))

    page.keyboard.press("4")
    page.get_by_role("button", name="Start the week").click()
    page.get_by_role("link", name=re.compile("Place a meal: Oskar Quill, Mon .*dinner")).click()
    page.get_by_label("Turkey and cabbage").check()
    page.get_by_role("checkbox", name="Tue").check()
    page.get_by_role("button", name="Place it").click()
    expect(page.locator(".box")).to_have_count(2)

    page.keyboard.press("7")
    page.locator(".pot").click()
    expect(page.locator(".notin")).to_contain_text("not in yet")  # nothing was weighed in
    page.locator(".notin").get_by_role("button", name="In as planned").click()
    page.get_by_label("Pot with food, g").fill("1712")
    page.get_by_label("Empty pot, g").fill("1012")
    page.get_by_role("button", name="Weigh the pot").click()
    page.get_by_label("Cooked down").check()
    page.get_by_role("button", name="Weigh the pot").click()
    expect(page.locator(".tallbox .in")).to_have_text(["350 g", "350 g"])
    page.get_by_role("button", name="Fill all as divided").click()
    expect(page.get_by_text("All packed")).to_be_visible()
    page.get_by_role("button", name="Undo Tue, Oskar").click()
    expect(page.locator(".tallbox .in")).to_have_text(["350 g ✓", "350 g"])


def test_a_draft_survives_a_reload(demo_sight: Sight) -> None:
    page = sign_in(demo_sight)
    page.keyboard.press("3")
    page.get_by_role("link", name="Split pea and dill soup").click()
    amount = page.locator(".line").first.locator("input[name$='-amount']")
    amount.fill("523")
    page.reload()
    expect(amount).to_have_value("500")
    page.get_by_role("button", name="Put it back").click()
    expect(amount).to_have_value("523")


def test_the_week_by_keyboard(demo_sight: Sight) -> None:
    page = sign_in(demo_sight)
    boxes = page.locator(".slot > a")
    boxes.first.focus()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Enter")
    expect(page.locator("#tape")).to_contain_text("Smoked mackerel, beetroot and barley")
    expect(page.locator("#tape")).to_contain_text("Tue 24")
    expect(page.locator("#tape")).to_contain_text("rapeseed oil")
    page.keyboard.press("w")
    expect(page.locator("#tape")).to_be_hidden()
    page.keyboard.press("w")
    expect(page.locator("#tape")).to_be_visible()


def test_a_meal_is_moved_by_keys_and_copied_by_buttons_and_the_fit_follows(demo_sight: Sight) -> None:
    page = sign_in(demo_sight)
    expect(page.locator("#fit")).to_contain_text("days in their bands")
    meal = page.locator(".dayrow").first.locator(".box").nth(4)
    expect(meal).to_contain_text("Leek and quark oven slice")
    meal.focus()
    page.keyboard.press("m")
    expect(page.locator("#carrybar")).to_contain_text("Moving Leek and quark oven slice")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Enter")
    expect(page.locator(".dayrow").first.locator(".box").nth(6)).to_contain_text("Leek and quark oven slice")
    expect(page.locator(".dayrow").first.locator(".box").nth(4)).to_contain_text("Tempeh and red cabbage box")
    expect(page.locator(".box:focus")).to_contain_text("Leek and quark oven slice")
    expect(page.locator("#fit")).to_contain_text("days in their bands")
    page.get_by_role("button", name="Move it back").click()
    expect(page.locator(".dayrow").first.locator(".box").nth(4)).to_contain_text("Leek and quark oven slice")
    page.get_by_role("button", name="Copy c").click()
    gaps = page.locator(".gap").count()
    assert gaps
    page.locator(".gap").first.click()
    expect(page.locator(".gap")).to_have_count(gaps - 1)
    expect(page.locator("#tape")).to_contain_text("Leek and quark oven slice")
    page.locator(".box[aria-current]").focus()
    page.keyboard.press("Delete")
    expect(page.locator(".gap")).to_have_count(gaps)


def test_a_late_answer_does_not_take_the_page_away(demo_sight: Sight) -> None:
    page = sign_in(demo_sight)
    held: list[Route] = []

    def hold(route: Route) -> None:
        held.append(route)

    page.route("**/foods", hold)
    with page.expect_request("**/foods"):
        page.keyboard.press("2")
    page.keyboard.press("1")
    expect(page.get_by_role("heading", name="Targets")).to_be_visible()
    with page.expect_response("**/foods"):
        held[0].continue_()
    expect(page.get_by_role("heading", name="Targets")).to_be_visible()
    expect(page).to_have_url(re.compile("/targets$"))


def test_what_asks_again_on_a_page_that_is_being_left_is_not_shown_on_the_next(demo_sight: Sight) -> None:
    page = sign_in(demo_sight)
    held: list[Route] = []
    page.route("**/foods", lambda route: held.append(route))  # noqa: PLW0108 — Playwright wants a function
    with page.expect_request("**/foods"):
        page.keyboard.press("2")
    asked: list[Route] = []
    page.route("**/recipes?again", lambda route: asked.append(route))  # noqa: PLW0108
    with page.expect_request("**/recipes?again"):
        page.evaluate(
            """() => {
                const asks = '<p hx-get="/recipes?again" hx-trigger="every 50ms" hx-select="#bench" hx-target="#bench" '
                    + 'hx-swap="outerMorph" hx-push-url="false"></p>';
                document.querySelector("#bench").insertAdjacentHTML("beforeend", asks);
                htmx.process(document.querySelector("#bench"));
            }"""
        )
    while not asked:
        page.wait_for_timeout(20)
    held[0].continue_()
    expect(page.get_by_role("heading", name="Foods", exact=True)).to_be_visible()
    with page.expect_response("**/recipes?again"):
        asked[0].continue_()
    page.evaluate("new Promise((shown) => requestAnimationFrame(() => setTimeout(shown, 100)))")
    expect(page.get_by_role("heading", name="Foods", exact=True)).to_be_visible()
    expect(page).to_have_url(re.compile("/foods$"))
