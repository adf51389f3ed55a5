"""Batches as the Cook and Portion pages show them."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, datetime
from uuid import UUID

from goodcrate.core.cook.batch_record import goes_in_now
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import round_half_up, weekday_whole
from goodcrate.core.portion.filled_boxes import WEIGHED, BoxPortion
from goodcrate.core.portion.week_outcome import WorkedBatch
from goodcrate.core.recipes.component import ALL_OF_IT
from goodcrate.core.targets.eater import Eater
from goodcrate.core.week.meals import Meal
from goodcrate.services.cook.cooking import batch_id_for
from goodcrate.services.week.weeks import WeekPicture
from goodcrate.web.drawing import BoxDrawing, draw_fill, texture_of
from goodcrate.web.figures import grams, whole

TELL_FROM_G = 3
"""A box this many grams off its share is mentioned: less than that is the scale and the spoon."""
BENCH_ZONE_PX = 150
"""Height of a bench box's filling zone, as its template draws it."""


@dataclass(frozen=True)
class BatchCard:
    """A batch with the words around it."""

    id: UUID
    worked: WorkedBatch
    name: str
    recipe_name: str
    session_at: datetime
    session_key: str

    @property
    def title(self) -> str:
        """The component within its recipe; the recipe alone when the component is all of it."""
        return self.recipe_name if self.name in (ALL_OF_IT, "") else f"{self.recipe_name}: {self.name}"

    @property
    def short_title(self) -> str:
        """The component's name as a heading; the recipe's when the component is all of it."""
        return self.recipe_name if self.name in (ALL_OF_IT, "") else self.name[:1].upper() + self.name[1:]

    @property
    def weighed_lines(self) -> int:
        """Ingredients of which it is known what went in."""
        return self.line_count - self.lines_left

    @property
    def line_count(self) -> int:
        """Ingredients that go in while it is cooked."""
        return sum(goes_in_now(line) for line in self.worked.record.lines)

    @property
    def weigh_in_g(self) -> float:
        """What goes in while it is cooked, in g."""
        return sum(line.amount.grams for line in self.worked.outcome.state.lines if goes_in_now(line))

    @property
    def lines_left(self) -> int:
        """Ingredients that are not in yet."""
        return len(self.worked.outcome.state.not_in_yet)

    @property
    def packed(self) -> int:
        """Boxes that are weighed."""
        return sum(p.stage == WEIGHED for p in self.worked.outcome.portions)

    @property
    def box_count(self) -> int:
        """Boxes in all."""
        return len(self.worked.outcome.portions)

    @property
    def is_done(self) -> bool:
        """The pot is weighed and every box is packed."""
        return self.worked.outcome.state.pot_g is not None and self.packed == self.box_count

    @property
    def is_open(self) -> bool:
        """The pot is weighed and boxes wait: what to go on with."""
        return self.worked.outcome.state.pot_g is not None and self.packed < self.box_count

    @property
    def is_weighing_in(self) -> bool:
        """Some ingredients are weighed and others wait."""
        return 0 < self.weighed_lines < self.line_count

    @property
    def state(self) -> str:
        """Where the batch stands, in words."""
        pot_g = self.worked.outcome.state.pot_g
        if pot_g is not None:
            return say("{pot_g} g in the pot", pot_g=grams(pot_g))
        return (
            say(
                "{weighed_lines} of {line_count} ingredients weighed",
                weighed_lines=self.weighed_lines,
                line_count=self.line_count,
            )
            if self.weighed_lines
            else say("not begun")
        )


def batch_cards(picture: WeekPicture) -> list[BatchCard]:
    """All batches of a week, by session, in the order their meals are eaten."""
    return picture.once("batch cards", lambda: _batch_cards(picture))


def _batch_cards(picture: WeekPicture) -> list[BatchCard]:
    starts = {s.key: s.starts_at for s in picture.sessions}
    cards = []
    for worked in picture.outcome.batches:
        plan = worked.plan
        recipe = picture.recipes[plan.recipe_key]
        name = next(c.name for c in recipe.components if c.key == plan.component_key)
        key = batch_id_for(picture.week.id, plan.session_key, plan.component_key)
        at = starts[plan.session_key]
        cards.append(BatchCard(key, worked, name, recipe.name, at, plan.session_key))
    return sorted(cards, key=lambda card: card.session_at)


def by_session_and_recipe(picture: WeekPicture) -> Mapping[datetime, Mapping[str, list[BatchCard]]]:
    """A week's cards by session and then by recipe; recipes that somebody has begun and not finished come first."""
    groups: dict[datetime, dict[str, list[BatchCard]]] = {}
    for card in batch_cards(picture):
        groups.setdefault(card.session_at, {}).setdefault(card.recipe_name, []).append(card)
    return {
        at: dict(sorted(recipes.items(), key=lambda item: not any(c.is_open or c.is_weighing_in for c in item[1])))
        for at, recipes in groups.items()
    }


@dataclass(frozen=True)
class BoxOnBench:
    """One box on the portioning bench."""

    portion: BoxPortion
    placement: Meal
    eater_name: str
    day: date
    slot_name: str
    drawing: BoxDrawing
    mark_y: float
    is_packed: bool
    is_current: bool


def boxes_on_bench(picture: WeekPicture, card: BatchCard) -> list[BoxOnBench]:
    """The batch's boxes in the order they are eaten; the first that is not packed is the current one.

    Drawn so that the fullest target stands at four fifths of the box; `mark_y` is the target's line, from the top.
    """
    placements = {str(p.id): p for p in picture.meals}
    eaters: dict[UUID, Eater] = {e.id: e for e in picture.eaters}
    portions = card.worked.outcome.portions
    full_g = max((max(p.grams, p.target_g) for p in portions), default=1.0) * 1.25
    texture = texture_of(card.worked.outcome.state.batch.tally)
    boxes, current_given = [], card.worked.outcome.state.pot_g is None
    for p in portions:
        placement = placements[p.placing_key]
        eater = eaters[placement.eater_id]
        is_packed = p.stage == WEIGHED
        is_current = not is_packed and not current_given
        current_given = current_given or is_current
        slot = next(s for s in eater.slots if s.id == placement.slot_id)
        mark_y = round(BENCH_ZONE_PX * (1 - p.grams / full_g), 1)
        drawing = draw_fill(p.grams if is_packed else 0.0, full_g, texture)
        boxes.append(
            BoxOnBench(
                p,
                placement,
                eater.first_name,
                placement.day,
                slot.name,
                drawing,
                mark_y=mark_y,
                is_packed=is_packed,
                is_current=is_current,
            )
        )
    return boxes


def took_other_than_divided(card: BatchCard, last: BoxOnBench | None) -> str:
    """What a box filled over or under its share means for the others, in a sentence; empty when it was even."""
    state = card.worked.outcome.state
    if last is None or state.pot_g is None:
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
