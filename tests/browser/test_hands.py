"""By thumb, by keyboard, over a line that is cut: nothing typed is lost, and what has the focus is seen."""

import re

from playwright.sync_api import Page, Route, expect

from tests.browser.conftest import Sight, cut_the_line
from tests.browser.test_paths import add_ingredient, sign_in
from tests.conftest import MONDAY

PHONE = {"width": 390, "height": 844}


def on_a_phone(sight: Sight) -> Page:
    page = sign_in(sight)
    page.set_viewport_size(PHONE)  # type: ignore[arg-type]
    page.reload()
    expect(page.locator("html")).to_have_attribute("data-keys", "ready")
    return page


def wait_for_only(page: Page, day: str) -> None:
    """One day fills the screen, and it is this one."""
    page.wait_for_function(
        """day => [...document.querySelectorAll('.dayrow')].filter(row => {
          const box = row.getBoundingClientRect();
          return box.left < innerWidth - 20 && box.right > 20;
        }).map(row => row.id).join() === day""",
        arg=day,
    )


def test_a_phone_shows_one_day_and_opens_what_is_tapped_where_the_thumb_is(demo_sight: Sight) -> None:
    page = on_a_phone(demo_sight)
    wait_for_only(page, f"day-{MONDAY}")
    page.locator(".daystrip a").nth(5).click()
    expect(page.locator(".daystrip a").nth(5)).to_have_attribute("aria-current", "date")
    wait_for_only(page, "day-2026-11-28")
    box = page.locator(".dayrow").nth(5).locator(".box").first
    box.click()
    sheet = page.locator("#tape")
    expect(sheet.get_by_label("Servings in the box")).to_be_in_viewport()
    expect(page.locator(".slot.here")).to_be_in_viewport()
    wait_for_only(page, "day-2026-11-28")
    sheet.get_by_role("button", name="Close").click()
    expect(sheet).to_be_hidden()
    box.click()  # once closed it opens again with the next tap
    expect(sheet.get_by_label("Servings in the box")).to_be_in_viewport()
    page.keyboard.press("Escape")
    expect(sheet).to_be_hidden()
    page.get_by_role("button", name="Oskar").click()
    expect(page.locator(".dayrow").nth(5).locator(".whose", has_text="Maren")).to_be_hidden()
    expect(page.locator(".dayrow").nth(5).locator(".whose", has_text="Oskar")).to_be_visible()


def test_a_day_of_the_job_by_thumb_with_the_line_cut_once(fresh_demo_sight: Sight) -> None:
    """Fill a gap, weigh an ingredient, divide a pot: the line is away while the weight is sent, and catches up."""
    page = on_a_phone(fresh_demo_sight)
    page.locator(".daystrip a").nth(5).click()
    page.locator(".dayrow").nth(5).locator(".gap").first.click()
    sheet = page.locator("#tape")
    sheet.get_by_label("Date, walnut").check()
    sheet.get_by_role("button", name="Place it").click()
    expect(page).to_have_url(re.compile(r"\?box="))
    expect(sheet).to_contain_text("Date, walnut")

    page.locator(".route a", has_text="Cook").click()
    page.locator(".pot", has_text="swede mash").click()
    swede = page.locator("li", has_text="Swede")
    cut_the_line(page)
    swede.get_by_label("Grams of").fill("560 g")
    swede.get_by_role("button", name="Weighed").click()
    expect(page.locator("#lost")).to_contain_text("Not connected")
    expect(swede.get_by_label("Grams of")).to_have_value("560 g")
    page.context.set_offline(False)
    expect(page.locator("li.done", has_text="Swede")).to_contain_text("560")
    expect(page.locator("#lost")).to_be_hidden()

    page.locator(".route a", has_text="Portion").click()
    page.locator(".pot", has_text="swede mash").click()
    page.get_by_label("What is in the box").fill("250")
    page.get_by_role("button", name="Accept").click()
    expect(page.locator(".tallbox").first).to_contain_text("250 g ✓")
    away = ("DISCONNECTED", "Failed to fetch")
    fresh_demo_sight.complaints[:] = [c for c in fresh_demo_sight.complaints if not any(word in c for word in away)]


