"""since when a stay is known, and where seed lay before; types within a kind; what was typed; how a stated
germination is meant

Revision: 0016, after 0015
"""

from alembic import op

revision = '0016'
down_revision = '0015'
branch_labels = None
depends_on = None


def upgrade() -> None:
    # until now a first stay was taken to reach back to the beginning: nobody had said so
    op.execute(
        "ALTER TABLE stay ADD COLUMN since TEXT NOT NULL DEFAULT 'supposed' "
        "CONSTRAINT ck_stay_since_word CHECK (since IN ('told', 'came', 'supposed'))"
    )
    op.execute("ALTER TABLE household ADD COLUMN unplaced_wrapper TEXT NOT NULL DEFAULT 'paper_envelope'")
    op.execute(
        'ALTER TABLE household ADD COLUMN unplaced_told INTEGER NOT NULL DEFAULT 0 '
        'CONSTRAINT ck_household_unplaced_told_flag CHECK (unplaced_told IN (0, 1))'
    )
    op.execute("ALTER TABLE variety ADD COLUMN types TEXT NOT NULL DEFAULT ''")
    op.execute("ALTER TABLE lot ADD COLUMN as_typed TEXT NOT NULL DEFAULT ''")
    op.execute(
        "ALTER TABLE cohort ADD COLUMN stated_as TEXT NOT NULL DEFAULT '' "
        "CONSTRAINT ck_cohort_stated_as_word CHECK (stated_as IN ('', 'tested', 'at_least'))"
    )
    op.execute("ALTER TABLE food_target ADD COLUMN types TEXT NOT NULL DEFAULT ''")
