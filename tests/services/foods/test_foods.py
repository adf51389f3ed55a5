"""Foods of a household: typed, scanned, imported, changed; what recipes make of that; found among very many."""

from dataclasses import replace
from uuid import UUID, uuid4

import pytest
from sqlalchemy import select

from goodcrate.core.ground.errors import InvalidInputs
from goodcrate.db.accounts import Household
from goodcrate.db.foods import FoodImportRow, FoodRow
from goodcrate.devices.catalogue import CatalogueItem, CatalogueUnavailable
from goodcrate.services.calling import Caller, NotFound, StaleWrite
from goodcrate.services.cook import cooking
from goodcrate.services.foods import food_files, labels, own_foods
from goodcrate.services.foods.labels import FoodInput
from goodcrate.services.foods.own_foods import Filters
from goodcrate.services.foods.scan import scan
from goodcrate.services.recipes import library, recipe_figures, recipe_input, saving
from goodcrate.services.targets import household_eaters
from goodcrate.services.week import placing, weeks
from tests.services.kitchen import MONDAY, eater_input, furnish, set_cups, turkey_pot

SKYR = {
    "basis": "100g",
    "fibre": "apart",
    "energy_kcal": "62",
    "fat_g": "0.2",
    "carbohydrate_g": "4.0",
    "protein_g": "11",
    "salt_g": "0.13",
}
NUTS = {
    "basis": "pieces",
    "pieces": "12",
    "basis_g": "15",
    "energy_kcal": "94",
    "fat_g": "8",
    "carbohydrate_g": "1",
    "fibre_g": "2",
    "protein_g": "3",
}
CHEESE = "2319425008132"


def skyr(**changes: object) -> FoodInput:
    """A food typed from its label."""
    typed = FoodInput(uuid4(), "Skyr, plain", SKYR, group="dairy", allergens=frozenset({"milk"}), pack_g=450)
    return replace(typed, **changes)  # type: ignore[arg-type]


def test_a_label_becomes_a_food_that_comes_back_as_it_was_typed(household: Caller) -> None:
    typed = skyr(price=2.35, barcode=CHEESE)
    key = labels.save_food(household, typed)
    assert labels.save_food(household, typed) == key  # sent twice
    assert own_foods.count_foods(household)[0] == 1
    page = own_foods.food_page(household, key)
    assert page.label == SKYR
    assert (page.food.composition.get("energy_kcal"), page.food.composition.get("sodium_mg")) == (62, 52)
    assert page.food.composition.get("iron_mg") is None
    assert page.food.composition.errors_per_100_g[0] == pytest.approx(0.289, abs=0.001)
    assert page.food.price_per_100_g == pytest.approx(2.35 / 4.5)
    assert (page.food.keep_group, page.food.aisle) == ("soft_dairy", "dairy")
    assert (page.source_kind, page.typical, page.version) == ("label", None, 1)


def test_what_stands_on_a_count_gives_the_piece_its_weight(household: Caller) -> None:
    key = labels.save_food(household, FoodInput(uuid4(), "Smoked nuts", NUTS, group="nut_seed"))
    food = own_foods.food_by_key(household, key).food
    assert (food.each_g, food.each_name) == (1.25, "piece")


@pytest.mark.parametrize(
    ("changes", "fields"),
    [
        ({"name": " "}, {"name"}),
        ({"name": "x" * 161}, {"name"}),
        ({"label": {}}, {"energy_kcal"}),
        ({"label": SKYR | {"protein_g": "130"}}, {"protein_g"}),
        ({"barcode": "2319425008133"}, {"barcode"}),
        ({"state": "molten"}, {"state"}),
        ({"pack_g": 0.1}, {"pack_g"}),
        ({"allergens": frozenset({"chalk"})}, {"allergens"}),
    ],
)
def test_what_cannot_be_is_refused_and_nothing_is_written(
    household: Caller, changes: dict[str, object], fields: set[str]
) -> None:
    with pytest.raises(InvalidInputs) as caught:
        labels.save_food(household, skyr(**changes))
    assert {fault.field for fault in caught.value.faults} == fields
    assert own_foods.count_foods(household)[0] == 0


def test_a_stale_label_and_a_barcode_that_is_taken_are_refused(household: Caller) -> None:
    typed = skyr(barcode=CHEESE)
    labels.save_food(household, typed)
    labels.save_food(household, replace(typed, name="Skyr", version=1))
    with pytest.raises(StaleWrite) as stale:
        labels.save_food(household, replace(typed, name="Sky", version=1))
    assert stale.value.current_version == 2
    with pytest.raises(InvalidInputs, match="carries this barcode already"):
        labels.save_food(household, skyr(barcode=CHEESE))
    with pytest.raises(NotFound):
        labels.save_food(household, skyr(version=3))


