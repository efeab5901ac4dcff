"""Bringing people in: changes to a roster, any one sheet, families, dates, progress and stopping."""

from __future__ import annotations

import io
from datetime import date

from openpyxl import Workbook
from sqlalchemy import func, select

from bildung.demo.files import sheet
from bildung.demo.samples import sample_files
from bildung.formats.problem import ImportProblem
from bildung.services.people import kin
from bildung.services.rosters import fromfiles
from bildung.services.rosters.fromfiles import Matching
from bildung.services.sessions import listing, scheduling
from bildung.services.shared.errors import Conflict
from bildung.services.shared.jobs import Job, Stopped
from bildung.services.upkeep import studentrecord
from bildung.store.models import (
    Attribute,
    AttributeValue,
    Base,
    Enrolment,
    FamilyLink,
    Person,
    SchoolClass,
    SchoolYear,
    StagedImport,
)
from tests.support import NOON, WorldCase, small_roster

MANIFEST = sheet(("propertyName", "value"), [("manifest.version", "1.0"), ("file.users", "delta")])
USERS = (
    "sourcedId",
    "status",
    "enabledUser",
    "orgSourcedIds",
    "role",
    "username",
    "givenName",
    "familyName",
    "grades",
    "agentSourceIds",
)
ENROLMENTS = (
    "sourcedId",
    "status",
    "classSourcedId",
    "schoolSourcedId",
    "userSourcedId",
    "role",
    "beginDate",
    "endDate",
)


class BringCase(WorldCase):
    def take(self, files: dict[str, bytes], yes: bool = False, matching: Matching | None = None) -> dict[str, int]:
        preview = fromfiles.preview(self.ctx, self.boss, files, matching)
        return fromfiles.apply(self.ctx, self.boss, preview.id, yes).counts

    def person(self, source: str) -> Person:
        with self.ctx.store.read() as db:
            return db.scalars(select(Person).where(Person.source_id == source)).one()

    def in_classes(self, source: str) -> set[str]:
        with self.ctx.store.read() as db:
            return set(
                db.scalars(
                    select(SchoolClass.title)
                    .join(Enrolment, Enrolment.class_id == SchoolClass.id)
                    .join(Person, Person.id == Enrolment.person_id)
                    .where(Person.source_id == source, Enrolment.active.is_(True))
                )
            )

    def tables(self) -> dict[str, list[tuple[object, ...]]]:
        with self.ctx.store.read() as db:
            return {name: [tuple(r) for r in db.execute(select(t))] for name, t in Base.metadata.tables.items()}