def test_a_week_is_one_stop_and_the_focus_is_never_lost(demo_sight: Sight) -> None:
    page = sign_in(demo_sight)
    demo_sight.go("/week")
    page.keyboard.press("Tab")
    expect(page.get_by_role("link", name="Skip to the page")).to_be_focused()
    page.keyboard.press("Enter")
    stops = 0
    while not page.evaluate("Boolean(cells.gridOf(document.activeElement))"):
        page.keyboard.press("Tab")
        stops += 1
        assert stops < 24, "72 once; a third of it is enough"
    page.keyboard.press("ArrowRight")
    first = page.evaluate("document.activeElement.outerHTML.slice(0, 120)")
    page.keyboard.press("Tab")
    assert not page.evaluate("Boolean(cells.gridOf(document.activeElement))"), first
    page.keyboard.press("Shift+Tab")
    assert page.evaluate("document.activeElement.outerHTML.slice(0, 120)") == first
    page.keyboard.press("Enter")
    expect(page.locator("#tape h2").first).to_be_visible()
    assert page.evaluate("document.activeElement.tagName") != "BODY"
    page.keyboard.press("w")
    assert page.evaluate("document.activeElement.tagName") != "BODY"
    page.keyboard.press("w")
    expect(page.locator("#tape")).to_be_visible()
    assert page.evaluate("document.activeElement.closest('#tape') !== null")


def test_what_has_the_focus_is_seen_on_a_box(demo_sight: Sight) -> None:
    """By its pixels: a clipped corner once cut the outline away."""
    page = sign_in(demo_sight)
    page.keyboard.press("Tab")
    box = page.locator(".box").nth(2)
    calm = box.screenshot()
    box.focus()
    assert box.screenshot() != calm
    background = box.evaluate("b => getComputedStyle(b.querySelector('.face')).outlineColor")
    assert background == page.evaluate(
        "(() => { const p = document.createElement('i'); p.style.color = 'var(--accent)'; document.body.append(p);"
        " const c = getComputedStyle(p).color; p.remove(); return c })()"
    )


def test_a_refused_form_says_so_at_the_top_and_leads_to_the_field(demo_sight: Sight) -> None:
    page = on_a_phone(demo_sight)
    demo_sight.go("/targets/new")
    page.get_by_label("Name", exact=True).first.fill("Guest")
    page.locator("[name$=energy_kcal]:visible").first.fill("lots")
    page.get_by_role("button", name="Save").first.click()
    summary = page.locator("#faults")
    expect(summary).to_be_focused()
    expect(summary).to_be_in_viewport()
    expect(page).to_have_title(re.compile("^Not saved: "))
    summary.get_by_role("link", name="lots").click()
    expect(page.locator("[name$=energy_kcal]:visible").first).to_be_focused()
    page.keyboard.type("2100")
    expect(summary.get_by_role("link", name="lots")).to_have_count(0)


def test_keys_of_one_letter_can_be_switched_off_and_leave_no_typed_form(demo_sight: Sight) -> None:
    page = sign_in(demo_sight)
    demo_sight.go("/targets/new")
    page.get_by_label("Name", exact=True).first.fill("Guest")
    page.get_by_role("button", name="Save").first.focus()
    page.keyboard.press("4")
    expect(page.locator("#said")).to_contain_text("Not left")
    expect(page).to_have_url(re.compile("/targets/new$"))
    demo_sight.go("/week")
    page.locator("h1").click()
    page.keyboard.press("?")
    page.get_by_label("keys of one letter or digit are on").uncheck()
    page.locator("#keys").get_by_role("button", name="Close").click()
    page.locator("h1").click()
    page.keyboard.press("w")
    expect(page.locator("html")).not_to_have_class(re.compile("tape-closed"))
    page.keyboard.press("1")
    page.keyboard.press("?")
    expect(page.get_by_role("heading", name="Keys")).to_be_visible()
    expect(page).to_have_url(re.compile("/week"))


