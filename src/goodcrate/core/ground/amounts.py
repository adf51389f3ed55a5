"""Amounts in grams: how one was established, how sure it is, and how typed text is read."""

import re
from dataclasses import dataclass
from math import sqrt

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.typed import LARGEST_NUMBER, bounded
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import WRITING, round_half_up, short, shown

SCALE_RESOLUTION_G = 1.0
LARGEST_LINE_G = 10_000.0
"""No single ingredient line, portion or box of a home kitchen is heavier: a figure above is a slip."""
LARGEST_POT_G = 40_000.0
"""No home pot with its food is heavier."""


@dataclass(frozen=True, slots=True)
class Measure:
    """How an amount was established. `relative_error` is one standard deviation as a share of the amount."""

    key: str
    label: str
    relative_error: float


MEASURES: dict[str, Measure] = {
    m.key: m
    for m in (
        Measure("weighed", Saying("weighed"), 0.0),
        Measure("pack", Saying("from the pack"), 0.02),
        Measure("count", Saying("counted"), 0.15),
        Measure("volume", Saying("spoon or cup"), 0.10),
        Measure("eye", Saying("by eye"), 0.35),
    )
}
"""Typical errors, one standard deviation; rows pack_stated_weight, piece, cup and by_eye of `measures.csv`."""


def reading_error_g(resolution_g: float = SCALE_RESOLUTION_G) -> float:
    """Standard error in g of one scale reading: resolution / √3 (`measures.csv`, scale_1g).

    Raises:
        InvalidInput: when the resolution is not above zero.
    """
    if resolution_g <= 0:
        raise InvalidInput(
            "resolution_g",
            say("{resolution_g} g is no scale.", resolution_g=short(resolution_g)),
            say("A scale's step is above 0 g."),
        )
    return resolution_g / sqrt(3)


def difference_error_g(resolution_g: float = SCALE_RESOLUTION_G) -> float:
    """Standard error in g of gross minus tare: two independent readings.

    Raises:
        InvalidInput: when the resolution is not above zero.
    """
    return reading_error_g(resolution_g) * sqrt(2)


@dataclass(frozen=True, slots=True)
class Amount:
    """Grams of something, with how they were established, their standard error in g, and the words typed for them."""

    grams: float
    measure: str
    standard_error_g: float
    typed: str = ""

    @property
    def is_read_off_a_scale(self) -> bool:
        """Weighed as it is: nothing but the scale's step is in doubt (not weighed in another state, not a range)."""
        return self.measure == "weighed" and self.standard_error_g <= reading_error_g() * 1.001

    def scaled_to(self, grams: float) -> "Amount":
        """Another quantity established the same way: the scale's error stays, a relative one grows with it."""
        if self.is_read_off_a_scale or self.grams <= 0:
            return amount_of(grams, self.measure)
        return Amount(grams, self.measure, self.standard_error_g * grams / self.grams)


def amount_of(grams: float, measure: str = "weighed", resolution_g: float = SCALE_RESOLUTION_G) -> Amount:
    """Give an amount its standard error: the scale's for what was weighed, else the measure's typical share.

    Raises:
        InvalidInput: for a negative amount or a measure we do not know.
    """
    if grams < 0:
        raise InvalidInput("grams", say("An amount cannot be negative."), say("Give 0 or more grams."))
    try:
        kind = MEASURES[measure]
    except KeyError:
        raise InvalidInput(
            "measure",
            say("“{measure}” is no measure.", measure=measure),
            say("Choose one of {MEASURES}.", MEASURES=", ".join(MEASURES)),
        ) from None
    if kind.key == "weighed":
        return Amount(grams, measure, reading_error_g(resolution_g) if grams > 0 else 0.0)
    return Amount(grams, measure, grams * kind.relative_error)


UNIT_GRAMS: dict[str, float] = {
    "": 1.0,
    "g": 1.0,
    "gr": 1.0,
    "gram": 1.0,
    "grams": 1.0,
    "kg": 1000.0,
    "kilo": 1000.0,
    "kilos": 1000.0,
    "kilogram": 1000.0,
    "kilograms": 1000.0,
    "mg": 0.001,
    "oz": 28.3495,
    "lb": 453.592,
    "lbs": 453.592,
}
"""Mass units in grams (`measures.csv`: gram, kg, ounce, pound)."""

_NUMBER_AND_UNIT = re.compile(r"([+-]?)([\d.,'’\s]*\d[\d.,'’\s]*?|[.,]\d+)\s*([a-zµ]*)\.?", re.IGNORECASE)


_THREE_AFTER = re.compile(r"[1-9]\d{0,2}[.,]\d{3}")
_GROUPED = re.compile(r"\d{1,3}(?:[\s'’\u2009\u202f\u00a0]\d{3})+(?=$|[.,])")


def is_ambiguous(text: str) -> bool:
    """Whether typed digits can be thousands or a decimal: “1.250” and “1,250” can, “0.250” and “12.50” cannot."""
    return len(text) < 40 and _THREE_AFTER.fullmatch(text.strip().lstrip("+-")) is not None


