"""The first tables"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = '0001'
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table('household',
    sa.Column('id', sa.Uuid(), nullable=False),
    sa.Column('name', sa.String(length=160), nullable=False),
    sa.Column('currency_code', sa.String(length=3), nullable=False),
    sa.Column('currency_symbol', sa.String(length=8), nullable=False),
    sa.Column('created_at', mysql.DATETIME(fsp=6), nullable=False),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_household'))
    )
    op.create_table('sign_in_failure',
    sa.Column('id', sa.Integer(), autoincrement=True, nullable=False),
    sa.Column('name', sa.String(length=80), nullable=False),
    sa.Column('address', sa.String(length=64), nullable=False),
    sa.Column('at', mysql.DATETIME(fsp=6), nullable=False),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_sign_in_failure'))
    )
    op.create_index(op.f('ix_sign_in_failure_address_at'), 'sign_in_failure', ['address', 'at'], unique=False)
    op.create_index(op.f('ix_sign_in_failure_name_at'), 'sign_in_failure', ['name', 'at'], unique=False)
    op.create_table('eater',
    sa.Column('name', sa.String(length=160), nullable=False),
    sa.Column('about', sa.String(length=160), nullable=False),
    sa.Column('excluded_allergens', sa.JSON(), nullable=False),
    sa.Column('no_pork', sa.Boolean(), nullable=False),
    sa.Column('dislikes', sa.String(length=240), nullable=False),
    sa.Column('position', sa.Integer(), nullable=False),
    sa.Column('version', sa.Integer(), nullable=False),
    sa.Column('household_id', sa.Uuid(), nullable=False),
    sa.Column('id', sa.Uuid(), nullable=False),
    sa.ForeignKeyConstraint(['household_id'], ['household.id'], name=op.f('fk_eater_household_id')),
    sa.PrimaryKeyConstraint('household_id', 'id', name=op.f('pk_eater'))
    )
    op.create_table('food',
    sa.Column('origin_key', sa.String(length=80, collation='utf8mb4_bin'), nullable=True),
    sa.Column('name', sa.String(length=160), nullable=False),
    sa.Column('state', sa.String(length=20), nullable=False),
    sa.Column('food_group', sa.String(length=20), nullable=False),
    sa.Column('allergens', sa.JSON(), nullable=False),
    sa.Column('diet', sa.String(length=10), nullable=False),
    sa.Column('contains_pork', sa.Boolean(), nullable=False),
    sa.Column('density_g_per_ml', sa.Double(), nullable=True),
    sa.Column('each_name', sa.String(length=80), nullable=True),
    sa.Column('each_g', sa.Double(), nullable=True),
    sa.Column('refuse_pct', sa.Double(), nullable=True),
    sa.Column('keep_group', sa.String(length=30), nullable=False),
    sa.Column('cooked_key', sa.String(length=80), nullable=True),
    sa.Column('cooked_yield', sa.Double(), nullable=True),
    sa.Column('aisle', sa.String(length=30), nullable=False),
    sa.Column('pack_g', sa.Double(), nullable=True),
    sa.Column('note', sa.Text(), nullable=False),
    sa.Column('source', sa.String(length=160), nullable=False),
    sa.Column('version', sa.Integer(), nullable=False),
    sa.Column('energy_kcal', sa.Double(), nullable=True),
    sa.Column('protein_g', sa.Double(), nullable=True),
    sa.Column('fat_g', sa.Double(), nullable=True),
    sa.Column('saturated_g', sa.Double(), nullable=True),
    sa.Column('carbohydrate_g', sa.Double(), nullable=True),
    sa.Column('sugars_g', sa.Double(), nullable=True),
    sa.Column('fibre_g', sa.Double(), nullable=True),
    sa.Column('alcohol_g', sa.Double(), nullable=True),
    sa.Column('sodium_mg', sa.Double(), nullable=True),
    sa.Column('potassium_mg', sa.Double(), nullable=True),
    sa.Column('calcium_mg', sa.Double(), nullable=True),
    sa.Column('iron_mg', sa.Double(), nullable=True),
    sa.Column('magnesium_mg', sa.Double(), nullable=True),
    sa.Column('zinc_mg', sa.Double(), nullable=True),
    sa.Column('selenium_ug', sa.Double(), nullable=True),
    sa.Column('iodine_ug', sa.Double(), nullable=True),
    sa.Column('vitamin_a_ug_rae', sa.Double(), nullable=True),
    sa.Column('vitamin_c_mg', sa.Double(), nullable=True),
    sa.Column('vitamin_d_ug', sa.Double(), nullable=True),
    sa.Column('vitamin_b12_ug', sa.Double(), nullable=True),
    sa.Column('folate_ug', sa.Double(), nullable=True),
    sa.Column('omega3_g', sa.Double(), nullable=True),
    sa.Column('omega6_g', sa.Double(), nullable=True),
    sa.Column('household_id', sa.Uuid(), nullable=False),
    sa.Column('id', sa.Uuid(), nullable=False),
    sa.ForeignKeyConstraint(['household_id'], ['household.id'], name=op.f('fk_food_household_id')),
    sa.PrimaryKeyConstraint('household_id', 'id', name=op.f('pk_food')),
    sa.UniqueConstraint('household_id', 'origin_key', name=op.f('uq_food_household_id_origin_key'))
    )
    op.create_table('recipe',
    sa.Column('name', sa.String(length=160), nullable=False),
    sa.Column('servings', sa.DECIMAL(precision=5, scale=1, asdecimal=False), nullable=False),
    sa.Column('note', sa.Text(), nullable=False),
    sa.Column('tags', sa.JSON(), nullable=False),
    sa.Column('version', sa.Integer(), nullable=False),
    sa.Column('household_id', sa.Uuid(), nullable=False),
    sa.Column('id', sa.Uuid(), nullable=False),
    sa.ForeignKeyConstraint(['household_id'], ['household.id'], name=op.f('fk_recipe_household_id')),
    sa.PrimaryKeyConstraint('household_id', 'id', name=op.f('pk_recipe'))
    )
    op.create_table('user_account',
    sa.Column('id', sa.Uuid(), nullable=False),
    sa.Column('household_id', sa.Uuid(), nullable=False),
    sa.Column('name', sa.String(length=80), nullable=False),
    sa.Column('password_hash', sa.String(length=200), nullable=False),
    sa.Column('created_at', mysql.DATETIME(fsp=6), nullable=False),
    sa.ForeignKeyConstraint(['household_id'], ['household.id'], name=op.f('fk_user_account_household_id')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_user_account')),
    sa.UniqueConstraint('name', name=op.f('uq_user_account_name'))
    )
    op.create_table('week',
    sa.Column('first_day', sa.Date(), nullable=False),
    sa.Column('days', sa.Integer(), nullable=False),
    sa.Column('household_id', sa.Uuid(), nullable=False),
    sa.Column('id', sa.Uuid(), nullable=False),
    sa.CheckConstraint('days BETWEEN 1 AND 14', name=op.f('ck_week_days')),
    sa.ForeignKeyConstraint(['household_id'], ['household.id'], name=op.f('fk_week_household_id')),
    sa.PrimaryKeyConstraint('household_id', 'id', name=op.f('pk_week')),
    sa.UniqueConstraint('household_id', 'first_day', name=op.f('uq_week_household_id_first_day'))
    )
    op.create_table('component',
    sa.Column('recipe_id', sa.Uuid(), nullable=False),
    sa.Column('name', sa.String(length=80), nullable=False),
    sa.Column('cooked_g', sa.DECIMAL(precision=9, scale=1), nullable=True),
    sa.Column('position', sa.Integer(), nullable=False),
    sa.Column('household_id', sa.Uuid(), nullable=False),
    sa.Column('id', sa.Uuid(), nullable=False),
    sa.ForeignKeyConstraint(['household_id', 'recipe_id'], ['recipe.household_id', 'recipe.id'], name=op.f('fk_component_household_id_recipe_id'), ondelete='CASCADE'),
    sa.ForeignKeyConstraint(['household_id'], ['household.id'], name=op.f('fk_component_household_id')),
    sa.PrimaryKeyConstraint('household_id', 'id', name=op.f('pk_component'))
    )
    op.create_table('day_type',
    sa.Column('eater_id', sa.Uuid(), nullable=False),
    sa.Column('name', sa.String(length=40), nullable=False),
    sa.Column('weekdays', sa.JSON(), nullable=False),
    sa.Column('energy_kcal', sa.Double(), nullable=False),
    sa.Column('energy_band_pct', sa.Double(), nullable=False),
    sa.Column('protein_floor_g', sa.Double(), nullable=False),
    sa.Column('clinician_confirmed', sa.Boolean(), nullable=False),
    sa.Column('position', sa.Integer(), nullable=False),
    sa.Column('household_id', sa.Uuid(), nullable=False),
    sa.Column('id', sa.Uuid(), nullable=False),
    sa.ForeignKeyConstraint(['household_id', 'eater_id'], ['eater.household_id', 'eater.id'], name=op.f('fk_day_type_household_id_eater_id'), ondelete='CASCADE'),
    sa.ForeignKeyConstraint(['household_id'], ['household.id'], name=op.f('fk_day_type_household_id')),
    sa.PrimaryKeyConstraint('household_id', 'id', name=op.f('pk_day_type'))
    )
    op.create_table('prep_session',
    sa.Column('week_id', sa.Uuid(), nullable=False),
    sa.Column('starts_at', sa.DateTime(), nullable=False),
    sa.Column('household_id', sa.Uuid(), nullable=False),
    sa.Column('id', sa.Uuid(), nullable=False),
    sa.ForeignKeyConstraint(['household_id', 'week_id'], ['week.household_id', 'week.id'], name=op.f('fk_prep_session_household_id_week_id'), ondelete='CASCADE'),
    sa.ForeignKeyConstraint(['household_id'], ['household.id'], name=op.f('fk_prep_session_household_id')),
    sa.PrimaryKeyConstraint('household_id', 'id', name=op.f('pk_prep_session')),
    sa.UniqueConstraint('household_id', 'week_id', 'starts_at', name=op.f('uq_prep_session_household_id_week_id_starts_at'))
    )
    op.create_table('sign_in',
    sa.Column('token_hash', sa.BINARY(length=32), nullable=False),
    sa.Column('user_id', sa.Uuid(), nullable=False),
    sa.Column('csrf_token', sa.String(length=64), nullable=False),
    sa.Column('created_at', mysql.DATETIME(fsp=6), nullable=False),
    sa.Column('expires_at', mysql.DATETIME(fsp=6), nullable=False),
    sa.ForeignKeyConstraint(['user_id'], ['user_account.id'], name=op.f('fk_sign_in_user_id')),
    sa.PrimaryKeyConstraint('token_hash', name=op.f('pk_sign_in'))
    )
    op.create_table('slot',
    sa.Column('eater_id', sa.Uuid(), nullable=False),
    sa.Column('name', sa.String(length=40), nullable=False),
    sa.Column('at', sa.Time(), nullable=False),
    sa.Column('eaten_cold', sa.Boolean(), nullable=False),
    sa.Column('travels', sa.Boolean(), nullable=False),
    sa.Column('position', sa.Integer(), nullable=False),
    sa.Column('household_id', sa.Uuid(), nullable=False),
    sa.Column('id', sa.Uuid(), nullable=False),
    sa.ForeignKeyConstraint(['household_id', 'eater_id'], ['eater.household_id', 'eater.id'], name=op.f('fk_slot_household_id_eater_id'), ondelete='CASCADE'),
    sa.ForeignKeyConstraint(['household_id'], ['household.id'], name=op.f('fk_slot_household_id')),
    sa.PrimaryKeyConstraint('household_id', 'id', name=op.f('pk_slot'))
    )
    op.create_table('batch',
    sa.Column('week_id', sa.Uuid(), nullable=False),
    sa.Column('session_id', sa.Uuid(), nullable=False),
    sa.Column('recipe_id', sa.Uuid(), nullable=False),
    sa.Column('component_id', sa.Uuid(), nullable=False),
    sa.Column('factor', sa.Double(), nullable=False),
    sa.Column('planned_cooked_g', sa.DECIMAL(precision=9, scale=1), nullable=False),
    sa.Column('started_at', mysql.DATETIME(fsp=6), nullable=False),
    sa.Column('household_id', sa.Uuid(), nullable=False),
    sa.Column('id', sa.Uuid(), nullable=False),
    sa.ForeignKeyConstraint(['household_id', 'component_id'], ['component.household_id', 'component.id'], name=op.f('fk_batch_household_id_component_id')),
    sa.ForeignKeyConstraint(['household_id', 'recipe_id'], ['recipe.household_id', 'recipe.id'], name=op.f('fk_batch_household_id_recipe_id')),
    sa.ForeignKeyConstraint(['household_id', 'session_id'], ['prep_session.household_id', 'prep_session.id'], name=op.f('fk_batch_household_id_session_id')),
    sa.ForeignKeyConstraint(['household_id', 'week_id'], ['week.household_id', 'week.id'], name=op.f('fk_batch_household_id_week_id')),
    sa.ForeignKeyConstraint(['household_id'], ['household.id'], name=op.f('fk_batch_household_id')),
    sa.PrimaryKeyConstraint('household_id', 'id', name=op.f('pk_batch')),
    sa.UniqueConstraint('household_id', 'session_id', 'component_id', name=op.f('uq_batch_household_id_session_id_component_id'))
    )
    op.create_table('ingredient_line',
    sa.Column('component_id', sa.Uuid(), nullable=False),
    sa.Column('food_id', sa.Uuid(), nullable=False),
    sa.Column('amount_g', sa.DECIMAL(precision=9, scale=1), nullable=False),
    sa.Column('measure', sa.String(length=12), nullable=False),
    sa.Column('position', sa.Integer(), nullable=False),
    sa.Column('household_id', sa.Uuid(), nullable=False),
    sa.Column('id', sa.Uuid(), nullable=False),
    sa.ForeignKeyConstraint(['household_id', 'component_id'], ['component.household_id', 'component.id'], name=op.f('fk_ingredient_line_household_id_component_id'), ondelete='CASCADE'),
    sa.ForeignKeyConstraint(['household_id', 'food_id'], ['food.household_id', 'food.id'], name=op.f('fk_ingredient_line_household_id_food_id')),
    sa.ForeignKeyConstraint(['household_id'], ['household.id'], name=op.f('fk_ingredient_line_household_id')),
    sa.PrimaryKeyConstraint('household_id', 'id', name=op.f('pk_ingredient_line'))
    )
    op.create_table('placement',
    sa.Column('week_id', sa.Uuid(), nullable=False),
    sa.Column('eater_id', sa.Uuid(), nullable=False),
    sa.Column('slot_id', sa.Uuid(), nullable=False),
    sa.Column('recipe_id', sa.Uuid(), nullable=False),
    sa.Column('day', sa.Date(), nullable=False),
    sa.Column('servings', sa.DECIMAL(precision=7, scale=3, asdecimal=False), nullable=False),
    sa.Column('live', sa.Integer(), nullable=True),
    sa.Column('version', sa.Integer(), nullable=False),
    sa.Column('household_id', sa.Uuid(), nullable=False),
    sa.Column('id', sa.Uuid(), nullable=False),
    sa.CheckConstraint('live = 1', name=op.f('ck_placement_live')),
    sa.ForeignKeyConstraint(['household_id', 'eater_id'], ['eater.household_id', 'eater.id'], name=op.f('fk_placement_household_id_eater_id')),
    sa.ForeignKeyConstraint(['household_id', 'recipe_id'], ['recipe.household_id', 'recipe.id'], name=op.f('fk_placement_household_id_recipe_id')),
    sa.ForeignKeyConstraint(['household_id', 'slot_id'], ['slot.household_id', 'slot.id'], name=op.f('fk_placement_household_id_slot_id')),
    sa.ForeignKeyConstraint(['household_id', 'week_id'], ['week.household_id', 'week.id'], name=op.f('fk_placement_household_id_week_id')),
    sa.ForeignKeyConstraint(['household_id'], ['household.id'], name=op.f('fk_placement_household_id')),
    sa.PrimaryKeyConstraint('household_id', 'id', name=op.f('pk_placement')),
    sa.UniqueConstraint('household_id', 'eater_id', 'slot_id', 'day', 'live', name=op.f('uq_placement_household_id_eater_id_slot_id_day_live'))
    )
    op.create_index(op.f('ix_placement_household_id_week_id_live'), 'placement', ['household_id', 'week_id', 'live'], unique=False)
    op.create_table('batch_line',
    sa.Column('batch_id', sa.Uuid(), nullable=False),
    sa.Column('food_id', sa.Uuid(), nullable=False),
    sa.Column('planned_g', sa.DECIMAL(precision=9, scale=1), nullable=False),
    sa.Column('measure', sa.String(length=12), nullable=False),
    sa.Column('position', sa.Integer(), nullable=False),
    sa.Column('household_id', sa.Uuid(), nullable=False),
    sa.Column('id', sa.Uuid(), nullable=False),
    sa.ForeignKeyConstraint(['household_id', 'batch_id'], ['batch.household_id', 'batch.id'], name=op.f('fk_batch_line_household_id_batch_id'), ondelete='CASCADE'),
    sa.ForeignKeyConstraint(['household_id', 'food_id'], ['food.household_id', 'food.id'], name=op.f('fk_batch_line_household_id_food_id')),
    sa.ForeignKeyConstraint(['household_id'], ['household.id'], name=op.f('fk_batch_line_household_id')),
    sa.PrimaryKeyConstraint('household_id', 'id', name=op.f('pk_batch_line'))
    )
    op.create_table('box',
    sa.Column('placement_id', sa.Uuid(), nullable=False),
    sa.Column('packed_at', mysql.DATETIME(fsp=6), nullable=False),
    sa.Column('household_id', sa.Uuid(), nullable=False),
    sa.Column('id', sa.Uuid(), nullable=False),
    sa.ForeignKeyConstraint(['household_id', 'placement_id'], ['placement.household_id', 'placement.id'], name=op.f('fk_box_household_id_placement_id')),
    sa.ForeignKeyConstraint(['household_id'], ['household.id'], name=op.f('fk_box_household_id')),
    sa.PrimaryKeyConstraint('household_id', 'id', name=op.f('pk_box')),
    sa.UniqueConstraint('household_id', 'placement_id', name=op.f('uq_box_household_id_placement_id'))
    )
    op.create_table('weighing',
    sa.Column('seq', sa.BigInteger(), nullable=False),
    sa.Column('batch_id', sa.Uuid(), nullable=False),
    sa.Column('kind', sa.String(length=12), nullable=False),
    sa.Column('batch_line_id', sa.Uuid(), nullable=True),
    sa.Column('placement_id', sa.Uuid(), nullable=True),
    sa.Column('gross_g', sa.DECIMAL(precision=9, scale=1), nullable=True),
    sa.Column('tare_g', sa.DECIMAL(precision=9, scale=1), nullable=True),
    sa.Column('net_g', sa.DECIMAL(precision=9, scale=1), nullable=True),
    sa.Column('shortfall', sa.String(length=12), nullable=True),
    sa.Column('user_id', sa.Uuid(), nullable=True),
    sa.Column('weighed_at', mysql.DATETIME(fsp=6), nullable=False),
    sa.Column('household_id', sa.Uuid(), nullable=False),
    sa.Column('id', sa.Uuid(), nullable=False),
    sa.CheckConstraint('net_g IS NULL OR net_g >= 0', name=op.f('ck_weighing_net')),
    sa.ForeignKeyConstraint(['household_id', 'batch_id'], ['batch.household_id', 'batch.id'], name=op.f('fk_weighing_household_id_batch_id')),
    sa.ForeignKeyConstraint(['household_id', 'batch_line_id'], ['batch_line.household_id', 'batch_line.id'], name=op.f('fk_weighing_household_id_batch_line_id')),
    sa.ForeignKeyConstraint(['household_id', 'placement_id'], ['placement.household_id', 'placement.id'], name=op.f('fk_weighing_household_id_placement_id')),
    sa.ForeignKeyConstraint(['household_id'], ['household.id'], name=op.f('fk_weighing_household_id')),
    sa.ForeignKeyConstraint(['user_id'], ['user_account.id'], name=op.f('fk_weighing_user_id')),
    sa.PrimaryKeyConstraint('household_id', 'id', name=op.f('pk_weighing')),
    sa.UniqueConstraint('seq', name=op.f('uq_weighing_seq'))
    )
    op.create_index(op.f('ix_weighing_household_id_batch_id_seq'), 'weighing', ['household_id', 'batch_id', 'seq'], unique=False)


def downgrade() -> None:
    op.drop_table('weighing')
    op.drop_table('box')
    op.drop_table('batch_line')
    op.drop_table('placement')
    op.drop_table('ingredient_line')
    op.drop_table('batch')
    op.drop_table('slot')
    op.drop_table('sign_in')
    op.drop_table('prep_session')
    op.drop_table('day_type')
    op.drop_table('component')
    op.drop_table('week')
    op.drop_table('user_account')
    op.drop_table('recipe')
    op.drop_table('food')
    op.drop_table('eater')
    op.drop_table('sign_in_failure')
    op.drop_table('household')
