"""Finding people, roster check, the log, lost cards: within one's scope, with a trace."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.services.door import signin
from bildung.services.people import directory, log
from bildung.services.rosters import check, fromfiles
from bildung.services.rosters.check import Rosters, discrepancies
from bildung.services.sessions import listing
from bildung.services.shared.access import Action, Actor, Grant
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed, NotFound
from bildung.store.models import Person, SchoolClass
from tests.support import WorldCase, small_roster


def student(id: int, given: str = "Ada", family: str = "", grade: str = "5") -> Person:
    return Person(
        id=id, source_id=f"s{id}", given=given, family=family or f"F{id}", kind="student", grade=grade, school_id=1
    )


def klass(id: int, subject: str = "Mathematics") -> SchoolClass:
    return SchoolClass(id=id, source_id=f"c{id}", title=f"{subject} {id}", school_id=1, subject=subject, grade="5")


def enrolled(*triples: tuple[int, int, str]) -> list[tuple[int, str, list[int]]]:
    """Of class, person and role."""
    people = sorted({(person, role) for _, person, role in triples})
    return [(p, role, sorted(c for c, *of in triples if of == [p, role])) for p, role in people]


class Rules(WorldCase):
    """The check itself, on rosters small enough to see."""

    teacher = Person(id=9, source_id="t9", given="T", family="T", kind="staff", school_id=1)

    def kinds(
        self,
        people_: list[Person],
        classes: list[SchoolClass],
        rows: list[tuple[int, str, list[int]]],
        sittings: dict[int, int] | None = None,
    ) -> list[tuple[str, str]]:
        return [
            (d.kind, d.who)
            for d in discrepancies(
                Rosters(people=[*people_, self.teacher], classes=classes, enrolments=rows, sittings=sittings or {})
            )
        ]

    def test_rosters_that_hold_together_have_nothing_to_settle(self) -> None:
        rows = enrolled((1, 1, "student"), (1, 9, "teacher"), (2, 1, "student"), (2, 9, "teacher"))
        self.assertEqual(self.kinds([student(1)], [klass(1), klass(2, "Reading")], rows), [])

    def test_each_kind_is_found(self) -> None:
        rows = enrolled((1, 1, "student"), (2, 1, "student"), (1, 9, "teacher"))
        found = self.kinds(
            [student(1), student(2), student(3, "Bo", "Li"), student(4, "bo", "LI")],
            [klass(1), klass(2), klass(3, "Art")],
            rows,
        )
        self.assertEqual(
            found,
            [
                ("two_classes", "Ada F1"),
                ("no_class", "Ada F2"),
                ("no_class", "Bo Li"),
                ("no_class", "bo LI"),
                ("twice", "Bo Li"),
                ("no_teacher", "Mathematics 2"),
                ("no_teacher", "Art 3"),
                ("no_students", "Art 3"),
            ],
        )

    def test_of_a_double_the_one_without_results_is_offered_first(self) -> None:
        rows = enrolled((1, 3, "student"), (1, 4, "student"), (1, 9, "teacher"))
        people_ = [student(3, "Bo", "Li"), student(4, "Bo", "Li")]
        found = discrepancies(
            Rosters(people=[*people_, self.teacher], classes=[klass(1)], enrolments=rows, sittings={3: 2})
        )
        self.assertEqual(
            [(s.step, s.person_id, s.other_id) for s in found[0].steps],
            [("merge", 4, 3), ("merge", 3, 4), ("different", 3, 4)],
        )
        self.assertIn("Keep s3 (2 tests, 1 classes)", found[0].steps[0].label)


class Settling(WorldCase):
    def setUp(self) -> None:
        super().setUp()
        self.session = self.open_session(size=5, items=3).session
        self.mathematics, self.reading = self.class_id(), self.class_id("Reading")
        with self.ctx.store.read() as db:
            self.someone = db.scalars(select(Person).where(Person.source_id == "HM-S0002")).one()

    def roster(self) -> int:
        return len(listing.get_session(self.ctx, self.boss, self.session.id).sittings)

    def test_leaving_and_joining_move_the_planned_session_and_are_logged(self) -> None:
        check.settle(self.ctx, self.boss, "leave_class", self.someone.id, self.mathematics)
        check.settle(self.ctx, self.boss, "leave_class", self.someone.id, self.reading)
        self.assertEqual(self.roster(), 4)
        finding, found, _ = check.check(self.ctx, self.boss)
        self.assertEqual((finding, [d.kind for d in found]), ("1 discrepancy: 1 in no class.", ["no_class"]))
        self.assertEqual([c for c, _ in found[0].steps[0].choices], sorted([self.mathematics, self.reading]))
        check.settle(self.ctx, self.boss, "join_class", self.someone.id, self.mathematics)
        self.assertEqual(self.roster(), 5)
        lines, total = log.search(self.ctx, self.boss, f"roster.settle person:{self.someone.id}")
        self.assertEqual((total, lines[0].who), (3, "Hanne Quill"))
        self.assertEqual(check.check(self.ctx, self.boss)[0], "The rosters are consistent. No discrepancies.")

    def test_who_is_set_aside_keeps_results_and_cannot_sit(self) -> None:
        code = self.someone.code or ""
        check.settle(self.ctx, self.boss, "set_aside", self.someone.id, None)
        with self.assertRaises(Invalid):
            signin.sign_in_student(self.ctx, self.session.code, code, "here")
        self.assertIn("archived", directory.get_person(self.ctx, self.boss, self.someone.id).finding)

    def test_what_does_not_fit_is_refused_and_nothing_changes(self) -> None:
        teacher = self.teacher_of(self.mathematics)
        for step, person, klass_, kind, said in (
            ("join_class", teacher.person_id, self.mathematics, Invalid, "cannot be in a class as student"),
            ("teach_class", self.someone.id, self.mathematics, Invalid, "cannot be in a class as teacher"),
            ("dance", self.someone.id, self.mathematics, Invalid, "one of leave_class"),
            ("leave_class", self.someone.id, 999, NotFound, "not there, or not yours"),
            ("set_aside", None, None, NotFound, "not there, or not yours"),
        ):
            with self.assertRaisesRegex(kind, said):
                check.settle(self.ctx, self.boss, step, person, klass_)
        check.settle(self.ctx, self.boss, "leave_class", self.someone.id, self.mathematics)
        with self.assertRaisesRegex(Conflict, "not in Mathematics 5.1 any more"):
            check.settle(self.ctx, self.boss, "leave_class", self.someone.id, self.mathematics)
        self.assertEqual(self.roster(), 4)

    def test_only_within_ones_scope(self) -> None:
        teacher = self.teacher_of(self.mathematics)
        elsewhere = Actor(person_id=self.boss_id, name="X", grants=(Grant("coordinator", 999),), sign_in_id=0, csrf="")
        self.assertEqual(directory.get_person(self.ctx, teacher, self.someone.id).person.name, self.someone.name)
        self.assertFalse(directory.get_person(self.ctx, teacher, self.someone.id).may_settle)
        for call in (
            lambda: check.check(self.ctx, teacher),
            lambda: log.search(self.ctx, teacher),
            lambda: directory.new_own_code(self.ctx, teacher, self.someone.id),
        ):
            with self.assertRaises(NotAllowed):
                call()
        for call in (
            lambda: directory.get_person(self.ctx, elsewhere, self.someone.id),
            lambda: directory.new_own_code(self.ctx, elsewhere, self.someone.id),
            lambda: check.settle(self.ctx, elsewhere, "set_aside", self.someone.id, None),
        ):
            with self.assertRaises(NotFound):
                call()
        for call in (
            lambda: log.search(self.ctx, elsewhere),
            lambda: fromfiles.preview(self.ctx, elsewhere, small_roster(5)),
        ):
            with self.assertRaises(NotAllowed):  # the log and the rosters are the whole federation's
                call()
        self.assertFalse(elsewhere.may(Action.PEOPLE_IMPORT))
        self.assertEqual(check.check(self.ctx, elsewhere)[1], [])

    def test_an_error_seen_in_the_room_comes_to_the_check_with_its_author_and_leaves_it_when_settled(self) -> None:
        teacher = self.teacher_of(self.mathematics)
        check.report(self.ctx, teacher, self.session.id, " Ada is not in this class ")
        finding, found, _ = check.check(self.ctx, self.boss)
        self.assertIn("1 reported by proctors", finding)
        self.assertEqual(
            (found[0].kind, found[0].who, found[0].what),
            ("reported", "Mathematics 5.1", f"Ada is not in this class ({teacher.name})"),
        )
        report_id = found[0].steps[0].report_id or 0
        with self.assertRaises(NotAllowed):
            check.settle_report(self.ctx, teacher, report_id)
        check.settle_report(self.ctx, self.boss, report_id)
        self.assertEqual(check.check(self.ctx, self.boss)[1], [])
        with self.assertRaises(NotFound):
            check.settle_report(self.ctx, self.boss, report_id)
        with self.assertRaises(Invalid):
            check.report(self.ctx, teacher, self.session.id, "  ")
        with self.assertRaises(NotFound):
            check.report(self.ctx, self.teacher_of(self.reading), self.session.id, "not mine")

    def test_a_lost_card_opens_nothing_any_more(self) -> None:
        old = self.someone.code or ""
        new = directory.new_own_code(self.ctx, self.boss, self.someone.id)
        self.assertNotEqual(old, new)
        with self.assertRaises(Invalid):
            signin.sign_in_student(self.ctx, self.session.code, old, "here")
        signin.sign_in_student(self.ctx, self.session.code, new, "here")
        with self.assertRaises(NotFound):
            directory.new_own_code(self.ctx, self.boss, self.teacher_of(self.mathematics).person_id)


class Finding(WorldCase):
    def test_people_are_found_by_parts_of_names_and_by_code(self) -> None:
        self.bring_people(small_roster(28))
        with self.ctx.store.read() as db:
            one = db.scalars(select(Person).where(Person.student.is_(True))).first()
        assert one is not None and one.code is not None
        for text in (one.family[:3], f"{one.given[:2]} {one.family[:3]}", one.code.lower()):
            found, total = directory.list_people(self.ctx, self.boss, text)
            self.assertIn(one.id, {p.id for p in found})
            self.assertEqual(total, len(found))
        self.assertEqual(
            directory.list_people(self.ctx, self.boss, "%")[1], 28 + 5, "a sign is no wild card of its own"
        )
        self.assertEqual(directory.list_people(self.ctx, self.boss, "nobody at all")[1], 0)

    def test_the_log_is_paged_newest_first(self) -> None:
        def many(db: Session) -> None:
            from bildung.services.shared import audit

            for at in range(25):
                audit.record(db, self.clock.now, self.boss_id, "test.entry", f"thing:{at}", None, {"n": at})

        self.ctx.store.write(many)
        first, total = log.search(self.ctx, self.boss, "test.entry", limit=10)
        rest, _ = log.search(self.ctx, self.boss, "test.entry", first[-1].id, limit=100)
        self.assertEqual((total, [line.subject for line in first[:2]], len(rest)), (25, ["thing:24", "thing:23"], 15))
        self.assertEqual(first[0].after, "n: 24")
