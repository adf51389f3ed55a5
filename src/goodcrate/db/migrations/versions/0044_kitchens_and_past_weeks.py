"""What a kitchen cooks with, and what a week that is over was judged by."""

from alembic import op

revision = "0044"
down_revision = "0043"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("""
        CREATE TABLE equipment (
            kind VARCHAR(20) NOT NULL, count INT NOT NULL CHECK (count BETWEEN 0 AND 1000),
            household_id UUID NOT NULL, id UUID NOT NULL, PRIMARY KEY (household_id, id),
            UNIQUE KEY uq_equipment_household_id_kind (household_id, kind),
            CONSTRAINT fk_equipment_household_id FOREIGN KEY (household_id) REFERENCES household (id))""")
    op.execute("""
        ALTER TABLE week ADD COLUMN closed_at DATETIME(6) NULL,
            ADD COLUMN judged_by LONGTEXT CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NULL
                CHECK (json_valid(judged_by))""")


def downgrade() -> None:
    op.execute("DROP TABLE equipment")
    op.execute("ALTER TABLE week DROP COLUMN closed_at, DROP COLUMN judged_by")
