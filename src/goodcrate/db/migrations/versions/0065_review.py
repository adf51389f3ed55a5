"""What the review keeps: proposals taken, body weights of who asked for it, figures of closed weeks."""

from alembic import op

revision = "0065"
down_revision = "0064"
branch_labels = None
depends_on = None

OWNED = "household_id UUID NOT NULL, id UUID NOT NULL, PRIMARY KEY (household_id, id), "
JSON = "LONGTEXT CHARACTER SET utf8mb4 COLLATE utf8mb4_bin"


def _keys(table: str, column: str, parent: str) -> str:
    return (
        f"CONSTRAINT fk_{table}_household_id FOREIGN KEY (household_id) REFERENCES household (id), "
        f"CONSTRAINT fk_{table}_household_id_{column} FOREIGN KEY (household_id, {column}) "
        f"REFERENCES {parent} (household_id, id)"
    )


def upgrade() -> None:
    op.execute(
        f"CREATE TABLE proposal_taken ({OWNED} week_id UUID NOT NULL, proposal VARCHAR(160) NOT NULL, "
        "title VARCHAR(300) NOT NULL, why VARCHAR(500) NOT NULL, "
        f"`before` {JSON} NOT NULL CHECK (json_valid(`before`)), live INT NULL, taken_at DATETIME(6) NOT NULL, "
        "CONSTRAINT uq_proposal_taken_household_id_week_id_proposal UNIQUE (household_id, week_id, proposal), "
        f"{_keys('proposal_taken', 'week_id', 'week')}) CHARSET=utf8mb4"
    )
    op.execute(
        f"CREATE TABLE weight_log ({OWNED} eater_id UUID NOT NULL, live INT NULL, "
        "CONSTRAINT uq_weight_log_household_id_eater_id UNIQUE (household_id, eater_id), "
        f"{_keys('weight_log', 'eater_id', 'eater')}) CHARSET=utf8mb4"
    )
    op.execute(
        f"CREATE TABLE body_weight ({OWNED} eater_id UUID NOT NULL, day DATE NOT NULL, kg DOUBLE NOT NULL, "
        "live INT NULL, noted_at DATETIME(6) NOT NULL, "
        "CONSTRAINT uq_body_weight_household_id_eater_id_day UNIQUE (household_id, eater_id, day), "
        "CONSTRAINT ck_body_weight_bounds CHECK (kg BETWEEN 20 AND 400), "
        f"{_keys('body_weight', 'eater_id', 'eater')}) CHARSET=utf8mb4"
    )
    op.execute(
        f"CREATE TABLE week_summary ({OWNED} week_id UUID NOT NULL, first_day DATE NOT NULL, "
        f"stamp VARCHAR(160) NOT NULL, figures {JSON} NOT NULL CHECK (json_valid(figures)), "
        "CONSTRAINT uq_week_summary_household_id_week_id UNIQUE (household_id, week_id), "
        "INDEX ix_week_summary_household_id_first_day (household_id, first_day), "
        f"{_keys('week_summary', 'week_id', 'week')}) CHARSET=utf8mb4"
    )


def downgrade() -> None:
    for table in ("week_summary", "body_weight", "weight_log", "proposal_taken"):
        op.execute(f"DROP TABLE {table}")
