"""Each kind of proposal: taken into the next week it changes what it says, and taken back all is as it was."""

from dataclasses import replace
from datetime import datetime, time, timedelta
from typing import Any
from uuid import UUID, uuid4

import pytest

from goodcrate.core.foods.packs import Pack
from goodcrate.core.recipes.steps import Step
from goodcrate.core.review.learned import SessionTime
from goodcrate.db.session import Database
from goodcrate.db.week import PlacementRow
from goodcrate.demo.eaten import live_through
from goodcrate.demo.load import load_demo
from goodcrate.services import kitchen as own_kitchen
from goodcrate.services.at_table import eating
from goodcrate.services.calling import Caller, NotFound
from goodcrate.services.cook.step_times import Offer
from goodcrate.services.foods import packs_known as packs
from goodcrate.services.recipes import library, saving
from goodcrate.services.review import taking
from goodcrate.services.review.learned import Learned, SessionTold, learned_of
from goodcrate.services.review.week_story import WeekStory, week_story
from goodcrate.services.shop.habits import always_kept
from goodcrate.services.week import placing, repeating, weeks
from tests.conftest import MONDAY
from tests.services.kitchen import Kitchen, furnish
from tests.web import racing

NEXT = MONDAY + timedelta(days=7)


@pytest.fixture(scope="module")
def lived(database: Database) -> Caller:
    """The boat's week lived through, and the next one like it."""
    caller = load_demo(database, MONDAY, f"boat-{uuid4().hex[:10]}")
    live_through(caller, MONDAY)
    weeks.open_week(caller, NEXT)
    repeating.repeat(caller, NEXT, repeating.Repeat(str(MONDAY)))
    return caller


def story_of(caller: Caller) -> WeekStory:
    picture = weeks.week_picture(caller, MONDAY)
    assert picture is not None
    return week_story(caller, picture)


def cards(caller: Caller) -> dict[str, taking.Card]:
    story = story_of(caller)
    return {c.proposal.key: c for c in taking.cards(caller, story, learned_of(caller, story))}


def state(caller: Caller) -> object:
    """All that a proposal can change of the next week, its recipes and what is always kept."""
    picture = weeks.week_picture(caller, NEXT)
    assert picture is not None
    meals = sorted(
        (m.day, str(m.slot_id), str(m.recipe_id), m.servings, m.is_pinned, m.is_frozen, str(m.cooked_in))
        for m in picture.meals
    )
    recipes = {
        p.recipe.key: [(c.name, c.cooked_g, c.vessel) for c in p.recipe.components]
        for p in library.list_recipes(caller)
    }
    minutes = {p.recipe.key: [s.duration_min for s in p.recipe.steps] for p in library.list_recipes(caller)}
    rooms = [(s.starts_at, s.length_min) for s in picture.sessions]
    return meals, recipes, minutes, rooms, [(food.key, floor) for food, floor in always_kept(caller)]


def taken_and_back(caller: Caller, key: str) -> None:
    before = state(caller)
    taking.take(caller, MONDAY, key)
    changed = state(caller)
    assert changed != before, key
    taking.take(caller, MONDAY, key)
    assert state(caller) == changed, "taken twice it is taken once"
    assert cards(caller)[key].is_taken
    taking.take_back(caller, MONDAY, key)
    assert state(caller) == before
    taking.take_back(caller, MONDAY, key)
    assert state(caller) == before


def test_what_the_boat_s_week_proposes_is_taken_and_taken_back(lived: Caller) -> None:
    there = cards(lived)
    assert {card.proposal.kind for card in there.values()} == {"smaller", "freeze", "richer", "yield"}
    for key in there:
        taken_and_back(lived, key)
    assert cards(lived).keys() == there.keys()


def test_a_learned_yield_is_what_the_next_week_expects(lived: Caller) -> None:
    key = next(k for k, c in cards(lived).items() if c.proposal.title.startswith("Leek and quark"))
    component = key.removeprefix("yield:")

    def expected() -> float:
        picture = weeks.week_picture(lived, NEXT)
        assert picture is not None
        worked = next(w for w in picture.outcome.batches if w.plan.component_key == component)
        return worked.outcome.state.expected_g / sum(line.weighed_in_g for line in worked.outcome.state.lines)

    story = story_of(lived)
    learned = next(y for y in learned_of(lived, story).yields if y.component_key == component)
    assert expected() == pytest.approx(learned.expects, abs=0.002)
    taking.take(lived, MONDAY, key)
    assert expected() == pytest.approx(learned.this_pot, abs=0.002)
    taking.take_back(lived, MONDAY, key)


def test_of_richer_dishes_one_is_proposed_to_each_eater(lived: Caller) -> None:
    key = next(k for k in cards(lived) if k.startswith("richer:"))
    taking.take(lived, MONDAY, key)
    eater = key.split(":")[1]
    assert [k for k in cards(lived) if k.startswith(f"richer:{eater}")] == [key]
    taking.take_back(lived, MONDAY, key)


