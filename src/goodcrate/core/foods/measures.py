"""Amounts as cooks write them: “2 tbsp”, “1 ½ cups”, “3 pcs”, “250 g cooked”, “about 40 g by eye”, “2–3 cloves”.

What is typed is read into a `TypedAmount` without knowing the food, and weighed against a food and the household's own
cup and spoons into an `Amount` in grams with its standard error. Sizes and errors come from `measures.csv`.
A volume needs a density and a count a piece weight: when the food has none, `FactMissing` says which one to ask for.
"""

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from functools import lru_cache
from math import hypot, sqrt

from goodcrate.core.foods.food import Food
from goodcrate.core.ground.amounts import LARGEST_LINE_G, UNIT_GRAMS, Amount, amount_of, read_number, shown
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.find import words_of
from goodcrate.core.ground.typed import bounded, whole_of

CONVENTIONS: Mapping[str, str] = {
    "metric": "metric: cup 250 ml, tablespoon 15 ml",
    "us": "US: cup 237 ml, tablespoon 14.8 ml",
    "australian": "Australian: cup 250 ml, tablespoon 20 ml",
    "imperial": "old imperial: cup 284 ml, tablespoon 17.8 ml",
}
_LOOK_IN: Mapping[str, tuple[str, ...]] = {
    "metric": ("metric", "any", "imperial", "us"),
    "us": ("us", "any", "metric", "imperial"),
    "australian": ("australian", "metric", "any", "imperial", "us"),
    "imperial": ("imperial", "any", "metric", "us"),
}


@dataclass(frozen=True, slots=True)
class HouseholdMeasure:
    """One row of `measures.csv`: `value` in ml or g by `kind`; `relative_error` is one standard deviation."""

    key: str
    convention: str
    kind: str
    value: float | None
    relative_error: float
    note: str


class MeasureTable:
    """Household measures by name and convention."""

    def __init__(self, rows: Iterable[HouseholdMeasure]) -> None:
        self.rows = tuple(rows)
        self._by_key = {(row.key, row.convention): row for row in self.rows}

    def get(self, key: str, convention: str = "metric") -> HouseholdMeasure:
        """The measure of this name in a household's convention, or in the nearest one that has it.

        Raises:
            InvalidInput: when no convention has it, or the convention is unknown.
        """
        if convention not in _LOOK_IN:
            raise InvalidInput("measures", f"“{convention}” is no set of cups and spoons we know.", "Choose one.")
        for name in _LOOK_IN[convention]:
            row = self._by_key.get((key, name))
            if row is not None:
                return row
        raise InvalidInput("measure", f"“{key}” is no measure we know.", "Use g, ml, spoons, cups or pieces.")


class FactMissing(InvalidInput):
    """The food lacks a fact this amount needs. `fact` is its name in `Food`; `ask` the question to the cook."""

    def __init__(self, field: str, fact: str, ask: str, wanted: str) -> None:
        self.fact, self.ask = fact, ask
        super().__init__(field, ask, wanted)


