"""Shelves and drawers the household names, and the boxes that were put on them."""

from alembic import op

revision = "0058"
down_revision = "0057"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        "CREATE TABLE shelf (household_id UUID NOT NULL, id UUID NOT NULL, PRIMARY KEY (household_id, id), "
        "name VARCHAR(40) NOT NULL, place VARCHAR(10) NOT NULL, position INT NOT NULL, boxes INT NULL, "
        "litres DOUBLE NULL, live INT NULL, "
        "CONSTRAINT fk_shelf_household_id FOREIGN KEY (household_id) REFERENCES household (id), "
        "CONSTRAINT ck_shelf_bounds CHECK (litres BETWEEN 0.1 AND 1000), "
        "CONSTRAINT ck_shelf_boxes CHECK (boxes BETWEEN 1 AND 200)) CHARSET=utf8mb4"
    )
    op.execute(
        "ALTER TABLE box_event ADD COLUMN shelf_id UUID NULL, "
        "ADD CONSTRAINT fk_box_event_household_id_shelf_id FOREIGN KEY (household_id, shelf_id) "
        "REFERENCES shelf (household_id, id)"
    )


def downgrade() -> None:
    op.execute("ALTER TABLE box_event DROP CONSTRAINT fk_box_event_household_id_shelf_id")
    op.execute("ALTER TABLE box_event DROP COLUMN shelf_id")
    op.execute("DROP TABLE shelf")
