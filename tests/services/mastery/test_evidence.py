"""What is evidence: by hand and in live rounds, modified and practiced, taken again, retagged, replaced, decided."""

from __future__ import annotations

import unittest
from collections.abc import Sequence
from datetime import date, timedelta

from sqlalchemy import delete, select, text, update

from bildung.services.bank import tagging
from bildung.services.mastery import cell, deciding, entering, grid, out
from bildung.services.mastery.entering import EnteredPoints, NewEvidence, NewIntervention
from bildung.services.mastery.grid import GridAsked
from bildung.services.mastery.judging import WHY
from bildung.services.mastery.rulespage import RulesWish, change_rules
from bildung.services.mastery.scope import WhoAsked
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed, NotFound
from bildung.services.upkeep.studentrecord import erase_person, export_record
from bildung.store.models import (
    Accommodation,
    AccommodationUse,
    EnteredEvidence,
    Family,
    Form,
    Framework,
    Intervention,
    Item,
    ItemVersion,
    LiveAnswer,
    LiveQuestion,
    LiveRound,
    PlannedSession,
    SessionEvidence,
    Sitting,
    Standard,
    StandardLink,
)
from tests.services.growth.given import give
from tests.services.mastery.case import MasteryCase


class EvidenceCase(MasteryCase):
    def setUp(self) -> None:
        super().setUp()
        page = self.page()
        self.people = [int(row.person) for row in page.rows]
        self.student = self.people[0]
        self.standard = int(page.columns[0].standard)
        self.code = page.columns[0].code

    def cell(self, student: int | None = None, standard: int | None = None) -> cell.CellPage:
        return cell.cell_page(self.ctx, self.boss, student or self.student, standard or self.standard)

    def today(self) -> date:
        return self.cell().today

    def slip(self, points: Sequence[tuple[int, float]], **more: object) -> int:
        new = NewEvidence(
            **{  # type: ignore[arg-type]
                "standard": self.standard,
                "kind": "score",
                "what": "Exit slip",
                "on": self.today(),
                "possible": 2.0,
                "points": [EnteredPoints(person=p, earned=e) for p, e in points],
                **more,
            }
        )
        return entering.enter_evidence(self.ctx, self.boss, new)

    def rule(self, revision: int = 0, **more: object) -> None:
        wish = RulesWish(**{"rules": {}, "counts": {}, "retakes": "adds", **more})  # type: ignore[arg-type]
        change_rules(self.ctx, self.boss, self.framework_id(), wish, revision)

    def change_form(self, **values: object) -> None:
        def work(db):  # type: ignore[no-untyped-def]
            # as if it had been published so
            db.execute(text("DROP TRIGGER form_stays"))
            db.execute(update(Form).where(Form.id == self.form).values(**values))
            db.execute(update(PlannedSession).values(data_version=PlannedSession.data_version + 1))

        self.ctx.store.write(work)