def test_a_label_over_a_typical_food_keeps_its_origin_and_what_it_does_not_print(household: Caller) -> None:
    key = labels.save_food(household, skyr(name="Quark from the lock shop", origin_key="quark"))
    assert key == "quark"
    page = own_foods.food_page(household, "quark")
    assert page.typical is not None
    assert page.typical.name == "Quark, virtually fat free"
    assert page.own_keys == {"energy_kcal", "protein_g", "sodium_mg"}
    assert page.food.composition.get("calcium_mg") == page.typical.composition.get("calcium_mg")
    assert own_foods.find_foods(household, "quark")[0].food.name == "Quark from the lock shop"
    labels.back_to_reference(household, "quark")
    page = own_foods.food_page(household, "quark")
    assert (page.own_keys, page.label, page.source_kind) == (frozenset(), None, "reference")
    with pytest.raises(NotFound):
        labels.back_to_reference(household, "pearl_barley_dry")


def test_a_kitchen_teaches_a_food_and_only_its_own(household: Caller, demo: Caller) -> None:
    labels.remember_facts(household, "tempeh", {"density_g_per_ml": 0.55, "serving_g": 90})
    assert own_foods.food_by_key(household, "tempeh").food.density_g_per_ml == 0.55
    assert own_foods.food_by_key(demo, "tempeh").food.density_g_per_ml is None
    with pytest.raises(InvalidInputs, match="out of range"):
        labels.remember_facts(household, "tempeh", {"density_g_per_ml": 55})
    with pytest.raises(NotFound):
        labels.remember_facts(household, str(uuid4()), {"each_g": 5})


# --- recipes and changed foods


def with_quark(household: Caller) -> UUID:
    """A saved recipe of 400 g quark for two."""
    line = recipe_input.LineInput(uuid4(), "quark", 400)
    component = recipe_input.ComponentInput(uuid4(), "all of it", (line,))
    typed = recipe_input.RecipeInput(uuid4(), "Quark", 2, (component,))
    saving.save_recipe(household, typed)
    return typed.id


def energy(household: Caller, recipe_id: UUID) -> float:
    return library.get_recipe(household, recipe_id).serving.tally.amount("energy_kcal").value


def test_a_recipe_says_that_a_food_changed_and_can_be_kept_as_it_was(household: Caller) -> None:
    recipe_id = with_quark(household)
    assert energy(household, recipe_id) == pytest.approx(132)
    assert recipe_figures.changed_figures(household, recipe_id) is None
    labels.save_food(household, skyr(label=SKYR | {"energy_kcal": "72"}, origin_key="quark"))
    changed = recipe_figures.changed_figures(household, recipe_id)
    assert changed is not None
    assert (changed.foods[0].before_kcal, changed.foods[0].now_kcal) == (66, 72)
    assert changed.as_it_was.tally.amount("energy_kcal").value == pytest.approx(132)
    assert changed.as_it_is.tally.amount("energy_kcal").value == pytest.approx(144)
    assert recipe_figures.recipes_with_changed_foods(household) == {recipe_id}
    assert own_foods.food_page(household, "quark").used_in[0].has_changed
    assert energy(household, recipe_id) == pytest.approx(144)  # until somebody says otherwise

    recipe_figures.settle_changed_figures(household, recipe_id, keep=True)
    assert energy(household, recipe_id) == pytest.approx(132)
    assert library.list_recipes(household)[0].serving.tally.amount("energy_kcal").value == pytest.approx(132)
    assert library.get_recipe(household, recipe_id).keeps == ("Skyr, plain",)
    assert recipe_figures.changed_figures(household, recipe_id) is None

    recipe_figures.take_new_figures(household, recipe_id)
    assert energy(household, recipe_id) == pytest.approx(144)
    assert recipe_figures.recipes_with_changed_foods(household) == frozenset()


