"""Components know their vessel, how they keep, what is not understood yet, and what pots taught."""

from alembic import op

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        "ALTER TABLE component ADD COLUMN storage JSON NOT NULL DEFAULT '{}', "
        "ADD COLUMN vessel VARCHAR(12) NOT NULL DEFAULT '', ADD COLUMN minimum_ml DOUBLE NULL, "
        "ADD COLUMN pending JSON NOT NULL DEFAULT '[]', ADD COLUMN learned JSON NOT NULL DEFAULT '[]', "
        "ADD COLUMN is_retired BOOL NOT NULL DEFAULT 0"
    )


def downgrade() -> None:
    op.execute(
        "ALTER TABLE component DROP COLUMN storage, DROP COLUMN vessel, DROP COLUMN minimum_ml, DROP COLUMN pending, "
        "DROP COLUMN learned, DROP COLUMN is_retired"
    )
