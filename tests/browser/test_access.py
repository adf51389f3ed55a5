"""Nobody is shut out: every address of the app by axe-core, by width and by what a thumb hits, in many states."""

import json
import re
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from goodcrate.services.calling import Caller
from goodcrate.settings import CHECKOUT
from tests.browser.conftest import Sight, looking, served
from tests.browser.test_paths import sign_in
from tests.browser.walking import addresses
from tests.conftest import MONDAY

AXE = (CHECKOUT / "node_modules" / "axe-core" / "axe.min.js").read_text() if Path("node_modules").exists() else ""
TAGS = ("wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22a", "wcag22aa", "best-practice")
WIDTHS = (1280, 768, 390, 360)
BY_WIDTH, BY_SCHEME = ("target-size", "scrollable-region-focusable", "aria-hidden-focus"), ("color-contrast",)
"""What alone can differ at the other widths of one layout, and in the dark."""
BETWEEN = (320, 600, 900, 901, 1024, 1600, 1920)
"""Widths at which nothing may run out sideways; 320 is a desk at 400 %."""
PARTS = 4
SMALLEST_TARGET_PX, NARROWEST_FIELD_PX = 44, 60
FREE = """
every => [...document.querySelectorAll(every)]
  .filter(e => e.checkVisibility({visibilityProperty: true, opacityProperty: true}))
  .map(e => {
    const hit = e.matches('[type=checkbox], [type=radio]') ? e.closest('label') ?? e : e;
    const box = hit.getBoundingClientRect();
    const inText = e.matches('a') && getComputedStyle(e).display === 'inline' && e.closest('p, li, td, span, dd');
    return [e.outerHTML.slice(0, 90), box.width, box.height, Boolean(inText)];
  })
  .filter(([, width, height, inText]) => width > 0 && !inText)
"""
SHIFT = """() => new Promise(done => { let sum = 0;
  new PerformanceObserver(list => {
    for (const entry of list.getEntries()) if (!entry.hadRecentInput) sum += entry.value;
  }).observe({type: 'layout-shift', buffered: true});
  requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(() => done(sum), 300))) })"""
MOST_SHIFT = 0.05
"""Cumulative layout shift: how much of the page has moved how far since it was first shown."""
TARGETS = (
    "a[href], button, input:not([type=hidden]), select, textarea, summary, [tabindex]:not(main):not(h1):not(.notice)"
)


_FOUND: dict[str, Sequence[str]] = {}
"""The addresses of a demo that nobody writes to, found once."""


@contextmanager
def walked(chromium: Browser, base: str) -> Iterator[tuple[Sight, Callable[[], Sequence[str]]]]:
    """A signed-in browser that may run axe, and all the app's addresses."""
    with looking(chromium, base, bypass_csp=True) as sight:
        page = sign_in(sight)

        def fetch(address: str) -> str | None:
            answer = page.context.request.get(base + address)
            is_page = answer.status == 200 and "text/html" in answer.headers.get("content-type", "")
            return answer.text() if is_page else None

        def every() -> Sequence[str]:
            if base not in _FOUND:
                _FOUND[base] = list(addresses(fetch))
            return _FOUND[base]

        yield sight, every


def violations(page: Page, where: str, rules: Sequence[str] = (), tags: Sequence[str] = TAGS) -> list[str]:
    """What axe finds on the page as it stands: by some rules, or by all of these kinds."""
    if not page.evaluate("Boolean(window.axe)"):
        page.evaluate(AXE)
    only = {"type": "rule", "values": list(rules)} if rules else {"type": "tag", "values": list(tags)}
    asked = json.dumps({"runOnly": only, "resultTypes": ["violations"]})
    found = page.evaluate(f"axe.run({asked})")["violations"]
    return [f"{where}: {broken['id']} {[n['target'] for n in broken['nodes'][:3]]}" for broken in found]


def crowded(page: Page, where: str) -> list[str]:
    """What a thumb cannot hit, and fields without room, on the page as it stands."""
    small = [
        f"{where}: {html} is {width:.0f} by {height:.0f} px"
        for html, width, height, _ in page.evaluate(FREE, TARGETS)
        if min(width, height) < SMALLEST_TARGET_PX - 0.5
    ]
    fields = page.evaluate(FREE, "main input:not([type=checkbox]):not([type=radio]):not([type=hidden]), main select")
    return small + [f"{where}: {html} is {w:.0f} px wide" for html, w, *_ in fields if w < NARROWEST_FIELD_PX]


def overflow(page: Page, where: str, widths: Sequence[int]) -> list[str]:
    """How far the page runs out sideways at some widths."""
    found = []
    for width in widths:
        page.set_viewport_size({"width": width, "height": 844})
        over = page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth")
        if over > 0:
            found.append(f"{where} is {over} px wider than {width} px")
    return found


