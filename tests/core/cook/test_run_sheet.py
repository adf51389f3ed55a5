"""Run sheets: by hand, against every start tried, and a checker that refuses what breaks a rule."""

import random
from dataclasses import replace
from itertools import combinations, product

import pytest

from goodcrate.core.cook.sheet_check import check_sheet
from goodcrate.core.cook.sheet_problem import (
    Hold,
    Sheet,
    SheetKitchen,
    SheetProblem,
    Task,
    Within,
    heats_of,
    longest_chain,
)
from goodcrate.core.cook.sheet_solver import (
    SheetModel,
    dishes_that_fit,
    one_after_another,
    shortest_sheet,
    simple_bound,
)
from goodcrate.core.ground.errors import InvalidInputs

KITCHEN = SheetKitchen(1, {"hob": 2, "oven": 2, "blender": 1, "rice_cooker": 1})
CHOP = Task("chop", "stew", 10)
SIMMER = Task("simmer", "stew", 40, is_hands_on=False, place="hob", after=("chop",), checks=(20,))
PEEL = Task("peel", "beet", 8)
ROAST = Task("roast", "beet", 45, False, "oven", low_c=180, high_c=200, after=("peel",))
BAKE = Task("bake", "slice", 30, False, "oven", low_c=150, high_c=160)


def solved(problem: SheetProblem) -> Sheet:
    sheet = shortest_sheet(problem)
    assert sheet is not None
    assert check_sheet(problem, sheet) == []
    assert simple_bound(problem) <= sheet.bound <= sheet.minutes
    return sheet


def test_by_hand_the_slow_thing_starts_first() -> None:
    # Chop 10, then 40 on the hob; peel 8 while it simmers, the oven needs 12 to get warm: peel first, or be late.
    problem = SheetProblem((CHOP, SIMMER, PEEL, ROAST), KITCHEN)
    sheet = solved(problem)
    # Peeling first: roast from 12 to 57, chopping from 8 to 18, simmering to 58. Chopping first: roast from 18 to 63.
    assert sheet.minutes == 58
    assert sheet.is_proven_shortest
    assert one_after_another(problem) == 50 + 57


def test_two_heats_do_not_share_the_oven_and_one_does() -> None:
    apart = solved(SheetProblem((ROAST, PEEL, BAKE), KITCHEN))
    assert apart.minutes == 12 + 30 + 8 + 45, "warm, bake, change the heat, roast"
    shared = solved(SheetProblem((ROAST, PEEL, replace(BAKE, high_c=190)), KITCHEN))
    assert shared.minutes == 12 + 45
    assert shared.heats["roast"] == shared.heats["bake"]


def test_what_must_be_cold_within_its_time_waits_for_nothing() -> None:
    fridge = Task("fridge", "stew", 2, after=("simmer",))
    long = Task("knead", "bread", 60)
    tasks = (CHOP, SIMMER, fridge, long)
    free = solved(SheetProblem(tasks, KITCHEN))
    held = solved(SheetProblem(tasks, KITCHEN, (Within("simmer", "fridge", 5),)))
    assert held.starts["fridge"] - held.starts["simmer"] - 40 <= 5
    assert held.minutes >= free.minutes


def starts_tried(problem: SheetProblem, most: int) -> int | None:
    """The least minutes over every start of every task, looks and heats with them: slow and simple."""
    best = None
    looks = [(t.key, n, due) for t in problem.tasks if not t.is_hands_on for n, due in enumerate(t.checks)]
    ovens = [t for t in problem.tasks if t.place == "oven"]
    for starts in product(range(most), repeat=len(problem.tasks)):
        at = {t.key: s for t, s in zip(problem.tasks, starts, strict=True)}
        end = max(at[t.key] + t.minutes for t in problem.tasks)
        if best is not None and end >= best:
            continue
        for shifts in product(range(-2, 3), repeat=len(looks)):
            seen = {(key, n): at[key] + due + by for (key, n, due), by in zip(looks, shifts, strict=True)}
            for heats in product(*(heats_of(t) for t in ovens)):
                sheet = Sheet(at, seen, {t.key: h for t, h in zip(ovens, heats, strict=True)}, end, 0)
                pairs: list[tuple[tuple[str, str], ...]] = [(), *(((a.key, b.key),) for a, b in combinations(ovens, 2))]
                if any(not check_sheet(problem, replace(sheet, together=pair)) for pair in pairs):
                    best = end
    return best


