"""How an ingredient's weight is known: off a scale, by spoon, left out, as planned; and what went in for another.

Lines say when they go in: what is for later is not asked for at the pot.
"""

from alembic import op

revision = "0052"
down_revision = "0051"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        "ALTER TABLE weighing ADD COLUMN how VARCHAR(12) NOT NULL DEFAULT '', "
        "ADD COLUMN teaspoons INT NOT NULL DEFAULT 0, ADD COLUMN tablespoons INT NOT NULL DEFAULT 0, "
        "ADD CONSTRAINT ck_weighing_spoons CHECK (teaspoons BETWEEN 0 AND 999 AND tablespoons BETWEEN 0 AND 999)"
    )
    op.execute(
        "ALTER TABLE batch_line ADD COLUMN use_at VARCHAR(16) NOT NULL DEFAULT '', ADD COLUMN instead_of UUID NULL, "
        "ADD CONSTRAINT fk_batch_line_household_id_instead_of FOREIGN KEY (household_id, instead_of) "
        "REFERENCES batch_line (household_id, id)"
    )


def downgrade() -> None:
    op.execute("ALTER TABLE batch_line DROP CONSTRAINT fk_batch_line_household_id_instead_of")
    op.execute("ALTER TABLE batch_line DROP COLUMN use_at, DROP COLUMN instead_of")
    op.execute("ALTER TABLE weighing DROP CONSTRAINT ck_weighing_spoons")
    op.execute("ALTER TABLE weighing DROP COLUMN how, DROP COLUMN teaspoons, DROP COLUMN tablespoons")
