"""Amounts as cooks write them: “2 tbsp”, “1 ½ cups”, “3 pcs”, “250 g cooked”, “about 40 g by eye”, “2–3 cloves”.

What is typed is read into a `TypedAmount` without knowing the food, and weighed against a food and the household's own
cup and spoons into an `Amount` in grams with its standard error. Sizes and errors come from `measures.csv`.
A volume needs a density and a count a piece weight: when the food has none, `FactMissing` says which one to ask for.
"""

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from functools import lru_cache

from goodcrate.core.foods.food import Food
from goodcrate.core.foods.label_figures import KJ_PER_KCAL
from goodcrate.core.foods.numbers import number_of
from goodcrate.core.foods.units import LOOSE
from goodcrate.core.foods.units import UNITS as LINE_UNITS
from goodcrate.core.ground.amounts import LARGEST_LINE_G, UNIT_GRAMS, read_number
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.find import words_of
from goodcrate.core.ground.typed import bounded, whole_of
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import WRITING, Writing

CONVENTIONS: Mapping[str, str] = {
    "metric": Saying("metric: cup 250 ml, tablespoon 15 ml"),
    "us": Saying("US: cup 237 ml, tablespoon 14.8 ml"),
    "australian": Saying("Australian: cup 250 ml, tablespoon 20 ml"),
    "imperial": Saying("old imperial: cup 284 ml, tablespoon 17.8 ml"),
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
            raise InvalidInput(
                "measures",
                say("“{convention}” is no set of cups and spoons we know.", convention=convention),
                say("Choose one."),
            )
        for name in _LOOK_IN[convention]:
            row = self._by_key.get((key, name))
            if row is not None:
                return row
        raise InvalidInput(
            "measure", say("“{key}” is no measure we know.", key=key), say("Use g, ml, spoons, cups or pieces.")
        )


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
    **{word: (_COUNT, unit) for word, (kind, unit) in LINE_UNITS.items() if kind == LOOSE},
    **{word: unit for unit, spellings in _SPELLINGS.items() for word in spellings.split()},
}
"""Kind and unit by the word as it is typed; what only lines know is counted, and weighed by the tables of sizes."""
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
_SHARES = "(?:a third|two thirds|a quarter|three quarters) of an?|a third|two thirds|three quarters|a few|a couple of"
_AMOUNT = re.compile(
    rf"\s*(?P<about>about|approx\.?|roughly|ca\.?|~)?\s*"
    rf"(?:(?P<times>\d+)\s*[x×]\s*)?"
    rf"(?P<low>{_ONE_NUMBER}|(?:{_SHARES}|half an?|a quarter|a dozen|an?|one|two|three|four|five|six|half|quarter|"
    r"dozen)\b)"
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


MOST_ASKED = 9999.0
"""More of an energy or a nutrient than anybody asks a line for."""
LONGEST_AMOUNT = 300
"""Letters of an amount with its food, as one line holds them."""
MOST_TIMES = 999
_LARGEST_OF: Mapping[str, float] = {"ml": LARGEST_LINE_G, "cl": 1000.0}
"""More of a measure than a home kitchen handles: “1.250 tbsp” is one and a quarter, “1,250 ml” is asked."""


def _one_number(text: str, field: str, largest: float) -> float:
    plain = text.strip().lower()
    if plain in _NUMBER_WORDS:
        return _NUMBER_WORDS[plain]
    if re.fullmatch(_SHARES, plain):
        return number_of(plain)
    fraction = re.fullmatch(r"(?:(\d+)\s+)?(\d+)\s*/\s*(\d+)", plain)
    if fraction:
        whole, top, bottom = (whole_of(part or "0", 9999) for part in fraction.groups())
        wanted = say("Give a fraction such as 1/2.")
        if bottom == 0:
            raise InvalidInput(field, say("“{text}” divides by nothing.", text=text.strip()), wanted)
        if whole is None or top is None or bottom is None:
            raise InvalidInput(field, say("“{text}” is no fraction.", text=text.strip()[:24]), wanted)
        return whole + top / bottom
    if plain[-1] in _FRACTIONS:
        return read_number(plain[:-1].strip() or "0", field, largest=largest) + _FRACTIONS[plain[-1]]
    return read_number(plain, field, largest=largest)


NUTRIENT = "nutrient"
"""The kind of an amount that is asked for by what it gives: “120 kcal of almonds”, “25 g of protein from turkey”."""
_ASKED: Mapping[str, tuple[str, float]] = {
    **dict.fromkeys(("kcal", "kcals", "cal", "cals", "calorie", "calories"), ("energy_kcal", 1.0)),
    **dict.fromkeys(("kj", "kilojoule", "kilojoules"), ("energy_kcal", 1 / KJ_PER_KCAL)),
    "protein": ("protein_g", 1.0),
    "fat": ("fat_g", 1.0),
    "fibre": ("fibre_g", 1.0),
    **dict.fromkeys(("carb", "carbs", "carbohydrate", "carbohydrates"), ("carbohydrate_g", 1.0)),
}
"""The nutrient a word asks for, and what one of its unit is in the nutrient's."""
_OF_ENERGY = re.compile(r"\s*(kcals?|kj|cal(?:orie)?s?|kilojoules?)\b\s*(?:of|from|in)?\b", re.IGNORECASE)
_OF_A_NUTRIENT = re.compile(
    r"\s*(?:of\s+)?(?:(protein|fat|carbs?|carbohydrates?|fibre)(?:\s+(?:from|of|in)\b|$)"
    r"|(protein)\s+(?!powder|bar|shake|drink|yog|isolate|pudding|bread|pasta|milk|crisp))",
    re.IGNORECASE,
)


def _asked_nutrient(kind: str | None, unit: str, rest: str) -> tuple[str, float, int] | None:
    """Nutrient, factor and where the food begins, when an amount is asked for by what it gives."""
    found = _OF_ENERGY.match(rest) if kind is None else _OF_A_NUTRIENT.match(rest) if unit == "g" else None
    if found is None:
        return None
    key, factor = _ASKED[next(word for word in found.groups() if word).lower()]
    return key, factor, found.end()


def split_amount(text: str, field: str = "amount") -> tuple[TypedAmount | None, str]:
    """The amount a text begins with, and what is left of it: “37 g hazelnuts” → (37 g, “hazelnuts”).

    Without an amount at its beginning the whole text is left.

    Raises:
        InvalidInput: for a number that can be read in two ways, or a range from large to small.
    """
    return _split(text, field, WRITING.get())


@lru_cache(maxsize=4096)  # a page being typed sends the same lines again and again
def _split(text: str, field: str, writing: Writing) -> tuple[TypedAmount | None, str]:
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
    asked = _asked_nutrient(kind, unit, rest)
    if asked is not None:
        key, factor, end = asked
        value = _one_number(low_text, field, MOST_ASKED)
        said = typed[: len(typed) - len(rest) + end]
        text_of = re.sub(r"\s+(?:of|from|in)\s*$", "", said.strip(), flags=re.IGNORECASE)
        return TypedAmount(text_of, value * factor, value * factor, NUTRIENT, key), rest[end:].strip(" ,")
    if kind is None and (low_text.lower() in ("a", "an") or rest.lstrip().startswith("%")):
        return None, typed  # “a pear”, “4 % fat quark”: a name, no amount
    largest = LARGEST_LINE_G / UNIT_GRAMS[unit] if kind in (None, _MASS) else _LARGEST_OF.get(unit, 100.0)
    low = _one_number(low_text, field, largest)
    high = _one_number(high_text, field, largest) if high_text else low
    if high < low:
        raise InvalidInput(
            field, say("“{typed}” runs from large to small.", typed=typed[: found.end()].strip()), say("Type 2–3.")
        )
    times = whole_of(found["times"] or "1", MOST_TIMES)
    if times is None:
        problem = say("“{times}” times is not possible.", times=found["times"][:24])
        raise InvalidInput(field, problem, say("Up to {most}.", most=MOST_TIMES))
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
    wanted = say("Such as 250 g, 1 ½ tbsp, 2 pcs or 180 g cooked.")
    if not text.strip():
        raise InvalidInput(field, say("No amount is typed."), wanted)
    if re.match(r"\s*[-−]\s*[\d.,]*[1-9]", bounded(text, field, LONGEST_AMOUNT)):
        raise InvalidInput(field, say("An amount cannot be negative."), say("Give 0 or more."))
    typed, rest = split_amount(text.strip().lstrip("+"), field)
    if typed is None:
        raise InvalidInput(field, say("“{text}” is not an amount.", text=text.strip()[:40]), wanted)
    words = rest.lower().strip(" .,()")
    if not words:
        return typed
    if words in _STATES:
        return replace(typed, text=text.strip(), state=_STATES[words])
    raise InvalidInput(field, say("“{rest}” is no measure we know.", rest=rest[:30]), wanted)


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
