"""Alembic's entry: runs on the connection that the caller hands in."""

from alembic import context

from eager_ear.store.tables import Base

connection = context.config.attributes["connection"]
context.configure(connection=connection, target_metadata=Base.metadata)
with context.begin_transaction():
    context.run_migrations()
