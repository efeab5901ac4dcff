"""Blueprints kept and held against the bank, forms proposed, kept, looked at and changed item by item."""

from __future__ import annotations

from typing import Any

from sqlalchemy import select

from bildung.core.assembly.program import Demands
from bildung.core.errors import Refused
from bildung.formats.blueprint import KINDS, Plan, read_plan, settings_of
from bildung.services.answers import itemhistory
from bildung.services.bank import itemimport
from bildung.services.bank.candidates import candidates
from bildung.services.building import assembling, blueprints, checklist, forms, formsettings, trialrun
from bildung.services.quality import verdicts
from bildung.services.shared import jobs
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.jobs import Stopped
from bildung.store.models import Form, Item, ItemEnemy, ItemUse, ItemVersion, Person, Role
from tests.services.bank.test_history import HistoryCase
from tests.support import WorldCase


def plan(*rows: dict[str, Any], **whole: Any) -> dict[str, Any]:
    return read_plan({"rows": list(rows), **whole}).model_dump()


class BuildingCase(WorldCase):
    def setUp(self) -> None:
        super().setUp()
        lines = ["code,type,stem,key,option_A,option_B,standards,depth"]
        lines += [f"B-{at:02},choice,Which of these is number {at}?,A,{at},{at + 1},,{1 + at % 2}" for at in range(24)]
        self.bring("\n".join(lines))

    def bring(self, sheet: str) -> None:
        look = itemimport.preview_items(self.ctx, self.boss, {"i.csv": sheet.encode()})
        itemimport.apply_items(self.ctx, self.boss, look.id)

    def blueprint(
        self, *rows: dict[str, Any], name: str = "Plan", kind: str = "benchmark", **whole: Any
    ) -> blueprints.BlueprintView:
        return blueprints.save_blueprint(self.ctx, self.boss, None, 0, name, "", "", kind, plan(*rows, **whole))

    def propose(self, id: int, demands: Demands = Demands(), seconds: float = 10) -> assembling.AssemblyView:
        return assembling.propose(self.ctx, self.boss, id, demands, None, seconds, jobs.begin(self.ctx, self.boss, ""))

    def keep(self, id: int, found: assembling.AssemblyView, name: str = "Kept") -> tuple[int | None, list[int]]:
        placed = [[(item.version_id, item.part) for item in form.items] for form in found.forms]
        return assembling.keep(self.ctx, self.boss, id, name, "", placed)

    def teacher(self) -> Actor:
        def work(db: Any) -> int:
            person = Person(source_id="t9", given="Mia", family="Ost", kind="staff", username="mia")
            db.add(person)
            db.flush()
            db.add(Role(person_id=person.id, role="teacher"))
            return int(person.id)

        return Actor(
            person_id=self.ctx.store.write(work),
            name="Mia Ost",
            grants=(Grant("teacher", None),),
            sign_in_id=0,
            csrf="",
        )


