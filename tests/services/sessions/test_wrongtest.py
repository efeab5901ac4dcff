"""The wrong test for a class is named before it is scheduled."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.services.sessions.wrongtest import wrong_test
from bildung.store.models import Form, FormItem, Item, ItemVersion, PlannedSession, Requirement, SchoolClass, Window
from tests.services.participation.support import OwedCase


class WrongTest(OwedCase):
    def draft(self, name: str, kind: str = "benchmark", subject: str = "Mathematics", grade: str = "5") -> int:
        """A form without items."""

        def work(db: Session) -> int:
            form = Form(name=name, title=name, kind=kind, subject=subject, grade=grade, created_at=self.clock.now)
            db.add(form)
            db.flush()
            return form.id

        return self.ctx.store.write(work)

    def require(self, form: int) -> None:
        wish = {"window_id": self.window_id, "form_id": form, "at": self.clock.now}
        self.ctx.store.write(lambda db: db.add(Requirement(**wish)))

    def in_language(self, form: int, language: str) -> None:
        """One item of this language, on the form."""

        def work(db: Session) -> None:
            like = db.scalars(select(ItemVersion)).first()
            assert like is not None
            item = Item(code=f"L-{form}", subject="Mathematics", grade="5", language=language)
            db.add(item)
            db.flush()
            copied = {c.name: getattr(like, c.name) for c in ItemVersion.__table__.columns if c.name != "id"}
            made = ItemVersion(**{**copied, "item_id": item.id})
            db.add(made)
            db.flush()
            db.add(FormItem(form_id=form, item_version_id=made.id, position=1))

        self.ctx.store.write(work)

    def said(self, form: int, at: int = 0) -> list[str]:
        with self.ctx.store.read() as db:
            klass, window = db.get_one(SchoolClass, self.classes[at]), db.get_one(Window, self.window_id)
            return wrong_test(db, db.get_one(Form, form), klass, window, self.clock.now)

    def test_where_the_window_requires_another_test_or_the_test_is_practice(self) -> None:
        this, other = self.draft("This year's"), self.draft("Last year's")
        self.assertEqual(self.said(other), [])
        self.require(this)
        self.assertEqual(self.said(this), [])
        self.assertEqual(self.said(other), ["Fall requires This year's of grade 5; Last year's is another test."])
        practice = self.draft("Practice", kind="mirror")
        self.assertEqual(self.said(practice), ["Fall requires This year's of grade 5; Practice is a practice test."])
        for kind in ("unit", "spot", "task"):
            self.assertEqual(self.said(self.draft(kind, kind=kind)), [], "a teacher's own stands beside the benchmark")
        self.assertEqual(
            self.said(self.draft("Reading", subject="Reading")),
            ["Mathematics 5.1 is a class in mathematics; Reading is a test in reading."],
            "of reading nothing is required",
        )

    def test_of_another_grade_or_subject(self) -> None:
        self.assertEqual(
            self.said(self.draft("Other", grade="6", subject="Reading")),
            [
                "Mathematics 5.1 is grade 5; Other is for grade 6.",
                "Mathematics 5.1 is a class in mathematics; Other is a test in reading.",
            ],
        )

    def test_in_a_language_that_no_test_of_the_class_was_in(self) -> None:
        spanish, english = self.draft("Spanish"), self.draft("English")
        self.in_language(spanish, "es")
        self.in_language(english, "en")
        self.assertEqual(self.said(spanish), [], "the class has had none to compare it with")
        session = self.plan(0, 3)

        def gave(db: Session) -> None:
            db.get_one(PlannedSession, session).form_id = english

        self.ctx.store.write(gave)
        self.assertEqual(
            self.said(spanish),
            ["Spanish is in the language “es”; the tests of Mathematics 5.1 this year were in “en”."],
        )
        self.assertEqual(self.said(english), [])
        self.assertEqual(self.said(spanish, 1), [], "the other class has had none")