@pytest.mark.parametrize("part", range(PARTS))
def test_no_address_shuts_anybody_out(chromium: Browser, demo_address: str, part: int) -> None:
    found: list[str] = []
    with walked(chromium, demo_address) as (sight, every):
        page = sight.page
        for address in every()[part::PARTS]:
            page.emulate_media(color_scheme="light")
            page.set_viewport_size({"width": WIDTHS[0], "height": 844})
            sight.go(address)
            found += overflow(page, address, BETWEEN)
            for width in WIDTHS:
                found += overflow(page, address, (width,))
                by = () if width in (1280, 390) else BY_WIDTH
                found += violations(page, f"{address} light {width}", by)
                if width == 390:
                    found += crowded(page, address)
            page.emulate_media(color_scheme="dark")
            found += violations(page, f"{address} dark {width}", BY_SCHEME)
    assert found == []


def test_no_cold_load_on_a_phone_jumps(chromium: Browser, demo_address: str) -> None:
    shifts = {}
    with walked(chromium, demo_address) as (sight, every):
        sight.page.set_viewport_size({"width": 390, "height": 844})
        network = sight.page.context.new_cdp_session(sight.page)
        for address in every():
            network.send("Network.clearBrowserCache")
            sight.go(address)
            shifts[address] = sight.page.evaluate(SHIFT)
    assert {address: shift for address, shift in shifts.items() if shift >= MOST_SHIFT} == {}
    assert len(shifts) > 35


def test_a_page_that_jumps_is_found(chromium: Browser, demo_address: str) -> None:
    with walked(chromium, demo_address) as (sight, _):
        jump = "const e = document.createElement('p'); e.style.height = '300px'; document.querySelector('h1').before(e)"
        sight.page.evaluate(f"() => {{ setTimeout(() => {{ {jump} }}, 50) }}")
        assert sight.page.evaluate(SHIFT) >= MOST_SHIFT


def test_the_sheet_waits_until_all_of_it_is_there(chromium: Browser, demo_address: str) -> None:
    with walked(chromium, demo_address) as (sight, every):
        page = sight.page
        page.set_viewport_size({"width": 390, "height": 844})
        address = next(a for a in every() if a.startswith("/review/") and "day=" in a)
        text = page.context.request.get(sight.base + address).text()
        half = text.index("data-tape-toggle", text.index('id="tape"'))
        page.evaluate("half => { document.open(); document.write(half) }", text[: text.index(">", half) + 1])
        expect(page.locator("#bench")).to_be_visible()
        expect(page.locator("#tape")).to_be_attached()
        expect(page.locator("#tape")).to_be_hidden()
        page.evaluate("rest => { document.write(rest); document.close() }", text[text.index(">", half) + 1 :])
        expect(page.locator("#tape")).to_be_visible()


def test_the_walk_reaches_every_room(chromium: Browser, demo_address: str) -> None:
    with walked(chromium, demo_address) as (_, every):
        found = every()
    for start in (
        "/week/",
        "/targets/",
        "/foods/",
        "/recipes/",
        "/cook/",
        "/portion/",
        "/cook/kitchen",
        "/foods/files",
    ):
        assert any(address.startswith(start) for address in found), start
    assert len(found) == len(set(found)) > 35


def test_what_shuts_out_is_found(chromium: Browser, demo_address: str) -> None:
    with walked(chromium, demo_address) as (sight, _):
        page = sight.page
        page.set_viewport_size({"width": 390, "height": 844})
        page.evaluate(
            """document.querySelector('main').insertAdjacentHTML('beforeend',
            '<button style="width:20px;height:20px;min-width:0;min-height:0" id="tiny"></button>' +
            '<div style="width:900px">wide</div><img src="/static/crate.svg"><input type="text" style="width:30px">')"""
        )
        rules = " ".join(violations(page, "spoilt"))
        assert "button-name" in rules
        assert "image-alt" in rules
        assert any("tiny" in line for line in crowded(page, "spoilt"))
        assert any("30 px wide" in line for line in crowded(page, "spoilt"))
        assert overflow(page, "spoilt", (390,))


def refused_eater(sight: Sight) -> None:
    sight.go("/targets")
    sight.page.locator("main a[href^='/targets/']:not([href$='/new'])").first.click()
    sight.page.locator("[name$=energy_kcal]:visible").first.fill("lots")
    sight.page.get_by_role("button", name="Save").first.click()
    expect(sight.page.locator("#faults")).to_be_focused()


def refused_vessel(sight: Sight) -> None:
    sight.go("/cook/kitchen")
    sight.page.locator("[name$=volume_ml]").first.fill("-1")
    sight.page.get_by_role("button", name="Save pots").click()
    expect(sight.page.locator("#faults")).to_be_focused()


