"""what spoiled on the shelf; the address of the calendar

Revision: 0014, after 0013
"""

from alembic import op

revision = '0014'
down_revision = '0013'
branch_labels = None
depends_on = None

WAS = "'counted', 'put_up', 'opened', 'given'"
NOW = "'counted', 'put_up', 'opened', 'given', 'spoiled'"


def upgrade() -> None:
    op.execute("ALTER TABLE household ADD COLUMN calendar_token TEXT NOT NULL DEFAULT ''")
    # a CHECK cannot be altered: the ledger is made anew from its own words, one word added
    run = op.get_bind().exec_driver_sql
    made = str(run("SELECT sql FROM sqlite_master WHERE type = 'table' AND name = 'pantry_entry'").scalar())
    if made.count(WAS) != 1:
        raise RuntimeError(f'table pantry_entry of another make: {made}')
    names = ', '.join(row[1] for row in run("PRAGMA table_info('pantry_entry')"))
    op.rename_table('pantry_entry', 'pantry_entry_0013')
    run(made.replace(WAS, NOW))
    run(f'INSERT INTO pantry_entry ({names}) SELECT {names} FROM pantry_entry_0013')
    op.drop_table('pantry_entry_0013')
