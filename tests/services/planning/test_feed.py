"""A calendar program reads somebody's sessions under a secret address: when, where, which test, and nothing of students."""

from __future__ import annotations

from datetime import timedelta

from icalendar import Calendar
from sqlalchemy import select

from bildung.services.planning import feed
from bildung.services.sessions import changing
from bildung.services.sessions.changing import SessionChange
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.errors import NotFound
from bildung.store.models import CalendarFeed, Person
from tests.services.participation.support import HOUR, OwedCase


class Feeds(OwedCase):
    def setUp(self) -> None:
        super().setUp()
        self.session = self.plan(0, 5)
        self.other = self.plan(1, 30)
        self.teacher = self.teacher_of(self.classes[0])

    def events(self, token: str) -> dict[str, dict[str, object]]:
        found = Calendar.from_ical(feed.read(self.ctx, token))
        return {
            str(event["uid"]): {
                "start": event.decoded("dtstart"),
                "end": event.decoded("dtend"),
                "says": str(event["summary"]),
                "where": str(event.get("location", "")),
                "sequence": int(event["sequence"]),
            }
            for event in found.walk("VEVENT")
        }

    def test_a_teacher_has_the_sessions_of_their_classes(self) -> None:
        token = feed.make(self.ctx, self.teacher)
        event = next(e for e in self.events(token).values() if "5.1" in str(e["says"]))
        start = self.clock.now + timedelta(hours=5)
        self.assertEqual((event["start"], event["end"]), (start, start + HOUR))
        self.assertEqual((event["says"], event["where"]), ("A form, Mathematics 5.1", "Room A51"))

    def test_a_proctor_has_those_they_hold_and_a_move_carries_a_higher_number(self) -> None:
        with self.ctx.store.read() as db:
            id = db.scalars(select(Person.id).where(Person.source_id.startswith("HM-P"))).first()
        assert id is not None
        proctor = Actor(person_id=id, name="", grants=(Grant("proctor", None),), sign_in_id=0, csrf="")
        token = feed.make(self.ctx, proctor)
        self.assertEqual(self.events(token), {})
        changing.change(self.ctx, self.boss, {self.other: 1}, SessionChange(proctor=id))
        ((uid, before),) = self.events(token).items()
        self.assertRegex(str(before["says"]), r"Mathematics 5\.2 \(proctor\)$")
        changing.change(self.ctx, self.boss, {self.other: 2}, SessionChange(shift=30, room="Library"))
        after = self.events(token)[uid]
        self.assertGreater(after["sequence"], before["sequence"])  # type: ignore[operator]
        self.assertEqual(after["where"], "Room Library")
        changing.cancel(self.ctx, self.boss, [self.other], "the ferry does not run")
        self.assertEqual(self.events(token), {})

    def test_no_student_and_no_code_is_in_it(self) -> None:
        text = feed.read(self.ctx, feed.make(self.ctx, self.teacher)).decode()
        with self.ctx.store.read() as db:
            for person in db.scalars(select(Person).where(Person.kind == "student")):
                self.assertNotIn(person.family, text)
        self.assertNotIn("CODE", text.upper().replace("UTF", ""))

    def test_a_new_address_ends_the_old_one_and_revoked_or_gone_there_is_none(self) -> None:
        old = feed.make(self.ctx, self.teacher)
        new = feed.make(self.ctx, self.teacher)
        self.assertIsNotNone(feed.state(self.ctx, self.teacher).since)
        for token in (old, "", "x" * 5000, "\udcff"):
            with self.assertRaises(NotFound):
                feed.read(self.ctx, token)
        with self.ctx.store.read() as db:
            self.assertNotIn(new, [row.token_hash for row in db.scalars(select(CalendarFeed))])
        feed.revoke(self.ctx, self.teacher)
        self.assertIsNone(feed.state(self.ctx, self.teacher).since)
        with self.assertRaises(NotFound):
            feed.read(self.ctx, new)
        last = feed.make(self.ctx, self.teacher)
        self.ctx.store.write(lambda db: setattr(db.get_one(Person, self.teacher.person_id), "active", False))
        with self.assertRaises(NotFound):
            feed.read(self.ctx, last)
