"""What has the focus is seen, by its pixels: one of each kind of thing a Tab key stops at, on every address."""

import pytest
from playwright.sync_api import Browser, Page

from tests.browser.test_access import TARGETS, walked
from tests.conftest import MONDAY

PARTS = 2
AROUND_PX = 8
STILL = "* { caret-color: transparent !important; transition: none !important; animation: none !important; }"
MARK_KINDS = """
([every, known]) => {
  const kinds = {};
  for (const e of document.querySelectorAll(every)) {
    if (e.tabIndex < 0 || e.disabled || !e.checkVisibility({visibilityProperty: true, opacityProperty: true})) continue;
    const around = e.closest('main, aside, nav') ?? document.body;
    const kind = [around.tagName, e.parentElement.className, e.tagName, e.className, e.type ?? ''].join(' ');
    if (known.includes(kind) || kind in kinds) continue;
    kinds[kind] = `k${Object.keys(kinds).length}`;
    e.dataset.kind = kinds[kind];
  }
  return kinds;
}
"""


def unseen(page: Page, known: set[str]) -> list[str]:
    """Kinds of stops, not known before, that look the same with the focus and without it."""
    page.wait_for_load_state("networkidle")  # what arrives later may take the focus back
    page.add_style_tag(content=STILL)
    kinds = page.evaluate(MARK_KINDS, [TARGETS, sorted(known)])
    known |= set(kinds)
    page.keyboard.press("Tab")  # from now on a focus set by script is shown as one set by keys
    return [kind for kind, mark in kinds.items() if _looks_the_same(page, f'[data-kind="{mark}"]')]


def _looks_the_same(page: Page, selector: str) -> bool:
    box = page.evaluate(
        """selector => { const e = document.querySelector(selector); e.scrollIntoView({block: 'center'});
        document.activeElement.blur(); const b = e.getBoundingClientRect(); return [b.x, b.y, b.width, b.height] }""",
        selector,
    )
    size = page.viewport_size
    assert size is not None
    x, y = max(0, box[0] - AROUND_PX), max(0, box[1] - AROUND_PX)
    right, foot = min(box[0] + box[2] + AROUND_PX, size["width"]), min(box[1] + box[3] + AROUND_PX, size["height"])
    clip = {"x": x, "y": y, "width": right - x, "height": foot - y}
    if foot <= AROUND_PX:  # waits outside and comes in with the focus
        clip = {"x": 0, "y": 0, "width": size["width"], "height": size["height"]}
    calm = page.screenshot(clip=clip)  # type: ignore[arg-type]
    page.evaluate("selector => document.querySelector(selector).focus({preventScroll: true})", selector)
    return page.screenshot(clip=clip) == calm  # type: ignore[arg-type]


@pytest.mark.parametrize("part", range(PARTS))
def test_the_focus_is_seen_on_every_address(chromium: Browser, demo_address: str, part: int) -> None:
    known, found = set[str](), list[str]()
    with walked(chromium, demo_address) as (sight, every):
        for address in every()[part::PARTS]:
            sight.go(address)
            found += [f"{address}: {kind}" for kind in unseen(sight.page, known)]
    assert len(known) > 60
    assert found == []


def test_a_focus_that_is_not_seen_is_found(chromium: Browser, demo_address: str) -> None:
    with walked(chromium, demo_address) as (sight, _):
        sight.go(f"/week/{MONDAY}")
        sight.page.add_style_tag(content=".btn:focus-visible { outline: none !important; box-shadow: none !important }")
        assert any("btn" in kind for kind in unseen(sight.page, set()))
