"""Run by Alembic: the connection is the store's, handed over in the configuration."""

from alembic import context

from notcher.core.ledger.base import Base

context.configure(connection=context.config.attributes["connection"], target_metadata=Base.metadata)
with context.begin_transaction():
    context.run_migrations()
