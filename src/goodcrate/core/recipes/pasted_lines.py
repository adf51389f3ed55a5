"""Pasted ingredient lines: “2 x 400 g tins black-eyed beans, drained”, “1½ tbsp rapeseed oil”, “zest of 2 limes”.

Each line is taken apart into an amount, what to look for, and what is said about it. What cannot be taken apart is kept
as it stands; nothing is dropped in silence.
"""

import re
from dataclasses import dataclass

from goodcrate.core.foods.measures import TypedAmount, split_amount
from goodcrate.core.ground.errors import InvalidInput

MOST_LINES = 300
LONGEST_LINE = 200
_PREPARATION = frozenset(
    [
        "finely",
        "roughly",
        "coarsely",
        "thinly",
        "thickly",
        "freshly",
        "chopped",
        "diced",
        "sliced",
        "grated",
        "minced",
        "crushed",
        "shredded",
        "cubed",
        "halved",
        "quartered",
        "torn",
        "trimmed",
        "rinsed",
        "washed",
        "melted",
        "softened",
        "beaten",
        "sifted",
        "toasted",
        "packed",
        "large",
        "medium",
        "small",
        "ripe",
        "plus",
        "extra",
        "more",
        "for",
        "serve",
        "serving",
        "garnish",
        "about",
        "of",
        "the",
        "a",
        "an",
        "to",
        "into",
        "and",
        "or",
        "optional",
        "taste",
    ]
)
_PART = re.compile(
    r"^(?:the\s+)?(?:finely grated\s+|grated\s+)?(?P<part>zest|juice|rind)\s+(?:of|from)\s+(?P<rest>.+)$", re.I
)


@dataclass(frozen=True, slots=True)
class PastedLine:
    """One pasted line. `queries` are what to look for, most telling first; `doubts` why it waits for a yes; `states`
    are the states of a food its words point to.
    """

    text: str
    amount: TypedAmount | None
    queries: tuple[str, ...]
    is_optional: bool = False
    is_to_taste: bool = False
    doubts: tuple[str, ...] = ()
    states: tuple[str, ...] = ()


_LISTED = re.compile(r"^(?:[-*•·▢☐]|\d{1,3}[.)]\s)\s*")
"""A bullet or a number before a line."""
_STATE_WORDS: tuple[tuple[str, tuple[str, ...]], ...] = (
    (r"\b(tins?|cans?|canned|tinned|drained)\b", ("canned_drained", "canned_whole", "cooked", "ready")),
    (r"\b(cooked|boiled|leftover)\b", ("cooked",)),
    (r"\bsmoked\b", ("smoked",)),
    (r"\bfrozen\b", ("frozen",)),
    (r"\b(dried|dry)\b", ("dry",)),
    (r"\braw\b", ("raw",)),
)


def _states_meant(text: str) -> tuple[str, ...]:
    """The states of a food a line's words point to, likeliest first; empty when it says nothing about it."""
    return next((states for words, states in _STATE_WORDS if re.search(words, text, re.I)), ())


def read_pasted(text: str) -> list[PastedLine]:
    """The lines of a pasted list, empty ones and bullets left out.

    Raises:
        InvalidInput: for more lines than a recipe holds.
    """
    lines = [_LISTED.sub("", line[: 2 * LONGEST_LINE].strip()) for line in text.splitlines()]
    lines = [line for line in lines if line]
    if len(lines) > MOST_LINES:
        raise InvalidInput("lines", f"{len(lines)} lines are more than a recipe holds.", f"At most {MOST_LINES}.")
    return [_read_line(line[:LONGEST_LINE]) for line in lines]


def _read_line(text: str) -> PastedLine:
    bare = re.sub(r"\s+", " ", text.replace("\u00a0", " "))
    is_optional = bool(re.search(r"\boptional\b", bare, re.I))
    is_to_taste = bool(re.search(r"\bto taste\b", bare, re.I))
    doubts: list[str] = []
    part = ""
    found = _PART.match(bare)
    if found:
        part, bare = found["part"].lower(), found["rest"]
        doubts.append(f"the {part} weighs less than the whole fruit")
    try:
        amount, rest = split_amount(bare)
    except InvalidInput as fault:
        said = (fault.message,)
        return PastedLine(text, None, _queries(bare, part), is_optional, is_to_taste, said, states=_states_meant(text))
    if amount is None:
        amount, rest = _amount_at_end(bare)
    if amount is None and not is_to_taste:
        doubts.append("no amount is given")
    if re.search(r"\bdrained\b", bare, re.I) and re.search(r"\b(tins?|cans?|jars?)\b", bare, re.I):
        doubts.append("a tin’s weight holds its liquid too: give what it weighs drained")
    states = _states_meant(text)
    return PastedLine(text, amount, _queries(rest, part), is_optional, is_to_taste, tuple(doubts), states=states)


def _amount_at_end(text: str) -> tuple[TypedAmount | None, str]:
    """“rapeseed oil, 40 g” or “Rapeseed oil 40 g”: the amount stands last."""
    found = re.search(r"(?<![\s,:–-])[\s,:–-]+(?P<amount>[\d½⅓⅔¼¾][^,]*)$", text)
    if found is None:
        return None, text
    try:
        amount, rest = split_amount(found["amount"])
    except InvalidInput:
        return None, text
    return (amount, text[: found.start()]) if amount is not None and amount.kind and not rest else (None, text)


def _queries(text: str, part: str) -> tuple[str, ...]:
    """Ways to look for a food, from all its words to its first ones, preparation left out."""
    without_brackets = re.sub(r"\([^)]*\)", " ", text)
    words = re.findall(r"[^\W\d_][\w'’-]*", without_brackets)
    telling = [w for w in words if w.lower() not in _PREPARATION]
    before_comma = re.findall(r"[^\W\d_][\w'’-]*", without_brackets.split(",")[0])
    head = [w for w in before_comma if w.lower() not in _PREPARATION]
    ways = [" ".join(telling), " ".join(head)]
    if part == "juice":
        ways.insert(0, " ".join([*head, "juice"]))
    ways += [" ".join(head[-2:]), " ".join(head[-1:]), " ".join(head[:1])]
    return tuple(dict.fromkeys(way for way in ways if way))
