"""Published things stay as they are: triggers refuse what no code should attempt."""

from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None

_RULES = {
    "item_version_stays": ("item_version", "UPDATE", "1", "an item version never changes: make the next"),
    "item_version_kept": ("item_version", "DELETE", "1", "an item version is never deleted"),
    "scoring_stays": ("scoring", "UPDATE", "1", "a scoring never changes: make the next"),
    "form_stays": ("form", "UPDATE", "OLD.published_at IS NOT NULL", "a published form never changes"),
    "form_kept": ("form", "DELETE", "OLD.published_at IS NOT NULL", "a published form is never deleted"),
    "response_event_stays": ("response_event", "UPDATE", "1", "answers as they came are never changed"),
    "audit_stays": ("audit", "UPDATE", "1", "the audit log is never changed"),
    "audit_kept": ("audit", "DELETE", "1", "the audit log is never shortened"),
}
_FORM_ITEM = {"INSERT": "NEW", "UPDATE": "OLD", "DELETE": "OLD"}


def upgrade() -> None:
    for name, (table, verb, when, message) in _RULES.items():
        op.execute(
            f"CREATE TRIGGER {name} BEFORE {verb} ON {table} WHEN {when} BEGIN SELECT RAISE(ABORT, '{message}'); END"
        )
    for verb, row in _FORM_ITEM.items():
        op.execute(
            f"CREATE TRIGGER form_item_{verb.lower()}_stays BEFORE {verb} ON form_item "
            f"WHEN (SELECT published_at FROM form WHERE id = {row}.form_id) IS NOT NULL "
            f"BEGIN SELECT RAISE(ABORT, 'a published form never changes'); END"
        )


def downgrade() -> None:
    for name in [*_RULES, *(f"form_item_{verb.lower()}_stays" for verb in _FORM_ITEM)]:
        op.execute(f"DROP TRIGGER {name}")
