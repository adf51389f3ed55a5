"""Taking a review's proposals into the next week, and taking them back: what stood before is kept with each."""

from collections.abc import Callable, Mapping
from contextlib import suppress
from dataclasses import dataclass, replace
from datetime import date
from uuid import UUID, uuid5

from sqlalchemy import select

from goodcrate.core.ground.document import Document, ReadDocument
from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.ground.wording import say
from goodcrate.core.review.proposals import (
    FREEZE,
    MINUTES,
    OTHER_SESSION,
    PACK,
    RICHER,
    ROOM,
    SMALLER,
    VESSEL,
    YIELD,
    Proposal,
)
from goodcrate.core.week.placings import kept_servings
from goodcrate.db.recipes import RecipeRow
from goodcrate.db.review import ProposalTakenRow
from goodcrate.db.session import HouseholdSession
from goodcrate.db.week import PlacementRow, SessionRow
from goodcrate.services.calling import Caller, NotFound, existing, utc_now
from goodcrate.services.recipes.recipe_input import ComponentInput, RecipeInput, input_of
from goodcrate.services.recipes.saving import put_recipe
from goodcrate.services.review.learned import Learned, learned_of
from goodcrate.services.review.proposing import next_first_day as next_first_day  # noqa: PLC0414 — for web
from goodcrate.services.review.proposing import offered
from goodcrate.services.review.week_story import WeekStory, week_story
from goodcrate.services.shop.habits import floor_of, keep_in
from goodcrate.services.week.placing import PlaceInput, place_in, refuse_if_packed, standing_meals
from goodcrate.services.week.weeks import existing_week, take_new_version, take_turns, week_picture


@dataclass(frozen=True)
class Card:
    """A proposal as a page offers it: to be taken, or taken already."""

    proposal: Proposal
    is_taken: bool


def cards(caller: Caller, story: WeekStory, learned: Learned) -> list[Card]:
    """The proposals of a week: those taken, with the words they were taken by, and those that can be."""
    with caller.transaction() as session:
        rows = session.scalars(
            select(ProposalTakenRow)
            .where(ProposalTakenRow.week_id == story.table.picture.week.id, ProposalTakenRow.live == 1)
            .order_by(ProposalTakenRow.taken_at)
        ).all()
        taken = [Card(Proposal(r.proposal, r.proposal.split(":")[0], r.title, r.why), is_taken=True) for r in rows]
    there = {_of_whom(card.proposal) for card in taken}
    open_ones = (o.proposal for o in offered(caller, story, learned))
    return [*(Card(one, is_taken=False) for one in open_ones if _of_whom(one) not in there), *taken]


def _of_whom(proposal: Proposal) -> str:
    """What of a proposal is proposed once: a richer dish to each eater, all else by its key."""
    return ":".join(proposal.key.split(":")[:2]) if proposal.kind == RICHER else proposal.key


def take(caller: Caller, first_day: date, key: str) -> None:
    """Take a proposal of the week that starts on a day into the next one. Taken twice it is taken once.

    Raises:
        NotFound: when there is no such week, or it proposes nothing of this name any more.
        InvalidInput, InvalidInputs: when what it would change cannot be changed any more.
    """
    story = _story(caller, first_day)
    taken_id = uuid5(story.table.picture.week.id, key)
    with caller.transaction() as session:
        row = session.find(ProposalTakenRow, taken_id)
        if row is not None and row.live:
            return
    one = next((o for o in offered(caller, story, learned_of(caller, story)) if o.proposal.key == key), None)
    if one is None:
        raise NotFound("proposal")
    following = next_first_day(story)
    with caller.transaction() as session:
        take_turns(session, first_day)
        row = session.find(ProposalTakenRow, taken_id)
        if row is not None and row.live:
            return
        before = _DO[one.proposal.kind].apply(session, following, one.change, taken_id)
        if row is None:
            row = ProposalTakenRow(id=taken_id, week_id=story.table.picture.week.id, proposal=key[:160])
            session.add(row)
        row.title, row.why = one.proposal.title[:300], one.proposal.why[:500]
        row.before, row.live, row.taken_at = {**before, "change": one.change}, 1, utc_now()
    _follow(caller, following, one.change)


