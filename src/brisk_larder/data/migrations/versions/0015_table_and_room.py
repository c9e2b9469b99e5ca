"""what a food is wanted for and how surely, shared over varieties; own harvests; jars; own sowing days;
frost forecast; what the garden has room for

Revision: 0015, after 0014
"""

import sqlalchemy as sa
from alembic import op

revision = '0015'
down_revision = '0014'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        "ALTER TABLE food_target ADD COLUMN eaten_by TEXT NOT NULL DEFAULT 'table' "
        "CONSTRAINT ck_food_target_eaten_by_word CHECK (eaten_by IN ('table', 'animals', 'shoots'))"
    )
    op.execute(
        'ALTER TABLE food_target ADD COLUMN every_years INTEGER NOT NULL DEFAULT 1 '
        'CONSTRAINT ck_food_target_every_range CHECK (every_years BETWEEN 1 AND 10)'
    )
    op.execute(
        'ALTER TABLE food_target ADD COLUMN sure REAL NOT NULL DEFAULT 0.5 '
        'CONSTRAINT ck_food_target_sure_range CHECK (sure >= 0.5 AND sure < 1)'
    )
    op.execute(
        'ALTER TABLE food_target ADD COLUMN jar_litres REAL NOT NULL DEFAULT 1.0 '
        'CONSTRAINT ck_food_target_jar_range CHECK (jar_litres > 0 AND jar_litres <= 10)'
    )
    op.execute("ALTER TABLE sowing ADD COLUMN meant_for TEXT NOT NULL DEFAULT ''")
    for name, kind, allowed in (
        ('people', 'INTEGER', 'people BETWEEN 1 AND 100'),
        ('guest_weeks', 'REAL NOT NULL DEFAULT 0', 'guest_weeks BETWEEN 0 AND 1000'),
        ('food_bed_m2', 'REAL', 'food_bed_m2 >= 0'),
        ('cells', 'INTEGER', 'cells >= 0'),
        ('evenings', 'INTEGER', 'evenings BETWEEN 0 AND 366'),
        ('winter_roots', 'INTEGER', 'winter_roots >= 0'),
    ):
        op.execute(
            f'ALTER TABLE household ADD COLUMN {name} {kind} CONSTRAINT ck_household_{name}_range CHECK ({allowed})'
        )

    def edited() -> list[sa.Column]:
        return [
            sa.Column('id', sa.Integer(), nullable=False),
            sa.Column('deleted_s', sa.Integer(), nullable=True),
            sa.Column('version', sa.Integer(), nullable=False),
        ]

    op.create_table('food_share', *edited(),
    sa.Column('food_target_id', sa.Integer(), nullable=False),
    sa.Column('variety_id', sa.Integer(), nullable=False),
    sa.Column('share', sa.Float(), nullable=False),
    sa.CheckConstraint('share > 0 AND share <= 1000', name=op.f('ck_food_share_share_range')),
    sa.ForeignKeyConstraint(['food_target_id'], ['food_target.id'], name=op.f('fk_food_share_food_target_id_food_target')),
    sa.ForeignKeyConstraint(['variety_id'], ['variety.id'], name=op.f('fk_food_share_variety_id_variety')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_food_share')),
    sqlite_strict=True
    )
    op.create_index('ix_food_share_food_target_id', 'food_share', ['food_target_id'])
    op.create_index('uq_food_share_live', 'food_share', ['food_target_id', 'variety_id'], unique=True, sqlite_where=sa.text('deleted_s IS NULL'))
    op.create_table('harvest', *edited(),
    sa.Column('crop', sa.Text(), nullable=False),
    sa.Column('year', sa.Integer(), nullable=False),
    sa.Column('plants', sa.Integer(), nullable=False),
    sa.Column('mass_kg', sa.Float(), nullable=False),
    sa.Column('note', sa.Text(), nullable=False),
    sa.CheckConstraint('plants >= 1', name=op.f('ck_harvest_plants_range')),
    sa.CheckConstraint('mass_kg > 0 AND mass_kg <= 100000', name=op.f('ck_harvest_mass_range')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_harvest')),
    sqlite_strict=True
    )
    op.create_table('jar', *edited(),
    sa.Column('litres', sa.Float(), nullable=False),
    sa.Column('owned', sa.Integer(), nullable=False),
    sa.Column('lids', sa.Integer(), nullable=False),
    sa.CheckConstraint('litres > 0 AND litres <= 10', name=op.f('ck_jar_litres_range')),
    sa.CheckConstraint('owned >= 0 AND lids >= 0', name=op.f('ck_jar_not_negative')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_jar')),
    sqlite_strict=True
    )
    op.create_index('uq_jar_live', 'jar', ['litres'], unique=True, sqlite_where=sa.text('deleted_s IS NULL'))
    op.create_table('own_window', *edited(),
    sa.Column('crop', sa.Text(), nullable=False),
    sa.Column('setting', sa.Text(), nullable=False),
    sa.Column('first_day', sa.Integer(), nullable=False),
    sa.Column('last_day', sa.Integer(), nullable=False),
    sa.Column('note', sa.Text(), nullable=False),
    sa.CheckConstraint("setting IN ('indoors', 'outdoors')", name=op.f('ck_own_window_setting_word')),
    sa.CheckConstraint('first_day BETWEEN 1 AND 366', name=op.f('ck_own_window_first_range')),
    sa.CheckConstraint('last_day BETWEEN 1 AND 366', name=op.f('ck_own_window_last_range')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_own_window')),
    sqlite_strict=True
    )
    op.create_index('uq_own_window_live', 'own_window', ['crop', 'setting'], unique=True, sqlite_where=sa.text('deleted_s IS NULL'))
    op.create_table('forecast_night', *edited(),
    sa.Column('day', sa.Text(), nullable=False),
    sa.Column('low_c', sa.Float(), nullable=False),
    sa.Column('low_sd_c', sa.Float(), nullable=False),
    sa.Column('made_s', sa.Integer(), nullable=False),
    sa.CheckConstraint('low_c BETWEEN -60 AND 50', name=op.f('ck_forecast_night_low_range')),
    sa.CheckConstraint('low_sd_c BETWEEN 0 AND 20', name=op.f('ck_forecast_night_doubt_range')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_forecast_night')),
    sqlite_strict=True
    )
    op.create_index('uq_forecast_night_live', 'forecast_night', ['day'], unique=True, sqlite_where=sa.text('deleted_s IS NULL'))
