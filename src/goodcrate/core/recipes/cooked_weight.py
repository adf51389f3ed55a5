"""What a component should weigh when cooked, with its ±: typed, learned from pots, or worked out from how it is cooked.

Liquid of the list is what dry foods take up first. Water comes from outside only where something is boiled in water and
drained, where a step names its water, or where the list holds nothing that it could be cooked in. What steams off
follows from method, lid and time (`evaporation`). Not cooked, it weighs what went in.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from math import hypot

from goodcrate.core.ground.same import once_for_same
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import short
from goodcrate.core.recipes.component import Component, IngredientLine
from goodcrate.core.recipes.cooking import (
    ABSORBED,
    DRAINED,
    DRIED,
    FRIED,
    NOT_COOKED,
    RAW,
    ROASTED,
    SIMMERED,
    SOAKED,
    Cooking,
)
from goodcrate.core.recipes.evaporation import (
    DRIED_ERROR,
    DRIED_OFF,
    LEAVES_FASTER,
    MOST_OF_THE_WATER,
    STEAM_RATES,
    water_share,
)


@dataclass(frozen=True, slots=True)
class WeightChange:
    """Grams a pot gains (or, negative, loses), how sure that is, why, and whether it is water that nobody listed."""

    grams: float
    standard_error_g: float
    words: str
    is_unlisted: bool = False


@dataclass(frozen=True, slots=True)
class ExpectedWeight:
    """What a component should weigh when cooked, in g, with its standard error, and where that comes from.

    `method` is what the yield is for, one of `cooking.COOKED_AS`; `changes` lead from what stays in it to `grams` when
    the weight is worked out.
    """

    grams: float
    ingredient_g: float
    basis: str
    standard_error_g: float = 0.0
    method: str = RAW
    changes: tuple[WeightChange, ...] = ()

    @property
    def yield_factor(self) -> float:
        """Cooked net weight ÷ ingredient weight."""
        return self.grams / self.ingredient_g if self.ingredient_g > 0 else 1.0


TYPED, FROM_FOODS, AS_WEIGHED = "typed", Saying("from the foods’ usual yields"), Saying("taken as weighed in")
LEARNED = Saying("learned from your pots")
POT_TO_POT = 0.04
"""The same dish twice differs by so much: our line for a cooked weight that was typed, or weighed once."""
LEFT_BEHIND = 0.01
"""What sticks to pot and spoon: our line."""
LISTED_WATER_SHARE = 0.5
"""With half as much liquid in the list as there are dry things, the list holds all the water: our line."""
SOAKED_YIELD, SOAKED_ERROR = 2.1, 0.1
"""What dry beans weigh after a night in water: typically twice to 2.2 times."""
SWELLED_YIELD = 2.6
"""The most that hot water poured over makes of grain, without more heat: 1 to 1.6 times its weight goes in."""
_KEEPS_ITS_YIELD = frozenset({"poultry", "meat", "fish", "egg"})
"""What loses its usual share however long it is in the heat: juice that sets, not a surface that dries."""
YIELD_ERROR, LOSS_ERROR, NOT_LISTED_ERROR, TOLD_ERROR = 0.08, 0.2, 0.15, 0.05
"""Relative errors: of water taken up by a usual yield, of weight lost by one, of water nobody listed, of told water."""


@once_for_same
def expected_cooked_weight(component: Component) -> ExpectedWeight:
    """The cooked net weight to expect: typed, else learned from earlier pots, else worked out from how it is cooked."""
    ingredient_g = sum(line.weighed_in_g for line in component.lines)
    method = method_of(component)
    if component.cooked_g is not None:
        return ExpectedWeight(component.cooked_g, ingredient_g, TYPED, component.cooked_g * POT_TO_POT, method)
    learned = component.learned
    if learned is not None and ingredient_g > 0:
        grams = ingredient_g * learned.factor
        spread = (learned.high - learned.low) / 2 * ingredient_g
        return ExpectedWeight(grams, ingredient_g, LEARNED, max(spread, grams * POT_TO_POT / learned.pots), method)
    changes = tuple(_changes(component, component.cooking or NOT_COOKED))
    grams = component.kept_g + sum(change.grams for change in changes)
    own = [line.amount.standard_error_g * abs(line.kept_share) for line in component.lines]
    behind = grams * LEFT_BEHIND if changes else 0.0
    error = hypot(*own, behind, *(change.standard_error_g for change in changes))
    return ExpectedWeight(grams, ingredient_g, FROM_FOODS if changes else AS_WEIGHED, error, method, changes)


def method_of(component: Component) -> str:
    """What its yield is for: the way of most of it by weight; of wet ones, whether the water is taken up."""
    cooking = component.cooking
    if cooking is None or not cooking.ways:
        return RAW
    if component.cooked_as:
        return component.cooked_as
    shares: dict[str, float] = {}
    for line in component.lines:
        way = cooking.ways.get(line.key)
        if way is not None:
            shares[way] = shares.get(way, 0.0) + max(0.0, line.kept_g)
    way = max(shares, key=lambda key: (shares[key], key), default=RAW)
    if way != SIMMERED:
        return way
    wet = [x for x in component.lines if cooking.ways.get(x.key) == SIMMERED]
    return _wet_method(wet, cooking)


def _wet_method(wet: Sequence[IngredientLine], cooking: Cooking) -> str:
    """Simmered things by what becomes of the water: with dry things and none to spare it is taken up."""
    demand = sum(x.kept_g * (_factor(x) - 1) for x in wet if _factor(x) > 1)
    liquid_g = _liquid_g(wet) + cooking.told_water_g
    if demand > 0 and liquid_g <= 1.25 * demand:
        return ABSORBED
    return SIMMERED


def _factor(line: IngredientLine) -> float:
    return line.food.cooked_yield or 1.0


def _liquid_g(lines: Iterable[IngredientLine]) -> float:
    return sum(x.kept_g for x in lines if x.kept_g > 0 and x.food.is_liquid)


def _changes(component: Component, cooking: Cooking) -> Iterable[WeightChange]:
    """Every gain and loss between what goes in and the cooked weight."""
    lines = [x for x in component.lines if x.kept_g > 0]
    by_way: dict[str, list[IngredientLine]] = {}
    for line in lines:
        by_way.setdefault(cooking.ways.get(line.key, RAW), []).append(line)
    soaked = [x for x in lines if x.key in cooking.soaked and _factor(x) > 1]
    drained = [*by_way.get(DRAINED, []), *(x for x in lines if x.key in cooking.drained)]
    gained = [*_soaked(soaked), *_drained(drained, soaked), *_told(cooking)]
    in_sauce = [*by_way.get(SIMMERED, []), *by_way.get(ABSORBED, [])]
    gained += _taken_up([x for x in in_sauce if x not in drained], lines, cooking, soaked)
    yield from gained
    if by_way.get(SOAKED) and not soaked:
        yield from _taken_up(by_way[SOAKED], lines, cooking, [])
    yield from _lost_in_dry_heat(by_way)
    yield from _dried(by_way.get(DRIED, []))
    yield from _steamed_off(component, cooking, gained)


def _soaked(lines: Sequence[IngredientLine]) -> Iterable[WeightChange]:
    for line in lines:
        grams = line.kept_g * (min(_factor(line), SOAKED_YIELD) - 1)
        yield WeightChange(
            grams, grams * SOAKED_ERROR, say("{line} takes up the water it is soaked in", line=_name(line))
        )


def _drained(lines: Sequence[IngredientLine], soaked: Sequence[IngredientLine]) -> Iterable[WeightChange]:
    """Boiled in water and drained: usual yields, and listed water that is poured away."""
    for line in lines:
        if line.food.is_water:
            yield WeightChange(-line.kept_g, line.kept_g * TOLD_ERROR, say("the water is poured away"))
            continue
        start = min(_factor(line), SOAKED_YIELD) if line in soaked else 1.0
        grams = line.kept_g * (_factor(line) - start)
        if grams:
            words = say("takes up water it is boiled in") if grams > 0 else say("loses some when boiled")
            yield WeightChange(grams, abs(grams) * (YIELD_ERROR if grams > 0 else LOSS_ERROR), f"{_name(line)} {words}")


def _told(cooking: Cooking) -> Iterable[WeightChange]:
    if cooking.told_water_g > 0:
        grams = cooking.told_water_g
        yield WeightChange(grams, grams * TOLD_ERROR, say("water, as the step says"))


def _taken_up(
    wet: Sequence[IngredientLine], lines: Sequence[IngredientLine], cooking: Cooking, soaked: Sequence[IngredientLine]
) -> Iterable[WeightChange]:
    """Water from outside that dry foods need where neither the list nor a step holds any: stated, and less sure."""
    dry = [x for x in wet if _factor(x) > 1 and x not in soaked]
    liquid_g = _liquid_g(lines) + cooking.told_water_g
    if not dry or liquid_g >= LISTED_WATER_SHARE * sum(x.kept_g for x in dry):
        return
    demand = sum(x.kept_g * (min(_factor(x), _most(x, cooking)) - 1) for x in dry)
    grams = max(0.0, demand - liquid_g)
    names = say(" and ").join(_name(x) for x in dry[:2])
    yield WeightChange(
        grams,
        grams * NOT_LISTED_ERROR,
        say("{names}: water that the list does not hold, as usual for it", names=names),
        True,
    )


def _most(line: IngredientLine, cooking: Cooking) -> float:
    if cooking.ways.get(line.key) == SOAKED:
        return SOAKED_YIELD
    return SWELLED_YIELD if line.key in cooking.swelled else _factor(line)


def _lost_in_dry_heat(by_way: dict[str, list[IngredientLine]]) -> Iterable[WeightChange]:
    """What meat, fish and egg lose on a tray or in a pan: their usual yield. Other things lose by time."""
    for way in (ROASTED, FRIED):
        for line in by_way.get(way, []):
            if _loses_its_yield(line):
                grams = line.kept_g * (1 - _factor(line))
                yield WeightChange(
                    -grams, grams * LOSS_ERROR, say("{line} loses water when {way}", line=_name(line), way=way)
                )


def _loses_its_yield(line: IngredientLine) -> bool:
    return line.food.group in _KEEPS_ITS_YIELD and _factor(line) < 1


def _dried(lines: Sequence[IngredientLine]) -> Iterable[WeightChange]:
    for line in lines:
        grams = line.kept_g * water_share(line.food) * DRIED_OFF
        yield WeightChange(-grams, grams * DRIED_ERROR, say("{line} dries", line=_name(line)))


def _steamed_off(component: Component, cooking: Cooking, gained: Sequence[WeightChange]) -> Iterable[WeightChange]:
    """What leaves as steam, spell by spell, from what is in the heat; never more than most of its water."""
    gained_g = sum(change.grams for change in gained)
    steaming = [x for x in component.lines if x.kept_g > 0 and _steams(x, cooking)]
    water_g = {x.key: x.kept_g * water_share(x.food) for x in steaming}
    most_g = (gained_g + sum(water_g.values())) * MOST_OF_THE_WATER
    is_topped_up = any(change.is_unlisted for change in gained)
    for spell in cooking.spells:
        if is_topped_up and spell.rate not in ("fry", "roast"):
            continue  # nobody listed the water, so what steams off is not missed: a usual yield is what stays
        inside = [x for x in steaming if x.key in spell.line_keys]
        wet_spell = spell.rate not in ("fry", "roast")
        weight = sum(x.kept_g * (1.0 if wet_spell else _pace(x)) for x in inside)
        weight += gained_g if wet_spell and inside else 0.0
        rate = STEAM_RATES[spell.rate]
        own_most = sum(water_g[x.key] for x in inside) + (gained_g if wet_spell else 0.0)
        grams = min(weight * rate.share_per_hour * spell.minutes / 60, own_most * MOST_OF_THE_WATER, most_g)
        if grams > 0:
            most_g -= grams
            words = say("steams off in {minutes} min {words}", minutes=short(spell.minutes), words=rate.words)
            yield WeightChange(-grams, grams * rate.relative_error, words)


def _pace(line: IngredientLine) -> float:
    return LEAVES_FASTER if line.food.keep_group == "leafy" else 1.0


def _steams(line: IngredientLine, cooking: Cooking) -> bool:
    """Whether a line loses by time: not what is boiled in water, dried, or loses its usual yield."""
    way = cooking.ways.get(line.key, RAW)
    if way in (RAW, SOAKED, DRAINED, DRIED):
        return False
    return not (way in (ROASTED, FRIED) and _loses_its_yield(line))


def _name(line: IngredientLine) -> str:
    return line.food.name.split(",")[0].lower()
