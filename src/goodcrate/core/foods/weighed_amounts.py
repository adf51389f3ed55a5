"""Typed amounts weighed: by volume, by count, by eye or from the pack, in the food's own state, with their doubt."""

from dataclasses import dataclass, replace
from math import hypot, sqrt

from goodcrate.core.foods.food import Food
from goodcrate.core.foods.measures import (
    _BY_EYE_G,
    _BY_EYE_ML,
    _COUNT,
    _EYE,
    _HANDFUL_G,
    _MASS,
    _PACK,
    _STATES,
    _VOLUME,
    AS_BOUGHT,
    COOKED,
    NUTRIENT,
    UNCOOKED,
    YIELD_ERROR,
    FactMissing,
    MeasureTable,
    TypedAmount,
)
from goodcrate.core.ground.amounts import LARGEST_LINE_G, UNIT_GRAMS, Amount, amount_of
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.nutrients import BY_KEY
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import near, short, shown


@dataclass(frozen=True, slots=True)
class Partner:
    """The raw or dry food that becomes a cooked one, with grams cooked per gram of it."""

    name: str
    cooked_yield: float


@dataclass(frozen=True, slots=True)
class Weighed:
    """A typed amount in grams of the food in its own state, with the working in words."""

    amount: Amount
    working: str
    was_converted: bool = False


def weigh(
    typed: TypedAmount,
    food: Food,
    table: MeasureTable,
    convention: str = "metric",
    *,
    measure: str = "weighed",
    raw_partner: Partner | None = None,
    field: str = "amount",
) -> Weighed:
    """What a typed amount of a food weighs, in g of the food as its figures stand.

    `measure` says how plain grams were established. A range counts as its middle, its width as doubt (half width ÷ √3).

    Raises:
        FactMissing: when the food lacks the density, piece weight, pack, yield or waste the amount needs.
        InvalidInput: for more than a home kitchen handles, or a handful of something no handful is known of.
    """
    if typed.kind == NUTRIENT:
        amount, working = _by_nutrient(typed, food, field)
    elif typed.unit == SERVING:
        amount, working = _by_serving(typed, food, field)
    else:
        amount, working = _plain_amount(typed, food, table, convention, measure, field)
    was_converted = False
    if typed.state:
        factor, how, doubt = _into_own_state(typed.state, food, raw_partner, field)
        if factor is not None:
            error = hypot(amount.standard_error_g * factor, amount.grams * factor * doubt)
            amount = replace(amount, grams=amount.grams * factor, standard_error_g=error)
            working, was_converted = f"{working} {how}", True
    grams = round(amount.grams, 1)
    if grams > LARGEST_LINE_G:
        raise InvalidInput(
            field,
            say("{grams} g is more than a home kitchen handles here.", grams=shown(grams)),
            say("At most {LARGEST_LINE_G} g.", LARGEST_LINE_G=shown(LARGEST_LINE_G)),
        )
    return Weighed(Amount(grams, amount.measure, amount.standard_error_g, typed.text), working, was_converted)


def _plain_amount(
    typed: TypedAmount, food: Food, table: MeasureTable, convention: str, measure: str, field: str
) -> tuple[Amount, str]:
    quantity, spread = typed.quantity, (typed.high - typed.low) / 2 / sqrt(3)
    if typed.kind in (None, _MASS):
        unit_g = UNIT_GRAMS[typed.unit]
        grams, spread_g = quantity * unit_g, spread * unit_g
        kind = "eye" if typed.is_by_eye else "pack" if " x " in typed.text or "×" in typed.text else measure
        base = amount_of(grams, kind)
        words = f"{short(quantity)} g" if unit_g == 1 else f"{short(quantity)} {typed.unit} × {short(unit_g)} g"
        return Amount(grams, kind, hypot(base.standard_error_g, spread_g)), words
    if typed.kind == _VOLUME or typed.unit in _BY_EYE_ML:
        return _by_volume(typed, food, table, convention, quantity, spread, field=field)
    row = table.get(typed.unit if typed.kind != _PACK else "pack_stated_weight", convention)
    if typed.kind == _PACK:
        if food.pack_g is None:
            raise FactMissing(
                field, "pack_g", say("How many grams of {name} are in a pack?", name=food.name.lower()), say("Grams.")
            )
        grams = quantity * food.pack_g
        error = hypot(grams * row.relative_error, spread * food.pack_g)
        return Amount(grams, "pack", error), say(
            "{quantity} × pack of {pack_g} g", quantity=short(quantity), pack_g=short(food.pack_g)
        )
    if typed.kind == _COUNT:
        return _by_count(typed, food, table, convention, quantity, spread, field=field)
    each_g = _BY_EYE_G.get(typed.unit) or _HANDFUL_G.get(food.group)
    if each_g is None:
        raise InvalidInput(
            field,
            say("How much a {unit} of {name} is, is not known.", unit=typed.unit, name=food.name.lower()),
            say("Give grams."),
        )
    grams = quantity * each_g
    return Amount(grams, "eye", hypot(grams * row.relative_error, spread * each_g)), (
        say(
            "{quantity} {unit} × about {each_g} g",
            quantity=short(quantity),
            unit=_several(typed.unit, quantity),
            each_g=short(each_g),
        )
    )


