"""An eater's targets in the browser: worked out on the tape while typed, cautioned, saved, told in the week."""

import re

from playwright.sync_api import expect

from tests.browser.conftest import Sight


def test_targets_are_worked_out_while_they_are_typed(empty_sight: Sight) -> None:
    page = empty_sight.page
    empty_sight.go("/")
    page.get_by_label("What is your household called?").fill("The Lockside boat")
    page.get_by_label("Your name, to sign in with").fill("maren")
    page.get_by_label("A password, at least 10 characters").fill("a longer password")
    page.get_by_role("button", name="Start").click()
    page.get_by_role("link", name="I have it").click()
    page.get_by_role("link", name="All settings of an eater").click()
    expect(page.get_by_role("heading", name="New eater")).to_be_visible()
    page.get_by_label("Name", exact=True).fill("Maren Tidewell")
    tape = page.locator("#targettape")
    first = page.locator(".daytype").first
    first.locator("[data-way]").select_option("body")
    expect(first.get_by_label("kcal a day")).to_be_hidden()
    expect(tape).to_contain_text("Nothing is typed here. Give a number in g.")
    first.get_by_label("g a day").fill("100")
    expect(tape).to_contain_text("Body size is not complete")
    page.get_by_label("Sex, for the equation").select_option("female")
    for label, figure in (("Years", "35"), ("Height, cm", "170"), ("Weight, kg", "66")):
        page.get_by_label(label).fill(figure)
    first.get_by_label("More or less, %").fill("-30")
    first.locator("[data-proteinway]").select_option("per_kg")
    first.get_by_label("How much").fill("1.6")
    expect(tape).to_contain_text("10 × 66 kg + 6.25 × 170 cm − 5 × 35 − 161")
    expect(tape).to_contain_text("1.6 g × 66 kg")
    expect(tape).to_contain_text("30 % less than keeps your weight is more than 25 %")
    page.get_by_label("pregnant").check()
    expect(tape).to_contain_text("With pregnant, we compute no target.")
    page.get_by_role("button", name="Save the eater").click()
    expect(page.locator(".fault").first).to_contain_text("we compute no target")
    page.get_by_label("pregnant").uncheck()
    first.get_by_label("More or less, %").fill("0")
    page.get_by_label("Also eaten every day, one per line").fill("200 ml whole milk")
    shares = page.locator("[name$='-share_pct']")
    for n, share in enumerate(("25", "35", "10", "20")):
        shares.nth(n).fill(share)
    expect(tape).to_contain_text("Slot shares")
    page.get_by_role("button", name="Save the eater").click()
    expect(page.locator(".fault").first).to_contain_text("The shares come to 90 % over 4 slots.")
    shares.nth(3).fill("30")
    page.get_by_role("button", name="Save the eater").click()
    panel = page.locator(".eater", has_text="Maren Tidewell")
    expect(panel).to_contain_text("energy from body size, protein g per kg of body weight")
    expect(panel).to_contain_text("200 ml whole milk")

    page.keyboard.press("4")
    page.get_by_label("Days, 1 to 14").fill("3")
    page.get_by_role("button", name="Start the week").click()
    expect(page.locator(".dayrow")).to_have_count(3)
    page.get_by_role("link", name=re.compile("Place a meal: Maren Tidewell, Mon .*lunch")).click()
    expect(page.locator("#tape")).to_contain_text("This slot’s share is 35 %")
