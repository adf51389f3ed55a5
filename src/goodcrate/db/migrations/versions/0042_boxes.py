"""A box becomes a thing with a log, whether it was packed for a meal or noted as being in the house; batches get pots.

Boxes noted as "so many of a recipe" become so many boxes, put in together; the meals that eat from them name one each.
Weighings point to the pot and to what is in a box, and need no batch. What is open moves into a table of its own.
"""

from itertools import cycle
from uuid import UUID, uuid5

from alembic import op
from sqlalchemy import text

revision = "0042"
down_revision = "0041"
branch_labels = None
depends_on = None

OWNED = "household_id UUID NOT NULL, id UUID NOT NULL, PRIMARY KEY (household_id, id)"
TABLES = (
    f"""CREATE TABLE box (
        recipe_id UUID NOT NULL, vessel_id UUID NULL, packed_for UUID NULL, with_box UUID NULL, lot UUID NOT NULL,
        cooked_on DATE NOT NULL, until DATE NULL, {OWNED},
        KEY ix_box_household_id_lot (household_id, lot))""",
    f"""CREATE TABLE box_content (
        box_id UUID NOT NULL, component_id UUID NULL, batch_id UUID NULL, planned_g DECIMAL(9, 1) NULL,
        position INT NOT NULL, {OWNED},
        CONSTRAINT ck_box_content_bounds CHECK (planned_g BETWEEN 0 AND 1000000))""",
    f"""CREATE TABLE box_event (
        seq BIGINT NOT NULL, box_id UUID NOT NULL, kind VARCHAR(12) NOT NULL, place VARCHAR(10) NOT NULL,
        grams DECIMAL(9, 1) NULL, placement_id UUID NULL, why VARCHAR(160) NOT NULL, undoes UUID NULL,
        user_id UUID NULL, happened_at DATETIME(6) NOT NULL, {OWNED}, UNIQUE KEY uq_box_event_seq (seq),
        CONSTRAINT ck_box_event_bounds CHECK (grams BETWEEN 0 AND 1000000),
        KEY ix_box_event_household_id_box_id_seq (household_id, box_id, seq),
        CONSTRAINT fk_box_event_user_id FOREIGN KEY (user_id) REFERENCES user_account (id))""",
    f"""CREATE TABLE pot (
        batch_id UUID NOT NULL, filling INT NOT NULL, vessel_id UUID NULL, position INT NOT NULL, live INT NULL,
        {OWNED})""",
)
KEYS = {
    "box": {"recipe_id": "recipe", "vessel_id": "vessel", "packed_for": "placement", "with_box": "box"},
    "box_content": {"box_id": "box", "component_id": "component", "batch_id": "batch"},
    "box_event": {"box_id": "box", "placement_id": "placement"},
    "pot": {"batch_id": "batch", "vessel_id": "vessel"},
    "weighing": {"pot_id": "pot", "content_id": "box_content"},
    "placement": {"from_box": "box"},
}
FALLS_WITH = {("box_content", "box_id"), ("pot", "batch_id")}
LOGS = {"weighing": "weighings are append-only", "box_event": "the log of a box is append-only"}


def _keys(table: str) -> None:
    columns = KEYS[table] if table in ("weighing", "placement") else {**KEYS[table], "": ""}
    for column, other in columns.items():
        if not column:
            op.execute(
                f"ALTER TABLE {table} ADD CONSTRAINT fk_{table}_household_id FOREIGN KEY (household_id) "
                "REFERENCES household (id)"
            )
            continue
        falls = " ON DELETE CASCADE" if (table, column) in FALLS_WITH else ""
        op.execute(
            f"ALTER TABLE {table} ADD CONSTRAINT fk_{table}_household_id_{column} FOREIGN KEY (household_id, {column}) "
            f"REFERENCES {other} (household_id, id){falls}"
        )


def upgrade() -> None:
    op.execute("CREATE SEQUENCE box_event_order NOCACHE")
    op.execute("RENAME TABLE box TO box_before")
    for table in TABLES:
        op.execute(table)
    _packed_boxes()
    _boxes_in_the_house()
    _weighings()
    op.execute("DROP TABLE box_before")
    for table in KEYS:
        _keys(table)
    for table, why in LOGS.items():
        for verb in ("UPDATE", "DELETE"):
            op.execute(
                f"CREATE TRIGGER {table}_no_{verb.lower()} BEFORE {verb} ON {table} FOR EACH ROW "
                f"SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = '{why}'"
            )
    op.execute("""
        ALTER TABLE vessel
            ADD COLUMN compartments INT NOT NULL DEFAULT 1 CHECK (compartments BETWEEN 1 AND 6),
            ADD COLUMN stands LONGTEXT CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NULL CHECK (json_valid(stands))""")


