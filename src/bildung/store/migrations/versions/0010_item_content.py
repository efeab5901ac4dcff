"""Items of every kind: content and scoring by parts, drafts, comments, tags, enemies, stimuli, media, finding."""

import json

import sqlalchemy as sa
from alembic import op

from bildung.store.models.base import Utc

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None

_STAY = {
    "item_version_stays": ("item_version", "UPDATE", "an item version never changes: make the next"),
    "scoring_stays": ("scoring", "UPDATE", "a scoring never changes: make the next"),
}
_STIMULUS = {
    "stimulus_version_stays": ("stimulus_version", "UPDATE", "a stimulus version never changes: make the next"),
    "stimulus_version_kept": ("stimulus_version", "DELETE", "a stimulus version is never deleted"),
}


_ITEM = (
    "state VARCHAR DEFAULT 'in_use' NOT NULL",
    "origin_version_id INTEGER CONSTRAINT fk_item_origin_version_id REFERENCES item_version (id)",
    "depth INTEGER",
    "topic VARCHAR DEFAULT '' NOT NULL",
    "unit VARCHAR DEFAULT '' NOT NULL",
    "language VARCHAR DEFAULT '' NOT NULL",
    "calculator VARCHAR DEFAULT '' NOT NULL",
    "seconds INTEGER",
    "source VARCHAR DEFAULT '' NOT NULL",
    "labels JSON DEFAULT '[]' NOT NULL",
)
_VERSION = (
    "stimulus_version_id INTEGER CONSTRAINT fk_item_version_stimulus_version_id REFERENCES stimulus_version (id)",
    "author_id INTEGER CONSTRAINT fk_item_version_author_id REFERENCES person (id)",
)


def _trigger(name: str, table: str, verb: str, message: str) -> None:
    op.execute(f"CREATE TRIGGER {name} BEFORE {verb} ON {table} BEGIN SELECT RAISE(ABORT, '{message}'); END")


