"""Puts the demo household into an empty database, through the services."""

from dataclasses import replace
from datetime import date, datetime, timedelta
from functools import partial
from uuid import UUID

from goodcrate.core.cook.batch_record import COOKED_DOWN
from goodcrate.core.foods.packs import Pack
from goodcrate.core.ground.writing import week_start
from goodcrate.core.portion.filled_boxes import WEIGHED
from goodcrate.core.portion.week_outcome import WorkedBatch
from goodcrate.core.recipes.equipment import Equipment
from goodcrate.core.store.shelves import Shelf
from goodcrate.db.session import Database
from goodcrate.demo import week as boat
from goodcrate.demo.foods import FACTS, FOODS, PACKS, DemoFood
from goodcrate.demo.recipes import RECIPES, BoatWay
from goodcrate.services import accounts, kitchen
from goodcrate.services.at_table import store_map
from goodcrate.services.calling import Caller
from goodcrate.services.cook import cooking
from goodcrate.services.foods import labels
from goodcrate.services.foods import packs_known as packs
from goodcrate.services.portion import filling
from goodcrate.services.recipes import library, recipe_input, saving
from goodcrate.services.recipes.starter_shelf import household_id as _id
from goodcrate.services.recipes.starter_shelf import input_of_shelf
from goodcrate.services.store import house
from goodcrate.services.targets import household_eaters
from goodcrate.services.week import placing, weeks
from goodcrate.shelf.all_recipes import SHELF


def load_demo(database: Database, today: date, sign_in: str = boat.SIGN_IN_NAME) -> Caller:
    """Make the boat with its recipes and the week that holds `today`, one batch weighed and divided."""
    caller = accounts.add_household(database, boat.HOUSEHOLD, sign_in, boat.SIGN_IN_PASSWORD)
    kitchen.save_vessels(caller, [_vessel_input(caller, v) for v in boat.VESSELS])
    kitchen.save_equipment(caller, Equipment(boat.HANDS_AND_HEAT))
    kitchen.save_capacity(caller, kitchen.Capacity(*boat.BOXES_IT_HOLDS))
    for key, way in RECIPES.items():
        saving.save_recipe(caller, _recipe_input(caller, key, way))
    for food in FOODS:
        labels.save_food(caller, _food_input(caller, food))
    for key, facts in FACTS.items():
        labels.remember_facts(caller, key, facts)
    _note_packs(caller, today)
    for eater in boat.EATERS:
        household_eaters.save_eater(caller, _eater_input(caller, eater))
    _add_variants(caller)
    first_day = week_start(today)
    place_week(caller, first_day)
    _cook_a_little(caller, first_day)
    for n, thing in enumerate(boat.IN_THE_HOUSE):
        recipe_id = _id(caller, thing.recipe) if thing.recipe else None
        since = first_day - timedelta(days=thing.days_ago)
        house.put_in(
            caller,
            house.ThingInput(
                _id(caller, "in the house", n),
                thing.place,
                since,
                None,
                recipe_id,
                thing.boxes,
                grams=thing.grams,
                typed=thing.typed,
            ),
        )
    for n, (name, place, boxes) in enumerate(boat.SHELVES):
        store_map.name_shelf(caller, Shelf(str(_id(caller, "shelf", n)), name, place, boxes))
    return caller


def _note_packs(caller: Caller, today: date) -> None:
    for key, seen in PACKS.items():
        for n, (shop, pack_g, cost, days_ago) in enumerate(seen):
            pack_id = _id(caller, "pack", key, n)
            packs.add_pack(caller, pack_id, key, Pack(key, pack_g, cost), shop, today - timedelta(days=days_ago))


def _vessel_input(caller: Caller, v: boat.DemoVessel) -> kitchen.VesselInput:
    return kitchen.VesselInput(
        _id(caller, "vessel", v.name),
        v.name,
        v.kind,
        v.volume_ml,
        v.minimum_ml,
        v.pieces,
        tare_g=v.tare_g,
        compartments=v.compartments,
        stands=frozenset(v.stands) or None,
    )


def _recipe_input(caller: Caller, key: str, way: BoatWay) -> recipe_input.RecipeInput:
    """A recipe of the shelf with the weights its pots had on the boat."""
    typed = input_of_shelf(SHELF[key], partial(_id, caller))
    components = [replace(c, cooked_g=way.cooked_g.get(place)) for place, c in enumerate(typed.components)]
    if way.serves is not None:
        owner, place, grams = way.serves
        name = SHELF[owner].components[place].name
        source = _id(caller, owner, place)
        components.append(
            recipe_input.ComponentInput(_id(caller, key, "serves"), name, used_component_id=source, serving_g=grams)
        )
    return replace(typed, components=tuple(components), name=way.name or typed.name, note=way.note or typed.note)


