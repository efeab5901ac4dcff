"""A class with two sessions in time, whose codes are standards of its subject."""

from __future__ import annotations

from datetime import timedelta

from sqlalchemy import select

from bildung.services.answers.packing import pack
from bildung.services.mastery import grid
from bildung.services.mastery.grid import GridAsked
from bildung.services.mastery.scope import WhoAsked
from bildung.store.models import Framework, PlannedSession, Standard, Window
from tests.services.growth.given import give
from tests.support import WorldCase, small_roster


class MasteryCase(WorldCase):
    """Twelve students, six items; the first window half right, the second all right."""

    SIZE = 12

    def setUp(self) -> None:
        super().setUp()
        self.bring_people(small_roster(self.SIZE))
        self.bring_items(12)
        self.form = self.make_form()

        def later(db):  # type: ignore[no-untyped-def]
            first = db.get_one(Window, self.window_id)
            window = Window(name="Later", start=first.start + timedelta(days=84), end=first.start + timedelta(days=98))
            framework = Framework(identifier="f", title="Framework")
            db.add_all([window, framework])
            db.flush()
            # the codes came with the items; here they are standards of the class's subject
            for at, s in enumerate(db.scalars(select(Standard).order_by(Standard.id))):
                s.subject, s.grade, s.text, s.position = "Mathematics", "5", f"Standard {s.code}", at
                s.framework_id = framework.id
            db.flush()
            return window.id

        self.later_id = self.ctx.store.write(later)
        self.sessions = [give(self, self.form, self.window_id, 4)]
        self.move(self.sessions[0], 60)
        self.sessions.append(give(self, self.form, self.later_id, 12))
        self.klass = self.class_id()

    def move(self, session: int, days: int) -> None:
        """To an earlier day."""

        def work(db):  # type: ignore[no-untyped-def]
            row = db.get_one(PlannedSession, session)
            row.start, row.end = row.start - timedelta(days=days), row.end - timedelta(days=days)
            row.data_version += 1
            db.flush()
            pack(db, row)

        self.ctx.store.write(work)

    def page(self, **more: object) -> grid.GridPage:
        return grid.grid_page(self.ctx, self.boss, self.asked(**more))

    def asked(self, **more: object) -> GridAsked:
        return GridAsked(who=WhoAsked(class_id=self.klass), **more)  # type: ignore[arg-type]

    def framework_id(self) -> int:
        with self.ctx.store.read() as db:
            return db.scalars(select(Framework.id)).one()

    def amounts(self) -> float:
        """Weighted points of all runs of the class."""
        return sum(sum(row.amounts) for row in self.page().rows)