_MASS, _VOLUME, _COUNT, _EYE, _PACK = "mass", "volume", "count", "eye", "pack"
_SPELLINGS: Mapping[tuple[str, str], str] = {
    (_MASS, "g"): "g gr gram grams",
    (_MASS, "kg"): "kg kilo kilos kilogram kilograms",
    (_MASS, "mg"): "mg",
    (_MASS, "oz"): "oz ounce ounces",
    (_MASS, "lb"): "lb lbs pound pounds",
    (_VOLUME, "ml"): "ml millilitre millilitres milliliter milliliters cc",
    (_VOLUME, "cl"): "cl",
    (_VOLUME, "dl"): "dl",
    (_VOLUME, "litre"): "l litre litres liter liters",
    (_VOLUME, "cup"): "cup cups c",
    (_VOLUME, "tablespoon"): "tbsp tbsps tbs tablespoon tablespoons",
    (_VOLUME, "dessertspoon"): "dsp dstsp dessertspoon dessertspoons",
    (_VOLUME, "teaspoon"): "tsp tsps teaspoon teaspoons",
    (_VOLUME, "fluid_ounce"): "floz fluidounce fluidounces",
    (_VOLUME, "pint"): "pint pints pt",
    (_VOLUME, "quart"): "quart quarts qt",
    (_VOLUME, "drop"): "drop drops",
    (_VOLUME, "dash"): "dash dashes",
    (_VOLUME, "pinch"): "pinch pinches",
    (_COUNT, "piece"): "piece pieces pc pcs whole each small medium large",
    (_COUNT, "slice"): "slice slices",
    (_COUNT, "clove"): "clove cloves",
    (_COUNT, "bunch"): "bunch bunches",
    (_PACK, "pack"): "pack packs packet packets tin tins can cans jar jars bag bags carton cartons tub tubs",
    (_EYE, "handful"): "handful handfuls",
    (_EYE, "splash"): "splash splashes",
    (_EYE, "drizzle"): "drizzle drizzles",
    (_EYE, "knob"): "knob knobs",
}
_UNITS: Mapping[str, tuple[str, str]] = {
    word: unit for unit, spellings in _SPELLINGS.items() for word in spellings.split()
}
_BY_EYE_G: Mapping[str, float] = {"knob": 15.0}
_BY_EYE_ML: Mapping[str, float] = {"splash": 12.5, "drizzle": 10.0}
_HANDFUL_G: Mapping[str, float] = {"nut_seed": 30.0, "vegetable": 25.0, "herb": 25.0, "fruit": 70.0}
"""Middles of the ranges in the notes of `measures.csv`: knob 10–20 g, splash 10–15 ml, drizzle 5–15 ml; a handful
is 30 g of nuts, 25 g of leaves, 70 g of berries."""

COOKED, UNCOOKED, AS_BOUGHT = "cooked", "uncooked", "as bought"
_STATES: Mapping[str, str] = {
    **dict.fromkeys(("cooked", "boiled", "drained", "roasted", "baked", "soaked"), COOKED),
    **dict.fromkeys(("raw", "dry", "uncooked", "dried"), UNCOOKED),
    **dict.fromkeys(("as bought", "unpeeled", "with peel", "with bone", "with shell", "untrimmed"), AS_BOUGHT),
}
YIELD_ERROR = 0.05
"""One standard deviation of a weight carried over a usual yield: taken as large as a drained weight's, the nearest row
of `measures.csv` (pack_drained_weight); how far a cook's own pot strays is learned only by weighing it."""

_FRACTIONS = {
    "½": 1 / 2,
    "⅓": 1 / 3,
    "⅔": 2 / 3,
    "¼": 1 / 4,
    "¾": 3 / 4,
    "⅛": 1 / 8,
    "⅜": 3 / 8,
    "⅝": 5 / 8,
    "⅞": 7 / 8,
}
_NUMBER_WORDS = {"a": 1.0, "an": 1.0, "one": 1.0, "two": 2.0, "three": 3.0, "four": 4.0, "five": 5.0, "six": 6.0,
                 "half": 0.5, "half a": 0.5, "half an": 0.5, "quarter": 0.25, "a quarter": 0.25,
                 "dozen": 12.0, "a dozen": 12.0}  # fmt: skip
