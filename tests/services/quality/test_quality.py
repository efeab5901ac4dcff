"""Item quality on the demo: the planted findings come out, denominators are right, access holds."""

from __future__ import annotations

import shutil
import tempfile
from datetime import timedelta
from pathlib import Path

from sqlalchemy import func, select, text
from sqlalchemy.orm import Session

from bildung.core.explain.workings import left_out_of_item
from bildung.demo.district import one_school, school_year
from bildung.demo.make import make_demo
from bildung.services.quality.functioning import by_group, comparable
from bildung.services.quality.item import given_answers
from bildung.services.quality.judged import Judged, judge
from bildung.services.quality.lines import list_sat
from bildung.services.quality.scope import ScopeRequest
from bildung.services.sessions import listing, running
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.context import Context
from bildung.services.shared.errors import NotAllowed, NotFound
from bildung.services.sitting import events, saving
from bildung.store.models import Form, Person, PlannedSession, Response, Sitting
from bildung.store.store import Store
from tests.demo_case import DemoCase
from tests.support import NOON, Clock, WorldCase


def tables(ctx: Context) -> dict[str, list[tuple[object, ...]]]:
    """People, items and answers: what the seed decides."""
    with ctx.store.read() as db:
        return {
            "people": [
                tuple(r) for r in db.execute(select(Person.source_id, Person.given, Person.family, Person.code))
            ],
            "states": [tuple(r) for r in db.execute(select(Sitting.person_id, Sitting.state).order_by(Sitting.id))],
            "answers": [
                tuple(r) for r in db.execute(select(Response.sitting_id, Response.form_item_id, Response.answer))
            ],
        }


class Demo(DemoCase):
    def judged(self, name: str, actor: Actor | None = None, sessions: list[int] | None = None) -> Judged:
        return judge(self.ctx, actor or self.boss, self.wanted(name, sessions=tuple(sessions or ())))

    def test_everybody_sat_two_forms_of_34_items(self) -> None:
        found = list_sat(self.ctx, self.boss)
        self.assertEqual(len(found), 11)
        self.assertEqual({s.items for s in found if s.form.startswith("Fall")}, {34})
        now = max(s.latest for s in found)
        this_year = {s.form: s.sat + s.absent for s in found if (now - s.latest).days < 200}
        self.assertEqual({n for form, n in this_year.items() if not form.startswith("Task")}, {120})
        self.assertEqual(this_year["Task mathematics 8"], 48)

    def test_the_planted_problems_are_all_there_are_and_the_wrong_key_is_said_first(self) -> None:
        first = list_sat(self.ctx, self.boss)[0]
        self.assertEqual(first.form, "Fall mathematics 6")
        judged = self.judged("Fall mathematics 6")
        self.assertTrue(judged.finding[0].text.startswith("Item 14 probably carries a wrong key"))
        problems = [
            (j.scoped.forms[0].name, i.item.name)
            for s in list_sat(self.ctx, self.boss)
            if (j := self.judged(s.form))
            for i in j.analysis.items
            if any(f.weight == "problem" for f in i.flags)
        ]
        self.assertEqual(set(problems), {("Fall mathematics 6", "M6-14"), ("Fall mathematics 7", "M7-14")})

    def test_the_planted_idle_distractor_is_noted(self) -> None:
        item = self.judged("Fall reading 7").analysis.items[8]
        self.assertIn("idle_distractor", {flag.flag for flag in item.flags})

    def test_absent_students_are_in_no_denominator(self) -> None:
        judged = self.judged("Fall mathematics 6")
        counts = judged.analysis.counts
        with self.ctx.store.read() as db:
            absent = db.scalar(
                select(func.count())
                .select_from(Sitting)
                .join(PlannedSession)
                .join(Form)
                .where(Form.name == "Fall mathematics 6", Sitting.state == "absent")
                .where(PlannedSession.window_id == judged.scoped.all[0].window_id)
            )
        self.assertEqual(counts["absent"], absent)
        self.assertGreater(counts["absent"], 0)
        self.assertEqual(judged.analysis.distribution.n, 120 - counts["absent"])
        for item in judged.analysis.items:
            self.assertEqual(item.figures.n + item.figures.n_not_reached, 120 - counts["absent"])

    def test_who_is_left_out_of_an_item_adds_up_with_who_is_counted(self) -> None:
        analysis = self.judged("Fall mathematics 7").analysis
        for item in analysis.items:
            left = left_out_of_item(analysis, item)
            self.assertEqual(item.figures.n + sum(n for _, n in left), 120)
            self.assertIn(("absent", analysis.counts["absent"]), left)

    def test_one_class_alone_counts_its_own(self) -> None:
        judged = self.judged("Fall mathematics 6")
        one = self.judged("Fall mathematics 6", sessions=[judged.scoped.all[0].id])
        self.assertEqual(one.analysis.counts["rows"], 24)

    def test_teachers_of_the_course_see_figures_of_the_grade_and_names_of_their_own(self) -> None:
        with self.ctx.store.read() as db:
            person = db.scalars(select(Person).where(Person.source_id == "BM-TM01")).one()
        teacher = Actor(
            person_id=person.id, name=person.name, grants=(Grant("teacher", person.school_id),), sign_in_id=0, csrf=""
        )
        judged = self.judged("Fall mathematics 6", teacher)
        self.assertEqual(judged.analysis.counts["rows"], 120)
        mine = given_answers(self.ctx, teacher, self.wanted("Fall mathematics 6"), "M6-01")
        self.assertEqual({g.klass for g in mine}, {"Mathematics 6.1", "Mathematics 6.2"})
        with self.assertRaises(NotFound):
            self.judged("Fall reading 8", teacher)
        with self.assertRaises(NotAllowed):
            self.judged(
                "Fall mathematics 6",
                Actor(person_id=person.id, name="P", grants=(Grant("proctor", None),), sign_in_id=0, csrf=""),
            )

    def test_a_void_sitting_leaves_and_the_cache_notices(self) -> None:
        judged = self.judged("Fall mathematics 7")
        before = judged.analysis.distribution.n
        session = judged.scoped.all[0].id
        detail = listing.get_session(self.ctx, self.boss, session)
        attempt = next(s for s in detail.sittings if s.state == "handed_in")
        running.mark(self.ctx, self.boss, session, attempt.id, "void", "copied")
        self.assertEqual(self.judged("Fall mathematics 7").analysis.distribution.n, before - 1)
        running.mark(self.ctx, self.boss, session, attempt.id, "back")
        self.assertEqual(self.judged("Fall mathematics 7").analysis.distribution.n, before)

    def test_a_corrected_key_rescores_what_was_sat(self) -> None:
        """The next scoring of a version is in force at once, for answers given before it."""
        first = self.judged("Fall mathematics 8").analysis.items[0].figures
        self.ctx.store.write(
            lambda db: db.execute(
                text(
                    "INSERT INTO scoring (item_version_id, number, parts, points, created_at) SELECT v.id, 2, :parts, 1, "
                    "'2026-01-01' FROM item_version v JOIN item i ON i.id = v.item_id WHERE i.code = 'M8-01'"
                ),
                {"parts": '[{"id": "1", "key": "A|B|C|D", "points": 1}]'},
            )
        )
        after = self.judged("Fall mathematics 8").analysis.items[0].figures
        self.assertLess(first.p or 0, 0.95)
        self.assertAlmostEqual(after.p or 0, 1 - after.n_omitted / after.n, msg="whoever answered is right now")
        self.assertEqual((after.n, after.n_omitted), (first.n, first.n_omitted))

    def test_the_same_seed_makes_the_same_federation(self) -> None:
        folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, folder, ignore_errors=True)
        again = Context(store=Store(folder), clock=Clock())
        self.addCleanup(again.store.close)
        make_demo(again, one_school)
        mine, theirs = tables(self.ctx), tables(again)
        self.assertEqual(mine["people"], theirs["people"])
        self.assertEqual(mine["answers"], theirs["answers"])
        self.assertEqual(mine["states"], theirs["states"])

    def test_the_last_window_is_over_on_any_day_of_the_year(self) -> None:
        for shift in range(0, 400, 7):
            day = (NOON + timedelta(days=shift)).date()
            year = school_year(day)
            self.assertLess(year.windows[year.last][2], day)


