"""A cut-off upgrade starts again by itself, with the data it found; a first filling is whole or not."""

import gzip
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from tempfile import NamedTemporaryFile

import pytest
from sqlalchemy import Engine, create_engine, event, text

from goodcrate.db.dump import load_dump
from goodcrate.db.migrate import COPIES, MARK, alembic_config, bring_up, upgrade
from goodcrate.db.server import DatabaseFailed, EmbeddedServer, running
from goodcrate.db.whole import owned_tables

OLD = "0037"
"""The release whose dump is upgraded here: the demo household as that version left it."""
BOAT = "The Lockside boat"
DUMPS = Path(__file__).parent / "releases"
HOUSEHOLD = "INSERT INTO household (id, name, created_at) VALUES (UNHEX(REPLACE(UUID(), '-', '')), 'Lockside', NOW(6))"


@pytest.fixture(scope="module")
def url(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    with running(EmbeddedServer(tmp_path_factory.mktemp("old"), durable=False)) as server:
        yield server.url


@contextmanager
def cut_off_after(changes: int) -> Iterator[list[str]]:
    """Whoever sends one more change than so many breaks off, as if it were killed; answers the changes seen."""
    seen: list[str] = []

    def count(_connection: object, _cursor: object, statement: str, *_: object) -> None:
        if statement.split(maxsplit=1)[0].upper() in (
            "ALTER",
            "CREATE",
            "DROP",
            "UPDATE",
            "INSERT",
            "DELETE",
            "RENAME",
        ):
            seen.append(statement)
            if len(seen) > changes:
                raise KeyboardInterrupt

    event.listen(Engine, "before_cursor_execute", count)
    try:
        yield seen
    finally:
        event.remove(Engine, "before_cursor_execute", count)


def rows(url: str, statement: str) -> list[tuple[object, ...]]:
    engine = create_engine(url)
    with engine.connect() as connection:
        connection.execute(text("SET SESSION sql_mode = ''"))  # what a row of an older table lacks gets its default
        answer = connection.execute(text(statement))
        found = [tuple(row) for row in answer] if answer.returns_rows else []
        connection.commit()
    engine.dispose()
    return found


def emptied(url: str) -> None:
    engine = create_engine(url)
    with engine.begin() as connection:
        connection.execute(text("SET FOREIGN_KEY_CHECKS = 0"))
        for (table,) in connection.execute(text("SHOW TABLES")).all():
            connection.execute(text(f"DROP TABLE `{table}`"))
    engine.dispose()


def old_household(url: str, dump: Path = DUMPS / f"{OLD}.sql.gz") -> None:
    """A database as an older Good Crate left it, with the demo household in it."""
    emptied(url)
    with NamedTemporaryFile(suffix=".sql") as file:
        file.write(gzip.decompress(dump.read_bytes()))
        file.flush()
        load_dump(url, Path(file.name))


def newest() -> str:
    from alembic.script import ScriptDirectory

    return str(ScriptDirectory.from_config(alembic_config("")).get_current_head())


def test_an_upgrade_cut_off_at_any_change_is_rolled_back_and_done(url: str, tmp_path: Path) -> None:
    old_household(url)
    with cut_off_after(10_000) as all_changes:
        upgrade(url)
    assert len(all_changes) > 5
    tables = rows(url, "SELECT table_name, column_name FROM information_schema.columns WHERE table_schema = DATABASE()")
    for cut in sorted({0, 1, 2, len(all_changes) // 2, len(all_changes) - 1}):
        old_household(url)
        folder, said = tmp_path / str(cut), list[str]()
        with cut_off_after(cut), pytest.raises(KeyboardInterrupt):
            bring_up(url, folder, said.append)
        assert (folder / MARK).exists()
        assert said == []
        bring_up(url, folder, said.append)
        assert "The copy made before it is back" in said[0]
        assert not (folder / MARK).exists()
        assert rows(url, "SELECT version_num FROM alembic_version") == [(newest(),)]
        assert rows(url, "SELECT name FROM household") == [(BOAT,)]
        assert sorted(tables) == sorted(
            rows(url, "SELECT table_name, column_name FROM information_schema.columns WHERE table_schema = DATABASE()")
        )


def test_a_first_start_cut_off_at_any_change_begins_again(url: str, tmp_path: Path) -> None:
    emptied(url)
    with cut_off_after(10_000) as all_changes:
        upgrade(url)
    for cut in (1, len(all_changes) // 2, len(all_changes) - 1):
        emptied(url)
        folder, said = tmp_path / str(cut), list[str]()
        with cut_off_after(cut), pytest.raises(KeyboardInterrupt):
            bring_up(url, folder, said.append)
        bring_up(url, folder, said.append)
        assert said == ["The first start was cut off before it was done: it begins again."]
        assert rows(url, "SELECT version_num FROM alembic_version") == [(newest(),)]


def test_orders_of_arrival_are_counted_without_a_cache(url: str) -> None:
    """Servers of one cluster, each with a cache of its own, would number later entries lower."""
    counted = {table.order.name for table in owned_tables().values() if table.order is not None}
    assert len(counted) == 5
    for before in (emptied, old_household):
        before(url)
        upgrade(url)
        for order in counted:
            assert rows(url, f"SELECT cache_size FROM `{order}`") == [(0,)], order  # noqa: S608 — our own names


def test_what_comes_next_in_the_log_is_kept_by_a_copy(url: str, tmp_path: Path) -> None:
    old_household(url)
    rows(url, "SELECT SETVAL(weighing_order, 70000)")
    with cut_off_after(3), pytest.raises(KeyboardInterrupt):
        bring_up(url, tmp_path, print)
    bring_up(url, tmp_path, print)
    assert int(str(rows(url, "SELECT NEXTVAL(weighing_order)")[0][0])) > 70_000


def test_a_copy_that_was_half_put_back_is_put_back_again(url: str, tmp_path: Path) -> None:
    old_household(url)
    with cut_off_after(3), pytest.raises(KeyboardInterrupt):
        bring_up(url, tmp_path, print)
    emptied(url)  # as if the power went while the copy was being put back
    said: list[str] = []
    bring_up(url, tmp_path, said.append)
    assert rows(url, "SELECT name FROM household") == [(BOAT,)]
    assert [p.name for p in (tmp_path / COPIES).iterdir()] == [f"{OLD}.sql"]
    assert (tmp_path / COPIES / f"{OLD}.sql").stat().st_mode & 0o777 == 0o600
    before = list(said)
    bring_up(url, tmp_path, said.append)  # nothing to do: nothing is said, no copy is made
    assert said == before


def test_a_first_filling_is_whole_or_not_there(url: str, tmp_path: Path) -> None:
    emptied(url)
    bring_up(url, tmp_path, print)

    def half() -> None:
        rows(url, HOUSEHOLD)
        raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        bring_up(url, tmp_path, print, half)
    assert len(rows(url, "SELECT name FROM household")) == 1
    said: list[str] = []
    bring_up(url, tmp_path, said.append)
    assert said == ["The first start was cut off before it was done: it begins again."]
    assert rows(url, "SELECT name FROM household") == []
    bring_up(url, tmp_path, print, lambda: rows(url, HOUSEHOLD))
    assert len(rows(url, "SELECT name FROM household")) == 1
    assert not (tmp_path / MARK).exists()


def test_data_of_a_newer_app_is_left_alone(url: str, tmp_path: Path) -> None:
    emptied(url)
    upgrade(url)
    rows(url, "UPDATE alembic_version SET version_num = '9999'")
    with pytest.raises(DatabaseFailed, match="newer Good Crate"):
        bring_up(url, tmp_path, print)
    assert rows(url, "SELECT version_num FROM alembic_version") == [("9999",)]


def test_data_too_old_to_be_upgraded_is_left_alone(url: str, tmp_path: Path) -> None:
    emptied(url)
    upgrade(url)
    rows(url, "UPDATE alembic_version SET version_num = '0029'")
    with pytest.raises(DatabaseFailed, match="table version 0037 on it first"):
        bring_up(url, tmp_path, print)


@pytest.mark.parametrize("dump", sorted(DUMPS.glob("*.sql.gz")), ids=lambda p: p.name)
def test_a_household_of_each_release_is_upgraded_to_the_tables_of_today(url: str, dump: Path, tmp_path: Path) -> None:
    """The same tables as a new household gets, and nothing of the household is lost."""
    shape = (
        "SELECT table_name, column_name, column_type, is_nullable, column_default FROM information_schema.columns "
        "WHERE table_schema = DATABASE() ORDER BY 1, 2"
    )
    rules = (
        "SELECT table_name, constraint_name FROM information_schema.table_constraints WHERE table_schema = DATABASE()"
    )
    emptied(url)
    upgrade(url)
    fresh, fresh_rules = rows(url, shape), sorted(rows(url, rules))
    old_household(url, dump)
    counted = {t: rows(url, f"SELECT COUNT(*) FROM `{t}`")[0] for t in ("placement", "weighing", "recipe", "food")}  # noqa: S608
    bring_up(url, tmp_path, print)
    assert (rows(url, shape), sorted(rows(url, rules))) == (fresh, fresh_rules)
    assert counted == {t: rows(url, f"SELECT COUNT(*) FROM `{t}`")[0] for t in counted}  # noqa: S608
    assert min(counted.values()) > (0,)


def test_boxes_that_were_a_number_become_things(url: str, tmp_path: Path) -> None:
    """Two boxes of soup, one of them eaten by a meal; the packed boxes with what was weighed into them; pots."""
    old_household(url, DUMPS / "0041.sql.gz")
    packed = rows(url, "SELECT placement_id FROM box ORDER BY placement_id")
    (soup, grams), *_ = rows(url, "SELECT id, grams FROM in_the_house WHERE recipe_id IS NOT NULL")
    weighed = "SELECT SUM(net_g), COUNT(*) FROM weighing WHERE kind = '{}'"
    before = {kind: rows(url, weighed.format(kind)) for kind in ("box", "pot", "ingredient")}
    bring_up(url, tmp_path, print)
    assert rows(url, "SELECT packed_for FROM box WHERE packed_for IS NOT NULL ORDER BY packed_for") == packed
    lot = f"SELECT id FROM box WHERE lot = '{soup}'"  # noqa: S608
    assert len(rows(url, lot)) == 2
    assert rows(url, f"SELECT planned_g FROM box_content WHERE box_id IN ({lot})") == [(grams,)] * 2  # noqa: S608
    live = rows(url, "SELECT from_box FROM placement WHERE from_box IS NOT NULL AND live = 1")
    gone = rows(url, "SELECT from_box FROM placement WHERE from_box IS NOT NULL AND live IS NULL")
    assert len(live) == len(gone) == 1
    assert sorted(live + gone) == sorted(rows(url, lot))
    assert {kind: rows(url, weighed.format(kind)) for kind in before} == before
    subjects = "SELECT COUNT(*) FROM weighing WHERE (kind = 'box') <> (content_id IS NOT NULL)"
    assert rows(url, subjects) == rows(url, subjects.replace("box", "pot").replace("content", "pot")) == [(0,)]
    assert rows(url, "SELECT COUNT(*) FROM batch b WHERE NOT EXISTS (SELECT 1 FROM pot p WHERE p.batch_id = b.id)") == [
        (0,)
    ]
    log = "SELECT kind, COUNT(*) FROM box_event GROUP BY kind"
    assert rows(url, log) == [("packed", len(packed) + 2)]
