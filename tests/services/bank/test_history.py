"""What items did before: kept with the bank, made again when answers or keys change; and what the bank lacks."""

from __future__ import annotations

from datetime import timedelta

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.services.answers import itemhistory
from bildung.services.bank import frameworks, health, itemimport, search
from bildung.services.door import signin
from bildung.services.quality.judged import judge
from bildung.services.quality.scope import ScopeRequest
from bildung.services.sessions import listing, running
from bildung.services.shared.errors import Invalid
from bildung.services.sitting import events, saving, taking
from bildung.store.models import Form, Item, ItemFigure, ItemUse, ItemVersion, PlannedSession, Scoring, Standard
from tests.support import NOON, WorldCase


class HistoryCase(WorldCase):
    def sat(self, size: int = 12, items: int = 4, answer: str = "") -> PlannedSession:
        """Directory answers: the first half all right, the others the same wrong letter."""
        detail = self.open_session(size=size, items=items)
        self.answer(detail.session.id, detail.session.code)
        with self.ctx.store.read() as db:
            return db.get_one(PlannedSession, detail.session.id)

    def answer(self, session_id: int, code: str) -> None:
        codes = self.codes_of(self.class_id())
        for at, own in enumerate(codes):
            sitter = signin.sitter_of(self.ctx, signin.sign_in_student(self.ctx, code, own, f"device {at}").secret)
            for number, question in enumerate(taking.paper(self.ctx, sitter).questions, 1):
                key = self.placed[number - 1].key
                wrong = "7777" if question.shown.parts[0].type == "entry" else "A" if key != "A" else "B"
                given = key if at < len(codes) // 2 else wrong
                message = events.Answer(
                    id=f"message-{session_id}-{at}-{number}",
                    question=question.id,
                    answer=given,
                    takeover=sitter.takeover,
                    sequence=number,
                )
                self.assertEqual(saving.save(self.ctx, sitter, [message]).refused, [])
            taking.hand_in(self.ctx, sitter)
        running.close(self.ctx, self.boss, session_id)

    def uses(self) -> dict[str, list[itemhistory.Use]]:
        return {found.item.code: found.uses for found in search.find_items(self.ctx, self.boss)[0]}


class Keeping(HistoryCase):
    def test_it_is_what_item_quality_says_and_is_made_once(self) -> None:
        session = self.sat()
        self.assertEqual(itemhistory.refresh(self.ctx), 1)
        self.assertEqual(itemhistory.refresh(self.ctx), 0)
        judged = judge(self.ctx, self.boss, ScopeRequest(forms=(session.form_id,), windows=(session.window_id,)))
        uses = self.uses()
        for found in judged.analysis.items:
            (use,) = uses[found.item.name]
            self.assertEqual((use.n, use.p, use.r_rest), (found.figures.n, found.figures.p, found.figures.r_rest))
            self.assertEqual([f["flag"] for f in use.flags], [f.flag for f in found.flags])
            self.assertEqual((use.p, use.wrong_share), (0.5, 0.5))
            self.assertNotIn(use.wrong, found.item.keys)

    def test_a_mark_or_another_key_makes_it_again(self) -> None:
        session = self.sat()
        itemhistory.refresh(self.ctx)
        with self.ctx.store.read() as db:
            first = listing.get_session(self.ctx, self.boss, session.id).sittings[0].id
            version = db.scalars(select(ItemVersion.id).order_by(ItemVersion.id)).first() or 0
            before = db.scalar(select(ItemFigure.n).where(ItemFigure.item_version_id == version))
        running.mark(self.ctx, self.boss, session.id, first, "void", "a fire alarm")
        self.assertEqual(itemhistory.refresh(self.ctx), 1)
        with self.ctx.store.read() as db:
            self.assertEqual(
                db.scalar(select(ItemFigure.n).where(ItemFigure.item_version_id == version)), (before or 0) - 1
            )

        def rescore(db: object) -> None:
            old = db.scalars(select(Scoring).where(Scoring.item_version_id == version)).one()  # type: ignore[attr-defined]
            db.add(Scoring(item_version_id=version, number=2, parts=old.parts, points=old.points, created_at=NOON))  # type: ignore[attr-defined]

        self.ctx.store.write(rescore)
        self.assertEqual(itemhistory.refresh(self.ctx), 1)

    def test_an_open_session_is_no_history_yet(self) -> None:
        self.open_session(size=3, items=3)
        self.assertEqual(itemhistory.refresh(self.ctx), 0)
        self.assertEqual(set(map(len, self.uses().values())), {0})

    def test_figures_of_fewer_than_five_are_not_told(self) -> None:
        self.sat(size=4)
        itemhistory.refresh(self.ctx)
        for (use,) in self.uses().values():
            self.assertEqual(
                (use.n, use.p, use.p_ci95, use.r_rest, use.wrong, use.flags), (4, None, None, None, "", [])
            )

    def test_a_next_version_keeps_what_the_one_before_did(self) -> None:
        self.sat()
        itemhistory.refresh(self.ctx)
        code = self.placed[0].code
        sheet = f"code,type,stem,key\n{code},numeric,Another text altogether?,4\n".encode()
        itemimport.apply_items(self.ctx, self.boss, itemimport.preview_items(self.ctx, self.boss, {"i.csv": sheet}).id)
        item = next(f.item for f in search.find_items(self.ctx, self.boss)[0] if f.item.code == code)
        (use,) = self.uses()[code]
        self.assertEqual((item.number, use.version), (2, 1))

    def test_the_last_use_is_kept_in_one_row_over_all_versions(self) -> None:
        self.sat()
        itemhistory.refresh(self.ctx)
        code = self.placed[0].code
        sheet = f"code,type,stem,key\n{code},numeric,Another text altogether?,4\n".encode()
        itemimport.apply_items(self.ctx, self.boss, itemimport.preview_items(self.ctx, self.boss, {"i.csv": sheet}).id)

        def sat_again(db: Session) -> int:
            item = db.scalars(select(Item).where(Item.code == code)).one()
            first = db.scalars(select(ItemFigure).where(ItemFigure.item_version_id == item.versions[0].id)).one()
            db.add(Form(id=900, name="Later", title="Later", created_at=NOON))
            db.flush()
            db.add(
                ItemFigure(
                    form_id=900,
                    window_id=first.window_id,
                    item_version_id=item.versions[1].id,
                    n=77,
                    p=0.25,
                    r_rest=-0.1,
                    wrong="",
                    flags=[],
                    at=first.at + timedelta(days=3),
                    stamp="x",
                )
            )
            db.flush()
            itemhistory.keep_last(db, [item.id])
            return item.id

        id = self.ctx.store.write(sat_again)
        with self.ctx.store.read() as db:
            kept = db.get_one(ItemUse, id)
            self.assertEqual((kept.times, kept.n, kept.p, kept.r_rest), (2, 77, 0.25, -0.1))
            self.assertEqual(db.scalar(select(func.count()).select_from(ItemUse)), len(self.placed))
        self.assertEqual([f.item.code for f in search.find_items(self.ctx, self.boss, "times:2 r<0")[0]], [code])


