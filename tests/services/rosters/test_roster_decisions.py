"""Decisions about the rosters outlast the next file: different people, one person twice, kept out of a class, gone."""

from __future__ import annotations

from sqlalchemy import func, select

from bildung.services.door import signin
from bildung.services.people.changes import moved
from bildung.services.rosters import check, decisions, fromfiles
from bildung.services.sessions import listing
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.sitting import saving, taking
from bildung.services.sitting.events import Answer
from bildung.services.upkeep import studentrecord
from bildung.store.models import (
    Enrolment,
    EnteredEvidence,
    Intervention,
    LiveRound,
    LiveSeat,
    Measure,
    MeasureScore,
    Occasion,
    Person,
    RosterDecision,
    SchoolClass,
    Sitting,
    Standard,
)
from tests.support import WorldCase, small_roster


class Deciding(WorldCase):
    def setUp(self) -> None:
        super().setUp()
        self.session = self.open_session(size=5, items=4).session
        self.files = small_roster(5)
        self.klass = self.class_id()
        with self.ctx.store.read() as db:
            self.people = list(db.scalars(select(Person).where(Person.kind == "student").order_by(Person.source_id)))

    def bring(self, **changed: bytes) -> list[tuple[str, str, str]]:
        files = self.files | {f"{name}.csv": data for name, data in changed.items()}
        preview = fromfiles.preview(self.ctx, self.boss, files)
        fromfiles.apply(self.ctx, self.boss, preview.id)
        return [(line.fate, line.id, line.detail) for line in preview.lines if line.fate != "same"]

    def check(self, kind: str) -> list[check.Discrepancy]:
        return [d for d in check.check(self.ctx, self.boss)[1] if d.kind == kind]

    def second(self, source: str = "HM-S0099", **changes: str) -> bytes:
        """users.csv with a second record of the first student."""
        lines = self.files["users.csv"].decode().splitlines()
        head = lines[0].split(",")
        row = next(line for line in lines if line.startswith(self.people[0].source_id + ",")).split(",")
        row[0] = source
        for name, value in ({"username": ""} | changes).items():
            if name in head:
                row[head.index(name)] = value
        return "\n".join([*lines, ",".join(row)]).encode()

    def row(self, source: str) -> Person:
        with self.ctx.store.read() as db:
            return db.scalars(select(Person).where(Person.source_id == source)).one()

    def join(self, person: Person) -> int:
        token = signin.sign_in_student(self.ctx, self.session.code, person.code or "", "here")
        me = signin.sitter_of(self.ctx, token.secret)
        question = taking.paper(self.ctx, me).questions[0].id
        saving.save(
            self.ctx, me, [Answer(id=f"answer-of-{person.id}", question=question, answer="B", takeover=1, sequence=1)]
        )
        return me.sitting_id


class Pairs(Deciding):
    def test_different_people_are_never_asked_about_again(self) -> None:
        users = self.second()
        self.bring(users=users)
        (twice,) = self.check("twice")
        step = twice.steps[-1]
        self.assertEqual(step.step, "different")
        check.settle(self.ctx, self.boss, "different", step.person_id, None, step.other_id)
        self.bring(users=users)
        self.assertEqual(self.check("twice"), [])
        (line,) = check.decisions(self.ctx, self.boss)
        self.assertIn("are different people", line.says)
        decisions.withdraw(self.ctx, self.boss, line.id)
        self.assertEqual(len(self.check("twice")), 1)
        with self.assertRaises(NotFound):
            decisions.withdraw(self.ctx, self.boss, line.id)

    def test_birth_dates_tell_people_of_one_name_apart_and_find_one_person_under_two(self) -> None:
        first, other = self.people[0].source_id, self.people[1].source_id
        day = "sourcedId,birthDate\n{0},2015-03-01\n{1},{2}\n".format
        self.bring(users=self.second(), demographics=day(first, "HM-S0099", "2015-09-09").encode())
        self.assertEqual(self.check("twice"), [])
        self.bring(users=self.second(), demographics=day(first, "HM-S0099", "2015-03-01").encode())
        self.assertIn("born on the same day", self.check("twice")[0].what)
        alike = self.second(grades="6", familyName=self.people[0].family + "e")
        self.bring(users=alike, demographics=day(first, "HM-S0099", "2015-03-01").encode())
        self.assertEqual(len(self.check("twice")), 1, "another spelling, the same birth date")
        self.bring(users=alike, demographics=day(other, "HM-S0099", "2014-01-01").encode())
        self.assertEqual(self.check("twice"), [])

    def test_a_birth_date_that_is_none_is_named_with_its_place(self) -> None:
        with self.assertRaisesRegex(Exception, "demographics.csv, line 2, column birthDate: '1.3.2015'"):
            self.bring(demographics=b"sourcedId,birthDate\nHM-S0001,1.3.2015\n")

    def test_files_of_the_set_that_are_not_read_are_said(self) -> None:
        lines = self.bring(results=b"sourcedId,score\n", lineItems=b"x\n")
        self.assertEqual([id for fate, id, why in lines if "not read here" in why], ["lineItems.csv", "results.csv"])


