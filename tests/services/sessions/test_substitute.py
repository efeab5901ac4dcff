"""A substitute opens one session with a code and a name, does what a room needs, and nothing else."""

from __future__ import annotations

from sqlalchemy import select

from bildung.services.door import signin
from bildung.services.door import substitute as entering
from bildung.services.people import directory, log
from bildung.services.sessions import listing, room, running, substitute
from bildung.services.sessions.room import RoomAction
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.errors import Invalid, NotAllowed, NotFound, NotSignedIn
from bildung.store.models import PlannedSession, RoomEvent
from tests.services.sessions.test_room import RoomCase


class Substitutes(RoomCase):
    def setUp(self) -> None:
        super().setUp()
        self.code = substitute.make_code(self.ctx, self.boss, self.session)

    def enter(self, name: str = "Ines Okoro", code: str | None = None) -> tuple[str, Actor]:
        token, session = entering.enter(self.ctx, code or self.code.lower(), name, "here")
        self.assertEqual(session, self.session)
        return token.secret, signin.actor_of(self.ctx, token.secret)

    def test_two_fields_open_the_room(self) -> None:
        _, me = self.enter()
        page = listing.get_session(self.ctx, me, self.session)
        self.assertEqual((page.may_hold, page.may_run, page.may_plan, page.may_judge), (True, False, False, False))
        self.assertTrue(all(line.code for line in page.sittings))
        self.assertEqual(room.act(self.ctx, me, self.session, RoomAction(kind="pause", text="bell")), 2)
        third = page.sittings[2]
        running.mark(self.ctx, me, self.session, third.id, "absent")
        room.act(self.ctx, me, self.session, RoomAction(kind="irregularity", text="fire alarm"))
        with self.ctx.store.read() as db:
            noted = db.scalars(select(RoomEvent).where(RoomEvent.kind == "irregularity")).one()
            self.assertEqual(noted.by_id, me.person_id)
        self.assertEqual(listing.get_session(self.ctx, self.boss, self.session).irregularities[0].by, "Ines Okoro")
        self.assertEqual(listing.get_session(self.ctx, self.boss, self.session).substitutes, ["Ines Okoro"])
        lines, _ = log.search(self.ctx, self.boss, "substitute.enter")
        self.assertEqual(len(lines), 1)

    def test_nothing_else_is_open(self) -> None:
        _, me = self.enter()
        self.assertEqual([action for action in Action if me.may(action)], [Action.ROOM_HOLD])
        with self.assertRaises(NotAllowed):
            running.close(self.ctx, me, self.session)
        with self.assertRaises(NotAllowed):
            running.mark(self.ctx, me, self.session, self.page().sittings[2].id, "exempt")
        with self.assertRaises(NotAllowed):
            directory.list_people(self.ctx, me, "", 10)
        with self.assertRaises(NotFound):
            listing.get_session(self.ctx, me, self.session + 1)
        self.assertNotIn("Ines Okoro", [p.name for p in directory.list_people(self.ctx, self.boss, "", 100)[0]])

    def test_it_opens_half_an_hour_before_and_until_the_close(self) -> None:
        self.clock.pass_by(minutes=-60)
        with self.assertRaisesRegex(Invalid, "30 minutes before"):
            self.enter()
        self.clock.pass_by(minutes=30)
        secret, me = self.enter()
        self.clock.pass_by(minutes=30)
        running.close(self.ctx, self.boss, self.session)
        with self.assertRaises(NotSignedIn):
            signin.actor_of(self.ctx, secret)
        with self.assertRaises(NotFound):
            listing.get_session(self.ctx, me, self.session)
        with self.assertRaisesRegex(Invalid, "over"):
            self.enter()

    def test_it_is_dead_the_next_day_and_once_it_is_withdrawn(self) -> None:
        secret, _ = self.enter()
        substitute.withdraw(self.ctx, self.boss, self.session)
        with self.assertRaises(NotSignedIn):
            signin.actor_of(self.ctx, secret)
        with self.assertRaises(Invalid):
            self.enter()
        again = substitute.make_code(self.ctx, self.boss, self.session)
        self.assertNotEqual(again, self.code)
        secret, _ = self.enter(code=again)
        self.clock.pass_by(hours=24)
        with self.assertRaises(NotSignedIn):
            signin.actor_of(self.ctx, secret)
        with self.assertRaises(Invalid):
            self.enter(code=again)

    def test_bad_codes_and_names_are_refused_and_change_nothing(self) -> None:
        for code, name in (("NOTACODE", "A B"), ("", "A B"), (self.code, "  "), (self.code, "x" * 61)):
            with self.assertRaises(Invalid):
                entering.enter(self.ctx, code, name, f"address {code}")
        with self.ctx.store.read() as db:
            self.assertEqual(db.get_one(PlannedSession, self.session).substitute_code, self.code)

    def test_only_whoever_runs_the_session_makes_a_code(self) -> None:
        _, me = self.enter()
        for work in (substitute.make_code, substitute.withdraw):
            with self.assertRaises(NotAllowed):
                work(self.ctx, me, self.session)
