"""Forms and sessions: what is published stays, what collides is named."""

from __future__ import annotations

from datetime import date, timedelta

from sqlalchemy import func, select, text
from sqlalchemy.orm import Session

from bildung.services.bank import search
from bildung.services.building import forms
from bildung.services.calendar import windows
from bildung.services.people.proctors import check_proctor
from bildung.services.rosters import fromfiles
from bildung.services.sessions import listing, running, scheduling
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed, NotFound
from bildung.store.models import AuditEntry, Person, Role, SchoolClass
from tests.support import NOON, WorldCase, small_roster


class Forms(WorldCase):
    def setUp(self) -> None:
        super().setUp()
        self.bring_items(5)
        self.items = [found.item.version_id for found in search.find_items(self.ctx, self.boss)[0]]

    def test_items_keep_their_order_and_can_be_moved(self) -> None:
        form = forms.create_form(self.ctx, self.boss, "F", "", "", "")
        form = forms.set_items(self.ctx, self.boss, form.id, form.revision, self.items[:4])
        moved = [self.items[i] for i in (3, 0, 4, 1)]
        form = forms.set_items(self.ctx, self.boss, form.id, form.revision, moved)
        self.assertEqual([item.version_id for item in form.items], moved)
        self.assertEqual(sum(n for _, n in form.coverage), 4)

    def test_two_people_at_once_do_not_overwrite_each_other(self) -> None:
        form = forms.create_form(self.ctx, self.boss, "F", "", "", "")
        forms.set_items(self.ctx, self.boss, form.id, form.revision, self.items[:2])
        with self.assertRaisesRegex(Conflict, "someone changed this form in the meantime"):
            forms.set_items(self.ctx, self.boss, form.id, form.revision, self.items[2:])
        self.assertEqual(len(forms.get_form(self.ctx, self.boss, form.id).items), 2)

    def test_a_published_form_never_changes_not_even_in_the_store(self) -> None:
        form_id = self.make_form()
        form = forms.get_form(self.ctx, self.boss, form_id)
        with self.assertRaisesRegex(Conflict, "published and never changes"):
            forms.set_items(self.ctx, self.boss, form_id, form.revision, self.items[:1])
        for statement in (
            "UPDATE form SET title = 'x'",
            "DELETE FROM form_item",
            "UPDATE form_item SET position = 9",
            f"INSERT INTO form_item (form_id, position, item_version_id) VALUES ({form_id}, 99, {self.items[0]})",
        ):
            with self.assertRaisesRegex(Exception, "a published form never changes"):
                self.ctx.store.write(lambda db, s=statement: db.execute(text(s)))  # type: ignore[misc]
        self.assertEqual(forms.get_form(self.ctx, self.boss, form_id), form)

    def test_what_cannot_be_published_or_put_on_a_form_is_named(self) -> None:
        form = forms.create_form(self.ctx, self.boss, "F", "", "", "")
        with self.assertRaisesRegex(Invalid, "without items"):
            forms.publish(self.ctx, self.boss, form.id, form.revision)
        with self.assertRaisesRegex(Invalid, "appears twice"):
            forms.set_items(self.ctx, self.boss, form.id, form.revision, [self.items[0]] * 2)
        with self.assertRaisesRegex(Invalid, "not in the bank"):
            forms.set_items(self.ctx, self.boss, form.id, form.revision, [10**6])
        with self.assertRaisesRegex(Conflict, "a form named F already"):
            forms.create_form(self.ctx, self.boss, " F ", "", "", "")
        with self.assertRaisesRegex(Invalid, "1 to 120 characters"):
            forms.create_form(self.ctx, self.boss, "  ", "", "", "")
        with self.assertRaises(NotFound):
            forms.get_form(self.ctx, self.boss, 999)


