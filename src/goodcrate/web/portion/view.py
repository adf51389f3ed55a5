"""The bench: one pot and its boxes, as the page draws them, and what is said of what does not come out even."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, time
from uuid import UUID

from goodcrate.core.ground.nutrients import Tally
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import round_half_up, weekday_whole
from goodcrate.core.portion.containers import apart_key
from goodcrate.core.portion.filled_boxes import WEIGHED, BatchOutcome, BoxPortion
from goodcrate.core.portion.on_scale import tolerance_g
from goodcrate.core.portion.week_outcome import PlacedBox
from goodcrate.core.recipes.variants import base_recipe_key
from goodcrate.core.recipes.vessels import MEAL_BOX_ML, Vessel, holds_g
from goodcrate.core.store.for_the_meal import added_at_packing
from goodcrate.core.targets.day_target import judge_energy
from goodcrate.core.targets.eater import Eater
from goodcrate.core.targets.excluding import why_not_for
from goodcrate.core.week.meals import Meal
from goodcrate.services.week.weeks import WeekPicture
from goodcrate.web.cook.view import BatchCard
from goodcrate.web.drawing import BoxDrawing, draw_fill, energy_words, texture_of
from goodcrate.web.figures import measured, whole

TELL_FROM_G = 3
"""A box this many grams off its share is mentioned: less than that is the scale and the spoon."""
BENCH_ZONE_PX = 84
"""Height of a bench box's filling zone, as its template draws it."""


@dataclass(frozen=True)
class OtherPart:
    """What else goes into a box: another batch's component, and whether it is in."""

    name: str
    grams: float
    is_in: bool
    texture: str


@dataclass(frozen=True)
class BoxOnBench:
    """One box on the portioning bench. `kcal` and `protein_g` are the whole box's, `kcal_per_g` this component's;
    `mark_y` is the target's line from the top of its drawing."""

    portion: BoxPortion
    placement: Meal
    eater: Eater
    slot_name: str
    slot_at: time
    drawing: BoxDrawing
    mark_y: float
    is_packed: bool
    is_current: bool
    tally: Tally
    others: tuple[OtherPart, ...] = ()
    container: Vessel | None = None
    day_words: str = ""
    row_words: str = ""
    is_own_version: bool = False
    known_by: str = ""
    on_top: str = ""

    @property
    def day(self) -> date:
        """When it is eaten."""
        return self.placement.day

    @property
    def eater_name(self) -> str:
        """Whose it is."""
        return self.eater.first_name

    @property
    def low_g(self) -> float:
        """The least that is right."""
        return max(1.0, round_half_up(self.portion.grams) - tolerance_g(self.portion.grams))

    @property
    def high_g(self) -> float:
        """The most that is right: never more than its container takes."""
        high_g = round_half_up(self.portion.grams) + tolerance_g(self.portion.grams)
        return high_g if self.portion.room_g is None else max(self.low_g, min(high_g, self.portion.room_g))

    @property
    def in_it_g(self) -> float:
        """What is in the box already of other batches, in g."""
        return sum(other.grams for other in self.others if other.is_in)

    @property
    def empty_g(self) -> float | None:
        """What the box weighs before this component goes in, in g; None where its container's tare is not known."""
        tare_g = None if self.container is None else self.container.tare_g
        small = (
            self.container is not None and self.container.volume_ml < MEAL_BOX_ML
        )  # a pot of its own holds nothing else
        return None if tare_g is None else tare_g + (0.0 if small else self.in_it_g)

    def without(self, key: str, per_g: float) -> float:
        """A nutrient of the box before this component goes in, which holds `per_g` of it in a gram."""
        return self.tally.amount(key).value - per_g * self.portion.grams

    @property
    def kcal(self) -> str:
        """Energy of the whole box, with its doubt."""
        return measured(self.tally.amount("energy_kcal"), "energy_kcal")

    @property
    def protein(self) -> str:
        """Protein of the whole box, with its doubt."""
        return measured(self.tally.amount("protein_g"), "protein_g")


