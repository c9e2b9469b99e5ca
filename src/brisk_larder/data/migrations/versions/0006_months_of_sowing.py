"""the months in which it is sown where it never freezes

Revision: 0006, after 0005
"""

from alembic import op

revision = '0006'
down_revision = '0005'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("ALTER TABLE household ADD COLUMN sow_months TEXT NOT NULL DEFAULT ''")
