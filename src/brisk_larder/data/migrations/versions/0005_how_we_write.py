"""how the household writes: volumes, lengths, the first weekday, names of crops, no frost

Revision: 0005, after 0004
"""

from alembic import op

revision = '0005'
down_revision = '0004'
branch_labels = None
depends_on = None


def upgrade() -> None:
    # plain ALTERs with a default: a batch would copy the table
    def text(name: str, default: str, words: str) -> None:
        check = f"CONSTRAINT ck_household_{name}_word CHECK ({name} IN ({words}))"
        op.execute(f"ALTER TABLE household ADD COLUMN {name} TEXT NOT NULL DEFAULT '{default}' {check}")

    def whole(name: str, default: int, low: int, high: int) -> None:
        check = f"CONSTRAINT ck_household_{name}_range CHECK ({name} BETWEEN {low} AND {high})"
        op.execute(f"ALTER TABLE household ADD COLUMN {name} INTEGER NOT NULL DEFAULT {default} {check}")

    text('volume_unit', 'l', "'l', 'qt'")
    text('length_unit', 'm', "'m', 'ft'")
    text('crop_names', 'gb', "'gb', 'us'")
    whole('first_weekday', 1, 0, 6)
    whole('frost_free', 0, 0, 1)
