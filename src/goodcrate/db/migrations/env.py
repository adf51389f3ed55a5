"""Alembic's entry: one online run against the address given by `goodcrate.db.migrate`."""

from alembic import context
from sqlalchemy import create_engine

from goodcrate.db import tables

config = context.config
engine = create_engine(config.attributes["url"])

with engine.connect() as connection:
    context.configure(connection=connection, target_metadata=tables.METADATA)
    with context.begin_transaction():
        context.run_migrations()
engine.dispose()
