"""Alembic's entry: the connection comes from :mod:`eldrim.store.database`."""

from alembic import context

from eldrim.store.tables import Base

connection = context.config.attributes["connection"]
context.configure(connection=connection, target_metadata=Base.metadata)
with context.begin_transaction():
    context.run_migrations()
