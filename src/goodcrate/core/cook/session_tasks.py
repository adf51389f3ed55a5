"""A session's batches as tasks of a run sheet: their steps, scaled, with cooling and boxing, over the kitchen's places.

What nobody said is guessed and told: minutes a step lacks, a recipe without steps, cooling that no step says.
"""

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from math import ceil

from goodcrate.core.cook.batch_record import goes_in_now
from goodcrate.core.cook.bowls import foods_by_step
from goodcrate.core.cook.outside_session import Before, before_session, is_later
from goodcrate.core.cook.sheet_problem import HOB, OVEN, Hold, SheetKitchen, SheetProblem, Task, Within
from goodcrate.core.foods.food import RAW_GROUPS
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import many
from goodcrate.core.recipes.component import Component
from goodcrate.core.recipes.cooked_weight import expected_cooked_weight
from goodcrate.core.recipes.equipment import COOKS, EQUIPMENT_KINDS, OVEN_PREHEAT_MIN, OVEN_SHELVES, OVENS, Equipment
from goodcrate.core.recipes.filling_vessels import Filling, filling
from goodcrate.core.recipes.scaling import scaled_step, turns_of
from goodcrate.core.recipes.steps import Step
from goodcrate.core.recipes.vessels import Vessel

COOLING, FRIDGE, TRAY = "cooling", "fridge", "tray"
GUESSED_MIN: Mapping[str, float] = {"": 10, HOB: 20, OVEN: 35, COOLING: 30, FRIDGE: 60}
"""Minutes of a step that says none, by its equipment: our guess, marked as one and asked for."""
OTHER_GUESSED_MIN, WHOLE_RECIPE_MIN = 10.0, 20.0
"""The same of a machine's step, and of a recipe without steps."""
HOT_TRAY = re.compile(r"\b(?:hot|pre-?heated|heated) (?:oven )?(?:trays?|tins?|baking sheets?)\b")
HOT_TRAY_MIN, HOT_TRAY_STAYS_MIN = 10, 2
"""So long a tray gets hot where a step wants a hot one, and so long it stays hot until it is filled: our assumption."""
SWAP_FROM_MIN = 16
"""Trays on two shelves that bake so long change them at half time, where the step says no look of its own: our line."""
BOX_MIN = 1
"""Filling, weighing and closing one box: our assumption."""
COLD_WITHIN_MIN, RICE_COLD_WITHIN_MIN = 120, 60
"""From the end of the heat to the fridge: keeping.csv, after UK FSA and USDA; rice within the hour."""
ASSUMED: Mapping[str, int] = {
    COOKS: 1,
    "burners": 4,
    OVENS: 1,
    OVEN_SHELVES: 2,
    OVEN_PREHEAT_MIN: 12,
    "microwaves": 1,
    "air_fryers": 1,
    "rice_cookers": 1,
    "blenders": 1,
    "cooling_places": 4,
}
"""What a kitchen has of which nobody said how many: our assumption, told beside the sheet."""
PAUSE = "pause."
"""How the keys of pauses begin."""
PAUSE_MIN, PAUSE_EVERY_MIN, PAUSE_SLACK_MIN = 10, 60, 12
"""A pause of 10 min about every hour, when it is asked for."""


@dataclass(frozen=True, slots=True)
class BatchToCook:
    """A component to be cooked in a session: so many times as much as in its recipe, `cooked_g` in the end."""

    component: Component
    factor: float
    cooked_g: float


@dataclass(frozen=True, slots=True)
class DishToCook:
    """A recipe's batches of a session, the steps of the recipe, and how many boxes they fill."""

    key: str
    name: str
    steps: tuple[Step, ...]
    batches: tuple[BatchToCook, ...]
    boxes: int
    cold_within_min: int = COLD_WITHIN_MIN


@dataclass(frozen=True, slots=True)
class TaskTold:
    """What a task is called: in full, shortly, of which component; what it is guessed from, empty when it is not.

    `weighs` are the foods, by key, that are weighed out for it; with `comes_off` what it heats is done with the heat.
    `written_min` are its minutes as the recipe is written, or the guess; None of what no step says. With `is_raw` hands
    touch raw meat, fish or egg; with `swaps` its looks are for changing the shelves of its trays.
    """

    words: str
    short: str
    component: str = ""
    guessed: str = ""
    step_key: str = ""
    core_kind: str = ""
    weighs: tuple[str, ...] = ()
    comes_off: bool = False
    written_min: float | None = None
    is_raw: bool = False
    swaps: bool = False

    @property
    def look_words(self) -> str:
        """What is done at a look in between."""
        if self.swaps:
            return say("Change the shelves of the trays: {what}", what=self.short)
        return say("Look at it, stir or turn: {what}", what=self.short)


