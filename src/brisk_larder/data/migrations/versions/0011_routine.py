"""a household may test by routine

Revision: 0011, after 0010
"""

from alembic import op

revision = '0011'
down_revision = '0010'
branch_labels = None
depends_on = None

WAS = "'age_rule', 'test', 'forecast', 'count'"
NOW = "'age_rule', 'test', 'routine', 'forecast', 'count'"


def upgrade() -> None:
    # a CHECK cannot be altered: the table is made anew from its own words, one word added
    run = op.get_bind().exec_driver_sql
    made = str(run("SELECT sql FROM sqlite_master WHERE type = 'table' AND name = 'household'").scalar())
    if made.count(WAS) != 1:
        raise RuntimeError(f'table household of another make: {made}')
    names = ', '.join(row[1] for row in run("PRAGMA table_info('household')"))
    op.rename_table('household', 'household_0010')
    run(made.replace(WAS, NOW))
    run(f'INSERT INTO household ({names}) SELECT {names} FROM household_0010')
    op.drop_table('household_0010')
