"""The finder: what is typed into it (a name, an amount and a name, a barcode) and what it answers."""

from dataclasses import dataclass

from fastapi import Request

from goodcrate.core.foods.barcodes import looks_like_barcode
from goodcrate.core.foods.food import Food
from goodcrate.core.foods.measures import (
    LARGEST_BARE_COUNT,
    counted_if_bare,
    is_a_count_of_nothing,
    piece_rank,
    split_amount,
)
from goodcrate.core.foods.weighed_amounts import Weighed
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.nutrients import Tally
from goodcrate.core.ground.wording import say
from goodcrate.core.recipes.component import figures_of
from goodcrate.services.foods import own_foods
from goodcrate.services.foods.own_foods import NO_FILTERS, Filters
from goodcrate.services.foods.scan import scan
from goodcrate.web.security import Visitor


@dataclass(frozen=True)
class FoundLine:
    """One food found; with an amount typed, what that much of it is, or why it cannot be said yet."""

    food: Food
    is_household: bool
    weighed: Weighed | None = None
    tally: Tally | None = None
    missing: str = ""


@dataclass(frozen=True)
class Answer:
    """What the finder answers: the amount it understood, the foods, a notice about a barcode or a bad amount.

    `unknown_barcode` is one to type a label for.
    """

    lines: tuple[FoundLine, ...] = ()
    amount: str = ""
    words: str = ""
    notice: str = ""
    unknown_barcode: str = ""


NOTHING_ASKED = Answer()


def ask_finder(
    request: Request, visitor: Visitor, query: str, limit: int = 40, filters: Filters = NO_FILTERS
) -> Answer:
    """Answer what is typed: a barcode is looked up, an amount is split off and weighed for every food found."""
    query = query.strip()[:120]
    if looks_like_barcode(query):
        return _answer_barcode(request, visitor, query)
    notice, typed, words = "", None, query
    try:
        typed, words = split_amount(query, "q")
    except InvalidInput as fault:
        notice = fault.message
    found = own_foods.find_foods(visitor.caller, words, limit, filters)
    if typed is not None and not found:
        whole = own_foods.find_foods(visitor.caller, query, limit, filters)  # a name can begin with a number
        typed, words, found = (None, query, whole) if whole else (typed, words, found)
    if typed is None or not words:
        return Answer(tuple(FoundLine(f.food, f.is_household) for f in found), words=words, notice=notice)
    measuring = own_foods.measuring(visitor.caller, {f.food.key for f in found if f.food.state == "cooked"})
    lines = []
    if (
        typed.kind is None and typed.quantity <= LARGEST_BARE_COUNT
    ):  # a bare number counts: what comes in pieces is meant before what does not
        found = sorted(found, key=lambda f: piece_rank(f.food, words))
    for f in found:
        amount = counted_if_bare(typed, f.food)
        if is_a_count_of_nothing(typed, f.food, words):
            asked = say("{text} of what? Type {text} g, or another measure.", text=typed.text)
            lines.append(FoundLine(f.food, f.is_household, missing=asked))
            continue
        try:
            weighed = measuring.weigh(amount, f.food, field="q")
            lines.append(FoundLine(f.food, f.is_household, weighed, tally_of(f.food, weighed)))
        except InvalidInput as fault:
            lines.append(FoundLine(f.food, f.is_household, missing=fault.problem))
    return Answer(tuple(lines), typed.text, words, notice)


def tally_of(food: Food, weighed: Weighed) -> Tally:
    """The nutrients in a weighed amount, its doubt and that of the food's figures kept apart."""
    amount = weighed.amount
    return Tally.of(food.composition, amount.grams, amount.standard_error_g, "amount", figures_of(food))


def _answer_barcode(request: Request, visitor: Visitor, query: str) -> Answer:
    try:
        scanned = scan(visitor.caller, query, request.app.state.catalogue)
    except InvalidInput as fault:
        return Answer(notice=fault.message)
    if scanned.food is not None:
        return Answer((FoundLine(scanned.food, True),), words=query)
    if scanned.item is not None:
        notice = say("The catalogue knows this barcode: {name}. Look its label over once.", name=scanned.item.name)
        return Answer(notice=notice, unknown_barcode=scanned.barcode)
    return Answer(notice=scanned.notice, unknown_barcode=scanned.barcode)