_DIGITS = r"\d[\d.,'\u2009\u202f\u00a0]*\d|\d|[.,]\d+"
_ONE_NUMBER = rf"(?:(?:\d+\s*[½⅓⅔¼¾⅛⅜⅝⅞])|[½⅓⅔¼¾⅛⅜⅝⅞]|(?:\d+\s+)?\d+\s*/\s*\d+|(?:{_DIGITS}))"
_AMOUNT = re.compile(
    rf"\s*(?P<about>about|approx\.?|roughly|ca\.?|~)?\s*"
    rf"(?:(?P<times>\d+)\s*[x×]\s*)?"
    rf"(?P<low>{_ONE_NUMBER}|(?:half an?|a quarter|a dozen|an?|one|two|three|four|five|six|half|quarter|dozen)\b)"
    rf"(?:\s*(?:-|–|to\b|or\b)\s*(?P<high>{_ONE_NUMBER}))?\s*",
    re.IGNORECASE,
)
_UNIT_WORD = re.compile(
    r"(?P<heaped>heaped|heaping|rounded)?\s*(?:level\s+)?(?P<unit>fl\.?\s*oz|fluid ounces?|[a-zµ]+)\b\.?", re.I
)


@dataclass(frozen=True, slots=True)
class TypedAmount:
    """An amount as written, before a food is known. `low` to `high` is its range; `unit` a name in `measures.csv`.

    `state` is one of the other states the amount was weighed in, or empty; `is_by_eye` when the cook says so.
    """

    text: str
    low: float
    high: float
    kind: str | None
    unit: str
    state: str = ""
    is_by_eye: bool = False

    @property
    def quantity(self) -> float:
        """The middle of the range."""
        return (self.low + self.high) / 2


LONGEST_AMOUNT = 300
"""Letters of an amount with its food, as one line holds them."""
MOST_TIMES = 999
_LARGEST_OF: Mapping[str, float] = {"ml": LARGEST_LINE_G, "cl": 1000.0}
"""More of a measure than a home kitchen handles: “1.250 tbsp” is one and a quarter, “1,250 ml” is asked."""


def _one_number(text: str, field: str, largest: float) -> float:
    plain = text.strip().lower()
    if plain in _NUMBER_WORDS:
        return _NUMBER_WORDS[plain]
    fraction = re.fullmatch(r"(?:(\d+)\s+)?(\d+)\s*/\s*(\d+)", plain)
    if fraction:
        whole, top, bottom = (whole_of(part or "0", 9999) for part in fraction.groups())
        if bottom == 0:
            raise InvalidInput(field, f"“{text.strip()}” divides by nothing.", "Give a fraction such as 1/2.")
        if whole is None or top is None or bottom is None:
            raise InvalidInput(field, f"“{text.strip()[:24]}” is no fraction.", "Give a fraction such as 1/2.")
        return whole + top / bottom
    if plain[-1] in _FRACTIONS:
        return read_number(plain[:-1].strip() or "0", field, largest=largest) + _FRACTIONS[plain[-1]]
    return read_number(plain, field, largest=largest)


_OF_A_NUTRIENT = re.compile(
    r"\s*(?:kcals?|kj|k?cal(?:orie)?s?|kilojoules?)\b|\s*(?:of\s+)?(?:protein|fat|carbs?|carbohydrates?|fibre)\s+(?:from|of|in)\b",
    re.IGNORECASE,
)
"""An energy or a nutrient that is asked for, not a weight: “120 kcal of almonds”, “25 g of protein from turkey”."""


def without_asked_nutrient(text: str) -> str | None:
    """The food's name in a text that asks for an energy or a nutrient; None when it asks for neither."""
    typed = text[:LONGEST_AMOUNT].replace("−", "-").strip()
    found = _AMOUNT.match(typed)
    if found is None:
        return None
    rest = re.sub(r"^g\b", "", typed[found.end() :].lstrip())
    asked = _OF_A_NUTRIENT.match(rest)
    return None if asked is None else re.sub(r"^\s*(?:of|from|in)\b\s*", "", rest[asked.end() :]).strip()


