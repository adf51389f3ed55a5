"""The whole week worked out: placings → batches → boxes → days, following whatever was weighed so far."""

from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from goodcrate.core.cook.batch_record import BatchRecord
from goodcrate.core.ground.nutrients import Tally
from goodcrate.core.portion.containers import apart_key
from goodcrate.core.portion.filled_boxes import DIVIDED, PLANNED, WEIGHED, BatchOutcome, BoxPortion, batch_outcome
from goodcrate.core.recipes.component import Component
from goodcrate.core.recipes.recipe import Recipe, Serving, serving_of
from goodcrate.core.week.placings import Placing, PlannedBatch, batches_that_follow, planned_line_g

BatchKey = tuple[str, str]
"""Session key and component key."""


@dataclass(frozen=True, slots=True)
class WorkedBatch:
    """A planned batch, its record as planned and logged, and what that came to; `is_started` when somebody began."""

    plan: PlannedBatch
    record: BatchRecord
    outcome: BatchOutcome
    is_started: bool


@dataclass(frozen=True, slots=True)
class BoxPart:
    """One component in a box."""

    component_key: str
    name: str
    grams: float
    stage: str
    tally: Tally


@dataclass(frozen=True, slots=True)
class PlacedBox:
    """Everything in one placing's box. `stage` is the least certain of its parts; it was `topped_up` when a batch of
    another dish gave something to it."""

    placing: Placing
    parts: tuple[BoxPart, ...]
    tally: Tally
    topped_up: bool = False

    @property
    def stage(self) -> str:
        """`weighed` when all parts are, else `divided` or `planned`."""
        stages = {part.stage for part in self.parts}
        return next((s for s in (PLANNED, DIVIDED, WEIGHED) if s in stages), PLANNED)


@dataclass(frozen=True, slots=True)
class WeekOutcome:
    """Boxes by placing key, batches in the order of the sessions."""

    boxes: Mapping[str, PlacedBox]
    batches: tuple[WorkedBatch, ...]


def planned_record(component: Component, plan: PlannedBatch) -> BatchRecord:
    """A batch nobody has started: its ingredient lines scaled to what a scale can show."""
    return _record(component, plan, planned_line_g)


def _as_written(component: Component, plan: PlannedBatch) -> BatchRecord:
    """The same by its recipe alone: until something is weighed, a box holds what its recipe says of its servings."""
    return _record(component, plan, lambda line_g, factor: line_g * factor)


def _record(component: Component, plan: PlannedBatch, grams_of: Callable[[float, float], float]) -> BatchRecord:
    lines = []
    for line in component.lines:
        grams = grams_of(line.amount.grams, plan.factor)
        lines.append(replace(line, key=f"{plan.session_key}/{line.key}", amount=line.amount.scaled_to(grams)))
    return BatchRecord(tuple(lines), plan.cooked_g, planned_error_g=plan.cooked_error_g)