class Merging(Deciding):
    def second_record(self) -> Person:
        self.users = self.second()
        rows = self.files["enrollments.csv"].decode().splitlines()
        mine = next(line for line in rows if f",{self.people[0].source_id}," in line)
        self.more = "\n".join(
            [*rows, mine.replace(self.people[0].source_id, "HM-S0099").replace(mine.split(",")[0], "E-99")]
        ).encode()
        self.bring(users=self.users, enrollments=self.more)
        return self.row("HM-S0099")

    def test_everything_moves_and_the_next_file_keeps_it_so(self) -> None:
        second, first = self.second_record(), self.people[0]
        attempt = self.join(second)
        check.settle(self.ctx, self.boss, "merge", second.id, None, first.id)
        with self.ctx.store.read() as db:
            self.assertEqual(db.get_one(Sitting, attempt).person_id, first.id)
            self.assertEqual(
                db.scalar(select(func.count()).select_from(Enrolment).where(Enrolment.person_id == second.id)), 0
            )
        lines = self.bring(users=self.users, enrollments=self.more)
        self.assertIn(("left_out", "HM-S0099", f"a second record of {first.source_id}"), lines)
        self.assertFalse(self.row("HM-S0099").active)
        self.assertEqual(self.check("twice"), [])
        with self.assertRaisesRegex(Invalid, "not on the list"):
            signin.sign_in_student(self.ctx, self.session.code, second.code or "", "here")
        self.assertEqual(self.join(first), attempt, "the attempt goes on under the one that was kept")

    def test_scores_and_evidence_from_elsewhere_move_as_well(self) -> None:
        second, first = self.second_record(), self.people[0]
        now = self.ctx.clock()

        def work(db):  # type: ignore[no-untyped-def]
            measure = Measure(name="M", subject="Reading", low=0, high=9, made_at=now)
            standard = Standard(code="S.1", subject="Mathematics")
            db.add_all([measure, standard])
            db.flush()
            some = [Occasion(measure_id=measure.id, name=f"O{n}", first=now.date(), last=now.date()) for n in (1, 2)]
            db.add_all(some)
            round_ = LiveRound(class_id=db.scalars(select(Enrolment.class_id)).first(), person_id=1, started_at=now)
            db.add(round_)
            db.flush()
            score = {"measure_id": measure.id, "grade": "5", "week": 1.0}
            by = {"standard_id": standard.id, "what": "w", "by_id": 1, "at": now}
            db.add_all(
                [
                    MeasureScore(person_id=second.id, occasion_id=some[0].id, score=3, **score),
                    MeasureScore(person_id=second.id, occasion_id=some[1].id, score=4, **score),
                    MeasureScore(person_id=first.id, occasion_id=some[1].id, score=5, **score),
                    EnteredEvidence(person_id=second.id, kind="score", on=now.date(), earned=1, possible=2, **by),
                    Intervention(person_id=second.id, start=now.date(), **by),
                    LiveSeat(round_id=round_.id, person_id=second.id, way="school", joined_at=now, seen_at=now),
                ]
            )
            return measure.id

        measure = self.ctx.store.write(work)
        check.settle(self.ctx, self.boss, "merge", second.id, None, first.id)
        with self.ctx.store.read() as db:
            for table in (MeasureScore, EnteredEvidence, Intervention, LiveSeat):
                self.assertEqual(set(db.scalars(select(table.person_id))), {first.id}, table.__tablename__)
            scores = db.scalars(select(MeasureScore.score).order_by(MeasureScore.score)).all()
            self.assertEqual(scores, [3, 5], "where both have one, that of the record that is kept")
            self.assertEqual(db.get_one(Measure, measure).version, 1, "growth is worked out anew")

    def test_two_attempts_at_one_test_are_settled_by_a_person_first(self) -> None:
        second, first = self.second_record(), self.people[0]
        self.join(second)
        self.join(first)
        with self.assertRaisesRegex(Conflict, "both records have taken A form in Mathematics 5.1"):
            check.settle(self.ctx, self.boss, "merge", second.id, None, first.id)
        self.assertTrue(self.row("HM-S0099").active, "nothing was changed")

    def test_nobody_is_merged_with_themselves_or_with_staff(self) -> None:
        teacher = self.teacher_of(self.klass).person_id
        for other in (self.people[0].id, teacher):
            with self.assertRaises(Invalid):
                check.settle(self.ctx, self.boss, "merge", self.people[0].id, None, other)

    def test_erasing_the_one_that_was_kept_erases_the_second_record_too(self) -> None:
        second, first = self.second_record(), self.people[0]
        check.settle(self.ctx, self.boss, "merge", second.id, None, first.id)
        studentrecord.erase_person(self.ctx, self.boss, first.id, "asked for")
        with self.ctx.store.read() as db:
            self.assertEqual({db.get_one(Person, id).given for id in (first.id, second.id)}, {"Erased"})