@pytest.mark.parametrize("seed", range(14))
def test_no_start_that_was_tried_is_shorter(seed: int) -> None:
    dice = random.Random(seed)  # noqa: S311
    places = ["", "hob", "oven", "blender"]
    kitchen = SheetKitchen(1, {"hob": 1, "oven": 1, "blender": 1}, preheat_min=2, reheat_min=1, wash_min=1)
    tasks: list[Task] = []
    for n in range(3):
        place = dice.choice(places)
        low = dice.choice((180, 190)) if place == "oven" else None
        after = tuple(t.key for t in tasks if dice.random() < 0.3)
        hands = place in ("", "blender")
        at_once = bool(after) and dice.random() < 0.5
        minutes = dice.randint(1, 4)
        made = Task(f"t{n}", f"d{n}", minutes, hands, place, low_c=low, high_c=low, after=after, at_once=at_once)
        tasks.append(replace(made, shares="half" if place == "oven" and n != 1 else ""))
    if seed % 2:
        tasks[0] = replace(tasks[0], earliest=2)
        kitchen = replace(kitchen, help_from=3, places={**kitchen.places, "pot": 1})
    holds = (Hold("pot", ("t0", "t2")), Hold("pot", ("t1",))) if seed % 2 else ()
    problem = SheetProblem(tuple(tasks), kitchen, (), holds)
    sheet = shortest_sheet(problem)
    assert (None if sheet is None else sheet.minutes) == starts_tried(problem, 15)


GOOD = SheetProblem((CHOP, SIMMER, PEEL, ROAST, BAKE, Task("blend", "dip", 4, place="blender")), KITCHEN)


@pytest.mark.parametrize(
    ("broken", "said"),
    [
        (lambda s: replace(s, starts={k: v for k, v in s.starts.items() if k != "peel"}), "not on the sheet"),
        (lambda s: replace(s, starts={**s.starts, "chop": -1}), "before the session"),
        (lambda s: replace(s, starts={**s.starts, "simmer": s.starts["chop"]}), "before chop is over"),
        (lambda s: replace(s, looks={}), "Nobody looks"),
        (lambda s: replace(s, looks={("simmer", 0): s.starts["simmer"] + 23}), "Nobody looks"),
        (lambda s: replace(s, starts={**s.starts, "peel": s.starts["chop"]}), "not enough hands"),
        (lambda s: replace(s, starts={**s.starts, "bake": s.starts["roast"]}), "two heats"),
        (lambda s: replace(s, heats={**s.heats, "bake": 220}), "its heat"),
        (lambda s: replace(s, heats={}), "its heat"),
        (lambda s: replace(s, starts={**s.starts, "bake": 3}), "cold oven"),
        (lambda s: replace(s, minutes=s.minutes + 5), "does not end"),
    ],
)
def test_the_checker_refuses_a_sheet_that_breaks_a_rule(broken, said) -> None:  # type: ignore[no-untyped-def]
    assert any(said in words for words in check_sheet(GOOD, broken(solved(GOOD))))


def test_the_checker_refuses_what_does_not_fit_its_place_or_its_time() -> None:
    one = replace(KITCHEN, places={**KITCHEN.places, "hob": 1, "blender": 1})
    rice, soup = (Task(k, k, 20, is_hands_on=False, place="hob") for k in ("rice", "soup"))
    at_once = Task("drain", "rice", 2, after=("rice",), at_once=True)
    dips = tuple(Task(k, k, 4, place="blender") for k in ("dip", "pesto"))
    problem = SheetProblem((rice, soup, at_once, *dips), one, (Within("soup", "pesto", 3),))
    sheet = solved(problem)
    both = {**sheet.starts, "rice": 0, "soup": 0, "drain": 20}
    assert any("hob is over its places" in w for w in check_sheet(problem, replace(sheet, starts=both)))
    late = {**sheet.starts, "drain": sheet.starts["drain"] + 1}
    assert any("does not follow at once" in w for w in check_sheet(problem, replace(sheet, starts=late)))
    unwashed = {**sheet.starts, "dip": 100, "pesto": 104}
    said = check_sheet(problem, replace(sheet, starts=unwashed, minutes=108))
    assert any("blender is over its places" in w for w in said)
    assert any("more than 3 min after soup" in w for w in said)
    slow = SheetProblem((replace(BAKE, key="one"), replace(ROAST, key="two", after=())), KITCHEN)
    found = solved(slow)
    first = found.starts["one"]
    hurried = replace(found, starts={**found.starts, "two": first + 34}, minutes=first + 34 + 45)
    assert any("no time to change" in w for w in check_sheet(slow, hurried))


