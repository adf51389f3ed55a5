"""How long a prep session takes, and when its food is ready: stored, so that a run sheet can say better."""

from alembic import op

revision = "0041"
down_revision = "0040"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("""
        ALTER TABLE prep_session
            ADD COLUMN IF NOT EXISTS length_min INT NOT NULL DEFAULT 120 CHECK (length_min BETWEEN 1 AND 1440),
            ADD COLUMN IF NOT EXISTS ready_at DATETIME NULL""")


def downgrade() -> None:
    op.execute("ALTER TABLE prep_session DROP COLUMN length_min, DROP COLUMN ready_at")