class Order(HistoryCase):
    def test_by_what_items_did_with_those_never_sat_at_the_end_or_asked_for(self) -> None:
        self.sat(items=4)
        itemhistory.refresh(self.ctx)
        sheet = b"code,type,stem,key\nNEW-1,numeric,One and one?,2\n"
        itemimport.apply_items(self.ctx, self.boss, itemimport.preview_items(self.ctx, self.boss, {"i.csv": sheet}).id)

        def harder(db: object) -> None:
            for at, row in enumerate(db.scalars(select(ItemFigure).order_by(ItemFigure.item_version_id))):  # type: ignore[attr-defined]
                row.p, row.r_rest = 0.9 - at / 10, at / 10
            db.flush()  # type: ignore[attr-defined]
            itemhistory.keep_last(db, list(db.scalars(select(ItemVersion.item_id))))  # type: ignore[attr-defined,arg-type]

        self.ctx.store.write(harder)
        codes = [p.code for p in self.placed]
        for order, expected in (
            ("p", [*codes[::-1], "NEW-1"]),
            ("r_rest", [*codes, "NEW-1"]),
            ("unused", ["NEW-1", *codes]),
            ("code", sorted(["NEW-1", *codes])),
        ):
            found, total, _ = search.find_items(self.ctx, self.boss, order=order)
            self.assertEqual(([f.item.code for f in found], total), (expected, 5), order)
        with self.assertRaises(Invalid):
            search.find_items(self.ctx, self.boss, order="color")


class Health(HistoryCase):
    def test_an_empty_bank_says_so(self) -> None:
        self.assertEqual(health.health(self.ctx, self.boss).finding, "The bank is empty.")

    def test_thin_standards_come_first_with_what_they_have(self) -> None:
        self.sat(items=6)
        itemhistory.refresh(self.ctx)
        found = health.health(self.ctx, self.boss)
        with self.ctx.store.read() as db:
            standards = db.scalar(select(func.count()).select_from(Standard))
        self.assertEqual(len(found.thin), standards, "one or two items each")
        for t in found.thin:
            self.assertEqual(t.items, t.easy + t.middle + t.hard + t.unknown)
        self.assertEqual(sum(t.middle for t in found.thin), 6, "half of the students got each")
        sheet = f"code,text,priority\n{found.thin[-1].code},Now a priority,yes\nX.1,Without items,\n".encode()
        frameworks.apply(self.ctx, self.boss, frameworks.preview(self.ctx, self.boss, {"f.csv": sheet}, "Ours").id)
        again = health.health(self.ctx, self.boss)
        self.assertEqual((again.thin[0].code, again.thin[0].priority), (found.thin[-1].code, True))
        self.assertIn("1 of them a priority", again.finding)
        self.assertIn(("X.1", 0), [(t.code, t.items) for t in again.thin])

    def test_items_never_sat_flagged_and_worn_are_told_apart(self) -> None:
        self.sat(items=4)
        itemhistory.refresh(self.ctx)
        sheet = b"code,type,stem,key\nNEW-1,numeric,One and one?,2\n"
        itemimport.apply_items(self.ctx, self.boss, itemimport.preview_items(self.ctx, self.boss, {"i.csv": sheet}).id)

        def problem(db: object) -> None:
            row = db.scalars(select(ItemFigure).order_by(ItemFigure.item_version_id)).first()  # type: ignore[attr-defined]
            row.flags = [{"flag": "possible_wrong_key", "weight": "problem"}]

        self.ctx.store.write(problem)
        found = health.health(self.ctx, self.boss)
        self.assertEqual([w.code for w in found.unused], ["NEW-1"])
        self.assertIn((self.placed[0].code, "possible wrong key"), [(w.code, w.what) for w in found.flagged])
        self.assertEqual(found.worn, [])
        self.assertIn("1 item not used yet", found.finding)
