"""Portioning: from a reading to its picture, dividing many boxes, and a sheet of labels."""

import statistics
import time
from dataclasses import replace
from datetime import date

from playwright.sync_api import sync_playwright

from bench.server_times import serving
from goodcrate.core.portion.division import BoxTarget, DivisionProblem, divide
from goodcrate.formats.label_pdf import ROLL, BoxLabel, Part, label_sheet

READINGS = 200
WATCH = """
() => {
  const at = document.querySelector("[data-target][data-low]");
  window.lags = [];
  new MutationObserver(() => {
    const said = Number(at.dataset.drawnAt);
    requestAnimationFrame(() => setTimeout(() => said && window.lags.push(Date.now() - said)));
  }).observe(at, { attributes: true, attributeFilter: ["data-drawn-at"] });
}
"""


def measure_portioning(today: date) -> None:
    """Print all three."""
    print("\nPortioning")
    _reading_to_picture(today)
    _dividing()
    _labels()


def _p95(times_ms: list[float]) -> float:
    return statistics.quantiles(times_ms, n=20)[18]


def _reading_to_picture(today: date) -> None:
    with serving(today) as visit, sync_playwright() as playwright:
        base = str(visit.client.base_url).rstrip("/")
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=["--no-sandbox"])
        context = browser.new_context()
        context.add_cookies([{"name": c.name, "value": c.value or "", "url": base} for c in visit.client.cookies.jar])
        page = context.new_page()
        page.goto(f"{base}/portion")
        page.get_by_role("link", name="swede mash").last.click()
        page.wait_for_selector("[data-drawn-at]")
        page.evaluate(WATCH)
        for _ in range(120):
            if page.evaluate("window.lags.length") >= READINGS:
                break
            page.wait_for_timeout(1000)
        lags = [float(lag) for lag in page.evaluate("window.lags")]
        browser.close()
    print(
        f"  a reading of the scale, from its clock to the painted figure   median {statistics.median(lags):5.0f} ms   "
        f"p95 {_p95(lags):5.0f} ms   of {len(lags)} at ten a second   wanted: p95 under 100 ms"
    )


def _dividing() -> None:
    problems = []
    for part in range(3):
        boxes = tuple(
            BoxTarget(
                f"{part}-{n}",
                120.0 + 7 * (n % 9) + 31 * part,
                capacity_g=None if n % 4 else 210.0,
                filled_g=131.0 if n % 8 == 3 else None,
            )
            for n in range(40)
        )
        problems.append(DivisionProblem(round(0.93 * sum(b.target_g for b in boxes), 1), boxes))
    times_ms = []
    for _ in range(50):
        began = time.perf_counter()
        for problem in problems:
            divide(problem)
        times_ms.append((time.perf_counter() - began) * 1000)
    print(
        f"  40 boxes divided again, 3 components                     median {statistics.median(times_ms):5.1f} ms   "
        f"p95 {_p95(times_ms):5.1f} ms   wanted: under 10 ms"
    )


def _labels() -> None:
    label = BoxLabel(
        "7K3Q",
        "http://kitchen.example:8080/box/64440c9a-23f9-5d63-a28b-65997a1a7ee7",
        "Maren",
        day="Tue 24 Nov",
        slot="dinner 19:30",
        dish="Turkey thigh and caraway cabbage pot, swede mash",
        parts=(Part("turkey and cabbage", "380 g"), Part("swede mash", "240 g")),
        made="made Sun 22 Nov",
        eat_by="Thu 26 Nov",
        rule="4 days in the fridge: the usual rule for turkey thigh.",
        figures=(("654", "kcal ± 12"), ("66 g", "protein"), ("620 g", "in the box")),
        shares=(("protein", 0.4), ("carbohydrate", 0.29), ("fat", 0.27), ("fibre", 0.04)),
        allergens=("celery", "milk", "mustard"),
        heat="Heat once, until 74 °C in the middle.",
    )
    for layout in (ROLL, "a4-10", "a4-24"):
        began = time.perf_counter()
        sheet = label_sheet([replace(label, address=f"{label.address}{layout}{n}") for n in range(60)], layout)
        took = time.perf_counter() - began
        print(f"  60 labels as PDF, {layout:<8} {took:5.2f} s   {len(sheet) / 1000:4.0f} kB   wanted: under 2 s")
