"""Booklets that were mixed up: found by what the marks earn on each form, scored as the other, and undone."""

from __future__ import annotations

import unittest

from sqlalchemy import select

from bildung.formats.content import Shown
from bildung.formats.face import faced
from bildung.formats.typed import to_typed
from bildung.services.corrections import listing, making, otherform
from bildung.services.quality.judged import judge
from bildung.services.quality.scope import ScopeRequest
from bildung.services.scoring import paperentry
from bildung.services.sessions import running
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed
from bildung.store.models import FormItem, ItemVersion, Sitting
from tests.services.building.test_companions import FamilyCase


class Mixed(FamilyCase):
    def setUp(self) -> None:
        super().setUp()
        self.first = self.form()
        self.second = self.companion(self.first, "alternate")
        self.session = self.plan(self.first)
        with self.ctx.store.read() as db:
            self.ids = list(
                db.scalars(select(Sitting.id).where(Sitting.session_id == self.session).order_by(Sitting.id))
            )

        def all_sit_the_first(db):  # type: ignore[no-untyped-def]
            for sitting in db.scalars(select(Sitting).where(Sitting.session_id == self.session)):
                sitting.form_id = None

        self.ctx.store.write(all_sit_the_first)
        for id in self.ids[:3]:
            running.mark(self.ctx, self.boss, self.session, id, "on_paper")
        # the first two had booklets of the second form and knew everything; the third had their own
        for id, form in zip(self.ids[:3], (self.second, self.second, self.first), strict=True):
            self.type(id, self.keys(form))

    def keys(self, form: int) -> list[str]:
        """What is right on a form, as its booklet prints it."""
        with self.ctx.store.read() as db:
            rows = db.execute(
                select(FormItem, ItemVersion)
                .join(ItemVersion, ItemVersion.id == FormItem.item_version_id)
                .where(FormItem.form_id == form)
                .order_by(FormItem.position)
            ).all()
            return [
                to_typed(faced(Shown.model_validate(v.shown), p.face), v.scorings[-1].parts[0]["key"]) for p, v in rows
            ]

    def type(self, sitting: int, letters: list[str]) -> None:
        sheet = paperentry.entry_sheet(self.ctx, self.boss, self.session, sitting)
        typed = {item.place: letter for item, letter in zip(sheet.items, letters, strict=True)}
        paperentry.enter(self.ctx, self.boss, self.session, sitting, typed, None, True)

    def totals(self, form: int) -> dict[int, float]:
        judged = judge(self.ctx, self.boss, ScopeRequest(forms=(form,)))
        at = judged.together.sitting[judged.counted].tolist()
        return dict(zip(at, judged.analysis.scores.earned.tolist(), strict=True))

    def test_the_two_are_named_scored_as_the_other_form_and_undone(self) -> None:
        before = self.totals(self.first)
        found = otherform.mixed_forms(self.ctx, self.boss, self.session)
        odd = [a.sitting for a in found.attempts if a.others[0].better]
        self.assertEqual(sorted(odd), sorted(self.ids[:2]))
        self.assertIn("2 attempts do no better than guessing on Winter 5", found.says)
        says = otherform.score_as(self.ctx, self.boss, self.session, odd, self.second, "The piles were mixed up.")
        self.assertIn("2 attempts on paper of", says)
        self.assertEqual(self.totals(self.second), dict.fromkeys(odd, 12.0))
        self.assertEqual(set(self.totals(self.first)), {self.ids[2]})
        self.assertEqual(otherform.mixed_forms(self.ctx, self.boss, self.session).says, "")
        (line,) = listing.corrections_page(self.ctx, self.boss).corrections
        making.undo(self.ctx, self.boss, int(line.id), "They were not.")
        self.assertEqual(self.totals(self.first), before)
        self.assertEqual(listing.corrections_page(self.ctx, self.boss).finding, "No correction holds, 1 was undone.")
        with self.assertRaisesRegex(Conflict, "undone already"):
            making.undo(self.ctx, self.boss, int(line.id), "Again.")

    def test_only_paper_only_this_family_only_coordinators(self) -> None:
        with self.assertRaisesRegex(Conflict, "only submitted attempts on paper"):
            otherform.score_as(self.ctx, self.boss, self.session, [self.ids[5]], self.second, "No.")
        with self.assertRaisesRegex(Invalid, "another published form"):
            otherform.score_as(self.ctx, self.boss, self.session, [self.ids[0]], self.first, "No.")
        with self.assertRaisesRegex(Invalid, "at least one"):
            otherform.score_as(self.ctx, self.boss, self.session, [], self.second, "No.")
        with self.assertRaises(NotAllowed):
            otherform.mixed_forms(self.ctx, self.teacher_of(self.class_id()), self.session)


if __name__ == "__main__":
    unittest.main()
