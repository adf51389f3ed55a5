"""Two hands at once: forms sent at the same moment, and the rows of a small kitchen to send them about."""

from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from datetime import date, timedelta
from threading import Barrier
from typing import Any
from uuid import UUID, uuid4

from sqlalchemy import select, update

from goodcrate.core.foods.packs import Pack
from goodcrate.core.recipes.steps import Step
from goodcrate.core.store.shelves import Shelf
from goodcrate.core.targets.week_changes import TargetChange
from goodcrate.db.cook import BatchRow
from goodcrate.db.recipes import ComponentRow, LineRow
from goodcrate.db.targets import EaterRow
from goodcrate.services.at_table import eating, off_plan, store_map
from goodcrate.services.at_table.today import today_of
from goodcrate.services.cook import cooking, run_sheet
from goodcrate.services.cook.run_sheet import SheetAsked
from goodcrate.services.foods import food_files, labels
from goodcrate.services.foods import packs_known as packs
from goodcrate.services.portion import filling
from goodcrate.services.recipes import library, recipe_files, saving
from goodcrate.services.review import body_weight, taking
from goodcrate.services.shop import taking_instead
from goodcrate.services.shop.taking_instead import Swap
from goodcrate.services.store import house
from goodcrate.services.store.boxes import own_box_id
from goodcrate.services.week import placing, week_targets, weeks
from tests.conftest import Cook, text_of
from tests.hostile import forms_of
from tests.services.kitchen import MONDAY, Kitchen, place, planner_job, turkey_pot

Sent = tuple[str, dict[str, Any]]
Pairing = Callable[[Cook, Kitchen], Sequence[Sent]]
THERE = f"/week/{MONDAY}"
FREE = str(date(2026, 11, 28))
"""A day of the week on which nothing is placed."""


def race(cook: Cook, *sent: Sent) -> list[tuple[int, str]]:
    """Send all at the same moment; answers status and where each leads."""
    start = Barrier(len(sent))

    def one(what: Sent) -> tuple[int, str]:
        start.wait(60)
        url, fields = what
        files = {"file": ("sent.csv", fields["file"], "text/csv")} if "file" in fields else None
        data = {"csrf": cook.csrf} | {k: v for k, v in fields.items() if k != "file"}
        answer = cook.client.post(url, data=data, files=files, follow_redirects=False)
        assert answer.status_code < 500, f"{url}: {text_of(answer.text)}"
        return answer.status_code, answer.headers.get("location", "")

    with ThreadPoolExecutor(len(sent)) as hands:
        return list(hands.map(one, sent))


def sheet(cook: Cook, kitchen: Kitchen) -> str:
    """The address of the run sheet of the session that cooks."""
    picture = weeks.week_picture(kitchen.caller, MONDAY)
    assert picture is not None
    if not picture.outcome.batches:  # the meals were taken out in the race before
        place(kitchen, 1.5, 4)
        return sheet(cook, kitchen)
    return f"/cook/{MONDAY}/sheet/{picture.outcome.batches[0].plan.session_key}"


def made_sheet(cook: Cook, kitchen: Kitchen) -> str:
    """The address of a sheet that is made."""
    there = sheet(cook, kitchen)
    key = there.rpartition("/")[2]
    run_sheet.make_sheet(kitchen.caller, run_sheet.ask_for_sheet(kitchen.caller, MONDAY, uuid4(), key, SheetAsked()))
    return there


def cooking_now(cook: Cook, kitchen: Kitchen) -> str:
    """The address of a session that is being cooked."""
    there = made_sheet(cook, kitchen)
    cook.post(f"{there}/begin", {})
    return there.replace("/sheet/", "/now/")


def job(kitchen: Kitchen) -> UUID:
    """A job that is at it."""
    with kitchen.caller.transaction() as session:
        row = planner_job(weeks.existing_week(session, MONDAY).id, status="running")
        session.add(row)
        return row.id


def meals(kitchen: Kitchen) -> list[UUID]:
    picture = weeks.week_picture(kitchen.caller, MONDAY)
    assert picture is not None
    return [p.id for p in sorted(picture.meals, key=lambda p: p.day)]


