"""Which items students came back to, and where they changed their answer, from what their devices told."""

from __future__ import annotations

from typing import ClassVar

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.services.quality import effort
from bildung.services.sitting.visits import Visit, pack_visits
from bildung.store.models import Form, FormItem, PlannedSession, ResponseEvent, Sitting, VisitLog
from tests.demo_case import DemoCase

FORM = "Fall reading 8"


class Handled(DemoCase):
    """The demo is one for all tests of a class, so what devices told is put in once."""

    before: ClassVar[dict[int, int]] = {}

    def setUp(self) -> None:
        super().setUp()
        if self.before:
            return

        def work(db: Session) -> tuple[list[int], list[int]]:
            form = db.scalars(select(Form).where(Form.name == FORM)).one()
            places = list(
                db.scalars(select(FormItem.id).where(FormItem.form_id == form.id).order_by(FormItem.position))
            )
            sat = list(
                db.scalars(
                    select(Sitting.id)
                    .join(PlannedSession, PlannedSession.id == Sitting.session_id)
                    .where(PlannedSession.form_id == form.id, Sitting.state == "handed_in", Sitting.form_id.is_(None))
                    .order_by(Sitting.id)
                    .limit(3)
                )
            )
            for sitting, order in zip(sat, ([0, 1, 0], [0, 1, 2], [1, 2, 1]), strict=True):
                packed = pack_visits([Visit(places[at], 10 * n, 50) for n, at in enumerate(order)], places)
                db.add(VisitLog(sitting_id=sitting, takeover=1, packed=packed))
            for n, (sitting, answer) in enumerate(
                ((sat[0], "A"), (sat[0], "B"), (sat[1], "A"), (sat[1], "A"), (sat[2], ""))
            ):
                db.add(
                    ResponseEvent(
                        id=f"handled-{n}",
                        sitting_id=sitting,
                        form_item_id=places[1],
                        answer=answer,
                        takeover=1,
                        sequence=900 + n,
                        at=self.ctx.clock(),
                    )
                )
            return sat, places

        self.before.update({h.number: h.changed for h in self.look().handled})
        self.ctx.store.write(work)

    def look(self) -> effort.TimeAndEffort:
        return effort.time_and_effort(self.ctx, self.boss, self.wanted(FORM))

    def test_it_is_counted_by_item(self) -> None:
        found = {h.number: h for h in self.look().handled}
        self.assertEqual([(found[n].seen, found[n].back) for n in (1, 2, 3)], [(2, 1), (3, 1), (2, 0)])
        self.assertEqual(found[2].changed, self.before[2] + 1)
        self.assertEqual(found[1].changed, self.before[1])

    def test_a_view_of_one_class_counts_its_own(self) -> None:
        with self.ctx.store.read() as db:
            classes = list(
                db.scalars(
                    select(PlannedSession.class_id)
                    .join(Form, Form.id == PlannedSession.form_id)
                    .where(Form.name == FORM)
                )
            )
        seen = [
            effort.time_and_effort(self.ctx, self.boss, self.wanted(FORM, classes=(klass,))).handled[0].seen
            for klass in dict.fromkeys(classes)
        ]
        self.assertEqual(sum(seen), 2)