def test_an_unnamed_recipe_is_offered_again_after_it_was_left(demo_sight: Sight) -> None:
    page = sign_in(demo_sight)
    demo_sight.go("/recipes/new")
    page.locator("input[name$='-name']").first.fill("dressing")
    add_ingredient(page, "rapeseed oil", "Rapeseed oil", "30")
    demo_sight.go("/foods")
    demo_sight.go("/recipes/new")
    page.get_by_role("button", name="Put it back").click()
    expect(page.locator(".line input[name$='-amount']")).to_have_value("30")


def test_typed_grams_stay_when_an_earlier_answer_lands(fresh_demo_sight: Sight) -> None:
    page = sign_in(fresh_demo_sight)
    fresh_demo_sight.go("/cook")
    page.locator(".pot", has_text="barley and beetroot").click()
    page.get_by_role("button", name="Start weighing").click()
    expect(page.get_by_role("button", name="Start weighing")).to_be_hidden()
    rows = page.locator(".weighlist li:not(.done)")
    held: list[Route] = []
    page.route("**/lines/*", lambda route: held.append(route))  # noqa: PLW0108 — Playwright wants a function
    planned = rows.nth(0).locator(".wplan .num").first.inner_text()
    rows.nth(0).get_by_label("Grams of").fill(planned)
    with page.expect_request("**/lines/*"):
        rows.nth(0).get_by_role("button", name="Weighed").click()
    second = page.locator(".weighlist li").nth(1).locator("[name=net]")
    second.fill("77 g")
    held.pop().continue_()
    expect(page.locator(".weighlist li.done")).to_have_count(1)
    expect(second).to_have_value("77 g")
    expect(second).to_be_focused()


def test_the_bench_works_without_scripts(demo_sight: Sight) -> None:
    page = sign_in(demo_sight)
    bare = page.context.browser.new_context(java_script_enabled=False)  # type: ignore[union-attr]
    bare.add_cookies(page.context.cookies())  # type: ignore[arg-type]
    plain = bare.new_page()
    plain.goto(f"{demo_sight.base}/recipes/new")
    expect(plain.get_by_text("Scripts are off in this browser")).to_be_visible()
    plain.get_by_label("Name of the recipe").fill("Plain porridge")
    plain.get_by_text("Paste a list of ingredients").click()
    plain.get_by_label("Ingredients, one per line").fill("200 g rolled oats\n1 l water")
    plain.get_by_role("button", name="Read these lines and go on").click()
    expect(plain.locator(".line")).to_have_count(2)
    plain.get_by_role("button", name="Save the recipe").click()
    expect(plain).to_have_url(re.compile(r"/recipes/[0-9a-f-]{36}$"))
    expect(plain.locator(".line").first).to_contain_text("oats")
    plain.goto(f"{demo_sight.base}/cook/kitchen")
    before = plain.locator(".vesselrow").count()
    plain.get_by_role("link", name="Add a vessel").click()
    expect(plain.locator(".vesselrow")).to_have_count(before + 1)
    bare.close()


def test_a_double_click_makes_one_copy(fresh_demo_sight: Sight) -> None:
    page = sign_in(fresh_demo_sight)
    fresh_demo_sight.go("/recipes")
    before = page.locator(".library tbody tr").count()
    page.get_by_role("link", name="Venison and root stew").click()
    page.get_by_role("button", name="Make a copy").dblclick()
    expect(page.get_by_label("Name of the recipe")).to_have_value(re.compile("copy"))
    fresh_demo_sight.go("/recipes")
    expect(page.locator(".library tbody tr")).to_have_count(before + 1)