@lru_cache(maxsize=4096)  # a page being typed sends the same lines again and again
def split_amount(text: str, field: str = "amount") -> tuple[TypedAmount | None, str]:
    """The amount a text begins with, and what is left of it: “37 g hazelnuts” → (37 g, “hazelnuts”).

    Without an amount at its beginning the whole text is left.

    Raises:
        InvalidInput: for a number that can be read in two ways, or a range from large to small.
    """
    typed = bounded(text, field, LONGEST_AMOUNT).replace("−", "-")
    found = _AMOUNT.match(typed)
    if found is None:
        return None, typed
    low_text, high_text = found["low"], found["high"]
    rest = typed[found.end() :]
    unit_found = _UNIT_WORD.match(rest)
    kind, unit = None, ""
    if unit_found:
        word = re.sub(r"[\s.]", "", unit_found["unit"].lower())
        if word in _UNITS:
            kind, unit = _UNITS[word]
            if unit_found["heaped"] and unit in ("tablespoon", "teaspoon"):
                unit += "_heaped"
            rest = rest[unit_found.end() :]
    asked = _OF_A_NUTRIENT.match(rest)
    if asked is not None:
        what = f"{typed[: found.end()].strip()} {asked[0].strip()}"
        raise InvalidInput(field, f"“{what}” is no weight yet.", "Type grams, pieces or spoons of the food.")
    if kind is None and (low_text.lower() in ("a", "an") or rest.lstrip().startswith("%")):
        return None, typed  # “a pear”, “4 % fat quark”: a name, no amount
    largest = LARGEST_LINE_G / UNIT_GRAMS[unit] if kind in (None, _MASS) else _LARGEST_OF.get(unit, 100.0)
    low = _one_number(low_text, field, largest)
    high = _one_number(high_text, field, largest) if high_text else low
    if high < low:
        raise InvalidInput(field, f"“{typed[: found.end()].strip()}” runs from large to small.", "Type 2–3.")
    times = whole_of(found["times"] or "1", MOST_TIMES)
    if times is None:
        raise InvalidInput(field, f"“{found['times'][:24]}” times is not possible.", f"Up to {MOST_TIMES}.")
    if times > 1 and kind == _MASS:  # “2 x 400 g tins”: the weight is the pack's
        tin = re.match(r"\s*(?:tins?|cans?|packs?|packets?|jars?|bags?|cartons?|tubs?)\b", rest, re.IGNORECASE)
        rest = rest[tin.end() :] if tin else rest
    rest = re.sub(r"^\s*(?:of\b\s*)?", "", rest)
    by_eye = re.match(r"by eye\b\s*", rest, re.IGNORECASE) or re.search(r"[\s,]+by eye$", rest, re.IGNORECASE)
    if by_eye:
        rest = (rest[: by_eye.start()] + rest[by_eye.end() :]).strip()
    head = typed[: len(typed) - len(rest)] if rest and typed.endswith(rest) else typed
    head = re.sub(r"\s+of$", "", head.strip(), flags=re.IGNORECASE)
    is_about = bool(found["about"]) and kind == _MASS
    return TypedAmount(head, low * times, high * times, kind, unit, "", is_by_eye=bool(by_eye) or is_about), rest.strip(
        " ,"
    )


def read_amount(text: str, field: str = "amount") -> TypedAmount:
    """An amount on its own, as in a recipe's line: nothing may be left of it but the state it was weighed in.

    Raises:
        InvalidInput: when there is none, or words we do not know.
    """
    wanted = "Such as 250 g, 1 ½ tbsp, 2 pcs or 180 g cooked."
    if not text.strip():
        raise InvalidInput(field, "No amount is typed.", wanted)
    if re.match(r"\s*[-−]\s*[\d.,]*[1-9]", bounded(text, field, LONGEST_AMOUNT)):
        raise InvalidInput(field, "An amount cannot be negative.", "Give 0 or more.")
    typed, rest = split_amount(text.strip().lstrip("+"), field)
    if typed is None:
        raise InvalidInput(field, f"“{text.strip()[:40]}” is not an amount.", wanted)
    words = rest.lower().strip(" .,()")
    if not words:
        return typed
    if words in _STATES:
        return replace(typed, text=text.strip(), state=_STATES[words])
    raise InvalidInput(field, f"“{rest[:30]}” is no measure we know.", wanted)