class Changes(BringCase):
    def setUp(self) -> None:
        super().setUp()
        self.bring_people(small_roster(20))

    def test_a_delta_changes_what_it_names_and_nothing_else(self) -> None:
        before = {source: self.in_classes(source) for source in ("HM-S0002", "HM-S0003")}
        counts = self.take(
            {
                "manifest.csv": MANIFEST,
                "users.csv": sheet(
                    USERS,
                    [
                        ("HM-S0900", "active", "true", "HM", "student", "", "Late", "Comer", "05", ""),
                        ("HM-S0001", "active", "true", "HM", "student", "", "Other", "Name", "05", ""),
                        ("HM-S0002", "tobedeleted", "true", "HM", "student", "", "x", "y", "05", ""),
                        ("HM-S0777", "tobedeleted", "true", "HM", "student", "", "x", "y", "05", ""),
                    ],
                ),
                "enrollments.csv": sheet(
                    ENROLMENTS,
                    [
                        ("n1", "active", "HM-5M1", "HM", "HM-S0900", "student", "", ""),
                        ("HM-5R1-HM-S0004", "tobedeleted", "HM-5R1", "HM", "HM-S0004", "student", "", ""),
                        ("n2", "active", "HM-5M1", "HM", "nobody", "student", "", ""),
                    ],
                ),
            }
        )
        self.assertEqual((counts["added"], counts["changed"], counts["left_out"]), (2, 3, 2))
        self.assertEqual((self.person("HM-S0001").given, self.in_classes("HM-S0900")), ("Other", {"Mathematics 5.1"}))
        gone = self.person("HM-S0002")
        self.assertEqual((gone.active, gone.left_on), (False, date(2026, 11, 23)))
        self.assertEqual(self.in_classes("HM-S0004"), {"Mathematics 5.1"})
        self.assertEqual(self.in_classes("HM-S0003"), before["HM-S0003"])
        self.assertTrue(self.person("HM-TM01").active, "who is not named in a delta stays")

    def test_whoever_joins_a_class_that_was_there_joins_it_today(self) -> None:
        self.take(
            {
                "manifest.csv": MANIFEST,
                "users.csv": sheet(USERS, [("N1", "active", "true", "HM", "student", "", "A", "B", "05", "")]),
                "enrollments.csv": sheet(ENROLMENTS, [("e", "active", "HM-5M1", "HM", "N1", "student", "", "")]),
            }
        )
        with self.ctx.store.read() as db:
            begins = set(
                db.execute(
                    select(Enrolment.begins)
                    .join(Person, Person.id == Enrolment.person_id)
                    .where(Person.source_id == "N1")
                ).scalars()
            )
            others = db.scalar(select(func.count()).select_from(Enrolment).where(Enrolment.begins.is_not(None)))
        self.assertEqual((begins, others), ({date(2026, 11, 23)}, 1))

    def test_more_than_one_in_ten_gone_is_asked_about_first(self) -> None:
        rows = [(f"HM-S{n:04d}", "tobedeleted", "true", "HM", "student", "", "x", "y", "05", "") for n in (1, 2, 3)]
        files = {"manifest.csv": MANIFEST, "users.csv": sheet(USERS, rows)}
        preview = fromfiles.preview(self.ctx, self.boss, files)
        self.assertIn("set aside 3 of 20 students", preview.ask)
        before = self.tables()
        with self.assertRaisesRegex(Conflict, "more than one in ten"):
            fromfiles.apply(self.ctx, self.boss, preview.id)
        self.assertEqual(self.tables(), before)
        fromfiles.apply(self.ctx, self.boss, preview.id, yes=True)
        self.assertFalse(self.person("HM-S0002").active)
        with_two = {"manifest.csv": MANIFEST, "users.csv": sheet(USERS, rows[:1])}
        self.assertEqual(fromfiles.preview(self.ctx, self.boss, with_two).ask, "")

    def test_a_whole_file_cut_short_is_asked_about_as_well(self) -> None:
        files = small_roster(20)
        lines = files["users.csv"].decode().splitlines()
        cut = [line for line in lines if "HM-S00" not in line or line.startswith(("HM-S0001", "HM-S0002"))]
        kept = [line for line in files["enrollments.csv"].decode().splitlines() if "HM-S00" not in line]
        preview = fromfiles.preview(
            self.ctx,
            self.boss,
            files | {"users.csv": "\n".join(cut).encode(), "enrollments.csv": "\n".join(kept).encode()},
        )
        self.assertIn("set aside 18 of 20 students", preview.ask)

    def test_dates_decide_who_is_on_a_list(self) -> None:
        rows = [
            ("a", "active", "HM-5M1", "HM", "N1", "student", "2027-02-01", ""),
            ("b", "active", "HM-5M1", "HM", "N2", "student", "2026-09-01", "2026-10-01"),
            ("c", "active", "HM-5M1", "HM", "N3", "student", "2026-09-01", "2027-06-01"),
        ]
        users = [(f"N{n}", "active", "true", "HM", "student", "", "N", f"Number{n}", "05", "") for n in (1, 2, 3)]
        self.take(
            {"manifest.csv": MANIFEST, "users.csv": sheet(USERS, users), "enrollments.csv": sheet(ENROLMENTS, rows)}
        )
        self.bring_items(3)
        ids = scheduling.schedule(
            self.ctx,
            self.boss,
            self.make_form(),
            self.window_id,
            [self.class_id()],
            "",
            None,
            NOON,
            NOON.replace(hour=14),
        )
        names = {s.name for s in listing.get_session(self.ctx, self.boss, ids[0]).sittings}
        self.assertIn("N Number3", names)
        self.assertFalse({"N Number1", "N Number2"} & names)
        bad = [("d", "active", "HM-5M1", "HM", "N3", "student", "2026-09-01", "2026-08-01")]
        with self.assertRaisesRegex(ImportProblem, "enrollments.csv, line 2, column endDate: 2026-08-01; not before"):
            self.take({"manifest.csv": MANIFEST, "enrollments.csv": sheet(ENROLMENTS, bad)})

    def test_a_manifest_is_taken_at_its_word_or_refused(self) -> None:
        wrong = sheet(("propertyName", "value"), [("file.users", "most of it")])
        with self.assertRaisesRegex(
            ImportProblem, "manifest.csv, line 2, column value: 'most of it'; bulk, delta or absent"
        ):
            self.take({"manifest.csv": wrong, **small_roster(2)})
        with self.assertRaisesRegex(ImportProblem, "no file of changes"):
            self.take({"manifest.csv": MANIFEST})
        whole = sheet(("propertyName", "value"), [("file.users", "bulk")])
        with self.assertRaisesRegex(ImportProblem, r"no orgs.csv"):
            self.take({"manifest.csv": whole, "users.csv": small_roster(2)["users.csv"]})


