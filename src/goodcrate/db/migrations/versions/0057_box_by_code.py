"""A box is found by its code alone: whoever holds it may read what it is and how it is heated."""

from alembic import op

revision = "0057"
down_revision = "0056"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("CREATE INDEX ix_box_id ON box (id)")


def downgrade() -> None:
    op.execute("DROP INDEX ix_box_id ON box")
