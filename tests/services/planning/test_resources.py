"""Rooms, carts, bells and hours: entered, kept, and refused with one clear message."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, time, timedelta

from sqlalchemy import select

from bildung.services.calendar import blocks
from bildung.services.planning import bells, resources
from bildung.services.planning.bells import Bells, BlockLine, DayChangeLine
from bildung.services.planning.resources import Available, CartLine, RoomLine
from bildung.services.sessions import changing
from bildung.services.sessions.changing import SessionChange
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed, NotFound
from bildung.store.models import Block, ClassTime, Person
from tests.services.planning.support import TIMES, PlanningCase, day


class Rooms(PlanningCase):
    def page(self) -> resources.ResourcesPage:  # type: ignore[override]
        return resources.resources_page(self.ctx, self.boss, self.school)

    def save(self, rooms: list[RoomLine], carts: list[CartLine] | None = None) -> None:
        resources.save_rooms(self.ctx, self.boss, self.school, rooms, carts or [])

    def test_a_list_is_kept_as_it_stands(self) -> None:
        page = self.page()
        self.assertEqual([(r.name, r.seats, r.devices) for r in page.rooms], [("Lab", 30, 30), ("Small", 6, 6)])
        self.assertRegex(page.finding, "2 testing rooms with 36 seats, 66 devices, 30 of them on 1 carts?")
        self.save([replace(page.rooms[0], seats=28)])
        self.assertEqual([(r.name, r.seats) for r in self.page().rooms], [("Lab", 28)])

    def test_bad_input_names_the_place_and_changes_nothing(self) -> None:
        cases = (
            ([RoomLine(name="Lab", seats=0)], "Lab has 0 seats; 1 to 500 are allowed"),
            ([RoomLine(name="Lab", seats=5, devices=-1)], "Lab has -1 devices"),
            ([RoomLine(name="A", seats=5), RoomLine(name="A ", seats=5)], "two rooms are named A"),
            ([RoomLine(name=" ", seats=5)], "each room needs a name"),
        )
        for rooms, says in cases:
            with self.assertRaisesRegex(Invalid, says):
                self.save(rooms)
        with self.assertRaisesRegex(Conflict, "someone changed this list"):
            self.save([RoomLine(id=999, name="Lab", seats=5)])
        self.assertEqual(len(self.page().rooms), 2)

    def test_a_room_with_sessions_ahead_is_not_removed(self) -> None:
        session = self.plan(0, 5)
        changing.change(self.ctx, self.boss, {session: 1}, SessionChange(room="Lab"))
        with self.assertRaisesRegex(Conflict, "Lab is used by 1 upcoming session; move it first"):
            self.save([r for r in self.page().rooms if r.name != "Lab"])

    def test_only_who_plans_the_school_changes_it(self) -> None:
        leader = Actor(person_id=self.boss_id, name="", grants=(Grant("leader", self.school),), sign_in_id=0, csrf="")
        self.assertFalse(resources.resources_page(self.ctx, leader, self.school).may)
        with self.assertRaises(NotAllowed):
            resources.save_rooms(self.ctx, leader, self.school, [], [])
        other = Actor(
            person_id=self.boss_id, name="", grants=(Grant("coordinator", self.school + 99),), sign_in_id=0, csrf=""
        )
        with self.assertRaises(NotFound):
            resources.save_rooms(self.ctx, other, self.school, [], [])

    def test_hours_and_support_of_staff(self) -> None:
        with self.ctx.store.read() as db:
            person = db.scalars(
                select(Person.id).where(Person.kind == "staff", Person.school_id == self.school)
            ).first()
        assert person is not None
        morning = [Available(weekday=n, start=time(8), end=time(12)) for n in range(5)]
        resources.save_staff(self.ctx, self.boss, person, morning, ["human_reader"], "Polish")
        line = next(s for s in self.page().staff if s.person == person)
        self.assertEqual(line.says, "human reader, in Polish, 8:00 AM to 12:00 PM")
        for hours, provides, says in (
            ([Available(weekday=0, start=time(9), end=time(8))], [], "Monday ends before it begins"),
            ([morning[0], morning[0]], [], "each weekday is listed once"),
            ([], ["large_print"], "large_print is not provided by a person"),
        ):
            with self.assertRaisesRegex(Invalid, says):
                resources.save_staff(self.ctx, self.boss, person, hours, provides)
        resources.save_staff(self.ctx, self.boss, person, [], [])
        self.assertEqual(next(s for s in self.page().staff if s.person == person).says, "")


class BellSchedules(PlanningCase):
    def bells(self) -> Bells:
        return resources.resources_page(self.ctx, self.boss, self.school).bells

    def save(self, wish: Bells) -> None:
        bells.save_bells(self.ctx, self.boss, self.school, wish)

    def slots(self, days: int = 5) -> list[tuple[date, str, str]]:
        with self.ctx.store.read() as db:
            found = blocks.slots_of(db, self.school, self.first, self.first + timedelta(days=days - 1))
        return [(s.start.date(), s.day_type, s.block) for s in found]

    def test_without_any_the_usual_blocks_hold_on_school_days(self) -> None:
        found = self.slots(7)
        self.assertEqual({len([s for s in found if s[0] == d]) for d in {s[0] for s in found}}, {4})
        self.assertTrue(all(d.weekday() < 5 for d, _, _ in found))

    def test_a_and_b_days_alternate_and_lunch_is_not_bridged(self) -> None:
        self.ab_days()
        found = self.slots(14)
        kinds = list(dict.fromkeys((d, kind) for d, kind, _ in found))
        self.assertEqual([kind for _, kind in kinds], [("A", "B")[n % 2] for n in range(len(kinds))])
        self.assertEqual([b for d, k, b in found if d == kinds[1][0]], ["4", "5", "6"])
        with self.ctx.store.read() as db:
            joined = [s.joined for s in blocks.slots_of(db, self.school, self.first, self.first)]
        self.assertEqual(joined, [True, False, False])

    def test_a_snow_day_moves_the_cycle_on(self) -> None:
        self.ab_days()
        days = list(dict.fromkeys(d for d, _, _ in self.slots(10)))
        self.save(replace(self.bells(), changes=[DayChangeLine(day=days[1], type="", why="snow")]))
        found = dict((d, kind) for d, kind, _ in self.slots(10))
        self.assertNotIn(days[1], found)
        self.assertEqual(found[days[2]], "B", "the day that was missed is taught")

    def test_blocks_keep_the_times_of_classes_by_their_name(self) -> None:
        self.ab_days()
        with self.ctx.store.read() as db:
            block = db.scalars(select(Block.id).where(Block.name == "2")).one()
        self.ctx.store.write(lambda db: db.add(ClassTime(class_id=self.classes[0], block_id=block)))
        kept = self.bells()
        later = replace(kept.types[0], blocks=[replace(b, end=b.end.replace(minute=35)) for b in kept.types[0].blocks])
        self.save(replace(kept, types=[later, kept.types[1]]))
        with self.ctx.store.read() as db:
            self.assertEqual(len(db.scalars(select(ClassTime)).all()), 1)
        gone = replace(later, blocks=[b for b in later.blocks if b.name != "2"])
        self.save(replace(self.bells(), types=[gone, kept.types[1]]))
        with self.ctx.store.read() as db:
            self.assertEqual(db.scalars(select(ClassTime)).all(), [])

    def test_bad_input(self) -> None:
        good = Bells(types=[day("A", 1)], cycle=False, pattern=["A"] * 5, first=self.first, shifts=True, changes=[])
        one, two = TIMES[0], TIMES[1]
        cases = (
            (replace(good, types=[day("A", 1), day("A", 4)]), "two kinds of days have the same name"),
            (replace(good, pattern=["C"]), "there is no kind of day named C"),
            (
                replace(good, types=[replace(day("A", 1), blocks=[BlockLine(name="1", start=one[1], end=one[0])])]),
                "block 1 of A ends before it begins",
            ),
            (
                replace(
                    good,
                    types=[
                        replace(
                            day("A", 1),
                            blocks=[
                                BlockLine(name="1", start=one[0], end=two[1]),
                                BlockLine(name="2", start=two[0], end=two[1]),
                            ],
                        )
                    ],
                ),
                "blocks 1 and 2 of A overlap",
            ),
            (
                replace(
                    good, changes=[DayChangeLine(day=self.first, type=""), DayChangeLine(day=self.first, type="A")]
                ),
                "one day is listed twice",
            ),
        )
        for wish, says in cases:
            with self.assertRaisesRegex(Invalid, says):
                self.save(wish)
        self.assertEqual(self.bells().types, [])
