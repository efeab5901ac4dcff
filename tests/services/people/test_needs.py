"""Accommodations in use, groups by rule and by name, and many at once."""

from __future__ import annotations

from datetime import date, timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.formats.problem import ImportProblem
from bildung.services.door import signin
from bildung.services.people import accommodations, bulkedit, directory, groups, log
from bildung.services.people.accommodations import Entered
from bildung.services.sessions import listing, running
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.sitting import taking
from bildung.store.models import Accommodation, Attribute, AttributeValue, Group, GroupMember, Person, Role
from tests.support import NOON, WorldCase, small_roster


class NeedsCase(WorldCase):
    def setUp(self) -> None:
        super().setUp()
        self.session = self.open_session(size=6, items=3).session
        with self.ctx.store.read() as db:
            self.students = list(db.scalars(select(Person).where(Person.kind == "student").order_by(Person.source_id)))

    def need(self, at: int, *kinds: str, extra_time: float | str = "") -> None:
        """Kinds, and a factor on the time."""
        wanted = [Entered(kind=kind) for kind in kinds]
        wanted += [Entered(kind="extra_time", value=str(extra_time))] if extra_time else []
        for one in wanted:
            accommodations.enter(self.ctx, self.boss, self.students[at].id, one)

    def clear(self, at: int) -> None:
        with self.ctx.store.read() as db:
            ids = list(db.scalars(select(Accommodation.id).where(Accommodation.person_id == self.students[at].id)))
        for id in ids:
            accommodations.end(self.ctx, self.boss, id)

    def members(self, group_id: int) -> set[str]:
        with self.ctx.store.read() as db:
            return set(
                db.scalars(
                    select(Person.source_id)
                    .join(GroupMember, GroupMember.person_id == Person.id)
                    .where(GroupMember.group_id == group_id)
                )
            )


class InATest(NeedsCase):
    """The session lasts from five minutes before noon to an hour after it: 65 minutes."""

    def test_extra_time_moves_the_end_for_that_student_only(self) -> None:
        self.need(0, extra_time=1.4)
        self.clock.now = NOON + timedelta(minutes=61)
        code = self.session.code
        with self.assertRaisesRegex(Invalid, "is over"):
            signin.sign_in_student(self.ctx, code, self.students[1].code or "", "here")
        token = signin.sign_in_student(self.ctx, code, self.students[0].code or "", "here")
        paper = taking.paper(self.ctx, signin.sitter_of(self.ctx, token.secret))
        self.assertEqual(paper.end, NOON + timedelta(minutes=86))
        self.clock.now = NOON + timedelta(minutes=87)
        with self.assertRaisesRegex(Invalid, "is over"):
            signin.sign_in_student(self.ctx, code, self.students[0].code or "", "here")

    def test_the_session_stays_open_until_the_last_of_them_is_through(self) -> None:
        self.need(0, extra_time=2.0)  # to 125 minutes past noon
        for minutes, phase, closed in ((75, "open", 0), (124, "open", 0), (136, "closed", 1)):
            self.clock.now = NOON + timedelta(minutes=minutes)
            line = next(s for s in listing.list_sessions(self.ctx, self.boss) if s.id == self.session.id)
            self.assertEqual(
                (line.phase, running.close_overdue(self.ctx)), (phase, closed), f"{minutes} minutes past noon"
            )

    def test_without_extra_time_it_closes_as_before(self) -> None:
        self.need(0, "large_print")
        self.clock.now = NOON + timedelta(minutes=71)
        self.assertEqual(running.close_overdue(self.ctx), 1)

    def test_who_holds_the_session_sees_what_to_prepare(self) -> None:
        self.need(0, "own_proctor", extra_time=1.25)
        self.need(1, "read_aloud", "large_print")
        page = listing.get_session(self.ctx, self.boss, self.session.id)
        self.assertIn("2 need accommodations, 1 of them a separate room or proctor.", page.finding)
        by_id = {s.name: s for s in page.sittings}
        first = by_id[self.students[0].name]
        self.assertEqual(
            (first.needs, first.until - page.session.start),
            ("extended time × 1.25, individual proctor", timedelta(minutes=81, seconds=15)),
        )
        token = signin.sign_in_student(self.ctx, self.session.code, self.students[1].code or "", "here")
        paper = taking.paper(self.ctx, signin.sitter_of(self.ctx, token.secret))
        self.assertEqual((paper.large_print, paper.read_aloud), (True, True))

    def test_what_cannot_be_is_refused_and_the_log_has_what_was(self) -> None:
        student = self.students[0].id
        for wanted, place in (
            (Entered(kind="extra_time", value="0.5"), "value"),
            (Entered(kind="extra_time", value="9"), "value"),
            (Entered(kind="extra_time", value="1"), "value"),
            (Entered(kind="form", value="easy"), "value"),
            (Entered(kind="directions"), "value"),
            (Entered(kind="pony"), "kind"),
            (Entered(kind="breaks", note="x" * 500), "note"),
            (Entered(kind="breaks", source="rumor"), "source"),
            (Entered(kind="breaks", test_kind="oral"), "test_kind"),
            (Entered(kind="breaks", start=date(2026, 10, 2), until=date(2026, 10, 1)), "until"),
        ):
            with self.assertRaises(Invalid) as caught:
                accommodations.enter(self.ctx, self.boss, student, wanted)
            self.assertEqual(caught.exception.place, place, wanted)
        self.need(0, extra_time=1.5)
        with self.assertRaisesRegex(Invalid, "has “extended time × 1.5” for these tests already"):
            self.need(0, extra_time=1.5)
        self.clear(0)
        entries, _ = log.search(self.ctx, self.boss, "accommodation.")
        self.assertEqual(
            [(e.before, e.after) for e in entries],
            [("extended time × 1.5, all tests", ""), ("", "extended time × 1.5, all tests")],
        )
        teacher = self.teacher_of(self.class_id())
        with self.assertRaises(NotFound):
            accommodations.enter(self.ctx, teacher, student, Entered(kind="breaks"))


