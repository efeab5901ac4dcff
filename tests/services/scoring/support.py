"""A session whose responses wait for scorers: a written one, one in several parts, and a choice."""

from __future__ import annotations

import json
from datetime import timedelta
from typing import Any

from sqlalchemy import select

from bildung.services.bank import search
from bildung.services.building import forms
from bildung.services.door import signin
from bildung.services.scoring import desk
from bildung.services.scoring.desk import DeskNext, ScoreWish
from bildung.services.sessions import running, scheduling
from bildung.services.shared.access import Actor, Grant
from bildung.services.sitting import events, saving, taking
from bildung.store.models import FormItem, Item, ItemVersion, Person, Role, Sitting
from tests.services.bank.test_bank import BankCase
from tests.support import NOON, small_roster

STUDENTS = 6


class ScoringCase(BankCase):
    KINDS: tuple[str, ...] = ("writing", "several", "choice")
    SIZE = STUDENTS

    def given(self, at: int) -> dict[str, str]:
        """What a student answers, by kind of item. Each writes something else; the last one leaves the writing blank."""
        written = f"Because of reason {at}." if at < self.SIZE - 1 else ""
        several = {"1": "4", "2": "y>x", **({"3": written} if written else {})}
        return {"writing": written, "several": json.dumps(several), "choice": "B"}

    def setUp(self) -> None:
        super().setUp()
        self.bring_people(small_roster(self.SIZE))
        self.bring_all()
        form = forms.create_form(self.ctx, self.boss, "Writing", "", "Mathematics", "5")
        found = {f.item.kind: f.item.version_id for f in search.find_items(self.ctx, self.boss, limit=500)[0]}
        form = forms.set_items(self.ctx, self.boss, form.id, form.revision, [found[kind] for kind in self.KINDS])
        self.form = forms.publish(self.ctx, self.boss, form.id, form.revision).id
        (self.session,) = scheduling.schedule(
            self.ctx, self.boss, self.form, self.window_id, [self.class_id()], "", None, NOON, NOON + timedelta(hours=1)
        )
        self.teacher = self.teacher_of(self.class_id())
        with self.ctx.store.read() as db:
            self.places: dict[str, int] = {
                kind: id
                for id, kind in db.execute(
                    select(FormItem.id, ItemVersion.kind)
                    .join(ItemVersion, ItemVersion.id == FormItem.item_version_id)
                    .where(FormItem.form_id == self.form)
                )
            }
        self.take()

    def take(self) -> None:
        """All students of the class take the test and submit it; then the session is closed."""
        from bildung.services.sessions import listing

        code = listing.get_session(self.ctx, self.boss, self.session).session.code
        self.clock.pass_by(minutes=5)
        for at, own in enumerate(self.codes_of(self.class_id())):
            sitter = signin.sitter_of(self.ctx, signin.sign_in_student(self.ctx, code, own, f"device {at}").secret)
            messages = [
                events.Answer(
                    id=f"m-{at}-{kind}-x", question=self.places[kind], answer=text, takeover=1, sequence=n + 1
                )
                for n, (kind, text) in enumerate(self.given(at).items())
                if text
            ]
            self.assertEqual(saving.save(self.ctx, sitter, messages).refused, [])
            taking.hand_in(self.ctx, sitter)
        running.close(self.ctx, self.boss, self.session)

    def staff(self, name: str, role: str = "teacher") -> Actor:
        def work(db: Any) -> int:
            person = Person(source_id=f"local:{name}", given=name, family="Y", kind="staff", username=name)
            db.add(person)
            db.flush()
            db.add(Role(person_id=person.id, role=role))
            return int(person.id)

        id = self.ctx.store.write(work)
        return Actor(person_id=id, name=f"{name} Y", grants=(Grant(role, None),), sign_in_id=0, csrf="")

    def open(self, actor: Actor, kind: str = "writing", sitting: int | None = None) -> desk.Desk:
        return desk.desk(self.ctx, actor, self.places[kind], self.window_id, sitting)

    def give(self, actor: Actor, sitting: int, *criteria: float, kind: str = "writing", **more: Any) -> DeskNext:
        wish = ScoreWish(criteria=criteria, **more)
        return desk.score(self.ctx, actor, self.places[kind], self.window_id, sitting, wish)

    def sittings(self) -> list[int]:
        with self.ctx.store.read() as db:
            return list(
                db.scalars(select(Sitting.id).where(Sitting.session_id == self.session).order_by(Sitting.person_id))
            )

    def code_of(self, kind: str) -> str:
        with self.ctx.store.read() as db:
            return db.scalars(
                select(Item.code)
                .join(ItemVersion, ItemVersion.item_id == Item.id)
                .join(FormItem, FormItem.item_version_id == ItemVersion.id)
                .where(FormItem.id == self.places[kind])
            ).one()