def found_in_a_recipe(sight: Sight) -> None:
    sight.go("/recipes/new")
    sight.page.locator("[data-finder]").first.fill("oat")
    expect(sight.page.locator(".found button").first).to_be_visible()


def chosen_box(sight: Sight) -> None:
    sight.go(f"/week/{MONDAY}")
    sight.page.locator(".box:visible").first.click()
    expect(sight.page.get_by_label("Servings in the box")).to_be_visible()


def keys_shown(sight: Sight) -> None:
    sight.go("/week")
    sight.page.locator("h1").click()
    sight.page.keyboard.press("?")
    expect(sight.page.get_by_role("heading", name="Keys")).to_be_visible()


def tape_of_a_recipe(sight: Sight) -> None:
    sight.go("/recipes")
    sight.page.locator("td a").first.click()
    expect(sight.page.locator("#live-tape h2").first).to_be_attached()
    if sight.page.locator(".tapetab").is_visible():
        sight.page.locator(".tapetab").click()


def signed_out(sight: Sight) -> None:
    sight.page.context.clear_cookies()
    sight.go("/sign-in")
    sight.page.get_by_label("Name").fill("nobody")
    sight.page.get_by_label("Password").fill("wrong wrong wrong")
    sight.page.get_by_role("button", name="Sign in").click()
    expect(sight.page.get_by_role("alert").first).to_be_visible()


def half_a_recipe(sight: Sight) -> None:
    """A component with an ingredient, an amount that cannot be, no name: refused."""
    sight.go("/recipes/new")
    sight.page.locator("[data-finder]").first.fill("barley")
    sight.page.locator(".found button").first.click()
    sight.page.get_by_label(re.compile("^Amount of ")).fill("a few")
    sight.page.get_by_role("button", name="Save the recipe").click()
    expect(sight.page.locator("#faults")).to_be_focused()


def not_there_at_the_shelf(sight: Sight) -> None:
    """A food that was not there, its neighbour said in the sheet of a phone."""
    sight.go(f"/shop/{MONDAY}")
    rows = sight.page.locator(".shoplist tr[data-food]")
    if sight.page.viewport_size == {"width": 1280, "height": 844}:
        rows.first.get_by_role("link").click()
        sight.page.get_by_role("button", name="Not there").click()
        expect(rows.first).to_contain_text("was not there")
        return
    rows.nth(1).get_by_role("link").click()
    expect(sight.page.get_by_role("dialog")).to_be_visible()


def refused_pack(sight: Sight) -> None:
    sight.go(f"/shop/{MONDAY}/food/quark")
    sight.page.get_by_label("A pack holds").fill("0")
    sight.page.get_by_role("button", name="Note it").click()
    expect(sight.page.locator("#faults")).to_be_focused()


STATES = (
    *(refused_eater, refused_vessel, found_in_a_recipe, chosen_box, keys_shown),
    *(tape_of_a_recipe, signed_out, half_a_recipe, not_there_at_the_shelf, refused_pack),
)


@pytest.mark.parametrize("state", STATES, ids=[state.__name__ for state in STATES])
def test_no_state_shuts_anybody_out(chromium: Browser, demo_address: str, state: Callable[[Sight], None]) -> None:
    found = []
    with walked(chromium, demo_address) as (sight, _):
        for width in (1280, 390):
            sight.page.set_viewport_size({"width": width, "height": 844})
            state(sight)
            found += overflow(sight.page, state.__name__, (width,))
            found += violations(sight.page, f"{state.__name__} {width}")
            if width == 390:
                found += crowded(sight.page, state.__name__)
    assert found == []


def test_no_state_of_planning_shuts_anybody_out(chromium: Browser, own_demo: Caller) -> None:
    """While it is worked out, and with what was found."""
    found = []

    def look(page: Page, state: str) -> None:
        for width in (1280, 390):
            found.extend(overflow(page, state, (width,)))
            found.extend(violations(page, f"{state} {width}"))
        found.extend(crowded(page, state))

    with served(own_demo.database) as base, looking(chromium, base, bypass_csp=True) as sight:
        page = sign_in(sight)
        sight.go(f"/week/{MONDAY}/plan")
        page.locator(".wishes .btn.go").click()
        expect(page.locator(".planbar, .plan, .conflicts").first).to_be_visible()
        look(page, "planning")
        expect(page.locator(".planbar")).to_have_count(0)
        expect(page.locator(".plan, .conflicts").first).to_be_visible()
        look(page, "planned")
    assert found == []


def test_the_week_needs_no_scrolling_on_a_desk(chromium: Browser, demo_address: str) -> None:
    with looking(chromium, demo_address) as sight:
        page = sign_in(sight)
        assert page.evaluate("document.documentElement.scrollHeight") <= 800
