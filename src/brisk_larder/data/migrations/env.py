"""Alembic environment: the file's own path, batch mode, foreign keys off while tables are rebuilt."""

from alembic import context
from sqlalchemy import URL, create_engine
from sqlmodel import SQLModel
from sqlmodel.sql.sqltypes import AutoString

from brisk_larder.data import tables

assert tables, "importing the tables fills the metadata"
engine = create_engine(URL.create("sqlite", database=context.config.attributes["path"]))
with engine.connect() as connection:
    connection.exec_driver_sql("PRAGMA foreign_keys=OFF")
    connection.commit()
    context.configure(
        connection=connection,
        target_metadata=SQLModel.metadata,
        render_as_batch=True,
        render_item=lambda kind, item, ctx: (
            "sa.Text()" if kind == "type" and isinstance(item, AutoString) else False
        ),
    )
    with context.begin_transaction():
        context.run_migrations()
engine.dispose()
