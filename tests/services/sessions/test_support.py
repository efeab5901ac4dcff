"""Readers, scribes and interpreters at a session, and what they see there."""

from __future__ import annotations

from sqlalchemy.orm import Session

from bildung.services.people import accommodations
from bildung.services.people.accommodations import Entered
from bildung.services.sessions import listing, proctoring, support
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed, NotFound
from bildung.store.models import Person, Role
from tests.services.sessions.test_changing import ChangeCase


class Supporting(ChangeCase):
    def setUp(self) -> None:
        super().setUp()
        self.session = self.plan(0, 5)
        self.ann, self.ben = self.students(0)[:2]
        for student in (self.ann, self.ben):
            accommodations.enter(self.ctx, self.boss, student, Entered(kind="human_reader", subject="Mathematics"))
        accommodations.enter(self.ctx, self.boss, self.ann, Entered(kind="scribe"))
        self.reader = self.staff("reader")

    def staff(self, name: str, role: str | None = "proctor") -> Actor:
        def add(db: Session) -> int:
            person = Person(source_id=f"local:{name}", given=name.title(), family="Marsh", kind="staff", username=name)
            db.add(person)
            db.flush()
            if role:
                db.add(Role(person_id=person.id, role=role))
            return person.id

        id = self.ctx.store.write(add)
        return Actor(person_id=id, name=name, grants=(Grant(role or "none", None),), sign_in_id=0, csrf="")

    def page(self, actor: Actor | None = None) -> support.SupportPage:
        return support.support_page(self.ctx, actor or self.boss, self.session)

    def assign(self, staff: Actor, kind: str, *students: int) -> None:
        support.assign(self.ctx, self.boss, self.session, staff.person_id, kind, students)

    def test_who_is_missing_is_said_until_somebody_is_assigned(self) -> None:
        found = self.page()
        self.assertEqual(found.finding, "3 accommodations need a person who is not assigned yet.")
        self.assign(self.reader, "human_reader", self.ann, self.ben)
        self.assign(self.staff("scribe"), "scribe", self.ann)
        found = self.page()
        self.assertEqual(found.finding, "Everyone who needs a person beside them has one.")
        self.assertEqual(
            {(line.student, line.kind, line.staff_name) for line in found.lines},
            {
                (self.ann, "human_reader", "Reader Marsh"),
                (self.ben, "human_reader", "Reader Marsh"),
                (self.ann, "scribe", "Scribe Marsh"),
            },
        )
        support.withdraw(self.ctx, self.boss, self.session, self.ben, "human_reader")
        first = self.page().lines[0]
        self.assertEqual((first.student, first.staff), (self.ben, None))
        with self.assertRaises(NotFound):
            support.withdraw(self.ctx, self.boss, self.session, self.ben, "human_reader")

    def test_they_see_the_session_and_whom_they_serve_and_nothing_of_the_others(self) -> None:
        with self.assertRaises(NotFound):
            listing.get_session(self.ctx, self.reader, self.session)
        self.assign(self.reader, "human_reader", self.ann)
        detail = listing.get_session(self.ctx, self.reader, self.session)
        self.assertEqual((detail.may_run, detail.may_judge, detail.may_plan), (False, False, False))
        self.assertEqual({(s.code, s.needs) for s in detail.sittings}, {(None, "")})
        self.assertNotIn("accommodations", detail.finding)
        self.assertEqual([(x.student, x.kind) for x in self.page(self.reader).lines], [(self.ann, "human_reader")])
        teacher = self.staff("odile", "specialist")
        self.assign(teacher, "scribe", self.ann)
        self.assertEqual([(x.student, x.kind) for x in self.page(teacher).lines], [(self.ann, "scribe")])
        with self.assertRaises((NotFound, NotAllowed)):
            support.assign(self.ctx, self.reader, self.session, self.reader.person_id, "human_reader", [self.ben])

    def test_nobody_is_in_two_places_and_one_reader_has_one_form(self) -> None:
        other = self.plan(1, 5)
        self.assign(self.reader, "human_reader", self.ann)
        with self.assertRaisesRegex(Conflict, "Reader Marsh supports a student at A form"):
            self.change(other, proctor=self.reader.person_id)
        proctor = self.staff("proctor")
        self.change(other, proctor=proctor.person_id)
        with self.assertRaisesRegex(Conflict, "Proctor Marsh proctors A form in B51 at that time"):
            self.assign(proctor, "human_reader", self.ben)
        with self.assertRaisesRegex(Invalid, "has no sign language interpreter"):
            self.assign(self.reader, "sign_language", self.ann)
        with self.assertRaisesRegex(Invalid, "not on the session's list"):
            self.assign(self.reader, "human_reader", self.students(1)[0])
        with self.assertRaisesRegex(Invalid, "has no role yet"):
            self.assign(self.staff("guest", None), "human_reader", self.ben)
        self.change(self.session, proctor=self.staff("own").person_id)

    def test_who_supports_somebody_is_offered_for_nothing_else_then(self) -> None:
        other = self.plan(1, 5)
        proctors = self.proctors()
        self.change(other, proctor=proctors[0])
        day = self.line(other).start.date()
        (cover,) = proctoring.suggest(self.ctx, self.boss, proctors[0], day).covers
        first = int(cover.proctor or 0)
        helper = Actor(person_id=first, name="", grants=(), sign_in_id=0, csrf="")
        self.assign(helper, "human_reader", self.ann)
        (cover,) = proctoring.suggest(self.ctx, self.boss, proctors[0], day).covers
        self.assertNotEqual(cover.proctor, first, "they are with a student")
        support.withdraw(self.ctx, self.boss, self.session, self.ann, "human_reader")
        (cover,) = proctoring.suggest(self.ctx, self.boss, proctors[0], day).covers
        self.assertEqual(cover.proctor, first)

    def test_a_session_does_not_move_to_where_its_reader_is_elsewhere(self) -> None:
        other = self.plan(1, 30)
        self.change(other, proctor=self.reader.person_id)
        self.assign(self.reader, "human_reader", self.ann)
        there = self.line(other)
        with self.assertRaisesRegex(Conflict, "Reader Marsh proctors A form"):
            self.change(self.session, start=there.start, end=there.end)
        with self.assertRaisesRegex(Conflict, "supports a student at this session; someone else has to proctor it"):
            self.change(self.session, proctor=self.reader.person_id)
        self.move(self.ann, 1)
        self.change(self.session, proctor=self.reader.person_id)

    def test_a_student_who_is_no_longer_on_the_list_binds_nobody(self) -> None:
        self.assign(self.reader, "human_reader", self.ann)
        self.move(self.ann, 1)
        with self.assertRaises(NotFound):
            listing.get_session(self.ctx, self.reader, self.session)
