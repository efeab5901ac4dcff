"""A school of two classes with rooms, carts and bells, and a window to plan."""

from __future__ import annotations

from datetime import date, time

from sqlalchemy import select

from bildung.services.planning import bells, board, known, plans, resources
from bildung.services.planning.bells import Bells, BlockLine, DayTypeLine
from bildung.services.planning.document import PlanWishes
from bildung.services.shared.jobs import Job
from bildung.store.models import School, Window
from tests.services.participation.support import OwedCase

TIMES = ((time(8, 30), time(9, 30)), (time(9, 40), time(10, 40)), (time(12, 30), time(13, 30)))


def day(name: str, first: int) -> DayTypeLine:
    return DayTypeLine(
        name=name, blocks=[BlockLine(name=str(first + n), start=a, end=b) for n, (a, b) in enumerate(TIMES)]
    )


class PlanningCase(OwedCase):
    def setUp(self) -> None:
        super().setUp()
        with self.ctx.store.read() as db:
            self.school = db.scalars(select(School.id)).first() or 0
            window = db.get_one(Window, self.window_id)
            self.first, self.last = window.start, window.end
        self.rooms()

    def rooms(self, *names: tuple[str, int, int], carts: int = 1) -> None:
        rooms = names or (("Lab", 30, 30), ("Small", 6, 6))
        had = resources.resources_page(self.ctx, self.boss, self.school)
        ids = {line.name: line.id for line in (*had.rooms, *had.carts)}
        resources.save_rooms(
            self.ctx,
            self.boss,
            self.school,
            [
                resources.RoomLine(id=ids.get(name), name=name, seats=seats, devices=devices)
                for name, seats, devices in rooms
            ],
            [resources.CartLine(id=ids.get(f"Cart {n}"), name=f"Cart {n}", devices=30) for n in range(1, carts + 1)],
        )
        known.forget(self.ctx)

    def ab_days(self, first: date | None = None, **more: object) -> None:
        bells.save_bells(
            self.ctx,
            self.boss,
            self.school,
            Bells(
                types=[day("A", 1), day("B", 4)],
                cycle=True,
                pattern=["A", "B"],
                first=first or self.first,
                shifts=True,
                changes=[],
                **more,  # type: ignore[arg-type]
            ),
        )
        known.forget(self.ctx)

    def wishes(self, **more: object) -> PlanWishes:
        return PlanWishes(**({"tests": [self.form], "first": self.first, "last": self.last} | more))  # type: ignore[arg-type]

    def make_plan(self, again: bool = False, **more: object) -> board.BoardPage:
        known.forget(self.ctx)
        id = plans.make(self.ctx, self.boss, self.school, self.window_id, self.wishes(**more), Job(), again)
        return board.page_of_plan(self.ctx, self.boss, id)

    def page(self) -> board.BoardPage:
        return board.board_page(self.ctx, self.boss, self.window_id, self.school)