class Groups(NeedsCase):
    def test_members_follow_the_rule_as_needs_and_classes_change(self) -> None:
        id = groups.make_group(self.ctx, self.boss, "More time", "grade 5 and extra time", None, [])
        self.assertEqual(self.members(id), set())
        self.need(0, extra_time=1.25)
        self.need(1, "read_aloud")
        self.assertEqual(self.members(id), {"HM-S0001"})
        groups.change_group(self.ctx, self.boss, id, "More time or aloud", "extra time or read aloud")
        self.assertEqual(self.members(id), {"HM-S0001", "HM-S0002"})
        files = small_roster(6)
        files["users.csv"] = b"\n".join(x for x in files["users.csv"].splitlines() if not x.startswith(b"HM-S0001"))
        files["enrollments.csv"] = b"\n".join(x for x in files["enrollments.csv"].splitlines() if b"HM-S0001" not in x)
        from bildung.services.rosters import fromfiles

        fromfiles.apply(self.ctx, self.boss, fromfiles.preview(self.ctx, self.boss, files).id, yes=True)
        self.assertEqual(self.members(id), {"HM-S0002"})

    def test_a_rule_is_tried_before_it_is_kept(self) -> None:
        tried = groups.try_rule(self.ctx, self.boss, "grade 5 and not extra time", None)
        self.assertEqual((tried.total, tried.problem), (6, ""))
        self.assertIn(
            "position 13: 'tall' is not known", groups.try_rule(self.ctx, self.boss, "grade 5 and tall", None).problem
        )
        with self.assertRaisesRegex(Invalid, "'tall' is not known"):
            groups.make_group(self.ctx, self.boss, "Tall", "tall", None, [])
        groups.make_group(self.ctx, self.boss, "All", "grade 5", None, [])
        with self.assertRaisesRegex(Conflict, "there is a group All already"):
            groups.make_group(self.ctx, self.boss, "All", "grade 6", None, [])

    def test_trying_rules_tells_a_teacher_nothing_of_what_coordinators_alone_may_see(self) -> None:
        def known(db: Session) -> None:
            meals = Attribute(name="school meals", seen_by="coordinator")
            bus = Attribute(name="bus", seen_by="teacher")
            db.add_all([meals, bus])
            db.flush()
            for attribute, at, value in ((meals, 0, "free"), (meals, 1, "paid"), (bus, 2, "4")):
                db.add(AttributeValue(attribute_id=attribute.id, person_id=self.students[at].id, value=value))

        self.ctx.store.write(known)
        self.assertEqual(groups.try_rule(self.ctx, self.boss, '"school meals" is free', None).total, 1)
        teacher = self.teacher_of(self.class_id())
        self.assertEqual(groups.try_rule(self.ctx, teacher, "bus is 4", None).total, 1)
        answers = {
            (tried.total, tried.problem.replace(value, "?"))
            for value in ("free", "paid", "none")
            for tried in [groups.try_rule(self.ctx, teacher, f'"school meals" is {value}', None)]
        }
        self.assertEqual(len(answers), 1, "the answer does not depend on the values")
        ((total, problem),) = answers
        self.assertEqual(total, 0)
        self.assertIn("is not known", problem)
        groups.make_group(self.ctx, self.boss, "Meals", '"school meals" is free', None, [])
        seen = [g.rule for g in groups.list_groups(self.ctx, teacher)[1]]
        self.assertNotIn("free", " ".join(rule or "" for rule in seen))

    def test_a_typed_name_with_characters_that_are_not_seen_is_refused_with_how_it_reads_without_them(self) -> None:
        with self.assertRaisesRegex(Invalid, "name contains invisible characters; enter it without them, as “Anna”"):
            groups.make_group(self.ctx, self.boss, "An\u202ena", None, None, [])
        id = groups.make_group(self.ctx, self.boss, "  Two \t words\n", None, None, [])
        with self.ctx.store.read() as db:
            self.assertEqual(db.get_one(Group, id).name, "Two words")

    def test_a_rule_whose_value_is_gone_says_so_and_keeps_its_members(self) -> None:
        def known(db: object) -> None:
            row = Attribute(name="bus")
            db.add(row)  # type: ignore[attr-defined]
            db.flush()  # type: ignore[attr-defined]
            db.add(AttributeValue(attribute_id=row.id, person_id=self.students[2].id, value="4"))  # type: ignore[attr-defined]

        self.ctx.store.write(known)
        id = groups.make_group(self.ctx, self.boss, "Bus 4", "bus is 4", None, [])
        self.assertEqual(self.members(id), {"HM-S0003"})
        from bildung.services.people import attributes

        (line,) = attributes.list_attributes(self.ctx, self.boss)
        attributes.end_attribute(self.ctx, self.boss, line.id, 1)
        page = groups.get_group(self.ctx, self.boss, id)
        self.assertIn("cannot be followed any more", page.problem)
        self.assertEqual([m.name for m in page.members], [self.students[2].name])

    def test_a_named_group_holds_whom_one_puts_in(self) -> None:
        id = groups.make_group(self.ctx, self.boss, "Lift", None, None, [self.students[0].id])
        groups.put_members(self.ctx, self.boss, id, [self.students[1].id, self.students[1].id], [self.students[0].id])
        self.assertEqual(self.members(id), {"HM-S0002"})
        by_rule = groups.make_group(self.ctx, self.boss, "Rule", "grade 5", None, [])
        with self.assertRaisesRegex(Conflict, "follow its rule"):
            groups.put_members(self.ctx, self.boss, by_rule, [], [self.students[1].id])
        groups.end_group(self.ctx, self.boss, id)
        with self.assertRaises(NotFound):
            groups.get_group(self.ctx, self.boss, id)
        self.assertEqual(directory.list_people(self.ctx, self.boss, "HM-S0002")[1], 1, "its students stay")

    def test_a_teacher_groups_their_own_students_and_nobody_elses(self) -> None:
        teacher = self.teacher_of(self.class_id())
        with self.ctx.store.read() as db:
            proctor = db.scalars(select(Person.id).where(Person.source_id == "HM-P01")).one()
        stranger = Actor(person_id=proctor, name="Stranger", grants=(Grant("teacher", None),), sign_in_id=0, csrf="")
        id = groups.make_group(self.ctx, teacher, "Mine", None, None, [self.students[0].id])
        with self.assertRaisesRegex(Invalid, "only a coordinator"):
            groups.make_group(self.ctx, teacher, "Rule", "grade 5", None, [])
        with self.assertRaises(NotFound):
            groups.get_group(self.ctx, stranger, id)
        with self.assertRaises(NotFound):
            groups.make_group(self.ctx, stranger, "Theirs", None, None, [self.students[0].id])
        self.assertEqual([g.name for g in groups.list_groups(self.ctx, teacher)[1]], ["Mine"])

    def test_a_specialist_sees_the_students_of_their_groups_while_they_work_with_them(self) -> None:
        def add(db: object) -> int:
            person = Person(source_id="local:s", given="S", family="P", kind="staff", username="sp")
            db.add(person)  # type: ignore[attr-defined]
            db.flush()  # type: ignore[attr-defined]
            db.add(Role(person_id=person.id, role="specialist"))  # type: ignore[attr-defined]
            return person.id

        specialist = Actor(
            person_id=self.ctx.store.write(add), name="S P", grants=(Grant("specialist", None),), sign_in_id=0, csrf=""
        )
        self.need(0, extra_time=1.25)
        id = groups.make_group(self.ctx, self.boss, "More time", "extra time", None, [])
        self.assertEqual(directory.list_people(self.ctx, specialist)[1], 0)
        groups.put_staff(self.ctx, self.boss, id, specialist.person_id, True)
        found, total = directory.list_people(self.ctx, specialist)
        self.assertEqual((total, found[0].id), (1, self.students[0].id))
        page = directory.get_person(self.ctx, specialist, self.students[0].id)
        self.assertEqual((page.needs_said, page.may_support), ("extended time × 1.25", False))
        with self.assertRaises(NotFound):
            directory.get_person(self.ctx, specialist, self.students[1].id)
        groups.put_staff(self.ctx, self.boss, id, specialist.person_id, False)
        self.assertEqual(directory.list_people(self.ctx, specialist)[1], 0)


