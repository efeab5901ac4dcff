"""Guessing names, passwords and codes is slowed, told with how long, forgotten by no restart, and locks nobody out."""

from __future__ import annotations

import random
from datetime import UTC, datetime, timedelta

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.core.school.usernames import normal_username
from bildung.services.door import accounts, signin
from bildung.services.shared.codes import ALPHABET, STUDENT_LENGTH
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid, TooMany
from bildung.services.shared.throttle import ACCOUNT, CODES_OF, CODES_OF_HERE, Limit, wait_after
from bildung.store.models import FailedTry, Person, SchoolClass, SignIn
from bildung.store.store import Store
from tests.support import PASSWORD, WorldCase, small_roster


class Names(WorldCase):
    def test_one_name_has_one_form_however_it_is_typed(self) -> None:
        for typed in ("boss", " BOSS ", "\u00a0boss\u200b", "ｂｏｓｓ", "bo\u00adss"):
            self.assertEqual(normal_username(typed), "boss")
            signin.sign_in_staff(self.ctx, typed, PASSWORD, "here")
        self.assertNotEqual(normal_username("bo ss"), "boss")

    def guess(self, name: str = "boss", address: str = "here") -> str:
        try:
            signin.sign_in_staff(self.ctx, name, "wrong", address)
        except (TooMany, Invalid) as problem:
            return type(problem).__name__
        return "in"

    def test_blanks_capitals_and_other_addresses_do_not_pass_the_limit_of_an_account(self) -> None:
        tries = [self.guess(f"{' ' * at}Boss{' ' * at}", f"10.0.0.{at}") for at in range(7)]
        self.assertEqual(tries, ["WrongPassword"] * 5 + ["TooMany"] * 2)

    def test_the_wait_is_told_grows_and_ends(self) -> None:
        for _ in range(5):
            self.guess()
        with self.assertRaisesRegex(TooMany, "try again in 1 second,"):
            signin.sign_in_staff(self.ctx, "boss", PASSWORD, "here")
        waits = []
        for _ in range(8):
            with self.assertRaises(TooMany) as told:
                signin.sign_in_staff(self.ctx, "boss", "wrong", "here")
            waits.append(told.exception.retry_after.total_seconds())
            self.clock.pass_by(seconds=waits[-1] + 0.1)
            self.assertEqual(self.guess(), "WrongPassword")
        self.assertEqual([round(w) for w in waits], [1, 2, 4, 8, 16, 32, 64, 128])
        self.clock.pass_by(minutes=5)
        self.assertEqual(signin.sign_in_staff(self.ctx, "boss", PASSWORD, "here").kind, "staff")

    def test_a_restart_forgets_nothing(self) -> None:
        for _ in range(5):
            self.guess()
        self.ctx.store.close()
        self.ctx = Context(store=Store(self.folder), clock=self.clock)
        self.addCleanup(self.ctx.store.close)
        self.assertEqual(self.guess(), "TooMany")

    def test_one_address_is_slowed_over_all_accounts_and_others_are_not(self) -> None:
        for at in range(60):
            self.guess(f"name-{at}", "one place")
        self.assertEqual(
            (self.guess("name-x", "one place"), self.guess("name-x", "elsewhere")), ("TooMany", "WrongPassword")
        )

    def test_signing_in_rightly_and_what_the_old_password_is_leave_no_trace(self) -> None:
        for _ in range(20):
            signin.sign_in_staff(self.ctx, "boss", PASSWORD, "here")
        with self.ctx.store.read() as db:
            self.assertEqual(db.scalar(select(func.count()).select_from(FailedTry)), 0)

    def test_the_old_password_cannot_be_guessed_from_an_open_screen(self) -> None:
        for at in range(7):
            with self.assertRaises(Invalid if at < 5 else TooMany):
                accounts.change_password(self.ctx, self.boss, "wrong", "another-password")


