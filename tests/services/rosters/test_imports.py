"""Rosters and items through preview and decision: all or nothing, and twice is once."""

from __future__ import annotations

from sqlalchemy import func, select, text

from bildung.formats.problem import ImportProblem
from bildung.services.bank import itemimport, search
from bildung.services.rosters import fromfiles
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed, NotFound
from bildung.store.models import AuditEntry, Base, Enrolment, ItemVersion, Person
from tests.support import WorldCase, small_roster


class PeopleImport(WorldCase):
    def everything(self) -> dict[str, list[tuple[object, ...]]]:
        """All rows of all tables that an import could touch."""
        skip = {"staged_import", "audit", "sign_in"}
        with self.ctx.store.read() as db:
            return {
                name: [tuple(row) for row in db.execute(select(table))]
                for name, table in Base.metadata.tables.items()
                if name not in skip
            }

    def test_a_preview_changes_nothing_and_says_everything(self) -> None:
        before = self.everything()
        preview = fromfiles.preview(self.ctx, self.boss, small_roster(10))
        self.assertEqual(self.everything(), before)
        self.assertEqual(preview.counts, {"added": 40, "changed": 0, "left_out": 0, "same": 0})
        kinds = {
            what: sum(line.what == what for line in preview.lines) for what in {line.what for line in preview.lines}
        }
        self.assertEqual(kinds, {"school": 1, "academic session": 1, "person": 14, "class": 2, "enrolment": 22})

    def test_the_preview_names_the_role_that_staff_would_get(self) -> None:
        files = small_roster(3)
        files["users.csv"] += b"HM-A1,true,HM,administrator,the.head,Ida,Kerr,\n"
        preview = fromfiles.preview(self.ctx, self.boss, files)
        labels = {line.id: line.label for line in preview.lines if line.what == "person"}
        self.assertEqual(labels["HM-A1"], "Ida Kerr, coordinator")
        self.assertTrue(labels["HM-TM01"].endswith(", teacher"))
        self.assertNotIn(",", labels["HM-S0001"])

    def test_applied_it_is_there_and_the_same_file_changes_nothing(self) -> None:
        self.bring_people()
        after = self.everything()
        again = fromfiles.preview(self.ctx, self.boss, small_roster())
        self.assertEqual((again.counts["added"], again.counts["changed"]), (0, 0))
        self.assertGreater(again.counts["same"], 50)
        fromfiles.apply(self.ctx, self.boss, again.id)
        self.assertEqual(self.everything(), after)
        with self.ctx.store.read() as db:
            codes = db.scalars(select(Person.code).where(Person.student.is_(True))).all()
        self.assertEqual(len(set(codes)), 28)

    def test_changes_are_named_and_who_left_keeps_their_row(self) -> None:
        self.bring_people()
        files = small_roster()
        users = files["users.csv"].decode().splitlines()
        gone = next(line for line in users if ",HM-S0003," in f",{line}" or line.startswith("HM-S0003"))
        users.remove(gone)
        users = [line.replace("HM-S0001,true,HM,student,,", "HM-S0001,true,HM,student,,X") for line in users]
        enrolments = [line for line in files["enrollments.csv"].decode().splitlines() if "HM-S0003" not in line]
        files |= {"users.csv": "\n".join(users).encode(), "enrollments.csv": "\n".join(enrolments).encode()}
        preview = fromfiles.preview(self.ctx, self.boss, files)
        details = {line.detail for line in preview.lines if line.fate == "changed"}
        self.assertTrue(any(d.startswith("given name: ") for d in details))
        self.assertIn("no longer in the file: archived, results stay", details)
        fromfiles.apply(self.ctx, self.boss, preview.id)
        with self.ctx.store.read() as db:
            person = db.scalars(select(Person).where(Person.source_id == "HM-S0003")).one()
            self.assertFalse(person.active)
            enrolments_left = db.scalar(
                select(func.count())
                .select_from(Enrolment)
                .where(Enrolment.person_id == person.id, Enrolment.active.is_(True))
            )
        self.assertEqual(enrolments_left, 0)
        self.assertTrue(
            self.ctx.store.read().__enter__().get_one(Person, self.boss_id).active, "who was made here stays"
        )

    def test_a_file_with_a_fault_leaves_nothing_behind(self) -> None:
        before = self.everything()
        for name, bad in (
            ("users.csv", b"\xff\xfe"),
            ("classes.csv", b"sourcedId,title\nx"),
            ("orgs.csv", b"sourcedId,name,type\n1,2\n"),
        ):
            with self.assertRaises(ImportProblem):
                fromfiles.preview(self.ctx, self.boss, small_roster() | {name: bad})
        with self.assertRaises(Invalid):
            fromfiles.preview(self.ctx, self.boss, {})
        self.assertEqual(self.everything(), before)

    def test_what_changed_since_the_preview_must_be_looked_at_again(self) -> None:
        preview = fromfiles.preview(self.ctx, self.boss, small_roster(10))
        self.bring_people(small_roster(10))
        before = self.everything()
        with self.assertRaisesRegex(Conflict, "something changed since the preview"):
            fromfiles.apply(self.ctx, self.boss, preview.id)
        self.assertEqual(self.everything(), before)

    def test_an_import_is_applied_once_and_only_by_who_looked(self) -> None:
        preview = fromfiles.preview(self.ctx, self.boss, small_roster(5))
        fromfiles.apply(self.ctx, self.boss, preview.id)
        with self.assertRaisesRegex(Conflict, "applied already"):
            fromfiles.apply(self.ctx, self.boss, preview.id)
        with self.assertRaises(NotFound):
            itemimport.apply_items(self.ctx, self.boss, preview.id)
        with self.ctx.store.read() as db:
            entry = db.scalars(select(AuditEntry).where(AuditEntry.action == "import.people")).one()
        self.assertEqual(entry.person_id, self.boss_id)

    def test_a_teacher_may_not_import(self) -> None:
        self.bring_people()
        with self.assertRaises(NotAllowed):
            fromfiles.preview(self.ctx, self.teacher_of(self.class_id()), small_roster())