def _packed_boxes() -> None:
    """Boxes that were packed for a meal: cooked in the session of what was weighed into them."""
    op.execute("""
        INSERT INTO box (household_id, id, recipe_id, packed_for, lot, cooked_on)
        SELECT b.household_id, b.id, p.recipe_id, p.id, b.id, COALESCE(
            (SELECT MIN(DATE(s.starts_at)) FROM weighing w
             JOIN batch a ON a.household_id = w.household_id AND a.id = w.batch_id
             JOIN prep_session s ON s.household_id = a.household_id AND s.id = a.session_id
             WHERE w.household_id = b.household_id AND w.placement_id = b.placement_id), DATE(b.packed_at))
        FROM box_before b JOIN placement p ON p.household_id = b.household_id AND p.id = b.placement_id""")
    found = op.get_bind().execute(
        text("""
        SELECT DISTINCT w.household_id, b.id AS box_id, w.batch_id, a.component_id FROM weighing w
        JOIN box_before b ON b.household_id = w.household_id AND b.placement_id = w.placement_id
        JOIN batch a ON a.household_id = w.household_id AND a.id = w.batch_id WHERE w.kind = 'box'""")
    )
    for row in found.mappings().all():
        _run(
            "INSERT INTO box_content (household_id, id, box_id, component_id, batch_id, position) "
            "VALUES (:household_id, :id, :box_id, :component_id, :batch_id, 0)",
            id=content_id(row["box_id"], row["component_id"]), **row,
        )  # fmt: skip
    packed = op.get_bind().execute(
        text("""
        SELECT b.household_id, b.id AS box_id, b.packed_at, (
            SELECT COUNT(*) FROM weighing w WHERE w.household_id = b.household_id AND w.placement_id = b.placement_id
            AND w.kind = 'box' AND w.net_g IS NOT NULL AND NOT EXISTS (
                SELECT 1 FROM weighing later WHERE later.household_id = w.household_id AND later.kind = 'box'
                AND later.batch_id = w.batch_id AND later.placement_id = w.placement_id AND later.seq > w.seq)
        ) AS holds FROM box_before b ORDER BY b.packed_at, b.id""")
    )
    for row in packed.mappings().all():
        event_id = uuid5(UUID(str(row["box_id"])), "packed")
        _event(row, event_id, "packed", row["packed_at"])
        if not row["holds"]:
            _event(row, uuid5(event_id, "undone"), "undone", row["packed_at"], undoes=event_id)