class ByHand(EvidenceCase):
    def test_scores_and_observations_enter_and_leave_by_one_door(self) -> None:
        before = self.cell()
        self.assertEqual(self.slip([(p, 2.0) for p in self.people]), self.SIZE)
        after = self.cell()
        self.assertEqual(len(after.pieces), len(before.pieces) + 1)
        (piece,) = [p for p in after.pieces if p.way]
        self.assertEqual((piece.test, piece.earned, piece.possible, piece.way), ("Exit slip", 2, 2, "entered by hand"))
        self.assertIsNone(piece.form_id)
        (line,) = after.entered
        self.assertTrue(line.mine)
        entering.withdraw_evidence(self.ctx, self.boss, int(line.id))
        self.assertEqual(self.cell().pieces, before.pieces)
        with self.assertRaisesRegex(Conflict, "withdrawn already"):
            entering.withdraw_evidence(self.ctx, self.boss, int(line.id))

    def test_what_makes_no_sense_is_refused_whole(self) -> None:
        ok, today = [(self.student, 1.0)], self.today()
        for change, words in (
            ({"on": None}, "needs its date"),
            ({"on": today + timedelta(days=1)}, "still to come"),
            ({"on": today - timedelta(days=500)}, "days back"),
            ({"kind": "guess"}, "score, observation"),
            ({"possible": 0.0}, "over 0 to 100"),
            ({"what": "  "}, "what"),
        ):
            with self.subTest(words), self.assertRaisesRegex(Invalid, words):
                self.slip(ok, **change)
        for points, words in (
            ([], "at least one"),
            ([(self.student, 3.0)], "allowed are 0 to 2"),
            ([(self.student, -1.0)], "allowed are 0 to 2"),
            ([(self.student, 1.0), (self.student, 2.0)], "twice"),
        ):
            with self.subTest(words), self.assertRaisesRegex(Invalid, words):
                self.slip(points)
        with self.assertRaisesRegex(NotFound, "in no class of Mathematics"):
            self.slip([(self.student, 1.0), (99_999, 1.0)])
        with self.assertRaisesRegex(NotFound, "no such standard"):
            self.slip(ok, standard=99_999)
        with self.ctx.store.read() as db:
            self.assertIsNone(db.scalar(select(EnteredEvidence.id)), "nothing is half done")

    def test_whose_it_is(self) -> None:
        own = self.teacher_of(self.klass)
        new = NewEvidence(
            standard=self.standard,
            kind="observation",
            what="At the board",
            on=self.today(),
            possible=1.0,
            points=[EnteredPoints(person=self.student, earned=1.0)],
        )
        entering.enter_evidence(self.ctx, own, new)
        other = Actor(person_id=99_999, name="N", grants=(Grant("teacher", None),), sign_in_id=0, csrf="")
        with self.assertRaisesRegex(NotFound, "that you teach"):
            entering.enter_evidence(self.ctx, other, new)
        (line,) = self.cell().entered
        self.assertFalse(line.mine)
        with self.assertRaises(NotFound):
            entering.withdraw_evidence(self.ctx, other, int(line.id))
        entering.withdraw_evidence(self.ctx, self.boss, int(line.id))

    def test_what_was_tried_stands_beside_the_run(self) -> None:
        new = NewIntervention(
            standard=self.standard, people=[self.student], what="Number line", start=self.today(), until=None
        )
        self.assertEqual(entering.enter_intervention(self.ctx, self.boss, new), 1)
        self.slip([(self.student, 2.0)])
        (tried,) = self.cell().tried
        later = [p for p in self.cell().pieces if p.day >= self.today()]
        self.assertEqual((tried.what, tried.share_after), ("Number line", 1.0))
        self.assertEqual(tried.points_after, sum(p.possible for p in later))
        self.assertIsNotNone(tried.share_before)
        entering.end_intervention(self.ctx, self.boss, int(tried.id), self.today(), False)
        self.assertEqual(self.cell().tried[0].until, self.today())
        with self.assertRaisesRegex(Invalid, "before it begins"):
            entering.end_intervention(self.ctx, self.boss, int(tried.id), self.today() - timedelta(days=1), False)
        entering.end_intervention(self.ctx, self.boss, int(tried.id), None, True)
        self.assertEqual(self.cell().tried, [])
        for change, words in (
            ({"start": None}, "since when"),
            ({"people": []}, "at least one"),
            ({"what": ""}, "what"),
            ({"until": self.today() - timedelta(days=3)}, "before it begins"),
        ):
            bad = NewIntervention(**{**new.__dict__, **change})  # type: ignore[arg-type]
            with self.subTest(words), self.assertRaisesRegex(Invalid, words):
                entering.enter_intervention(self.ctx, self.boss, bad)

    def test_it_is_in_the_record_and_goes_with_the_student(self) -> None:
        self.slip([(self.student, 2.0)])
        entering.enter_intervention(
            self.ctx,
            self.boss,
            NewIntervention(
                standard=self.standard, people=[self.student], what="Number line", start=self.today(), until=None
            ),
        )
        told = export_record(self.ctx, self.boss, self.student)["standards"]
        self.assertEqual([t["what"] for t in told], ["score: Exit slip", "intervention: Number line"])
        erase_person(self.ctx, self.boss, self.student, "asked for")
        with self.ctx.store.read() as db:
            self.assertIsNone(db.scalar(select(EnteredEvidence.id)))
            self.assertIsNone(db.scalar(select(Intervention.id)))


