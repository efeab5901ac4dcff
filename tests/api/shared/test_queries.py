"""Lists ask the store as often for a hundred rows as for ten: counted, not timed."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from datetime import date, timedelta
from typing import Any

from fastapi.testclient import TestClient
from sqlalchemy import event, select
from sqlalchemy.engine import Engine

from bildung.api.app import create_app
from bildung.services.bank import drafts
from bildung.services.shared.access import Actor, Grant
from bildung.services.sitting import taking
from bildung.store.models import (
    Blueprint,
    ClosedDays,
    CoursePlan,
    Enrolment,
    Family,
    Form,
    FormItem,
    Framework,
    Group,
    GroupMember,
    GroupPurpose,
    GroupStaff,
    ItemVersion,
    Lesson,
    Person,
    PlannedSession,
    Role,
    School,
    SchoolClass,
    SchoolYear,
    Sitting,
    Standard,
    StandardChange,
    Stimulus,
    StimulusVersion,
    Verdict,
    Window,
)
from tests.support import NOON, PASSWORD, WorldCase

LISTS = (
    "/api/people",
    "/api/people/overview",
    "/api/people/check",
    "/api/people/log",
    "/api/classes",
    "/api/groups",
    "/api/year",
    "/api/plans",
    "/api/plans/1",
    "/api/frameworks",
    "/api/bank/items",
    "/api/bank/overview",
    "/api/bank/health",
    "/api/bank/writing",
    "/api/bank/stimuli",
    "/api/bank/tags",
    "/api/building/blueprints",
    "/api/building/families/1",
    "/api/building/forms/1/checks",
    "/api/building/forms/1/outlook",
    "/api/forms",
    "/api/calendar",
    "/api/sessions",
    "/api/sessions/choices",
    "/api/sessions/1",
    "/api/sessions/whose?of=absent&window=1",
    "/api/quality",
    "/api/quality/verdicts",
    "/api/quality/scope?form=1",
    "/api/quality/whose?form=1&of=absent",
    "/api/me/colleagues",
    "/api/accommodations",
    "/api/mastery",
    "/api/mastery?subject=Mathematics&grade=5",
    "/api/mastery/district?subject=Mathematics",
    "/api/mastery/groups",
    "/api/mastery/sessions",
    "/api/mastery/rules",
)


@contextmanager
def counted() -> Iterator[list[str]]:
    """Every statement that is asked meanwhile, of all threads."""
    said: list[str] = []

    def hear(conn: Any, cursor: Any, statement: str, *rest: Any) -> None:
        said.append(statement)

    event.listen(Engine, "before_cursor_execute", hear)
    try:
        yield said
    finally:
        event.remove(Engine, "before_cursor_execute", hear)


class Lists(WorldCase):
    def setUp(self) -> None:
        super().setUp()
        self.open_session(size=12, items=6)
        self.client = TestClient(create_app(self.ctx))
        answer = self.client.post("/api/signin", json={"username": "boss", "password": PASSWORD})
        self.assertEqual(answer.status_code, 200)
        self.ctx.store.write(self.begin)

    def begin(self, db: Any) -> None:
        year = db.scalars(select(SchoolYear)).one()
        writer = Person(source_id="local:writer", given="Wren", family="X", kind="staff", username="wren")
        framework = Framework(identifier="f-main", title="Main", main=True)
        db.add_all([writer, framework])
        db.flush()
        db.add(Role(person_id=writer.id, role="writer"))
        family = Family(name="Family", title="Family", created_at=NOON)
        db.add(family)
        db.flush()
        self.family_id, self.year_id, self.framework_id, self.writer_id = family.id, year.id, framework.id, writer.id
        db.get_one(Form, 1).family_id = family.id

    def grow(self, first: int, last: int) -> None:
        """Rows numbered first to last of everything that a list shows."""
        writer = Actor(person_id=self.writer_id, name="Wren X", grants=(Grant("writer", None),), sign_in_id=0, csrf="")
        for n in range(first, last):
            id = drafts.create_item(self.ctx, writer, f"W-{n}", "Mathematics", "5")
            self.ctx.store.write(lambda db, id=id: setattr(db.get_one(drafts.ItemDraft, id), "stage", "in_review"))
        self.ctx.store.write(lambda db: [self._rows(db, n) for n in range(first, last)] and None)

    def _rows(self, db: Any, n: int) -> None:
        versions = db.scalars(select(ItemVersion.id)).all()
        school = db.scalars(select(School)).first()
        teacher = Person(
            source_id=f"T-{n}", given="Tea", family=f"Cher{n}", kind="staff", username=f"t{n}", school_id=school.id
        )
        pupil = Person(source_id=f"S-{n}", given="Pu", family=f"Pil{n}", kind="student", grade="5", school_id=school.id)
        klass = SchoolClass(
            source_id=f"c-{n}", title=f"Class {n}", school_id=school.id, subject="Mathematics", grade="5"
        )
        window = Window(name=f"Window {n}", start=date(2026, 9, 14), end=date(2026, 12, 18))
        standard = Standard(code=f"M.{n}", text="text", framework_id=self.framework_id, identifier=f"s{n}")
        form = Form(
            name=f"Form {n}",
            title="T",
            subject="Mathematics",
            grade="5",
            created_at=NOON,
            family_id=self.family_id,
            settings={"minutes": 600},
        )
        group = Group(name=f"Group {n}", school_id=school.id, created_at=NOON, rule="grade 5" if n % 2 else None)
        plan = CoursePlan(course=f"Course {n}", subject=f"Subject {n}", grade="5", year_id=self.year_id)
        stimulus = Stimulus(code=f"P-{n}")
        framework = Framework(identifier=f"f-{n}", title=f"Framework {n}")
        db.add_all([teacher, pupil, klass, window, standard, form, group, plan, stimulus, framework])
        db.flush()
        db.add_all(FormItem(form_id=form.id, item_version_id=v, position=at) for at, v in enumerate(versions, 1))
        db.flush()
        form.published_at = NOON
        db.add_all(
            [
                Role(person_id=teacher.id, role="teacher", school_id=school.id),
                Enrolment(class_id=klass.id, person_id=teacher.id, role="teacher"),
                Enrolment(class_id=klass.id, person_id=pupil.id, role="student"),
                GroupMember(group_id=group.id, person_id=pupil.id),
                GroupStaff(group_id=group.id, person_id=teacher.id),
                GroupPurpose(group_id=group.id, standard_id=standard.id, check_on=NOON.date()),
                StandardChange(item_version_id=versions[n % len(versions)], at=NOON, before=[[standard.id, 0]]),
                StimulusVersion(stimulus_id=stimulus.id, number=1, title="A passage", kind="passage", created_at=NOON),
                Blueprint(name=f"Blueprint {n}", content={"rows": []}, changed_at=NOON),
                ClosedDays(name=f"Days {n}", start=date(2026, 10, 5), end=date(2026, 10, 6)),
                Verdict(
                    item_version_id=versions[n % len(versions)],
                    verdict="rework",
                    reason="r",
                    person_id=teacher.id,
                    at=NOON,
                ),
            ]
        )
        for at in range(1, 4):
            lesson = Lesson(
                plan_id=plan.id, position=at, unit="U", title="L", start=date(2026, 9, 1), end=date(2026, 9, 1 + at)
            )
            lesson.standards.append(standard)
            db.add(lesson)
        # of the first form, so that one view grows as well
        for form_id, code in ((1, "a"), (form.id, "b")):
            session = PlannedSession(
                form_id=form_id,
                window_id=self.window_id,
                class_id=klass.id,
                start=NOON - timedelta(hours=2),
                end=NOON,
                code=f"{code}-{n}",
                closed_at=NOON,
            )
            db.add(session)
            db.flush()
            db.add(Sitting(session_id=session.id, person_id=pupil.id, state="handed_in", started_at=NOON))
        open_now = PlannedSession(
            form_id=form.id,
            window_id=self.window_id,
            class_id=klass.id,
            start=NOON,
            end=NOON + timedelta(hours=2),
            code=f"o-{n}",
        )
        db.add(open_now)
        db.flush()
        db.add(Sitting(session_id=open_now.id, person_id=pupil.id, state="answering", started_at=NOON))

    def asked(self) -> dict[str, int]:
        found = {}
        for path in LISTS:
            self.assertEqual(self.client.get(path).status_code, 200, path)  # what is kept is kept
            with counted() as said:
                self.client.get(path)
            found[path] = len(said)
        return found

    def test_no_list_asks_more_often_when_it_grows(self) -> None:
        self.grow(0, 10)
        few = self.asked()
        self.grow(10, 100)
        many = self.asked()
        grown = {path: (few[path], many[path]) for path in LISTS if many[path] > few[path]}
        self.assertEqual(grown, {})
        self.assertLess(max(many.values()), 40)

    def test_handing_in_what_is_overdue_asks_as_often_for_many(self) -> None:
        counts = []
        for first, last in ((0, 10), (10, 100)):
            self.grow(first, last)
            with counted() as said:
                taking.hand_in_overdue(self.ctx)
            counts.append(len(said))
        self.assertLessEqual(counts[1], counts[0] + 1)

    def test_a_question_about_quality_writes_nothing(self) -> None:
        self.grow(0, 3)
        with counted() as said:
            self.assertEqual(self.client.get("/api/quality").status_code, 200)
        self.assertEqual([s for s in said if s.split()[0] in ("INSERT", "UPDATE", "DELETE")], [])