def boxes_on_bench(picture: WeekPicture, card: BatchCard, chosen: str = "") -> list[BoxOnBench]:
    """The batch's boxes in the order they are eaten. The current one is `chosen`, else the first that is not packed.

    Drawn so that the fullest target stands at four fifths of the box.
    """
    meals = {str(p.id): p for p in picture.meals}
    eaters: dict[UUID, Eater] = {e.id: e for e in picture.eaters}
    outcome = card.worked.outcome
    full_g = max((max(p.grams, p.target_g) for p in outcome.portions), default=1.0) * 1.25
    texture = texture_of(outcome.state.batch.tally)
    keys = [p.placing_key for p in outcome.portions]
    open_keys = [p.placing_key for p in outcome.portions if p.stage != WEIGHED]
    current = chosen if chosen in keys else next(iter(open_keys), "")
    if outcome.state.pot_g is None:
        current = ""
    boxes, counted = [], 0
    for p in outcome.portions:
        row, counted = f"{counted + 1}–{counted + p.pieces}" if p.pieces else "", counted + p.pieces
        meal = meals[p.placing_key]
        eater = eaters[meal.eater_id]
        slot = next(s for s in eater.slots if s.id == meal.slot_id)
        box = picture.outcome.boxes[p.placing_key]
        others = tuple(
            OtherPart(part.name, part.grams, part.stage == WEIGHED, texture_of(part.tally))
            for part in box.parts
            if part.component_key != card.worked.plan.component_key
        )
        boxes.append(
            BoxOnBench(
                p,
                meal,
                eater,
                slot.name,
                slot.at,
                draw_fill(p.grams if p.stage == WEIGHED else 0.0, full_g, texture),
                mark_y=round(BENCH_ZONE_PX * (1 - p.grams / full_g), 1),
                is_packed=p.stage == WEIGHED,
                is_current=p.placing_key == current,
                tally=box.tally,
                others=others,
                container=container_of(picture, card, p.placing_key),
                day_words=day_words(picture, eater, meal.day),
                row_words=row,
                known_by=card.worked.record.marks.get(str(eater.id), ""),
                is_own_version=base_recipe_key(box.placing.recipe_key) != box.placing.recipe_key,
                on_top=_on_top(picture, card, box),
            )
        )
    return boxes


def _on_top(picture: WeekPicture, card: BatchCard, box: PlacedBox) -> str:
    """What of this batch's component goes into a box as it is packed: “5 g parsley”."""
    recipe = picture.recipes[box.placing.recipe_key]
    adds = added_at_packing(recipe, box.placing.servings, card.worked.plan.component_key)
    return ", ".join(todo.words for todo in adds)


def container_of(picture: WeekPicture, card: BatchCard, key: str) -> Vessel | None:
    """What this component of a meal goes into: its own pot where it is kept apart, else the meal's box."""
    apart = picture.packing.by_key.get(apart_key(key, card.worked.plan.component_key))
    return apart or picture.packing.by_key.get(key)


def day_words(picture: WeekPicture, eater: Eater, day: date, more_kcal: float = 0.0) -> str:
    """Where an eater's day stands, with so much more energy: “1,944 of 1,950 kcal, in band, −6”; empty without a
    target."""
    target = eater.target_on(day.weekday())
    if target is None:
        return ""
    total = Tally.sum([*_boxes_of(picture, eater, day), eater.extras_tally]).amount("energy_kcal").value + more_kcal
    told = {
        "total": whole(total),
        "target": whole(target.energy_kcal),
        "how": energy_words(judge_energy(total, target)),
    }
    return say("{total} of {target} kcal, {how}", **told)


def _boxes_of(picture: WeekPicture, eater: Eater, day: date) -> list[Tally]:
    mine = [str(m.id) for m in picture.meals if m.eater_id == eater.id and m.day == day]
    return [picture.outcome.boxes[key].tally for key in mine]


@dataclass(frozen=True)
class TakesRest:
    """A box that could take what is left, so many g in all, and its day with that."""

    box: BoxOnBench
    grams: float
    day_words: str
    is_better: bool


def who_takes_rest(picture: WeekPicture, boxes: Sequence[BoxOnBench], outcome: BatchOutcome) -> list[TakesRest]:
    """The boxes with room for what is left in the pot, those first whose day comes nearest to its target by it."""
    left_g = outcome.left_g
    per_g = outcome.state.batch.portion(1.0, standard_error_g=0.0).amount("energy_kcal").value
    found = []
    for box in boxes:
        room_g = box.portion.room_g
        if not box.is_packed or (room_g is not None and box.portion.grams + left_g > room_g):
            continue
        more_kcal = left_g * per_g
        off, now = _off(picture, box, more_kcal), _off(picture, box, 0.0)
        words = day_words(picture, box.eater, box.day, more_kcal)
        found.append((off, TakesRest(box, round(box.portion.grams + left_g, 1), words, off < now)))
    return [takes for _, takes in sorted(found, key=lambda f: f[0])]


