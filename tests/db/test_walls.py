"""The walls of the database: scoping that cannot be forgotten, a log that cannot be changed, tables that match."""

import subprocess
import sys
from uuid import uuid4

import pytest
from alembic import command
from sqlalchemy import delete, insert, select, text, update
from sqlalchemy.exc import DatabaseError, IntegrityError

from goodcrate.core.shop.shelf import BOUGHT, ShelfEvent
from goodcrate.db.cook import WeighingRow
from goodcrate.db.foods import FoodRow
from goodcrate.db.migrate import alembic_config
from goodcrate.db.recipes import ComponentRow, RecipeRow
from goodcrate.db.server import EmbeddedServer
from goodcrate.db.session import Database, UnscopedQuery
from goodcrate.db.shop import InsteadRow, ShelfEventRow
from goodcrate.services import accounts
from goodcrate.services.calling import Caller
from goodcrate.services.cook import cooking
from goodcrate.services.foods import labels, own_foods
from goodcrate.services.recipes import library
from goodcrate.services.shop import shelf
from goodcrate.services.shop.taking_instead import Swap, take_instead
from goodcrate.services.week import weeks
from tests.services.kitchen import MONDAY, furnish


@pytest.fixture
def neighbour(database: Database) -> Caller:
    return accounts.add_household(database, "Next mooring", f"n-{uuid4().hex[:10]}", "another-long-password")


def test_a_household_sees_its_own_rows_only(household: Caller, neighbour: Caller) -> None:
    kitchen = furnish(household)
    with neighbour.transaction() as session:
        assert session.scalars(select(RecipeRow)).all() == []
        assert session.scalars(select(RecipeRow).where(RecipeRow.id == kitchen.recipe_id)).all() == []
        assert session.find(RecipeRow, kitchen.recipe_id) is None
        assert session.get(RecipeRow, (household.household_id, kitchen.recipe_id)) is None
        assert session.execute(select(RecipeRow.name)).all() == []
        assert session.execute(update(RecipeRow).values(name="taken")).rowcount == 0  # type: ignore[attr-defined]
        assert session.execute(delete(RecipeRow)).rowcount == 0  # type: ignore[attr-defined]
    assert library.get_recipe(household, kitchen.recipe_id).recipe.name == "Turkey pot"


def test_household_rows_cannot_be_asked_for_without_a_household(database: Database, household: Caller) -> None:
    with database.accounts() as session, pytest.raises(UnscopedQuery):
        session.scalars(select(RecipeRow)).all()
    with household.transaction() as session, pytest.raises(UnscopedQuery):
        session.execute(text("SELECT * FROM recipe"))
    with household.transaction() as session, pytest.raises(UnscopedQuery):
        session.execute(select(RecipeRow.__table__))


def test_a_row_of_another_household_cannot_be_written(household: Caller, neighbour: Caller) -> None:
    row = RecipeRow(household_id=household.household_id, id=uuid4(), name="stray", servings=1, version=1)
    with pytest.raises(UnscopedQuery), neighbour.transaction() as session:
        session.add(row)


def test_the_database_refuses_a_row_that_points_into_another_household(household: Caller, neighbour: Caller) -> None:
    kitchen = furnish(household)
    with pytest.raises(IntegrityError, match="foreign key"), neighbour.transaction() as session:
        session.add(ComponentRow(id=uuid4(), recipe_id=kitchen.recipe_id, name="stray", position=0))


def test_weighings_can_be_added_and_never_changed_or_deleted(household: Caller, server: EmbeddedServer) -> None:
    furnish(household)
    picture = weeks.week_picture(household, MONDAY)
    assert picture is not None
    plan = picture.outcome.batches[0].plan
    batch_id = cooking.batch_id_for(picture.week.id, plan.session_key, plan.component_key)
    cooking.start_batch(household, MONDAY, batch_id)
    with household.transaction() as session:
        cooking.log(session, household, uuid4(), batch_id=batch_id, kind="pot", net_g=900)
    for statement in (update(WeighingRow).values(net_g=1), delete(WeighingRow)):
        with pytest.raises(DatabaseError, match="append-only"), household.transaction() as session:
            session.execute(statement)
    with household.transaction() as session:
        assert len(session.scalars(select(WeighingRow)).all()) == 1


def test_what_was_said_at_the_shelf_stays(household: Caller) -> None:
    furnish(household)
    shelf.note(household, MONDAY, uuid4(), ShelfEvent("cabbage_raw", BOUGHT, 900), MONDAY)
    for statement in (update(ShelfEventRow).values(grams=1), delete(ShelfEventRow)):
        with pytest.raises(DatabaseError, match="stays"), household.transaction() as session:
            session.execute(statement)
    with household.transaction() as session:
        assert [float(row.grams or 0) for row in session.scalars(select(ShelfEventRow))] == [900]


def test_a_week_takes_one_food_instead_of_another_at_a_time(household: Caller) -> None:
    furnish(household)
    for other in ("carrot_raw", "parsnip_raw"):
        take_instead(household, MONDAY, uuid4(), Swap("cabbage_raw", other), MONDAY)
    with household.transaction() as session:
        rows = session.scalars(select(InsteadRow)).all()
        assert sorted(row.live or 0 for row in rows) == [0, 1]
        (live,) = [row for row in rows if row.live]
    ids = {"week_id": live.week_id, "food_id": live.food_id, "instead_id": live.instead_id}
    with pytest.raises(IntegrityError), household.transaction() as session:
        session.add(InsteadRow(id=uuid4(), live=1, **ids))


def test_the_newest_tables_are_those_of_the_models(server: EmbeddedServer) -> None:
    command.check(alembic_config(server.url))


def test_a_fresh_process_sees_every_table_of_the_models(server: EmbeddedServer) -> None:
    """Models that only other tests import would hide a table the list of models omits."""
    check = (
        "import sys; from alembic import command; from goodcrate.db.migrate import alembic_config; "
        "command.check(alembic_config(sys.argv[1]))"
    )
    done = subprocess.run([sys.executable, "-c", check, server.url], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stdout + done.stderr


def test_errors_and_allergens_are_stored_by_name(household: Caller) -> None:
    """One more nutrient or allergen leaves every stored label readable."""
    label = {"basis": "100g", "fibre": "apart", "energy_kcal": "62", "protein_g": "11"}
    key = labels.save_food(household, labels.FoodInput(uuid4(), "Skyr", label, group="dairy"))
    with household.transaction() as session:
        row = session.scalars(select(FoodRow)).one()
        assert row.figure_errors is not None
        row.figure_errors = {k: v for k, v in row.figure_errors.items() if k != "omega6_g"}  # as before a nutrient more
    errors = own_foods.food_page(household, key).food.composition.errors_per_100_g
    assert errors[0] == pytest.approx(0.289, abs=0.001)
    assert errors[-1] == 0


def test_the_tables_are_those_the_app_knows(tmp_path: object) -> None:
    from pathlib import Path

    from goodcrate.db.migrate import upgrade
    from goodcrate.db.server import running

    assert isinstance(tmp_path, Path)
    with running(EmbeddedServer(tmp_path / "other", durable=False)) as other:
        upgrade(other.url)
        command.check(alembic_config(other.url))


def test_too_long_and_negative_values_are_refused_not_cut(household: Caller) -> None:
    with pytest.raises(DatabaseError, match="too long"), household.transaction() as session:
        session.add(RecipeRow(id=uuid4(), name="x" * 161, servings=1, version=1))
    with pytest.raises(DatabaseError), household.transaction() as session:
        session.execute(
            insert(RecipeRow).values(household_id=household.household_id, id=uuid4(), name="n", servings="many")
        )
