"""years of growing a line anew; what flowers next door; how true a line is to come

Revision: 0012, after 0011
"""

import sqlalchemy as sa
from alembic import op

revision = '0012'
down_revision = '0011'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        "ALTER TABLE variety ADD COLUMN purity TEXT NOT NULL DEFAULT 'mostly' "
        "CONSTRAINT ck_variety_purity_word CHECK (purity IN ('strict', 'mostly', 'any'))"
    )
    op.execute(
        'ALTER TABLE household ADD COLUMN seed_bed_m2 REAL '
        'CONSTRAINT ck_household_seed_bed_range CHECK (seed_bed_m2 >= 0)'
    )
    op.execute(
        'ALTER TABLE household ADD COLUMN seed_lines INTEGER '
        'CONSTRAINT ck_household_seed_lines_range CHECK (seed_lines BETWEEN 1 AND 200)'
    )
    op.create_table('plan_cell',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('deleted_s', sa.Integer(), nullable=True),
    sa.Column('version', sa.Integer(), nullable=False),
    sa.Column('variety_id', sa.Integer(), nullable=False),
    sa.Column('year', sa.Integer(), nullable=False),
    sa.Column('state', sa.Text(), nullable=False),
    sa.Column('apart', sa.Integer(), nullable=False),
    sa.Column('note', sa.Text(), nullable=False),
    sa.CheckConstraint("state IN ('agreed', 'barred')", name=op.f('ck_plan_cell_state_word')),
    sa.CheckConstraint('apart IN (0, 1)', name=op.f('ck_plan_cell_apart_flag')),
    sa.ForeignKeyConstraint(['variety_id'], ['variety.id'], name=op.f('fk_plan_cell_variety_id_variety')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_plan_cell')),
    sqlite_strict=True
    )
    op.create_index('ix_plan_cell_variety_id', 'plan_cell', ['variety_id'])
    op.create_index('uq_plan_cell_live', 'plan_cell', ['variety_id', 'year'], unique=True, sqlite_where=sa.text('deleted_s IS NULL'))
    op.create_table('neighbour',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('deleted_s', sa.Integer(), nullable=True),
    sa.Column('version', sa.Integer(), nullable=False),
    sa.Column('crossing_group', sa.Text(), nullable=False),
    sa.Column('distance_m', sa.Float(), nullable=False),
    sa.Column('note', sa.Text(), nullable=False),
    sa.CheckConstraint('distance_m >= 0 AND distance_m <= 20000', name=op.f('ck_neighbour_distance_range')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_neighbour')),
    sqlite_strict=True
    )
    op.create_index('uq_neighbour_live', 'neighbour', ['crossing_group'], unique=True, sqlite_where=sa.text('deleted_s IS NULL'))