def take_back(caller: Caller, first_day: date, key: str) -> None:
    """Put back what stood before a proposal was taken. Taken back twice it is taken back once.

    Raises:
        NotFound: when there is no such week, or nothing of this name was taken in it.
        InvalidInput: when what it changed was changed since, or is being cooked.
    """
    story = _story(caller, first_day)
    following, week_id = next_first_day(story), story.table.picture.week.id
    with caller.transaction() as session:
        take_turns(session, first_day)
        row = existing(session, ProposalTakenRow, uuid5(week_id, key), "proposal")
        if row.live is None:
            return
        change: ReadDocument = row.before["change"]
        _DO[key.split(":", maxsplit=1)[0]].undo(session, following, change, row.before)
        row.live = None
    _follow(caller, following, change)


def _story(caller: Caller, first_day: date) -> WeekStory:
    picture = week_picture(caller, first_day)
    if picture is None:
        raise NotFound("week")
    return week_story(caller, picture)


def _follow(caller: Caller, following: date, change: ReadDocument) -> None:
    """Let the next week follow a recipe that was changed, unless it is being cooked or there is no such week."""
    if "component" in change or "step" in change:
        with suppress(InvalidInput, NotFound):
            take_new_version(caller, following, UUID(change["recipe"]))


Apply = Callable[[HouseholdSession, date, ReadDocument, UUID], Document]
Undo = Callable[[HouseholdSession, date, ReadDocument, ReadDocument], None]


@dataclass(frozen=True)
class _Way:
    """How a kind of change is made, answering what stood before, and how it is taken back."""

    apply: Apply
    undo: Undo


def _changed_since() -> InvalidInput:
    return InvalidInput("proposal", say("This was changed since."), say("Change it where it stands."))


def _meal(session: HouseholdSession, following: date, key: str) -> PlacementRow:
    week, row = existing_week(session, following), session.find(PlacementRow, UUID(key))
    if row is None or row.live is None or row.week_id != week.id:
        raise _changed_since()
    refuse_if_packed(session, row)
    return row


def _make_smaller(session: HouseholdSession, following: date, change: ReadDocument, _: UUID) -> Document:
    """Other servings of some meals; they stay so when the week is fitted or planned anew."""
    take_turns(session, following)
    before: dict[str, list[object]] = {}
    for key, servings in change["servings"].items():
        row = _meal(session, following, key)
        before[key] = [row.servings, row.is_pinned]
        row.servings, row.is_pinned = kept_servings(servings), True
    return {"servings": before}


def _make_as_before(session: HouseholdSession, following: date, change: ReadDocument, before: ReadDocument) -> None:
    take_turns(session, following)
    for key, (servings, is_pinned) in before["servings"].items():
        row = _meal(session, following, key)
        if row.servings != kept_servings(change["servings"][key]):
            raise _changed_since()
        row.servings, row.is_pinned = servings, is_pinned


def _place_richer(session: HouseholdSession, following: date, change: ReadDocument, taken_id: UUID) -> Document:
    """Another dish in the slots of some meals, which give way."""
    take_turns(session, following)
    rows = [_meal(session, following, key) for key in change["meals"]]
    first = rows[0]
    typed = PlaceInput(
        uuid5(taken_id, utc_now().isoformat()),
        first.eater_id,
        first.slot_id,
        UUID(change["recipe"]),
        change["servings"],
        tuple(row.day for row in rows),
    )
    placed = place_in(session, following, typed)
    return {"placed": [str(one) for one in placed], "gave_way": list(change["meals"])}


def _place_as_before(session: HouseholdSession, following: date, _: ReadDocument, before: ReadDocument) -> None:
    take_turns(session, following)
    week = existing_week(session, following)
    for key in before["placed"]:
        row = session.find(PlacementRow, UUID(key))
        if row is not None and row.live and row.week_id == week.id:
            refuse_if_packed(session, row)
            row.live = None
    session.flush()
    for key in before["gave_way"]:
        row = existing(session, PlacementRow, UUID(key), "meal")
        if standing_meals(session, row.eater_id, row.slot_id, {row.day}):
            raise _changed_since()
        row.live = 1
        session.flush()


def _recipe(session: HouseholdSession, change: ReadDocument) -> RecipeInput:
    return input_of(existing(session, RecipeRow, UUID(change["recipe"]), "recipe"))


def _part(recipe: RecipeInput, change: ReadDocument) -> ComponentInput:
    found = next((c for c in recipe.components if str(c.id) == change["component"]), None)
    if found is None:
        raise _changed_since()
    return found


def _with_part(recipe: RecipeInput, part: ComponentInput) -> RecipeInput:
    return replace(recipe, components=tuple(part if c.id == part.id else c for c in recipe.components))