class Comparing(WorldCase):
    """Groups of an attribute, through the store."""

    def test_small_groups_are_hidden_and_absent_students_are_in_no_mean(self) -> None:
        from bildung.services.door import signin
        from bildung.services.sitting import taking
        from bildung.store.models import Attribute, AttributeValue

        session = self.open_session(size=14, items=4).session
        codes = self.codes_of(self.class_id())

        def known(db: Session) -> None:
            db.add(row := Attribute(name="home language", seen_by="teacher"))
            db.add(Attribute(name="meals", seen_by="coordinator"))
            db.flush()
            for at, code in enumerate(codes):
                person = db.scalars(select(Person).where(Person.code == code)).one()
                db.add(
                    AttributeValue(
                        attribute_id=row.id, person_id=person.id, value="A" if at < 8 else "B" if at < 12 else "C"
                    )
                )

        self.ctx.store.write(known)
        for at, code in enumerate(codes[:13]):  # the last one is absent
            token = signin.sign_in_student(self.ctx, session.code, code, "here")
            sitter = signin.sitter_of(self.ctx, token.secret)
            for number, question in enumerate(taking.paper(self.ctx, sitter).questions, 1):
                right = self.placed[number - 1].key if at < 8 else "D" if self.placed[number - 1].key != "D" else "A"
                answer = events.Answer(
                    id=f"answer-{at}-{number}",
                    question=question.id,
                    answer=right,
                    takeover=sitter.takeover,
                    sequence=number,
                )
                self.assertEqual(saving.save(self.ctx, sitter, [answer]).refused, [])
            taking.hand_in(self.ctx, sitter)
        running.close(self.ctx, self.boss, session.id)
        finding, grouped = by_group(
            self.ctx, self.boss, ScopeRequest(forms=(session.form_id,), windows=(session.window_id,)), "home language"
        )
        self.assertEqual([(g.group, g.hidden) for g in grouped.groups], [("A", False), ("B", True), ("C", True)])
        self.assertEqual((grouped.groups[0].n, grouped.groups[0].mean, grouped.n), (8, 1.0, 13))
        self.assertIn("2 groups are hidden", finding)
        teacher = self.teacher_of(self.class_id())
        self.assertEqual(comparable(self.ctx, teacher), ["home language"])
        with self.assertRaises(NotFound):
            by_group(self.ctx, teacher, ScopeRequest(forms=(session.form_id,), windows=(session.window_id,)), "meals")
