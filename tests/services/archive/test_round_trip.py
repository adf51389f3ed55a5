"""Out of one household into another: the same figures to the last digit, whoever had been there."""

import json
import zipfile
from collections.abc import Iterator
from datetime import date, timedelta
from io import BytesIO
from typing import Any
from uuid import uuid4

import jsonschema
import pytest
from sqlalchemy import select, text
from sqlalchemy.exc import DBAPIError

from goodcrate.core.ground.errors import InvalidInput
from goodcrate.core.recipes.equipment import Equipment
from goodcrate.db.accounts import Household, UserAccount
from goodcrate.db.recipes import RecipeRow
from goodcrate.db.session import Database
from goodcrate.db.store import BoxRow, household_with_box
from goodcrate.db.week import PlacementRow
from goodcrate.db.whole import owned_tables, take_out_household
from goodcrate.demo.eaten import live_last_week
from goodcrate.demo.load import load_demo
from goodcrate.services import accounts, kitchen, people
from goodcrate.services.archive import work
from goodcrate.services.archive.export import write_archive
from goodcrate.services.archive.restore import KEPT_AWAY, kept_until, let_go, move_in, take_back
from goodcrate.services.archive.schema import schema_texts
from goodcrate.services.archive.tables import LEFT_OUT, OWNER, shapes
from goodcrate.services.archive.weeks_csv import first_days, meals_of_week
from goodcrate.services.calling import Caller, utc_now
from goodcrate.services.recipes import habits as habits_of_lines
from goodcrate.services.recipes import starter_shelf
from goodcrate.services.review.learned import learned_of
from goodcrate.services.review.taking import cards
from goodcrate.services.review.week_story import week_story
from goodcrate.services.shop import habits
from goodcrate.services.targets import household_eaters
from goodcrate.services.week.weeks import week_picture
from goodcrate.settings import CHECKOUT
from goodcrate.shelf.all_recipes import SHELF
from goodcrate.web.review.out import rows_of
from tests.conftest import MONDAY, PASSWORD
from tests.services.kitchen import furnish


@pytest.fixture(scope="module")
def lived(database: Database) -> Caller:
    """A household with a week that was eaten and closed, and one that is cooked."""
    caller = load_demo(database, MONDAY, f"lived-{uuid4().hex[:8]}")
    live_last_week(caller, MONDAY)
    return caller


@pytest.fixture(scope="module")
def archive(lived: Caller) -> bytes:
    return archive_of(lived)


def archive_of(caller: Caller) -> bytes:
    file = BytesIO()
    write_archive(caller, file)
    return file.getvalue()


def stored(packed: bytes) -> dict[str, str]:
    """What an archive says of the household itself, member by member."""
    with zipfile.ZipFile(BytesIO(packed)) as zipped:
        return {name: zipped.read(name).decode() for name in zipped.namelist() if name.startswith("data/")}


def all_figures(caller: Caller) -> Iterator[Any]:
    """Every box, day and review of every week, as the pages work them out."""
    yield [(e.name, e.day_types, e.slots) for e in household_eaters.list_eaters(caller)]
    for first_day in first_days(caller):
        picture = week_picture(caller, first_day)
        assert picture is not None
        yield picture.outcome.boxes
        yield meals_of_week(caller, first_day)
        story = week_story(caller, picture)
        yield story.days
        learned = learned_of(caller, story)
        yield list(rows_of(story, learned, cards(caller, story, learned)))


def test_restored_elsewhere_every_box_day_and_review_is_the_same(
    lived: Caller, archive: bytes, household: Caller
) -> None:
    beside = work.take_in(household, BytesIO(archive), work.ARCHIVE_WINS)
    move_in(household, beside)
    assert stored(archive_of(beside)) == stored(archive)
    there, here = list(all_figures(beside)), list(all_figures(lived))
    assert len(here) == 9
    assert there == here
    assert any(day.is_said for day in here[3]), "a week that was eaten is among them"