def _of_component(name: str) -> _Way:
    """A figure of a component that becomes another one."""

    def _apply(session: HouseholdSession, _: date, change: ReadDocument, __: UUID) -> Document:
        recipe = _recipe(session, change)
        part = _part(recipe, change)
        put_recipe(session, _with_part(recipe, replace(part, **{name: change[name]})))
        return {name: getattr(part, name)}

    def _undo(session: HouseholdSession, _: date, change: ReadDocument, before: ReadDocument) -> None:
        recipe = _recipe(session, change)
        part = _part(recipe, change)
        if getattr(part, name) != change[name]:
            raise _changed_since()
        put_recipe(session, _with_part(recipe, replace(part, **{name: before[name]})))

    return _Way(_apply, _undo)


def _with_minutes(recipe: RecipeInput, step_key: str, minutes: float | None) -> RecipeInput:
    steps = tuple(replace(s, duration_min=minutes) if s.key == step_key else s for s in recipe.steps)
    return replace(recipe, steps=steps)


def _say_minutes(session: HouseholdSession, _: date, change: ReadDocument, __: UUID) -> Document:
    recipe = _recipe(session, change)
    step = next((s for s in recipe.steps if s.key == change["step"]), None)
    if step is None:
        raise _changed_since()
    put_recipe(session, _with_minutes(recipe, step.key, float(change["minutes"])))
    return {"minutes": step.duration_min}


def _say_minutes_before(session: HouseholdSession, _: date, change: ReadDocument, before: ReadDocument) -> None:
    recipe = _recipe(session, change)
    if all((s.key, s.duration_min) != (change["step"], float(change["minutes"])) for s in recipe.steps):
        raise _changed_since()
    put_recipe(session, _with_minutes(recipe, change["step"], before["minutes"]))


def _cook_elsewhen(session: HouseholdSession, following: date, change: ReadDocument, _: UUID) -> Document:
    take_turns(session, following)
    before: dict[str, str | None] = {}
    for key, cooked_in in change["cooked_in"].items():
        row = _meal(session, following, key)
        before[key] = None if row.cooked_in is None else str(row.cooked_in)
        row.cooked_in = UUID(cooked_in)
    return {"cooked_in": before}


def _cook_as_before(session: HouseholdSession, following: date, change: ReadDocument, before: ReadDocument) -> None:
    take_turns(session, following)
    for key, cooked_in in before["cooked_in"].items():
        row = _meal(session, following, key)
        if str(row.cooked_in) != change["cooked_in"][key]:
            raise _changed_since()
        row.cooked_in = None if cooked_in is None else UUID(cooked_in)


def _freeze(session: HouseholdSession, following: date, change: ReadDocument, _: UUID) -> Document:
    take_turns(session, following)
    for key in change["frozen"]:
        _meal(session, following, key).is_frozen = True
    return {}


def _freeze_not(session: HouseholdSession, following: date, change: ReadDocument, _: ReadDocument) -> None:
    take_turns(session, following)
    for key in change["frozen"]:
        _meal(session, following, key).is_frozen = False


def _set_room(session: HouseholdSession, following: date, change: ReadDocument, _: UUID) -> Document:
    take_turns(session, following)
    row = existing(session, SessionRow, UUID(change["session"]), "session")
    before, row.length_min = row.length_min, change["length_min"]
    return {"length_min": before}


def _set_room_before(session: HouseholdSession, _: date, change: ReadDocument, before: ReadDocument) -> None:
    row = existing(session, SessionRow, UUID(change["session"]), "session")
    if row.length_min != change["length_min"]:
        raise _changed_since()
    row.length_min = before["length_min"]


def _keep_pack(session: HouseholdSession, _: date, change: ReadDocument, __: UUID) -> Document:
    """A larger pack is bought when so much is to stay in the house."""
    before = floor_of(session, change["food"])
    keep_in(session, change["food"], change["floor_g"])
    return {"floor_g": before}


def _keep_pack_before(session: HouseholdSession, _: date, change: ReadDocument, before: ReadDocument) -> None:
    if floor_of(session, change["food"]) != change["floor_g"]:
        raise _changed_since()
    keep_in(session, change["food"], before["floor_g"])


_DO: Mapping[str, _Way] = {
    SMALLER: _Way(_make_smaller, _make_as_before),
    FREEZE: _Way(_freeze, _freeze_not),
    RICHER: _Way(_place_richer, _place_as_before),
    YIELD: _of_component("cooked_g"),
    VESSEL: _of_component("vessel"),
    MINUTES: _Way(_say_minutes, _say_minutes_before),
    OTHER_SESSION: _Way(_cook_elsewhen, _cook_as_before),
    ROOM: _Way(_set_room, _set_room_before),
    PACK: _Way(_keep_pack, _keep_pack_before),
}