def test_a_batch_keeps_the_figures_its_recipe_keeps_and_new_allergens_reach_it_all_the_same(household: Caller) -> None:
    recipe_id = with_quark(household)
    labels.save_food(
        household,
        skyr(label=SKYR | {"energy_kcal": "72"}, origin_key="quark", allergens=frozenset({"milk", "sulphites"})),
    )
    recipe_figures.settle_changed_figures(household, recipe_id, keep=True)
    eater = eater_input()
    household_eaters.save_eater(household, eater)
    weeks.open_week(household, MONDAY)
    meal = placing.PlaceInput(uuid4(), eater.id, eater.slots[0].id, recipe_id, 1.0, (MONDAY,))
    placing.place(household, MONDAY, meal)
    for is_started in (False, True):
        picture = weeks.week_picture(household, MONDAY)
        assert picture is not None
        (box,) = picture.outcome.boxes.values()
        assert box.tally.amount("energy_kcal").value == pytest.approx(132), is_started
        plan = picture.outcome.batches[0].plan
        cooking.start_batch(
            household, MONDAY, cooking.batch_id_for(picture.week.id, plan.session_key, plan.component_key)
        )
    assert library.get_recipe(household, recipe_id).recipe.allergens == {"milk", "sulphites"}


def test_a_saved_line_keeps_its_words_and_its_doubt(household: Caller) -> None:
    typed = turkey_pot()
    spoon = replace(typed.components[0].lines[2], amount_g=27.5, measure="volume", typed="2 tbsp", error_g=2.745)
    component = replace(typed.components[0], lines=(spoon,))
    saving.save_recipe(household, replace(typed, components=(component,), facts={"rapeseed_oil": {"pack_g": 500.0}}))
    (line,) = library.get_recipe(household, typed.id).recipe.components[0].lines
    assert line.amount.typed == "2 tbsp"
    assert line.amount.standard_error_g == pytest.approx(2.745)
    assert line.food.pack_g == 500


# --- finding


def test_own_foods_are_found_by_the_same_rules_as_typical_ones(household: Caller) -> None:
    labels.save_food(household, skyr(name="Barley water, lemon", group="drink"))
    found = own_foods.find_foods(household, "bar")
    assert (found[0].food.name, found[0].is_household) == ("Barley water, lemon", True)
    for typed in ("lemno watre", "waters LÉMON"):
        assert own_foods.find_foods(household, typed)[0].food.name == "Barley water, lemon"
    assert own_foods.find_foods(household, "%") == own_foods.find_foods(household, "")
    assert own_foods.find_foods(household, "lem_n water") == []


def test_filters_hold_for_own_and_typical_foods_alike(household: Caller) -> None:
    labels.save_food(household, skyr())
    household_eaters.save_eater(household, eater_input(excluded_allergens=("milk",)))
    free_of = own_foods.household_allergens(household)
    assert free_of == {"milk"}
    for filters in (
        Filters(free_of=free_of),
        Filters(group="dairy", least_protein_g_per_100_kcal=12),
        Filters(most_kcal_per_100_g=60),
    ):
        found = own_foods.find_foods(household, "", 500, filters)
        assert found
        for f in found:
            kcal, protein = f.food.composition.get("energy_kcal"), f.food.composition.get("protein_g")
            assert not f.food.allergens & filters.free_of
            assert filters.group in ("", f.food.group)
            if filters.most_kcal_per_100_g is not None:
                assert kcal is not None
                assert kcal <= 60
            if filters.least_protein_g_per_100_kcal is not None:
                assert kcal is not None
                assert protein is not None
                assert protein / kcal * 100 >= 12
    names = [f.food.name for f in own_foods.find_foods(household, "", 500, Filters("dairy", frozenset(), 12, None))]
    assert names[0] == "Skyr, plain"


# --- scanning


class Shelf:
    """A catalogue that knows one item, or fails."""

    def __init__(self, item: CatalogueItem | None = None, failure: str = "") -> None:
        self.item, self.failure = item, failure

    def look_up(self, barcode: str) -> CatalogueItem | None:
        if self.failure:
            raise CatalogueUnavailable(self.failure)
        return self.item


def test_a_scan_asks_the_household_first_then_the_catalogue(household: Caller) -> None:
    item = CatalogueItem(
        CHEESE, "Salad cheese", "furniture", "molten", ("milk", "chalk"), "200", label={"fat_g": "22", "x": "1"}
    )
    found = scan(household, CHEESE, Shelf(item))
    assert found.item is not None
    assert (found.item.group, found.item.state, found.item.allergens) == ("condiment", "ready", ("milk",))
    assert found.item.label == {"fat_g": "22"}
    nobody = scan(household, CHEESE, Shelf())
    assert "in-store number" in nobody.notice
    failed = scan(household, CHEESE, Shelf(failure="The catalogue cannot be reached."))
    assert failed.notice.startswith("The catalogue cannot be reached. Type the label")
    labels.save_food(household, skyr(barcode=CHEESE))
    own = scan(household, CHEESE, Shelf(failure="not asked"))
    assert own.food is not None
    assert own.food.name == "Skyr, plain"


