"""A week at the table: each meal's box, what was eaten of it, what was eaten besides, and what of the jobs is done."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import date
from uuid import UUID

from sqlalchemy import select

from goodcrate.core.ground.amounts import amount_of
from goodcrate.core.ground.nutrients import Tally
from goodcrate.core.portion.week_outcome import PlacedBox
from goodcrate.core.recipes.recipe import Recipe
from goodcrate.core.store.at_table import DayAtTable, OffPlan, Plate, eaten_by, plates_of, with_weighed
from goodcrate.core.store.box import Box, Content, contents_tally
from goodcrate.core.store.for_the_meal import later_lines
from goodcrate.core.targets.eater import Eater
from goodcrate.core.week.meals import Meal
from goodcrate.core.week.storing import CUPBOARD, FREEZER, keeping_of, keeps_until
from goodcrate.db.at_table import DoneRow, OffPlanRow
from goodcrate.db.changes import Kept
from goodcrate.db.session import HouseholdSession
from goodcrate.db.store import BoxEventRow, BoxRow
from goodcrate.formats.reference import keep_groups
from goodcrate.services.calling import Caller
from goodcrate.services.recipes.library import recipe_values
from goodcrate.services.store.boxes import BoxesRead, filled, own_box_id, read_boxes
from goodcrate.services.week.weeks import WeekPicture, picture_in

WEIGHED = "weighed"
"""How what was weighed at the table is named among a day's small jobs: so, the meal, and the line."""


@dataclass(frozen=True)
class Table:
    """What a week's pages and the slip moves ask of it. `weighed` is what was weighed of an ingredient at the table, in
    g, by meal and line."""

    picture: WeekPicture
    plates: Mapping[str, Plate]
    boxes: Mapping[str, Box]
    off_plan: Mapping[tuple[UUID, date], tuple[OffPlan, ...]]
    weighed: Mapping[tuple[str, str], float]

    def placed(self, plate: Plate) -> PlacedBox:
        """What is on a plate as the week worked it out: the box it was swapped for, else the meal's own."""
        return placed_on(self.picture, plate)

    def recipe(self, plate: Plate) -> Recipe:
        """The dish on a plate."""
        return self.picture.recipes[self.placed(plate).placing.recipe_key]

    def day(self, eater: Eater, day: date) -> DayAtTable:
        """A day of an eater, its meals in the order of their slots."""
        order = {slot.id: n for n, slot in enumerate(sorted(eater.slots, key=lambda s: s.at))}
        mine = [m for m in self.picture.meals if m.eater_id == eater.id and m.day == day]
        mine.sort(key=lambda m: order.get(m.slot_id, 99))
        plates = tuple(self.plates[str(m.id)] for m in mine)
        return DayAtTable(day, plates, self.off_plan.get((eater.id, day), ()), eater.extras_tally)

    def is_whole(self, eater: Eater, day: date) -> bool:
        """Whether each of an eater's slots has a meal on a day: else it says nothing of the week's mean."""
        return sum(m.eater_id == eater.id and m.day == day for m in self.picture.meals) >= len(eater.slots)

    def last_day(self, box: Box) -> date | None:
        """The last day guidance gives a box where it is now, None where nothing is known of it."""
        if box.until is not None:
            return box.until
        stay = self.picture.stays.get(str(box.meal_key))
        recipe = self.picture.recipes.get(box.recipe_key)
        keeping = stay.keeping if stay is not None else None
        if keeping is None and recipe is not None:
            keeping = keeping_of(recipe, keep_groups(), self.picture.capacity.keep_rule)
        if keeping is None:
            return None
        place = box.place or (stay.place if stay is not None else "")
        if place == CUPBOARD and keeping.keeps_dry:
            return None
        is_frozen = place == FREEZER and bool(keeping.group.freezer_months)
        return keeps_until(keeping.group, box.cooked_on, keeping.fridge_days, is_frozen=is_frozen)


def table_of(caller: Caller, first_day: date) -> Table | None:
    """A week at the table as it stands, None when it was never opened; kept until something of it changes."""
    with caller.transaction() as session:
        return table_in(session, first_day)


def table_in(session: HouseholdSession, first_day: date) -> Table | None:
    """The same inside the caller's transaction."""

    def laid() -> Table | None:
        picture = picture_in(session, first_day)
        return None if picture is None else _table_of(session, picture)

    return _TABLES.get(session, (first_day,), laid)


_TABLES: Kept[Table | None] = Kept(64)
_READ: Kept[BoxesRead] = Kept(64)


def _table_of(session: HouseholdSession, picture: WeekPicture) -> Table:
    boxes = _boxes(session, picture)
    tallies = {box.key: _tally(session, picture, box) for box in boxes}
    plates = plates_of(boxes, tallies, [str(m.id) for m in picture.meals])
    weighed = _weighed(session, picture)
    for (meal, line_key), grams in weighed.items():
        if meal in plates:
            plates[meal] = _as_weighed(picture, plates[meal], line_key, grams)
    return Table(picture, plates, {box.key: box for box in boxes}, _off_plan(session, picture), weighed)


