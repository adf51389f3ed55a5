"""Accessibility of every main view by axe-core, in light and dark, on a desk and on a phone."""

from pathlib import Path

import pytest
from playwright.sync_api import Browser

from goodcrate.settings import CHECKOUT
from tests.browser.conftest import looking
from tests.browser.test_paths import sign_in

AXE = (CHECKOUT / "node_modules" / "axe-core" / "axe.min.js").read_text() if Path("node_modules").exists() else ""
FOODS = (
    "/foods?q=37 g hazelnuts",
    "/foods/new",
    "/foods/scan?code=2229",
    "/foods/quark",
    "/foods/files",
    "/foods/compare?food=quark&food=feta",
    "/foods/measures",
)
VIEWS = (
    *FOODS,
    "/targets",
    "/targets/new",
    "/foods",
    "/recipes",
    "/recipes/new",
    "/recipes/shelf",
    "/targets/first",
    "/week",
    "/cook",
    "/portion",
    "/shop",
    "/store",
)


@pytest.mark.parametrize(("scheme", "width"), [("light", 1280), ("dark", 1280), ("light", 390)])
def test_no_view_shuts_anybody_out(chromium: Browser, demo_address: str, scheme: str, width: int) -> None:
    found = []
    with looking(chromium, demo_address, bypass_csp=True) as sight:
        page = sign_in(sight)
        page.emulate_media(color_scheme=scheme)  # type: ignore[arg-type]
        page.set_viewport_size({"width": width, "height": 844})
        sight.go("/portion")
        bench = page.locator(".pot").nth(1).get_attribute("href") or ""
        sight.go("/recipes")
        recipe = page.locator("td a").first.get_attribute("href") or ""
        for view in (*VIEWS, bench, bench.replace("portion", "cook"), recipe):
            sight.go(view)
            page.evaluate(AXE)
            result = page.evaluate("axe.run({runOnly: ['wcag2a', 'wcag2aa', 'wcag21aa']})")
            for broken in result["violations"]:
                nodes = [n["target"] for n in broken["nodes"][:3]]
                found.append(f"{view} {scheme} {width}: {broken['id']} {nodes}")
    assert found == []


@pytest.mark.parametrize(
    "path",
    [
        *FOODS,
        "/foods",
        "/week",
        "/portion",
        "/cook",
        "/recipes",
        "/recipes/new",
        "/recipes/shelf",
        "/targets",
        "/targets/first",
        "/store",
    ],
)
def test_nothing_runs_out_of_a_narrow_screen(chromium: Browser, demo_address: str, path: str) -> None:
    with looking(chromium, demo_address) as sight:
        page = sign_in(sight)
        page.set_viewport_size({"width": 360, "height": 740})
        sight.go(path)
        overflow = page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth")
        assert overflow <= 0, f"{path} is {overflow} px wider than the screen"
        squeezed = page.locator("main input[type=text]:visible").evaluate_all(
            "fields => fields.filter(f => f.getBoundingClientRect().width < 60).map(f => f.name)"
        )
        assert squeezed == []


def test_the_week_needs_no_scrolling_on_a_desk(chromium: Browser, demo_address: str) -> None:
    with looking(chromium, demo_address) as sight:
        page = sign_in(sight)
        assert page.evaluate("document.documentElement.scrollHeight") <= 800


@pytest.mark.parametrize("path", ["/targets", "/recipes", "/week", "/portion", "/store"])
def test_nothing_runs_out_of_a_desk(chromium: Browser, demo_address: str, path: str) -> None:
    with looking(chromium, demo_address) as sight:
        page = sign_in(sight)
        sight.go(path)
        right = page.evaluate(
            "Math.max(...[...document.querySelectorAll('main *')].map((e) => e.getBoundingClientRect().right))"
        )
        assert right <= 1280, f"{path} reaches to {right} px"