def food_of(kitchen: Kitchen) -> str:
    """A food that the week's first recipe holds."""
    picture = weeks.week_picture(kitchen.caller, MONDAY)
    assert picture is not None
    return next(line.food.key for line in picture.recipes[str(picture.meals[0].recipe_id)].lines)


def something_else(kitchen: Kitchen) -> tuple[str, str]:
    """That food, and another one."""
    food = food_of(kitchen)
    return food, "carrot_raw" if food == "cabbage_raw" else "cabbage_raw"


def food_noted(kitchen: Kitchen) -> UUID:
    thing_id = uuid4()
    house.put_in(kitchen.caller, house.ThingInput(thing_id, "fridge", MONDAY, typed="200 g quark"))
    return thing_id


def pack_noted(kitchen: Kitchen) -> UUID:
    pack_id = uuid4()
    packs.add_pack(kitchen.caller, pack_id, "cabbage_raw", Pack("cabbage_raw", 900, 1.40), "", MONDAY)
    return pack_id


def taken_instead(kitchen: Kitchen) -> UUID:
    row_id = uuid4()
    taking_instead.take_instead(kitchen.caller, MONDAY, row_id, Swap(*something_else(kitchen)), MONDAY)
    return row_id


def slot(kitchen: Kitchen, day: int) -> str:
    return f"{kitchen.eater_id}.{kitchen.slot_id}.{date(2026, 11, 23 + day)}"


def batch(kitchen: Kitchen) -> str:
    picture = weeks.week_picture(kitchen.caller, MONDAY)
    assert picture is not None
    plan = picture.outcome.batches[0].plan
    return f"{MONDAY}/{cooking.batch_id_for(picture.week.id, plan.session_key, plan.component_key)}"


def form_as(cook: Cook, page: str, action: str, changes: dict[str, str]) -> Sent:
    """A page's form with some words replaced throughout, ids among them."""
    form = forms_of(page, cook.get(page))[action]
    fields: dict[str, Any] = {}
    for name, value in form.fields:
        for old, new in changes.items():
            name, value = name.replace(old, new), value.replace(old, new)  # noqa: PLW2901
        if name != "csrf":
            fields.setdefault(name, []).append(value)
    for old, new in changes.items():
        action = action.replace(old, new)
    return action, fields


def same_new_recipe(cook: Cook, kitchen: Kitchen) -> Sequence[Sent]:
    ids = [kitchen.recipe_id, kitchen.component_id, *kitchen.line_ids]
    page = f"/recipes/{kitchen.recipe_id}"
    url, fields = form_as(cook, page, page, {str(i): str(uuid4()) for i in ids})
    fields |= {"version": ["0"], "page": [str(uuid4())]}
    return [(url, fields)] * 2


def same_new_eater(cook: Cook, kitchen: Kitchen) -> Sequence[Sent]:
    page = f"/targets/{kitchen.eater_id}"
    url, fields = form_as(cook, page, page, {str(kitchen.eater_id): str(uuid4()), str(kitchen.slot_id): str(uuid4())})
    days = {k: v for k, v in fields.items() if not k.startswith("day-")}
    day = uuid4()
    for name, value in {
        "name": "every day",
        "energy_kcal": "2000",
        "protein_floor_g": "90",
        "energy_band_pct": "3",
    }.items():
        days[f"day-{day}-{name}"] = [value]
    return [(url, days | {"version": ["0"], "name": ["Nils"]})] * 2


def first_eater() -> Sent:
    day = uuid4()
    row = {"name": "every day", "energy_kcal": "2000", "protein_floor_g": "90", "energy_band_pct": "3"}
    days = {f"day-{day}-{name}": value for name, value in row.items()}
    return "/targets/first", {"id": str(uuid4()), "name": "Nils", "meals_a_day": "3", "next": "shelf", **days}


def box_in_the_house(kitchen: Kitchen, **more: str) -> Sent:
    return "/store", {
        "id": str(uuid4()),
        "kind": "boxes",
        "recipe_id": str(kitchen.recipe_id),
        "count": "2",
        "grams": "330",
        "place": "freezer",
        "since": "2026-11-10",
        "until": "",
        **more,
    }