class Families(BringCase):
    def bring_families(self) -> None:
        files = small_roster(4)
        rows = [line.split(",") for line in files["users.csv"].decode().splitlines()]
        students = [r for r in rows if r[3] == "student"]
        columns = (
            "sourcedId",
            "enabledUser",
            "orgSourcedIds",
            "role",
            "username",
            "givenName",
            "familyName",
            "grades",
            "agentSourceIds",
        )
        users = [(*r, "K1" if r in students[:2] else "") for r in rows[1:]]
        users += [
            ("K1", "true", "HM", "guardian", "k.one", "Kin", "One", "", ""),
            ("K2", "true", "HM", "parent", "k.two", "Kin", "Two", "", students[1][0]),
        ]
        self.take(files | {"users.csv": sheet(columns, users)})
        self.children = [r[0] for r in students[:2]]

    def test_they_come_linked_whichever_row_says_so(self) -> None:
        self.bring_families()
        with self.ctx.store.read() as db:
            links = {
                (db.get_one(Person, row.family_id).username, db.get_one(Person, row.student_id).source_id, row.relation)
                for row in db.scalars(select(FamilyLink))
            }
        one, two = self.children
        self.assertEqual(links, {("k.one", one, "guardian"), ("k.one", two, "guardian"), ("k.two", two, "parent")})

    def test_a_family_goes_with_its_last_child(self) -> None:
        self.bring_families()
        first, second = (self.person(source) for source in self.children)
        studentrecord.erase_person(self.ctx, self.boss, first.id, "asked for")
        self.assertEqual(self.person("K1").name, "Kin One", "one child is still here")
        studentrecord.erase_person(self.ctx, self.boss, second.id, "asked for")
        with self.ctx.store.read() as db:
            left = db.scalars(select(Person.family).where(Person.kind == "family")).all()
            self.assertEqual(db.scalars(select(FamilyLink)).all(), [])
            self.assertFalse([name for name in left if name in ("One", "Two")])
            self.assertEqual(kin.families_of(db, second.id), [])


MATCHED = {
    "Pupil no.": "id",
    "Pupil": "name",
    "Year": "grade",
    "Class name": "class",
    "Subject area": "subject",
    "Teacher name": "teacher",
    "Room": "room",
    "Way home": "",
}


