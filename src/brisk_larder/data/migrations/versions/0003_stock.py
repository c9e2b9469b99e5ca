"""stock

Revision: 0003, after 0002
"""

import sqlalchemy as sa
from alembic import op

revision = '0003'
down_revision = '0002'
branch_labels = None
depends_on = None


def upgrade() -> None:
    # plain ALTERs with a default: a batch would copy the tables
    def text(table: str, name: str, default: str, words: str = '') -> None:
        check = f" CONSTRAINT ck_{table}_{name}_word CHECK ({name} IN ({words}))" if words else ''
        op.execute(f"ALTER TABLE {table} ADD COLUMN {name} TEXT NOT NULL DEFAULT '{default}'{check}")

    for table, name in (
        ('cohort', 'price'), ('lot', 'seeds_per_g'), ('part', 'start_a_probit'),
        ('part', 'start_sd_log10_a'), ('part', 'start_erh25'), ('trial', 'a_probit'),
    ):
        op.add_column(table, sa.Column(name, sa.Float(), nullable=True))
    for name in ('crossed_risk', 'from_kitchen'):
        op.add_column('cohort', sa.Column(name, sa.Integer(), nullable=False, server_default='0'))
    text('cohort', 'seller', '')
    text('household', 'school', 'forecast', "'age_rule', 'test', 'forecast', 'count'")
    text('household', 'code_scheme', 'letter', "'letter', 'number', 'kind', 'spoken'")
    text('household', 'currency', '')
    text('household', 'page_size', 'A4')
    text('household', 'address', '')
    text('lot', 'intended_use', 'seed', "'seed', 'food', 'shoots', 'sale', 'swap'")
    text('lot', 'tags', '')
    text('stay', 'section', '')

    # a CHECK cannot be altered: the ledger is made anew
    op.drop_index('ix_stock_entry_lot_id', 'stock_entry')
    op.rename_table('stock_entry', 'stock_entry_0002')
    op.create_table('stock_entry',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('deleted_s', sa.Integer(), nullable=True),
    sa.Column('lot_id', sa.Integer(), nullable=False),
    sa.Column('at_s', sa.Integer(), nullable=False),
    sa.Column('kind', sa.Text(), nullable=False),
    sa.Column('seeds_mean', sa.Float(), nullable=False),
    sa.Column('seeds_sd', sa.Float(), nullable=False),
    sa.Column('mass_g', sa.Float(), nullable=True),
    sa.Column('as_said', sa.Text(), nullable=False),
    sa.Column('ref', sa.Text(), nullable=False),
    sa.CheckConstraint("kind IN ('found', 'counted', 'sown', 'tested', 'given', 'eaten', 'lost', 'thrown', 'split', 'joined')", name=op.f('ck_stock_entry_kind_word')),
    sa.CheckConstraint('seeds_mean >= 0', name=op.f('ck_stock_entry_seeds_not_negative')),
    sa.CheckConstraint('seeds_sd >= 0', name=op.f('ck_stock_entry_sd_not_negative')),
    sa.ForeignKeyConstraint(['lot_id'], ['lot.id'], name=op.f('fk_stock_entry_lot_id_lot')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_stock_entry')),
    sqlite_strict=True
    )
    names = 'id, deleted_s, lot_id, at_s, kind, seeds_mean, seeds_sd, mass_g, as_said, ref'
    op.execute(f"INSERT INTO stock_entry ({names}) SELECT {names} FROM stock_entry_0002")
    op.drop_table('stock_entry_0002')
    op.create_index('ix_stock_entry_lot_id', 'stock_entry', ['lot_id'])

    op.create_table('parcel',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('deleted_s', sa.Integer(), nullable=True),
    sa.Column('version', sa.Integer(), nullable=False),
    sa.Column('code', sa.Text(), nullable=False),
    sa.Column('direction', sa.Text(), nullable=False),
    sa.Column('person', sa.Text(), nullable=False),
    sa.Column('state', sa.Text(), nullable=False),
    sa.Column('made_s', sa.Integer(), nullable=False),
    sa.Column('sent_s', sa.Integer(), nullable=True),
    sa.Column('note', sa.Text(), nullable=False),
    sa.Column('origin', sa.Text(), nullable=False),
    sa.CheckConstraint("direction IN ('out', 'in')", name=op.f('ck_parcel_direction_word')),
    sa.CheckConstraint("state IN ('promised', 'packed', 'sent', 'received')", name=op.f('ck_parcel_state_word')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_parcel')),
    sqlite_strict=True
    )
    with op.batch_alter_table('parcel', schema=None) as batch_op:
        batch_op.create_index('uq_parcel_code_live', ['code'], unique=True, sqlite_where=sa.text('deleted_s IS NULL'))

    op.create_table('saved_view',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('deleted_s', sa.Integer(), nullable=True),
    sa.Column('version', sa.Integer(), nullable=False),
    sa.Column('name', sa.Text(), nullable=False),
    sa.Column('spec', sa.Text(), nullable=False),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_saved_view')),
    sqlite_strict=True
    )
    with op.batch_alter_table('saved_view', schema=None) as batch_op:
        batch_op.create_index('uq_saved_view_live', ['name'], unique=True, sqlite_where=sa.text('deleted_s IS NULL'))

    op.create_table('earmark',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('deleted_s', sa.Integer(), nullable=True),
    sa.Column('version', sa.Integer(), nullable=False),
    sa.Column('lot_id', sa.Integer(), nullable=False),
    sa.Column('intended_use', sa.Text(), nullable=False),
    sa.Column('seeds_mean', sa.Float(), nullable=False),
    sa.Column('as_said', sa.Text(), nullable=False),
    sa.CheckConstraint("intended_use IN ('seed', 'food', 'shoots', 'sale', 'swap')", name=op.f('ck_earmark_intended_use_word')),
    sa.CheckConstraint('seeds_mean > 0', name=op.f('ck_earmark_seeds_range')),
    sa.ForeignKeyConstraint(['lot_id'], ['lot.id'], name=op.f('fk_earmark_lot_id_lot')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_earmark')),
    sqlite_strict=True
    )
    with op.batch_alter_table('earmark', schema=None) as batch_op:
        batch_op.create_index(batch_op.f('ix_earmark_lot_id'), ['lot_id'], unique=False)

    op.create_table('stocktake',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('deleted_s', sa.Integer(), nullable=True),
    sa.Column('version', sa.Integer(), nullable=False),
    sa.Column('node_id', sa.Integer(), nullable=False),
    sa.Column('started_s', sa.Integer(), nullable=False),
    sa.Column('ended_s', sa.Integer(), nullable=True),
    sa.Column('state', sa.Text(), nullable=False),
    sa.Column('expected', sa.Text(), nullable=False),
    sa.CheckConstraint("state IN ('open', 'paused', 'done', 'given_up')", name=op.f('ck_stocktake_state_word')),
    sa.ForeignKeyConstraint(['node_id'], ['node.id'], name=op.f('fk_stocktake_node_id_node')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_stocktake')),
    sqlite_strict=True
    )
    with op.batch_alter_table('stocktake', schema=None) as batch_op:
        batch_op.create_index(batch_op.f('ix_stocktake_node_id'), ['node_id'], unique=False)
        batch_op.create_index('uq_stocktake_open', ['node_id'], unique=True, sqlite_where=sa.text("state IN ('open', 'paused') AND deleted_s IS NULL"))

    op.create_table('parcel_line',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('deleted_s', sa.Integer(), nullable=True),
    sa.Column('parcel_id', sa.Integer(), nullable=False),
    sa.Column('lot_id', sa.Integer(), nullable=False),
    sa.Column('seeds_mean', sa.Float(), nullable=False),
    sa.Column('seeds_sd', sa.Float(), nullable=False),
    sa.Column('as_said', sa.Text(), nullable=False),
    sa.Column('entry_id', sa.Integer(), nullable=True),
    sa.CheckConstraint('seeds_mean > 0', name=op.f('ck_parcel_line_seeds_positive')),
    sa.ForeignKeyConstraint(['entry_id'], ['stock_entry.id'], name=op.f('fk_parcel_line_entry_id_stock_entry')),
    sa.ForeignKeyConstraint(['lot_id'], ['lot.id'], name=op.f('fk_parcel_line_lot_id_lot')),
    sa.ForeignKeyConstraint(['parcel_id'], ['parcel.id'], name=op.f('fk_parcel_line_parcel_id_parcel')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_parcel_line')),
    sqlite_strict=True
    )
    with op.batch_alter_table('parcel_line', schema=None) as batch_op:
        batch_op.create_index(batch_op.f('ix_parcel_line_lot_id'), ['lot_id'], unique=False)
        batch_op.create_index(batch_op.f('ix_parcel_line_parcel_id'), ['parcel_id'], unique=False)

    op.create_table('stocktake_line',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('deleted_s', sa.Integer(), nullable=True),
    sa.Column('version', sa.Integer(), nullable=False),
    sa.Column('stocktake_id', sa.Integer(), nullable=False),
    sa.Column('lot_id', sa.Integer(), nullable=False),
    sa.Column('at_s', sa.Integer(), nullable=False),
    sa.Column('result', sa.Text(), nullable=False),
    sa.Column('condition', sa.Text(), nullable=False),
    sa.Column('as_said', sa.Text(), nullable=False),
    sa.Column('came_from', sa.Integer(), nullable=True),
    sa.Column('changed', sa.Text(), nullable=False),
    sa.CheckConstraint("condition IN ('', 'damp', 'mouldy', 'sprouted', 'eaten')", name=op.f('ck_stocktake_line_condition_word')),
    sa.CheckConstraint("result IN ('found', 'counted', 'missing', 'moved', 'new')", name=op.f('ck_stocktake_line_result_word')),
    sa.ForeignKeyConstraint(['lot_id'], ['lot.id'], name=op.f('fk_stocktake_line_lot_id_lot')),
    sa.ForeignKeyConstraint(['stocktake_id'], ['stocktake.id'], name=op.f('fk_stocktake_line_stocktake_id_stocktake')),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_stocktake_line')),
    sqlite_strict=True
    )
    with op.batch_alter_table('stocktake_line', schema=None) as batch_op:
        batch_op.create_index(batch_op.f('ix_stocktake_line_lot_id'), ['lot_id'], unique=False)
        batch_op.create_index(batch_op.f('ix_stocktake_line_stocktake_id'), ['stocktake_id'], unique=False)
        batch_op.create_index('uq_stocktake_line_live', ['stocktake_id', 'lot_id'], unique=True, sqlite_where=sa.text('deleted_s IS NULL'))
