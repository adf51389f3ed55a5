"""Two to four foods side by side: per 100 g, serving, spoon, 10 g of protein, 100 kcal, by price, and in words.

What somebody makes stands beside bought ones as a food (`goodcrate.core.recipes.as_food`).
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from goodcrate.core.foods.food import Food
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.nutrients import net_carbohydrate_g
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import price, round_half_up, shown

FEWEST, MOST = 2, 4
PER_100_G, PER_SERVING, PER_SPOON = "100g", "serving", "spoon"
PER_10_G_PROTEIN, PER_100_KCAL = "protein", "kcal"
BASES: Mapping[str, str] = {
    PER_100_G: "100 g",
    PER_SERVING: Saying("a serving"),
    PER_SPOON: Saying("a level tablespoon"),
    PER_10_G_PROTEIN: Saying("10 g of protein"),
    PER_100_KCAL: Saying("100 kcal"),
}
METRIC_SPOON_ML = 15.0


@dataclass(frozen=True, slots=True)
class Amounts:
    """One food on one basis: the grams of it that make the basis, and its figures in that; None is unknown."""

    grams: float | None
    figures: Mapping[str, float | None]
    price: float | None

    def net_carbohydrate_g(self, polyol_share: float) -> float | None:
        """Its net carbohydrate in g, with a share of the polyols left out; None when a figure it needs is unknown."""
        return net_carbohydrate_g(self.figures, polyol_share)


def grams_for(food: Food, basis: str, spoon_ml: float = METRIC_SPOON_ML) -> float | None:
    """Grams of a food that make one basis, or None when what it needs is unknown or zero. `spoon_ml` fills a spoon.

    Raises:
        InvalidInput: for a basis we do not know.
    """
    if basis == PER_100_G:
        return 100.0
    if basis == PER_SERVING:
        return food.serving_g
    if basis == PER_SPOON:
        return None if food.density_g_per_ml is None else food.density_g_per_ml * spoon_ml
    if basis not in BASES:
        raise InvalidInput(
            "basis",
            say("“{basis}” is nothing we compare by.", basis=basis),
            say("One of {BASES}.", BASES=", ".join(BASES)),
        )
    key, wanted = ("protein_g", 10.0) if basis == PER_10_G_PROTEIN else ("energy_kcal", 100.0)
    figure = food.composition.get(key)
    return None if not figure else wanted / figure * 100


def amounts_of(food: Food, basis: str, spoon_ml: float = METRIC_SPOON_ML) -> Amounts:
    """A food's figures and price on one basis.

    Raises:
        InvalidInput: for a basis we do not know.
    """
    grams = grams_for(food, basis, spoon_ml)
    figures = food.composition.as_mapping()
    per_100 = food.price_per_100_g
    return Amounts(
        grams,
        {key: None if f is None or grams is None else f * grams / 100 for key, f in figures.items()},
        None if per_100 is None or grams is None else per_100 * grams / 100,
    )


@dataclass(frozen=True, slots=True)
class Comparison:
    """The foods with their figures by basis, in the order given, and the differences in words."""

    foods: tuple[Food, ...]
    by_basis: Mapping[str, tuple[Amounts, ...]]
    sentences: tuple[str, ...]


def compare(foods: Sequence[Food], spoon_ml: float = METRIC_SPOON_ML) -> Comparison:
    """Put two to four different foods side by side; prices are the household's, a tablespoon holds `spoon_ml`.

    Raises:
        InvalidInput: for fewer than two, more than four, or the same food twice.
    """
    if not FEWEST <= len(foods) <= MOST:
        raise InvalidInput(
            "food",
            say("{foods} foods cannot be compared here.", foods=len(foods)),
            say("Choose {FEWEST} to {MOST}.", FEWEST=FEWEST, MOST=MOST),
        )
    if len({food.key for food in foods}) < len(foods):
        raise InvalidInput("food", say("The same food is chosen twice."), say("Choose different ones."))
    by_basis = {basis: tuple(amounts_of(food, basis, spoon_ml) for food in foods) for basis in BASES}
    return Comparison(tuple(foods), by_basis, tuple(_sentences(foods)))


SAME_WITHIN = 0.05
"""Differences under 5 % are called about the same: typical values and labels are no surer than that."""


def _sentences(foods: Sequence[Food]) -> list[str]:
    said = [
        _ranked(
            foods, lambda f: f.composition.get("energy_kcal"), say("kcal per 100 g"), least=say("The leanest in energy")
        ),
        _ranked(
            foods, lambda f: f.composition.get("protein_g"), say("g of protein per 100 g"), most=say("The most protein")
        ),
        _ranked(
            foods, lambda f: grams_for(f, PER_100_KCAL), say("g for 100 kcal"), most=say("The most to eat for 100 kcal")
        ),
        _ranked(foods, _kcal_for_protein, say("kcal for 10 g of protein"), least=say("Protein for the fewest kcal")),
        _ranked(foods, lambda f: f.price_per_100_g, say("per 100 g"), least=say("The cheapest by weight"), told=price),
        _ranked(foods, _price_for_protein, say("for 10 g of protein"), least=say("The cheapest protein"), told=price),
    ]
    return [sentence for sentence in said if sentence]


def _kcal_for_protein(food: Food) -> float | None:
    return amounts_of(food, PER_10_G_PROTEIN).figures["energy_kcal"]


def _price_for_protein(food: Food) -> float | None:
    return amounts_of(food, PER_10_G_PROTEIN).price


def _figure(value: float) -> str:
    decimals = 0 if value >= 20 else 1 if value >= 4 else 2
    return shown(value, decimals)


def _ranked(
    foods: Sequence[Food],
    of: Callable[[Food], float | None],
    unit: str,
    *,
    least: str = "",
    most: str = "",
    told: Callable[[float], str] = _figure,
) -> str:
    known = [(figure, food.name) for food in foods if (figure := of(food)) is not None]
    if len(known) < FEWEST:
        return ""
    known.sort(key=lambda pair: pair[0], reverse=bool(most))
    (best, name), (other, other_name) = known[0], known[1]
    left_out = len(foods) - len(known)
    aside = say(" ({left_out} without the figure)", left_out=left_out) if left_out else ""
    low, high = sorted((best, other))
    if high == 0 or (high - low) / high < SAME_WITHIN:
        return say(
            "{least}: {name} and {other_name}, about the same, {best} {unit}{aside}.",
            least=least or most,
            name=name,
            other_name=other_name,
            best=told(best),
            unit=unit,
            aside=aside,
        )
    if low > 0 and high / low >= 2:
        times = say(", {high} times", high=shown(high / low, 1))
    else:
        share = round_half_up(abs(best - other) / other * 100) if other else 100
        times = f", {shown(share)} % {'more' if best > other else 'less'}"
    return say(
        "{least}: {name}, {best} {unit} against {other} in {other_name}{times}{aside}.",
        least=least or most,
        name=name,
        best=told(best),
        unit=unit,
        other=told(other),
        other_name=other_name,
        times=times,
        aside=aside,
    )


def lighter_alike(food: Food, others: Sequence[Food], most: int = 3) -> tuple[Food, ...]:
    """The same kind of food with fewer calories: same group and state, a word of its name in common, at least 5 %
    less energy per 100 g; the leanest first."""
    energy = food.composition.get("energy_kcal")
    if energy is None:
        return ()
    words = _kind(food.name)
    found = []
    for other in others:
        theirs = other.composition.get("energy_kcal")
        if (
            other.key != food.key
            and other.group == food.group
            and other.state == food.state
            and theirs is not None
            and theirs < energy * (1 - SAME_WITHIN)
            and words & _kind(other.name)
        ):
            found.append((theirs, other.name, other))
    return tuple(other for _, _, other in sorted(found, key=lambda item: item[:2])[:most])


_NO_KIND = {"raw", "dry", "cooked", "plain", "with", "without", "and", "fat", "in", "fresh", "whole", "low", "full"}


def _kind(name: str) -> set[str]:
    return {w for w in "".join(c if c.isalpha() else " " for c in name.lower()).split() if len(w) > 2} - _NO_KIND
