"""what is set as tubers, cloves, sets and plants: of a lot and of what is offered; types of offers; foods of several kinds;
what was sent for an act

Revision: 0017, after 0016
"""

from alembic import op

revision = '0017'
down_revision = '0016'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("ALTER TABLE lot ADD COLUMN form TEXT NOT NULL DEFAULT ''")
    op.execute("ALTER TABLE seed_offer ADD COLUMN form TEXT NOT NULL DEFAULT ''")
    op.execute("ALTER TABLE seed_offer ADD COLUMN types TEXT NOT NULL DEFAULT ''")
    op.execute("ALTER TABLE food_target ADD COLUMN also TEXT NOT NULL DEFAULT ''")
    op.execute("ALTER TABLE act ADD COLUMN said TEXT NOT NULL DEFAULT ''")
