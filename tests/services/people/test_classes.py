"""Classes: signing in with their code, newcomers at the door, printed codes; and what students and families see."""

from __future__ import annotations

import io
from datetime import timedelta

from pypdf import PdfReader
from sqlalchemy import select

from bildung.services.door import accounts, signin
from bildung.services.own import ownpage
from bildung.services.people import classes, directory, kin
from bildung.services.rosters import check
from bildung.services.sessions import listing, running
from bildung.services.shared import settings
from bildung.services.shared.access import Own
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed, NotFound, NotSignedIn
from bildung.store.models import AuditEntry, Enrolment, JoinRequest, Person, PlannedSession, SchoolClass, SignIn
from tests.support import NOON, WorldCase, small_roster


class ClassCase(WorldCase):
    def setUp(self) -> None:
        super().setUp()
        self.session = self.open_session(size=5, items=3).session
        self.klass = self.class_id()
        with self.ctx.store.read() as db:
            self.code = db.get_one(SchoolClass, self.klass).code or ""
            self.students = list(db.scalars(select(Person).where(Person.kind == "student").order_by(Person.source_id)))
        self.teacher = self.teacher_of(self.klass)

    def own(self, at: int = 0) -> tuple[Own, signin.Token]:
        token = signin.sign_in_student(self.ctx, self.code, self.students[at].code or "", "10.0.0.7")
        return signin.own_of(self.ctx, token.secret, "student"), token


class OwnPage(ClassCase):
    def test_class_code_and_own_code_lead_to_ones_own_page_and_into_the_test(self) -> None:
        own, token = self.own()
        self.assertEqual(token.kind, "student")
        (me,) = ownpage.own_page(self.ctx, own, False).children
        self.assertEqual([(o.state, o.joinable) for o in me.occasions], [("now", True)])
        self.assertIn("is open now", me.sentence)
        sitting = signin.join_session(self.ctx, own, self.session.id, "here")
        self.assertEqual(sitting.kind, "sitting")
        self.assertEqual(signin.sitter_of(self.ctx, sitting.secret).person_id, self.students[0].id)

    def test_codes_of_others_open_nothing(self) -> None:
        for code, own, said in (
            ("NOSUCH", self.students[0].code, "no session or class with this code"),
            (self.code, "XXXXX", "not on the list of this class"),
        ):
            with self.assertRaisesRegex(Invalid, said):
                signin.sign_in_student(self.ctx, code, own or "", "here")
        check.settle(self.ctx, self.boss, "leave_class", self.students[1].id, self.klass)
        with self.assertRaisesRegex(Invalid, "not on the list of this class"):
            self.own(1)
        own, _ = self.own()
        with self.assertRaises(NotFound):
            signin.join_session(self.ctx, own, 999, "here")

    def test_a_sitting_is_no_page_and_a_page_is_no_sitting_and_neither_is_staff(self) -> None:
        _, page = self.own()
        sitting = signin.sign_in_student(self.ctx, self.session.code, self.students[1].code or "", "here")
        for work in (
            lambda: signin.sitter_of(self.ctx, page.secret),
            lambda: signin.own_of(self.ctx, sitting.secret, "student"),
            lambda: signin.actor_of(self.ctx, page.secret),
            lambda: signin.own_of(self.ctx, page.secret, "family"),
        ):
            with self.assertRaises(NotSignedIn):
                work()

    def test_left_alone_for_an_hour_it_closes(self) -> None:
        _, token = self.own()
        self.clock.pass_by(minutes=59)
        signin.own_of(self.ctx, token.secret, "student")
        self.clock.pass_by(minutes=61)
        with self.assertRaisesRegex(NotSignedIn, "left alone"):
            signin.own_of(self.ctx, token.secret, "student")

    def test_who_has_ever_signed_in_is_counted_and_places_only_if_decided(self) -> None:
        self.own(0)
        self.own(1)
        page = classes.get_class(self.ctx, self.teacher, self.klass)
        self.assertEqual((page.klass.students, page.klass.signed_in), (5, 2))
        self.assertIn("3 have never signed in", page.finding)
        self.assertEqual({s.last_place for s in page.students}, {""})
        settings.change_settings(self.ctx, self.boss, {"keep_places": True})
        self.own(2)
        page = classes.get_class(self.ctx, self.teacher, self.klass)
        self.assertEqual({s.last_place for s in page.students}, {"", "10.0.0.7"})
        with self.ctx.store.read() as db:
            self.assertEqual(set(db.scalars(select(SignIn.place))), {"", "10.0.0.7"})


