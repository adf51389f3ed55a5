"""Portioning with the simulated scale: pots are weighed, boxes fill live and are accepted by themselves, and whatever
goes wrong on the way (too much, undone, the line lost, too little in the pot) nothing is lost or counted twice."""

import re
from collections.abc import Iterator
from dataclasses import dataclass
from uuid import UUID

import pypdfium2
import pytest
from playwright.sync_api import Browser, Page, expect
from sqlalchemy import func, select

from goodcrate.db.cook import WeighingRow, last_events
from goodcrate.devices.printer import HttpPrinter
from goodcrate.devices.printer_service import PrinterService
from goodcrate.devices.scale import LineScale
from goodcrate.devices.scale_service import in_thread
from goodcrate.services.calling import Caller
from goodcrate.services.cook.cooking import worked_batch
from goodcrate.services.week.weeks import week_picture
from tests.browser.conftest import Sight, looking, served, serving_thread
from tests.browser.test_paths import sign_in
from tests.conftest import MONDAY


@dataclass
class Bench:
    """The demo with a scale and a printer, a browser at it, and the database beneath."""

    sight: Sight
    caller: Caller
    printer: PrinterService

    @property
    def page(self) -> Page:
        return self.sight.page

    def scale(self, words: str) -> None:
        """Do something to the scale's pan, as its buttons on the page do."""
        self.page.evaluate(
            """async words => {
              const csrf = document.querySelector("[name=csrf]").value;
              const answer = await fetch("/scale/tell", {method: "POST", body: new URLSearchParams({csrf, words})});
              if (!answer.ok) throw new Error(await answer.text());
            }""",
            words,
        )

    def open(self, batch: str) -> UUID:
        """The bench of a batch."""
        self.sight.go("/portion")
        self.page.get_by_role("link", name=batch).last.click()
        expect(self.page.get_by_role("heading", level=1)).to_contain_text(re.compile(batch, re.I))
        return UUID(self.page.url.split("?")[0].rsplit("/", 1)[1])

    def weigh_pot(self, share: float, why: str = "") -> float:
        """Put the large pot with so much of what is expected on the scale; the food in it, in g."""
        all_the_same = self.page.get_by_role("link", name="Weigh the pot all the same")
        if all_the_same.is_visible():
            all_the_same.click()
        expected = float(self.page.locator("[data-net]").get_attribute("data-expected") or 0)
        food_g = round(expected * share)
        self.page.get_by_text("large pot").click()
        expect(self.page.get_by_label("Empty pot, g")).to_have_value("1012")
        self.scale(f"load {1012 + food_g}")
        expect(self.page.get_by_label("Pot with food, g")).to_have_value(str(1012 + food_g))
        expect(self.page.locator("[data-net]")).to_contain_text(f"{food_g:,} g of food")
        self.page.get_by_role("button", name="Weigh the pot", exact=True).click()
        if why:
            self.page.get_by_text(why, exact=True).click()
            self.page.get_by_role("button", name="Weigh the pot", exact=True).click()
        expect(self.page.locator(".restpot")).to_be_visible()
        return food_g

    @property
    def target_g(self) -> int:
        return round(float(self.page.locator("[data-target][data-low]").get_attribute("data-target") or 0))

    def box_on(self, box_g: int = 94) -> str:
        """Lift what lies on the scale off, put an empty box on and tare; the box that is filled now."""
        fill = self.page.locator("[data-target][data-low]")
        which = fill.get_attribute("id") or ""
        self.scale("clear")
        self.scale("zero")
        expect(fill.locator("[data-figure]")).to_have_text("0")
        self.scale(f"load {box_g}")
        expect(fill.locator("[data-figure]")).to_have_text(re.compile(rf"^({box_g}|0)$"))
        self.page.keyboard.press("t")
        expect(fill.locator("[data-figure]")).to_have_text("0")
        expect(fill.locator("[data-more]")).to_contain_text("more")
        return which

    def pour(self, grams: int) -> None:
        self.scale(f"pour {grams} 900")

    def fill(self) -> None:
        """Fill the box that is current to its target: it is accepted by itself."""
        which = self.box_on()
        self.pour(self.target_g)
        expect(self.page.locator(f"#{which}")).to_have_count(0)

    def comes_out_even(self, batch_id: UUID) -> None:
        """Weighed in = boxes + left + tasted + thrown, by the rows of the log and by the page's figure."""
        with self.caller.transaction() as session:
            log = last_events(session, batch_id)[batch_id]
            rows = session.scalars(select(WeighingRow).where(WeighingRow.batch_id == batch_id)).all()
        pots = {str(row.pot_id) for row in rows if row.pot_id is not None}
        lines = {str(row.batch_line_id) for row in rows if row.batch_line_id is not None}
        weighed_in = sum(event.net_g or 0.0 for event in log if event.subject in pots)
        went = sum(event.net_g or 0.0 for event in log if event.subject not in pots | lines)
        picture = week_picture(self.caller, MONDAY)
        assert picture is not None
        left_g = worked_batch(picture, batch_id).outcome.left_g
        assert weighed_in > 0
        assert weighed_in == pytest.approx(went + left_g, abs=1e-9)

    def readings(self, batch_id: UUID) -> int:
        with self.caller.transaction() as session:
            counted = select(func.count()).where(WeighingRow.batch_id == batch_id, WeighingRow.content_id.is_not(None))
            return session.scalar(counted) or 0


