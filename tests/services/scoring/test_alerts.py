"""A safety alert goes to exactly the persons whom the school named, and to nobody else."""

from __future__ import annotations

import unittest

from sqlalchemy import select

from bildung.services.scoring import alerts
from bildung.services.shared.errors import Invalid, NotAllowed, NotFound
from bildung.services.today import page
from bildung.services.upkeep import studentrecord
from bildung.store.models import Mark, Person, ResponseComment, School, Sitting
from tests.services.scoring.support import ScoringCase


class Alerts(ScoringCase):
    def setUp(self) -> None:
        super().setUp()
        self.counselor, self.other = self.staff("counselor", "specialist"), self.staff("other", "leader")
        with self.ctx.store.read() as db:
            self.school = db.scalars(select(School.id)).one()
        self.response = self.open(self.teacher).response

    def send(self) -> list[str]:
        assert self.response is not None
        return alerts.raise_alert(self.ctx, self.teacher, self.places["writing"], self.window_id, self.response.sitting)

    def test_exactly_the_persons_who_were_named_read_it(self) -> None:
        alerts.name_persons(self.ctx, self.boss, self.school, [self.counselor.person_id])
        self.assertEqual(self.open(self.teacher).alerts_to, ["counselor Y"])
        self.assertEqual(self.send(), ["counselor Y"])
        assert self.response is not None
        found = alerts.alerts(self.ctx, self.counselor)
        self.assertEqual(found.finding, "1 safety alert waits for you to act.")
        line = found.lines[0]
        with self.ctx.store.read() as db:
            students = {p.name for p in db.scalars(select(Person).where(Person.kind == "student"))}
        self.assertIn(line.student, students, "with the name")
        self.assertEqual(line.words, self.response.answer[0].answer)
        for actor in (self.boss, self.teacher, self.other, self.teach, self.wren):
            self.assertEqual(alerts.alerts(self.ctx, actor).lines, [])
            with self.assertRaises(NotFound):
                alerts.close_alert(self.ctx, actor, line.id, "seen")
        self.assertEqual([w.what for w in page.waiting_for(self.ctx, self.counselor) if w.urgent], ["1 safety alert"])
        alerts.close_alert(self.ctx, self.counselor, line.id, "Called home.")
        self.assertEqual(alerts.alerts(self.ctx, self.counselor).lines[0].closed, "Called home.")
        self.assertEqual([w for w in page.waiting_for(self.ctx, self.counselor) if "alert" in w.what], [])

    def test_the_same_response_is_told_once(self) -> None:
        alerts.name_persons(self.ctx, self.boss, self.school, [self.counselor.person_id])
        self.send()
        self.send()
        self.assertEqual(len(alerts.alerts(self.ctx, self.counselor).lines), 1)

    def test_where_no_one_is_named_it_does_not_go_nowhere(self) -> None:
        self.assertEqual(sorted(self.send()), ["Hanne Quill", "other Y"])

    def test_only_staff_are_named_and_only_by_whoever_coordinates(self) -> None:
        with self.ctx.store.read() as db:
            student = db.scalars(select(Person.id).where(Person.kind == "student")).first() or 0
        with self.assertRaisesRegex(Invalid, "staff of the district"):
            alerts.name_persons(self.ctx, self.boss, self.school, [student])
        with self.assertRaises(NotFound):
            alerts.name_persons(self.ctx, self.boss, 10**6, [])
        with self.assertRaises(NotAllowed):
            alerts.name_persons(self.ctx, self.teach, self.school, [])

    def test_of_a_student_who_is_erased_neither_alert_nor_comment_stays(self) -> None:
        alerts.name_persons(self.ctx, self.boss, self.school, [self.counselor.person_id])
        self.send()
        assert self.response is not None
        self.give(self.teacher, self.response.sitting, 1.0, 1.0, comment="Come and see me.")
        with self.ctx.store.read() as db:
            person = db.get_one(Sitting, self.response.sitting).person_id
        record = studentrecord.export_record(self.ctx, self.boss, person)
        self.assertIn("Come and see me.", str(record))
        studentrecord.erase_person(self.ctx, self.boss, person, "asked for it")
        self.assertEqual(alerts.alerts(self.ctx, self.counselor).lines, [])
        with self.ctx.store.read() as db:
            self.assertEqual(db.scalars(select(ResponseComment.id)).all(), [])
            self.assertEqual(len(db.scalars(select(Mark.id)).all()), 1, "points go on counting without a person")

    def test_who_may_not_read_the_response_raises_nothing(self) -> None:
        assert self.response is not None
        with self.assertRaises(NotFound):
            alerts.raise_alert(self.ctx, self.teach, self.places["writing"], self.window_id, self.response.sitting)


if __name__ == "__main__":
    unittest.main()