class AgainstTheFile(Deciding):
    def in_class(self, person: Person) -> bool:
        with self.ctx.store.read() as db:
            return bool(
                db.scalar(
                    select(Enrolment.active).where(Enrolment.class_id == self.klass, Enrolment.person_id == person.id)
                )
            )

    def test_who_was_taken_out_of_a_class_stays_out_until_the_records_agree(self) -> None:
        one = self.people[2]
        check.settle(self.ctx, self.boss, "leave_class", one.id, self.klass)
        lines = self.bring()
        self.assertTrue(any("not in this class, as was decided" in why for _, _, why in lines))
        self.assertFalse(self.in_class(one))
        rows = self.files["enrollments.csv"].decode().splitlines()
        with self.ctx.store.read() as db:
            source = db.get_one(SchoolClass, self.klass).source_id
        fewer = "\n".join(line for line in rows if not (one.source_id in line and source in line)).encode()
        self.bring(enrollments=fewer)
        self.assertEqual(check.decisions(self.ctx, self.boss), [], "the records agree now")
        self.bring()
        self.assertTrue(self.in_class(one), "what comes after that is new")

    def test_who_was_put_back_by_hand_is_kept_out_no_more(self) -> None:
        one = self.people[2]
        check.settle(self.ctx, self.boss, "leave_class", one.id, self.klass)
        check.settle(self.ctx, self.boss, "join_class", one.id, self.klass)
        self.bring()
        self.assertTrue(self.in_class(one))

    def test_who_left_stays_away_though_the_file_still_has_them(self) -> None:
        one = self.people[3]
        check.settle(self.ctx, self.boss, "set_aside", one.id, None)
        lines = self.bring()
        self.assertTrue(any("has left, as was decided" in why for _, _, why in lines))
        self.assertFalse(self.row(one.source_id).active)
        self.assertEqual(len(listing.get_session(self.ctx, self.boss, self.session.id).sittings), 4)

    def test_two_classes_that_are_both_right_are_not_asked_about_again_and_a_third_is(self) -> None:
        one = self.people[1]

        def support(title: str, homeroom: bool = False) -> int:
            def work(db: object) -> int:
                klass = SchoolClass(
                    source_id=title,
                    title=title,
                    school_id=one.school_id,
                    subject="" if homeroom else "Mathematics",
                    grade="5",
                    homeroom=homeroom,
                )
                db.add(klass)  # type: ignore[attr-defined]
                db.flush()  # type: ignore[attr-defined]
                db.add(Enrolment(class_id=klass.id, person_id=one.id, role="student"))  # type: ignore[attr-defined]
                moved(db, [one.id])  # type: ignore[arg-type]
                return klass.id

            return self.ctx.store.write(work)

        support("Support")
        (found,) = self.check("two_classes")
        self.assertEqual(found.steps[-1].step, "both_right")
        check.settle(self.ctx, self.boss, "both_right", one.id, None)
        self.assertEqual(self.check("two_classes"), [])
        support("More support")
        self.assertEqual(len(self.check("two_classes")), 1)
        with self.ctx.store.read() as db:
            self.assertEqual(
                db.scalar(select(func.count()).select_from(RosterDecision)), 3, "Mathematics, Reading, Support"
            )

    def test_a_second_homeroom_is_found(self) -> None:
        one = self.people[1]

        def work(db: object) -> None:
            for title in ("5A", "5B"):
                klass = SchoolClass(source_id=title, title=title, school_id=one.school_id, grade="5", homeroom=True)
                db.add(klass)  # type: ignore[attr-defined]
                db.flush()  # type: ignore[attr-defined]
                db.add(Enrolment(class_id=klass.id, person_id=one.id, role="student"))  # type: ignore[attr-defined]

        self.ctx.store.write(work)
        self.assertIn("is in 5A and 5B (homeroom)", [d.what for d in self.check("two_classes")])