def test_a_pot_is_free_when_all_that_is_cooked_in_it_is_over_and_it_is_washed() -> None:
    pots = replace(KITCHEN, places={**KITCHEN.places, "pot": 1})
    rice = Task("rice", "rice", 20, is_hands_on=False, place="hob")
    problem = SheetProblem((CHOP, SIMMER, rice), pots, (), (Hold("pot", ("simmer",)), Hold("pot", ("rice",))))
    sheet = solved(problem)
    assert sheet.minutes == 20 + 3 + 40  # rice while somebody chops, then the stew in the same pot
    early = {**sheet.starts, "simmer": 20}
    said = check_sheet(problem, replace(sheet, starts=early, looks={("simmer", 0): 40}, minutes=60))
    assert any("pot is over its places" in words for words in said)


def test_help_comes_when_it_comes_and_a_pause_has_its_window() -> None:
    peel = replace(PEEL, minutes=30)
    alone = solved(SheetProblem((replace(CHOP, minutes=30), peel), KITCHEN))
    helped = SheetProblem((replace(CHOP, minutes=30), peel), replace(KITCHEN, help_from=10))
    assert (alone.minutes, solved(helped).minutes) == (60, 40)
    too_soon = replace(solved(helped), starts={"chop": 0, "peel": 5}, minutes=35)
    assert any("not enough hands" in words for words in check_sheet(helped, too_soon))
    pause = Task("pause", "pause", 10, earliest=20, latest=25)
    paused = SheetProblem((replace(CHOP, minutes=22), peel, pause), KITCHEN)
    sheet = solved(paused)
    assert 20 <= sheet.starts["pause"] <= 25
    never = replace(sheet, starts={**sheet.starts, "pause": 90}, minutes=100)
    assert any("does not start when it should" in words for words in check_sheet(paused, never))


def test_two_trays_take_two_shelves() -> None:
    wide = replace(BAKE, takes=2)
    problem = SheetProblem((wide, replace(BAKE, key="other")), KITCHEN)
    sheet = solved(problem)
    assert sheet.minutes == 12 + 30 + 30
    both = replace(sheet, starts={"bake": 12, "other": 12}, minutes=42)
    assert any("oven is over its places" in words for words in check_sheet(problem, both))
    with pytest.raises(InvalidInputs, match="It takes 3 places"):
        SheetProblem((replace(BAKE, takes=3),), KITCHEN)


def halves(count: int) -> SheetProblem:
    """So many half trays of 30 min, one shelf, one tray."""
    tasks = tuple(replace(BAKE, key=f"half {n}", dish=f"half {n}", shares="tray") for n in range(count))
    kitchen = replace(KITCHEN, places={"oven": 1, "tray": 1})
    return SheetProblem(tasks, kitchen, (), tuple(Hold("tray", (t.key,)) for t in tasks))


def test_two_things_share_a_tray_and_three_do_not() -> None:
    two = solved(halves(2))
    assert two.minutes == 12 + 30
    assert two.together == (("half 0", "half 1"),)
    assert two.mate_of("half 1") == "half 0"
    assert solved(halves(3)).minutes == 12 + 30 + 3 + 30, "the tray is washed in between"
    unlike = halves(2)
    unlike = replace(unlike, tasks=(unlike.tasks[0], replace(unlike.tasks[1], shares="another tray")))
    assert solved(unlike).minutes == 12 + 30 + 3 + 30
    hotter = replace(halves(2), tasks=(halves(2).tasks[0], replace(halves(2).tasks[1], low_c=200, high_c=220)))
    assert solved(hotter).minutes == 12 + 30 + 8 + 30
    assert dishes_that_fit(halves(3), 42, {"half 0": 1, "half 1": 2, "half 2": 3}) == ("half 1", "half 2")


def test_a_tray_is_its_pairs_from_the_first_in_to_the_last_out() -> None:
    """The longer one goes in at 12; the other joins 10 minutes later, when it is cut."""
    cut = Task("cut", "half 1", 22)
    tasks = (replace(halves(1).tasks[0], minutes=40), replace(halves(2).tasks[1], minutes=15, after=("cut",)), cut)
    problem = replace(halves(2), tasks=tasks)
    sheet = solved(problem)
    assert sheet.minutes == 12 + 40
    assert 22 <= sheet.starts["half 1"] < 52