def _add_variants(caller: Caller) -> None:
    """Variants are for eaters, so they come once these are there."""
    for key, way in RECIPES.items():
        if not way.variants:
            continue
        saved = library.get_input(caller, _id(caller, key))
        variants = tuple(
            recipe_input.VariantInput(
                _id(caller, key, v.name),
                v.name,
                (_id(caller, v.eater),),
                (recipe_input.ChangeInput(_id(caller, key, *v.line), v.food, v.grams),),
            )
            for v in way.variants
        )
        saving.save_recipe(caller, replace(saved, variants=variants))


def _food_input(caller: Caller, food: DemoFood) -> labels.FoodInput:
    return labels.FoodInput(
        _id(caller, "food", food.key),
        food.name,
        food.label,
        food.state,
        food.group,
        frozenset(food.allergens),
        pack_g=food.pack_g,
        price=food.price,
        barcode=food.barcode,
    )


def _eater_input(caller: Caller, eater: boat.DemoEater) -> household_eaters.EaterInput:
    days = (
        household_eaters.DayTypeInput(
            _id(caller, eater.key, d.name), d.name, d.energy_kcal, d.protein_floor_g, weekdays=d.weekdays
        )
        for d in eater.day_types
    )
    slots = (
        household_eaters.SlotInput(_id(caller, eater.key, "slot", s.name), s.name, s.at, s.cold, s.travels)
        for s in eater.slots
    )
    return household_eaters.EaterInput(
        _id(caller, eater.key),
        eater.name,
        tuple(days),
        tuple(slots),
        eater.allergens,
        about=eater.about,
        no_pork=eater.no_pork,
        dislikes=eater.dislikes,
        meal_block_kcal=eater.blocks[0] if eater.blocks else None,
        snack_block_kcal=eater.blocks[1] if eater.blocks else None,
    )


def place_week(caller: Caller, first_day: date) -> None:
    """Start a week with the boat's two sessions, and place its meals."""
    weeks.open_week(caller, first_day)
    second = first_day + timedelta(days=boat.SECOND_SESSION_WEEKDAY)
    weeks.add_session(caller, first_day, datetime.combine(second, boat.SECOND_SESSION_AT))
    for p in boat.PLACINGS:
        typed = placing.PlaceInput(
            _id(caller, first_day, p.eater, p.slot, p.recipe, p.servings),
            _id(caller, p.eater),
            _id(caller, p.eater, "slot", p.slot),
            _id(caller, p.recipe),
            p.servings,
            tuple(first_day + timedelta(days=n) for n in p.weekdays),
        )
        placing.place(caller, first_day, typed)


def _batch(caller: Caller, first_day: date, component_name: str) -> tuple[UUID, WorkedBatch]:
    picture = weeks.week_picture(caller, first_day)
    assert picture is not None
    for worked in picture.outcome.batches:
        recipe = picture.recipes[worked.plan.recipe_key]
        if any(c.key == worked.plan.component_key and c.name == component_name for c in recipe.components):
            key = cooking.batch_id_for(picture.week.id, worked.plan.session_key, worked.plan.component_key)
            return key, worked
    raise LookupError(component_name)


def _cook_a_little(caller: Caller, first_day: date) -> None:
    batch_id, _ = _batch(caller, first_day, boat.WEIGHED_BATCH)
    cooking.start_batch(caller, first_day, batch_id)
    _, worked = _batch(caller, first_day, boat.WEIGHED_BATCH)
    for line, ratio in zip(worked.outcome.state.lines, boat.WEIGHED_RATIOS, strict=True):
        event = _id(caller, first_day, "weighed", line.key)
        cooking.weigh_ingredient(caller, first_day, batch_id, UUID(line.key), event, round(line.amount.grams * ratio))
    _weigh_pot(caller, first_day, boat.WEIGHED_BATCH)
    _, worked = _batch(caller, first_day, boat.WEIGHED_BATCH)
    second = worked.outcome.portions[1]
    grams = second.grams + boat.POURED_TOO_MUCH_G
    filling.weigh_box(
        caller, first_day, batch_id, UUID(second.placing_key), _id(caller, first_day, "box", "second"), grams
    )
    filling.fill_as_divided(caller, first_day, batch_id, _id(caller, first_day, "box", "rest"))
    _, worked = _batch(caller, first_day, boat.WEIGHED_BATCH)
    assert all(p.stage == WEIGHED for p in worked.outcome.portions)
    _weigh_pot(caller, first_day, boat.WEIGHED_POT_ONLY)


def _weigh_pot(caller: Caller, first_day: date, component_name: str) -> None:
    batch_id, worked = _batch(caller, first_day, component_name)
    gross = round(worked.outcome.state.expected_g * boat.POT_YIELD_RATIO) + boat.POT_TARE_G
    event = _id(caller, first_day, "pot", component_name)
    filling.weigh_pot(caller, first_day, batch_id, event, gross, boat.POT_TARE_G, shortfall=COOKED_DOWN)
