"""What the federation decides: settings, how long things are kept, attributes; roles and colleagues."""

from __future__ import annotations

from datetime import date, timedelta

from sqlalchemy import func, select

from bildung.services.building import forms
from bildung.services.door import signin
from bildung.services.people import attributes, colleagues, directory, log
from bildung.services.sessions import listing, running
from bildung.services.shared import access, settings
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed, NotFound
from bildung.services.upkeep import retention
from bildung.store.models import (
    Attribute,
    AttributeValue,
    AuditEntry,
    Consent,
    Enrolment,
    Item,
    ItemVersion,
    JoinRequest,
    Person,
    Role,
    School,
    SignIn,
)
from tests.support import WorldCase, small_roster


class Deciding(WorldCase):
    def test_each_setting_says_what_it_allows_and_nothing_is_half_kept(self) -> None:
        for values, place in (
            ({"keep_sign_ins_days": 10}, "keep_sign_ins_days"),
            ({"keep_places": "yes"}, "keep_places"),
            ({"color": 1}, "color"),
            ({"records_address": "ftp://x"}, "records_address"),
            ({"records_hour": True}, "records_hour"),
            ({"keep_log_years": 3, "records_hour": 24}, "records_hour"),
        ):
            with self.assertRaises(Invalid) as caught:
                settings.change_settings(self.ctx, self.boss, values)
            self.assertEqual(caught.exception.place, place)
        self.assertEqual(settings.settings(self.ctx, self.boss)["keep_log_years"], 6)

    def test_a_secret_is_never_told_again_and_never_logged(self) -> None:
        settings.change_settings(self.ctx, self.boss, {"provider_secret": "s3cret-word", "records_hour": 4})
        self.assertEqual(settings.settings(self.ctx, self.boss)["provider_secret"], "set")
        settings.change_settings(self.ctx, self.boss, {"provider_secret": "set"})
        with self.ctx.store.read() as db:
            self.assertEqual(settings.setting(db, "provider_secret"), "s3cret-word")
        self.assertEqual(log.search(self.ctx, self.boss, "s3cret-word")[1], 0)
        entries, total = log.search(self.ctx, self.boss, "settings.change")
        self.assertEqual((total, "records_hour: 4" in entries[0].after), (1, True))

    def test_attributes_show_to_whom_it_was_decided(self) -> None:
        self.bring_people(small_roster(3))
        attributes.put_attribute(self.ctx, self.boss, "school meals", "coordinator")
        attributes.put_attribute(self.ctx, self.boss, "home language", "teacher")
        with self.ctx.store.read() as db:
            student = db.scalars(select(Person).where(Person.kind == "student")).first()
            names = {a.name: a.id for a in db.scalars(select(Attribute))}
        assert student is not None

        def values(db: object) -> None:
            db.add_all(AttributeValue(attribute_id=id, person_id=student.id, value="x") for id in names.values())  # type: ignore[attr-defined]

        self.ctx.store.write(values)
        teacher = self.teacher_of(self.class_id())
        shown = {
            actor.name: [n for n, _ in directory.get_person(self.ctx, actor, student.id).attributes]
            for actor in (self.boss, teacher)
        }
        self.assertEqual(shown, {"Hanne Quill": ["home language", "school meals"], teacher.name: ["home language"]})
        with self.assertRaises(Conflict):
            attributes.end_attribute(self.ctx, self.boss, names["school meals"], 0)
        attributes.end_attribute(self.ctx, self.boss, names["school meals"], 1)
        self.assertEqual([a.name for a in attributes.list_attributes(self.ctx, self.boss)], ["home language"])


class Keeping(WorldCase):
    def test_what_is_too_old_goes_and_the_log_says_how_much(self) -> None:
        self.bring_people(small_roster(4))
        with self.ctx.store.read() as db:
            gone, stays = db.scalars(select(Person).where(Person.kind == "student").order_by(Person.source_id)).all()[
                :2
            ]
        now, klass = self.clock.now, self.class_id()

        def age(db: object) -> None:
            for person, left in ((gone, date(2022, 1, 1)), (stays, date(2026, 1, 1))):
                row = db.get_one(Person, person.id)  # type: ignore[attr-defined]
                row.active, row.left_on = False, left
            for at, days, ended in (("a", 900, True), ("b", 900, False), ("c", 5, True)):
                db.add(  # type: ignore[attr-defined]
                    SignIn(
                        token_hash=at,
                        csrf="",
                        person_id=self.boss_id,
                        created_at=now - timedelta(days=days),
                        expires_at=now + timedelta(days=1),
                        revoked_at=now if ended else None,
                    )
                )
            db.add(
                JoinRequest(class_id=klass, given="Long", family="Ago", ticket_hash="old", at=now - timedelta(days=500))
            )  # type: ignore[attr-defined]
            db.add(AuditEntry(at=now - timedelta(days=3000), action="old.entry", subject="x", before=None, after=None))  # type: ignore[attr-defined]

        self.ctx.store.write(age)
        self.assertEqual(
            vars(retention.due(self.ctx, self.boss)), {"sign_ins": 1, "log_entries": 1, "students": 0, "requests": 1}
        )
        settings.change_settings(self.ctx, self.boss, {"erase_departed_years": 3})
        self.assertEqual(
            vars(retention.sweep(self.ctx)), {"sign_ins": 1, "log_entries": 1, "students": 1, "requests": 1}
        )
        self.assertEqual(
            vars(retention.sweep(self.ctx)), {"sign_ins": 0, "log_entries": 0, "students": 0, "requests": 0}
        )
        with self.ctx.store.read() as db:
            self.assertEqual(
                (db.get_one(Person, gone.id).given, db.get_one(Person, stays.id).given), ("Erased", stays.given)
            )
            self.assertEqual(set(db.scalars(select(SignIn.token_hash))), {"b", "c"})
        entries, total = log.search(self.ctx, self.boss, "retention.sweep")
        self.assertEqual((total, "students: 1" in entries[0].after), (1, True))
        self.assertNotIn(gone.family, entries[0].after)


