"""How often a household's rows were changed: what was worked out from them is kept in memory under that count."""

from alembic import op

revision = "0037"
down_revision = "0036"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("""
        CREATE TABLE IF NOT EXISTS household_change (
            household_id UUID NOT NULL, value BIGINT NOT NULL, plan BIGINT NOT NULL,
            CONSTRAINT pk_household_change PRIMARY KEY (household_id),
            CONSTRAINT fk_household_change_household_id FOREIGN KEY (household_id) REFERENCES household (id)
        )""")


def downgrade() -> None:
    op.execute("DROP TABLE household_change")
