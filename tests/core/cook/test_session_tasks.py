"""A session's batches as tasks: scaled, cooled, boxed, what is guessed, what is for later, over a kitchen's places."""

from dataclasses import replace

import pytest

from goodcrate.core.cook.bowls import foods_by_step
from goodcrate.core.cook.session_tasks import (
    PAUSE,
    RICE_COLD_WITHIN_MIN,
    BatchToCook,
    DishToCook,
    SheetWishes,
    session_tasks,
    shortly,
    with_pauses,
)
from goodcrate.core.cook.sheet_check import check_sheet
from goodcrate.core.cook.sheet_solver import shortest_sheet
from goodcrate.core.ground.errors import InvalidInputs
from goodcrate.core.recipes.equipment import Equipment
from goodcrate.core.recipes.steps import Step
from goodcrate.core.recipes.vessels import Vessel
from tests.core.dishes import POT, TRAYS, component, turkey_pot

GALLEY = Equipment({"cooks": 1, "burners": 3, "ovens": 1, "oven_shelves": 2, "oven_preheat_min": 12, "microwaves": 0})
SMALL_POT = Vessel("small", "small pot", "pot", 2800)


def dish(factor: float = 1.0, boxes: int = 6, **changes: object) -> DishToCook:
    """The turkey pot, so many times its recipe."""
    recipe = turkey_pot()
    batches = tuple(
        BatchToCook(replace(c, vessel="pot"), factor, (c.cooked_g or 0.0) * factor) for c in recipe.components
    )
    made = DishToCook(recipe.key, recipe.name, recipe.steps, batches, boxes)
    return replace(made, **changes)  # type: ignore[arg-type]


def test_steps_are_scaled_and_what_is_hot_is_boxed_within_its_time() -> None:
    tasks = session_tasks([dish(2.0)], GALLEY, (replace(POT, count=4),))
    minutes = {key.removeprefix("turkey/"): task.minutes for key, task in tasks.problem.by_key.items()}
    # 12 min and 10 min of work × 2^0.7 = 19.5 and 16.2, rounded up; what simmers simmers as long, six boxes take 6 min
    assert minutes == {"1": 20, "2": 17, "3": 35, "4": 25, "5": 30, "box": 6}
    assert {(w.earlier, w.later, w.minutes) for w in tasks.problem.within} == {
        ("turkey/3", "turkey/box", 114),
        ("turkey/4", "turkey/box", 114),
    }
    assert tasks.problem.by_key["turkey/box"].after == ("turkey/5",)
    sheet = shortest_sheet(tasks.problem)
    assert sheet is not None
    assert check_sheet(tasks.problem, sheet) == []
    assert sheet.minutes == 20 + 17 + 35 + 30 + 6
    assert tasks.assumed == ("cooling_places",)
    assert not any(told.guessed for told in tasks.told.values())


def test_rice_is_cold_within_the_hour() -> None:
    tasks = session_tasks([dish(cold_within_min=RICE_COLD_WITHIN_MIN)], GALLEY, (POT, SMALL_POT))
    assert {w.minutes for w in tasks.problem.within} == {54}


def test_what_nobody_said_is_guessed_and_told_and_never_takes_no_time() -> None:
    steps = (Step("1", "Simmer it", "pot", "hob", is_hands_on=False), Step("2", "Serve it", after=("1",)))
    bare = dish(steps=steps)
    tasks = session_tasks([bare], GALLEY, (POT, SMALL_POT))
    minutes = {key.removeprefix("turkey/"): task.minutes for key, task in tasks.problem.by_key.items()}
    assert minutes == {"1": 20, "2": 10, "cool": 30, "box": 6}
    guessed = {key for key, told in tasks.told.items() if told.guessed}
    assert guessed == {"turkey/1", "turkey/2", "turkey/cool"}
    unwritten = session_tasks([dish(steps=())], GALLEY, (POT,))
    assert [t.minutes for t in unwritten.problem.tasks] == [20, 20, 6]
    assert all(told.guessed for key, told in unwritten.told.items() if not key.endswith("/box"))


def test_what_is_for_the_night_before_or_the_day_is_not_now() -> None:
    steps = (*turkey_pot().steps, Step("6", "On the day: chop the parsley"), Step("7", "The night before, pour milk"))
    tasks = session_tasks([dish(steps=steps)], GALLEY, (POT, SMALL_POT))
    assert [words for _, words in tasks.later] == ["On the day: chop the parsley", "The night before, pour milk"]
    assert not {"turkey/6", "turkey/7"} & tasks.problem.by_key.keys()