def week_outcome(
    placings: Sequence[Placing],
    recipes: Iterable[Recipe],
    records: Mapping[BatchKey, BatchRecord],
    before: WeekOutcome | None = None,
    holds_g: Mapping[str, float] | None = None,
) -> WeekOutcome:
    """Work a week out. `records` holds the batches that were started; the others follow their recipes.

    A placing that no session cooks is counted as its recipe is written. `before` is an earlier outcome of the same
    placings, recipes and containers: batches whose record is the very same value, and boxes made of such only, are
    taken from it. `holds_g` says by placing what its container takes in g; each component may have what the others'
    plans leave of it, and one that has a pot of its own (`apart_key`) what that takes.

    Raises:
        InvalidInputs: when a batch's weighed boxes hold more than its pot gave.
    """
    by_key = {recipe.key: recipe for recipe in recipes}
    cooked = {placing.recipe_key for placing in placings if placing.session_key is not None}
    components = {c.key: c for key, recipe in by_key.items() if key in cooked for c in recipe.components}
    worked, portions = [], dict[tuple[str, str], BoxPortion]()
    known = {} if before is None else {(w.plan.session_key, w.plan.component_key): w for w in before.batches}
    changed: set[BatchKey] = set()
    plans = batches_that_follow(placings, by_key.values())
    together_g: dict[str, float] = {}
    holds = holds_g or {}
    for component, p in ((plan.component_key, p) for plan in plans for p in plan.portions):
        if apart_key(p.placing_key, component) not in holds:
            together_g[p.placing_key] = together_g.get(p.placing_key, 0.0) + p.grams
    for plan in plans:
        key = (plan.session_key, plan.component_key)
        record = records.get(key)
        was = known.get(key)
        if was is not None and was.is_started == (record is not None) and (record is None or was.record is record):
            worked.append(was)
            portions.update({(p.placing_key, plan.component_key): p for p in was.outcome.portions})
            continue
        changed.add(key)
        recipe_component = components[plan.component_key]
        effective = record or planned_record(recipe_component, plan)
        rooms_g = {
            p.placing_key: holds[own] if own in holds else holds[p.placing_key] - together_g[p.placing_key] + p.grams
            for p in plan.portions
            if (own := apart_key(p.placing_key, plan.component_key)) in holds or p.placing_key in holds
        }
        counted = record or _as_written(recipe_component, plan)
        outcome = batch_outcome(counted, plan.portions, f"{plan.session_key}/{plan.component_key}", rooms_g)
        worked.append(WorkedBatch(plan, effective, outcome, record is not None))
        portions.update({(p.placing_key, plan.component_key): p for p in outcome.portions})

    extras = _extras(worked, {p.key for p in placings}, by_key.values())
    as_written: dict[str, Serving] = {}
    boxes = {}
    for placing in placings:
        made_of = {(placing.session_key or "", c.key) for c in by_key[placing.recipe_key].components}
        is_same = before is not None and not (placing.key in extras or before.boxes[placing.key].topped_up)
        if before is not None and is_same and not made_of & changed:
            boxes[placing.key] = before.boxes[placing.key]
            continue
        if placing.recipe_key not in as_written:
            as_written[placing.recipe_key] = serving_of(by_key[placing.recipe_key])
        boxes[placing.key] = _placed_box(placing, as_written[placing.recipe_key], portions, extras.get(placing.key, ()))
    return WeekOutcome(boxes, tuple(worked))


def _extras(
    worked: Iterable[WorkedBatch], placings: Collection[str], recipes: Iterable[Recipe]
) -> dict[str, tuple[BoxPart, ...]]:
    """By placing, what batches of other dishes gave to its box."""
    names = {c.key: c.name for recipe in recipes for c in recipe.components}
    extras: dict[str, tuple[BoxPart, ...]] = {}
    for w in worked:
        for p in w.outcome.spare:
            if p.placing_key in placings:
                key = w.plan.component_key
                part = BoxPart(key, names.get(key, ""), p.grams, p.stage, p.tally)
                extras[p.placing_key] = (*extras.get(p.placing_key, ()), part)
    return extras


def _placed_box(
    placing: Placing,
    as_written: Serving,
    portions: Mapping[tuple[str, str], BoxPortion],
    extras: Sequence[BoxPart] = (),
) -> PlacedBox:
    """A placing's box: of each component what its batch gives, or what its recipe says where no session cooks it; and
    what other batches gave to it."""
    parts = []
    for part in as_written.parts:
        key, name, portion = part.component.key, part.component.name, portions.get((placing.key, part.component.key))
        if portion is None:
            grams, tally = part.grams * placing.servings, part.tally.scaled(placing.servings)
            parts.append(BoxPart(key, name, grams, PLANNED, tally))
        else:
            parts.append(BoxPart(key, name, portion.grams, portion.stage, portion.tally))
    parts += extras
    return PlacedBox(placing, tuple(parts), Tally.sum(part.tally for part in parts), topped_up=bool(extras))