class Rounds(EvidenceCase):
    def test_a_round_counts_where_its_holder_said_so_and_by_first_answers(self) -> None:
        with self.ctx.store.read() as db:
            version = db.scalars(
                select(ItemVersion)
                .join(ItemVersion.standards)
                .where(ItemVersion.kind == "choice")
                .order_by(ItemVersion.id)
            ).first()
            assert version is not None
            standard = version.standards[0].standard_id
            right = str(version.scorings[-1].parts[0]["key"])
            id = version.id
        before = self.cell(standard=standard)
        now = self.ctx.clock()

        def work(db):  # type: ignore[no-untyped-def]
            round_ = LiveRound(class_id=self.klass, person_id=self.boss.person_id, started_at=now, ended_at=now)
            db.add(round_)
            db.flush()
            first = LiveQuestion(round_id=round_.id, item_version_id=id, asked_at=now)
            db.add(first)
            db.flush()
            again = LiveQuestion(round_id=round_.id, item_version_id=id, asked_at=now, again_of=first.id)
            said = LiveQuestion(round_id=round_.id, words="Which?", asked_at=now)
            db.add_all([again, said])
            db.flush()
            for question, answer in ((first, "none of them"), (again, right), (said, "A")):
                db.add(LiveAnswer(question_id=question.id, person_id=self.student, answer=answer, way="school", at=now))
            return round_.id

        round_id = self.ctx.store.write(work)
        self.assertEqual(self.cell(standard=standard).pieces, before.pieces, "not said to count")
        self.ctx.store.write(
            lambda db: db.execute(update(LiveRound).where(LiveRound.id == round_id).values(evidence=True))
        )
        after = self.cell(standard=standard)
        (piece,) = [p for p in after.pieces if p.way == "in a live round"]
        self.assertEqual(piece.earned, 0.0, "what was answered before students had talked")
        self.rule(counts={"live": "no"})
        aside = [p for p in self.cell(standard=standard).pieces if p.way == "in a live round"]
        self.assertEqual([p.why for p in aside], [WHY[2]])