@pytest.fixture
def bench(chromium: Browser, own_demo: Caller) -> Iterator[Bench]:
    printer = PrinterService()
    with in_thread() as scale_address, serving_thread(printer):
        scale = LineScale(scale_address, has_pan=True)
        with (
            served(own_demo.database, scale=scale, printer=HttpPrinter(printer.address)) as base,
            looking(chromium, base) as sight,
        ):
            sign_in(sight)
            yield Bench(sight, own_demo, printer)


def test_ten_boxes_of_three_pots_with_everything_that_goes_wrong(bench: Bench) -> None:
    page = bench.page

    # four boxes by scale: one gets too much and keeps it, another is taken out of turn and filled again
    stew = bench.open("stew")
    bench.weigh_pot(1.0)
    bench.box_on()
    first = page.locator("[data-target][data-low]").get_attribute("id") or ""
    target = bench.target_g
    bench.pour(target + 40)
    expect(page.locator("[data-more]")).to_contain_text("40 g too much")
    page.keyboard.press(" ")
    expect(page.locator(f"#{first}")).to_have_count(0)
    expect(page.locator(".crate .in.ok").first).to_contain_text(f"{target + 40} g")
    assert bench.target_g < target, "the others share what is missing"
    for _ in range(3):
        bench.fill()
    expect(page.get_by_text("All packed")).to_be_visible()
    page.locator(".crate a").nth(1).click()
    page.get_by_role("button", name=re.compile("^Take .* out$")).click()
    expect(page.locator(".crate .in.ok")).to_have_count(3)
    bench.fill()
    expect(page.get_by_text("All packed")).to_be_visible()
    assert bench.readings(stew) == 6, "five fillings and one taken out"
    bench.comes_out_even(stew)

    # three by scale, and its line is lost in the middle: what was poured is there when it is back, and counts once
    mash = bench.open("swede mash")
    which = bench.box_on()
    target = bench.target_g
    bench.pour(target // 2)
    expect(page.locator("[data-figure]")).to_have_text(str(target // 2))
    bench.scale("drop 1")
    expect(page.locator("#scalesaid")).to_contain_text("scale gone")
    expect(page.get_by_label("What is in the box, g")).to_be_editable()
    expect(page.locator("[data-figure]")).to_have_text(str(target // 2))
    bench.pour(target - target // 2)
    expect(page.locator(f"#{which}")).to_have_count(0)
    assert bench.readings(mash) == 1
    box = page.get_by_label("What is in the box, g")
    box.fill("230")  # and one is typed
    box.press("Enter")
    expect(page.locator(".crate .in.ok")).to_have_count(2)
    bench.fill()
    expect(page.get_by_text("All packed")).to_be_visible()
    bench.comes_out_even(mash)

    # a tray of which a third is gone, cut in nine: three boxes by count
    slices = bench.open("slice")
    bench.weigh_pot(0.66, why="Eaten, spilt or left")
    page.get_by_text("How it is divided").click()
    page.get_by_label("Counted: the whole pot is so many").fill("9")
    page.get_by_role("button", name="Divide by count").click()
    expect(page.locator("[data-figure]")).to_have_text("3")
    for packed in (1, 2, 3):
        page.get_by_role("button", name="Accept").click()
        expect(page.locator(".crate .in.ok")).to_have_count(packed)
    bench.comes_out_even(slices)

    # labels of the session: seen, and printed
    page.get_by_role("link", name="Labels of this session").click()
    page.get_by_role("button", name="Print").click()
    expect(page.get_by_text("Printed.")).to_be_visible()
    (sheet,) = bench.printer.sheets.values()
    assert len(pypdfium2.PdfDocument(sheet)) == page.locator(".labelrows .tick").count()


def test_what_is_left_is_named_and_goes_somewhere(bench: Bench) -> None:
    page = bench.page
    mash = bench.open("swede mash")
    for packed, grams in enumerate(("200", "210", "190"), 1):
        page.get_by_label("What is in the box, g").fill(grams)
        page.get_by_role("button", name="Accept", exact=True).click()
        expect(page.locator(".crate .in.ok")).to_have_count(packed)
    expect(page.get_by_text("117 g are left. Where do they go?")).to_be_visible()
    page.get_by_role("textbox", name="Grams", exact=True).fill("17")
    page.get_by_role("button", name="Tasted").click()
    expect(page.get_by_text("100 g are left. Where do they go?")).to_be_visible()
    page.locator("[name=spare_g]").fill("60")
    page.get_by_role("button", name="Pack it").click()
    expect(page.get_by_text("in a box for nobody yet")).to_be_visible()
    bench.comes_out_even(mash)
    page.get_by_role("button", name="Thrown away").click()
    expect(page.get_by_text("Where do they go?")).to_have_count(0)
    expect(page.locator(".restpot")).to_contain_text("0 g")
    bench.comes_out_even(mash)


def test_two_tablets_on_one_pot_never_take_one_box_for_another(bench: Bench, chromium: Browser) -> None:
    page = bench.page
    mash = bench.open("swede mash")
    with looking(chromium, bench.sight.base) as other:
        sign_in(other)
        other.page.goto(page.url)
        expect(other.page.locator("#scalesaid")).to_contain_text("scale live")
        which = bench.box_on()
        bench.pour(bench.target_g)
        expect(page.locator(f"#{which}")).to_have_count(0)
        expect(other.page.locator(f"#{which}")).to_have_count(0)
        bench.fill()
        expect(other.page.locator(".crate .in.ok")).to_have_count(2)
    bench.comes_out_even(mash)
    with bench.caller.transaction() as session:
        log = last_events(session, mash)[mash]
    grams = [event.net_g for event in log if event.how == "on_scale"]
    assert len(grams) == 2


def test_a_scale_that_never_stands_still_or_talks_nonsense_stops_nobody(bench: Bench) -> None:
    page = bench.page
    bench.open("swede mash")
    which = bench.box_on()
    bench.scale("mode restless")
    target = bench.target_g
    bench.pour(target)
    expect(page.locator("[data-more]")).to_contain_text(re.compile("hold still|more|too much"))
    bench.scale("mode nonsense")
    expect(page.locator("#scalesaid")).to_contain_text("makes no sense")
    expect(page.locator(f"#{which}")).to_be_visible()
    page.get_by_label("What is in the box, g").fill("240")
    page.get_by_role("button", name="Accept", exact=True).click()
    expect(page.locator(".crate .in.ok")).to_have_count(1)
    bench.scale("mode calm")
    bench.scale("load 6000")
    expect(page.locator("#scalesaid")).to_contain_text("too much on the scale")
    bench.scale("off")
    expect(page.locator("#scalesaid")).to_contain_text("scale is off")


def test_ingredients_are_weighed_in_one_after_the_other_into_one_bowl(bench: Bench) -> None:
    page = bench.page
    bench.sight.go("/cook")
    page.get_by_role("link", name="rhubarb quark").first.click()
    page.get_by_role("button", name="Start weighing").click()
    bench.scale("load 412")
    shows = page.locator("[data-weighs] b")
    expect(shows).to_have_text("412")
    page.evaluate("document.activeElement.blur()")
    page.keyboard.press("t")
    expect(shows).to_have_text("0")
    for grams, food in ((660, "Rhubarb"), (380, "Honey")):
        bench.scale(f"pour {grams} 2000")
        expect(shows).to_have_text(str(grams))
        page.keyboard.press(" ")
        expect(page.locator(".weighlist .now")).to_contain_text(food)
        expect(shows).to_have_text("0")
        page.evaluate("document.activeElement.blur()")
    expect(page.locator(".weighlist .done")).to_have_count(2)
    expect(page.locator(".weighlist .done").nth(1)).to_contain_text("380")
