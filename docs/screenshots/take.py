"""Takes the pictures of this folder from the demo: `.venv/bin/python docs/screenshots/take.py` (after ./crate test)."""

import sys
from datetime import timedelta
from pathlib import Path

import pypdfium2
from playwright.sync_api import Browser, Page, sync_playwright

HERE = Path(__file__).parent
sys.path.insert(0, str(HERE.parents[1]))

from bench.__main__ import MONDAY  # noqa: E402
from bench.server_times import serving  # noqa: E402
from goodcrate.demo.week import SIGN_IN_NAME, SIGN_IN_PASSWORD  # noqa: E402
from tests.browser.conftest import CHROMIUM_ARGS  # noqa: E402

DESK, PHONE = (1280, 800), (390, 844)


def on_the_scale(page: Page, words: str, shows: str) -> int:
    """Do something to the simulated scale, wait for what it shows; the grams meant for the box that is filled."""
    ask = """async words => fetch("/scale/tell", {method: "POST", body: new URLSearchParams(
        {csrf: document.querySelector("[name=csrf]").value, words})})"""
    page.evaluate(ask, words)
    page.wait_for_selector(f"[data-figure] >> text=/^{shows}$/")
    return round(float(page.locator("[data-target][data-low]").get_attribute("data-target") or 0))


