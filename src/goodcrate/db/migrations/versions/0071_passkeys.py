"""Passkeys, and the questions that are open to be answered by one."""

from alembic import op

revision = "0071"
down_revision = "0070"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        "CREATE TABLE passkey (id_hash BINARY(32) NOT NULL, user_id UUID NOT NULL, credential_id VARBINARY(1023) NOT NULL, "
        "public_key VARBINARY(4000) NOT NULL, sign_count BIGINT NOT NULL, device VARCHAR(80) NOT NULL, "
        "made_at DATETIME(6) NOT NULL, used_at DATETIME(6) NULL, "
        "CONSTRAINT pk_passkey PRIMARY KEY (id_hash), "
        "CONSTRAINT fk_passkey_user_id FOREIGN KEY (user_id) REFERENCES user_account (id), "
        "INDEX ix_passkey_user_id (user_id)) CHARSET=utf8mb4"
    )
    op.execute(
        "CREATE TABLE passkey_question (challenge_hash BINARY(32) NOT NULL, user_id UUID NULL, "
        "open_until DATETIME(6) NOT NULL, "
        "CONSTRAINT pk_passkey_question PRIMARY KEY (challenge_hash), "
        "CONSTRAINT fk_passkey_question_user_id FOREIGN KEY (user_id) REFERENCES user_account (id), "
        "INDEX ix_passkey_question_user_id (user_id), "
        "INDEX ix_passkey_question_open_until (open_until)) CHARSET=utf8mb4"
    )


def downgrade() -> None:
    op.execute("DROP TABLE passkey_question")
    op.execute("DROP TABLE passkey")
