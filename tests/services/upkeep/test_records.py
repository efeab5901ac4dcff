"""A record handed out holds everything; an erased person is nowhere, and item statistics stay as they were."""

from __future__ import annotations

import io
import json

from pypdf import PdfReader
from sqlalchemy import select, text

from bildung.services.door import signin
from bildung.services.people import accommodations, log
from bildung.services.people.accommodations import Entered
from bildung.services.quality.item import given_answers
from bildung.services.quality.judged import judge
from bildung.services.quality.scope import ScopeRequest
from bildung.services.rosters import check
from bildung.services.sessions import listing, provided, running
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed, NotFound
from bildung.services.sitting import saving, taking
from bildung.services.sitting.events import Answer
from bildung.services.upkeep import studentrecord
from bildung.store.models import Accommodation, AccommodationUse, Base, Person, SessionSupport
from tests.core.classical.test_items import figures_of
from tests.support import WorldCase


class Records(WorldCase):
    def setUp(self) -> None:
        super().setUp()
        self.session = self.open_session(size=6, items=4).session
        for code in self.codes_of(self.class_id())[:5]:
            token = signin.sign_in_student(self.ctx, self.session.code, code, "here")
            me = signin.sitter_of(self.ctx, token.secret)
            questions = taking.paper(self.ctx, me).questions
            answers = [
                Answer(
                    id=f"answer-{code}-{q.number}",
                    question=q.id,
                    answer="A" if q.shown.parts[0].type == "choice" else f"7{q.number}",
                    takeover=1,
                    sequence=q.number,
                )
                for q in questions
            ]
            saving.save(self.ctx, me, answers)
            taking.hand_in(self.ctx, me)
        with self.ctx.store.read() as db:
            self.someone = db.scalars(select(Person).where(Person.code == self.codes_of(self.class_id())[0])).one()

    def test_the_record_has_person_classes_sittings_and_every_answer_and_says_who_took_it(self) -> None:
        found = studentrecord.export_record(self.ctx, self.boss, self.someone.id)
        self.assertEqual((found["made_by"], found["person"]["family"]), ("Hanne Quill", self.someone.family))
        self.assertEqual({c["class"] for c in found["classes"]}, {"Mathematics 5.1", "Reading 5.1"})
        self.assertEqual([len(s["answers"]) for s in found["sittings"]], [4])
        self.assertEqual(len(found["sittings"][0]["every_answer_as_it_came"]), 4)
        json.dumps(found)

    def test_accommodations_and_what_became_of_them_are_in_the_record_and_on_paper_and_go_with_the_person(self) -> None:
        entered = Entered(kind="extra_time", value="1.5", subject="Mathematics", source="iep", note="sits in front")
        accommodations.enter(self.ctx, self.boss, self.someone.id, entered)
        sittings = listing.get_session(self.ctx, self.boss, self.session.id).sittings
        sitting = next(s.id for s in sittings if s.person == self.someone.id)
        provided.record(self.ctx, self.boss, self.session.id, sitting, "extra_time", "used")
        found = studentrecord.export_record(self.ctx, self.boss, self.someone.id)
        (one,) = found["accommodations"]
        self.assertEqual(
            (one["what"], one["note"]), ("extended time × 1.5, all tests in Mathematics, IEP", "sits in front")
        )
        self.assertEqual(found["sittings"][0]["accommodations"], {"extended time": "used"})
        printed = PdfReader(io.BytesIO(studentrecord.print_record(self.ctx, self.boss, self.someone.id)))
        text_of = " ".join("".join(page.extract_text() for page in printed.pages).split())
        self.assertIn("extended time × 1.5, all tests in Mathematics, IEP", text_of)
        self.assertNotIn("'what'", text_of)
        studentrecord.erase_person(self.ctx, self.boss, self.someone.id, "asked by the family")
        with self.ctx.store.read() as db:
            for table in (Accommodation, AccommodationUse, SessionSupport):
                self.assertEqual(db.scalars(select(table)).all(), [], table.__name__)

    def test_taking_a_record_is_logged(self) -> None:
        studentrecord.export_record(self.ctx, self.boss, self.someone.id)
        self.assertEqual(log.search(self.ctx, self.boss, "record.export")[1], 1)

    def test_an_erased_person_is_nowhere_in_the_store_and_figures_stay(self) -> None:
        running.close(self.ctx, self.boss, self.session.id)
        check.settle(self.ctx, self.boss, "leave_class", self.someone.id, self.class_id("Reading"))
        before = figures_of(
            judge(self.ctx, self.boss, ScopeRequest(forms=(self.session.form_id,), windows=(self.window_id,))).analysis
        )
        traces = [self.someone.source_id, self.someone.code or "", f"{self.someone.given} {self.someone.family}"]
        studentrecord.erase_person(self.ctx, self.boss, self.someone.id, "asked by the family")
        self.ctx.forget()
        after = figures_of(
            judge(self.ctx, self.boss, ScopeRequest(forms=(self.session.form_id,), windows=(self.window_id,))).analysis
        )
        self.assertEqual(after, before)
        with self.ctx.store.read() as db:
            everything = json.dumps(
                [[str(v) for v in row] for table in Base.metadata.sorted_tables for row in db.execute(select(table))]
            )
        for trace in traces:
            self.assertNotIn(f'"{trace}"', everything)
            self.assertNotIn(f'"{trace}"', everything.replace("\\", ""))
        given = given_answers(
            self.ctx, self.boss, ScopeRequest(forms=(self.session.form_id,), windows=(self.window_id,)), "T-01"
        )
        self.assertIn(f"Erased {self.someone.id}", {g.student for g in given})
        with self.assertRaises(NotFound):
            studentrecord.export_record(self.ctx, self.boss, self.someone.id)
        with self.assertRaises(NotFound):
            studentrecord.erase_person(self.ctx, self.boss, self.someone.id, "again")
        lines, _ = log.search(self.ctx, self.boss, "person.erase")
        self.assertEqual((lines[0].why, lines[0].subject), ("asked by the family", f"person:{self.someone.id}"))

    def test_who_is_answering_is_not_erased_and_a_reason_is_needed(self) -> None:
        code = self.codes_of(self.class_id())[5]
        signin.sign_in_student(self.ctx, self.session.code, code, "here")
        with self.ctx.store.read() as db:
            busy = db.scalars(select(Person.id).where(Person.code == code)).one()
        with self.assertRaisesRegex(Conflict, "answering a test right now"):
            studentrecord.erase_person(self.ctx, self.boss, busy, "asked")
        with self.assertRaisesRegex(Invalid, "why needs"):
            studentrecord.erase_person(self.ctx, self.boss, self.someone.id, "  ")
        with self.assertRaises(NotAllowed):
            studentrecord.erase_person(self.ctx, self.teacher_of(self.class_id()), self.someone.id, "asked")

    def test_a_roster_brings_the_person_back_as_somebody_new(self) -> None:
        studentrecord.erase_person(self.ctx, self.boss, self.someone.id, "by mistake")
        from tests.support import small_roster

        self.bring_people(small_roster(6))
        with self.ctx.store.read() as db:
            again = db.scalars(select(Person).where(Person.source_id == self.someone.source_id)).one()
            self.assertEqual(
                db.execute(text("SELECT count(*) FROM sitting WHERE person_id = :id"), {"id": again.id}).scalar(), 1
            )
        self.assertNotEqual(again.id, self.someone.id)