class Roles(WorldCase):
    def setUp(self) -> None:
        super().setUp()
        self.bring_people(small_roster(3))
        with self.ctx.store.read() as db:
            self.school = db.scalars(select(School.id)).one()
            self.proctor = db.scalars(select(Person).where(Person.source_id == "HM-P01")).one()
        self.head = Actor(
            person_id=self.teacher_of(self.class_id()).person_id,
            name="Head",
            grants=(Grant("coordinator", self.school),),
            sign_in_id=0,
            csrf="",
        )

    def roles(self) -> list[tuple[str, str]]:
        return [(r.role, r.school) for r in directory.get_person(self.ctx, self.boss, self.proctor.id).roles]

    def test_given_and_taken_back_they_hold_at_once(self) -> None:
        colleagues.grant(self.ctx, self.boss, self.proctor.id, "writer", None)
        self.assertEqual(self.roles(), [("proctor", "Hollin Moor"), ("writer", "the district")])
        with self.assertRaisesRegex(Conflict, "has this role already"):
            colleagues.grant(self.ctx, self.boss, self.proctor.id, "writer", None)
        with self.ctx.store.read() as db:
            row = db.scalars(select(Role.id).where(Role.role == "writer")).one()
        colleagues.take_back(self.ctx, self.boss, row)
        self.assertEqual(self.roles(), [("proctor", "Hollin Moor")])
        self.assertEqual(log.search(self.ctx, self.boss, "role.")[1], 2)

    def test_nobody_gives_more_than_they_hold(self) -> None:
        colleagues.grant(self.ctx, self.head, self.proctor.id, "teacher", self.school)
        for role, school in (("coordinator", None), ("writer", self.school), ("teacher", self.school + 1)):
            with self.assertRaises(NotAllowed):
                colleagues.grant(self.ctx, self.head, self.proctor.id, role, school)
        with self.assertRaises(NotAllowed):
            colleagues.grant(self.ctx, self.teacher_of(self.class_id()), self.proctor.id, "teacher", self.school)
        with self.assertRaises(Invalid):
            colleagues.grant(self.ctx, self.boss, self.proctor.id, "king", None)
        with self.ctx.store.read() as db:
            student = db.scalars(select(Person.id).where(Person.kind == "student")).first() or 0
        with self.assertRaises(NotFound):
            colleagues.grant(self.ctx, self.boss, student, "coordinator", None)

    def test_the_last_coordinator_stays(self) -> None:
        with self.ctx.store.read() as db:
            mine = db.scalars(select(Role.id).where(Role.person_id == self.boss_id)).one()
        with self.assertRaisesRegex(Conflict, "the only coordinator"):
            colleagues.take_back(self.ctx, self.boss, mine)
        with self.assertRaises((NotAllowed, NotFound)):
            colleagues.take_back(self.ctx, self.head, mine)
        colleagues.grant(self.ctx, self.boss, self.proctor.id, "coordinator", None)
        colleagues.take_back(self.ctx, self.boss, mine)

    def test_every_role_of_the_rules_can_be_given_and_no_other(self) -> None:
        self.assertEqual({role for role, _ in access.RULES} - {access.SUBSTITUTE}, set(access.ROLES))


