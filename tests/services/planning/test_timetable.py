"""Class timetables by grid and by file, and rooms and carts by file: looked at first, all or nothing."""

from __future__ import annotations

import io

import xlsxwriter
from sqlalchemy import func, select

from bildung.formats.problem import ImportProblem
from bildung.services.planning import fromsheet, resources, timetable
from bildung.services.planning.timetable import Timetable
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed
from bildung.services.shared.staging import Preview
from bildung.store.models import ClassTime, Room
from tests.services.planning.support import PlanningCase


class Times(PlanningCase):
    def setUp(self) -> None:
        super().setUp()
        self.ab_days()

    def page(self) -> Timetable:  # type: ignore[override]
        return timetable.timetable_page(self.ctx, self.boss, self.school)

    def blocks(self) -> dict[str, int]:
        return {f"{b.day}{b.name}": b.id for b in self.page().blocks}

    def meets(self, klass: int) -> list[str]:
        names = {id: name for name, id in self.blocks().items()}
        return [names[id] for id in next(line for line in self.page().lines if line.klass == klass).meets]

    def look(self, text: str, name: str = "times.csv") -> Preview:
        return fromsheet.preview(self.ctx, self.boss, self.school, {name: text.encode()})

    def test_by_grid_only_the_classes_that_are_sent_change(self) -> None:
        self.assertEqual(list(self.blocks()), ["A1", "A2", "A3", "B4", "B5", "B6"])
        one, two = self.classes
        at = self.blocks()
        timetable.save_times(self.ctx, self.boss, self.school, {one: [at["B4"], at["A1"]], two: [at["A2"]]})
        timetable.save_times(self.ctx, self.boss, self.school, {two: []})
        self.assertEqual((self.meets(one), self.meets(two)), (["A1", "B4"], []))
        self.assertRegex(self.page().finding, r"^1 of \d+ classes has times\.$")
        for times, says in (({10**6: [at["A1"]]}, "not a class of this school"), ({one: [10**6]}, "no longer there")):
            with self.assertRaisesRegex(Invalid, says):
                timetable.save_times(self.ctx, self.boss, self.school, times)
        self.assertEqual(self.meets(one), ["A1", "B4"])

    def test_a_teacher_with_two_classes_in_a_block_is_named(self) -> None:
        line = next(line for line in self.page().lines if line.klass == self.classes[0])
        other = next((o for o in self.page().lines if o.teacher == line.teacher and o.klass != line.klass), None)
        assert other is not None, "a teacher of grade 5 teaches several subjects"
        at = self.blocks()
        timetable.save_times(
            self.ctx, self.boss, self.school, {line.klass: [at["A1"]], other.klass: [at["A1"], at["A2"]]}
        )
        found = {o.klass: o.twice for o in self.page().lines if o.twice}
        self.assertEqual(found, {line.klass: [at["A1"]], other.klass: [at["A1"]]})
        self.assertIn("2 classes with a teacher who has another class in the same block", self.page().finding)

    def test_by_file_a_row_for_each_meeting_or_a_column_for_each_day(self) -> None:
        one, two = self.classes
        long = "class,day,block\nMathematics 5.1,A,1\nmathematics 5.1,b,5\nMathematics 9.9,A,1\n"
        seen = self.look(long)
        self.assertEqual((seen.counts["added"], seen.counts["left_out"]), (1, 1))
        self.assertEqual([line.detail for line in seen.lines], ["A 1, B 5", "no class of this school has this title"])
        self.assertEqual(self.meets(one), [], "nothing was changed by looking")
        fromsheet.apply(self.ctx, self.boss, self.school, seen.id)
        self.assertEqual(self.meets(one), ["A1", "B5"])
        wide = io.BytesIO()
        book = xlsxwriter.Workbook(wide)
        sheet = book.add_worksheet()
        for at, row in enumerate([("Class", "A", "B"), ("Mathematics 5.1", 1, 5), ("Mathematics 5.2", "2, 3", "-")]):
            sheet.write_row(at, 0, row)
        book.close()
        seen = fromsheet.preview(self.ctx, self.boss, self.school, {"times.xlsx": wide.getvalue()})
        self.assertEqual((seen.counts["same"], seen.counts["added"]), (1, 1))
        fromsheet.apply(self.ctx, self.boss, self.school, seen.id)
        self.assertEqual(self.meets(two), ["A2", "A3"])

    def test_files_that_cannot_be_read_name_the_place_and_change_nothing(self) -> None:
        for text, says in (
            ("class,day,block\nMathematics 5.1,C,1\n", "block '1' of day 'C'.*A: 1, 2, 3; B: 4, 5, 6"),
            ("class,A\nMathematics 5.1,7\n", "block '7'"),
            ("class,A\nMathematics 5.1,1\nMathematics 5.1,2\n", "Mathematics 5.1 again"),
            ("class,teacher\nx,y\n", "known are room, seats"),
            ("room,seats\nLab,many\n", "'many'.*a whole number from 1 to 500"),
            ("room,seats\n,20\n", "a name of 1 to 40 characters"),
            ("room,seats,shared\nX,20,perhaps\n", "yes or no"),
            ("cart,devices\nC,0\n", "a whole number from 1"),
        ):
            with self.assertRaisesRegex(ImportProblem, says):
                self.look(text)
        with self.ctx.store.read() as db:
            self.assertEqual(db.scalar(select(func.count()).select_from(ClassTime)), 0)

    def test_rooms_and_carts_by_file(self) -> None:
        seen = self.look("Room;Seats;Devices;Shared\nlab;30;30;yes\nSmall;8;6;no\nHall;90;;\n", "rooms.csv")
        self.assertEqual([seen.counts[fate] for fate in ("same", "changed", "added")], [1, 1, 1])
        fromsheet.apply(self.ctx, self.boss, self.school, seen.id)
        rooms = {
            r.name: (r.seats, r.devices, r.shared)
            for r in resources.resources_page(self.ctx, self.boss, self.school).rooms
        }
        self.assertEqual(rooms, {"Lab": (30, 30, True), "Small": (8, 6, False), "Hall": (90, 0, True)})
        seen = self.look("cart,devices\nCart 1,24\nCart 9,12\n")
        with self.ctx.store.read() as db:
            self.assertEqual(db.scalar(select(func.count()).select_from(Room)), 3)
        fromsheet.apply(self.ctx, self.boss, self.school, seen.id)
        carts = {c.name: c.devices for c in resources.resources_page(self.ctx, self.boss, self.school).carts}
        self.assertEqual(carts, {"Cart 1": 24, "Cart 9": 12})

    def test_what_moved_since_it_was_looked_at_is_looked_at_again(self) -> None:
        seen = self.look("room,seats\nLab,20\n")
        self.rooms(("Lab", 25, 25))
        with self.assertRaises(Conflict):
            fromsheet.apply(self.ctx, self.boss, self.school, seen.id)

    def test_only_who_plans_the_school(self) -> None:
        leader = Actor(person_id=self.boss_id, name="", grants=(Grant("leader", self.school),), sign_in_id=0, csrf="")
        self.assertFalse(timetable.timetable_page(self.ctx, leader, self.school).may)
        with self.assertRaises(NotAllowed):
            timetable.save_times(self.ctx, leader, self.school, {})
        with self.assertRaises(NotAllowed):
            fromsheet.preview(self.ctx, leader, self.school, {"a.csv": b"room,seats\nX,1\n"})