def test_what_came_with_the_product_is_known_again(neighbour: Caller, household: Caller) -> None:
    starter_shelf.take(neighbour, list(SHELF)[:3])
    kitchen.save_equipment(neighbour, Equipment({"burners": 4}))
    habits_of_lines.remember(neighbour, {"a scoop of the white stuff": "carrot_raw"})
    beside = work.take_in(household, BytesIO(archive_of(neighbour)), work.ARCHIVE_WINS)
    assert [o.key for o in starter_shelf.offers(beside) if o.is_taken] == list(SHELF)[:3]
    assert starter_shelf.take(beside, list(SHELF)[:3]) == 0
    habits_of_lines.remember(beside, {"a scoop of the white stuff": "cabbage_raw"})
    kitchen.save_equipment(beside, Equipment({"burners": 2}))
    again = archive_of(beside)
    moved = work.take_in(household, BytesIO(again), work.ARCHIVE_WINS)
    assert stored(archive_of(moved)) == stored(again), "also out of what was taken in"
    assert [o.key for o in starter_shelf.offers(moved) if o.is_taken] == list(SHELF)[:3]
    assert '"food_key":"cabbage_raw"' in stored(again)["data/line_habit.jsonl"]


def test_the_people_move_in_and_one_click_takes_them_back(
    archive: bytes, household: Caller, database: Database
) -> None:
    there = furnish(household)
    before = stored(archive_of(household))
    beside = work.take_in(household, BytesIO(archive), work.ARCHIVE_WINS)
    move_in(household, beside)
    assert home_of(database, household) == beside.household_id
    until = kept_until(beside)
    assert until is not None
    assert until - utc_now() > KEPT_AWAY - timedelta(minutes=5)
    assert take_back(beside, utc_now())
    assert home_of(database, household) == household.household_id
    assert stored(archive_of(household)) == before
    assert not take_back(household, utc_now()), "there is nothing more to take back"
    assert week_picture(household, MONDAY) is not None, there


def test_what_was_put_away_is_let_go_after_its_days_and_logs_with_it(
    archive: bytes, household: Caller, lived: Caller, database: Database
) -> None:
    before = stored(archive_of(lived))
    beside = work.take_in(household, BytesIO(archive), work.ARCHIVE_WINS)
    move_in(household, beside)
    let_go(database, utc_now() + KEPT_AWAY - timedelta(minutes=5))
    assert is_there(database, household), "not before its time"
    let_go(database, utc_now() + KEPT_AWAY + timedelta(minutes=5))
    assert not is_there(database, household)
    assert is_there(database, beside)
    assert not take_back(beside, utc_now())
    assert stored(archive_of(lived)) == before, "nobody else’s rows went with it"


def test_where_what_is_here_wins_only_whole_things_that_are_missing_come(archive: bytes, household: Caller) -> None:
    there = furnish(household)
    before = stored(archive_of(household))
    report = work.reports_on(household, BytesIO(archive))[work.HERE_WINS]
    assert report["counts"]["week"] == 1, "the week from Monday is here, the one before is not"
    assert [why for kind, _, why in report["out"] if kind == "week"] == ["clashes"]
    work.take_in(household, BytesIO(archive), work.HERE_WINS)
    after = stored(archive_of(household))
    for name, lines in before.items():
        assert set(lines.splitlines()) <= set(after[name].splitlines()), f"{name} was changed"
    assert first_days(household) == [MONDAY - timedelta(days=7), MONDAY]
    assert report["rows"] == sum(len(after[n].splitlines()) - len(before[n].splitlines()) for n in after)
    foods = [json.loads(line) for line in after["data/food.jsonl"].splitlines()]
    keys = [food["origin_key"] for food in foods if food["origin_key"]]
    assert len(keys) == len(set(keys)), "a food of the table is there once"
    assert week_picture(household, MONDAY) is not None
    assert there.eater_id in {e.id for e in household_eaters.list_eaters(household)}
    again = work.reports_on(household, BytesIO(archive))[work.HERE_WINS]
    assert again["rows"] == 0, "taken in twice, nothing is there twice"


def test_what_is_said_of_a_food_both_have_stays_as_it_is_here(household: Caller, neighbour: Caller) -> None:
    for caller, grams in ((household, 500.0), (neighbour, 900.0)):
        furnish(caller)
        with caller.transaction() as session:
            habits.keep_in(session, "cabbage_raw", grams)
    archive = archive_of(neighbour)
    work.take_in(household, BytesIO(archive), work.HERE_WINS)
    with household.transaction() as session:
        assert habits.floor_of(session, "cabbage_raw") == 500.0
    report = work.reports_on(household, BytesIO(archive))[work.HERE_WINS]
    assert ["floor", "floor", "clashes"] in report["out"]


