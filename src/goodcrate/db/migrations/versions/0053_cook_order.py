"""Sessions while they are cooked: the order the rest goes in, whenever it is another."""

from alembic import op

revision = "0053"
down_revision = "0052"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        "CREATE TABLE cook_order (household_id UUID NOT NULL, id UUID NOT NULL, PRIMARY KEY (household_id, id), "
        "seq BIGINT NOT NULL, run_id UUID NOT NULL, "
        "made LONGTEXT CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(made)), "
        "happened_at DATETIME(6) NOT NULL, "
        "CONSTRAINT fk_cook_order_household_id FOREIGN KEY (household_id) REFERENCES household (id), "
        "CONSTRAINT fk_cook_order_household_id_run_id FOREIGN KEY (household_id, run_id) "
        "REFERENCES cook_run (household_id, id), "
        "CONSTRAINT uq_cook_order_seq UNIQUE (seq), "
        "INDEX ix_cook_order_household_id_run_id_seq (household_id, run_id, seq)) CHARSET=utf8mb4"
    )
    for verb in ("UPDATE", "DELETE"):
        op.execute(
            f"CREATE TRIGGER cook_order_no_{verb.lower()} BEFORE {verb} ON cook_order FOR EACH ROW "
            "SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'what was said while cooking stays'"
        )


def downgrade() -> None:
    op.execute("DROP TABLE cook_order")