SERVING = "serving"


def _by_serving(typed: TypedAmount, food: Food, field: str) -> tuple[Amount, str]:
    """Servings as a label has them."""
    quantity, spread = typed.quantity, (typed.high - typed.low) / 2 / sqrt(3)
    if food.serving_g is None:
        raise FactMissing(
            field,
            "serving_g",
            say("How many grams is a serving of {name}?", name=food.name.lower()),
            say("Grams of one."),
        )
    grams = quantity * food.serving_g
    error = hypot(grams * SMALLEST_COUNT_ERROR, spread * food.serving_g)
    return Amount(grams, "count", error), say(
        "{quantity} × serving of {serving_g} g", quantity=short(quantity), serving_g=short(food.serving_g)
    )


def _by_nutrient(typed: TypedAmount, food: Food, field: str) -> tuple[Amount, str]:
    """What gives so much energy or so much of a nutrient: grams to weigh, and how many pieces that is."""
    nutrient = BY_KEY[typed.unit]
    per_100_g = food.composition.get(typed.unit)
    if not per_100_g:
        known = say("holds none") if per_100_g == 0 else say("is not known to hold any")
        raise InvalidInput(field, f"{food.name} {known}: {nutrient.label}.", say("Give grams."))
    grams = typed.quantity * 100 / per_100_g
    working = say(
        "{quantity} {unit} ÷ {per_100_g} {unit} per g",
        quantity=short(typed.quantity),
        unit=nutrient.unit,
        per_100_g=short(per_100_g / 100),
    )
    if food.each_g and food.each_name:
        working += say(", about {grams} × {each_name}", grams=near(grams / food.each_g, 2), each_name=food.each_name)
    return amount_of(grams, "weighed"), working


def _several(unit: str, quantity: float) -> str:
    """A measure's name for so many: tablespoon heaped, cups, pinches."""
    name = unit.replace("_", " ")
    if quantity <= 1 or unit in ("cl", "dl"):
        return name
    first, _, rest = name.partition(" ")
    plural = f"{first}es" if first.endswith(("ch", "sh")) else f"{first}s"
    return f"{plural} {rest}".strip() if first != "fluid" else say("fluid ounces")


def _by_volume(
    typed: TypedAmount, food: Food, table: MeasureTable, convention: str, quantity: float, spread: float, field: str
) -> tuple[Amount, str]:
    row = table.get(typed.unit, convention)
    ml = row.value if row.value is not None else _BY_EYE_ML[typed.unit]
    if food.density_g_per_ml is None:
        raise FactMissing(
            field,
            "density_g_per_ml",
            say("How heavy is {name}? Weigh 100 ml of it.", name=food.name.lower()),
            say("Grams of 100 ml."),
        )
    error = row.relative_error
    if typed.unit == "ml" and quantity < 15:
        error = table.get("teaspoon", convention).relative_error  # below a spoon a jug shows no better than one
    grams = quantity * ml * food.density_g_per_ml
    of = (
        say("{quantity} ml", quantity=short(quantity))
        if typed.unit == "ml"
        else f"{short(quantity)} {_several(typed.unit, quantity)}"
    )
    of += "" if typed.unit == "ml" else say(" × {ml} ml", ml=short(ml))
    kind = "eye" if typed.kind == _EYE or typed.is_by_eye else "volume"
    return (
        Amount(grams, kind, hypot(grams * error, spread * ml * food.density_g_per_ml)),
        say("{of} × {density_g_per_ml} g per ml", of=of, density_g_per_ml=short(food.density_g_per_ml)),
    )