def test_what_was_lost_since_comes_back_from_an_older_archive(lived: Caller, archive: bytes, household: Caller) -> None:
    move_in(household, beside := work.take_in(household, BytesIO(archive), work.ARCHIVE_WINS))
    with beside.transaction() as session:
        used = {*session.scalars(select(PlacementRow.recipe_id)), *session.scalars(select(BoxRow.recipe_id))}
        lost = session.scalars(select(RecipeRow).where(RecipeRow.id.not_in(used))).first()
        assert lost is not None
        name = lost.name
        session.delete(lost)
    work.take_in(beside, BytesIO(archive), work.HERE_WINS)
    assert f'"name":"{name}"' in stored(archive_of(beside))["data/recipe.jsonl"]


def test_every_line_is_what_its_schema_says(archive: bytes) -> None:
    schemas = json.loads(schema_texts()["archive-1"])
    for name, lines in stored(archive).items():
        table = name.removeprefix("data/").removesuffix(".jsonl")
        check = jsonschema.Draft202012Validator(schemas["$defs"][table])
        for line in lines.splitlines():
            check.validate(json.loads(line))


@pytest.mark.parametrize("name", sorted(schema_texts()))
def test_what_is_published_is_what_is_written(name: str) -> None:
    published = (CHECKOUT / "docs" / "formats" / f"{name}.schema.json").read_text(encoding="utf-8")
    assert published == schema_texts()[name], (
        "another set of columns is another ARCHIVE_FORMAT: count it up, read the old one"
    )


def test_every_table_of_households_is_in_it_or_left_out_for_a_reason() -> None:
    assert set(owned_tables()) == set(shapes()) | set(LEFT_OUT)
    assert set(OWNER) <= set(shapes())
    for table, column in OWNER.items():
        assert shapes()[table].by_name[column].points_to is not None, table


def test_a_household_that_somebody_belongs_to_is_never_taken_out(household: Caller, database: Database) -> None:
    with pytest.raises(ValueError, match="belongs"):
        take_out_household(database.engine, household.household_id)


def test_no_log_is_deleted_but_with_its_household(lived: Caller, database: Database) -> None:
    with database.engine.connect() as connection:
        connection.execute(text("SET @goodcrate_forgets = '00000000-0000-0000-0000-000000000000'"))
        with pytest.raises(DBAPIError, match="append-only"):
            connection.execute(text("DELETE FROM box_event WHERE household_id = :h"), {"h": str(lived.household_id)})


def test_an_answer_to_which_wins_is_asked_for(archive: bytes, household: Caller) -> None:
    with pytest.raises(InvalidInput, match="Which wins"):
        work.take_in(household, BytesIO(archive), "both")


def test_an_archive_of_an_empty_household_comes_in_too(household: Caller, neighbour: Caller) -> None:
    empty = archive_of(household)
    beside = work.take_in(neighbour, BytesIO(empty), work.ARCHIVE_WINS)
    assert stored(archive_of(beside)) == stored(empty)
    assert not work.has_data(beside)


def test_whose_box_a_code_is_stays_who_was_here_first(archive: bytes, household: Caller, lived: Caller) -> None:
    move_in(household, work.take_in(household, BytesIO(archive), work.ARCHIVE_WINS))
    box = json.loads(stored(archive)["data/box.jsonl"].splitlines()[0])["id"]
    with household.database.accounts() as session:
        assert household_with_box(session, box) == lived.household_id


def home_of(database: Database, caller: Caller) -> Any:
    with database.accounts() as session:
        return session.get_one(UserAccount, caller.user_id).household_id


def is_there(database: Database, caller: Caller) -> bool:
    with database.accounts() as session:
        return session.get(Household, caller.household_id) is not None


def test_a_first_household_settles_in_with_a_password_of_its_own(archive: bytes, database: Database) -> None:
    beside = work.take_in(people.nobody(database), BytesIO(archive), work.ARCHIVE_WINS)
    name = f"first-{uuid4().hex[:8]}"
    password = people.settle_in(beside, name)
    token, _ = accounts.sign_in(database, name, password, accounts.Door("here"), free=5, days=1)
    signed = accounts.signed_in(database, token)
    assert signed is not None
    assert signed.household_id == beside.household_id
    assert first_days(beside) == [date(2026, 11, 16), MONDAY]
    assert password != PASSWORD
