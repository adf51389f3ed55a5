"""A day at the table as its page draws it: meals in order of time, each with what to do, tonight's moves, slips."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import date, time, timedelta
from uuid import UUID

from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import clock, day_month, short, shown, signed, weekday, weekday_whole
from goodcrate.core.recipes.recipe import Recipe
from goodcrate.core.store.at_table import FATE_WORDS, TO_COME, OffPlan, Plate
from goodcrate.core.store.box_code import box_code
from goodcrate.core.store.for_the_meal import ADD, TAKE_OUT, ToDo, is_heated, night_before, to_do_now
from goodcrate.core.store.slip_moves import LEAVE, LESS, MORE, SWAP, Move
from goodcrate.core.targets.day_target import DayTarget
from goodcrate.core.targets.eater import Eater
from goodcrate.core.targets.slot import Slot
from goodcrate.core.week.meals import Meal
from goodcrate.core.week.storing import CUPBOARD, FREEZER, FRIDGE
from goodcrate.formats.reference import keep_groups
from goodcrate.services.at_table.mean import mean_at_table
from goodcrate.services.at_table.slips import meal_of, moves_after
from goodcrate.services.at_table.table import Table
from goodcrate.services.at_table.today import TodayPicture
from goodcrate.web.at_table import swap_offers
from goodcrate.web.drawing import (
    BandLine,
    Beam,
    BoxDrawing,
    at_least_words,
    band_lines,
    draw_box,
    energy_beam,
    energy_words,
    protein_beam,
)
from goodcrate.web.figures import measured, number, whole

WHERE = {
    FRIDGE: Saying("Take it out of the fridge"),
    FREEZER: Saying("Take it out of the freezer"),
    CUPBOARD: Saying("Take it out of the cupboard"),
}


@dataclass(frozen=True)
class Job:
    """Something to tick: what it is, under the name its tick goes by, what it is for, and the box's code."""

    subject: str
    words: str
    about: str
    is_done: bool
    code: str = ""
    weighs: tuple["Weighed", ...] = ()


@dataclass(frozen=True)
class Weighed:
    """What is weighed for a job: the ingredient, its planned grams and, once it was weighed, what the scale said."""

    meal_id: str
    line_key: str
    food: str
    planned: str
    weighed: str = ""
    ticks: str = ""


@dataclass(frozen=True)
class MealCard:
    """A meal of the day with its box, what to do with it, and what became of it."""

    meal: Meal
    slot_name: str
    at: time
    dish: str
    kcal: str
    protein: str
    fate: str
    fate_words: str
    jobs: tuple[Job, ...]
    drawing: BoxDrawing
    code: str
    undo: str = ""
    grams: float = 0.0
    eaten_kcal: str = ""
    past: str = ""
    when: str = ""
    others: tuple[tuple[UUID, str], ...] = ()

    @property
    def is_open(self) -> bool:
        """Whether it is still to be eaten."""
        return self.fate == TO_COME


@dataclass(frozen=True)
class MoveCard:
    """A move after a slip, in words, with what it does to each day; and what its button sends."""

    kind: str
    words: str
    effects: tuple[str, ...]
    meal_id: str = ""
    other_id: str = ""
    thing_id: str = ""
    grams: str = ""


@dataclass(frozen=True)
class DayView:
    """The page of an eater's day."""

    eater: Eater
    day: date
    cards: tuple[MealCard, ...]
    off_plan: tuple[OffPlan, ...]
    tonight: tuple[Job, ...]
    energy: Beam | None
    protein: Beam | None
    eaten_kcal: str
    whole_kcal: float
    whole_protein: float
    target: DayTarget | None
    moves: tuple[MoveCard, ...] = ()
    mean: str = ""
    bands: tuple[BandLine, ...] = ()

    @property
    def now(self) -> MealCard | None:
        """The meal that is next."""
        return next((card for card in self.cards if card.is_open), None)


def day_view(today: TodayPicture, eater: Eater, only: UUID | None = None) -> DayView:
    """An eater's day; with `only` as they see it themselves, who acts for nobody else."""
    at_table = today.table.day(eater, today.day)
    target = eater.target_on(today.day.weekday())
    there = at_table.whole
    kcal, protein = there.amount("energy_kcal").value, there.amount("protein_g").value
    on_mean = eater.day_room_pct is not None
    return DayView(
        eater,
        today.day,
        tuple(_card(today, eater, plate, only) for plate in at_table.plates),
        at_table.off_plan,
        tuple(tonight(today, only)),
        energy_beam(kcal, target) if target is not None else None,
        protein=protein_beam(protein, target) if target is not None else None,
        eaten_kcal=whole(at_table.eaten.amount("energy_kcal").value),
        whole_kcal=kcal,
        whole_protein=protein,
        target=target,
        moves=tuple(_move_card(today, move, on_mean=on_mean) for move in moves_after(today, eater)),
        mean=_mean_words(today, eater),
        bands=() if target is None else band_lines(there, target.bands, today.table.picture.polyol_share),
    )


