"""A recipe can serve a component of another one; a variant has its own version of a component."""

from alembic import op

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        "ALTER TABLE component ADD COLUMN used_component_id UUID NULL, ADD COLUMN serving_g DECIMAL(9, 1) NULL, "
        "ADD COLUMN variant_id UUID NULL, ADD CONSTRAINT fk_component_household_id_used_component_id "
        "FOREIGN KEY (household_id, used_component_id) REFERENCES component (household_id, id)"
    )


def downgrade() -> None:
    op.execute(
        "ALTER TABLE component DROP FOREIGN KEY fk_component_household_id_used_component_id, "
        "DROP COLUMN used_component_id, DROP COLUMN serving_g, DROP COLUMN variant_id"
    )