class Kept(BuildingCase):
    def test_it_says_what_the_bank_has_of_every_row(self) -> None:
        made = self.blueprint({"low": 4, "high": 6, "depth": 1}, {"low": 2, "high": 2, "depth": 2})
        self.assertEqual([(s.items, s.known, s.fresh) for s in made.stock], [(12, 0, 12), (12, 0, 12)])
        self.assertEqual(
            made.finding, "Plan: the bank can fill every row; for the scarcest it has 3.0 times what is needed."
        )
        self.assertEqual(self.blueprint(name="Empty").finding, "Empty has no rows yet: say what it is to cover.")
        short = self.blueprint({"low": 20, "high": 20, "depth": 1}, name="Short")
        self.assertIn("of depth 1 the bank has 12 items, 20 are wanted", short.finding)

    def test_one_that_contradicts_itself_is_kept_and_says_so(self) -> None:
        made = self.blueprint(
            {"low": 4, "high": 4, "depth": 1}, {"low": 4, "high": 4, "depth": 2}, items={"low": 5, "high": 5}
        )
        self.assertIn("at least 8 items", made.contradiction)
        self.assertIn("cannot be met by any bank", made.finding)
        with self.assertRaisesRegex(Invalid, "at least 8 items"):
            self.propose(made.id)

    def test_what_is_no_blueprint_is_refused_with_its_place(self) -> None:
        for content, said in (
            ({"rows": [{"low": -1, "high": 2}]}, "rows.1.low"),
            ({"rows": [{"low": 1}]}, "rows.1.high"),
            ({"parts": []}, "parts"),
            ({"rows": [{"low": 1, "high": 2, "depth": 7}]}, "rows.1.depth"),
            ({"target": 2}, "target"),
            ({"color": 1}, "color"),
        ):
            with self.assertRaisesRegex(Invalid, said):
                blueprints.save_blueprint(self.ctx, self.boss, None, 0, "X", "", "", "", content)
        with self.assertRaisesRegex(Invalid, "kind is one of"):
            blueprints.save_blueprint(self.ctx, self.boss, None, 0, "X", "", "", "exam", plan())
        self.assertEqual(blueprints.list_blueprints(self.ctx, self.boss), [])

    def test_two_writers_and_two_of_a_name(self) -> None:
        made = self.blueprint({"low": 1, "high": 1})
        blueprints.save_blueprint(
            self.ctx, self.boss, made.id, made.revision, "Plan", "", "", "", plan({"low": 2, "high": 2})
        )
        with self.assertRaisesRegex(Conflict, "someone changed this blueprint"):
            blueprints.save_blueprint(self.ctx, self.boss, made.id, made.revision, "Plan", "", "", "", plan())
        with self.assertRaisesRegex(Conflict, "named Plan already"):
            self.blueprint({"low": 1, "high": 1})
        self.assertEqual(blueprints.get_blueprint(self.ctx, self.boss, made.id).content.rows[0].low, 2)

    def test_a_teacher_changes_their_own_and_sees_the_common_ones(self) -> None:
        mia, common = self.teacher(), self.blueprint({"low": 1, "high": 1})
        own = blueprints.save_blueprint(self.ctx, mia, None, 0, "Mine", "", "", "unit", plan({"low": 1, "high": 1}))
        self.assertEqual([b.name for b in blueprints.list_blueprints(self.ctx, mia)], ["Mine", "Plan"])
        self.assertFalse(blueprints.get_blueprint(self.ctx, mia, common.id).may_write)
        self.assertTrue(own.may_write)
        with self.assertRaises(NotFound):
            blueprints.save_blueprint(self.ctx, mia, common.id, common.revision, "Plan", "", "", "", plan())


class Proposed(BuildingCase):
    def test_nothing_is_kept_before_it_is_asked_for(self) -> None:
        made = self.blueprint({"low": 3, "high": 3, "depth": 1}, {"low": 3, "high": 3, "depth": 2})
        found = self.propose(made.id, Demands(forms=2, anchor=2))
        self.assertEqual([len(form.items) for form in found.forms], [6, 6])
        self.assertIn("2 items shared by all", found.finding)
        self.assertIn("without history are not in the prediction", found.finding)
        self.assertEqual(forms.list_forms(self.ctx, self.boss), [])
        family, ids = self.keep(made.id, found)
        lines = {form.id: form for form in forms.list_forms(self.ctx, self.boss)}
        self.assertEqual(
            [(lines[id].name, lines[id].role, lines[id].family_id) for id in ids],
            [("Kept A", "general", family), ("Kept B", "parallel", family)],
        )
        with self.ctx.store.read() as db:
            form = db.get_one(Form, ids[0])
            self.assertEqual((form.kind, form.scale, form.settings["minutes"]), ("benchmark", "Kept", 60))
        self.assertEqual(assembling.outlook(self.ctx, self.boss, ids[0]).held[0].have, 3)
        with self.assertRaisesRegex(Conflict, "named Kept A already"):
            self.keep(made.id, found)

    def test_demands_that_collide_are_told_with_the_nearest_that_can_be_met(self) -> None:
        made = self.blueprint({"low": 14, "high": 14, "depth": 1})
        found = self.propose(made.id)
        self.assertEqual([(c.says, c.needed, c.available) for c in found.clashes], [("14 items of depth 1", 14, 12)])
        self.assertEqual(found.forms, [])
        assert found.nearest is not None
        again = blueprints.save_blueprint(
            self.ctx, self.boss, made.id, made.revision, "Plan", "", "", "", found.nearest.content.model_dump()
        )
        self.assertEqual(len(self.propose(again.id).forms[0].items), 12)

    def test_an_item_retired_since_is_named_and_nothing_is_kept(self) -> None:
        made = self.blueprint({"low": 3, "high": 3})
        found = self.propose(made.id)
        code = found.forms[0].items[0].code

        def retire(db: Any) -> None:
            db.scalars(select(Item).where(Item.code == code)).one().state = "retired"

        self.ctx.store.write(retire)
        with self.assertRaisesRegex(Conflict, f"item {code} can no longer be used"):
            self.keep(made.id, found)
        self.assertEqual(forms.list_forms(self.ctx, self.boss), [])

    def test_what_cannot_stand_on_a_form_is_not_kept(self) -> None:
        made = self.blueprint({"low": 3, "high": 3})
        id = self.propose(made.id).forms[0].items[0].version_id
        for chosen, said in (
            ([[(id, 0), (id, 0)]], "appears twice"),
            ([[(id, 3)]], "the blueprint has 1 part"),
            ([[]], "at least one item"),
            ([], "at least one item"),
        ):
            with self.assertRaisesRegex(Invalid, said):
                assembling.keep(self.ctx, self.boss, made.id, "Kept", "", chosen)
        with self.assertRaisesRegex(Conflict, "can no longer be used"):
            assembling.keep(self.ctx, self.boss, made.id, "Kept", "", [[(999_999, 0)]])
        self.assertEqual(forms.list_forms(self.ctx, self.boss), [])

    def test_an_item_retired_while_it_stands_in_a_draft_is_said(self) -> None:
        made = self.blueprint({"low": 3, "high": 3})
        _, (form_id,) = self.keep(made.id, self.propose(made.id))
        code = forms.get_form(self.ctx, self.boss, form_id).items[0].code

        def retire(db: Any) -> None:
            db.scalars(select(Item).where(Item.code == code)).one().state = "retired"

        self.ctx.store.write(retire)
        self.assertTrue(
            assembling.outlook(self.ctx, self.boss, form_id).finding.startswith(f"{code} was retired meanwhile")
        )

    def test_who_asked_may_stop_it(self) -> None:
        made = self.blueprint({"low": 3, "high": 3})
        job = jobs.begin(self.ctx, self.boss, "j")
        job.stop()
        with self.assertRaises(Stopped):
            assembling.propose(self.ctx, self.boss, made.id, Demands(), None, 10, job)


