"""People of a household: what they may do, whose day is theirs, how they come in and back in."""

from alembic import op

revision = "0067"
down_revision = "0066"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        "ALTER TABLE user_account ADD COLUMN role VARCHAR(8) NOT NULL DEFAULT 'owner', "
        "ADD COLUMN eater_id UUID NULL, ADD COLUMN recovery_hash BINARY(32) NULL, "
        "ADD COLUMN recovery_until DATETIME(6) NULL, "
        "ADD CONSTRAINT ck_user_account_role CHECK (role IN ('owner', 'cook', 'eater'))"
    )
    op.execute("ALTER TABLE user_account ALTER COLUMN role DROP DEFAULT")
    op.execute(
        "CREATE TABLE invitation (token_hash BINARY(32) NOT NULL, household_id UUID NOT NULL, role VARCHAR(8) NOT NULL, "
        "eater_id UUID NULL, made_at DATETIME(6) NOT NULL, expires_at DATETIME(6) NOT NULL, "
        "CONSTRAINT pk_invitation PRIMARY KEY (token_hash), "
        "CONSTRAINT fk_invitation_household_id FOREIGN KEY (household_id) REFERENCES household (id), "
        "CONSTRAINT ck_invitation_role CHECK (role IN ('owner', 'cook', 'eater')), "
        "INDEX ix_invitation_household_id (household_id)) CHARSET=utf8mb4"
    )


def downgrade() -> None:
    op.execute("DROP TABLE invitation")
    op.execute("ALTER TABLE user_account DROP CONSTRAINT ck_user_account_role")
    op.execute(
        "ALTER TABLE user_account DROP COLUMN role, DROP COLUMN eater_id, DROP COLUMN recovery_hash, "
        "DROP COLUMN recovery_until"
    )
