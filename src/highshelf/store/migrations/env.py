"""Alembic's way in: always on the connection that store/database.py hands over."""

from alembic import context
from sqlmodel import SQLModel

from highshelf.store import tables  # noqa: F401  (registers the tables)

context.configure(
    connection=context.config.attributes["connection"], target_metadata=SQLModel.metadata, render_as_batch=True
)
with context.begin_transaction():
    context.run_migrations()
