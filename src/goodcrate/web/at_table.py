"""What the pages of a meal’s box share: words for a swap, why one is thrown away, what a form says of it."""

from collections.abc import Mapping
from datetime import date
from uuid import UUID

from goodcrate.core.ground.amounts import LARGEST_LINE_G, read_grams
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import weekday
from goodcrate.core.store.box import PART_EATEN
from goodcrate.core.week.meals import Meal
from goodcrate.services.at_table.eating import Said
from goodcrate.services.at_table.swaps import swaps_for
from goodcrate.services.at_table.table import Table
from goodcrate.web.security import Sent, text

WHYS = (Saying("too old"), Saying("spoilt"), Saying("not liked"), Saying("spilt"))


def swap_offers(table: Table, meal: Meal, from_day: date, only: UUID | None = None) -> tuple[tuple[UUID, str], ...]:
    """The meals a box can be swapped with, each with its words; `only` those of one eater, if so wished."""
    picture = table.picture
    names = {e.id: e.first_name for e in picture.eaters}
    slots = {s.id: s.name for e in picture.eaters for s in e.slots}
    others = [other for other in swaps_for(table, meal, from_day) if only in (None, other.eater_id)]
    return tuple((other.id, _words(table, other, names, slots)) for other in others)


def _words(table: Table, other: Meal, names: Mapping[UUID, str], slots: Mapping[UUID, str]) -> str:
    return say(
        "{who}, {day} {slot}: {dish}",
        who=names[other.eater_id],
        day=weekday(other.day),
        slot=slots[other.slot_id],
        dish=table.recipe(table.plates[str(other.id)]).name,
    )


def said_in(form: Sent) -> Said:
    """What a form says of a box: eaten, half, so many g, left, given or thrown away.

    Raises:
        InvalidInput: for grams that cannot be read.
    """
    kind = text(form, "kind")
    if kind == "half":
        return Said(PART_EATEN, share=0.5)
    if kind == PART_EATEN:
        return Said(kind, grams=read_grams(text(form, "grams"), "grams", LARGEST_LINE_G, allow_zero=False))
    return Said(kind, why=text(form, "why"))
