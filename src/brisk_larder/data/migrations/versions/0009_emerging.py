"""what counted sowings say of emergence

Revision: 0009, after 0008
"""

import sqlalchemy as sa
from alembic import op

revision = '0009'
down_revision = '0008'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table('d_emergence',
    sa.Column('crop', sa.Text(), nullable=False),
    sa.Column('setting', sa.Text(), nullable=False),
    sa.Column('mean', sa.Float(), nullable=False),
    sa.Column('weight', sa.Float(), nullable=False),
    sa.Column('sowings', sa.Integer(), nullable=False),
    sa.PrimaryKeyConstraint('crop', 'setting', name=op.f('pk_d_emergence')),
    sqlite_strict=True,
    sqlite_with_rowid=False
    )
    op.create_table('d_sowing',
    sa.Column('sowing_id', sa.Integer(), nullable=False),
    sa.Column('x_mean', sa.Float(), nullable=False),
    sa.Column('x_sd', sa.Float(), nullable=False),
    sa.Column('failed', sa.Float(), nullable=False),
    sa.PrimaryKeyConstraint('sowing_id', name=op.f('pk_d_sowing')),
    sqlite_strict=True,
    sqlite_with_rowid=False
    )