class Temporary(WorldCase):
    def test_a_temporary_password_ends_after_two_weeks_and_is_no_guess_then(self) -> None:
        def helper(db: Session) -> int:
            person = Person(source_id="local:x", given="A", family="B", kind="staff", username="ab")
            db.add(person)
            db.flush()
            return person.id

        person = self.ctx.store.write(helper)
        given = accounts.reset_password(self.ctx, self.boss, person)
        signin.sign_in_staff(self.ctx, "ab", given, "here")
        self.clock.pass_by(days=15)
        for _ in range(7):
            with self.assertRaisesRegex(Invalid, "has expired; ask the coordinator"):
                signin.sign_in_staff(self.ctx, "ab", given, "here")

    def test_signing_in_again_can_end_what_was_open(self) -> None:
        for _ in range(3):
            signin.sign_in_staff(self.ctx, "boss", PASSWORD, "here")
        signin.sign_in_staff(self.ctx, "boss", PASSWORD, "here", end_others=True)
        with self.ctx.store.read() as db:
            self.assertEqual(db.scalar(select(func.count()).select_from(SignIn).where(SignIn.revoked_at.is_(None))), 1)


class Codes(WorldCase):
    def setUp(self) -> None:
        super().setUp()
        self.bring_people(small_roster(5))
        with self.ctx.store.read() as db:
            self.code = db.scalars(select(SchoolClass.code).where(SchoolClass.id == self.class_id())).one() or ""
        self.own = self.codes_of(self.class_id())

    def guess(self, address: str) -> bool:
        """Whether the guess was judged at all."""
        try:
            signin.sign_in_student(self.ctx, self.code, f"X{address}", address)
        except TooMany:
            return False
        except Invalid:
            return True
        raise AssertionError

    def test_a_hundred_addresses_are_no_faster_than_one_and_the_school_goes_on(self) -> None:
        signin.sign_in_student(self.ctx, self.code, self.own[0], "the school")
        judged = sum(self.guess(f"10.0.{at}.1") for at in range(200))
        self.assertEqual(judged, CODES_OF.steps[0][0])
        for own in self.own:
            signin.sign_in_student(self.ctx, self.code, own, "the school")

    def test_a_hundred_children_at_one_address_each_slip_once_and_nobody_waits(self) -> None:
        signin.sign_in_student(self.ctx, self.code, self.own[0], "the school")
        for at in range(100):
            code = self.code if at % 5 == 0 else f"CLASS{at}"
            with self.assertRaises(Invalid):
                signin.sign_in_student(self.ctx, code, f"SLIP{at}", "the school")
            signin.sign_in_student(self.ctx, self.code, self.own[at % 5], "the school")

    def test_new_codes_have_six_signs(self) -> None:
        self.assertEqual({len(code) for code in self.own}, {STUDENT_LENGTH})
        self.assertEqual(STUDENT_LENGTH, 6)

    def tries_in_a_year(self, limit: Limit) -> int:
        """Of somebody who tries as often as is let through."""
        now = start = datetime(2026, 8, 1, tzinfo=UTC)
        failures: list[datetime] = []
        tries = 0
        longest = max(within for _, within, _ in limit.steps)
        while now < start + timedelta(days=365):
            now += wait_after(limit, failures, now)
            failures = [at for at in failures if at > now - longest] if tries % 50 == 0 else failures
            failures.append(now)
            tries += 1
            now += timedelta(seconds=0.05)
        return tries

    def test_a_class_of_24_stays_unguessed_for_a_year(self) -> None:
        room = len(ALPHABET) ** STUDENT_LENGTH
        for limit, addresses in ((CODES_OF, 1), (CODES_OF_HERE, 1)):
            tries = addresses * self.tries_in_a_year(limit)
            chance = 1 - (1 - 24 / room) ** tries
            self.assertLess(chance, 0.002, f"{limit.kind}: {tries} tries")

    def test_waits_are_those_of_the_last_failures_whatever_came_before(self) -> None:
        rng, now = random.Random(3), datetime(2026, 11, 2, tzinfo=UTC)
        for _ in range(200):
            failures = sorted(now - timedelta(seconds=rng.uniform(0, 7200)) for _ in range(rng.randrange(1, 20)))
            recent = [at for at in failures if at > now - timedelta(hours=1)]
            steps = [pause for count, _, pause in ACCOUNT.steps if len(recent) >= count]
            expected = max(timedelta(0), failures[-1] + max(steps, default=timedelta(0)) - now)
            self.assertEqual(wait_after(ACCOUNT, failures, now), expected)