def _mean_words(today: TodayPicture, eater: Eater) -> str:
    """Where the week's mean stands, with all that is eaten and to come."""
    mean = mean_at_table(today.table, eater)
    if mean is None:
        return ""
    told = {
        "kcal": whole(mean.kcal),
        "how": energy_words(mean.energy),
        "protein": whole(mean.protein_g),
        "least": at_least_words(mean.protein, mean.floor_g),
    }
    words = say("The week’s mean: {kcal} kcal a day ({how}), {protein} g protein ({least}).", **told)
    if mean.counts:
        words = say("The week’s mean counts: {kcal} kcal a day ({how}), {protein} g protein ({least}).", **told)
    if mean.outside:
        words = f"{words} {say('Outside on the mean: {what}.', what=', '.join(mean.outside))}"
    return words


def _card(today: TodayPicture, eater: Eater, plate: Plate, only: UUID | None) -> MealCard:
    table = today.table
    meal, placed, recipe = meal_of(table, plate.meal_key), table.placed(plate), table.recipe(plate)
    slot = next(s for s in eater.slots if s.id == meal.slot_id)
    code = "" if plate.box is None else box_code(UUID(plate.box.key))
    there = plate.ahead if plate.is_open else plate.eaten
    last = None if plate.box is None else table.last_day(plate.box)
    past = say("Past its date since {day}: not to be eaten.", day=day_month(last)) if last and last < today.day else ""
    energy = there.amount("energy_kcal")
    return MealCard(
        meal,
        slot.name,
        slot.at,
        recipe.name,
        measured(energy, "energy_kcal"),
        measured(there.amount("protein_g"), "protein_g"),
        fate=plate.fate,
        fate_words=say(str(FATE_WORDS[plate.fate])) if plate.fate in FATE_WORDS else "",
        jobs=tuple(_jobs(today, plate, recipe, is_cold=slot.must_be_cold)) if plate.is_open and not past else (),
        drawing=draw_box(placed.parts),
        code=code,
        undo=plate.said_by,
        grams=plate.ahead.grams,
        eaten_kcal=whole(plate.eaten.amount("energy_kcal").value),
        past=past if plate.is_open else "",
        when=_when(table, plate, slot, is_cold=slot.must_be_cold or not is_heated(recipe, keep_groups())),
        others=swap_offers(table, meal, today.day, only),
    )


def _when(table: Table, plate: Plate, slot: Slot, *, is_cold: bool) -> str:
    """When it is eaten and how: “12:30 lunch, eaten cold”."""
    words = [f"{clock(slot.at)} {slot.name}"]
    if is_cold and plate.is_open:
        words.append(say("eaten cold"))
    if swapped := _swapped_words(table, plate):
        words.append(swapped)
    return ", ".join(words)


def _swapped_words(table: Table, plate: Plate) -> str:
    if not plate.moved_from:
        return ""
    was = meal_of(table, plate.moved_from)
    eater = next(e for e in table.picture.eaters if e.id == was.eater_id)
    return say("swapped with {who}’s {day}", who=eater.first_name, day=weekday_whole(was.day))


def _jobs(today: TodayPicture, plate: Plate, recipe: Recipe, *, is_cold: bool) -> Iterator[Job]:
    table, placed = today.table, today.table.placed(plate)
    stay = table.picture.stays.get(plate.moved_from or plate.meal_key)
    place = (plate.box.place if plate.box is not None else "") or ("" if stay is None else stay.place)
    code = "" if plate.box is None else box_code(UUID(plate.box.key))
    taken = say(str(WHERE[place])) if place in WHERE else ""
    for todo in to_do_now(recipe, placed.placing.servings, keep_groups(), from_place=taken, is_cold=is_cold):
        words = say("Add {what}", what=todo.words) if todo.kind == ADD else todo.words
        subject = f"now:{plate.meal_key}:{todo.key}"
        weighs = _weighs(table, plate, todo, subject)
        yield Job(subject, words, "", subject in today.done, code if todo.kind == TAKE_OUT else "", weighs)