@pytest.fixture
def made(household: Caller) -> Kitchen:
    """A small week, eaten; two sessions in it and in the next one, which has the same dish after both."""
    kitchen = furnish(household)
    eating.say_rest_eaten(household, MONDAY, uuid4(), MONDAY + timedelta(days=6))
    weeks.open_week(household, NEXT)
    weeks.add_session(household, NEXT, datetime.combine(NEXT + timedelta(days=2), time(18, 30)))
    later = tuple(NEXT + timedelta(days=n) for n in (3, 4))
    typed = placing.PlaceInput(uuid4(), kitchen.eater_id, kitchen.slot_id, kitchen.recipe_id, 1.0, later)
    placing.place(household, NEXT, typed)
    return kitchen


def with_learned(monkeypatch: pytest.MonkeyPatch, caller: Caller, **told: Any) -> None:
    real = learned_of

    def instead(asked: Caller, story: WeekStory) -> Learned:
        return replace(real(asked, story), **told)

    monkeypatch.setattr(taking, "learned_of", instead)
    monkeypatch.setattr(f"{__name__}.learned_of", instead)
    assert cards(caller)


def sessions(caller: Caller, *took: int) -> tuple[SessionTold, ...]:
    picture = weeks.week_picture(caller, NEXT)
    assert picture is not None
    return tuple(
        SessionTold(
            str(uuid4()), s.starts_at - timedelta(days=7), s.length_min, SessionTime(s.length_min, s.length_min + n)
        )
        for s, n in zip(picture.sessions, took, strict=True)
    )


def test_a_session_gets_the_length_it_took(made: Kitchen, monkeypatch: pytest.MonkeyPatch) -> None:
    with_learned(monkeypatch, made.caller, sessions=sessions(made.caller, 45, 0))
    [key] = [k for k in cards(made.caller) if k.startswith("room:")]
    taken_and_back(made.caller, key)


def test_a_dish_goes_to_the_session_with_room(made: Kitchen, monkeypatch: pytest.MonkeyPatch) -> None:
    picture = weeks.week_picture(made.caller, NEXT)
    assert picture is not None
    first = picture.sessions[0].key
    other = replace(library.get_input(made.caller, made.recipe_id), id=uuid4(), version=0, name="Another pot")
    other = library_copy(other)
    saving.save_recipe(made.caller, other)
    days = (NEXT, NEXT + timedelta(days=1))
    typed = placing.PlaceInput(uuid4(), made.eater_id, made.slot_id, other.id, 1.0, days)
    placing.place(made.caller, NEXT, typed)
    with made.caller.transaction() as session:
        for meal in picture.meals:
            row = session.find(PlacementRow, meal.id)
            assert row is not None
            row.cooked_in = UUID(first)
    with_learned(monkeypatch, made.caller, sessions=sessions(made.caller, 30, -30))
    [key] = [k for k in cards(made.caller) if k.startswith("session:")]
    assert str(made.recipe_id) in key, "the other one is eaten before the second session"
    taken_and_back(made.caller, key)


def library_copy(typed: Any) -> Any:
    """The same recipe with ids of its own."""
    components = [
        replace(c, id=uuid4(), lines=tuple(replace(line, id=uuid4()) for line in c.lines)) for c in typed.components
    ]
    return replace(typed, components=tuple(components))


def test_minutes_that_were_learned_become_the_recipe_s(made: Kitchen, monkeypatch: pytest.MonkeyPatch) -> None:
    typed = library.get_input(made.caller, made.recipe_id)
    saving.save_recipe(made.caller, replace(typed, steps=(Step("s1", "Brown the meat", duration_min=10.0),)))
    offer = Offer(made.recipe_id, typed.name, "s1", "Brown the meat", written_min=10.0, minutes=18, times=(17.0, 18.0))
    with_learned(monkeypatch, made.caller, minutes=(offer,))
    taken_and_back(made.caller, f"minutes:{made.recipe_id}:s1")


def test_a_bigger_pot_takes_it_at_once(made: Kitchen) -> None:
    pan = own_kitchen.VesselInput(uuid4(), "pan", "pan", 600)
    pot = own_kitchen.VesselInput(uuid4(), "large pot", "pot", 5000)
    own_kitchen.save_vessels(made.caller, [pan, pot])
    typed = library.get_input(made.caller, made.recipe_id)
    saving.save_recipe(made.caller, replace(typed, components=(replace(typed.components[0], vessel="pan"),)))
    weeks.take_new_version(made.caller, NEXT, made.recipe_id)
    key = f"vessel:{made.component_id}"
    assert "in the large pot, all at once" in cards(made.caller)[key].proposal.title
    taken_and_back(made.caller, key)


def test_a_larger_pack_is_bought_by_keeping_its_rest(made: Kitchen) -> None:
    for grams, cost in ((50.0, 1.0), (100.0, 1.7)):
        packs.add_pack(made.caller, uuid4(), "rapeseed_oil", Pack("rapeseed_oil", grams, cost), "", MONDAY)
    key = "pack:rapeseed_oil"
    assert "in the pack of 100 g, not 50" in cards(made.caller)[key].proposal.title
    taken_and_back(made.caller, key)


def test_without_a_next_week_nothing_of_its_meals_is_proposed(household: Caller) -> None:
    kitchen = furnish(household)
    for meal in racing.meals(kitchen)[:2]:
        eating.say_eaten(household, MONDAY, meal, uuid4(), eating.Said("part_eaten", share=0.5))
    assert cards(household) == {}
    with pytest.raises(NotFound):
        taking.take(household, MONDAY, f"smaller:{kitchen.eater_id}:{kitchen.recipe_id}")
