"""Runs migrations on the connection the store hands over."""

from alembic import context

from oddlamp.store.models import Base

connection = context.config.attributes["connection"]
context.configure(connection=connection, target_metadata=Base.metadata, render_as_batch=True)
context.run_migrations()
