"""by how much the state of a part and its ageing would differ were its wall slower

Revision: 0018, after 0017
"""

from alembic import op

revision = '0018'
down_revision = '0017'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("ALTER TABLE d_month ADD COLUMN wall_erh REAL NOT NULL DEFAULT 0")
    op.execute("ALTER TABLE d_month ADD COLUMN wall_a REAL NOT NULL DEFAULT 0")
