"""A household's calendar feed, behind a secret link."""

from alembic import op

revision = "0059"
down_revision = "0058"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        "CREATE TABLE calendar_link (token_hash BINARY(32) NOT NULL, household_id UUID NOT NULL, "
        "made_at DATETIME(6) NOT NULL, CONSTRAINT pk_calendar_link PRIMARY KEY (token_hash), "
        "CONSTRAINT uq_calendar_link_household_id UNIQUE (household_id), "
        "CONSTRAINT fk_calendar_link_household_id FOREIGN KEY (household_id) REFERENCES household (id)) CHARSET=utf8mb4"
    )


def downgrade() -> None:
    op.execute("DROP TABLE calendar_link")
