"""sellers, offers, wishes and orders; what may be spent on seed in a year

Revision: 0013, after 0012
"""

import sqlalchemy as sa
from alembic import op

revision = '0013'
down_revision = '0012'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        'ALTER TABLE household ADD COLUMN seed_budget REAL '
        'CONSTRAINT ck_household_seed_budget_range CHECK (seed_budget >= 0)'
    )

    def edited() -> list[sa.Column]:
        return [
            sa.Column('id', sa.Integer(), nullable=False),
            sa.Column('deleted_s', sa.Integer(), nullable=True),
            sa.Column('version', sa.Integer(), nullable=False),
        ]

    op.create_table('seller', *edited(),
    sa.Column('name', sa.Text(), nullable=False),
    sa.Column('postage', sa.Float(), nullable=False),
    sa.Column('lead_days', sa.Float(), nullable=True),
    sa.CheckConstraint('postage >= 0', name=op.f('ck_seller_postage_range')),
    sa.CheckConstraint('lead_days BETWEEN 0 AND 365', name=op.f('ck_seller_lead_range')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_seller')),
    sqlite_strict=True
    )
    op.create_index('uq_seller_name_live', 'seller', ['name'], unique=True, sqlite_where=sa.text('deleted_s IS NULL'))
    op.create_table('seed_offer', *edited(),
    sa.Column('seller_id', sa.Integer(), nullable=False),
    sa.Column('crop', sa.Text(), nullable=False),
    sa.Column('variety', sa.Text(), nullable=False),
    sa.Column('pack_seeds', sa.Integer(), nullable=False),
    sa.Column('price', sa.Float(), nullable=False),
    sa.Column('stated_germination', sa.Float(), nullable=True),
    sa.Column('hybrid', sa.Integer(), nullable=False),
    sa.Column('packs_left', sa.Integer(), nullable=True),
    sa.Column('sale_ends_s', sa.Integer(), nullable=True),
    sa.Column('feed_ref', sa.Text(), nullable=False),
    sa.CheckConstraint('pack_seeds >= 1', name=op.f('ck_seed_offer_seeds_range')),
    sa.CheckConstraint('price >= 0', name=op.f('ck_seed_offer_price_range')),
    sa.CheckConstraint('stated_germination BETWEEN 0 AND 1', name=op.f('ck_seed_offer_stated_range')),
    sa.CheckConstraint('packs_left >= 0', name=op.f('ck_seed_offer_packs_range')),
    sa.CheckConstraint('hybrid IN (0, 1)', name=op.f('ck_seed_offer_hybrid_flag')),
    sa.ForeignKeyConstraint(['seller_id'], ['seller.id'], name=op.f('fk_seed_offer_seller_id_seller')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_seed_offer')),
    sqlite_strict=True
    )
    op.create_index('ix_seed_offer_seller_id', 'seed_offer', ['seller_id'])
    op.create_table('wanted_seed', *edited(),
    sa.Column('crop', sa.Text(), nullable=False),
    sa.Column('variety', sa.Text(), nullable=False),
    sa.Column('plants', sa.Integer(), nullable=False),
    sa.Column('priority', sa.Integer(), nullable=False),
    sa.Column('season', sa.Text(), nullable=False),
    sa.Column('place', sa.Text(), nullable=False),
    sa.Column('note', sa.Text(), nullable=False),
    sa.CheckConstraint('priority BETWEEN 1 AND 5', name=op.f('ck_wanted_seed_priority_range')),
    sa.CheckConstraint('plants >= 1', name=op.f('ck_wanted_seed_plants_range')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_wanted_seed')),
    sqlite_strict=True
    )
    op.create_table('seed_order', *edited(),
    sa.Column('offer_id', sa.Integer(), nullable=False),
    sa.Column('packs', sa.Integer(), nullable=False),
    sa.Column('price', sa.Float(), nullable=False),
    sa.Column('ordered_s', sa.Integer(), nullable=False),
    sa.Column('state', sa.Text(), nullable=False),
    sa.Column('lot_id', sa.Integer(), nullable=True),
    sa.CheckConstraint('packs >= 1', name=op.f('ck_seed_order_packs_range')),
    sa.CheckConstraint("state IN ('ordered', 'arrived', 'never_came')", name=op.f('ck_seed_order_state_word')),
    sa.ForeignKeyConstraint(['offer_id'], ['seed_offer.id'], name=op.f('fk_seed_order_offer_id_seed_offer')),
    sa.ForeignKeyConstraint(['lot_id'], ['lot.id'], name=op.f('fk_seed_order_lot_id_lot')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_seed_order')),
    sqlite_strict=True
    )
    op.create_index('ix_seed_order_offer_id', 'seed_order', ['offer_id'])