def test_repeated_fields_say_which_ingredient_they_are_of(demo_sight: Sight) -> None:
    page = sign_in(demo_sight)
    demo_sight.go("/recipes")
    page.get_by_role("link", name="Venison and root stew").click()
    expect(page.locator(".line").first).to_be_visible()
    for words in ("Amount of ", "Remove "):
        names = page.get_by_label(re.compile(f"^{words}")).evaluate_all(
            "every => every.filter(e => e.closest('.line')).map(e => e.ariaLabel ?? e.labels[0].innerText)"
        )
        assert len(names) > 5
        assert len(names) == len(set(names)), names


def test_undo_brings_back_what_stood_there_before_it_was_typed(fresh_demo_sight: Sight) -> None:
    page = sign_in(fresh_demo_sight)
    fresh_demo_sight.go("/recipes")
    page.get_by_role("link", name="Venison and root stew").click()
    amount = page.locator(".line input[name$='-amount']").first
    expect(amount).not_to_have_value("")
    before = amount.input_value()
    amount.fill("777")
    expect(page.locator("#saved")).to_contain_text("version 2")
    page.locator("#saved").get_by_role("button", name="Undo").click()
    expect(amount).to_have_value(before)


def test_a_phone_shows_one_part_of_a_recipe_and_one_component(demo_sight: Sight) -> None:
    page = on_a_phone(demo_sight)
    demo_sight.go("/recipes")
    page.get_by_role("link", name="Smoked mackerel, beetroot and barley").click()
    strip = page.get_by_role("group", name="Components")
    components = page.locator(".component:visible")
    expect(components).to_have_count(1)
    expect(components.locator("[name$='-name']")).to_have_value("mackerel")
    strip.get_by_role("button", name="horseradish yoghurt").click()
    expect(components).to_have_count(1)
    expect(components.locator("[name$='-name']")).to_have_value("horseradish yoghurt")
    components.locator("[name$='-name']").fill("yoghurt")
    expect(strip.get_by_role("button", name="yoghurt", exact=True)).to_have_attribute("aria-pressed", "true")
    page.get_by_role("link", name="Steps", exact=True).click()
    expect(page.locator("#part-steps")).to_be_in_viewport()
    expect(components).to_have_count(0)
    page.set_viewport_size({"width": 1280, "height": 800})
    expect(components).to_have_count(3)


def test_a_fault_leads_to_its_field_in_another_part(demo_sight: Sight) -> None:
    page = on_a_phone(demo_sight)
    demo_sight.go("/recipes")
    page.get_by_role("link", name="Smoked mackerel, beetroot and barley").click()
    page.get_by_role("group", name="Components").get_by_role("button", name="barley and beetroot").click()
    page.locator(".component:visible [name$='-cooked']").fill("lots")
    page.get_by_role("link", name="Note and files").click()
    page.get_by_role("button", name="Save the recipe").click()
    expect(page.locator("#faults")).to_be_focused()
    page.locator("#faults a").first.click()
    field = page.locator("[name$='-cooked'][aria-invalid=true]")
    expect(field).to_be_focused()
    expect(field).to_be_in_viewport()


def test_a_row_that_is_removed_leaves_the_focus_beside_it(demo_sight: Sight) -> None:
    page = sign_in(demo_sight)
    demo_sight.go("/recipes/new")
    add_ingredient(page, "rapeseed oil", "Rapeseed oil", "30")
    add_ingredient(page, "rolled oats", "Rolled oats, dry", "80")
    page.get_by_role("button", name="Remove Rapeseed oil").click()
    expect(page.get_by_role("button", name="Remove Rolled oats")).to_be_focused()
    page.keyboard.press("Enter")
    expect(page.locator(".line")).to_have_count(0)
    expect(page.locator("[data-finder]").first).to_be_focused()