def _boxes_in_the_house() -> None:
    """Each box that was noted by number; a meal that eats from them names one, and a live one before one taken out."""
    op.execute("ALTER TABLE placement CHANGE COLUMN from_house from_box UUID NULL")
    bind = op.get_bind()
    noted = bind.execute(text("SELECT * FROM in_the_house WHERE recipe_id IS NOT NULL ORDER BY since, id"))
    for lot in noted.mappings().all():
        lot_id = UUID(str(lot["id"]))
        boxes = [uuid5(lot_id, f"box:{n}") for n in range(lot["count"])]
        for box_id in boxes:
            row = {"household_id": lot["household_id"], "box_id": box_id}
            _run(
                "INSERT INTO box (household_id, id, recipe_id, lot, cooked_on, until) "
                "VALUES (:household_id, :box_id, :recipe_id, :lot, :since, :until)",
                **row, recipe_id=lot["recipe_id"], lot=lot_id, since=lot["since"], until=lot["until"],
            )  # fmt: skip
            _run(
                "INSERT INTO box_content (household_id, id, box_id, planned_g, position) "
                "VALUES (:household_id, :id, :box_id, :grams, 0)",
                **row, id=content_id(box_id, None), grams=lot["grams"],
            )  # fmt: skip
            _event(row, uuid5(box_id, "packed"), "packed", lot["since"], place=lot["place"])
            if lot["live"] is None:
                _event(row, uuid5(box_id, "taken_out"), "taken_out", lot["since"])
        eaters = bind.execute(
            text(
                "SELECT id FROM placement WHERE household_id = :household AND from_box = :lot "
                "ORDER BY live IS NULL, day, id"
            ),
            {"household": lot["household_id"], "lot": lot_id},
        )
        for placement_id, box_id in zip(list(eaters.scalars()), cycle(boxes), strict=False):
            _run(
                "UPDATE placement SET from_box = :box_id WHERE household_id = :household_id AND id = :id",
                household_id=lot["household_id"], box_id=box_id, id=placement_id,
            )  # fmt: skip
    op.execute("""
        UPDATE placement p SET from_box = NULL WHERE from_box IS NOT NULL AND NOT EXISTS
            (SELECT 1 FROM box b WHERE b.household_id = p.household_id AND b.id = p.from_box)""")
    op.execute("DELETE FROM in_the_house WHERE recipe_id IS NOT NULL")
    op.execute("ALTER TABLE in_the_house DROP CONSTRAINT ck_in_the_house_one_thing")
    for column in ("household_id_recipe_id", "household_id_food_id", "household_id"):
        op.execute(f"ALTER TABLE in_the_house DROP FOREIGN KEY fk_in_the_house_{column}")
    op.execute("ALTER TABLE in_the_house DROP CONSTRAINT IF EXISTS ck_in_the_house_bounds")
    op.execute("""
        ALTER TABLE in_the_house DROP KEY fk_in_the_house_household_id_recipe_id,
            DROP KEY fk_in_the_house_household_id_food_id, DROP COLUMN recipe_id, DROP COLUMN count,
            MODIFY food_id UUID NOT NULL""")
    op.execute("RENAME TABLE in_the_house TO open_food")
    op.execute("""
        ALTER TABLE open_food ADD CONSTRAINT ck_open_food_bounds CHECK (grams BETWEEN 0.1 AND 1000000),
            ADD CONSTRAINT fk_open_food_household_id FOREIGN KEY (household_id) REFERENCES household (id),
            ADD CONSTRAINT fk_open_food_household_id_food_id
                FOREIGN KEY (household_id, food_id) REFERENCES food (household_id, id)""")


def _weighings() -> None:
    """Every batch has one pot so far; what was weighed of a box is weighed of what is in it."""
    bind = op.get_bind()
    for row in bind.execute(text("SELECT household_id, id FROM batch")).mappings().all():
        _run(
            "INSERT INTO pot (household_id, id, batch_id, filling, position, live) "
            "VALUES (:household_id, :pot_id, :id, 1, 0, 1)",
            **row, pot_id=uuid5(UUID(str(row["id"])), "pot:0"),
        )  # fmt: skip
    for verb in ("update", "delete"):
        op.execute(f"DROP TRIGGER weighing_no_{verb}")
    op.execute("""
        ALTER TABLE weighing ADD COLUMN pot_id UUID NULL, ADD COLUMN content_id UUID NULL,
            MODIFY batch_id UUID NULL""")
    op.execute("""
        UPDATE weighing w JOIN pot p ON p.household_id = w.household_id AND p.batch_id = w.batch_id
        SET w.pot_id = p.id WHERE w.kind = 'pot'""")
    op.execute("""
        UPDATE weighing w JOIN box b ON b.household_id = w.household_id AND b.packed_for = w.placement_id
        JOIN box_content c ON c.household_id = b.household_id AND c.box_id = b.id AND c.batch_id = w.batch_id
        SET w.content_id = c.id WHERE w.kind = 'box'""")
    op.execute("ALTER TABLE weighing DROP FOREIGN KEY fk_weighing_household_id_placement_id")
    op.execute("ALTER TABLE weighing DROP KEY fk_weighing_household_id_placement_id, DROP COLUMN placement_id")


def content_id(box_id: object, component_id: object | None) -> UUID:
    return uuid5(UUID(str(box_id)), f"content:{component_id or ''}")


def _event(
    row: object, event_id: UUID, kind: str, at: object, *, place: str = "", undoes: UUID | None = None
) -> None:
    _run(
        "INSERT INTO box_event (household_id, id, seq, box_id, kind, place, why, undoes, happened_at) "
        "VALUES (:household_id, :event_id, NEXT VALUE FOR box_event_order, :box_id, :kind, :place, '', :undoes, :at)",
        household_id=row["household_id"], box_id=row["box_id"],  # type: ignore[index]
        event_id=event_id, kind=kind, place=place, undoes=undoes, at=at,
    )  # fmt: skip


def _run(statement: str, **values: object) -> None:
    values = {name: str(value) if isinstance(value, UUID) else value for name, value in values.items()}
    op.get_bind().execute(text(statement), values)


def downgrade() -> None:
    raise RuntimeError("A box that is a thing cannot become a number again.")