class ItemImport(WorldCase):
    def test_a_changed_item_makes_the_next_version_and_the_old_one_stays(self) -> None:
        codes = self.bring_items(3)
        from bildung.demo.files import item_sheet

        sheet = item_sheet(self.placed).decode()
        again = itemimport.preview_items(self.ctx, self.boss, {"i.csv": sheet.encode()})
        self.assertEqual((again.counts["same"], again.counts["added"]), (3, 0))
        row = sheet.splitlines()[1]
        changed = sheet.replace(row, row.replace("What is", "How much is"))
        preview = itemimport.preview_items(self.ctx, self.boss, {"i.csv": changed.encode()})
        self.assertEqual(preview.counts["changed"], 1)
        self.assertIn("next version: text changed; results stay with version 1", preview.lines[0].detail)
        itemimport.apply_items(self.ctx, self.boss, preview.id)
        with self.ctx.store.read() as db:
            numbers = db.scalars(select(ItemVersion.number).order_by(ItemVersion.id)).all()
        self.assertEqual(sorted(numbers), [1, 1, 1, 2])
        items, total = search.find_items(self.ctx, self.boss, f"code:{codes[0]}")[:2]
        self.assertEqual((total, items[0].item.number), (1, 2))

    def test_stems_are_made_safe_on_the_way_in(self) -> None:
        sheet = b'code,type,stem,option_A,option_B,key\nX,choice,"<p onclick=""a()"">Hi<script>b()</script></p>",<b>1</b>,<img src=x>2,A\n'
        preview = itemimport.preview_items(self.ctx, self.boss, {"i.csv": sheet})
        itemimport.apply_items(self.ctx, self.boss, preview.id)
        with self.ctx.store.read() as db:
            version = db.scalars(select(ItemVersion)).one()
        options = [o["html"] for o in version.shown["parts"][0]["options"]]
        self.assertEqual((version.shown["body"], options), ("<p>Hi</p>", ["<b>1</b>", "2"]))

    def test_the_store_refuses_to_change_a_version(self) -> None:
        self.bring_items(1)
        with self.assertRaisesRegex(Exception, "an item version never changes"):
            self.ctx.store.write(lambda db: db.execute(text("UPDATE item_version SET kind = 'x'")))