LARGEST_BARE_COUNT = 12


def counted_if_bare(typed: TypedAmount, food: Food) -> TypedAmount:
    """“2 eggs” are two pieces, “250 barley” are grams: a bare number up to twelve counts what comes in pieces."""
    if typed.kind is None and food.each_g is not None and typed.quantity <= LARGEST_BARE_COUNT:
        return replace(typed, kind=_COUNT, unit="piece")
    return typed


def is_a_count_of_nothing(typed: TypedAmount, food: Food, words: str) -> bool:
    """A bare small number whose words name no piece of the food: “2 eggs” are no nests of egg noodles, and no 2 g."""
    if typed.kind is not None or typed.quantity > LARGEST_BARE_COUNT:
        return False
    return piece_rank(food, words) == NO_PIECE


_SIZES = frozenset({"medium", "large", "small", "whole"})
THE_PIECE, A_PIECE, NO_PIECE = 0, 1, 2


def piece_rank(food: Food, words: str) -> int:
    """How well a food's piece answers typed words: it is what they name (“egg”), shares a word, or does neither."""
    if food.each_g is None or not food.each_name:
        return NO_PIECE
    meant, piece = set(words_of(words)), set(words_of(food.each_name.split(",")[0])) - _SIZES
    if piece in (meant, {"piece"}):
        return THE_PIECE
    return A_PIECE if set(words_of(food.each_name)) & meant else NO_PIECE


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
            field, f"{shown(grams)} g is more than a home kitchen handles here.", f"At most {shown(LARGEST_LINE_G)} g."
        )
    return Weighed(replace(amount, grams=grams, typed=typed.text), working, was_converted)


def _number(value: float) -> str:
    return f"{value:.3f}".rstrip("0").rstrip(".")


def _plain_amount(
    typed: TypedAmount, food: Food, table: MeasureTable, convention: str, measure: str, field: str
) -> tuple[Amount, str]:
    quantity, spread = typed.quantity, (typed.high - typed.low) / 2 / sqrt(3)
    if typed.kind in (None, _MASS):
        unit_g = UNIT_GRAMS[typed.unit]
        grams, spread_g = quantity * unit_g, spread * unit_g
        kind = "eye" if typed.is_by_eye else "pack" if " x " in typed.text or "×" in typed.text else measure
        base = amount_of(grams, kind)
        words = f"{_number(quantity)} g" if unit_g == 1 else f"{_number(quantity)} {typed.unit} × {_number(unit_g)} g"
        return Amount(grams, kind, hypot(base.standard_error_g, spread_g)), words
    if typed.kind == _VOLUME or typed.unit in _BY_EYE_ML:
        return _by_volume(typed, food, table, convention, quantity, spread, field=field)
    row = table.get(typed.unit if typed.kind != _PACK else "pack_stated_weight", convention)
    if typed.kind == _PACK:
        if food.pack_g is None:
            raise FactMissing(field, "pack_g", f"How many grams of {food.name.lower()} are in a pack?", "Grams.")
        grams = quantity * food.pack_g
        error = hypot(grams * row.relative_error, spread * food.pack_g)
        return Amount(grams, "pack", error), f"{_number(quantity)} × pack of {_number(food.pack_g)} g"
    if typed.kind == _COUNT:
        return _by_count(typed, food, table, convention, quantity, spread, field=field)
    each_g = _BY_EYE_G.get(typed.unit) or _HANDFUL_G.get(food.group)
    if each_g is None:
        raise InvalidInput(field, f"How much a {typed.unit} of {food.name.lower()} is, is not known.", "Give grams.")
    grams = quantity * each_g
    return Amount(grams, "eye", hypot(grams * row.relative_error, spread * each_g)), (
        f"{_number(quantity)} {_several(typed.unit, quantity)} × about {_number(each_g)} g"
    )