def placed_on(picture: WeekPicture, plate: Plate) -> PlacedBox:
    """What is on a plate as the week worked it out."""
    return picture.outcome.boxes[plate.moved_from or plate.meal_key]


def _as_weighed(picture: WeekPicture, plate: Plate, line_key: str, weighed_g: float) -> Plate:
    """A plate with an ingredient as it was weighed at the table; as it is, where its dish has none of it."""
    placed = placed_on(picture, plate)
    recipe = picture.recipes[placed.placing.recipe_key]
    line = later_lines(recipe).get(line_key)
    if line is None or recipe.servings <= 0:
        return plate
    planned = line.tally.scaled(placed.placing.servings / recipe.servings)
    on_scale = replace(line, key=f"{WEIGHED}:{plate.meal_key}:{line_key}", amount=amount_of(weighed_g))
    return with_weighed(plate, planned, on_scale.tally, placed.tally.grams)


def _weighed(session: HouseholdSession, picture: WeekPicture) -> dict[tuple[str, str], float]:
    last: dict[tuple[str, str], float | None] = {}
    rows = select(DoneRow).where(DoneRow.day.in_(picture.dates), DoneRow.subject.startswith(f"{WEIGHED}:"))
    for row in session.scalars(rows.order_by(DoneRow.seq)):
        _, meal, line_key = row.subject.split(":", 2)
        last[meal, line_key] = float(row.grams) if row.is_done and row.grams is not None else None
    return {key: grams for key, grams in last.items() if grams is not None}


def _boxes(session: HouseholdSession, picture: WeekPicture) -> list[Box]:
    ids = {own_box_id(m.id): m for m in picture.meals if m.from_box is None}
    from_house = {m.from_box for m in picture.meals if m.from_box is not None}
    meals = frozenset(m.id for m in picture.meals)

    def read() -> BoxesRead:
        named = session.scalars(select(BoxEventRow.box_id).where(BoxEventRow.placement_id.in_(meals))).all()
        return read_boxes(session, BoxRow.id.in_({*ids, *from_house, *named}))

    found = filled(session, _READ.get(session, (picture.week.first_day, meals, frozenset(from_house)), read))
    there = {UUID(box.key) for box in found}
    return [*found, *(_planned(picture, m) for box_id, m in ids.items() if box_id not in there)]


def _planned(picture: WeekPicture, meal: Meal) -> Box:
    """The box a meal will have, as far as it is planned."""
    placed, stay = picture.outcome.boxes[str(meal.id)], picture.stays.get(str(meal.id))
    contents = tuple(Content(part.component_key, part.grams) for part in placed.parts)
    cooked_on = meal.day if stay is None else stay.cooked_on
    container = picture.packing.by_key.get(str(meal.id))
    return Box(str(own_box_id(meal.id)), str(meal.recipe_id), contents, cooked_on, str(meal.id), container=container)


def _tally(session: HouseholdSession, picture: WeekPicture, box: Box) -> Tally:
    """What was packed into a box: as the week works it out, else as its recipe is written."""
    own = picture.outcome.boxes.get(str(box.meal_key))
    if own is None:
        value = recipe_values(session, {UUID(box.recipe_key)})[UUID(box.recipe_key)]
        return contents_tally(value.recipe, box.contents)
    before_g = sum(grams for meal, grams in eaten_by(box).items() if meal not in (box.meal_key, box.for_meal or ""))
    is_house = box.key != str(own_box_id(UUID(str(box.meal_key))))
    rest_g = box.packed_g - before_g
    return own.tally.scaled(box.packed_g / rest_g) if is_house and rest_g > 0 else own.tally


def _off_plan(session: HouseholdSession, picture: WeekPicture) -> dict[tuple[UUID, date], tuple[OffPlan, ...]]:
    rows = session.scalars(select(OffPlanRow).where(OffPlanRow.day.in_(picture.dates)).order_by(OffPlanRow.seq)).all()
    undone = {row.undoes for row in rows if row.undoes is not None}
    found: dict[tuple[UUID, date], tuple[OffPlan, ...]] = {}
    for row in rows:
        if row.undoes is None and row.id not in undone:
            found[row.eater_id, row.day] = (*found.get((row.eater_id, row.day), ()), row.value())
    return found


_DONE: Kept[frozenset[tuple[date, str]]] = Kept(64)


def done_on(session: HouseholdSession, days: frozenset[date]) -> frozenset[tuple[date, str]]:
    """The small jobs of some days that are ticked, as day and subject."""
    return _DONE.get(session, (days,), lambda: _done_on(session, days))


def _done_on(session: HouseholdSession, days: frozenset[date]) -> frozenset[tuple[date, str]]:
    last: dict[tuple[date, str], bool] = {}
    for row in session.scalars(select(DoneRow).where(DoneRow.day.in_(days)).order_by(DoneRow.seq)):
        last[row.day, row.subject] = row.is_done
    return frozenset(key for key, is_done in last.items() if is_done)