@dataclass(frozen=True)
class OtherBox:
    """A box of another dish that what is left could go into, and its day with that."""

    meal: Meal
    words: str


def other_boxes(picture: WeekPicture, card: BatchCard) -> list[OtherBox]:
    """The boxes of the same session's other dishes for who may have this one, nearest to its day's target first."""
    outcome = card.worked.outcome
    own = {p.placing_key for p in outcome.portions}
    per_g = outcome.state.batch.portion(1.0, standard_error_g=0.0).amount("energy_kcal").value
    recipe, more_kcal = picture.recipes[card.worked.plan.recipe_key], outcome.left_g * per_g
    found = []
    for meal in picture.meals:
        box = picture.outcome.boxes[str(meal.id)]
        eater = next(e for e in picture.eaters if e.id == meal.eater_id)
        if str(meal.id) in own or box.placing.session_key != card.session_key or why_not_for(eater.exclusions, recipe):
            continue
        told = {
            "who": eater.first_name,
            "day": weekday_whole(meal.day),
            "dish": picture.recipes[str(meal.recipe_id)].name,
        }
        words = say("{who}, {day}: {dish}", **told)
        day = day_words(picture, eater, meal.day, more_kcal)
        found.append((_day_off(picture, eater, meal.day, more_kcal), OtherBox(meal, f"{words} · {day or '–'}")))
    return [box for _, box in sorted(found, key=lambda f: f[0])]


def topped_up_words(picture: WeekPicture, card: BatchCard) -> dict[str, str]:
    """By meal, whose box this batch gave something to."""
    meals = {str(m.id): m for m in picture.meals}
    names = {e.id: e.first_name for e in picture.eaters}
    return {
        p.placing_key: say("{who}’s {day} box", who=names[m.eater_id], day=weekday_whole(m.day))
        for p in card.worked.outcome.spare
        if (m := meals.get(p.placing_key)) is not None
    }


def _off(picture: WeekPicture, box: BoxOnBench, more_kcal: float) -> float:
    """How far from its target a box's day is, as a share; far without one."""
    return _day_off(picture, box.eater, box.day, more_kcal)


def _day_off(picture: WeekPicture, eater: Eater, day: date, more_kcal: float) -> float:
    target = eater.target_on(day.weekday())
    if target is None:
        return 9.0
    total = Tally.sum([*_boxes_of(picture, eater, day), eater.extras_tally]).amount("energy_kcal").value
    return abs((total + more_kcal) / target.energy_kcal - 1)


def last_filled(card: BatchCard, boxes: Sequence[BoxOnBench]) -> BoxOnBench | None:
    """The box that was weighed last, by the log: what an undo takes back."""
    packed = {box.portion.placing_key: box for box in boxes if box.is_packed}
    return next((packed[event.subject] for event in reversed(card.worked.record.log) if event.subject in packed), None)


def container_words(box: BoxOnBench) -> str:
    """What a box goes into: “750 ml box, two compartments, takes 607 g”."""
    if box.container is None:
        return ""
    told = {"name": box.container.name, "holds": whole(holds_g(box.container))}
    return say("{name}, takes {holds} g with room to freeze", **told)


def took_other_than_divided(card: BatchCard, last: BoxOnBench | None) -> str:
    """What a box filled over or under its share means for the others, in a sentence; empty when it was even."""
    state = card.worked.outcome.state
    if last is None or state.pot_g is None or last.portion.pieces:
        return ""
    share_g = card.worked.outcome.even_share_g(last.portion)
    apart = round_half_up(last.portion.grams - share_g)
    if abs(apart) < TELL_FROM_G:
        return ""
    more = f"{whole(abs(apart))} g {say('more') if apart > 0 else say('less')}"
    open_boxes = card.box_count - card.packed
    rest = (
        say("the rest is divided again over the other {open_boxes}", open_boxes=open_boxes)
        if open_boxes > 1
        else say("the last box takes the rest")
        if open_boxes
        else say("its day is counted with what is in it")
    )
    told = {"day": weekday_whole(last.day), "more": more, "share_g": whole(share_g), "rest": rest}
    return say("{day} took {more} than its even share of {share_g} g. It stays; {rest}.", **told)