class Counting(EvidenceCase):
    def test_kinds_by_the_rule_and_sessions_by_decision(self) -> None:
        whole = self.amounts()
        self.change_form(kind="spot")
        self.assertEqual(self.amounts(), 0.0, "the rule leaves quick checks open")
        self.assertEqual({p.why for p in self.cell().pieces}, {WHY[4]})
        page = deciding.evidence_page(self.ctx, self.boss)
        self.assertEqual([s.asks for s in page.sessions], [True, True])
        self.assertIn("2 of them still to be decided", page.finding)
        with self.ctx.store.read() as db:
            self.assertEqual(deciding.open_questions(db, self.boss), 2)
        deciding.decide(self.ctx, self.boss, [self.sessions[1]], True)
        self.assertEqual({p.why for p in self.cell().pieces if p.day == self.latest()}, {""})
        deciding.decide(self.ctx, self.boss, [self.sessions[0]], True)
        self.assertEqual(self.amounts(), whole)
        deciding.decide(self.ctx, self.boss, [self.sessions[0]], False)
        self.assertEqual({p.why for p in self.cell().pieces if p.day < self.latest()}, {WHY[3]})
        deciding.decide(self.ctx, self.boss, [self.sessions[0]], None)
        found = deciding.session_counts(self.ctx, self.boss, self.sessions[0])
        assert found is not None
        self.assertTrue(found.asks)
        self.rule(counts={"spot": "yes"})
        self.assertIsNotNone(deciding.session_counts(self.ctx, self.boss, self.sessions[1]), "decided")
        with self.ctx.store.read() as db:
            self.assertEqual(deciding.open_questions(db, self.boss), 0)

    def latest(self) -> date:
        return max(p.day for p in self.cell().pieces)

    def test_practice_does_not_count_unless_the_rule_says_so(self) -> None:
        self.change_form(kind="mirror")
        self.assertEqual({p.why for p in self.cell().pieces}, {WHY[2]})
        self.assertIsNone(deciding.session_counts(self.ctx, self.boss, self.sessions[0]), "nothing to ask")
        self.rule(counts={"mirror": "yes"})
        self.assertEqual({p.why for p in self.cell().pieces}, {""})

    def test_who_decides_of_what(self) -> None:
        with self.assertRaisesRegex(NotFound, "no such session"):
            deciding.decide(self.ctx, self.boss, [self.sessions[0], 99_999], True)
        with self.ctx.store.read() as db:
            self.assertIsNone(db.scalar(select(SessionEvidence.session_id)), "all of them or none")
        proctor = Actor(person_id=99_999, name="N", grants=(Grant("proctor", None),), sign_in_id=0, csrf="")
        with self.assertRaises(NotAllowed):
            deciding.decide(self.ctx, proctor, [self.sessions[0]], True)
        other = Actor(person_id=99_999, name="N", grants=(Grant("teacher", None),), sign_in_id=0, csrf="")
        with self.assertRaises(NotFound):
            deciding.decide(self.ctx, other, [self.sessions[0]], True)
        self.ctx.store.write(
            lambda db: db.execute(
                update(PlannedSession).where(PlannedSession.id == self.sessions[0]).values(closed_at=None)
            )
        )
        with self.assertRaisesRegex(Conflict, "not over"):
            deciding.decide(self.ctx, self.boss, [self.sessions[0]], True)

    def test_a_modified_test_is_shown_and_counts_for_alternate_standards_only(self) -> None:
        self.change_form(role="adapted")
        found = self.cell()
        self.assertEqual({p.why for p in found.pieces}, {WHY[1]})
        self.assertEqual(found.state, "not assessed")

        def plan(db):  # type: ignore[no-untyped-def]
            at = self.ctx.clock()
            db.add(Accommodation(person_id=self.student, kind="alternate_standards", entered_at=at, approved_at=at))

        self.ctx.store.write(plan)
        self.assertEqual({p.why for p in self.cell().pieces}, {""})
        self.assertEqual({p.why for p in self.cell(self.people[1]).pieces}, {WHY[1]})

    def test_how_a_test_was_taken_is_told_and_leaves_evidence_whole(self) -> None:
        before = self.cell()

        def work(db):  # type: ignore[no-untyped-def]
            sitting = db.scalars(
                select(Sitting).where(Sitting.session_id == self.sessions[0], Sitting.person_id == self.student)
            ).one()
            sitting.way = "paper"
            db.add(
                AccommodationUse(sitting_id=sitting.id, kind="extra_time", outcome="used", at=self.ctx.clock(), by_id=1)
            )

        self.ctx.store.write(work)
        after = self.cell()
        first = min(p.day for p in after.pieces)
        self.assertEqual({p.taken for p in after.pieces if p.day == first}, {"on paper, extended time"})
        self.assertEqual({p.taken for p in after.pieces if p.day != first}, {""})
        self.assertEqual((after.says, after.bars), (before.says, before.bars))
        text = out.evidence_file(self.ctx, self.boss, self.asked()).decode("utf-8-sig")
        self.assertIn("on paper, extended time", text)

    def test_a_test_taken_again_adds_replaces_or_the_better_counts(self) -> None:
        def family(db):  # type: ignore[no-untyped-def]
            row = Family(name="F", title="F", created_at=self.ctx.clock())
            db.add(row)
            db.flush()
            db.execute(update(Form).values(family_id=row.id))

        again = give(self, self.make_form("For a retake"), self.later_id, 0)
        self.move(again, -3)
        self.ctx.store.write(family)
        whole = self.cell()
        self.assertEqual({p.why for p in whole.pieces}, {""}, "attempts add up unless the rule says otherwise")
        first, retake = sorted({p.day for p in whole.pieces})[-2:]
        for way, gone in (("replaces", first), ("better", retake)):
            with self.subTest(way):
                self.rule(revision=0 if way == "replaces" else 1, retakes=way)
                found = self.cell()
                self.assertEqual({p.day for p in found.pieces if p.why == WHY[5]}, {gone})
                self.assertEqual(len(found.pieces), len(whole.pieces), "every attempt stays in the run")