class ManyAtOnce(NeedsCase):
    def take(self, text: str) -> dict[str, int]:
        preview = bulkedit.preview(self.ctx, self.boss, {"pasted": text.encode()})
        return bulkedit.apply(self.ctx, self.boss, preview.id).counts

    def needs(self, at: int) -> str:
        return directory.get_person(self.ctx, self.boss, self.students[at].id).needs_said

    def test_a_pasted_table_sets_what_it_names_and_leaves_the_rest(self) -> None:
        self.need(2, "large_print", extra_time=1.5)
        code, name = self.students[1].code, self.students[2].name
        counts = self.take(
            "id\town code\tname\tExtra time\tread aloud\tform\n"
            f"HM-S0001\t\t\t+25%\tyes\t\n\t{(code or '').lower()}\t\tx1.5\t\tshortened\n\t\t{name}\tno\t\t\nHM-S9999\t\t\t2\t\t\n"
        )
        self.assertEqual((counts["added"], counts["changed"], counts["left_out"]), (2, 1, 1))
        self.assertEqual(self.needs(0), "extended time × 1.25, text-to-speech")
        self.assertEqual(self.needs(1), "extended time × 1.5, shortened form")
        self.assertEqual(self.needs(2), "large print")

    def test_a_factor_is_read_however_it_is_written(self) -> None:
        for text in ("1.25", "1,25", "25%", "+25%", "125%", "x 1.25", "×1.25"):
            self.clear(0)
            self.take(f'student number,extra time\nHM-S0001,"{text}"\n')
            self.assertEqual(self.needs(0), "extended time × 1.25", text)

    def test_groups_are_joined_and_left(self) -> None:
        lift = groups.make_group(self.ctx, self.boss, "Lift", None, None, [self.students[1].id])
        groups.make_group(self.ctx, self.boss, "By rule", "grade 5", None, [])
        counts = self.take("student number,group,leaves group\nHM-S0001,Lift; By rule; None such,\nHM-S0002,,lift\n")
        self.assertEqual((counts["added"], counts["changed"], counts["left_out"]), (1, 1, 2))
        self.assertEqual(self.members(lift), {"HM-S0001"})

    def test_what_is_known_of_students_is_set_and_the_log_has_both(self) -> None:
        def kinds(db: Session) -> None:
            db.add(Attribute(name="home language", seen_by="teacher"))

        self.ctx.store.write(kinds)
        sheet = "student number,home language\nHM-S0001,Polish\nHM-S0002,\n"
        preview = bulkedit.preview(self.ctx, self.boss, {"pasted": sheet.encode()})
        self.assertEqual([(line.fate, line.detail) for line in preview.lines], [("added", "Polish")])
        bulkedit.apply(self.ctx, self.boss, preview.id)
        self.assertEqual(self.take(sheet), {"added": 0, "changed": 0, "same": 1, "left_out": 0})
        again = bulkedit.preview(self.ctx, self.boss, {"pasted": sheet.replace("Polish", "English").encode()})
        self.assertEqual([(line.fate, line.detail) for line in again.lines], [("changed", "Polish → English")])
        bulkedit.apply(self.ctx, self.boss, again.id)
        with self.ctx.store.read() as db:
            self.assertEqual(db.scalars(select(AttributeValue.value)).all(), ["English"])
        lines, _ = log.search(self.ctx, self.boss, "attribute.change")
        self.assertEqual([(line.before, line.after) for line in lines], [("Polish", "English"), ("", "Polish")])

    def test_what_cannot_be_read_is_named_and_nothing_is_changed(self) -> None:
        for text, said in (
            ("student number,shoe size\nHM-S0001,4", "column 'shoe size'"),
            ("extra time\n1.25", "no column that says who"),
            ("student number,name\nHM-S0001,x", "nothing to change"),
            ("student number,read aloud\nHM-S0001,perhaps", "line 2, column read aloud: 'perhaps'; yes, no, or empty"),
            ("student number,extra time\nHM-S0001,9", "'9'; a factor such as 1.25"),
            ("student number,form\nHM-S0001,easy", "choose a shortened or an adapted form"),
            ("student number,breaks\nHM-S0001,yes\nHM-S0001,no", "again (line 2)"),
        ):
            with self.assertRaises(ImportProblem) as caught:
                self.take(text)
            self.assertIn(said, str(caught.exception))
        self.assertEqual(self.needs(0), "")
        with self.ctx.store.read() as db:
            self.assertEqual(db.scalars(select(Group)).all(), [])
