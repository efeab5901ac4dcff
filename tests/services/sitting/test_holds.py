"""What is written while students work holds the one writer for a moment only: whoever saves an answer waits for it."""

from __future__ import annotations

import time
from collections import defaultdict
from collections.abc import Callable
from datetime import timedelta
from typing import Any

from bildung.services.door import signin
from bildung.services.sessions import changing, listing, running
from bildung.services.sessions.changing import SessionChange
from bildung.services.sitting import saving, taking
from bildung.services.sitting.events import Answer
from tests.support import WorldCase

LONGEST = 0.05  # seconds of processor time, at the best of several times: what else the machine does is no part of it
ROUNDS = 4


class Holds(WorldCase):
    """A class of thirty with a form of twelve, at work."""

    def setUp(self) -> None:
        super().setUp()
        self.detail = self.open_session(size=30, items=12)
        self.held: defaultdict[str, list[float]] = defaultdict(list)
        writer = self.ctx.store._writer
        put = writer._put

        def timed(jobs: Any, work: Callable[[Any], Any]) -> Any:
            def held(connection: Any) -> Any:
                began = time.thread_time()
                try:
                    return work(connection)
                finally:
                    self.held[self.now].append(time.thread_time() - began)

            return put(jobs, held)

        writer._put = timed  # type: ignore[method-assign]
        self.now = ""

    def does(self, what: str, work: Callable[[], Any]) -> Any:
        self.now = what
        return work()

    def test_nothing_that_happens_while_students_work_holds_it_for_longer(self) -> None:
        session = self.detail.session
        for n in range(ROUNDS):
            line = self.detail.sittings[n]
            token = self.does(
                "join", lambda line=line: signin.sign_in_student(self.ctx, session.code, line.code or "", "10.0.0.1")
            )
            me = signin.sitter_of(self.ctx, token.secret)
            paper = taking.paper(self.ctx, me)
            answers = [
                Answer(id=f"{n}-answer-{k:03d}", question=q.id, answer="A", takeover=me.takeover, sequence=k + 1)
                for k, q in enumerate(paper.questions)
                if q.shown.parts[0].type == "choice"
            ]
            for one in answers:
                self.does("save", lambda one=one: saving.save(self.ctx, me, [one], times={one.question: 4000}))
            self.does("all at once", lambda: saving.save(self.ctx, me, answers))
            self.does("submit", lambda: taking.hand_in(self.ctx, me))
            absent = self.detail.sittings[10 + n]
            self.does("mark", lambda id=absent.id: running.mark(self.ctx, self.boss, session.id, id, "absent"))
            until = session.end + timedelta(minutes=5 * (n + 1))
            revision = {session.id: self.revision()}
            self.does(
                "extend",
                lambda until=until, revision=revision: changing.change(
                    self.ctx, self.boss, revision, SessionChange(end=until)
                ),
            )
        for what, times in self.held.items():
            self.assertGreaterEqual(len(times), ROUNDS, what)
            self.assertLess(min(times), LONGEST, f"{what} holds the writer for {min(times) * 1000:.0f} ms")
        self.assertLess(min(self.held["save"]), LONGEST / 10, "a save is the shortest of all")

    def revision(self) -> int:
        return listing.get_session(self.ctx, self.boss, self.detail.session.id).session.revision