class ByHand(BuildingCase):
    def form(self, *rows: dict[str, Any]) -> forms.FormDetail:
        made = self.blueprint(*rows)
        return forms.create_form(self.ctx, self.boss, "Hand", "", "", "", "", made.id)

    def version(self, code: str) -> int:
        with self.ctx.store.read() as db:
            return db.scalars(select(ItemVersion.id).join(ItemVersion.item).where(Item.code == code)).one()

    def test_what_is_missing_is_said_after_every_change(self) -> None:
        form = self.form({"low": 2, "high": 2, "depth": 1}, {"low": 1, "high": 1, "depth": 2})
        self.assertEqual(form.kind, "benchmark")
        self.assertEqual(assembling.outlook(self.ctx, self.boss, form.id).finding, "This form is empty.")
        form = forms.set_items(self.ctx, self.boss, form.id, form.revision, [self.version("B-00")])
        found = assembling.outlook(self.ctx, self.boss, form.id)
        self.assertEqual(
            found.finding,
            "Depth 1: 1 item missing; depth 2: 1 item missing; none of its items has been used before, so nothing can be predicted.",
        )
        ids = [self.version(code) for code in ("B-00", "B-02", "B-01")]
        forms.set_items(self.ctx, self.boss, form.id, form.revision, ids)
        self.assertTrue(
            assembling.outlook(self.ctx, self.boss, form.id).finding.startswith("All of the blueprint is met")
        )

    def test_parts_stay_with_their_items(self) -> None:
        form = self.form({"low": 2, "high": 2})
        a, b = self.version("B-00"), self.version("B-01")
        form = forms.set_items(self.ctx, self.boss, form.id, form.revision, [a, b], [0, 1])
        form = forms.set_items(self.ctx, self.boss, form.id, form.revision, [b, a])
        self.assertEqual(form.parts, [1, 0])

    def test_the_nearest_items_are_not_on_the_form_and_say_what_differs(self) -> None:
        self.bring("code,type,stem,key,option_A,option_B,standards\nX-1,choice,One?,A,1,2,\n")
        form = self.form({"low": 2, "high": 2})
        form = forms.set_items(self.ctx, self.boss, form.id, form.revision, [self.version("B-00")])
        self.assertEqual(
            assembling.equals(self.ctx, self.boss, form.id, self.version("B-00")), []
        )  # no standard in common
        with self.assertRaises(NotFound):
            assembling.equals(self.ctx, self.boss, form.id, 999_999)
        with self.assertRaises(NotFound):
            assembling.outlook(self.ctx, self.boss, 999_999)


