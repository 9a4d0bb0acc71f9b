"""Alembic's entry; the connection is handed in by `Database.migrate`."""

from alembic import context

from assayer.store.models import Base

connection = context.config.attributes["connection"]
context.configure(connection=connection, target_metadata=Base.metadata, render_as_batch=True)
with context.begin_transaction():
    context.run_migrations()