@pytest.mark.parametrize(
    ("broken", "said"),
    [
        (lambda s: replace(s, together=()), "over its places"),
        (lambda s: replace(s, together=(*s.together, ("half 1", "half 0"))), "on two trays"),
        (lambda s: replace(s, together=(("half 0", "sliced"),)), "cannot be on a tray"),
        (lambda s: replace(s, heats={**s.heats, "half 1": 150, "half 0": 160}), "another heat"),
        (lambda s: replace(s, starts={**s.starts, "half 1": s.starts["half 0"] + 40}), "is not in the oven while"),
    ],
)
def test_the_checker_refuses_what_is_on_a_tray_and_cannot_be(broken, said) -> None:  # type: ignore[no-untyped-def]
    problem = halves(2)
    problem = replace(problem, tasks=(*problem.tasks, replace(BAKE, key="sliced")))
    problem = replace(problem, kitchen=replace(problem.kitchen, places={"oven": 2, "tray": 1}))
    assert any(said in words for words in check_sheet(problem, broken(solved(problem))))


def test_as_short_and_each_dish_in_less_time() -> None:
    slow = Task("slow", "roast", 120, is_hands_on=False, place="oven")
    cut, fry = Task("cut", "curry", 5), Task("fry", "curry", 10, place="hob", after=("cut",))
    problem = SheetProblem((slow, cut, fry, CHOP, SIMMER), KITCHEN)
    model = SheetModel(problem, 300)
    first = model.solve(5)
    assert first is not None
    apart = replace(first, starts={**first.starts, "cut": 0, "fry": 100})
    together = model.closer_together(apart, 2)
    assert check_sheet(problem, together) == []
    assert together.minutes == first.minutes
    assert together.starts["fry"] == together.starts["cut"] + 5
    assert together.starts["simmer"] == together.starts["chop"] + 10


@pytest.mark.parametrize("minutes", [20, 40, 60, 70])
def test_most_boxes_are_done_in_the_time_there_is(minutes: int) -> None:
    boxes = {"stew": 4, "beet": 3, "slice": 2, "dip": 1}
    best = 0
    for left in product((False, True), repeat=len(boxes)):
        kept = {dish for dish, is_in in zip(boxes, left, strict=True) if is_in}
        some = GOOD.without(boxes.keys() - kept)
        sheet = shortest_sheet(some)
        if sheet is not None and sheet.minutes <= minutes:
            best = max(best, sum(boxes[dish] for dish in kept))
    fits = dishes_that_fit(GOOD, minutes, boxes)
    assert sum(boxes[dish] for dish in fits) == best
    sheet = shortest_sheet(GOOD.without(boxes.keys() - set(fits)))
    assert sheet is not None
    assert sheet.minutes <= minutes


@pytest.mark.parametrize(
    ("task", "said"),
    [
        (replace(CHOP, minutes=0), "0 min is not possible"),
        (replace(CHOP, minutes=1800), "1800 min is not possible"),
        (replace(CHOP, checks=(3, 10)), "A look lies outside"),
        (replace(CHOP, place="smoker"), "no smoker"),
        (replace(ROAST, key="chop", after=(), low_c=200, high_c=180), "No oven can be"),
        (replace(CHOP, after=("nothing",)), "which is not there"),
        (replace(CHOP, after=("chop",)), "wait for each other"),
    ],
)
def test_a_task_that_cannot_be_is_named(task: Task, said: str) -> None:
    with pytest.raises(InvalidInputs) as refused:
        SheetProblem((task, PEEL), KITCHEN)
    assert [f.field for f in refused.value.faults] == ["chop"]
    assert said in str(refused.value.faults[0])


def test_a_look_at_the_very_end_lies_within_its_task() -> None:
    busy = Task("knead", "bread", 7)
    stir = Task("stir", "soup", 6, is_hands_on=False, place="hob", checks=(5,))
    sheet = solved(SheetProblem((busy, stir), KITCHEN))
    assert sheet.looks["stir", 0] < sheet.starts["stir"] + 6
    late = replace(sheet, looks={("stir", 0): sheet.starts["stir"] + 6})
    assert any("Nobody looks" in words for words in check_sheet(SheetProblem((busy, stir), KITCHEN), late))


def test_the_longest_chain_and_the_heats() -> None:
    assert longest_chain([CHOP, SIMMER, PEEL]) == {"chop": 50, "simmer": 40, "peel": 8}
    assert heats_of(replace(ROAST, low_c=175, high_c=195)) == (180, 190)
    assert shortest_sheet(SheetProblem((), KITCHEN)) == Sheet({}, {}, {}, 0, 0)
