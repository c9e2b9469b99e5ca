"""the months in which it is sown where it never freezes

Revision: 0006, after 0005
"""

from alembic import op

revision = '0006'
down_revision = '0005'
branch_labels = None
depends_on = None


def upgrade() -> None:
    # a program between two releases wrote the column already, and still called its files 0005
    columns = op.get_bind().exec_driver_sql("PRAGMA table_info(household)").fetchall()
    if "sow_months" in {row[1] for row in columns}:
        return
    op.execute("ALTER TABLE household ADD COLUMN sow_months TEXT NOT NULL DEFAULT ''")
