"""What is written while students work holds the one writer for a moment only: whoever saves an answer waits for it."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable
from datetime import timedelta
from typing import Any, TypeVar

from bildung.services.door import signin
from bildung.services.sessions import changing, listing, running
from bildung.services.sessions.changing import SessionChange
from bildung.services.sitting import saving, taking
from bildung.services.sitting.events import Answer
from tests.support import WorldCase, watch_holds

T = TypeVar("T")
LONGEST = 0.05  # seconds of processor time, at the best of several times: what else the machine does is no part of it
ROUNDS = 4


class Holds(WorldCase):
    """A class of thirty with a form of twelve, at work."""

    def setUp(self) -> None:
        super().setUp()
        self.detail = self.open_session(size=30, items=12)
        self.held: defaultdict[str, list[float]] = defaultdict(list)
        watch_holds(self.ctx.store, self.keep)
        self.now = ""

    def keep(self, seconds: float) -> None:
        self.held[self.now].append(seconds)

    def does(self, what: str, work: Callable[..., T], *given: Any, **more: Any) -> T:
        self.now = what
        return work(*given, **more)

    def test_nothing_that_happens_while_students_work_holds_it_for_longer(self) -> None:
        session, ctx = self.detail.session, self.ctx
        for n in range(ROUNDS):
            code = self.detail.sittings[n].code or ""
            token = self.does("join", signin.sign_in_student, ctx, session.code, code, "10.0.0.1")
            me = signin.sitter_of(ctx, token.secret)
            answers = [
                Answer(id=f"{n}-answer-{k:03d}", question=q.id, answer="A", takeover=me.takeover, sequence=k + 1)
                for k, q in enumerate(taking.paper(ctx, me).questions)
                if q.shown.parts[0].type == "choice"
            ]
            for one in answers:
                self.does("save", saving.save, ctx, me, [one], times={one.question: 4000})
            self.does("all at once", saving.save, ctx, me, answers)
            self.does("submit", taking.hand_in, ctx, me)
            absent = self.detail.sittings[10 + n].id
            self.does("mark", running.mark, ctx, self.boss, session.id, absent, "absent")
            seen = {session.id: listing.get_session(ctx, self.boss, session.id).session.revision}
            later = SessionChange(end=session.end + timedelta(minutes=5 * (n + 1)))
            self.does("extend", changing.change, ctx, self.boss, seen, later)
        for what, times in self.held.items():
            self.assertGreaterEqual(len(times), ROUNDS, what)
            self.assertLess(min(times), LONGEST, f"{what} holds the writer for {min(times) * 1000:.0f} ms")
        self.assertLess(min(self.held["save"]), LONGEST / 10, "a save is the shortest of all")
