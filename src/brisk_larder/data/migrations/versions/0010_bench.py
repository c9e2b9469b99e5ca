"""spots of the bench; ways of laying a test; days in the cold before it

Revision: 0010, after 0009
"""

import sqlalchemy as sa
from alembic import op

revision = '0010'
down_revision = '0009'
branch_labels = None
depends_on = None

COLUMNS = "id, deleted_s, version, code, lot_id, sown_s, n, medium, temperature_c, flaws, weight, closed_s, a_probit"


def upgrade() -> None:
    op.create_table('spot',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('deleted_s', sa.Integer(), nullable=True),
    sa.Column('version', sa.Integer(), nullable=False),
    sa.Column('name', sa.Text(), nullable=False),
    sa.Column('temperature_c', sa.Float(), nullable=False),
    sa.Column('light', sa.Text(), nullable=False),
    sa.Column('boxes', sa.Integer(), nullable=False),
    sa.Column('layers', sa.Integer(), nullable=False),
    sa.CheckConstraint("light IN ('light', 'dark', 'either')", name=op.f('ck_spot_light_word')),
    sa.CheckConstraint('temperature_c >= 0 AND temperature_c <= 45', name=op.f('ck_spot_temperature_range')),
    sa.CheckConstraint('boxes >= 1 AND boxes <= 50', name=op.f('ck_spot_boxes_range')),
    sa.CheckConstraint('layers >= 1 AND layers <= 20', name=op.f('ck_spot_layers_range')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_spot')),
    sqlite_strict=True
    )
    # a CHECK cannot be altered: the table is made anew; what points at it points at its name
    op.create_table('trial_0010',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('deleted_s', sa.Integer(), nullable=True),
    sa.Column('version', sa.Integer(), nullable=False),
    sa.Column('code', sa.Text(), nullable=False),
    sa.Column('lot_id', sa.Integer(), nullable=False),
    sa.Column('sown_s', sa.Integer(), nullable=False),
    sa.Column('n', sa.Integer(), nullable=False),
    sa.Column('medium', sa.Text(), nullable=False),
    sa.Column('temperature_c', sa.Float(), nullable=False),
    sa.Column('flaws', sa.Text(), nullable=False),
    sa.Column('weight', sa.Float(), nullable=False),
    sa.Column('closed_s', sa.Integer(), nullable=True),
    sa.Column('a_probit', sa.Float(), nullable=True),
    sa.Column('cold_days', sa.Float(), nullable=False, server_default='0'),
    sa.Column('decides', sa.Text(), nullable=False, server_default=''),
    sa.CheckConstraint("medium IN ('paper', 'rolled', 'top', 'sand', 'compost')", name=op.f('ck_trial_medium_word')),
    sa.CheckConstraint('closed_s IS NULL OR closed_s >= sown_s', name=op.f('ck_trial_closed_after_sown')),
    sa.CheckConstraint('n >= 1', name=op.f('ck_trial_n_positive')),
    sa.CheckConstraint('weight >= 0 AND weight <= 1', name=op.f('ck_trial_weight_range')),
    sa.CheckConstraint('cold_days >= 0 AND cold_days <= 120', name=op.f('ck_trial_cold_range')),
    sa.ForeignKeyConstraint(['lot_id'], ['lot.id'], name=op.f('fk_trial_lot_id_lot')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_trial')),
    sqlite_strict=True
    )
    op.execute(f"INSERT INTO trial_0010 ({COLUMNS}) SELECT {COLUMNS} FROM trial")
    op.drop_table('trial')
    op.rename_table('trial_0010', 'trial')
    op.create_index('ix_trial_lot_id', 'trial', ['lot_id'])
    op.create_index('uq_trial_code_live', 'trial', ['code'], unique=True, sqlite_where=sa.text('deleted_s IS NULL'))