def test_trays_on_two_shelves_change_them_at_half_time_unless_the_step_says_when_to_look() -> None:
    made = replace(component("roots", "potato_raw 4000", 3000), vessel="tray")
    bake = Step("1", "Roast the roots", "roots", "oven", 45, is_hands_on=False, low_c=180, high_c=200)

    def looks(step: Step) -> tuple[tuple[int, ...], str]:
        dish = DishToCook("roots", "Roots", (step,), (BatchToCook(made, 1.0, 3000),), 4)
        tasks = session_tasks([dish], GALLEY, (TRAYS,))
        return tasks.problem.by_key["roots/1"].checks, tasks.told["roots/1"].look_words

    assert looks(bake) == ((22,), "Change the shelves of the trays: roast the roots")
    assert looks(replace(bake, checks_min=(30,))) == ((30,), "Look at it, stir or turn: roast the roots")
    assert looks(replace(bake, duration_min=15))[0] == ()


def test_half_a_tray_may_be_shared_with_what_holds_the_same() -> None:
    def shares(foods: str, grams: float, *steps: Step) -> str:
        made = replace(component("roots", foods, grams), vessel="tray")
        bake = Step("1", "Roast", "roots", "oven", 45, is_hands_on=False, low_c=180, high_c=200)
        dish = DishToCook("roots", "Roots", (bake, *steps), (BatchToCook(made, 1.0, grams),), 4)
        return session_tasks([dish], GALLEY, (TRAYS,)).problem.by_key["roots/1"].shares

    few = shares("potato_raw 600", 500)
    assert few == shares("carrot_raw 500", 450) != ""
    assert shares("potato_raw 3000", 2200) == "", "it needs the tray for itself"
    assert shares("turkey_thigh_raw 600", 500) != few, "raw meat beside vegetables somebody eats without"
    assert shares("tofu_firm 600", 500) != few, "soya"
    again = Step("2", "Brown", "roots", "oven", 10, is_hands_on=False, after=("1",))
    assert shares("potato_raw 600", 500, again) == "", "it stays on its tray in between"


def test_a_hot_tray_is_heated_first_and_stands_in_the_oven_meanwhile() -> None:
    made = replace(component("roots", "potato_raw 600", 500), vessel="tray")
    steps = (
        Step("1", "Cut the roots", "roots", duration_min=25),
        Step("2", "Roast them on a hot tray", "roots", "oven", 40, False, low_c=200, high_c=220, after=("1",)),
    )
    dish = DishToCook("roots", "Roots", steps, (BatchToCook(made, 1.0, 500),), 4)
    tasks = session_tasks([dish], GALLEY, (replace(TRAYS, count=1),))
    sheet = shortest_sheet(tasks.problem)
    assert sheet is not None
    assert check_sheet(tasks.problem, sheet) == []
    heated, roasted = sheet.starts["roots/2.tray"] + 10, sheet.starts["roots/2"]
    assert 25 <= roasted <= heated + 2
    assert sheet.heats["roots/2.tray"] == sheet.heats["roots/2"]
    (hold,) = tasks.problem.holds
    assert set(hold.tasks) == {"roots/2", "roots/2.tray"}
    later = {key: at + 3 if key != "roots/2.tray" else heated - 10 for key, at in sheet.starts.items()}
    said = check_sheet(tasks.problem, replace(sheet, starts=later, minutes=sheet.minutes + 3))
    assert any("is more than 2 min after roots/2.tray" in words for words in said), "it is cold again"


def test_what_soaks_is_begun_before_the_session() -> None:
    """Beans soak 12 h and are rinsed in the session; what stands overnight in the end is for later."""
    steps = (
        Step("s", "Soak the beans, pour the water off", "pot", "fridge", 720, is_hands_on=False),
        Step("m", "Marinate the turkey overnight", "pot", is_hands_on=False, after=("s",)),
        *(replace(step, after=(*step.after, "m")) for step in turkey_pot().steps[:1]),
        *turkey_pot().steps[1:],
        Step("z", "Let it stand in the fridge overnight", "pot", "fridge", 480, is_hands_on=False, after=("5",)),
        Step("w", "Marinate for an hour", "pot", "fridge", 60, is_hands_on=False),
        replace(turkey_pot().steps[0], key="y", after=("w",)),
    )
    tasks = session_tasks([dish(steps=steps)], GALLEY, (POT, SMALL_POT))
    assert [(b.words, b.minutes) for b in tasks.before] == [
        ("Soak the beans, pour the water off", 720 + 480),
        ("Marinate the turkey overnight", 480),
    ]
    assert [words for _, words in tasks.later] == ["Let it stand in the fridge overnight"]
    keys = tasks.problem.by_key.keys()
    assert "turkey/w" in keys
    assert not {"turkey/s", "turkey/m", "turkey/z"} & keys