def label(row_id: str) -> Sent:
    return "/foods/label", {
        "id": row_id,
        "version": "0",
        "name": f"Crackers {row_id[:4]}",
        "group": "grain",
        "state": "ready",
        "diet": "plant",
        "basis": "100g",
        "energy_kcal": "400",
        "fat_g": "10",
        "carbohydrate_g": "60",
        "protein_g": "12",
        "fibre_g": "8",
        "fibre": "apart",
    }


def begun(kitchen: Kitchen) -> str:
    line(kitchen)
    return batch(kitchen)


def weighed(cook: Cook, kitchen: Kitchen) -> str:
    there = begun(kitchen)
    cook.client.post(
        f"/portion/{there}/pot", data={"csrf": cook.csrf, "gross_g": "2100 g", "tare_g": "0", "event": str(uuid4())}
    )
    return there


def timed(kitchen: Kitchen) -> UUID:
    """The recipe, of which a step says 5 min."""
    saved = library.get_input(kitchen.caller, kitchen.recipe_id)
    saving.save_recipe(kitchen.caller, replace(saved, steps=(Step("chop", "Chop it", duration_min=5),)))
    return kitchen.recipe_id


def changed(kitchen: Kitchen) -> UUID:
    saved = library.get_input(kitchen.caller, kitchen.recipe_id)
    saving.save_recipe(kitchen.caller, replace(saved, name=f"Pot {uuid4().hex[:4]}"))
    return kitchen.recipe_id


def line(kitchen: Kitchen, n: int = 0) -> UUID:
    picture = weeks.week_picture(kitchen.caller, MONDAY)
    assert picture is not None
    batch_id = UUID(batch(kitchen).partition("/")[2])
    cooking.start_batch(kitchen.caller, MONDAY, batch_id)
    with kitchen.caller.transaction() as session:
        row = session.find(BatchRow, batch_id)
        assert row is not None
        return row.lines[n].id


def session_id(cook: Cook, kitchen: Kitchen) -> UUID:
    cook.post(f"{THERE}/sessions", {"starts_at": "2026-11-22T16:00"})  # the one before may have lost the race
    picture = weeks.week_picture(kitchen.caller, MONDAY)
    assert picture is not None
    return UUID(picture.sessions[0].key)


def noted(cook: Cook, kitchen: Kitchen) -> str:
    url, fields = box_in_the_house(kitchen)
    cook.post(url, fields)
    return str(fields["id"])


def taken_in(kitchen: Kitchen, grams: float) -> str:
    """An ingredient that was weighed; the address of its line."""
    line_id, there = line(kitchen), batch(kitchen)
    batch_id = UUID(there.partition("/")[2])
    cooking.weigh_ingredient(kitchen.caller, MONDAY, batch_id, line_id, uuid4(), grams)
    return f"/cook/{there}/lines/{line_id}"


def box_weighed(cook: Cook, kitchen: Kitchen, *, twice: bool = False) -> str:
    """The address of a box of a weighed pot; with `twice`, one that was weighed."""
    address = f"/portion/{weighed(cook, kitchen)}/boxes/{meals(kitchen)[0]}"
    if twice:
        cook.post(address, {"net_g": "320 g", "event": str(uuid4())})
    return address


def two_pots(kitchen: Kitchen) -> str:
    there = begun(kitchen)
    filling.add_pot(kitchen.caller, MONDAY, UUID(there.partition("/")[2]), uuid4())
    return there


def spare(cook: Cook, kitchen: Kitchen) -> str:
    """The address of a box that was packed for nobody."""
    there, box_id = weighed(cook, kitchen), uuid4()
    cook.post(f"/portion/{there}/spare", {"spare_g": "100 g", "id": str(box_id), "event": str(uuid4())})
    return f"/portion/{there}/spare/{box_id}"


def other_dish(kitchen: Kitchen) -> str:
    """The meal of another dish that the same session cooks."""
    picture = weeks.week_picture(kitchen.caller, MONDAY)
    there = [m for m in picture.meals if str(m.day) == FREE] if picture is not None else []
    if there:
        return str(there[0].id)
    other = turkey_pot("Other pot")
    saving.save_recipe(kitchen.caller, other)
    typed = placing.PlaceInput(
        uuid4(), kitchen.eater_id, kitchen.slot_id, other.id, servings=1.0, days=(date.fromisoformat(FREE),)
    )
    (meal,) = placing.place(kitchen.caller, MONDAY, typed)
    return str(meal)


