"""The amount in a line: a number with the unit, the pack or the piece it counts, wherever it stands."""

import re
from dataclasses import dataclass, replace

from goodcrate.core.foods.line.words import SIZES
from goodcrate.core.foods.numbers import DIGITS, PLAIN, WORDED, number_of
from goodcrate.core.foods.units import BY_HAND, CONTAINERS, LOOSE, MASS, NONE, UNITS, VOLUME
from goodcrate.core.ground.amounts import UNIT_GRAMS

LARGEST = 1_000_000.0
"""No amount of a line is larger; what is, is asked about."""
LARGEST_LAST_COUNT = 20
"""A bare number at the end of a line counts pieces up to this: “eggs 3”."""
_TO_CM = {"cm": 1.0, "mm": 0.1}
CM_PER_INCH = 2.54

_ABOUT = re.compile(
    r"^(?:about|around|approximately|approx\.?|roughly|circa|ca\.?|c\.|~|up to|at least|scant|generous|good|heaped|"
    r"plus)\s*"
)
_NO_AMOUNT = re.compile(r"^(?:a little(?: bit of)?|a bit of|a touch of|some|plenty of|lots of|enough|a lot of)\s+")
_NUMBER = re.compile(rf"({PLAIN})|({WORDED})")
_RANGE = re.compile(rf"\s*(?:-|to|or)\s*({PLAIN})")
_TIMES = re.compile(rf"^({DIGITS})\s*x\s*(?=\d)")
_UNIT = re.compile(r"^\s*(?:-\s*)?(fl\.? ?oz\.?|fluid ounces?|[a-z]+)\b\.?")
_ADJECTIVE = re.compile(
    r"^\s*(?:(heaped|heaping|rounded)|level|generous|scant|good|big|large|small|medium|medium-sized|lge|lg|med|sm|whole|"
    r"fresh|full|-?sized?)\s+(?=\S)"
)
_PACKS = re.compile(rf"^\s*(?:{DIGITS})\s*-?\s*(?:g|kg|ml|l|oz|ounces?|lbs?)\b")
"""A weight behind a count: “two 14-oz cans”."""
_LENGTH = re.compile(
    rf"^({PLAIN})\s*-?\s*(inch|inches|in|cm|mm|\")\b\.?\s*-?(?:\s*(?:long|thick|square))?\s*"
    r"(?:piece|knob|chunk|length|stick|strip|slice|thumb)?s?\s*(?:of\s+)?"
)
_THUMB = re.compile(
    r"^(?:an?\s+|1\s+)?(?:large\s+|small\s+)?thumb(?:-| )?(?:sized?|length)?\s*(?:piece|knob|chunk)?\s*(?:of\s+)?"
)
_AT_END = re.compile(rf"[\s,:;-]+(?:x\s*)?((?:about\s+)?(?:{PLAIN})(?:\s*-\s*(?:{PLAIN}))?\s*[a-z]*\.?)$")
_COLON = re.compile(r"^([a-z][a-z' -]{2,40}):\s*(.+)$")
_BRACKETS = re.compile(r"\(([^()]*)\)|\[([^\[\]]*)\]")


@dataclass(frozen=True, slots=True)
class Quantity:
    """An amount as it stands: `low` to `high` of a unit. `size` is what its pieces are said to be, 1 for medium.

    `container` is the pack that is named beside a weight (“400 g tin”).
    """

    low: float
    high: float
    kind: str = NONE
    unit: str = ""
    size: float = 1.0
    container: str = ""
    is_heaped: bool = False

    @property
    def middle(self) -> float:
        """The middle of the range."""
        return (self.low + self.high) / 2

    @property
    def grams(self) -> float | None:
        """What it weighs when it is a weight."""
        return self.middle * UNIT_GRAMS[self.unit] if self.kind == MASS else None


Found = tuple[Quantity | None, str]
"""An amount, and what is left of the line."""


def take_quantity(text: str) -> Found:
    """The amount a cleaned line begins with, and the rest; None when it begins with none.

    “1,5 l” is one and a half, “1,500 g” fifteen hundred.
    """
    if _NO_AMOUNT.match(text):
        return None, _NO_AMOUNT.sub("", text)
    bare = _ABOUT.sub("", text, count=1)
    by_length = _by_length(bare)
    if by_length is not None:
        return by_length
    times, multiplied = 1.0, _TIMES.match(bare)
    if multiplied:
        times, bare = number_of(multiplied[1]), bare[multiplied.end() :]
    found = _NUMBER.match(bare)
    if found is None:
        unit = _UNIT.match(bare)
        is_by_hand = unit is not None and UNITS.get(unit[1], ("", ""))[1] in BY_HAND
        return _with_unit(1.0, 1.0, bare) if is_by_hand else (None, text)
    return _counted(number_of(found[0]), times, bare[found.end() :], text)


