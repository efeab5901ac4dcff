"""Alembic's entry: the tables of bildung.store.models, the address given by the caller."""

from alembic import context
from sqlalchemy import engine_from_config, pool

from bildung.store.models import Base

engine = engine_from_config(context.config.get_section("alembic") or {}, prefix="sqlalchemy.", poolclass=pool.NullPool)
with engine.connect() as connection:
    context.configure(connection=connection, target_metadata=Base.metadata, render_as_batch=True)
    with context.begin_transaction():
        context.run_migrations()
