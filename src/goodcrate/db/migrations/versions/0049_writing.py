"""How a household writes figures: decimal sign, dates, first weekday, kg or lb, cm or ft, °C or °F, its money."""

from alembic import op

revision = "0049"
down_revision = "0048"
branch_labels = None
depends_on = None

COLUMNS = (
    "marks VARCHAR(12) NOT NULL DEFAULT 'ask'",
    "dates VARCHAR(4) NOT NULL DEFAULT 'dmy'",
    "first_weekday INT NOT NULL DEFAULT 0",
    "body_weight VARCHAR(2) NOT NULL DEFAULT 'kg'",
    "body_height VARCHAR(2) NOT NULL DEFAULT 'cm'",
    "heat VARCHAR(1) NOT NULL DEFAULT 'C'",
    "money_first BOOL NOT NULL DEFAULT 0",
    "money_decimals INT NOT NULL DEFAULT 2",
    "language VARCHAR(12) NOT NULL DEFAULT 'en'",
)


def upgrade() -> None:
    op.execute(f"ALTER TABLE household {', '.join(f'ADD COLUMN {column}' for column in COLUMNS)}")


def downgrade() -> None:
    op.execute(f"ALTER TABLE household {', '.join(f'DROP COLUMN {column.split()[0]}' for column in COLUMNS)}")
