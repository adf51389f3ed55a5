"""The door: tries counted by name and place, devices that are known, and sign-ins that say where they are."""

from alembic import op

revision = "0036"
down_revision = "0035"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("""
        CREATE TABLE IF NOT EXISTS sign_in_try (
            name VARCHAR(80) NOT NULL, place VARCHAR(72) NOT NULL, failures INT NOT NULL,
            last_at DATETIME(6) NOT NULL, next_at DATETIME(6) NOT NULL,
            CONSTRAINT pk_sign_in_try PRIMARY KEY (name, place), INDEX ix_sign_in_try_last_at (last_at)
        )""")
    op.execute("""
        CREATE TABLE IF NOT EXISTS known_device (
            token_hash BINARY(32) NOT NULL, user_id UUID NOT NULL, seen_at DATETIME(6) NOT NULL,
            CONSTRAINT pk_known_device PRIMARY KEY (token_hash),
            CONSTRAINT fk_known_device_user_id FOREIGN KEY (user_id) REFERENCES user_account (id)
        )""")
    op.execute("ALTER TABLE sign_in ADD COLUMN IF NOT EXISTS device VARCHAR(80) NOT NULL DEFAULT ''")
    op.execute("ALTER TABLE sign_in ADD COLUMN IF NOT EXISTS address VARCHAR(64) NOT NULL DEFAULT ''")
    op.execute("ALTER TABLE sign_in ADD COLUMN IF NOT EXISTS seen_at DATETIME(6) NULL")
    op.execute("DROP TABLE IF EXISTS sign_in_failure")


def downgrade() -> None:
    op.execute("""
        CREATE TABLE sign_in_failure (
            id INT NOT NULL AUTO_INCREMENT, name VARCHAR(80) NOT NULL, address VARCHAR(64) NOT NULL,
            at DATETIME(6) NOT NULL, CONSTRAINT pk_sign_in_failure PRIMARY KEY (id),
            INDEX ix_sign_in_failure_name_at (name, at), INDEX ix_sign_in_failure_address_at (address, at)
        )""")
    for column in ("seen_at", "address", "device"):
        op.execute(f"ALTER TABLE sign_in DROP COLUMN {column}")
    op.execute("DROP TABLE known_device")
    op.execute("DROP TABLE sign_in_try")
