"""A household's cups and spoons, and the share of polyols it takes off net carbohydrate."""

from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        "ALTER TABLE household ADD COLUMN measures VARCHAR(12) NOT NULL DEFAULT 'metric', "
        "ADD COLUMN polyol_share DOUBLE NOT NULL DEFAULT 0.5"
    )


def downgrade() -> None:
    op.execute("ALTER TABLE household DROP COLUMN measures, DROP COLUMN polyol_share")