def _by_length(bare: str) -> Found | None:
    """“Thumb-sized piece of ginger”, “1-inch piece”, “3 cm ginger”."""
    thumb = _THUMB.match(bare)
    if thumb:
        return Quantity(1, 1, LOOSE, "thumb"), bare[thumb.end() :]
    length = _LENGTH.match(bare)
    if length is None:
        return None
    cm = number_of(length[1]) * _TO_CM.get(length[2], CM_PER_INCH)
    return Quantity(cm, cm, LOOSE, "cm"), bare[length.end() :]


def _counted(low: float, times: float, rest: str, text: str) -> Found:
    high, upper = low, _RANGE.match(rest)
    if upper and (value := number_of(upper[1])) > low:
        high, rest = value, rest[upper.end() :]
    if high * times > LARGEST:
        return None, text
    if _PACKS.match(rest) and low == high:
        each, after = take_quantity(rest.strip())
        if each is not None and each.container:
            return replace(each, low=each.low * low, high=each.high * low), after
    return _with_unit(low * times, high * times, rest)


def _with_unit(low: float, high: float, rest: str) -> Found:
    spare, size, is_heaped = rest.lstrip(), 1.0, False
    while adjective := _ADJECTIVE.match(spare):
        is_heaped = is_heaped or bool(adjective[1])
        size *= SIZES.get(adjective[0].strip().split("-")[0], 1.0)
        spare = spare[adjective.end() :]
    unit = _UNIT.match(spare)
    kind, name = UNITS.get("" if unit is None else _unit_word(unit[1]), (NONE, ""))
    if unit is None or not name:
        return Quantity(low, high, NONE, "", size), spare
    after = _after_of(spare[unit.end() :])
    container, after = _container(after) if kind in (MASS, VOLUME) else ("", after)
    return Quantity(low, high, kind, name, size, container, is_heaped=is_heaped), after


def _unit_word(found: str) -> str:
    return re.sub(r"[\s.]|(?<=fluid)ounces?", "", found).replace("fluid", "floz")


def _after_of(text: str) -> str:
    return re.sub(r"^\s*(?:of\b\s*)?", "", text)


def _container(after: str) -> tuple[str, str]:
    """The pack behind a weight, and what is left: “tin of tomatoes” → can, “tomatoes”."""
    pack = _UNIT.match(after)
    name = UNITS.get(pack[1], (NONE, ""))[1] if pack else ""
    return (name, _after_of(after[pack.end() :])) if pack and name in CONTAINERS else ("", after)


def take_quantity_anywhere(text: str) -> Found:
    """The amount of a line that begins with its food: “olive oil: 3 tbsp”, “onion x 2”, “paneer, 200 g, cubed”."""
    named = _COLON.match(text)
    if named:
        found, rest = take_quantity(named[2])
        if found is not None:
            return found, f"{named[1]} {rest}".strip()
    segments = text.split(",")
    for place, segment in enumerate(segments[1:], 1):
        found, rest = take_quantity(segment.strip())
        if found is not None and not rest.strip(" ."):
            return found, ",".join([*segments[:place], *segments[place + 1 :]])
    last = _AT_END.search(segments[0])
    if last is None:
        return None, text
    found, rest = take_quantity(last[1])
    is_times = last[0].strip(" ,:;-").startswith("x")
    if found is None or rest.strip(" .") or not (found.kind or is_times or found.middle <= LARGEST_LAST_COUNT):
        return None, text
    return found, ",".join([segments[0][: last.start()], *segments[1:]])


def brackets_of(text: str) -> tuple[str, tuple[str, ...]]:
    """A line without its brackets, and what stands in them."""
    inside = tuple((a or b).strip() for a, b in _BRACKETS.findall(text))
    bare = re.sub(r"\s+", " ", _BRACKETS.sub(" ", text)).replace(" ,", ",").replace(" :", ":")
    return bare.strip(" ,"), inside


_SPOONED = frozenset({"cup", "teaspoon", "tablespoon", "dessertspoon", "pinch", "dash", "drop"})


def weight_in(text: str) -> tuple[Quantity | None, bool]:
    """The weight or volume a bracket gives, and whether it is said of each: “about 150 g each”."""
    found, rest = take_quantity(text.removeprefix("each ").removeprefix("total "))
    if found is None or found.kind not in (MASS, VOLUME) or found.unit in _SPOONED:
        return None, False
    return found, "each" in text or "a piece" in rest
