"""What a federation decides for itself, each thing by name with what is allowed."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, get_args
from urllib.parse import urlsplit

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.core.school.dates import STYLES, USUAL, Dates
from bildung.core.scoring.conditions import CONDITIONS, DEFAULTS, Worth
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid
from bildung.store.models import Setting


@dataclass(frozen=True)
class Kind:
    """default: until somebody decides. allowed: in words, for the error. secret: never told again."""

    default: Any
    fits: Callable[[Any], bool]
    allowed: str
    secret: bool = False


def _whole(least: int, most: int) -> Callable[[Any], bool]:
    return lambda v: isinstance(v, int) and not isinstance(v, bool) and least <= v <= most


def _address(value: Any) -> bool:
    if not isinstance(value, str) or len(value) > 300:
        return False
    parts = urlsplit(value)
    return value == "" or (parts.scheme in ("http", "https") and bool(parts.netloc))


def _share(value: Any) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool) and 0.5 <= value <= 1


def _short(value: Any) -> bool:
    return isinstance(value, str) and len(value) <= 200


def _yes_no(value: Any) -> bool:
    return isinstance(value, bool)


REASONS = (
    "parent refusal",
    "alternate assessment",
    "first year of English learning",
    "medical",
    "part-time or homeschooled, not enrolled in the subject",
    "takes the test at another school",
    "suspended",
)
MOST_REASONS = 20


def _reasons(value: Any) -> bool:
    """Texts that differ, none empty."""
    return (
        isinstance(value, list)
        and 0 < len(value) <= MOST_REASONS
        and all(isinstance(v, str) and 0 < len(v.strip()) <= 80 for v in value)
        and len({v.strip().lower() for v in value}) == len(value)
    )


def _condition_rules(value: Any) -> bool:
    return (
        isinstance(value, dict) and set(value) == set(CONDITIONS) and all(v in get_args(Worth) for v in value.values())
    )


KINDS: Mapping[str, Kind] = {
    "formats": Kind(USUAL, lambda v: v in STYLES, "en-US (month first, 12 hours) or en-GB (day first, 24 hours)"),
    "exemption_reasons": Kind(
        list(REASONS), _reasons, f"1 to {MOST_REASONS} different reasons of at most 80 characters"
    ),
    "condition_rules": Kind(dict(DEFAULTS), _condition_rules, "for each condition code one of zero, missing, second"),
    "growth_share": Kind(0.8, _share, "a share of the days from 0.5 to 1"),
    "least_inside": Kind(5, _whole(3, 30), "3 to 30 students"),
    "least_outside": Kind(10, _whole(5, 50), "5 to 50 students"),
    "keep_places": Kind(False, _yes_no, "yes or no"),
    "keep_sign_ins_days": Kind(400, _whole(30, 3650), "30 to 3650 days"),
    "keep_log_years": Kind(6, _whole(1, 50), "1 to 50 years"),
    "erase_departed_years": Kind(0, _whole(0, 50), "0 (never) to 50 years"),
    "records_on": Kind(False, _yes_no, "yes or no"),
    "records_address": Kind("", _address, "an address that begins with https:// or http://, or empty"),
    "records_client": Kind("", _short, "at most 200 characters"),
    "records_secret": Kind("", _short, "at most 200 characters", secret=True),
    "records_hour": Kind(2, _whole(0, 23), "an hour from 0 to 23"),
    "testservice_address": Kind("", _address, "an address that begins with https:// or http://, or empty"),
    "backup_hour": Kind(3, _whole(0, 23), "an hour from 0 to 23"),
    "backups_kept": Kind(14, _whole(0, 400), "0 (no nightly backup) to 400"),
    "site_address": Kind("", _address, "an address that begins with https:// or http://, or empty"),
    "provider_on": Kind(False, _yes_no, "yes or no"),
    "provider_address": Kind("", _address, "an address that begins with https:// or http://, or empty"),
    "provider_client": Kind("", _short, "at most 200 characters"),
    "provider_secret": Kind("", _short, "at most 200 characters", secret=True),
    "provider_name": Kind("the school account", _short, "at most 200 characters"),
}
TOLD = "set"


def setting(db: Session, name: str) -> Any:
    """One setting as the federation has it, or its usual value."""
    row = db.get(Setting, name)
    return KINDS[name].default if row is None else row.value


def dates_of(db: Session) -> Dates:
    """How the district writes days and times."""
    return Dates(setting(db, "formats"))


def settings(ctx: Context, actor: Actor) -> dict[str, Any]:
    """All of them; a secret only says whether it is set."""
    scope(actor, Action.SETTINGS)
    with ctx.store.read() as db:
        there = {row.name: row.value for row in db.scalars(select(Setting))}
    values = {name: there.get(name, kind.default) for name, kind in KINDS.items()}
    return {name: (TOLD if value else "") if KINDS[name].secret else value for name, value in values.items()}


def change_settings(ctx: Context, actor: Actor, values: Mapping[str, Any]) -> None:
    """Some of them, all or none."""
    scope(actor, Action.SETTINGS)
    for name, value in values.items():
        if name not in KINDS:
            raise Invalid(f"there is no setting {name!r}", name)
        if not KINDS[name].fits(value):
            raise Invalid(f"{name.replace('_', ' ')}: {KINDS[name].allowed}", name)

    def work(db: Session) -> None:
        before, after = {}, {}
        for name, value in values.items():
            old = setting(db, name)
            if old == value or (KINDS[name].secret and value == TOLD):
                continue
            db.merge(Setting(name=name, value=value))
            hidden = KINDS[name].secret
            before[name], after[name] = ("…", "…") if hidden else (old, value)
        if after:
            audit.record(db, ctx.clock(), actor.person_id, "settings.change", "settings", before, after)

    ctx.store.write(work)