@dataclass(frozen=True, slots=True)
class SheetWishes:
    """What the cook asks of a session: so many burners, one more pair of hands from a minute on."""

    burners: int | None = None
    help_from: int | None = None


@dataclass(frozen=True, slots=True)
class SessionTasks:
    """A session to be scheduled, what its tasks are called, what is done later (dish and words), and what before it.
    `assumed` are the kinds of equipment it needs and nobody counted."""

    problem: SheetProblem
    told: Mapping[str, TaskTold]
    later: tuple[tuple[str, str], ...]
    assumed: tuple[str, ...]
    before: tuple[Before, ...] = ()


@dataclass
class _Tasks:
    """What is gathered dish by dish."""

    vessels: Sequence[Vessel]
    tasks: list[Task] = field(default_factory=list)
    told: dict[str, TaskTold] = field(default_factory=dict)
    within: list[Within] = field(default_factory=list)
    holds: list[Hold] = field(default_factory=list)
    later: list[tuple[str, str]] = field(default_factory=list)
    before: list[Before] = field(default_factory=list)

    def add(self, task: Task, told: TaskTold) -> str:
        """Add a task; answers its key."""
        self.tasks.append(task)
        self.told[task.key] = told
        return task.key


def session_tasks(
    dishes: Iterable[DishToCook], equipment: Equipment, vessels: Sequence[Vessel], wishes: SheetWishes = SheetWishes()
) -> SessionTasks:
    """The tasks of a session.

    Raises:
        InvalidInputs: naming each step that this kitchen cannot do, by its task.
    """
    made = _Tasks(vessels)
    for dish in dishes:
        _add_dish(made, dish)
    kitchen, assumed = _kitchen(equipment, vessels, wishes)
    used = {task.place for task in made.tasks if task.place}
    needed = tuple(kind for kind in assumed if kind == COOKS or EQUIPMENT_KINDS[kind].step in used)
    problem = SheetProblem(tuple(made.tasks), kitchen, tuple(made.within), tuple(made.holds))
    return SessionTasks(problem, made.told, tuple(made.later), needed, tuple(made.before))