def test_each_food_is_weighed_out_for_the_step_that_names_it() -> None:
    made = component("stew", "turkey_thigh_raw 600, cabbage_raw 450, caraway_seed 3, salt 8", 900)
    steps = (
        Step("1", "Chop the cabbage", "stew"),
        Step("2", "Brown the turkey, add the cabbage", "stew", "hob", 10, after=("1",)),
        Step("3", "Season with salt", "stew", after=("2",)),
        Step("4", "Wash the pears"),
    )
    assert foods_by_step(steps, made) == {
        "1": ("cabbage_raw", "caraway_seed"),
        "2": ("turkey_thigh_raw",),
        "3": ("salt",),
    }, "nobody names the caraway: it stands with the first"
    assert foods_by_step((), made) == {}


def test_two_large_batches_wait_for_the_large_pot_and_a_small_one_takes_any() -> None:
    def cooked(key: str, grams: float) -> DishToCook:
        made = component("soup", "potato_raw 1000", 1000)
        step = Step("1", "Simmer", "soup", "hob", 30, is_hands_on=False)
        return DishToCook(key, key, (step,), (BatchToCook(replace(made, vessel="pot"), grams / 1000, grams),), 2)

    def minutes(*dishes: DishToCook) -> int:
        problem = session_tasks(dishes, GALLEY, (POT, SMALL_POT)).problem
        sheet = shortest_sheet(problem)
        assert sheet is not None
        assert check_sheet(problem, sheet) == []
        return sheet.minutes

    alone = minutes(cooked("one", 3000))
    assert minutes(cooked("one", 3000), cooked("two", 1000)) < alone + 10
    assert minutes(cooked("one", 3000), cooked("two", 3000)) >= alone + 33  # the same pot, washed


def test_a_batch_of_two_trays_takes_two_shelves_and_one_filled_again_takes_twice_as_long() -> None:
    bake = Step("1", "Bake", "slice", "oven", 40, is_hands_on=False, low_c=180, high_c=180)
    slice_ = replace(component("slice", "potato_raw 1000", 1000), vessel="tray")

    def baked(grams: float) -> tuple[int, int]:
        one = DishToCook("slice", "Slice", (bake,), (BatchToCook(slice_, grams / 1000, grams),), 2)
        task = session_tasks([one], GALLEY, (TRAYS,)).problem.by_key["slice/1"]
        return task.takes, task.minutes

    assert baked(1000) == (1, 40)
    assert baked(2200) == (2, 40)
    assert baked(5000) == (2, 80)


def test_what_the_kitchen_lacks_is_named_at_its_step() -> None:
    steps = (Step("1", "Heat it through", "pot", "microwave", 5),)
    with pytest.raises(InvalidInputs, match="no microwave") as refused:
        session_tasks([dish(steps=steps)], GALLEY, (POT,))
    assert [f.field for f in refused.value.faults] == ["turkey/1"]


def test_fewer_burners_help_and_pauses() -> None:
    wishes = SheetWishes(burners=1, help_from=30)
    tasks = session_tasks([dish()], GALLEY, (POT, SMALL_POT), wishes)
    assert (tasks.problem.kitchen.places["hob"], tasks.problem.kitchen.help_from) == (1, 30)
    paused = with_pauses(tasks.problem, 150)
    assert [t.key for t in paused.tasks if t.key.startswith(PAUSE)] == ["pause.0.0", "pause.1.0"]
    assert with_pauses(tasks.problem, 60) == tasks.problem
    sheet = shortest_sheet(paused)
    assert sheet is not None
    assert 48 <= sheet.starts["pause.0.0"] <= 72
    assert 118 <= sheet.starts["pause.1.0"] <= 142


def test_a_step_shortly() -> None:
    assert shortly("Cut and brown the turkey in the oil") == "cut and brown the turkey"
    assert shortly("Stir quark, eggs and oat flour") == "stir quark"
    assert shortly("Buckwheat porridge with pear", 2) == "buckwheat porridge"
