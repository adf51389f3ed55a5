"""Batches as the Cook and Portion pages show them."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from goodcrate.core.cook.batch_record import goes_in_now
from goodcrate.core.ground.wording import say
from goodcrate.core.portion.filled_boxes import WEIGHED
from goodcrate.core.portion.week_outcome import WorkedBatch
from goodcrate.core.recipes.component import ALL_OF_IT
from goodcrate.services.cook.cooking import batch_id_for
from goodcrate.services.week.weeks import WeekPicture
from goodcrate.web.figures import grams


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