class Newcomers(ClassCase):
    def ask(self, given: str = "Nova", family: str = "Arrival") -> str:
        return classes.ask_to_join(self.ctx, self.code.lower(), given, family, f"from {given}")

    def test_the_door_is_shut_until_the_teacher_opens_it(self) -> None:
        with self.assertRaisesRegex(Invalid, "no class accepts join requests"):
            self.ask()
        classes.set_door(self.ctx, self.teacher, self.klass, True, False)
        ticket = self.ask()
        self.assertEqual(classes.ticket_state(self.ctx, ticket)["state"], "waiting")
        with self.assertRaisesRegex(Conflict, "already waiting"):
            self.ask("nova", "ARRIVAL")
        with self.assertRaises(NotFound):
            classes.ticket_state(self.ctx, "made up")

    def test_let_in_they_are_on_the_list_of_the_open_session_and_have_a_code(self) -> None:
        classes.set_door(self.ctx, self.teacher, self.klass, True, False)
        ticket = self.ask()
        (asking,) = classes.get_class(self.ctx, self.teacher, self.klass).asking
        self.assertEqual((asking.name, asking.matches), ("Nova Arrival", []))
        classes.settle_request(self.ctx, self.teacher, asking.id, True, None)
        self.assertEqual(classes.ticket_state(self.ctx, ticket), {"state": "let_in", "klass": "Mathematics 5.1"})
        page = classes.get_class(self.ctx, self.teacher, self.klass)
        code = next(s.code for s in page.students if s.name == "Nova Arrival")
        token = signin.sign_in_student(self.ctx, self.session.code, code or "", "here")
        self.assertEqual(token.kind, "sitting")
        with self.assertRaisesRegex(Conflict, "settled already"):
            classes.settle_request(self.ctx, self.teacher, asking.id, False, None)

    def test_somebody_who_is_here_already_is_not_made_twice(self) -> None:
        one = self.students[3]
        check.settle(self.ctx, self.boss, "leave_class", one.id, self.klass)
        classes.set_door(self.ctx, self.teacher, self.klass, True, False)
        self.ask(one.given.upper(), one.family.lower())
        (asking,) = classes.get_class(self.ctx, self.teacher, self.klass).asking
        self.assertEqual(
            (asking.matches, asking.others), ([], 1), "no student of this teacher any more: no name is told"
        )
        with self.assertRaisesRegex(Conflict, "a coordinator decides whether"):
            classes.settle_request(self.ctx, self.teacher, asking.id, True, None)
        with self.assertRaisesRegex(Invalid, "a coordinator can choose any student"):
            classes.settle_request(self.ctx, self.teacher, asking.id, True, one.id)
        (asking,) = classes.get_class(self.ctx, self.boss, self.klass).asking
        self.assertEqual([id for id, _ in asking.matches], [one.id])
        classes.settle_request(self.ctx, self.boss, asking.id, True, one.id)
        with self.ctx.store.read() as db:
            row = db.scalars(
                select(Enrolment).where(Enrolment.person_id == one.id, Enrolment.class_id == self.klass)
            ).one()
            self.assertEqual(
                (row.active, row.ends, len(db.scalars(select(Person).where(Person.kind == "student")).all())),
                (True, None, 5),
            )

    def test_another_name_is_let_in_with_a_reason_only_and_it_stands_in_the_log(self) -> None:
        classes.set_door(self.ctx, self.teacher, self.klass, True, False)
        ticket = self.ask("Pretend", "Stranger")
        (asking,) = classes.get_class(self.ctx, self.teacher, self.klass).asking
        victim = self.students[2]
        with self.assertRaisesRegex(Conflict, "is a different name; say why they are the same person"):
            classes.settle_request(self.ctx, self.teacher, asking.id, True, victim.id)
        self.assertEqual(classes.ticket_state(self.ctx, ticket)["state"], "waiting")
        classes.settle_request(self.ctx, self.teacher, asking.id, True, victim.id, "goes by another name")
        with self.ctx.store.read() as db:
            entry = db.scalars(select(AuditEntry).where(AuditEntry.action == "class.let_in")).one()
        self.assertEqual((entry.why, entry.after["typed"]), ("goes by another name", "Pretend Stranger"))
        self.assertNotIn(victim.code, str(classes.ticket_state(self.ctx, ticket)))

    def test_refused_they_learn_it_and_nobody_is_made(self) -> None:
        classes.set_door(self.ctx, self.teacher, self.klass, True, False)
        ticket = self.ask()
        with self.ctx.store.read() as db:
            id = db.scalars(select(JoinRequest.id)).one()
        with self.assertRaises(NotFound):
            classes.settle_request(self.ctx, self.teacher_of(self.class_id("Reading")), id, True, None)
        classes.settle_request(self.ctx, self.teacher, id, False, None)
        self.assertEqual(
            classes.ticket_state(self.ctx, ticket),
            {"state": "refused", "klass": "Mathematics 5.1"},
        )

    def test_a_new_class_code_ends_the_old_one(self) -> None:
        fresh = classes.set_door(self.ctx, self.teacher, self.klass, False, True)
        self.assertNotEqual(fresh, self.code)
        with self.assertRaises(Invalid):
            self.own()
        with self.ctx.store.read() as db:
            self.assertNotIn(fresh, set(db.scalars(select(PlannedSession.code))))


