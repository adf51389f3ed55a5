"""Portioning: what became of what is left in a pot, pieces counted, and how a batch is divided."""

from alembic import op

revision = "0054"
down_revision = "0053"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        "ALTER TABLE weighing ADD COLUMN rest_as VARCHAR(12) NOT NULL DEFAULT '', "
        "ADD COLUMN pieces INT NOT NULL DEFAULT 0, "
        "ADD CONSTRAINT ck_weighing_pieces CHECK (pieces BETWEEN 0 AND 999)"
    )
    op.execute(
        "ALTER TABLE batch ADD COLUMN pieces INT NULL, ADD COLUMN piece_kind VARCHAR(8) NOT NULL DEFAULT 'piece', "
        "ADD COLUMN short_for UUID NULL, ADD COLUMN step_g INT NOT NULL DEFAULT 1, "
        "ADD CONSTRAINT ck_batch_pieces CHECK (pieces BETWEEN 1 AND 999), "
        "ADD CONSTRAINT ck_batch_step CHECK (step_g IN (1, 5)), "
        "ADD CONSTRAINT fk_batch_household_id_short_for FOREIGN KEY (household_id, short_for) "
        "REFERENCES placement (household_id, id)"
    )


def downgrade() -> None:
    op.execute("ALTER TABLE batch DROP CONSTRAINT fk_batch_household_id_short_for, DROP CONSTRAINT ck_batch_pieces")
    op.execute("ALTER TABLE batch DROP CONSTRAINT ck_batch_step")
    op.execute("ALTER TABLE batch DROP COLUMN pieces, DROP COLUMN piece_kind, DROP COLUMN short_for, DROP COLUMN step_g")
    op.execute("ALTER TABLE weighing DROP CONSTRAINT ck_weighing_pieces")
    op.execute("ALTER TABLE weighing DROP COLUMN rest_as, DROP COLUMN pieces")
