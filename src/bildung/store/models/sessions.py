"""Sessions and what happens in them: sittings, every answer as it came, the present answers."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, ForeignKey, Index, LargeBinary, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from bildung.store.models.base import Base
from bildung.store.models.classes import SchoolClass
from bildung.store.models.people import Person
from bildung.store.models.tests import Form
from bildung.store.models.years import Window


class PlannedSession(Base):
    """One planned occasion. code: what students type. closed_at: no more answers after it.

    data_version moves in the transaction of every change to its sittings or answers. part: of the form that is sat
    here, from 0, where a test has several sittings; None: all of it. deal: companions that are alike are dealt out in
    turn. renewed: whoever has not begun receives corrections of the form. released_at: since when students see what was right, where the form says so.
    title: what students see instead of the form's. instructions: of whoever planned it, for students. revision: moves
    with every change of the plan. canceled_at: it does not take place, or was ended for all; it is closed as well.
    still_owed: the test of a canceled session is owed all the same; not where it was scheduled by mistake.
    by_name: only who was placed in it is on its list, as in a makeup; its class says whose it is.
    due: of one that is open for days: what is submitted later is late; taken until its end. told_start, told_room: when and where students were told that it is, where it has moved since.
    paused_at: since when it stands still for all, also for who joins now. substitute_code: opens this one session to a
    substitute; None: no code was made, or it was withdrawn. afterward: what those who are finished do, in the words of
    whoever holds it.
    """

    __tablename__ = "session"
    id: Mapped[int] = mapped_column(primary_key=True)
    form_id: Mapped[int] = mapped_column(ForeignKey("form.id"), index=True)
    window_id: Mapped[int] = mapped_column(ForeignKey("window.id"), index=True)
    class_id: Mapped[int] = mapped_column(ForeignKey("class.id"), index=True)
    room: Mapped[str] = mapped_column(default="")
    proctor_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    start: Mapped[datetime]
    end: Mapped[datetime]
    code: Mapped[str] = mapped_column(unique=True)
    closed_at: Mapped[datetime | None]
    part: Mapped[int | None]
    deal: Mapped[bool] = mapped_column(default=False, server_default="0")
    renewed: Mapped[bool] = mapped_column(default=False, server_default="0")
    released_at: Mapped[datetime | None]
    data_version: Mapped[int] = mapped_column(default=1)
    title: Mapped[str] = mapped_column(default="", server_default="")
    instructions: Mapped[str] = mapped_column(default="", server_default="")
    revision: Mapped[int] = mapped_column(default=1, server_default="1")
    canceled_at: Mapped[datetime | None]
    cancel_why: Mapped[str] = mapped_column(default="", server_default="")
    still_owed: Mapped[bool] = mapped_column(default=True, server_default="1")
    by_name: Mapped[bool] = mapped_column(default=False, server_default="0")
    due: Mapped[datetime | None]
    told_start: Mapped[datetime | None]
    told_room: Mapped[str | None]
    paused_at: Mapped[datetime | None]
    afterward: Mapped[str] = mapped_column(default="", server_default="")
    substitute_code: Mapped[str | None] = mapped_column(unique=True, index=True)
    form: Mapped[Form] = relationship()
    window: Mapped[Window] = relationship()
    klass: Mapped[SchoolClass] = relationship()
    proctor: Mapped[Person | None] = relationship()
    sittings: Mapped[list[Sitting]] = relationship(back_populates="session")


class Sitting(Base):
    """One student's attempt. state: not_started, answering, resting, handed_in, on_paper, absent, exempt or void.

    on_paper: taken on paper; waits until the answers are entered, is not absent and in no total.

    resting: begun, and to be gone on with in another session. used_seconds: what was worked until it rested.
    clock_from: the moment from which its minutes count where that is not its start, so that it goes on with those left.
    section_at: seconds of its own clock at which the section began that it is in, where sections end by their own minutes.

    takeover: how often a device took the sitting over; answers are ordered by it, then by the
    device's own sequence, never by arrival. form_id: the companion form this student sits; None: the session's own.
    seed, drawn: of a drawn test, and the form items that were drawn. attempt: which one is open; answers of the first
    are the ones that count, of later ones see LaterAttempt. reached: the position beyond which nothing was shown yet,
    where a test runs one way. checked: form items whose answer the student was told of; they are final. ended_by_close:
    handed in or absent because the session was closed, so that opening it again takes that back. interrupted: void because
    something broke it off, not because it must not count; the student takes the test again. note: what happened to it
    that a scorer or reader of its results has to know.

    paused_at: since when its clock stands still. away_at: since when the student is out of the room, the screen covered.
    help_at: since when they ask for help. seen_at: when the device last said that it is there. added_seconds: by which its
    end moved: minutes that were given, and pauses that are over. device: what the device said it can do (see `signs`).
    way: school, home or paper; empty where nothing was said.
    """

    __tablename__ = "sitting"
    id: Mapped[int] = mapped_column(primary_key=True)
    session_id: Mapped[int] = mapped_column(ForeignKey("session.id"), index=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"), index=True)
    state: Mapped[str] = mapped_column(default="not_started")
    takeover: Mapped[int] = mapped_column(default=0)
    started_at: Mapped[datetime | None]
    handed_in_at: Mapped[datetime | None]
    last_at: Mapped[datetime | None]
    form_id: Mapped[int | None] = mapped_column(ForeignKey("form.id"), index=True)
    seed: Mapped[int | None]
    drawn: Mapped[list[int] | None] = mapped_column(JSON(none_as_null=True))
    checked: Mapped[list[int] | None] = mapped_column(JSON(none_as_null=True))
    attempt: Mapped[int] = mapped_column(default=1, server_default="1")
    reached: Mapped[int] = mapped_column(default=0, server_default="0")
    ended_by_close: Mapped[bool] = mapped_column(default=False, server_default="0")
    interrupted: Mapped[bool] = mapped_column(default=False, server_default="0")
    note: Mapped[str] = mapped_column(default="", server_default="")
    used_seconds: Mapped[int | None]
    clock_from: Mapped[datetime | None]
    section_at: Mapped[int] = mapped_column(default=0, server_default="0")
    paused_at: Mapped[datetime | None]
    away_at: Mapped[datetime | None]
    help_at: Mapped[datetime | None]
    seen_at: Mapped[datetime | None]
    added_seconds: Mapped[int] = mapped_column(default=0, server_default="0")
    device: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True))
    way: Mapped[str] = mapped_column(default="", server_default="")
    session: Mapped[PlannedSession] = relationship(back_populates="sittings")
    person: Mapped[Person] = relationship()
    __table_args__ = (UniqueConstraint("session_id", "person_id"),)

    @property
    def counted_from(self) -> datetime | None:
        """When the minutes of this attempt began."""
        return self.clock_from or self.started_at


class RoomEvent(Base):
    """Something that happened in the room. kind: pause, minutes, restroom, left (the page), offline, message, irregularity. sitting_id:
    None: of the whole session. words: of a message or irregularity, or the number of minutes or seconds. until: when it was over; of a
    message, when the student had read it. by_name: typed by a substitute who has no account. settled_at, outcome: of an
    irregularity, what was decided: counts, void or exempt."""

    __tablename__ = "room_event"
    id: Mapped[int] = mapped_column(primary_key=True)
    session_id: Mapped[int] = mapped_column(ForeignKey("session.id", ondelete="CASCADE"), index=True)
    sitting_id: Mapped[int | None] = mapped_column(ForeignKey("sitting.id", ondelete="CASCADE"), index=True)
    kind: Mapped[str]
    words: Mapped[str] = mapped_column(default="", server_default="")
    at: Mapped[datetime]
    until: Mapped[datetime | None]
    by_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    by_name: Mapped[str] = mapped_column(default="", server_default="")
    settled_at: Mapped[datetime | None]
    settled_by_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    outcome: Mapped[str] = mapped_column(default="", server_default="")


class Substitute(Base):
    """Who opened a session with its code: a person of the kind substitute, with the name they typed."""

    __tablename__ = "substitute"
    id: Mapped[int] = mapped_column(primary_key=True)
    session_id: Mapped[int] = mapped_column(ForeignKey("session.id", ondelete="CASCADE"), index=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"), index=True)
    code: Mapped[str]
    at: Mapped[datetime]


class SessionSupport(Base):
    """Who reads, writes or interprets for a student at a session. kind: of the accommodation."""

    __tablename__ = "session_support"
    session_id: Mapped[int] = mapped_column(ForeignKey("session.id", ondelete="CASCADE"), primary_key=True)
    student_id: Mapped[int] = mapped_column(ForeignKey("person.id", ondelete="CASCADE"), primary_key=True)
    kind: Mapped[str] = mapped_column(primary_key=True)
    staff_id: Mapped[int] = mapped_column(ForeignKey("person.id"), index=True)


class LaterAttempt(Base):
    """A second or further attempt: practice, in no figure. number: from 2. answers: by form item, with takeover and
    sequence of the last message. seed, drawn, checked, reached: as of a sitting."""

    __tablename__ = "later_attempt"
    id: Mapped[int] = mapped_column(primary_key=True)
    sitting_id: Mapped[int] = mapped_column(ForeignKey("sitting.id"))
    number: Mapped[int]
    answers: Mapped[dict[str, list[Any]]] = mapped_column(JSON, default=dict)
    seed: Mapped[int | None]
    drawn: Mapped[list[int] | None] = mapped_column(JSON(none_as_null=True))
    checked: Mapped[list[int] | None] = mapped_column(JSON(none_as_null=True))
    reached: Mapped[int] = mapped_column(default=0)
    started_at: Mapped[datetime]
    handed_in_at: Mapped[datetime | None]
    __table_args__ = (UniqueConstraint("sitting_id", "number"),)

    @property
    def counted_from(self) -> datetime:
        """When the minutes of this attempt began."""
        return self.started_at


class ResponseEvent(Base):
    """An answer as it came; only ever added. id: made by the device, so that a repeat counts once."""

    __tablename__ = "response_event"
    id: Mapped[str] = mapped_column(primary_key=True)
    sitting_id: Mapped[int] = mapped_column(ForeignKey("sitting.id"))
    form_item_id: Mapped[int] = mapped_column(ForeignKey("form_item.id"))
    answer: Mapped[str]
    takeover: Mapped[int]
    sequence: Mapped[int]
    at: Mapped[datetime]
    __table_args__ = (Index("ix_response_event_sitting_id", "sitting_id"),)


class Response(Base):
    """The present answer, rebuilt at any time from the events."""

    __tablename__ = "response"
    sitting_id: Mapped[int] = mapped_column(ForeignKey("sitting.id"), primary_key=True)
    form_item_id: Mapped[int] = mapped_column(ForeignKey("form_item.id"), primary_key=True)
    answer: Mapped[str]
    takeover: Mapped[int]
    sequence: Mapped[int]


class RefusedAnswer(Base):
    """An answer that came when it could no longer be taken, kept so that somebody can decide. id: made by the device.
    taken: whether it was taken in; None while nobody decided."""

    __tablename__ = "refused_answer"
    id: Mapped[str] = mapped_column(primary_key=True)
    sitting_id: Mapped[int] = mapped_column(ForeignKey("sitting.id"), index=True)
    form_item_id: Mapped[int] = mapped_column(ForeignKey("form_item.id"))
    answer: Mapped[str]
    takeover: Mapped[int]
    sequence: Mapped[int]
    at: Mapped[datetime]
    why: Mapped[str]
    taken: Mapped[bool | None]
    settled_at: Mapped[datetime | None]
    settled_by: Mapped[int | None] = mapped_column(ForeignKey("person.id"))


class TimeOn(Base):
    """How long an item was before a student, as one device counted it; it only grows. takeover: of that device."""

    __tablename__ = "time_on"
    sitting_id: Mapped[int] = mapped_column(ForeignKey("sitting.id"), primary_key=True)
    form_item_id: Mapped[int] = mapped_column(ForeignKey("form_item.id"), primary_key=True)
    takeover: Mapped[int] = mapped_column(primary_key=True)
    milliseconds: Mapped[int]


class StudentWork(Base):
    """What a student made beside an answer. kind: notes or sketch (strokes and pieces, as JSON). Not scored by itself; seen
    by whoever scores. takeover, sequence: its place in the order, as of an answer."""

    __tablename__ = "student_work"
    sitting_id: Mapped[int] = mapped_column(ForeignKey("sitting.id", ondelete="CASCADE"), primary_key=True)
    form_item_id: Mapped[int] = mapped_column(ForeignKey("form_item.id"), primary_key=True)
    kind: Mapped[str] = mapped_column(primary_key=True)
    content: Mapped[str]
    takeover: Mapped[int]
    sequence: Mapped[int]


class VisitLog(Base):
    """When each item was before a student, visit by visit, as one device counted it (see `services/sitting/visits`)."""

    __tablename__ = "visit_log"
    sitting_id: Mapped[int] = mapped_column(ForeignKey("sitting.id", ondelete="CASCADE"), primary_key=True)
    takeover: Mapped[int] = mapped_column(primary_key=True)
    packed: Mapped[bytes] = mapped_column(LargeBinary)


class PackedAnswers(Base):
    """All answers of a closed session as one matrix, so that an analysis need not read them one by one.

    sittings: int64 ids. codes: (form items in order of id, sittings) uint16; 0 is no answer, n the n-th of the
    item's labels. labels: by form item. times: (form items, sittings) uint32 milliseconds, 0 where the item was never
    opened or no device counted; None where none did.
    """

    __tablename__ = "packed_answers"
    session_id: Mapped[int] = mapped_column(ForeignKey("session.id"), primary_key=True)
    sittings: Mapped[bytes] = mapped_column(LargeBinary)
    codes: Mapped[bytes] = mapped_column(LargeBinary)
    labels: Mapped[dict[str, list[str]]] = mapped_column(JSON)
    times: Mapped[bytes | None] = mapped_column(LargeBinary)
