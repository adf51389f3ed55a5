"""A box is a thing: what it is, what is in it, whose meal it is, and what happened to it since it was packed.

A box that is planned, one that was noted as being in the house and one packed of what was over are the same: a box that
nothing has happened to yet is planned, one that no meal names is nobody's yet.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, datetime

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.nutrients import Tally
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import shown
from goodcrate.core.recipes.recipe import Recipe, serving_of
from goodcrate.core.recipes.vessels import STANDS_FREEZER, Vessel
from goodcrate.core.week.storing import FREEZER, FRIDGE

PACKED, MOVED, FROZEN, THAWED = "packed", "moved", "frozen", "thawed"
TAKEN_OUT, EATEN, PART_EATEN, SWAPPED = "taken_out", "eaten", "part_eaten", "swapped"
GIVEN_AWAY, THROWN_AWAY, UNDONE = "given_away", "thrown_away", "undone"
EVENTS = (PACKED, MOVED, FROZEN, THAWED, TAKEN_OUT, EATEN, PART_EATEN, SWAPPED, GIVEN_AWAY, THROWN_AWAY, UNDONE)
PLANNED, THERE = "planned", "there"
GONE = (TAKEN_OUT, EATEN, GIVEN_AWAY, THROWN_AWAY)
"""What ends a box: it is not in the house any more. Taken out says no more than that."""


@dataclass(frozen=True, slots=True)
class Content:
    """A component in a box, in g as planned and as weighed (None: not known, not weighed).

    Without a component it is the whole dish, as its recipe is written. `batch_key` is the batch it came from.
    """

    component_key: str | None
    planned_g: float | None = None
    actual_g: float | None = None
    batch_key: str | None = None

    @property
    def grams(self) -> float:
        """What is in it: the weighed grams, else the planned ones, in g."""
        return self.actual_g if self.actual_g is not None else self.planned_g or 0.0


@dataclass(frozen=True, slots=True)
class BoxEvent:
    """Something that happened to a box, never changed afterwards. `undoes` is the event an undoing takes back.

    `place` goes with packed and moved, `shelf` with moved, `grams` with part-eaten (what was eaten), `meal_key` with
    swapped (the meal it is for now, empty: nobody's) and with what was eaten (the meal at which), `why` with thrown
    away.
    """

    key: str
    kind: str
    at: datetime
    place: str = ""
    grams: float | None = None
    meal_key: str = ""
    why: str = ""
    undoes: str = ""
    shelf: str = ""


def standing(log: Iterable[BoxEvent]) -> tuple[BoxEvent, ...]:
    """What counts of a log, in its order: neither what was undone nor the undoings themselves."""
    events = tuple(log)
    undone = set[str]()
    for event in reversed(events):  # an undoing that is undone itself undoes nothing
        if event.kind == UNDONE and event.key not in undone:
            undone.add(event.undoes)
    return tuple(e for e in events if e.kind != UNDONE and e.key not in undone)


def state_of(log: Iterable[BoxEvent]) -> str:
    """Planned, there, or how a box went, by its log."""
    events = standing(log)
    ended = next((e.kind for e in reversed(events) if e.kind in GONE), None)
    if ended is not None:
        return ended
    return THERE if any(e.kind == PACKED for e in events) else PLANNED


@dataclass(frozen=True, slots=True)
class Box:
    """A container with what is in it. `meal_key` is the meal it is for, `with_box` the box of the meal it goes with
    (a pot of dressing), `lot_key` what was put in together with it. `cooked_on` counts its days."""

    key: str
    recipe_key: str
    contents: tuple[Content, ...]
    cooked_on: date
    meal_key: str | None = None
    log: tuple[BoxEvent, ...] = ()
    container: Vessel | None = None
    with_box: str | None = None
    lot_key: str | None = None
    until: date | None = None

    @property
    def state(self) -> str:
        """Planned, there, or how it went."""
        return state_of(self.log)

    @property
    def is_there(self) -> bool:
        """Whether it is in the house."""
        return self.state == THERE

    @property
    def place(self) -> str:
        """Where it was put last; empty when nobody said."""
        where = {FROZEN: FREEZER, THAWED: FRIDGE}
        places = [where.get(e.kind, e.place) for e in standing(self.log) if e.kind in (PACKED, MOVED, FROZEN, THAWED)]
        return next((place for place in reversed(places) if place), "")

    @property
    def shelf(self) -> str:
        """The shelf it was put on last; empty when it was only packed, or taken elsewhere since."""
        events = [e for e in standing(self.log) if e.kind in (PACKED, MOVED, FROZEN, THAWED)]
        return events[-1].shelf if events else ""

    @property
    def is_put_away(self) -> bool:
        """Whether somebody said where it is: since it was packed here, or when it was noted as being in the house."""
        is_ours = self.meal_key is not None or any(content.batch_key for content in self.contents)
        return not is_ours or any(e.kind in (MOVED, FROZEN, THAWED) for e in standing(self.log))

    @property
    def for_meal(self) -> str | None:
        """The meal it is for: the one it was swapped to last, else the one it was packed for; None: nobody's yet."""
        swaps = [e.meal_key for e in standing(self.log) if e.kind == SWAPPED]
        return (swaps[-1] or None) if swaps else self.meal_key

    @property
    def eaten_g(self) -> float:
        """What was eaten of it so far, in g."""
        if self.state == EATEN:
            return self.packed_g
        return min(self.packed_g, sum(e.grams or 0.0 for e in standing(self.log) if e.kind == PART_EATEN))

    @property
    def packed_g(self) -> float:
        """What was put into it, in g."""
        return sum(content.grams for content in self.contents)

    @property
    def grams(self) -> float:
        """What is in it now, in g: nothing once it is gone."""
        return self.packed_g - self.eaten_g if self.state in (PLANNED, THERE) else 0.0


def check_event(box: Box, event: BoxEvent) -> None:
    """Refuse what cannot happen to a box as it stands.

    Raises:
        InvalidInput: for an event we do not know, or that the box as it stands does not allow.
    """
    if event.kind not in EVENTS:
        raise InvalidInput(
            "kind",
            say("“{kind}” is nothing that happens to a box.", kind=event.kind),
            say("One of {EVENTS}.", EVENTS=", ".join(EVENTS)),
        )
    if event.kind == UNDONE:
        if all(e.key != event.undoes for e in box.log):
            raise InvalidInput("undoes", say("There is nothing to undo."), say("Reload the page."))
        return
    if event.kind == PACKED:
        if box.state != PLANNED:
            raise InvalidInput("kind", say("This box is packed already."), say("Take it out first."))
        return
    if event.kind == SWAPPED and box.state == PLANNED:
        return
    if not box.is_there:
        raise InvalidInput("kind", say("This box is not in the house."), say("Put it back first."))
    stands = None if box.container is None else box.container.stands
    freezes = event.kind == FROZEN or event.place == FREEZER
    if freezes and stands is not None and STANDS_FREEZER not in stands:
        raise InvalidInput("kind", say("This container must not go into the freezer."), say("Use another one."))
    if event.kind == PART_EATEN and not 0 < (event.grams or 0.0) < box.grams:
        raise InvalidInput(
            "grams",
            say("There are {grams} g in it.", grams=shown(box.grams)),
            say("Less than that, or all of it: eaten."),
        )
    if event.kind == THROWN_AWAY and not event.why.strip():
        raise InvalidInput("why", say("Why was it thrown away?"), say("A word will do."))


def contents_tally(recipe: Recipe, contents: Sequence[Content]) -> Tally:
    """Nutrients of what was put into a box, each component as its recipe is written, the whole dish where none is
    named. A component the recipe has not any more counts as the whole dish."""
    serving = serving_of(recipe)
    parts = {part.component.key: part for part in serving.parts}
    tallies = []
    for content in contents:
        part = parts.get(content.component_key or "")
        whole_g, tally = (serving.tally.grams, serving.tally) if part is None else (part.grams, part.tally)
        tallies.append(tally.scaled(content.grams / whole_g if whole_g > 0 else 0.0))
    return Tally.sum(tallies)


def why_of(box: Box | None) -> str:
    """The reason that was given last for what became of a box; empty without one, and for one that was taken back."""
    return "" if box is None else next((e.why for e in reversed(standing(box.log)) if e.why), "")
