"""what tests of relatives say of each part

Revision: 0007, after 0006
"""

import sqlalchemy as sa
from alembic import op

revision = '0007'
down_revision = '0006'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table('d_kin',
    sa.Column('part_id', sa.Integer(), nullable=False),
    sa.Column('d_mean', sa.Float(), nullable=False),
    sa.Column('d_sd', sa.Float(), nullable=False),
    sa.Column('shared', sa.Float(), nullable=False),
    sa.Column('record_sd', sa.Float(), nullable=False),
    sa.Column('by_house', sa.Float(), nullable=False),
    sa.Column('by_kind', sa.Float(), nullable=False),
    sa.Column('by_place', sa.Float(), nullable=False),
    sa.Column('by_line', sa.Float(), nullable=False),
    sa.PrimaryKeyConstraint('part_id', name=op.f('pk_d_kin')),
    sqlite_strict=True,
    sqlite_with_rowid=False
    )