def _several(unit: str, quantity: float) -> str:
    """A measure's name for so many: tablespoon heaped, cups, pinches."""
    name = unit.replace("_", " ")
    if quantity <= 1 or unit in ("cl", "dl"):
        return name
    first, _, rest = name.partition(" ")
    plural = f"{first}es" if first.endswith(("ch", "sh")) else f"{first}s"
    return f"{plural} {rest}".strip() if first != "fluid" else "fluid ounces"


def _by_volume(
    typed: TypedAmount, food: Food, table: MeasureTable, convention: str, quantity: float, spread: float, field: str
) -> tuple[Amount, str]:
    row = table.get(typed.unit, convention)
    ml = row.value if row.value is not None else _BY_EYE_ML[typed.unit]
    if food.density_g_per_ml is None:
        raise FactMissing(
            field, "density_g_per_ml", f"How heavy is {food.name.lower()}? Weigh 100 ml of it.", "Grams of 100 ml."
        )
    error = row.relative_error
    if typed.unit == "ml" and quantity < 15:
        error = table.get("teaspoon", convention).relative_error  # below a spoon a jug shows no better than one
    grams = quantity * ml * food.density_g_per_ml
    of = f"{_number(quantity)} ml" if typed.unit == "ml" else f"{_number(quantity)} {_several(typed.unit, quantity)}"
    of += "" if typed.unit == "ml" else f" × {_number(ml)} ml"
    kind = "eye" if typed.kind == _EYE or typed.is_by_eye else "volume"
    return (
        Amount(grams, kind, hypot(grams * error, spread * ml * food.density_g_per_ml)),
        f"{of} × {_number(food.density_g_per_ml)} g per ml",
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
        raise FactMissing(field, "each_g", f"What does one {food.each_name or 'piece'} weigh?", "Grams of one.")
    key = "piece_graded" if food.group == "egg" and typed.unit == "piece" else typed.unit
    error = count_error(quantity, table.get(key, convention).relative_error)
    grams = quantity * food.each_g
    return (
        Amount(grams, "count", hypot(grams * error, spread * food.each_g)),
        f"{_number(quantity)} × {food.each_name or typed.unit} of about {_number(food.each_g)} g",
    )


def _into_own_state(state: str, food: Food, raw_partner: Partner | None, field: str) -> tuple[float | None, str, float]:
    """Factor from the weighed state to the food's own, how that is said, and the relative doubt of the factor."""
    if state == AS_BOUGHT:
        if food.refuse_pct is None:
            raise FactMissing(field, "refuse_pct", f"How much of {food.name.lower()} is thrown away?", "Per cent.")
        if food.refuse_pct == 0:
            return None, "", 0.0
        return 1 - food.refuse_pct / 100, f"as bought − {_number(food.refuse_pct)} % waste", YIELD_ERROR
    if state == COOKED and food.needs_cooking_yield:
        if food.cooked_yield is None:
            raise FactMissing(field, "cooked_yield", f"What does 1 g of {food.name.lower()} weigh cooked?", "Grams.")
        return 1 / food.cooked_yield, f"cooked ÷ {_number(food.cooked_yield)}", YIELD_ERROR
    if state == UNCOOKED and food.state == "cooked":
        if raw_partner is None:
            raise InvalidInput(
                field, f"What {food.name.lower()} weighed before cooking is not known.", "Weigh it cooked."
            )
        return (
            raw_partner.cooked_yield,
            f"of {raw_partner.name.lower()} × {_number(raw_partner.cooked_yield)}",
            YIELD_ERROR,
        )
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
        f"{shown(per_serving)} g dry a serving cooks to {shown(per_serving * food.cooked_yield)} g. "
        f"Was it weighed cooked? Then it is {shown(as_dry)} g dry.",
    )