class OneSheet(BringCase):
    def setUp(self) -> None:
        super().setUp()
        self.data = sample_files()["marram-point-sheet.csv"].replace(b"MP-", b"HM-")

    def test_columns_are_guessed_from_what_they_are_called(self) -> None:
        found = fromfiles.columns(self.ctx, self.boss, "s.csv", self.data)
        self.assertEqual({c.name: c.field for c in found.columns}, MATCHED)
        self.assertEqual((found.rows, found.columns[0].sample[:2]), (56, ["HM-S0001", "HM-S0002"]))
        fromfiles.columns(self.ctx, self.boss, "s.tsv", self.data.replace(b",", b"\t"))

    def test_it_brings_what_the_roster_files_would(self) -> None:
        matching = Matching(MATCHED, "Hollin Moor", True)
        counts = self.take({"s.csv": self.data}, matching=matching)
        self.assertEqual(counts["left_out"], 0)
        with self.ctx.store.read() as db:
            kinds = {
                k: n
                for k, n in db.execute(
                    select(Person.kind, func.count()).where(Person.id != self.boss_id).group_by(Person.kind)
                )
            }
            titles = set(db.scalars(select(SchoolClass.title)))
        self.assertEqual((kinds, titles), ({"student": 28, "staff": 2}, {"Mathematics 5.1", "Reading 5.1"}))
        self.assertEqual(self.in_classes("HM-S0001"), titles)
        again = fromfiles.preview(self.ctx, self.boss, {"s.csv": self.data}, matching)
        self.assertEqual((again.counts["added"], again.counts["changed"]), (0, 0))

    def test_on_top_of_a_roster_nobody_and_no_class_is_made_twice(self) -> None:
        self.bring_people(small_roster(28))
        counts = self.take({"s.csv": self.data}, matching=Matching(MATCHED, "Hollin Moor", False))
        self.assertEqual(
            (counts["added"], counts["changed"]), (0, 0), "names, classes, teachers and rooms are found again"
        )

    def test_a_workbook_reads_as_its_csv(self) -> None:
        book = Workbook()
        page = book.active
        assert page is not None
        for line in self.data.decode().splitlines():
            page.append([cell.strip('"') for cell in line.replace(", ", "; ").split(",")])
        for row in page.iter_rows(min_row=2, min_col=3, max_col=3):
            row[0].value = 5  # a number, as a spreadsheet keeps it
        out = io.BytesIO()
        book.save(out)
        found = fromfiles.columns(self.ctx, self.boss, "s.xlsx", out.getvalue())
        self.assertEqual((found.rows, {c.name: c.field for c in found.columns}), (56, MATCHED))
        self.assertEqual(found.columns[2].sample[0], "5")
        with self.assertRaisesRegex(ImportProblem, "broken.xlsx: not a readable workbook"):
            fromfiles.columns(self.ctx, self.boss, "broken.xlsx", b"PK\x03\x04 nothing")

    def test_a_whole_sheet_sets_aside_who_is_missing_but_never_staff(self) -> None:
        self.bring_people(small_roster(28))
        lines = self.data.decode().splitlines(keepends=True)
        cut = "".join(line for line in lines if not line.startswith(("HM-S0005", "HM-S0006"))).encode()
        self.take({"s.csv": cut}, matching=Matching(MATCHED, "Hollin Moor", True))
        self.assertFalse(self.person("HM-S0005").active)
        for source in ("HM-P01", "HM-TM01", "HM-S0007"):
            self.assertTrue(self.person(source).active, source)

    def test_a_column_can_be_something_known_about_students(self) -> None:
        def known(db: object) -> None:
            db.add(Attribute(name="way home"))  # type: ignore[attr-defined]

        self.ctx.store.write(known)
        found = fromfiles.columns(self.ctx, self.boss, "s.csv", self.data)
        self.assertEqual(next(c.field for c in found.columns if c.name == "Way home"), "attribute:way home")
        self.take(
            {"s.csv": self.data}, matching=Matching(MATCHED | {"Way home": "attribute:way home"}, "Hollin Moor", False)
        )
        with self.ctx.store.read() as db:
            values = {
                v: n for v, n in db.execute(select(AttributeValue.value, func.count()).group_by(AttributeValue.value))
            }
        self.assertEqual(sum(values.values()), 28)
        self.assertEqual(set(values), {"bus 4", "walks"})

    def test_what_cannot_be_is_named_with_its_line(self) -> None:
        names = ("Pupil no.", "Pupil")
        good = {"Pupil no.": "id", "Pupil": "name"}
        for rows, matched, school, said in (
            ([("", "A, B")], good, "S", "s.csv, line 2, column Pupil no.: empty; each student has a number"),
            ([("1", "A, B"), ("1", "C, D")], good, "S", "line 3, column Pupil no.: 1 is D C here and B A in line 2"),
            ([("1", "A, B")], good, "", "no school"),
            ([("1", "A, B")], {"Pupil": "name"}, "S", "no column matched with student number"),
            ([("1", "A, B")], {"Pupil no.": "id"}, "S", "no names"),
            ([("1", "A, B")], {"Pupil no.": "id", "Pupil": "id"}, "S", "student number matched twice"),
            ([("1", "A, B")], {"Pupil no.": "id", "Pupil": "shoe size"}, "S", "matched with 'shoe size'"),
            ([("1", "A, B")], {"No such": "id"}, "S", "no column No such"),
        ):
            with self.assertRaises(ImportProblem) as caught:
                fromfiles.preview(self.ctx, self.boss, {"s.csv": sheet(names, rows)}, Matching(matched, school, False))
            self.assertIn(said, str(caught.exception))