def topped_up(cook: Cook, kitchen: Kitchen) -> str:
    """The address of what went into another dish's box."""
    there, meal = weighed(cook, kitchen), other_dish(kitchen)
    cook.post(f"/portion/{there}/top-up", {"rest_g": "20 g", "placement": meal, "event": str(uuid4())})
    return f"/portion/{there}/top-up/{meal}"


def own_figures(kitchen: Kitchen) -> str:
    """A food of the recipe's with other figures than it was made with."""
    label = {
        "basis": "100g",
        "fibre": "apart",
        "energy_kcal": "30",
        "fat_g": "0.2",
        "carbohydrate_g": "5",
        "protein_g": "1",
        "fibre_g": "2",
    }
    labels.save_food(
        kitchen.caller, labels.FoodInput(uuid4(), "Market cabbage", label, "raw", "vegetable", origin_key="cabbage_raw")
    )
    return "cabbage_raw"


def file_waiting(kitchen: Kitchen) -> UUID:
    file_id = uuid4()
    food_files.upload(kitchen.caller, file_id, "f.csv", f"name,kcal,protein_g\nRusk {uuid4().hex[:4]},380,9\n".encode())
    return file_id


LINES = "recipe,ingredient,servings\nOats one,200 g rolled oats,2\nOats two,300 g rolled oats,2\n"


def import_waiting(kitchen: Kitchen) -> UUID:
    import_id = uuid4()
    recipe_files.upload(kitchen.caller, import_id, "r.csv", recipe_files.read_file(LINES.encode(), "r.csv"))
    return import_id


def plan_found(cook: Cook, kitchen: Kitchen, *, taken: bool = False, **state: Any) -> str:
    """A plan with one meal in it, as the planner would leave it; its address."""
    picture = weeks.week_picture(kitchen.caller, MONDAY)
    assert picture is not None
    meal = {
        "eater": str(kitchen.eater_id),
        "slot": str(kitchen.slot_id),
        "day": FREE,
        "recipe": str(kitchen.recipe_id),
        "servings": 1.0,
        "frozen": False,
        "session": "",
        "house": "",
    }
    job = planner_job(picture.week.id, **{"best": [{"aim": "least_cooking", "meals": [meal]}], **state})
    with kitchen.caller.transaction() as session:
        session.add(job)
    if taken:
        cook.post(f"{THERE}/plan/{job.id}/take", {"aim": "least_cooking"})
    return f"{THERE}/plan/{job.id}"


def pattern(cook: Cook) -> str:
    pattern_id = str(uuid4())
    cook.post(f"{THERE}/pattern", {"pattern_name": "lean week", "id": pattern_id})
    return pattern_id


def emptied(kitchen: Kitchen) -> str:
    """A week after this one, with nothing in it; its address."""
    first_day = date(2026, 11, 30)
    weeks.open_week(kitchen.caller, first_day)
    return f"/week/{first_day}"


def broken_recipe(kitchen: Kitchen) -> str:
    """A copy of the recipe with a value no kitchen has; its address."""
    copy_id = saving.duplicate(kitchen.caller, kitchen.recipe_id, uuid4())
    lines = select(LineRow.id).join(ComponentRow, ComponentRow.id == LineRow.component_id)
    with kitchen.caller.transaction() as session:
        line_ids = session.scalars(lines.where(ComponentRow.recipe_id == copy_id)).all()
    with kitchen.caller.database.engine.begin() as connection:
        connection.execute(update(LineRow).where(LineRow.id.in_(line_ids)).values(error_g=1e300))
    library._VALUES.clear()
    return f"/recipes/{copy_id}"


def on_the_day(kitchen: Kitchen, use: str = "on_the_day") -> UUID:
    """The pot's oil goes on the plate when it is eaten, or in the evening before; its line."""
    with kitchen.caller.transaction() as session:
        line = session.find(LineRow, kitchen.line_ids[2])
        assert line is not None
        line.use_at = use
    library._VALUES.clear()
    return kitchen.line_ids[2]