def with_pauses(problem: SheetProblem, minutes: int) -> SheetProblem:
    """The same session with a pause about every hour for everybody who cooks, where it takes so long without."""
    pauses = [
        Task(
            f"{PAUSE}{n}.{cook}",
            f"{PAUSE}{n}.{cook}",
            PAUSE_MIN,
            earliest=(n + 1) * PAUSE_EVERY_MIN + n * PAUSE_MIN - PAUSE_SLACK_MIN,
            latest=(n + 1) * PAUSE_EVERY_MIN + n * PAUSE_MIN + PAUSE_SLACK_MIN,
        )
        for n in range((minutes - PAUSE_SLACK_MIN) // PAUSE_EVERY_MIN)
        for cook in range(problem.kitchen.hands)
    ]
    return replace(problem, tasks=(*problem.tasks, *pauses))


def _kitchen(
    equipment: Equipment, vessels: Sequence[Vessel], wishes: SheetWishes
) -> tuple[SheetKitchen, tuple[str, ...]]:
    """How much there is of everything, and of what nobody said it."""
    counts = {kind: equipment.of(kind) for kind in EQUIPMENT_KINDS}
    assumed = tuple(kind for kind, count in counts.items() if count is None and kind in ASSUMED)
    there = {kind: ASSUMED.get(kind, 0) if count is None else count for kind, count in counts.items()}
    places = {kind.step: there[key] for key, kind in EQUIPMENT_KINDS.items() if kind.step}
    if wishes.burners is not None:
        places[HOB] = wishes.burners
    places[OVEN] = there[OVEN_SHELVES] if there[OVENS] else 0
    for vessel in vessels:
        larger = sum(v.count for v in vessels if v.kind == vessel.kind and v.volume_ml >= vessel.volume_ml)
        places[_size(vessel)] = larger
    kitchen = SheetKitchen(there[COOKS], places, there[OVEN_PREHEAT_MIN], help_from=wishes.help_from)
    return kitchen, assumed


def _size(vessel: Vessel) -> str:
    """A vessel as a place: one of its kind that holds at least as much."""
    return f"{vessel.kind}:{vessel.volume_ml:g}"


def _add_dish(made: _Tasks, dish: DishToCook) -> None:
    batches = {b.component.key: b for b in dish.batches}
    steps = [s for s in dish.steps if not s.component_key or s.component_key in batches]
    before = before_session(steps)
    made.before += [Before(dish.name, s.text, ahead) for s, ahead in before.values()]
    now = [s for s in steps if s.key not in before and not is_later(s)]
    made.later += [(dish.name, s.text) for s in steps if s.key not in before and is_later(s)]
    keys = {s.key: f"{dish.key}/{s.key}" for s in now}
    waited = {key for s in now for key in s.after}
    heats = _last_heats(now)
    raw = {x.food.key for batch in dish.batches for x in batch.component.lines if x.food.keep_group in RAW_GROUPS}
    weighed_out = [foods_by_step(now, batch.component) for batch in dish.batches]
    for step in now:
        weighs = tuple(food for bowls in weighed_out for food in bowls.get(step.key, ()))
        _add_step(made, dish, step, keys)
        told = made.told[keys[step.key]]
        written = step.duration_min or _guess(step)
        made.told[keys[step.key]] = replace(
            told, weighs=weighs, comes_off=step in heats, written_min=written, is_raw=bool(raw & {*weighs})
        )
    ends = [keys[s.key] for s in now if s.key not in waited]
    bare = [b for b in dish.batches if not any(s.component_key in ("", b.component.key) for s in now)]
    if not now or (bare and all(s.component_key for s in now)):
        ends += [_add_unwritten(made, dish, batch) for batch in (bare or dish.batches)]
    if heats and not _cools(now):
        cool = Task(f"{dish.key}/cool", dish.key, round(GUESSED_MIN[COOLING]), False, COOLING, after=tuple(ends))
        words = say("Cool {dish}, lids off", dish=dish.name)
        ends = [made.add(cool, TaskTold(words, say("cool"), guessed=say("no step says how it cools")))]
    box_min = max(1, BOX_MIN * dish.boxes)
    box = Task(f"{dish.key}/box", dish.key, box_min, after=tuple(ends))
    words = say("Fill {boxes} with {dish}, lids on, into the fridge", boxes=many(dish.boxes, "box"), dish=dish.name)
    made.add(box, TaskTold(words, say("box {dish}", dish=shortly(dish.name, 2))))
    made.within += [Within(keys[s.key], box.key, dish.cold_within_min - box_min) for s in heats]
    _add_holds(made, dish, now, keys)


def _cools(steps: Iterable[Step]) -> bool:
    return any(s.equipment in (COOLING, FRIDGE) for s in steps)


def _last_heats(steps: Sequence[Step]) -> list[Step]:
    """The steps that heat and after which nothing heats what they made."""
    followed: set[str] = set()
    by_key = {s.key: s for s in steps}
    for step in (s for s in steps if s.heats):
        waits = list(step.after)
        while waits:
            key = waits.pop()
            if key in by_key and key not in followed:
                followed.add(key)
                waits += by_key[key].after
    return [s for s in steps if s.heats and s.key not in followed]


def _add_step(made: _Tasks, dish: DishToCook, step: Step, keys: Mapping[str, str]) -> None:
    batches = [b for b in dish.batches if step.component_key in ("", b.component.key)]
    factor = max((b.factor for b in batches), default=1.0)
    turns = max((_turns(b, made.vessels) for b in batches), default=1.0) if step.component_key else 1.0
    guessed = say("the step says no minutes") if step.duration_min is None else ""
    timed = step if step.duration_min else replace(step, duration_min=_guess(step))
    minutes = max(1, ceil((scaled_step(timed, factor, turns).duration_min or 1) - 1e-9))
    looks = tuple(sorted({round(at) for at in step.checks_min if 0 <= round(at) < minutes}))
    shelves = _side_by_side(batches, made.vessels) if step.equipment == OVEN and step.component_key else 1
    swaps = shelves > 1 and not looks and not step.is_hands_on and minutes >= SWAP_FROM_MIN
    looks = (minutes // 2,) if swaps else looks
    task = Task(
        keys[step.key],
        dish.key,
        minutes,
        step.is_hands_on,
        "" if step.equipment == FRIDGE else step.equipment,
        low_c=None if step.low_c is None else round(step.low_c),
        high_c=None if step.high_c is None else round(step.high_c),
        after=tuple(keys[key] for key in step.after if key in keys),
        at_once=step.follows_at_once,
        checks=() if step.is_hands_on else looks,
        takes=shelves,
        shares=_shares(batches, dish, made.vessels) if step.equipment == OVEN and step.component_key else "",
    )
    name = batches[0].component.name if step.component_key and batches else ""
    about = TaskTold(step.text, shortly(step.text), name, guessed, step.key, step.core_kind)
    if step.equipment == OVEN and HOT_TRAY.search(step.text.lower()):
        task = _heat_tray(made, task, dish)
    made.add(task, replace(about, swaps=swaps))


def _heat_tray(made: _Tasks, task: Task, dish: DishToCook) -> Task:
    """The task that follows an empty tray's getting hot, which takes its place in the oven meanwhile."""
    tray = replace(task, key=f"{task.key}.tray", minutes=HOT_TRAY_MIN, is_hands_on=False, after=(), at_once=False)
    made.add(replace(tray, checks=()), TaskTold(say("Heat the tray for {dish}", dish=dish.name), say("heat the tray")))
    made.within.append(Within(tray.key, task.key, HOT_TRAY_STAYS_MIN))
    return replace(task, after=(*task.after, tray.key))


def _guess(step: Step) -> float:
    return GUESSED_MIN.get(step.equipment, OTHER_GUESSED_MIN)


def _add_unwritten(made: _Tasks, dish: DishToCook, batch: BatchToCook) -> str:
    """A batch that no step says anything of: so many minutes of work, and asked for."""
    task = Task(f"{dish.key}/{batch.component.key}", dish.key, round(WHOLE_RECIPE_MIN))
    words = say("Make {component} for {dish}", component=batch.component.name, dish=dish.name)
    guessed = say("the recipe says no steps for it")
    weighs = tuple(dict.fromkeys(line.food.key for line in batch.component.lines if goes_in_now(line)))
    name = batch.component.name
    return made.add(task, TaskTold(words, shortly(name), name, guessed, weighs=weighs, comes_off=True))


def _filling(batch: BatchToCook, vessels: Sequence[Vessel], *, as_written: bool = False) -> Filling | None:
    if as_written:
        return filling(batch.component, expected_cooked_weight(batch.component).grams, vessels)
    return filling(batch.component.times(batch.factor), batch.cooked_g, vessels)


def _turns(batch: BatchToCook, vessels: Sequence[Vessel]) -> float:
    """How many times as often as its recipe says its vessel is filled, one after the other."""
    now, written = _filling(batch, vessels), _filling(batch, vessels, as_written=True)
    return turns_of(now) / turns_of(written) if now is not None and written is not None else 1.0


def _side_by_side(batches: Iterable[BatchToCook], vessels: Sequence[Vessel]) -> int:
    """How many vessels a batch fills at once: each takes a shelf."""
    fillings = [f for f in (_filling(batch, vessels) for batch in batches) if f is not None]
    return max((min(len(f.loads_ml), f.vessel.count) for f in fillings), default=1)


def _shares(batches: Sequence[BatchToCook], dish: DishToCook, vessels: Sequence[Vessel]) -> str:
    """What a batch in the oven may share its tray with: what is half a tray of that size at most, bakes once, and holds
    the same allergens and kinds of food. Empty when it needs its tray for itself."""
    if len(batches) != 1:
        return ""
    batch = batches[0]
    fits = _filling(batch, vessels)
    heated = [s for s in dish.steps if s.heats and s.component_key in ("", batch.component.key)]
    if fits is None or fits.vessel.kind != TRAY or len(heated) != 1 or HOT_TRAY.search(heated[0].text.lower()):
        return ""
    if fits.volume_ml > fits.vessel.usable_ml / 2:
        return ""
    foods = [line.food for line in batch.component.lines]
    kinds = sorted({food.diet for food in foods} | {a for food in foods for a in food.allergens})
    return "|".join([_size(fits.vessel), *kinds])


def _add_holds(made: _Tasks, dish: DishToCook, steps: Sequence[Step], keys: Mapping[str, str]) -> None:
    """The vessels a batch stands in while it is on the hob or in the oven: it may take any that hold as much."""
    for batch in dish.batches:
        fits = _filling(batch, made.vessels)
        own = tuple(keys[s.key] for s in steps if s.equipment in (HOB, OVEN) and s.component_key == batch.component.key)
        own += tuple(f"{key}.tray" for key in own if f"{key}.tray" in made.told)
        if fits is None or not own:
            continue
        sizes = {_size(v) for v in made.vessels if v.kind == fits.vessel.kind and v.volume_ml <= fits.vessel.volume_ml}
        for _ in range(min(len(fits.loads_ml), fits.vessel.count)):
            made.holds += [Hold(size, own) for size in sorted(sizes)]


LONGEST_SHORT = 26
_CUT = (",", ".", ";", ":", " and ", " with ", " in ", " until ", " then ")


def shortly(text: str, most_words: int = 6) -> str:
    """The first words of a step, as many as stand on a line of the sheet."""
    first = min((at for at in (text.find(cut, 4) for cut in _CUT) if at > 0), default=len(text))
    words = text[:first].split()[:most_words]
    while len(" ".join(words)) > LONGEST_SHORT and len(words) > 1:
        words.pop()
    short = " ".join(words)[:LONGEST_SHORT]
    return short[:1].lower() + short[1:]