# --- files

FILE = (
    "key,name,barcode,kcal,protein_g,group\n"
    "quark,Quark,,72,12.5,dairy\n"
    ',"SKYR, plain",,64,11,dairy\n'
    ",Harbour oats,,375,13,grain\n"
    ",Harbour Oats,,380,13,grain\n"
    ",Bad beans,,80,130,legume\n"
    f",Salad cheese,{CHEESE},266,16,dairy\n"
    f",Other cheese,{CHEESE},266,16,dairy\n"
)


def test_a_file_is_reported_on_first_then_applied_in_one_go(household: Caller) -> None:
    labels.save_food(household, skyr())
    file_id = uuid4()
    food_files.upload(household, file_id, "foods.csv", FILE.encode())
    report = food_files.report(household, file_id)
    assert [(r.line, r.verdict) for r in report.rows] == [
        (2, "added"),
        (3, "changed"),
        (4, "added"),
        (5, "refused"),
        (6, "refused"),
        (7, "added"),
        (8, "refused"),
    ]
    assert "62 → 64 kcal" in report.rows[1].why
    assert "line 4" in report.rows[3].why
    assert "stands in line 7" in report.rows[6].why
    assert own_foods.count_foods(household)[0] == 1  # nothing yet

    done = food_files.apply(household, file_id)
    assert [done[v] for v in ("added", "changed", "refused")] == [3, 1, 3]
    assert own_foods.count_foods(household)[0] == 4
    quark = own_foods.food_page(household, "quark")
    assert quark.typical is not None
    assert (quark.food.name, quark.source_kind, "energy_kcal" in quark.own_keys) == ("Quark", "import", True)
    labels.remember_facts(household, "quark", {"price": 1.05})
    assert food_files.apply(household, file_id) == done  # said again, not done again
    assert own_foods.food_page(household, "quark").food.price == 1.05
    with household.transaction() as session:
        assert session.scalars(select(FoodImportRow.content)).all() == [""]


def test_what_is_exported_changes_nothing_when_it_is_taken_in_again(household: Caller) -> None:
    furnish(household)
    labels.remember_facts(household, "quark", {"price": 1.15, "pack_g": 250})
    file_id = uuid4()
    food_files.upload(household, file_id, "out.csv", food_files.export(household).encode())
    assert {row.verdict for row in food_files.report(household, file_id).rows} == {"same"}


def test_a_file_that_fails_half_way_leaves_nothing(household: Caller, monkeypatch: pytest.MonkeyPatch) -> None:
    file_id = uuid4()
    food_files.upload(household, file_id, "foods.csv", FILE.encode())
    real, calls = labels.put_figures, []

    def failing(*args: object) -> bool:
        calls.append(1)
        if len(calls) == 2:
            raise RuntimeError("the power went")
        return real(*args)  # type: ignore[arg-type]

    monkeypatch.setattr(food_files, "put_figures", failing)
    with pytest.raises(RuntimeError, match="power"):
        food_files.apply(household, file_id)
    assert own_foods.count_foods(household)[0] == 0
    assert food_files.report(household, file_id).of("added")  # and it can still be applied


def test_the_searched_text_follows_the_food(household: Caller) -> None:
    key = labels.save_food(household, skyr())
    labels.save_food(household, skyr(id=UUID(key), name="Crème fraîche", version=1, allergens=frozenset()))
    with household.transaction() as session:
        row = session.scalars(select(FoodRow)).one()
        assert row.search_text == " creme fraiche"


def test_what_memory_keeps_follows_each_change_and_nothing_that_was_taken_back(household: Caller) -> None:
    key = labels.save_food(household, skyr())

    def cup() -> str:
        return own_foods.measuring(household, {key}).convention

    assert cup() == "metric"
    set_cups(household, "australian")
    assert cup() == "australian"

    with household.transaction() as session:
        row = session.scalars(select(FoodRow)).one()
        session.get_one(Household, household.household_id).measures, row.name = "us", "Never saved"
        session.flush()
        inside = own_foods.measuring_in(session, {key})
        assert (inside.convention, inside.foods[key].name) == ("us", "Never saved")
        session.rollback()
    # The next change is given the same stamp as the one that was taken back.
    with household.transaction() as session:
        session.get_one(Household, household.household_id).polyol_share = 0.25
    assert cup() == "australian"
    assert own_foods.measuring(household, {key}).foods[key].name != "Never saved"
