"""Runs migrations on the connection that `database.migrate` hands over."""

from alembic import context

from imbrix.store.models import Base

context.configure(connection=context.config.attributes["connection"], target_metadata=Base.metadata)
with context.begin_transaction():
    context.run_migrations()
