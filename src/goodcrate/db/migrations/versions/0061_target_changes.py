"""Targets that hold for one week or one of its days."""

from alembic import op

revision = "0061"
down_revision = "0060"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        "CREATE TABLE target_change (household_id UUID NOT NULL, id UUID NOT NULL, PRIMARY KEY (household_id, id), "
        "week_id UUID NOT NULL, eater_id UUID NOT NULL, weekday INT NULL, energy_kcal DOUBLE NOT NULL, "
        "protein_g DOUBLE NOT NULL, "
        "bands LONGTEXT CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NULL CHECK (json_valid(bands)), "
        "plants_only TINYINT(1) NOT NULL, live INT NULL, made_at DATETIME(6) NOT NULL, "
        "CONSTRAINT fk_target_change_household_id FOREIGN KEY (household_id) REFERENCES household (id), "
        "CONSTRAINT fk_target_change_household_id_week_id FOREIGN KEY (household_id, week_id) "
        "REFERENCES week (household_id, id), "
        "CONSTRAINT fk_target_change_household_id_eater_id FOREIGN KEY (household_id, eater_id) "
        "REFERENCES eater (household_id, id), "
        "CONSTRAINT ck_target_change_weekday CHECK (weekday BETWEEN 0 AND 6), "
        "CONSTRAINT ck_target_change_bounds CHECK (energy_kcal BETWEEN -3000 AND 3000 AND protein_g BETWEEN -200 AND 200)"
        ") CHARSET=utf8mb4"
    )


def downgrade() -> None:
    op.execute("DROP TABLE target_change")
