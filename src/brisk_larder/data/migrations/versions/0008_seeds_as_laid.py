"""each seed of a count as it lies

Revision: 0008, after 0007
"""

from alembic import op

revision = '0008'
down_revision = '0007'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("ALTER TABLE trial_count ADD COLUMN seeds TEXT NOT NULL DEFAULT ''")