def signed_in(browser: Browser, base: str, size: tuple[int, int], scheme: str = "light") -> Page:
    """A page at the week, signed in."""
    context = browser.new_context(
        viewport={"width": size[0], "height": size[1]},
        color_scheme=scheme,
        locale="en-GB",  # type: ignore[arg-type]
    )
    page = context.new_page()
    page.goto(base + "/sign-in")
    page.get_by_label("Name").fill(SIGN_IN_NAME)
    page.get_by_label("Password").fill(SIGN_IN_PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    page.wait_for_selector("nav.route")
    return page


def plan_next_week(page: Page, base: str) -> None:
    """An empty week with two sessions, planned to the end."""
    page.goto(base + "/week/2026-11-30")
    page.get_by_role("button").filter(has_text="Start the week").click()
    page.get_by_text("Add a session").click()
    page.locator("[name=starts_at]").fill("2026-12-02T18:30")
    page.get_by_role("button", name="Add the session").click()
    page.wait_for_selector(".sessionline >> nth=1")
    page.goto(base + "/week/2026-11-30/plan")
    page.locator(".wishes .btn.go").click()
    roomier = page.locator(".conflicts").get_by_role("button").filter(has_text="boxes in the fridge")
    roomier.click(timeout=120_000)  # the boat's drawer does not hold its week
    page.wait_for_selector(".plan", timeout=120_000)
    page.wait_for_selector(".planbar", state="detached", timeout=120_000)


def repeat_week(page: Page, base: str) -> None:
    """The next week, filled from the one before."""
    page.goto(base + "/week/2026-11-30")
    page.get_by_role("button").filter(has_text="Start the week").click()
    page.get_by_role("link", name="Repeat a week").first.click()
    page.locator("form[action$='/repeat'] button").first.click()
    page.wait_for_selector("#bench >> text=Rhubarb quark pot")


def main() -> None:
    """Take them all."""
    with serving(MONDAY) as visit, sync_playwright() as playwright:
        base = str(visit.client.base_url).rstrip("/")
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=CHROMIUM_ARGS)

        def shoot(page: Page, name: str, path: str = "") -> None:
            if path:
                page.goto(base + path)
            page.wait_for_timeout(200)
            page.screenshot(path=HERE / f"{name}.png")

        desk = signed_in(browser, base, DESK)
        shoot(desk, "week", "/week")
        desk.goto(base + "/cook")
        desk.get_by_role("link", name="Run sheet").first.click()
        desk.wait_for_selector(".ifs >> text=A pause every hour", timeout=120_000)
        desk.wait_for_selector(".planbar", state="detached", timeout=120_000)
        desk.evaluate("scrollTo(0, 0)")
        shoot(desk, "cook-sheet")
        desk.goto(base + "/targets")
        desk.get_by_role("link", name="Change").nth(1).click()
        desk.wait_for_selector("#targettape")
        for name, figure in (("age_years", "41"), ("height_cm", "182"), ("weight_kg", "84")):
            desk.locator(f"[name={name}]").fill(figure)
        desk.locator("[name=sex]").select_option("male")
        desk.locator("[name$='-energy_way']").nth(0).select_option("blocks")
        desk.locator("[name$='-meals']").nth(0).fill("3")
        desk.locator("[name$='-snacks']").nth(0).fill("2")
        desk.locator("[name$='-energy_way']").nth(1).select_option("body")
        desk.locator("[name$='-change_pct']").nth(1).fill("−15")
        desk.wait_for_selector("#targettape >> text=predicted loss a week")
        desk.evaluate("scrollTo(0, 0)")
        shoot(desk, "targets")
        shoot(desk, "foods", "/foods?q=2 tbsp oil")
        shoot(desk, "starter-shelf", "/recipes/shelf")
        desk.goto(base + "/foods/new")
        desk.get_by_label("Name of the food").fill("Rye croutons")
        for field, figure in (
            ("energy_kcal", "1690"),
            ("fat_g", "12"),
            ("saturated_g", "1.1"),
            ("carbohydrate_g", "58"),
            ("sugars_g", "3"),
            ("fibre_g", "5.5"),
            ("protein_g", "11.2"),
            ("salt_g", "1.3"),
        ):
            desk.locator(f'#label [name="{field}"]').fill(figure)
        desk.wait_for_selector("#queries .query")
        shoot(desk, "food-label")
        desk.goto(base + "/recipes")
        desk.get_by_role("link", name="Smoked mackerel, beetroot and barley").click()
        desk.wait_for_selector("#live")
        shoot(desk, "recipe")
        desk.goto(base + "/portion")
        mash = desk.locator(".pot", has_text="swede mash").get_attribute("href") or ""
        desk.goto(base + mash)
        box_g = on_the_scale(desk, "load 94", "94")
        desk.keyboard.press("t")
        desk.wait_for_selector("[data-figure] >> text=/^0$/")
        on_the_scale(desk, f"pour {box_g + 14} 900", str(box_g + 14))
        desk.keyboard.press(" ")
        desk.wait_for_selector(f"text={box_g + 14} g ✓")
        on_the_scale(desk, "load 94", "0")
        on_the_scale(desk, "pour 186 900", "186")
        desk.wait_for_timeout(600)
        shoot(desk, "portion-bench")
        desk.goto(base + "/cook")
        desk.get_by_role("link", name="Run sheet").first.click()
        desk.get_by_role("button", name="Start cooking").click()
        desk.wait_for_selector(".nowstep")
        for _ in range(12):  # until two things cook by themselves
            if desk.locator(".timer").count() > 1:
                break
            on = desk.get_by_role("button", name="It is on")
            some = on if on.count() else desk.locator(".nowstep").get_by_role("button", name="Done")
            (some if some.count() else desk.get_by_role("button", name="Begin now")).first.click()
            desk.wait_for_timeout(1200)
        if not desk.locator(".nowstep .saystep").count():
            desk.get_by_role("button", name="Begin now").first.click()
            desk.wait_for_selector(".nowstep .saystep")
        desk.mouse.move(0, 0)
        shoot(desk, "cook-now")
        shoot(desk, "store", "/store")
        phone = signed_in(browser, base, PHONE)
        phone.goto(base + "/week")
        phone.locator(".dayrow").first.locator(".box").nth(1).click()
        phone.wait_for_selector("#tape .chosen")
        phone.wait_for_timeout(600)
        shoot(phone, "week-phone")
        shoot(phone, "cook-batch-phone", mash.replace("portion", "cook"))
        phone.goto(base + mash)
        phone.wait_for_selector("[data-figure] >> text=/^186$/")
        shoot(phone, "portion-phone")
        session = phone.get_by_role("link", name="Labels of this session").get_attribute("href") or ""
        sheet = desk.request.get(base + session.replace("/labels?", "/labels.pdf?") + "&layout=a4-10").body()
        pypdfium2.PdfDocument(sheet)[0].render(scale=1.35).to_pil().save(HERE / "labels.png")
        phone.goto(base + "/today")
        phone.get_by_role("button", name="Eaten").first.click()
        phone.wait_for_selector(".mealcard.over")
        phone.locator(".mealcard.here .jobtick").first.click()
        phone.wait_for_selector('.mealcard.here [aria-pressed="true"]')
        phone.evaluate("scrollTo(0, 0)")
        phone.mouse.move(5, 5)
        shoot(phone, "today-phone")
        phone.goto(base + "/shop")
        for key in ("beetroot_raw", "cabbage_raw"):
            phone.locator(f'tr[data-food="{key}"] .tickbox').click()
        phone.wait_for_selector("text=1,800 g bought")
        phone.wait_for_timeout(600)
        phone.mouse.move(5, 5)
        shoot(phone, "shop-phone")
        shoot(desk, "shop", "/shop")
        plan_next_week(desk, base)
        desk.locator(".plans").evaluate("plans => plans.scrollIntoView()")
        shoot(desk, "week-plan")
        browser.close()
    with serving(MONDAY + timedelta(days=7), MONDAY) as visit, sync_playwright() as playwright:
        base = str(visit.client.base_url).rstrip("/")
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=CHROMIUM_ARGS)
        desk = signed_in(browser, base, DESK)
        repeat_week(desk, base)
        desk.goto(f"{base}/review/{MONDAY}")
        desk.locator(".reviewdays tbody tr:nth-child(2) a").first.click()
        desk.wait_for_selector("text=Why Maren’s Tuesday was short")
        desk.evaluate("scrollTo(0, 0)")
        desk.screenshot(path=HERE / "review.png")
        browser.close()


if __name__ == "__main__":
    main()