class Before(BuildingCase):
    """What is looked through before a form goes out."""

    def made(self) -> forms.FormDetail:
        made = self.blueprint({"low": 3, "high": 3}, items={"low": 3, "high": 4})
        _, (form_id,) = self.keep(made.id, self.propose(made.id))
        return forms.get_form(self.ctx, self.boss, form_id)

    def checks(self, form_id: int) -> dict[str, tuple[str, str]]:
        return {c.name: (c.weight, c.says) for c in checklist.checklist(self.ctx, self.boss, form_id)}

    def item(self, code: str, **change: Any) -> None:
        def work(db: Any) -> None:
            item = db.scalars(select(Item).where(Item.code == code)).one()
            for name, value in change.items():
                setattr(item, name, value)

        self.ctx.store.write(work)

    def test_a_whole_form_has_nothing_to_stop_it(self) -> None:
        form = self.made()
        trialrun.read_through(self.ctx, self.boss, form.id, form.revision)
        self.assertEqual({weight for weight, _ in self.checks(form.id).values()}, {"fine"})
        self.assertIsNotNone(forms.publish(self.ctx, self.boss, form.id, form.revision).published_at)

    def test_a_retired_item_and_an_empty_form_stop_it(self) -> None:
        form = self.made()
        code = form.items[0].code
        self.item(code, state="retired")
        self.assertEqual(self.checks(form.id)["retired items"], ("stop", f"{code} was retired; swap or take out"))
        with self.assertRaisesRegex(Invalid, f"{code} was retired"):
            forms.publish(self.ctx, self.boss, form.id, form.revision)
        empty = forms.create_form(self.ctx, self.boss, "Empty", "", "", "")
        self.assertEqual(self.checks(empty.id)["items"][0], "stop")
        with self.assertRaisesRegex(Invalid, "without items"):
            forms.publish(self.ctx, self.boss, empty.id, empty.revision)

    def test_what_lacks_or_takes_too_long_wants_a_look_and_does_not_stop_it(self) -> None:
        form = self.made()
        first, second = form.items[0].code, form.items[1].code
        self.item(first, seconds=7200)
        self.assertEqual(
            self.checks(form.id)["time"],
            ("look", "120 min by the items' own times, 2 of them without one; the limit is 60 min"),
        )
        sheet = f"code,type,stem,key,option_A,option_B\n{second},choice,Another text?,A,1,2\n"
        self.bring(sheet)
        self.assertIn("a newer version", self.checks(form.id)["newer versions"][1])
        self.ctx.store.write(
            lambda db: db.add(
                ItemEnemy(
                    item_id=min(form.items[0].item_id, form.items[1].item_id),
                    other_id=max(form.items[0].item_id, form.items[1].item_id),
                )
            )
        )
        self.assertEqual(self.checks(form.id)["enemy items"][0], "look")
        form = forms.set_items(self.ctx, self.boss, form.id, form.revision, [i.version_id for i in form.items[:2]])
        self.assertEqual(
            self.checks(form.id)["coverage"], ("look", "anything: 1 item missing; all items: 1 item missing")
        )
        self.assertIsNotNone(forms.publish(self.ctx, self.boss, form.id, form.revision).published_at)

    def test_what_was_decided_about_an_item_is_said_with_who_and_why(self) -> None:
        form = self.made()
        first, second, _ = (i.code for i in form.items)
        for at, what in ((0, "rework"), (1, "drop")):
            verdicts.say(self.ctx, self.boss, int(form.items[at].version_id), None, None, what, "two questions in one")  # type: ignore[arg-type]
        weight, says = self.checks(form.id)["flagged items"]
        self.assertEqual(weight, "look")
        for code, words in ((first, "is to be reworked"), (second, "is to be dropped")):
            self.assertIn(f"{code} {words}, says {self.boss.name} (two questions in one)", says)
        verdicts.say(self.ctx, self.boss, int(form.items[0].version_id), None, None, "keep", "looked at again")
        self.assertNotIn(first, self.checks(form.id)["flagged items"][1])