class Tags(EvidenceCase):
    def retag(self, to: str) -> int:
        """Its first item of the standard goes to another; the id of the item."""
        with self.ctx.store.read() as db:
            item = db.scalars(
                select(Item)
                .join(Item.versions)
                .join(ItemVersion.standards)
                .where(ItemVersion.id.in_(self.versions()))
                .where(ItemVersion.standards.any(standard_id=self.standard, rank=0))
                .order_by(Item.id)
            ).first()
            assert item is not None
            id, code = item.id, item.code
        change = {"standard": to}
        tagging.apply(
            self.ctx,
            self.boss,
            f"code:{code}",
            [id],
            change,
            tagging.preview(self.ctx, self.boss, "", [id], change).stamp,
        )
        return id

    def versions(self) -> list[int]:
        with self.ctx.store.read() as db:
            return [i.item_version_id for i in db.get_one(Form, self.form).items]

    def test_answers_stay_with_what_the_item_was_until_they_are_moved(self) -> None:
        other = next(c for c in self.page().columns if int(c.standard) != self.standard)
        before, there = self.cell(), self.cell(standard=int(other.standard))
        self.ctx.clock.pass_by(days=200)  # type: ignore[attr-defined]
        self.retag(other.code)
        self.assertEqual(self.cell().pieces, before.pieces)
        (found,) = deciding.evidence_page(self.ctx, self.boss).retagged
        self.assertEqual((found.before[0], found.now[0], found.moved), (self.code, other.code, False))
        self.assertEqual(found.answers, 2 * self.SIZE)
        deciding.move_evidence(self.ctx, self.boss, [int(found.id)], False)
        moved = self.cell(standard=int(other.standard))
        self.assertEqual(len(moved.pieces), len(there.pieces) + 2)
        self.assertEqual(len(self.cell().pieces), len(before.pieces) - 2)
        deciding.move_evidence(self.ctx, self.boss, [int(found.id)], True)
        self.assertEqual(self.cell().pieces, before.pieces)
        with self.assertRaises(NotFound):
            deciding.move_evidence(self.ctx, self.boss, [99_999], False)

    def test_evidence_follows_a_standard_that_was_replaced_and_stays_where_it_was_split(self) -> None:
        before = self.cell()

        def replace(db):  # type: ignore[no-untyped-def]
            old = db.get_one(Standard, self.standard)
            new = [
                Standard(
                    code=f"NEW.{n}",
                    text="New",
                    subject="Mathematics",
                    grade="5",
                    framework_id=old.framework_id,
                    identifier=f"n{n}",
                )
                for n in (1, 2)
            ]
            db.add_all(new)
            db.flush()
            db.add(StandardLink(origin_id=old.id, destination_id=new[0].id, relation="replacedBy"))
            return [s.id for s in new]

        first, second = self.ctx.store.write(replace)
        found = self.cell(standard=first)
        self.assertEqual(found.followed, [self.code])
        self.assertEqual([p.earned for p in found.pieces], [p.earned for p in before.pieces])
        self.assertEqual(self.cell().pieces, [])
        self.assertIn("NEW.1", [c.code for c in self.page().columns])
        self.ctx.store.write(
            lambda db: db.add(StandardLink(origin_id=self.standard, destination_id=second, relation="replacedBy"))
        )
        self.assertEqual(self.cell().pieces, before.pieces, "which part an answer is of, nobody knows")
        self.ctx.store.write(lambda db: db.execute(delete(StandardLink)))
        self.assertEqual(self.cell().pieces, before.pieces)


class Whom(EvidenceCase):
    def test_a_grade_a_school_a_group_and_a_few(self) -> None:
        page = self.page()
        school = next(s.school for s in page.scopes if s.school)
        for who, title in (
            (WhoAsked(subject="Mathematics", grade="5"), "Grade 5"),
            (WhoAsked(subject="Mathematics", school_id=int(school or 0)), ""),
            (WhoAsked(subject="Mathematics", people=tuple(self.people[:3])), "3 students"),
        ):
            found = grid.grid_page(self.ctx, self.boss, GridAsked(who=who))
            wanted = 3 if who.people else self.SIZE
            self.assertEqual(len(found.rows), wanted)
            self.assertIn(title, found.title)
            by_person = {row.person: row.states for row in page.rows}
            self.assertTrue(all(by_person[row.person] == row.states for row in found.rows))
        other = Actor(person_id=99_999, name="N", grants=(Grant("teacher", None),), sign_in_id=0, csrf="")
        none = grid.grid_page(
            self.ctx, other, GridAsked(who=WhoAsked(subject="Mathematics", people=tuple(self.people)))
        )
        self.assertEqual(none.rows, [], "nobody of theirs")
        for who, words in (
            (WhoAsked(grade="5"), "subject"),
            (WhoAsked(subject="Mathematics", people=tuple(range(500))), "at most 400"),
        ):
            with self.assertRaisesRegex(Invalid, words):
                grid.grid_page(self.ctx, self.boss, GridAsked(who=who))
        for who in (WhoAsked(subject="Mathematics", group_id=99), WhoAsked(subject="Mathematics", school_id=99)):
            with self.assertRaises(NotFound):
                grid.grid_page(self.ctx, self.boss, GridAsked(who=who))

    def test_without_a_guide_nothing_is_held_back(self) -> None:
        page = self.page()
        self.assertFalse(page.guide)
        self.assertTrue(all(c.taught for c in page.columns))
        self.assertEqual(len(self.page(taught=True).columns), len(page.columns))
        with self.ctx.store.read() as db:
            self.assertEqual(db.scalar(select(Framework.title)), "Framework")


if __name__ == "__main__":
    unittest.main()
