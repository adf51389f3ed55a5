"""What a line says besides food and amount: when it goes in, which part of a fruit, what a tin or a bracket adds."""

import re
from collections.abc import Iterator, Sequence
from dataclasses import replace

from goodcrate.core.foods.line.quantity import Quantity, weight_in
from goodcrate.core.foods.line.words import NIGHT_BEFORE, ON_THE_DAY, OPTIONAL, TO_TASTE, tokens_of
from goodcrate.core.foods.units import LOOSE, NONE

OPTIONAL_FLAG, TO_TASTE_FLAG, ON_THE_DAY_FLAG, NIGHT_BEFORE_FLAG = "optional", "to taste", "on the day", "night before"
_FLAGS = {
    OPTIONAL_FLAG: OPTIONAL,
    TO_TASTE_FLAG: TO_TASTE,
    ON_THE_DAY_FLAG: ON_THE_DAY,
    NIGHT_BEFORE_FLAG: NIGHT_BEFORE,
}
JUICE, PEEL = "juice", "peel"
CUT_OFF = re.compile(
    r"\b(?:plus (?:extra|more|a little)|"
    r"for (?:the|frying|greasing|brushing|dusting|sprinkling|drizzling|rolling|coating)|"
    r"cut (?:into|in)|to make|such as|preferably|ideally|at room|until|if you|if using|i used|depending|made with|see |"
    r"not |without|in bite|into|or (?:to|more|less)|from a jar|about|around|approx)\b.*$"
)
"""Where a line begins to say what is done with the food."""
_LEAN = re.compile(r"\b(\d{2})\s?% lean\b")
_PART = re.compile(
    r"^(?:the )?(?:(?:finely |freshly )?(?:grated|squeezed) )?(?P<part>zest|juice|rind|peel)"
    r"(?P<both> (?:and|&|plus) (?:zest|juice|rind|peel))? (?:of|from) (?P<rest>.+)$"
)
_PART_AFTER = re.compile(
    r",\s*(?:finely )?(?:juiced|(?P<zested>zested)|juice only|zest and juice|juice and zest|(?P<zest>zest) only|"
    r"(?:zested and )?juiced?)\b"
)
_CITRUS = re.compile(r"\b(?:lemon|lime|orange|grapefruit|clementine|mandarin)s?\b")
_UNIT_AT_END = re.compile(
    r"\b(sheet|fillet|slice|rasher|leaf|leave|sprig|stick|stalk|clove|cob|ear|nest|floret|wedge|spear|bulb|head|cube)s?$"
)
_SAME_UNIT = {"leave": "leaf", "rasher": "slice", "stalk": "stick", "ear": "cob"}
_HINTS = frozenset(
    {
        *("drained", "cooked", "raw", "canned", "smoked", "unsalted", "salted", "frozen", "dried", "ground", "skin"),
        *("toasted", "roasted", "oil", "water", "brine", "juice", "sweetened", "unsweetened"),
    }
)
_FRESH_UNITS = frozenset({"sprig", "bunch", "leaf", "handful", "punnet", "cob", "head", "bulb", "stick", "spear"})
"""Units that only fresh food comes in."""
_PACKED_EACH = frozenset({"can", "jar", "pack", "tub", "bag", "block"})


def flags_of(line: str) -> tuple[str, ...]:
    """What a line says of when it goes in, and whether it must."""
    return tuple(name for name, pattern in _FLAGS.items() if pattern.search(line))


def without_flags(line: str) -> str:
    """A line without those words."""
    for pattern in _FLAGS.values():
        line = pattern.sub(" ", line)
    return re.sub(r"\(\s*\)", " ", re.sub(r"\s+", " ", line)).strip(" ,.;:-")


def as_fat(text: str) -> str:
    """“93% lean” as the fat it has."""
    return _LEAN.sub(lambda found: f"{100 - int(found[1])}% fat", text)


def part_of(line: str) -> tuple[str, str]:
    """Whether a line means the juice or the peel of a fruit, and the line without that. Of both the juice counts."""
    before = _PART.match(line)
    if before:
        is_juice = JUICE in before["part"] or JUICE in (before["both"] or "")
        return (JUICE if is_juice else PEEL), before["rest"]
    after = _PART_AFTER.search(line)
    if after and _CITRUS.search(line):
        return (PEEL if after["zested"] or after["zest"] else JUICE), line[: after.start()]
    return "", line


def with_brackets(quantity: Quantity | None, inside: Sequence[str]) -> tuple[Quantity | None, str]:
    """The amount with what brackets say of its weight, and their other words; what follows “or” is another way."""
    more = []
    for said in inside:
        if said.startswith(("or ", "and ", "plus ")):
            continue
        weight, is_each = weight_in(said)
        if weight is None:
            more.append(said)
        elif quantity is None or quantity.kind in (LOOSE, NONE):
            quantity = _weighed(quantity, weight, is_each)
    return quantity, " ".join(more)


def _weighed(counted: Quantity | None, weight: Quantity, is_each: bool) -> Quantity:
    if counted is None:
        return weight
    is_each = is_each or (counted.unit in _PACKED_EACH and counted.middle > 1)
    times = counted.middle if is_each else 1.0
    container = counted.unit if counted.unit in ("can", "jar") else ""
    return replace(weight, low=weight.low * times, high=weight.high * times, container=container)


def with_unit_of_name(quantity: Quantity | None, rest: str) -> Quantity | None:
    """“9 lasagne sheets”, “2 cod fillets”: the piece that is counted stands behind the name."""
    found = _UNIT_AT_END.search(rest.split(",", maxsplit=1)[0].strip())
    if quantity is None or quantity.kind != NONE or found is None:
        return quantity
    return replace(quantity, kind=LOOSE, unit=_SAME_UNIT.get(found[1], found[1]))


def hints_of(text: str, quantity: Quantity | None) -> frozenset[str]:
    """Words that say which row is meant without being part of its name: a tin, drained, with its skin."""
    found = set(_hint_words(text))
    if re.search(r"\bskin(?:less| off| removed)|without skin|no skin", text):
        found.discard("skin")
    if quantity is not None and "can" in (quantity.unit, quantity.container):
        found |= {"can", "canned"}
    if quantity is not None and quantity.unit in _FRESH_UNITS:
        found.add("fresh")
    return frozenset(found)


def _hint_words(text: str) -> Iterator[str]:
    for word in tokens_of(text):
        if word in _HINTS or "%" in word:
            yield word