class Predicted(HistoryCase):
    def test_a_form_of_items_that_were_sat_predicts_what_they_did(self) -> None:
        self.sat(size=12, items=4)
        itemhistory.refresh(self.ctx)
        with self.ctx.store.read() as db:
            form_id = db.scalars(select(Form.id)).one()
            uses = {use.item_id: use for use in db.scalars(select(ItemUse))}
        found = assembling.outlook(self.ctx, self.boss, form_id)
        self.assertEqual((found.predicted.known, found.predicted.unknown), (4, ()))
        self.assertAlmostEqual(found.predicted.mean or 0, sum(use.p or 0 for use in uses.values()))
        self.assertTrue(all(use.sd is not None and use.p_error for use in uses.values()))

    def test_what_another_wording_did_is_no_history(self) -> None:
        self.sat(size=12, items=4)
        itemhistory.refresh(self.ctx)
        code = self.placed[0].code
        sheet = f"code,type,stem,key\n{code},numeric,Another text altogether?,4\n".encode()
        itemimport.apply_items(self.ctx, self.boss, itemimport.preview_items(self.ctx, self.boss, {"i.csv": sheet}).id)
        with self.ctx.store.read() as db:
            pool = {c.code: c for c in candidates(self.ctx, db, self.boss)}
        self.assertIsNone(pool[code].p)
        self.assertIsNotNone(pool[self.placed[1].code].p)
        self.assertEqual(pool[code].used, 1)


class Kinds(BuildingCase):
    def test_a_kind_sets_what_is_not_said_and_guards_what_contradicts(self) -> None:
        self.assertEqual(
            (settings_of("benchmark").minutes, settings_of("benchmark", {"minutes": 30}).minutes), (60, 30)
        )
        self.assertFalse(settings_of("mirror").evidence)
        self.assertTrue(KINDS["benchmark"].same and not KINDS["spot"].same)
        with self.assertRaisesRegex(Refused, "feedback at once and going back"):
            settings_of("mirror", {"movement": "one", "back": True})
        with self.assertRaisesRegex(Refused, "attempts"):
            settings_of("", {"attempts": 0})
        with self.assertRaisesRegex(Invalid, "kind is one of"):
            forms.create_form(self.ctx, self.boss, "F", "", "", "", "quiz")

    def test_settings_are_of_a_draft_as_it_was_seen_and_keep_to_its_kind(self) -> None:
        made = forms.create_form(self.ctx, self.boss, "F", "", "", "", "spot")
        drawn = settings_of("spot", {"draw": {"count": 2}})

        def change(revision: int, kind: str = "spot", settings: Any = drawn, title: str = "Check") -> forms.FormDetail:
            return formsettings.change(self.ctx, self.boss, made.id, revision, title, kind, "Unit 2", settings)

        for kind, said in (("benchmark", "everyone gets the same questions"), ("quiz", "kind is one of")):
            with self.assertRaisesRegex(Invalid, said):
                change(made.revision, kind)
        with self.assertRaisesRegex(Invalid, "title"):
            change(made.revision, title=" ")
        after = change(made.revision)
        self.assertEqual((after.title, after.settings.draw), ("Check", drawn.draw))
        with self.assertRaisesRegex(Conflict, "changed this form in the meantime"):
            change(made.revision, settings=settings_of("spot"))

    def test_a_drawn_draft_says_what_each_student_gets_of_it(self) -> None:
        made = forms.create_form(self.ctx, self.boss, "F", "", "", "", "spot")
        with self.ctx.store.read() as db:
            ids = list(db.scalars(select(ItemVersion.id).order_by(ItemVersion.id)))[:6]
        made = forms.set_items(self.ctx, self.boss, made.id, made.revision, ids)
        settings = settings_of("spot", {"draw": {"count": 4, "by": "all"}})
        made = formsettings.change(self.ctx, self.boss, made.id, made.revision, "Check", "spot", "", settings)
        found = formsettings.draws(self.ctx, self.boss, made.id, settings)
        self.assertEqual((found.count, found.target, found.unknown), (4, None, 6))
        self.assertIn("4 of 6 items each; 6 of the pool were not used yet", found.says)
        self.assertIn("A pool of 6; each student has 4 of it", assembling.outlook(self.ctx, self.boss, made.id).finding)
        many = formsettings.draws(
            self.ctx, self.boss, made.id, settings_of("spot", {"draw": {"count": 40, "by": "all"}})
        )
        self.assertIn("6 of 6 items each (fewer than 40 in the pool: all of them are given)", many.says)
        with self.assertRaisesRegex(Invalid, "how many items are drawn"):
            formsettings.draws(self.ctx, self.boss, made.id, settings_of("spot"))
        with self.assertRaises(NotFound):
            formsettings.draws(self.ctx, self.boss, 999, settings)

    def test_a_plan_goes_to_the_core_and_back_unchanged(self) -> None:
        kept = Plan.model_validate(
            plan(
                {"low": 1, "high": 3, "count": "points", "standard": "S1", "depth": 2},
                points={"low": 3, "high": 9},
                target=0.6,
                sets={"low": 1, "high": 2},
            )
        )
        self.assertEqual(Plan.of(kept.core()), kept)