class Progress(BringCase):
    def test_it_tells_how_far_it_is_and_stopping_leaves_nothing(self) -> None:
        told: list[tuple[str, int, int]] = []

        class Watched(Job):
            def tell(self, what: str, done: int, total: int) -> None:
                told.append((what, done, total))
                super().tell(what, done, total)

        preview = fromfiles.preview(self.ctx, self.boss, small_roster(20), None, Watched())
        self.assertTrue({"person rows", "enrolment rows"} <= {what for what, _, _ in told})
        self.assertTrue(all(0 <= done <= total for _, done, total in told))
        before = self.tables()

        class StoppedInTheMiddle(Job):
            def tell(self, what: str, done: int, total: int) -> None:
                if what == "writing enrolment":
                    self.stop()
                super().tell(what, done, total)

        with self.assertRaises(Stopped):
            fromfiles.apply(self.ctx, self.boss, preview.id, job=StoppedInTheMiddle())
        self.assertEqual(self.tables(), before)
        fromfiles.apply(self.ctx, self.boss, preview.id)
        with self.ctx.store.read() as db:
            self.assertEqual(db.scalar(select(func.count()).select_from(Person).where(Person.kind == "student")), 20)

    def test_stopped_while_looking_nothing_is_kept_for_later(self) -> None:
        job = Job()
        job.stop()
        with self.assertRaises(Stopped):
            fromfiles.preview(self.ctx, self.boss, small_roster(5), None, job)
        with self.ctx.store.read() as db:
            self.assertEqual(db.scalars(select(StagedImport)).all(), [])


class Years(BringCase):
    def test_the_roster_brings_its_year_and_its_classes_belong_to_it(self) -> None:
        self.bring_people(small_roster(3))
        with self.ctx.store.read() as db:
            year = db.scalars(select(SchoolYear)).one()
            self.assertEqual((year.title, year.start), ("2026/27", date(2026, 8, 1)))
            self.assertEqual(set(db.scalars(select(SchoolClass.year_id))), {year.id})
            codes = list(db.scalars(select(SchoolClass.code)))
        self.assertEqual(len(set(codes)), 2)
        self.assertTrue(all(codes))