def own_form(cook: Cook, page: str, action: str, **changes: str) -> Sent:
    """A page's form as it stands, some fields typed over."""
    fields: dict[str, Any] = {}
    for name, value in forms_of(page, cook.get(page))[action].fields:
        if name != "csrf":
            fields.setdefault(name, []).append(value)
    return action, fields | changes


def vessel(cook: Cook) -> Sent:
    """The pot there is, renamed; the form as an open page has it."""
    row_id = str(uuid4())
    p = f"vessel-{row_id}"
    fields = {"vessel": row_id, f"{p}-name": "pot", f"{p}-kind": "pot", f"{p}-volume_ml": "4", f"{p}-count": "1"}
    cook.post("/cook/kitchen", fields)
    return own_form(cook, "/cook/kitchen", "/cook/kitchen", **{f"{p}-name": f"pot {row_id[:4]}"})


def off_plan_noted(kitchen: Kitchen) -> UUID:
    """Something eaten besides."""
    noted = uuid4()
    off_plan.note(kitchen.caller, kitchen.eater_id, MONDAY, noted, "cake, 350 kcal")
    return noted


def to_eat(kitchen: Kitchen) -> UUID:
    """A meal that is to be eaten, whatever was said of it before."""
    meal, today = meals(kitchen)[0], today_of(kitchen.caller, MONDAY)
    assert today is not None
    if said := today.table.plates[str(meal)].said_by:
        eating.undo_said(kitchen.caller, MONDAY, UUID(said))
    return meal


def eaten(kitchen: Kitchen) -> str:
    """What was said of a meal that is eaten."""
    said = uuid4()
    eating.say_eaten(kitchen.caller, MONDAY, to_eat(kitchen), said, eating.Said("eaten"))
    return str(said)


def packed_box(kitchen: Kitchen) -> UUID:
    """A box that is in the house, with 5 g eaten of it."""
    meal = meals(kitchen)[1]
    eating.say_eaten(kitchen.caller, MONDAY, meal, uuid4(), eating.Said("part_eaten", grams=5))
    return own_box_id(meal)


def shelf(kitchen: Kitchen) -> UUID:
    """A shelf of the fridge."""
    shelf_id = uuid4()
    store_map.name_shelf(kitchen.caller, Shelf(str(shelf_id), "drawer", "fridge", 14))
    return shelf_id


def target_change(kitchen: Kitchen) -> UUID:
    """A day of the week made a little bigger."""
    change_id = uuid4()
    week_targets.change_targets(kitchen.caller, MONDAY, TargetChange(str(change_id), kitchen.eater_id, 4, 10.0))
    return change_id


def all_eaten(kitchen: Kitchen) -> str:
    """All of the week said to be eaten at once."""
    said = uuid4()
    eating.say_rest_eaten(kitchen.caller, MONDAY, said, MONDAY + timedelta(days=6))
    return str(said)


def proposal(kitchen: Kitchen) -> str:
    """What a week proposes whose boxes were half eaten, to the next one that has the same dish."""
    following = MONDAY + timedelta(days=7)
    if weeks.week_picture(kitchen.caller, following) is None:
        for meal in meals(kitchen)[:2]:
            eating.say_eaten(kitchen.caller, MONDAY, meal, uuid4(), eating.Said("part_eaten", share=0.5))
        weeks.open_week(kitchen.caller, following)
        days = (following, following + timedelta(days=1))
        typed = placing.PlaceInput(uuid4(), kitchen.eater_id, kitchen.slot_id, kitchen.recipe_id, 1.0, days)
        placing.place(kitchen.caller, following, typed)
    return f"smaller:{kitchen.eater_id}:{kitchen.recipe_id}"


def taken(kitchen: Kitchen) -> str:
    """One that was taken."""
    key = proposal(kitchen)
    taking.take(kitchen.caller, MONDAY, key)
    return key


def weight_log(kitchen: Kitchen) -> str:
    """Where an eater's log of body weights is, begun, with a weight in it."""
    with kitchen.caller.transaction() as session:
        session.execute(update(EaterRow).where(EaterRow.id == kitchen.eater_id).values(conditions=[]))
    body_weight.turn(kitchen.caller, kitchen.eater_id, on=True)
    body_weight.note_weight(kitchen.caller, kitchen.eater_id, MONDAY, 70.0, MONDAY)
    return f"/review/weight/{kitchen.eater_id}"