class Printing(ClassCase):
    def test_each_class_has_a_page_of_cards_or_a_list_and_others_classes_have_none(self) -> None:
        other = self.class_id("Reading")
        for cards in (True, False):
            pdf = PdfReader(io.BytesIO(classes.sheets(self.ctx, self.boss, [self.klass, other], "http://here/", cards)))
            texts = [page.extract_text().replace(" ", "") for page in pdf.pages]
            self.assertEqual(len(texts), 2)
            self.assertIn(self.code, texts[0])
            for student in self.students:
                self.assertIn(student.code or "?", texts[0])
            self.assertIn("Printedby", texts[0])
        with self.assertRaises(NotFound):
            classes.sheets(self.ctx, self.teacher, [self.klass, other], "http://here/", True)
        with self.assertRaises(Invalid):
            classes.sheets(self.ctx, self.teacher, [], "http://here/", True)

    def test_colleagues_see_no_codes_of_classes_that_are_only_shown_to_them(self) -> None:
        reading = self.teacher_of(self.class_id("Reading"))
        with self.assertRaises(NotFound):
            classes.get_class(self.ctx, reading, self.klass)
        from bildung.services.people import colleagues

        colleagues.show_classes(self.ctx, self.teacher, reading.person_id)
        page = classes.get_class(self.ctx, reading, self.klass)
        self.assertEqual((page.code, {s.code for s in page.students}, page.may_run), (None, {None}, False))
        with self.assertRaises(NotFound):
            classes.set_door(self.ctx, reading, self.klass, True, False)


class FamilyPages(ClassCase):
    def family(self) -> tuple[str, Own]:
        password = kin.add_family(self.ctx, self.boss, self.students[0].id, "Kin", "One", "kin.one", "aunt") or ""
        token = signin.sign_in_staff(self.ctx, "kin.one", password, "here")
        self.assertEqual(token.kind, "family")
        return password, signin.own_of(self.ctx, token.secret, "family")

    def test_they_see_their_own_children_in_sentences_and_nothing_to_start(self) -> None:
        _, own = self.family()
        page = ownpage.own_page(self.ctx, own, True)
        self.assertEqual([c.id for c in page.children], [self.students[0].id])
        self.assertEqual([o.joinable for o in page.children[0].occasions], [False])
        self.assertIn("has a test today", page.children[0].sentence)
        running.close(self.ctx, self.boss, self.session.id)
        (child,) = ownpage.own_page(self.ctx, own, True).children
        self.assertIn("has missed 1 test; the school will schedule a makeup", child.sentence)

    def test_the_password_given_is_only_good_for_choosing_ones_own(self) -> None:
        password, own = self.family()
        self.assertTrue(own.must_change)
        accounts.change_password(self.ctx, own, password, "a-better-one-here")
        token = signin.sign_in_staff(self.ctx, "kin.one", "a-better-one-here", "here")
        self.assertFalse(signin.own_of(self.ctx, token.secret, "family").must_change)
        with self.assertRaises(NotSignedIn):
            signin.actor_of(self.ctx, token.secret)

    def test_one_account_for_several_children_and_unlinking_ends_it_at_once(self) -> None:
        _, own = self.family()
        self.assertIsNone(kin.add_family(self.ctx, self.boss, self.students[1].id, "Kin", "One", "kin.one", ""))
        self.assertEqual(len(ownpage.own_page(self.ctx, own, True).children), 2)
        kin.unlink_family(self.ctx, self.boss, self.students[0].id, own.person_id)
        self.assertEqual([c.id for c in ownpage.own_page(self.ctx, own, True).children], [self.students[1].id])
        for given, username, error in (("Kin", "boss", Conflict), ("Other", "kin.one", Conflict)):
            with self.assertRaises(error):
                kin.add_family(self.ctx, self.boss, self.students[2].id, given, "One", username, "")
        with self.assertRaises(NotAllowed):
            kin.add_family(self.ctx, self.teacher, self.students[2].id, "A", "B", "c.d", "")

    def test_families_are_found_by_asking_for_them(self) -> None:
        self.family()
        self.assertNotIn("Kin One", [p.name for p in directory.list_people(self.ctx, self.boss)[0]])
        self.assertEqual([p.name for p in directory.list_people(self.ctx, self.boss, kind="family")[0]], ["Kin One"])
        self.assertEqual(directory.list_people(self.ctx, self.boss, "kin")[0][0].kind, "family")


