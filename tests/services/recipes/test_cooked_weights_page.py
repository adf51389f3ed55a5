"""`docs/cooked-weights.md`: its sums by hand are done again, and set beside what the recipes of the shelf expect."""

import ast
import operator
import re
from collections.abc import Callable, Mapping

from goodcrate.core.recipes.cooked_weight import expected_cooked_weight
from goodcrate.core.recipes.evaporation import STEAM_RATES
from goodcrate.services.calling import Caller
from goodcrate.services.recipes import starter_shelf
from goodcrate.settings import CHECKOUT

PAGE = (CHECKOUT / "docs" / "cooked-weights.md").read_text()
ROW = re.compile(
    r"^\| (.+?) \| (.+?) \| ([\d.×+−() ]+) \| ([\d,]+) \| ([\d,]+) ± ([\d,]+) \| ([+−]?\d+) % \| .+ \|$", re.M
)
SIGNS: Mapping[type, Callable[[float, float], float]] = {
    ast.Add: operator.add,
    ast.Sub: operator.sub,
    ast.Mult: operator.mul,
}


def reckoned(sum_by_hand: str) -> float:
    """A sum of plain numbers, worked out."""

    def value(node: ast.expr) -> float:
        if isinstance(node, ast.BinOp):
            return SIGNS[type(node.op)](value(node.left), value(node.right))
        assert isinstance(node, ast.Constant)
        return float(node.value)  # type: ignore[arg-type]

    return value(ast.parse(sum_by_hand.replace("×", "*").replace("−", "-"), mode="eval").body)


def number(words: str) -> float:
    return float(words.replace(",", "").replace("−", "-"))


def test_expected_pots_are_less_than_a_tenth_from_sums_by_hand(demo: Caller) -> None:
    expected = {
        (offer.recipe.name, component.name): expected_cooked_weight(component)
        for offer in starter_shelf.offers(demo)
        for component in offer.recipe.components
    }
    rows = ROW.findall(PAGE)
    assert {(name, part) for name, part, *_ in rows} == {at for at, weight in expected.items() if weight.changes}
    for name, part, by_hand, grams, told_g, told_error, apart in rows:
        weight, hand = expected[name, part], reckoned(by_hand)
        assert abs(weight.grams / hand - 1) < 0.1, (name, part)
        assert number(grams) == round(hand), (name, part)
        assert number(told_g) == round(weight.grams), (name, part)
        assert number(told_error) == round(weight.standard_error_g), (name, part)
        assert number(apart) == round((weight.grams / hand - 1) * 100), (name, part)


def test_what_goes_in_and_is_not_cooked_comes_out(demo: Caller) -> None:
    for offer in starter_shelf.offers(demo):
        for component in offer.recipe.components:
            weight = expected_cooked_weight(component)
            if not weight.changes:
                assert weight.grams == component.kept_g, (offer.recipe.name, component.name)


def test_the_rates_stand_on_the_page() -> None:
    for rate in STEAM_RATES.values():
        share, error = rate.share_per_hour * 100, rate.relative_error * 100
        assert f"| {rate.words} | {share:g} % | {error:g} % | {rate.reasoning} |" in PAGE