_TWO_WAYS = re.compile(r"(?<![\d.,])[1-9]\d{0,2}[.,]\d{3}(?![\d.,])")


def is_read_otherwise(typed: str) -> bool:
    """Whether a text typed at another time might mean something else now: the household has chosen its decimal sign."""
    return bool(WRITING.get().decimal) and _TWO_WAYS.search(typed) is not None


def read_number(
    text: str,
    field: str,
    wanted: str = Saying("Give a number, such as 250."),
    *,
    smallest: float | None = None,
    largest: float | None = None,
    is_point_decimal: bool = False,
) -> float:
    """Read a typed number: decimal point or comma; spaces, apostrophes, commas or points between thousands.

    “1,250” and “1.250” can mean one and a quarter or twelve hundred and fifty. Where only one of them lies between
    `smallest` and `largest`, that is meant; else what the household's decimal sign says, and one that has chosen none
    is asked back. Files write decimals with a point (`is_point_decimal`).

    Raises:
        InvalidInput: when the text is empty, no number, or can be read in two ways.
    """
    typed = bounded(text, field)
    if not typed:
        raise InvalidInput(field, say("Nothing is typed here."), wanted)
    digits = _GROUPED.sub(lambda found: re.sub(r"\D", "", found[0]), typed)
    sign = -1.0 if digits.startswith("-") else 1.0
    digits = digits.lstrip("+-") if digits[:1] in "+-" else digits
    if is_ambiguous(digits) and not (is_point_decimal and "." in digits):
        thousands, decimal = re.sub(r"[.,]", "", digits), digits.replace(",", ".")
        fits = [
            value
            for value in (float(thousands), float(decimal))
            if (smallest is None or value >= smallest) and (largest is None or value <= largest)
        ]
        if len(fits) == 1:
            return sign * fits[0]
        if sure := WRITING.get().decimal:
            return sign * float(decimal if sure in digits else thousands)
        shorter = decimal.rstrip("0")
        single = f"{shorter}0" if shorter.endswith(".") else shorter if len(shorter) < len(decimal) else f"{decimal}0"
        raise InvalidInput(
            field,
            say("“{typed}” can be read in two ways.", typed=typed[:40]),
            say("Type {thousands} or {single}.", thousands=thousands, single=single),
        )
    plain = _without_grouping(digits)
    if plain is None:
        raise InvalidInput(field, say("“{typed}” is not a number.", typed=typed[:40]), wanted)
    value = sign * float(plain)
    if abs(value) > LARGEST_NUMBER:
        raise InvalidInput(field, say("“{typed}…” is larger than anything here.", typed=typed[:24]), wanted)
    return value


def _without_grouping(digits: str) -> str | None:
    """Digits with a decimal point at most, their thousands no longer grouped; None when they are no number."""
    if re.fullmatch(r"\d{1,3}(,\d{3})+\.\d*|\d{1,3}(,\d{3}){2,}", digits):
        digits = digits.replace(",", "")
    elif re.fullmatch(r"\d{1,3}(\.\d{3})+,\d*|\d{1,3}(\.\d{3}){2,}", digits):
        digits = digits.replace(".", "")
    digits = digits.replace(",", ".")
    return digits if re.fullmatch(r"\d+\.?\d*|\.\d+", digits) else None


def read_grams(
    text: str, field: str, largest_g: float = LARGEST_LINE_G, allow_zero: bool = True, decimals: int = 1
) -> float:
    """Read typed grams: "250", "250 g", "1,5 kg", "2 oz"; the result is rounded to `decimals` of a gram.

    Raises:
        InvalidInput: for empty, non-numeric, ambiguous, negative or absurdly large text, or a unit that is no mass.
    """
    wanted = say("Give grams, such as 250, or {short} kg.", short=short(1.5))
    typed = bounded(text, field)
    if not typed:
        raise InvalidInput(field, say("No amount is typed."), wanted)
    match = _NUMBER_AND_UNIT.fullmatch(typed.replace("−", "-").replace("\u00a0", " "))
    if match is None:
        raise InvalidInput(field, say("“{typed}” is not an amount in grams.", typed=typed[:40]), wanted)
    sign, number, unit = match.groups()
    unit = unit.lower()
    if unit not in UNIT_GRAMS:
        raise InvalidInput(field, say("“{unit}” is no unit of weight we know.", unit=unit), say("Use g, kg, oz or lb."))
    most = largest_g / UNIT_GRAMS[unit]  # "1,500 kg" in a home kitchen is one and a half kilograms
    grams = round_half_up(read_number(number, field, wanted, largest=most) * UNIT_GRAMS[unit], decimals)
    if sign == "-" and grams > 0:
        raise InvalidInput(field, say("An amount cannot be negative."), say("Give 0 or more grams."))
    if grams == 0 and not allow_zero:
        raise InvalidInput(field, say("This cannot be 0 g."), wanted)
    if grams > largest_g:
        raise InvalidInput(
            field,
            say("{grams} g is more than a home kitchen handles here.", grams=shown(grams)),
            say("At most {largest_g} g.", largest_g=shown(largest_g)),
        )
    return grams
