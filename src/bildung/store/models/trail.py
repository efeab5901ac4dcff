"""Who is signed in, what was changed by whom, and imports that wait for a decision."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, ForeignKey, Index, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from bildung.store.models.base import Base


class SignIn(Base):
    """A server-side session. token_hash: of the cookie. sitting_id: set for a student who sits a test.
    place: the address it came from, kept only where the federation decided so. delivery_hash: of the secret with which a
    device brings this attempt's answers after its student has left it."""

    __tablename__ = "sign_in"
    id: Mapped[int] = mapped_column(primary_key=True)
    token_hash: Mapped[str] = mapped_column(unique=True)
    csrf: Mapped[str]
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"), index=True)
    sitting_id: Mapped[int | None] = mapped_column(ForeignKey("sitting.id"), index=True)
    takeover: Mapped[int] = mapped_column(default=0)
    created_at: Mapped[datetime]
    seen_at: Mapped[datetime | None]
    device: Mapped[str] = mapped_column(default="", server_default="")
    place: Mapped[str] = mapped_column(default="", server_default="")
    expires_at: Mapped[datetime]
    revoked_at: Mapped[datetime | None]
    delivery_hash: Mapped[str | None] = mapped_column(index=True)


class FailedTry(Base):
    """A try at signing in that failed, to slow down the next ones. key: a digest of whose or from where; no name and no
    address is kept."""

    __tablename__ = "failed_try"
    id: Mapped[int] = mapped_column(primary_key=True)
    kind: Mapped[str]
    key: Mapped[str]
    at: Mapped[datetime]
    __table_args__ = (Index("ix_failed_try_kind_key_at", "kind", "key", "at"),)


class ProviderAccount(Base):
    """An account of a sign-in provider, by its issuer and subject, and whose it is. person_id: None while nobody confirmed
    it; proposed_id: whose user name it carries."""

    __tablename__ = "provider_account"
    id: Mapped[int] = mapped_column(primary_key=True)
    issuer: Mapped[str]
    subject: Mapped[str]
    name: Mapped[str] = mapped_column(default="")
    person_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"), index=True)
    proposed_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"), index=True)
    at: Mapped[datetime]
    __table_args__ = (UniqueConstraint("issuer", "subject"),)


class AuditEntry(Base):
    """One change: who, when, what, before, after, why."""

    __tablename__ = "audit"
    id: Mapped[int] = mapped_column(primary_key=True)
    at: Mapped[datetime]
    person_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    action: Mapped[str]
    subject: Mapped[str]
    before: Mapped[Any] = mapped_column(JSON)
    after: Mapped[Any] = mapped_column(JSON)
    why: Mapped[str] = mapped_column(default="")


class StagedImport(Base):
    """Uploaded files between preview and decision. fingerprint: of the plan that was shown."""

    __tablename__ = "staged_import"
    id: Mapped[str] = mapped_column(primary_key=True)
    kind: Mapped[str]
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    folder: Mapped[str]
    fingerprint: Mapped[str]
    created_at: Mapped[datetime]
    applied_at: Mapped[datetime | None]


class RosterReport(Base):
    """Something wrong with a list, said by whoever noticed it at a session; open until settled_at."""

    __tablename__ = "roster_report"
    id: Mapped[int] = mapped_column(primary_key=True)
    session_id: Mapped[int] = mapped_column(ForeignKey("session.id"), index=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    text: Mapped[str]
    at: Mapped[datetime]
    settled_at: Mapped[datetime | None]


class RecordsRun(Base):
    """One look at the school's records system. state: done, waiting (it would remove many: somebody decides),
    left or failed. lines: what it changed or would change; staged: the files it read, while it waits."""

    __tablename__ = "records_run"
    id: Mapped[int] = mapped_column(primary_key=True)
    at: Mapped[datetime]
    state: Mapped[str]
    bulk: Mapped[bool]
    counts: Mapped[dict[str, int]] = mapped_column(JSON)
    lines: Mapped[list[dict[str, str]]] = mapped_column(JSON)
    message: Mapped[str] = mapped_column(default="")
    person_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    decided_at: Mapped[datetime | None]