class Sessions(WorldCase):
    def setUp(self) -> None:
        super().setUp()
        self.bring_people(small_roster(5))
        self.bring_items(4)
        self.form = self.make_form()

    def plan(self, **changes: object) -> list[int]:
        given: dict[str, object] = {
            "form_id": self.form,
            "window_id": self.window_id,
            "class_ids": [self.class_id()],
            "room": "",
            "proctor_id": None,
            "start": NOON,
            "end": NOON + timedelta(hours=1),
        } | changes
        return scheduling.schedule(self.ctx, self.boss, **given)  # type: ignore[arg-type]

    def proctor(self) -> int:
        with self.ctx.store.read() as db:
            return db.scalars(select(Person.id).where(Person.source_id == "HM-P01")).one()

    def test_the_roster_is_the_class_and_the_room_is_the_classes(self) -> None:
        detail = listing.get_session(self.ctx, self.boss, self.plan()[0])
        self.assertEqual(len(detail.sittings), 5)
        self.assertEqual(detail.session.room, "A51")
        self.assertEqual(len(detail.session.code), 6)

    def test_all_or_none_and_each_collision_is_named(self) -> None:
        self.plan(proctor_id=self.proctor())
        reading = self.class_id("Reading")
        for changes, kind, said in (
            ({"class_ids": [reading, self.class_id()]}, Conflict, "has this form in this window already"),
            ({"class_ids": [reading], "proctor_id": self.proctor()}, Conflict, "proctors A form in A51 at that time"),
            ({"class_ids": [reading], "end": NOON - timedelta(hours=1)}, Invalid, "the end comes after the start"),
            ({"class_ids": []}, Invalid, "at least one class"),
            ({"class_ids": [reading], "form_id": 99}, Invalid, "a published form"),
            ({"class_ids": [reading], "window_id": 99}, Invalid, "choose a window"),
            ({"class_ids": [reading, 99]}, Invalid, "a class is not there or not yours"),
            ({"class_ids": [reading], "proctor_id": 10**6}, Invalid, "a member of staff"),
        ):
            with self.assertRaisesRegex(kind, said):
                self.plan(**changes)
        self.assertEqual(len(listing.list_sessions(self.ctx, self.boss)), 1)

    def test_the_role_to_hold_a_session_is_given_by_asking_for_one_school_and_in_the_log(self) -> None:
        with self.ctx.store.read() as db:
            school = db.get_one(SchoolClass, self.class_id()).school_id

        def helper(db: Session) -> int:
            person = Person(source_id="local:help", given="Ida", family="Helper", kind="staff", school_id=school)
            db.add(person)
            db.flush()
            db.add(Role(person_id=person.id, role="writer"))
            return person.id

        person = self.ctx.store.write(helper)
        self.assertEqual(
            [s["may_hold"] for s in scheduling.choices(self.ctx, self.boss)["staff"] if s["id"] == person],
            [False],
        )
        with self.assertRaisesRegex(Conflict, "Ida Helper has no role that lets them hold a session"):
            self.plan(proctor_id=person)
        far = Actor(person_id=self.boss_id, name="X", grants=(Grant("coordinator", 999),), sign_in_id=0, csrf="")
        with self.assertRaisesRegex(Invalid, "a member of staff of your school"):
            self.ctx.store.write(lambda db: check_proctor(db, self.ctx, far, person, school, True))
        self.plan(proctor_id=person, grant_role=True)
        with self.ctx.store.read() as db:
            self.assertEqual(
                {(r.role, r.school_id) for r in db.scalars(select(Role).where(Role.person_id == person))},
                {("writer", None), ("proctor", school)},
            )
            entry = db.scalars(select(AuditEntry).where(AuditEntry.action == "role.grant")).one()
        self.assertEqual(
            (entry.person_id, entry.subject, entry.after),
            (self.boss_id, f"person:{person}", {"role": "proctor", "school": school}),
        )

    def test_planning_somebody_who_may_hold_it_gives_no_role(self) -> None:
        with self.ctx.store.read() as db:
            before = db.scalar(select(func.count()).select_from(Role))
        self.plan(proctor_id=self.proctor(), grant_role=True)
        with self.ctx.store.read() as db:
            self.assertEqual(db.scalar(select(func.count()).select_from(Role)), before)

    def test_windows_are_made_by_the_federations_coordinators_alone(self) -> None:
        school = Actor(person_id=self.boss_id, name="X", grants=(Grant("coordinator", 1),), sign_in_id=0, csrf="")
        with self.assertRaises(NotAllowed):
            windows.create_window(self.ctx, school, "Mine", date(2026, 3, 1), date(2026, 3, 2))

    def test_the_list_follows_the_class_until_it_closes(self) -> None:
        session_id = self.plan()[0]
        files = small_roster(5)
        smaller = [line for line in files["enrollments.csv"].decode().splitlines() if "HM-S0002" not in line]
        preview = fromfiles.preview(self.ctx, self.boss, files | {"enrollments.csv": "\n".join(smaller).encode()})
        fromfiles.apply(self.ctx, self.boss, preview.id)
        self.assertEqual(len(listing.get_session(self.ctx, self.boss, session_id).sittings), 4)
        self.bring_people(small_roster(5))
        self.assertEqual(len(listing.get_session(self.ctx, self.boss, session_id).sittings), 5)
        running.close(self.ctx, self.boss, session_id)
        preview = fromfiles.preview(self.ctx, self.boss, files | {"enrollments.csv": "\n".join(smaller).encode()})
        fromfiles.apply(self.ctx, self.boss, preview.id)
        self.assertEqual(len(listing.get_session(self.ctx, self.boss, session_id).sittings), 5)

    def test_each_role_sees_its_own_sessions(self) -> None:
        math = self.plan(proctor_id=self.proctor())[0]
        reading = self.plan(
            class_ids=[self.class_id("Reading")], start=NOON + timedelta(hours=2), end=NOON + timedelta(hours=3)
        )[0]
        teacher = self.teacher_of(self.class_id())
        proctor = Actor(person_id=self.proctor(), name="P", grants=(Grant("proctor", None),), sign_in_id=0, csrf="")
        elsewhere = Actor(person_id=self.boss_id, name="X", grants=(Grant("coordinator", 999),), sign_in_id=0, csrf="")
        for actor, expected in ((self.boss, {math, reading}), (teacher, {math}), (proctor, {math}), (elsewhere, set())):
            self.assertEqual({s.id for s in listing.list_sessions(self.ctx, actor)}, expected)
        with self.assertRaises(NotFound):
            listing.get_session(self.ctx, teacher, reading)
        with self.assertRaises(NotFound):
            running.close(self.ctx, proctor, reading)
        with self.assertRaises(NotAllowed):
            listing.list_sessions(self.ctx, Actor(person_id=1, name="nobody", grants=(), sign_in_id=0, csrf=""))

    def test_the_calendar_is_the_school_year_around_today(self) -> None:
        year = windows.calendar(self.ctx, self.boss)
        self.assertEqual(
            (year["start"], year["end"], year["today"]), (date(2026, 8, 1), date(2027, 7, 31), date(2026, 11, 23))
        )
        with self.assertRaisesRegex(Invalid, "ends on or after"):
            windows.create_window(self.ctx, self.boss, "Odd", date(2026, 3, 2), date(2026, 3, 1))
        with self.assertRaisesRegex(Conflict, "Fall from that day already"):
            windows.create_window(self.ctx, self.boss, "Fall", date(2026, 9, 14), date(2026, 9, 15))