def _weighs(table: Table, plate: Plate, todo: ToDo, subject: str) -> tuple[Weighed, ...]:
    """What is weighed for a job. One thing alone: weighing it is doing it."""
    ticks = subject if len(todo.weighs) == 1 and todo.kind == ADD else ""
    found = []
    for one in todo.weighs:
        grams = table.weighed.get((plate.meal_key, one.line_key))
        said = "" if grams is None else short(grams)
        found.append(Weighed(plate.meal_key, one.line_key, one.food, shown(one.grams), said, ticks))
    return tuple(found)


def tonight(today: TodayPicture, only: UUID | None = None) -> Iterator[Job]:
    """What to do this evening for the next day, for every eater or `only` for one: boxes to thaw first, then what is
    soaked or mixed."""
    if today.tomorrow is None:
        return
    picture, then = today.tomorrow.picture, today.day + timedelta(days=1)
    names = {e.id: e.first_name for e in picture.eaters}
    slots = {s.id: s for e in picture.eaters for s in e.slots}
    meals = [m for m in picture.meals if only in (None, m.eater_id)]
    meals = sorted(meals, key=lambda m: (slots[m.slot_id].at, names[m.eater_id]))
    for meal in meals:
        stay, plate = picture.stays.get(str(meal.id)), today.tomorrow.plates[str(meal.id)]
        if stay is not None and stay.thaw_on == today.day and plate.fate == TO_COME and plate.box is not None:
            words = say("{dish}: freezer to fridge", dish=today.tomorrow.recipe(plate).name)
            about, code = f"{names[meal.eater_id]}, {weekday(meal.day)}", box_code(UUID(plate.box.key))
            yield replace(_job(today, f"thaw:{meal.id}", words, about), code=code)
    for meal in (m for m in meals if m.day == then):
        plate = today.tomorrow.plates[str(meal.id)]
        if plate.fate != TO_COME:
            continue
        servings = today.tomorrow.placed(plate).placing.servings
        recipe = today.tomorrow.recipe(plate)
        for todo in night_before(recipe, servings):
            about = f"{recipe.name}: {names[meal.eater_id]}, {slots[meal.slot_id].name}"
            subject = f"night:{meal.id}:{todo.key}"
            weighs = _weighs(today.tomorrow, plate, todo, subject)
            yield replace(_job(today, subject, todo.words, about), weighs=weighs)


def _job(today: TodayPicture, subject: str, words: str, about: str) -> Job:
    return Job(subject, words, about, subject in today.done)


def _move_card(today: TodayPicture, move: Move, *, on_mean: bool) -> MoveCard:
    effects = [_effect(today, move, n) for n in range(len(move.days))]
    mean = say(
        "The week’s mean: {mean} of {target} kcal a day, {off} %.",
        mean=whole(move.mean),
        target=whole(move.mean_target),
        off=signed(round(100 * move.mean_off, 1)),
    )
    if move.kind == LEAVE:
        if on_mean:
            return MoveCard(move.kind, say("Leave it: the week’s mean is in its band."), (mean,))
        return MoveCard(move.kind, say("Leave it: the week’s mean is within 2 %."), (mean,))
    dish = today.table.recipe(today.table.plates[move.key]).name if move.kind in (SWAP, LESS) else ""
    if move.kind == SWAP:
        other = today.table.plates[move.other]
        told = {"dish": dish, "other": today.table.recipe(other).name}
        words = say("Swap {dish} with {day}’s {other}", day=weekday_whole(meal_of(today.table, move.other).day), **told)
        return MoveCard(move.kind, words, (*effects, mean), move.key, move.other)
    if move.kind == MORE:
        snack = next(s for s in today.snacks if str(s.id) == move.key)
        words = say("Eat {grams} g {food} besides", grams=shown(move.grams or 0.0), food=snack.food.name)
        return MoveCard(move.kind, words, (*effects, mean), thing_id=move.key, grams=shown(move.grams or 0.0))
    words = say("Eat {grams} g of {dish}", grams=shown(move.grams or 0.0), dish=dish)
    return MoveCard(move.kind, words, (*effects, mean), move.key, grams=shown(move.grams or 0.0))


def _effect(today: TodayPicture, move: Move, n: int) -> str:
    then = move.days[n]
    day = today.first_day + timedelta(days=then.day)
    return say(
        "{day} {before} → {after} kcal, {protein} g protein",
        day=weekday(day),
        before=whole(then.kcal_before),
        after=whole(then.kcal),
        protein=number(then.protein_g, 0),
    )