class Settling(ClassCase):
    """Sessions ahead that no longer match the roster."""

    def test_a_session_of_a_dissolved_class_is_found_and_dropped(self) -> None:
        self.clock.now = NOON - timedelta(days=1)
        check.settle(self.ctx, self.boss, "set_aside_class", None, self.klass)
        (lost,) = [d for d in check.check(self.ctx, self.boss)[1] if d.kind == "session_lost"]
        self.assertEqual(lost.steps[0].session_id, self.session.id)
        check.settle_session(self.ctx, self.boss, "drop_session", self.session.id, None)
        with self.assertRaises(NotFound):
            listing.get_session(self.ctx, self.boss, self.session.id)

    def test_one_that_somebody_began_is_never_dropped(self) -> None:
        signin.sign_in_student(self.ctx, self.session.code, self.students[0].code or "", "here")
        with self.assertRaisesRegex(Conflict, "someone has started"):
            check.settle_session(self.ctx, self.boss, "drop_session", self.session.id, None)

    def test_a_session_whose_proctor_left_gets_another(self) -> None:
        with self.ctx.store.read() as db:
            first, second = db.scalars(
                select(Person).where(Person.source_id.in_(("HM-P01", "HM-P02"))).order_by(Person.source_id)
            )

        def held(db: object) -> None:
            db.get_one(PlannedSession, self.session.id).proctor_id = first.id  # type: ignore[attr-defined]

        self.ctx.store.write(held)
        self.assertFalse([d for d in check.check(self.ctx, self.boss)[1] if d.kind == "proctor_left"])
        check.settle(self.ctx, self.boss, "set_aside", first.id, None)
        (left,) = [d for d in check.check(self.ctx, self.boss)[1] if d.kind == "proctor_left"]
        self.assertIn((second.id, second.name), left.steps[0].choices)
        with self.assertRaises(NotFound):
            check.settle_session(self.ctx, self.boss, "hold_session", self.session.id, first.id)
        check.settle_session(self.ctx, self.boss, "hold_session", self.session.id, second.id)
        self.assertEqual(listing.get_session(self.ctx, self.boss, self.session.id).session.proctor, second.name)


class Finding(WorldCase):
    def test_two_initials_put_the_person_first(self) -> None:
        self.bring_people(small_roster(28))
        with self.ctx.store.read() as db:
            everybody = db.scalars(select(Person).where(Person.kind == "student")).all()
        one = everybody[7]
        found, _ = directory.list_people(self.ctx, self.boss, f"{one.given[0]}{one.family[0]}".lower())
        first = [p for p in found if p.name[0] == one.given[0] and p.name.split()[-1][0] == one.family[0]]
        self.assertIn(one.name, [p.name for p in first])
        self.assertEqual(found[: len(first)], first, "whose initials fit come before whose names hold the letters")
        self.assertEqual(directory.list_people(self.ctx, self.boss, one.source_id)[0][0].id, one.id)