def upgrade() -> None:
    op.create_table(
        "stimulus",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("code", sa.String(), nullable=False),
        sa.Column("subject", sa.String(), nullable=False),
        sa.Column("grade", sa.String(), nullable=False),
        sa.Column("owner_id", sa.Integer(), nullable=True),
        sa.ForeignKeyConstraint(["owner_id"], ["person.id"], name=op.f("fk_stimulus_owner_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_stimulus")),
        sa.UniqueConstraint("code", name=op.f("uq_stimulus_code")),
    )
    op.create_table(
        "stimulus_version",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("stimulus_id", sa.Integer(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("html", sa.String(), nullable=False),
        sa.Column("numbered", sa.Boolean(), nullable=False),
        sa.Column("media", sa.String(), nullable=False),
        sa.Column("told", sa.String(), nullable=False),
        sa.Column("credit", sa.String(), nullable=False),
        sa.Column("created_at", Utc(), nullable=False),
        sa.ForeignKeyConstraint(["stimulus_id"], ["stimulus.id"], name=op.f("fk_stimulus_version_stimulus_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_stimulus_version")),
        sa.UniqueConstraint("stimulus_id", "number", name=op.f("uq_stimulus_version_stimulus_id_number")),
    )
    op.create_index("ix_stimulus_version_stimulus_id", "stimulus_version", ["stimulus_id"])
    op.create_table(
        "media",
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("type", sa.String(), nullable=False),
        sa.Column("size", sa.Integer(), nullable=False),
        sa.Column("width", sa.Integer(), nullable=True),
        sa.Column("height", sa.Integer(), nullable=True),
        sa.Column("seconds", sa.Double(), nullable=True),
        sa.Column("person_id", sa.Integer(), nullable=True),
        sa.Column("created_at", Utc(), nullable=False),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_media_person_id")),
        sa.PrimaryKeyConstraint("key", name=op.f("pk_media")),
    )
    for column in _ITEM:
        op.execute(f"ALTER TABLE item ADD COLUMN {column}")
    op.create_index("ix_item_origin_version_id", "item", ["origin_version_id"])
    _content()
    op.create_table(
        "item_draft",
        sa.Column("item_id", sa.Integer(), nullable=False),
        sa.Column("content", sa.JSON(), nullable=False),
        sa.Column("template", sa.JSON(none_as_null=True), nullable=True),
        sa.Column("stimulus_id", sa.Integer(), nullable=True),
        sa.Column("stage", sa.String(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("author_id", sa.Integer(), nullable=True),
        sa.Column("offered_from", sa.Integer(), nullable=True),
        sa.Column("updated_at", Utc(), nullable=False),
        sa.ForeignKeyConstraint(["item_id"], ["item.id"], name=op.f("fk_item_draft_item_id"), ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["stimulus_id"], ["stimulus.id"], name=op.f("fk_item_draft_stimulus_id")),
        sa.ForeignKeyConstraint(["author_id"], ["person.id"], name=op.f("fk_item_draft_author_id")),
        sa.ForeignKeyConstraint(["offered_from"], ["item.id"], name=op.f("fk_item_draft_offered_from")),
        sa.PrimaryKeyConstraint("item_id", name=op.f("pk_item_draft")),
    )
    op.create_table(
        "item_comment",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("item_id", sa.Integer(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=True),
        sa.Column("at", Utc(), nullable=False),
        sa.Column("text", sa.String(), nullable=False),
        sa.Column("settled_at", Utc(), nullable=True),
        sa.ForeignKeyConstraint(["item_id"], ["item.id"], name=op.f("fk_item_comment_item_id"), ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_item_comment_person_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_item_comment")),
    )
    op.create_index("ix_item_comment_item_id", "item_comment", ["item_id"])
    op.create_table(
        "item_enemy",
        sa.Column("item_id", sa.Integer(), nullable=False),
        sa.Column("other_id", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["item_id"], ["item.id"], name=op.f("fk_item_enemy_item_id"), ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["other_id"], ["item.id"], name=op.f("fk_item_enemy_other_id"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("item_id", "other_id", name=op.f("pk_item_enemy")),
    )
    op.create_index("ix_item_enemy_other_id", "item_enemy", ["other_id"])
    op.create_table(
        "tag_change",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("at", Utc(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=True),
        sa.Column("what", sa.String(), nullable=False),
        sa.Column("before", sa.JSON(), nullable=False),
        sa.Column("after", sa.JSON(), nullable=False),
        sa.Column("undone_at", Utc(), nullable=True),
        sa.ForeignKeyConstraint(["person_id"], ["person.id"], name=op.f("fk_tag_change_person_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_tag_change")),
    )
    for name, (table, verb, message) in _STIMULUS.items():
        _trigger(name, table, verb, message)
    op.execute(
        "CREATE VIRTUAL TABLE item_words USING fts5(code, words, tags, standards, tokenize='unicode61 remove_diacritics 2')"
    )


def _content() -> None:
    """Choice and numeric items as they were become one part each."""
    for name in _STAY:
        op.execute(f"DROP TRIGGER {name}")
    op.add_column("item_version", sa.Column("shown", sa.JSON(), nullable=False, server_default="{}"))
    op.add_column("item_version", sa.Column("behind", sa.JSON(), nullable=False, server_default="{}"))
    op.add_column("item_version", sa.Column("template", sa.JSON(none_as_null=True), nullable=True))
    op.add_column("scoring", sa.Column("parts", sa.JSON(), nullable=False, server_default="[]"))
    connection = op.get_bind()
    found = connection.exec_driver_sql("SELECT id, kind, stem, options FROM item_version").all()
    for id, kind, stem, options in found:
        letters = [{"id": o["letter"], "html": o["html"]} for o in json.loads(options)]
        part = (
            {"id": "1", "type": "choice", "options": letters}
            if kind == "choice"
            else {"id": "1", "type": "entry", "numeric": True}
        )
        shown = json.dumps({"body": stem, "parts": [part], "tools": []})
        connection.exec_driver_sql("UPDATE item_version SET shown = ? WHERE id = ?", (shown, id))
    for id, key, points in connection.exec_driver_sql("SELECT id, key, points FROM scoring").all():
        parts = json.dumps([{"id": "1", "key": key, "points": points}])
        connection.exec_driver_sql("UPDATE scoring SET parts = ? WHERE id = ?", (parts, id))
    for column in _VERSION:
        op.execute(f"ALTER TABLE item_version ADD COLUMN {column}")
    op.create_index("ix_item_version_stimulus_version_id", "item_version", ["stimulus_version_id"])
    for table, column in (("item_version", "stem"), ("item_version", "options"), ("scoring", "key")):
        op.execute(f"ALTER TABLE {table} DROP COLUMN {column}")
    for name, (table, verb, message) in _STAY.items():
        _trigger(name, table, verb, message)


def downgrade() -> None:
    """Only while every item is one choice or one number: others have no place in the older tables."""
    connection = op.get_bind()
    for name in [*_STAY, *_STIMULUS]:
        op.execute(f"DROP TRIGGER {name}")
    other = connection.exec_driver_sql(
        "SELECT count(*) FROM item_version WHERE kind NOT IN ('choice', 'numeric')"
    ).scalar()
    if other:
        raise ValueError(f"{other} item versions are of kinds that the older tables cannot hold")
    op.add_column("item_version", sa.Column("stem", sa.String(), nullable=False, server_default=""))
    op.add_column("item_version", sa.Column("options", sa.JSON(), nullable=False, server_default="[]"))
    op.add_column("scoring", sa.Column("key", sa.String(), nullable=False, server_default=""))
    for id, shown in connection.exec_driver_sql("SELECT id, shown FROM item_version").all():
        content = json.loads(shown)
        options = [{"letter": o["id"], "html": o["html"]} for o in content["parts"][0].get("options", [])]
        connection.exec_driver_sql(
            "UPDATE item_version SET stem = ?, options = ? WHERE id = ?", (content["body"], json.dumps(options), id)
        )
    for id, parts in connection.exec_driver_sql("SELECT id, parts FROM scoring").all():
        connection.exec_driver_sql("UPDATE scoring SET key = ? WHERE id = ?", (json.loads(parts)[0]["key"], id))
    op.drop_index("ix_item_version_stimulus_version_id", "item_version")
    op.drop_index("ix_item_origin_version_id", "item")
    gone = [("scoring", "parts"), *(("item_version", name) for name in ("shown", "behind", "template"))]
    gone += [("item_version", column.split()[0]) for column in _VERSION] + [
        ("item", column.split()[0]) for column in _ITEM
    ]
    for table, column in gone:
        op.execute(f"ALTER TABLE {table} DROP COLUMN {column}")
    for name in (
        "item_words",
        "item_comment",
        "item_draft",
        "item_enemy",
        "tag_change",
        "media",
        "stimulus_version",
        "stimulus",
    ):
        op.drop_table(name)
    for name, (table, verb, message) in _STAY.items():
        _trigger(name, table, verb, message)