class Colleagues(WorldCase):
    def setUp(self) -> None:
        super().setUp()
        self.session = self.open_session(size=4, items=3).session
        self.giver, self.other = self.teacher_of(self.class_id()), self.teacher_of(self.class_id("Reading"))

    def test_shown_a_class_is_seen_by_name_and_changed_by_nobody_else(self) -> None:
        with self.ctx.store.read() as db:
            alone = db.scalars(select(Person).where(Person.kind == "student")).first()
        assert alone is not None
        with self.assertRaises(NotFound):
            listing.get_session(self.ctx, self.other, self.session.id)
        colleagues.show_classes(self.ctx, self.giver, self.other.person_id)
        page = listing.get_session(self.ctx, self.other, self.session.id)
        self.assertEqual((len(page.sittings), page.may_run, {s.code for s in page.sittings}), (4, False, {None}))
        with self.assertRaises(NotFound):
            running.close(self.ctx, self.other, self.session.id)
        (shown,) = [p for p in directory.list_people(self.ctx, self.other, alone.source_id)[0] if p.id == alone.id]
        self.assertIsNotNone(shown.code, "this student is in their own class as well")
        stranger = self.only_in(self.giver)
        (shown,) = directory.list_people(self.ctx, self.other, stranger.source_id)[0]
        self.assertEqual(
            (shown.code, directory.get_person(self.ctx, self.other, stranger.id).person.code), (None, None)
        )
        mine, theirs = (colleagues.colleagues(self.ctx, a)[0][0] for a in (self.giver, self.other))
        self.assertEqual((mine.mine, theirs.mine, theirs.classes), (True, False, "Mathematics 5.1"))
        with self.assertRaises(NotFound):
            colleagues.hide_classes(self.ctx, self.other, theirs.id)
        colleagues.hide_classes(self.ctx, self.giver, mine.id)
        with self.assertRaises(NotFound):
            listing.get_session(self.ctx, self.other, self.session.id)
        with self.ctx.store.read() as db:
            self.assertEqual(db.scalar(select(func.count()).select_from(Consent)), 1, "that it was so is kept")

    def only_in(self, teacher: Actor) -> Person:
        """A student who is in no class but this teacher's."""

        def leave(db: object) -> int:
            student = db.scalars(select(Person).where(Person.kind == "student").order_by(Person.id.desc())).first()  # type: ignore[attr-defined]
            for row in db.scalars(select(Enrolment).where(Enrolment.person_id == student.id)):  # type: ignore[attr-defined]
                if row.class_id != self.class_id():
                    db.delete(row)  # type: ignore[attr-defined]
            return int(student.id)

        id = self.ctx.store.write(leave)
        with self.ctx.store.read() as db:
            return db.get_one(Person, id)

    def test_asked_of_oneself_or_of_students_it_is_refused(self) -> None:
        with self.ctx.store.read() as db:
            student = db.scalars(select(Person.id).where(Person.kind == "student")).first() or 0
        for id in (self.giver.person_id, student, 9999):
            with self.assertRaises(Invalid):
                colleagues.show_classes(self.ctx, self.giver, id)
        colleagues.show_classes(self.ctx, self.giver, self.other.person_id)
        with self.assertRaises(Conflict):
            colleagues.show_classes(self.ctx, self.giver, self.other.person_id)
        self.assertNotIn(self.other.person_id, [id for id, _ in colleagues.colleagues(self.ctx, self.giver)[1]])


class OwnMaterial(WorldCase):
    """Teachers make tests of their own; common ones are changed by their keepers only."""

    def setUp(self) -> None:
        super().setUp()
        self.bring_people(small_roster(3))
        self.bring_items(4)
        self.one, self.two = self.teacher_of(self.class_id()), self.teacher_of(self.class_id("Reading"))

    def test_a_teachers_test_is_theirs_and_the_common_one_is_not(self) -> None:
        with self.ctx.store.read() as db:
            version = db.scalars(select(ItemVersion.id)).first() or 0
        common = forms.create_form(self.ctx, self.boss, "Common", "", "", "")
        own = forms.create_form(self.ctx, self.one, "Mine", "", "", "")
        forms.set_items(self.ctx, self.one, own.id, own.revision, [version])
        for work in (
            lambda: forms.set_items(self.ctx, self.one, common.id, common.revision, [version]),
            lambda: forms.publish(self.ctx, self.two, own.id, own.revision),
            lambda: forms.get_form(self.ctx, self.two, own.id),
        ):
            with self.assertRaises(NotFound):
                work()
        seen = {a.name: {f.name for f in forms.list_forms(self.ctx, a)} for a in (self.boss, self.one, self.two)}
        self.assertEqual(seen[self.one.name], {"Common", "Mine"})
        self.assertEqual(seen[self.two.name], {"Common"})
        self.assertEqual(seen["Hanne Quill"], {"Common", "Mine"})

    def test_an_item_of_somebodys_own_is_seen_by_nobody_but_them_and_the_keepers(self) -> None:
        from bildung.services.bank import search

        def give(db: object) -> None:
            db.scalars(select(Item)).first().owner_id = self.one.person_id  # type: ignore[attr-defined]

        self.ctx.store.write(give)
        self.assertEqual([search.find_items(self.ctx, a)[1] for a in (self.boss, self.one, self.two)], [4, 4, 3])


class Signing(WorldCase):
    def test_the_last_time_is_kept_for_staff_as_well(self) -> None:
        from tests.support import PASSWORD

        self.assertIsNone(directory.get_person(self.ctx, self.boss, self.boss_id).last_sign_in_at)
        signin.sign_in_staff(self.ctx, "boss", PASSWORD, "here")
        self.assertEqual(directory.get_person(self.ctx, self.boss, self.boss_id).last_sign_in_at, self.clock.now)
