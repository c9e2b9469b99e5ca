"""tracks

Revision: 0004, after 0003
"""

import sqlalchemy as sa
from alembic import op

revision = '0004'
down_revision = '0003'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table('d_track',
    sa.Column('part_id', sa.Integer(), nullable=False),
    sa.Column('last_month_s', sa.Integer(), nullable=False),
    sa.Column('ends_s', sa.LargeBinary(), nullable=False),
    sa.Column('a_probit', sa.LargeBinary(), nullable=False),
    sa.PrimaryKeyConstraint('part_id', name=op.f('pk_d_track')),
    sqlite_strict=True,
    sqlite_with_rowid=False
    )