SMALLEST_COUNT_ERROR = 0.08
"""The typical weight of a piece is itself no surer than 8 % (`measures.csv`, piece)."""


def count_error(count: float, single: float) -> float:
    """Relative error of `count` pieces of mixed size: single ÷ √n, but not below 8 % (`measures.csv`, piece)."""
    return max(min(single, SMALLEST_COUNT_ERROR), single / sqrt(max(1.0, count)))


def _by_count(
    typed: TypedAmount, food: Food, table: MeasureTable, convention: str, quantity: float, spread: float, field: str
) -> tuple[Amount, str]:
    if food.each_g is None:
        raise FactMissing(
            field,
            "each_g",
            say("What does one {each_name} weigh?", each_name=food.each_name or say("piece")),
            say("Grams of one."),
        )
    key = "piece_graded" if food.group == "egg" and typed.unit == "piece" else typed.unit
    error = count_error(quantity, table.get(key, convention).relative_error)
    grams = quantity * food.each_g
    one = food.each_name or typed.unit
    told = say("{count} × {one} of about {each} g", count=short(quantity), one=one, each=short(food.each_g))
    return Amount(grams, "count", hypot(grams * error, spread * food.each_g)), told


def _into_own_state(state: str, food: Food, raw_partner: Partner | None, field: str) -> tuple[float | None, str, float]:
    """Factor from the weighed state to the food's own, how that is said, and the relative doubt of the factor."""
    if state == AS_BOUGHT:
        if food.refuse_pct is None:
            raise FactMissing(
                field, "refuse_pct", say("How much of {name} is thrown away?", name=food.name.lower()), say("Per cent.")
            )
        if food.refuse_pct == 0:
            return None, "", 0.0
        return (
            1 - food.refuse_pct / 100,
            say("as bought − {refuse_pct} % waste", refuse_pct=short(food.refuse_pct)),
            YIELD_ERROR,
        )
    if state == COOKED and food.needs_cooking_yield:
        if food.cooked_yield is None:
            raise FactMissing(
                field,
                "cooked_yield",
                say("What does 1 g of {name} weigh cooked?", name=food.name.lower()),
                say("Grams."),
            )
        return 1 / food.cooked_yield, say("cooked ÷ {cooked_yield}", cooked_yield=short(food.cooked_yield)), YIELD_ERROR
    if state == UNCOOKED and food.state == "cooked":
        if raw_partner is None:
            problem = say("What {name} weighed before cooking is not known.", name=food.name.lower())
            raise InvalidInput(field, problem, say("Weigh it cooked."))
        factor = raw_partner.cooked_yield
        return factor, say("of {name} × {factor}", name=raw_partner.name.lower(), factor=short(factor)), YIELD_ERROR
    return None, "", 0.0


LARGEST_DRY_SERVING_G = 130.0
"""More of a dry grain, pasta or pulse in one serving is asked about: our own threshold, two usual servings."""


@dataclass(frozen=True, slots=True)
class StateSlip:
    """A dry food in a cooked food's weight, most likely: what it would be if it was weighed cooked, in g dry."""

    grams: float
    as_dry_g: float
    sentence: str


def state_slip(amount: Amount, food: Food, servings: float) -> StateSlip | None:
    """Query the classic slip: dry figures on a cooked weight. None when the amount looks dry, or its state was said.

    Only foods that at least double in the pot are judged; the amount is per serving of the whole recipe.
    """
    if food.state != "dry" or food.cooked_yield is None or food.cooked_yield < 2 or servings <= 0:
        return None
    per_serving = amount.grams / servings
    if per_serving <= LARGEST_DRY_SERVING_G or any(word in amount.typed.lower() for word in _STATES):
        return None
    as_dry = amount.grams / food.cooked_yield
    return StateSlip(
        amount.grams,
        as_dry,
        say(
            "{per_serving} g dry a serving cooks to {per_serving2} g. Was it weighed cooked? "
            "Then it is {as_dry} g dry.",
            per_serving=shown(per_serving),
            per_serving2=shown(per_serving * food.cooked_yield),
            as_dry=shown(as_dry),
        ),
    )
