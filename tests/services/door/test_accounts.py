"""Passwords and sign-ins: one's own and those set right by a coordinator; a screen left alone."""

from __future__ import annotations

from datetime import timedelta

from sqlalchemy import select

from bildung.services.door import accounts, signin
from bildung.services.people import log
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.errors import Invalid, NotAllowed, NotFound, NotSignedIn
from bildung.store.models import Person
from tests.support import PASSWORD, WorldCase, small_roster

NEW = "a-longer-tide-table"


class Accounts(WorldCase):
    def setUp(self) -> None:
        super().setUp()
        self.bring_people(small_roster(4))
        with self.ctx.store.read() as db:
            self.teacher = db.scalars(select(Person).where(Person.source_id == "HM-TM01")).one()

    def enter(self, username: str = "boss", password: str = PASSWORD) -> tuple[Actor, str]:
        token = signin.sign_in_staff(self.ctx, username, password, "here", "A Browser")
        return signin.actor_of(self.ctx, token.secret), token.secret

    def test_a_changed_password_ends_every_other_sign_in(self) -> None:
        (actor, here), (_, there) = self.enter(), self.enter()
        accounts.change_password(self.ctx, actor, PASSWORD, NEW)
        signin.actor_of(self.ctx, here)
        with self.assertRaises(NotSignedIn):
            signin.actor_of(self.ctx, there)
        with self.assertRaises(Invalid):
            self.enter()
        self.enter(password=NEW)

    def test_what_is_no_password_to_have_is_refused(self) -> None:
        actor, _ = self.enter()
        for old, new, said in (
            ("wrong", NEW, "not your current password"),
            (PASSWORD, "short", "10 to 200 characters"),
            (PASSWORD, "x" * 201, "10 to 200"),
            (PASSWORD, PASSWORD, "differs from"),
            (PASSWORD, "Hanne Quill", "and your name"),
        ):
            with self.assertRaisesRegex(Invalid, said):
                accounts.change_password(self.ctx, actor, old, new)
        self.enter()

    def test_a_reset_password_is_good_for_choosing_ones_own_and_nothing_else(self) -> None:
        temporary = accounts.reset_password(self.ctx, self.boss, self.teacher.id)
        actor, secret = self.enter(self.teacher.username or "", temporary)
        self.assertTrue(actor.must_change)
        accounts.change_password(self.ctx, actor, temporary, NEW)
        self.assertFalse(signin.actor_of(self.ctx, secret).must_change)
        lines, _ = log.search(self.ctx, self.boss, "password")
        self.assertEqual([line.action for line in lines], ["password.change", "password.reset"])
        self.assertFalse([line for line in lines if temporary in line.after + line.before or NEW in line.after])

    def test_a_reset_ends_the_sign_ins_of_that_person_only(self) -> None:
        _, mine = self.enter()
        first = accounts.reset_password(self.ctx, self.boss, self.teacher.id)
        _, theirs = self.enter(self.teacher.username or "", first)
        accounts.reset_password(self.ctx, self.boss, self.teacher.id)
        signin.actor_of(self.ctx, mine)
        with self.assertRaises(NotSignedIn):
            signin.actor_of(self.ctx, theirs)

    def test_only_staff_within_scope_can_be_reset(self) -> None:
        elsewhere = Actor(person_id=self.boss_id, name="X", grants=(Grant("coordinator", 999),), sign_in_id=0, csrf="")
        teacher = Actor(person_id=self.teacher.id, name="T", grants=(Grant("teacher", None),), sign_in_id=0, csrf="")
        with self.ctx.store.read() as db:
            student = db.scalars(select(Person.id).where(Person.student.is_(True))).first() or 0
        for actor, person, kind in (
            (elsewhere, self.teacher.id, NotFound),
            (teacher, self.teacher.id, NotAllowed),
            (self.boss, student, NotFound),
            (self.boss, self.boss_id, Invalid),
        ):
            with self.assertRaises(kind):
                accounts.reset_password(self.ctx, actor, person)

    def test_sign_ins_are_listed_and_ended_one_by_one(self) -> None:
        (actor, _), (other, there) = self.enter(), self.enter()
        lines = accounts.list_sign_ins(self.ctx, actor)
        self.assertEqual([(line.here, line.device) for line in lines], [(False, "A Browser"), (True, "A Browser")])
        accounts.end_sign_in(self.ctx, actor, other.sign_in_id)
        with self.assertRaises(NotSignedIn):
            signin.actor_of(self.ctx, there)
        for id in (other.sign_in_id, 10**6):
            with self.assertRaises(NotFound):
                accounts.end_sign_in(self.ctx, actor, id)

    def test_a_screen_left_alone_for_an_hour_is_signed_out_and_one_in_use_is_not(self) -> None:
        _, secret = self.enter()
        for _ in range(5):
            self.clock.now += timedelta(minutes=40)
            signin.actor_of(self.ctx, secret)
        self.clock.now += timedelta(minutes=61)
        with self.assertRaisesRegex(NotSignedIn, "left alone for an hour"):
            signin.actor_of(self.ctx, secret)
