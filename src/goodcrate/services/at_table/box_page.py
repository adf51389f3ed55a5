"""One box: what it is, what is in it, until when it keeps, and everything that happened to it."""

from dataclasses import dataclass
from datetime import date
from uuid import UUID

from sqlalchemy import select

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.nutrients import Tally
from goodcrate.core.ground.wording import say
from goodcrate.core.portion.week_outcome import BoxPart
from goodcrate.core.recipes.recipe import Recipe, serving_of
from goodcrate.core.store.box import EATEN, PART_EATEN, Box, BoxEvent, contents_tally
from goodcrate.core.week.meals import Meal
from goodcrate.core.week.storing import keeping_of
from goodcrate.db.store import BoxEventRow, BoxRow
from goodcrate.formats.reference import keep_groups
from goodcrate.services.at_table.eating import LEFT, Said, say_eaten, swap, undo_said
from goodcrate.services.at_table.table import Table, table_in
from goodcrate.services.calling import Caller, NotFound, utc_now
from goodcrate.services.kitchen import setup_of
from goodcrate.services.recipes.library import recipe_values
from goodcrate.services.store.boxes import box_in, happened, undo
from goodcrate.services.store.finding import meal_of_box
from goodcrate.services.store.house import until_of
from goodcrate.services.week.weeks import WeekPicture


@dataclass(frozen=True)
class BoxCard:
    """A box with all that its page shows. `meal` is the one it is for now, None when it is nobody's; with it comes the
    week it is in."""

    box: Box
    recipe: Recipe
    parts: tuple[BoxPart, ...]
    tally: Tally
    until: date | None
    why: str
    table: Table | None = None
    meal: Meal | None = None

    @property
    def grams(self) -> float:
        """What is in it now, in g; what nobody weighed as planned."""
        plate = None if self.table is None or self.meal is None else self.table.plates[str(self.meal.id)]
        return plate.ahead.grams if plate is not None and plate.is_open else self.box.grams

    @property
    def allergens(self) -> frozenset[str]:
        """What its foods hold of them."""
        return self.recipe.allergens

    @property
    def first_day(self) -> date | None:
        """The first day of the week its meal is in."""
        return None if self.table is None else self.table.picture.week.first_day


def box_card(caller: Caller, box_id: UUID) -> BoxCard:
    """A box of the household, also one that is only planned.

    Raises:
        NotFound: when the household has no such box.
    """
    found = meal_of_box(caller, box_id)
    with caller.transaction() as session:
        if found is not None:
            table = table_in(session, found[0])
            card = None if table is None else _of_meal(table, box_id, found[1])
            if card is not None:
                return card
        box = box_in(session, box_id)
        value = recipe_values(session, {UUID(box.recipe_key)})[UUID(box.recipe_key)]
        rule = setup_of(session).capacity.keep_rule
        until, why = until_of(box, keeping_of(value.recipe, keep_groups(), rule), rule)
        tally = contents_tally(value.recipe, box.contents)
        share = tally.grams / value.serving.tally.grams if value.serving.tally.grams > 0 else 0.0
        parts = tuple(
            BoxPart(p.component.key, p.component.name, p.grams * share, "", p.tally.scaled(share))
            for p in serving_of(value.recipe).parts
        )
        return BoxCard(box, value.recipe, parts, tally, until, why)


def _of_meal(table: Table, box_id: UUID, own_meal: UUID) -> BoxCard | None:
    picture: WeekPicture = table.picture
    box = table.boxes.get(str(box_id))
    if box is None or str(own_meal) not in picture.outcome.boxes:
        return None
    placed = picture.outcome.boxes[str(own_meal)]
    recipe = picture.recipes[placed.placing.recipe_key]
    meal = next((m for m in picture.meals if str(m.id) == box.for_meal), None)
    rule = picture.capacity.keep_rule
    _, why = until_of(box, keeping_of(recipe, keep_groups(), rule), rule)
    return BoxCard(box, recipe, placed.parts, placed.tally, table.last_day(box), why, table=table, meal=meal)


def say_of_box(caller: Caller, box_id: UUID, event_id: UUID, said: Said) -> None:
    """Write down what became of a box, whether a meal eats it or it is for nobody yet. Sending it twice writes it once.

    Raises:
        NotFound: when the household has no such box.
        InvalidInput: for what cannot be said of it as it stands.
    """
    card = box_card(caller, box_id)
    caller.acts_for(None if card.meal is None else card.meal.eater_id)
    if card.meal is not None and card.first_day is not None:
        say_eaten(caller, card.first_day, card.meal.id, event_id, said)
        return
    if said.kind == LEFT:
        raise InvalidInput("kind", say("It is for nobody yet."), say("It stays in the house."))
    with caller.transaction() as session:
        session.execute(select(BoxRow.id).where(BoxRow.id == box_id).with_for_update())  # two phones, one box
        if session.find(BoxEventRow, event_id) is not None:
            return
        box, kind, eaten_g = box_in(session, box_id), said.kind, said.grams
        if kind == PART_EATEN:
            eaten_g = round(box.grams * (said.share or 0.0), 1) if eaten_g is None else eaten_g
            kind, eaten_g = (EATEN, None) if abs(eaten_g - box.grams) <= 0.05 else (PART_EATEN, eaten_g)
        happened(session, caller, box, BoxEvent(str(event_id), kind, utc_now(), grams=eaten_g, why=said.why))


def swap_box(caller: Caller, box_id: UUID, other_id: UUID | None, event_id: UUID) -> None:
    """Swap a box with that of another meal of its week. Sending it twice swaps once.

    Raises:
        NotFound: when the household has no such box, or its week no such meal.
        InvalidInput: when no meal eats it, or for what cannot be swapped.
    """
    card = box_card(caller, box_id)
    if any(event.key == str(event_id) for event in card.box.log):
        return
    if card.meal is None or card.first_day is None:
        raise InvalidInput("other", say("It is for nobody yet."), say("Place it in a week."))
    swap(caller, card.first_day, card.meal.id, other_id, event_id)


def undo_of_box(caller: Caller, box_id: UUID, event_id: UUID) -> None:
    """Take back one thing that happened to a box; a swap at both of its boxes.

    Raises:
        NotFound: when the household has no such box, or that did not happen to it.
    """
    with caller.transaction() as session:
        if all(event.key != str(event_id) for event in box_in(session, box_id).log):
            raise NotFound(say("note"))
    card = box_card(caller, box_id)
    caller.acts_for(None if card.meal is None else card.meal.eater_id)
    first_day = card.first_day
    if first_day is not None:
        undo_said(caller, first_day, event_id)
        return
    with caller.transaction() as session:
        undo(session, caller, event_id)
