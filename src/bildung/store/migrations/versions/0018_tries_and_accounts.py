"""Failed tries in the store, temporary passwords that end, accounts of a provider by subject, one form of user names."""

import sqlalchemy as sa
from alembic import op

from bildung.core.school.usernames import normal_username
from bildung.store.models.base import Utc

revision = "0018"
down_revision = "0017"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "failed_try",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("at", Utc(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_failed_try")),
    )
    op.create_index("ix_failed_try_kind_key_at", "failed_try", ["kind", "key", "at"])
    op.create_table(
        "provider_account",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("issuer", sa.String(), nullable=False),
        sa.Column("subject", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=True),
        sa.Column("proposed_id", sa.Integer(), nullable=True),
        sa.Column("at", Utc(), nullable=False),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_provider_account_person_id")),
        sa.ForeignKeyConstraint(["proposed_id"], ["person.id"], name=op.f("fk_provider_account_proposed_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_provider_account")),
        sa.UniqueConstraint("issuer", "subject", name=op.f("uq_provider_account_issuer_subject")),
    )
    op.create_index(op.f("ix_provider_account_person_id"), "provider_account", ["person_id"])
    op.create_index(op.f("ix_provider_account_proposed_id"), "provider_account", ["proposed_id"])
    op.add_column("person", sa.Column("temporary_until", Utc(), nullable=True))
    _one_form()


def _one_form() -> None:
    """User names as they are compared from now on; of two that become one, the first keeps it."""
    db = op.get_bind()
    rows = db.execute(sa.text("SELECT id, username FROM person WHERE username IS NOT NULL ORDER BY id")).all()
    taken: set[str] = set()
    for id, username in rows:
        name = normal_username(username)
        while name in taken:
            name += f"-{id}"
        taken.add(name)
        if name != username:
            db.execute(sa.text("UPDATE person SET username = :name WHERE id = :id"), {"name": f"?{id}", "id": id})
    taken.clear()
    for id, username in rows:
        name = normal_username(username)
        while name in taken:
            name += f"-{id}"
        taken.add(name)
        if name != username:
            db.execute(sa.text("UPDATE person SET username = :name WHERE id = :id"), {"name": name, "id": id})


def downgrade() -> None:
    op.drop_column("person", "temporary_until")
    op.drop_table("provider_account")
    op.drop_table("failed_try")
