"""The bank at work: writing, review, copies, stimuli, pictures, tags, finding, out and in again."""

from __future__ import annotations

import io
import wave
from dataclasses import replace
from datetime import UTC, datetime
from typing import Any

from PIL import Image
from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from bildung.formats.content import Content
from bildung.services.answers import itemhistory
from bildung.services.bank import (
    drafts,
    exporting,
    health,
    itemimport,
    itempage,
    overview,
    search,
    stimuli,
    tagging,
    variants,
    versions,
    writing,
)
from bildung.services.bank.candidates import candidates
from bildung.services.bank.itemimport import add_records
from bildung.services.building import blueprints, forms
from bildung.services.door import signin
from bildung.services.items import media
from bildung.services.items.bankitem import standards_by_code
from bildung.services.items.media import keep_all
from bildung.services.sessions import listing, running, scheduling
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.errors import Conflict, Invalid, NotAllowed, NotFound
from bildung.services.sitting import events, saving, taking
from bildung.services.today import page
from bildung.store.models import (
    Enrolment,
    FormItem,
    Item,
    ItemFigure,
    ItemUse,
    ItemVersion,
    Mark,
    Media,
    Person,
    Response,
    Role,
    Standard,
)
from tests.formats.samples import ITEMS, RIGHT, records
from tests.formats.test_content import picture
from tests.support import NOON, WorldCase


class BankCase(WorldCase):
    def setUp(self) -> None:
        super().setUp()

        def people(db: Any) -> None:
            db.add_all(Standard(code=code, text=code) for code in ("S.1", "S.2"))
            for name in ("wren", "finch", "teach"):
                db.add(
                    person := Person(
                        source_id=f"local:{name}", given=name.title(), family="X", kind="staff", username=name
                    )
                )
                db.flush()
                db.add(Role(person_id=person.id, role="teacher" if name == "teach" else "writer"))

        self.ctx.store.write(people)
        with self.ctx.store.read() as db:
            ids = {p.username: p.id for p in db.scalars(select(Person))}
        self.wren, self.finch = (
            Actor(person_id=ids[n], name=n.title(), grants=(Grant("writer", None),), sign_in_id=0, csrf="")
            for n in ("wren", "finch")
        )
        self.teach = Actor(
            person_id=ids["teach"], name="Teach", grants=(Grant("teacher", None),), sign_in_id=0, csrf=""
        )

    def bring_all(self) -> None:
        """One item of every kind, with its picture."""

        def work(db: Any) -> None:
            found = []
            for sample in records():
                record, content = sample, sample.content
                if record.kind == "point":
                    part = content.shown.parts[0].model_copy(update={"picture": "harbor.png"})
                    content = content.model_copy(update={"shown": content.shown.model_copy(update={"parts": [part]})})
                    record = replace(record, content=content, media={"harbor.png": picture()})
                found.append(keep_all(self.ctx, db, record, True))
            add_records(self.ctx, db, found, True)

        self.ctx.store.write(work)

    def id_of(self, code: str) -> int:
        with self.ctx.store.read() as db:
            return db.scalars(select(Item.id).where(Item.code == code)).one()

    def codes(self, line: str = "", actor: Actor | None = None, **more: Any) -> list[str]:
        found, _, _ = search.find_items(self.ctx, actor or self.boss, line, **more)
        return [f.item.code for f in found]

    def write_item(
        self, actor: Actor, code: str, content: Content = ITEMS["choice"], standards: tuple[str, ...] = ("S.1",)
    ) -> drafts.DraftView:
        id = drafts.create_item(self.ctx, actor, code, "Mathematics", "6")
        first = drafts.open_draft(self.ctx, actor, id)
        return drafts.save_draft(self.ctx, actor, id, first.revision, content.model_dump(), list(standards), None)


class Lists(BankCase):
    def test_a_writer_sees_own_drafts_and_only_what_waits_for_their_word(self) -> None:
        mine = self.write_item(self.wren, "W-1")
        drafts.create_item(self.ctx, self.wren, "W-2", "Mathematics", "6")
        theirs = self.write_item(self.finch, "F-1")
        self.assertEqual(writing.writing(self.ctx, self.wren).finding, "2 of your drafts are not submitted.")
        self.assertEqual(writing.writing(self.ctx, self.finch).review, [])
        drafts.hand_in(self.ctx, self.wren, mine.item_id, mine.revision)
        drafts.hand_in(self.ctx, self.finch, theirs.item_id, theirs.revision)
        found = writing.writing(self.ctx, self.finch)
        self.assertEqual(([w.code for w in found.review], [w.code for w in found.mine]), (["W-1"], ["F-1"]))
        self.assertEqual(found.finding, "1 item needs your review, 1 of your items is in review.")
        wren = writing.writing(self.ctx, self.wren)
        self.assertEqual(
            {w.code: (w.stage, w.faults > 0) for w in wren.mine}, {"W-1": ("in_review", False), "W-2": ("draft", True)}
        )
        self.assertEqual([w.code for w in writing.writing(self.ctx, self.teach).review], [])

    def test_an_item_without_tags_has_subject_and_grade_of_its_standard(self) -> None:
        def tagged(db: Any) -> None:
            one = db.scalars(select(Standard).where(Standard.code == "S.1")).one()
            one.subject, one.grade, one.grade_to = "Mathematics", "5", "7"

        self.ctx.store.write(tagged)
        id = drafts.create_item(self.ctx, self.boss, "BARE", "", "")
        draft = drafts.open_draft(self.ctx, self.boss, id)
        draft = drafts.save_draft(self.ctx, self.boss, id, draft.revision, ITEMS["choice"].model_dump(), ["S.1"], None)
        drafts.finish(self.ctx, self.boss, id, draft.revision)
        with self.ctx.store.read() as db:
            for subject, grade, n in (
                ("mathematics", "6", 1),
                ("Mathematics", "7", 1),
                ("Mathematics", "8", 0),
                ("Reading", "6", 0),
            ):
                found = candidates(self.ctx, db, self.boss, subject, grade)
                self.assertEqual(len([c for c in found if c.code == "BARE"]), n, (subject, grade))
        self.assertEqual(self.codes("grade:6 subject:Mathematics code:BARE"), ["BARE"])
        row = {"low": 1, "high": 2, "standard": "S.1", "depth": 3}
        made = blueprints.save_blueprint(self.ctx, self.boss, None, 0, "B", "Mathematics", "6", "", {"rows": [row]})
        self.assertEqual(made.stock[0].empties, "none of 1 with standard S.1 has depth 3")
        self.assertIn("none of 1 with standard S.1 has depth 3", made.finding)
        other = blueprints.save_blueprint(self.ctx, self.boss, None, 0, "C", "Mathematics", "9", "", {"rows": [row]})
        self.assertIn("is for grade 9", other.stock[0].empties)

    def test_the_bank_counts_what_its_list_finds(self) -> None:
        self.bring_all()
        self.write_item(self.wren, "W-1")
        found = overview.overview(self.ctx, self.boss).finding
        n = len(self.codes(limit=500))
        self.assertTrue(found.startswith(f"{n} items for "), found)
        self.assertTrue(found.endswith("1 more is being written."), found)
        self.assertEqual(health.health(self.ctx, self.boss).items, n)


class Writing(BankCase):
    def test_from_an_empty_draft_to_a_version_that_never_changes(self) -> None:
        id = drafts.create_item(self.ctx, self.boss, "N-1", "Mathematics", "6")
        draft = drafts.open_draft(self.ctx, self.boss, id)
        self.assertTrue(draft.faults)
        with self.assertRaisesRegex(Invalid, "needs some text"):
            drafts.finish(self.ctx, self.boss, id, draft.revision)
        draft = drafts.save_draft(
            self.ctx, self.boss, id, draft.revision, ITEMS["order"].model_dump(), ["S.1", "S.2"], None
        )
        self.assertEqual((draft.faults, draft.stage, self.codes("code:N-1")), ([], "draft", []))
        self.assertEqual(drafts.finish(self.ctx, self.boss, id, draft.revision), 1)
        self.assertEqual(self.codes("smallest code:N standard:S.1 touches:S.2 type:order state:ready"), ["N-1"])
        again = drafts.open_draft(self.ctx, self.boss, id)
        self.assertEqual((again.of, again.content, again.standards), (1, draft.content, ["S.1", "S.2"]))
        changed = ITEMS["order"].model_copy(deep=True)
        changed.scoring[0].points = 3
        saved = drafts.save_draft(self.ctx, self.boss, id, again.revision, changed.model_dump(), ["S.1"], None)
        self.assertEqual(drafts.finish(self.ctx, self.boss, id, saved.revision), 2)
        old, new, found = itempage.compare(self.ctx, self.boss, id, 1, None, 2)
        self.assertEqual(
            [(d.what, d.before, d.after) for d in found], [("points", "2", "3"), ("standards", "S.1, S.2", "S.1")]
        )
        self.assertEqual((old.number, new.number), (1, 2))

    def test_two_people_at_one_draft_lose_nothing(self) -> None:
        mine = self.write_item(self.wren, "N-1")
        theirs = drafts.open_draft(self.ctx, self.finch, mine.item_id)
        drafts.save_draft(
            self.ctx, self.finch, mine.item_id, theirs.revision, ITEMS["text"].model_dump(), ["S.1"], None
        )
        with self.assertRaisesRegex(Conflict, "Finch X changed this item in the meantime"):
            drafts.save_draft(
                self.ctx, self.wren, mine.item_id, mine.revision, ITEMS["order"].model_dump(), ["S.1"], None
            )
        self.assertEqual(drafts.open_draft(self.ctx, self.wren, mine.item_id).content, ITEMS["text"])

    def test_a_draft_thrown_away_goes_with_an_item_that_has_no_version(self) -> None:
        draft = self.write_item(self.boss, "N-1")
        drafts.discard_draft(self.ctx, self.boss, draft.item_id, draft.revision)
        with self.assertRaises(NotFound):
            itempage.item_page(self.ctx, self.boss, draft.item_id)
        draft = self.write_item(self.boss, "N-1")
        drafts.finish(self.ctx, self.boss, draft.item_id, draft.revision)
        second = drafts.open_draft(self.ctx, self.boss, draft.item_id)
        drafts.discard_draft(self.ctx, self.boss, draft.item_id, second.revision)
        self.assertEqual([v.number for v in itempage.item_page(self.ctx, self.boss, draft.item_id).versions], [1])

    def test_what_cannot_be_kept_is_refused_and_the_draft_stays(self) -> None:
        draft = self.write_item(self.boss, "N-1")
        for content, standards, said in (
            ({"shown": 1}, [], "shown"),
            (ITEMS["order"].model_dump(), ["NO.1"], "there is no standard NO.1"),
            (ITEMS["order"].model_dump(), [f"X{n}" for n in range(13)], "at most 12 standards"),
        ):
            with self.assertRaisesRegex(Invalid, said):
                drafts.save_draft(self.ctx, self.boss, draft.item_id, draft.revision, content, standards, None)
        self.assertEqual(drafts.open_draft(self.ctx, self.boss, draft.item_id).content, ITEMS["choice"])
        with self.assertRaisesRegex(Conflict, "there is an item N-1 already"):
            drafts.create_item(self.ctx, self.boss, "N-1", "", "")

    def test_an_answer_tried_says_how_it_would_be_scored(self) -> None:
        tried = drafts.try_answer(self.boss, ITEMS["two_part"].model_dump(), {"1": "A", "2": "A"})
        self.assertEqual((tried.points, tried.maximum, tried.said), (0.0, 2.0, "0 of 2 points."))
        self.assertIn("part 1 is not right", tried.parts[1].why)
        waits = drafts.try_answer(self.boss, ITEMS["several"].model_dump(), {"1": "4", "3": "So."})
        self.assertEqual((waits.points, waits.said), (None, "1 of 5 points so far; a person marks the rest."))
        with self.assertRaisesRegex(Invalid, "names each of"):
            drafts.try_answer(self.boss, ITEMS["order"].model_dump(), {"1": "x>y"})


class Review(BankCase):
    def test_somebody_else_than_the_author_says_that_it_is_ready(self) -> None:
        draft = self.write_item(self.wren, "N-1")
        with self.assertRaisesRegex(NotAllowed, "another person than the author"):
            drafts.finish(self.ctx, self.wren, draft.item_id, draft.revision)
        draft = drafts.hand_in(self.ctx, self.wren, draft.item_id, draft.revision)
        self.assertEqual(draft.stage, "in_review")
        with self.assertRaises(NotAllowed):
            drafts.finish(self.ctx, self.wren, draft.item_id, draft.revision)
        drafts.comment(self.ctx, self.finch, draft.item_id, "B and C look alike.")
        draft = drafts.hand_in(self.ctx, self.finch, draft.item_id, draft.revision, back=True)
        with self.assertRaises(NotAllowed):
            drafts.finish(self.ctx, self.finch, draft.item_id, draft.revision)
        draft = drafts.hand_in(self.ctx, self.wren, draft.item_id, draft.revision)
        self.assertEqual(drafts.finish(self.ctx, self.finch, draft.item_id, draft.revision), 1)
        page = itempage.item_page(self.ctx, self.finch, draft.item_id)
        self.assertEqual(
            (page.state, page.versions[0].author, [c.text for c in page.comments]),
            ("ready", "Wren X", ["B and C look alike."]),
        )
        drafts.settle_comment(self.ctx, self.finch, page.comments[0].id)
        self.assertTrue(itempage.item_page(self.ctx, self.finch, draft.item_id).comments[0].settled)

    def test_what_is_changed_in_review_is_reviewed_again(self) -> None:
        draft = self.write_item(self.wren, "N-1")
        draft = drafts.hand_in(self.ctx, self.wren, draft.item_id, draft.revision)
        draft = drafts.save_draft(
            self.ctx, self.finch, draft.item_id, draft.revision, ITEMS["text"].model_dump(), ["S.1"], None
        )
        self.assertEqual(draft.stage, "draft")

    def test_an_item_moves_only_where_the_table_says(self) -> None:
        draft = self.write_item(self.boss, "N-1")
        drafts.finish(self.ctx, self.boss, draft.item_id, draft.revision)
        for state, moves in drafts.MOVES.items():
            for to in set(drafts.MOVES) | {"draft", "nowhere"}:

                def put(db: Any, state: str = state) -> None:
                    db.get(Item, draft.item_id).state = state

                self.ctx.store.write(put)
                if to in moves:
                    drafts.move(self.ctx, self.boss, draft.item_id, to)
                    self.assertEqual(itempage.item_page(self.ctx, self.boss, draft.item_id).state, to)
                else:
                    with self.assertRaises(Conflict):
                        drafts.move(self.ctx, self.boss, draft.item_id, to)

    def test_a_published_form_takes_its_items_into_use_and_takes_no_retired_one(self) -> None:
        draft = self.write_item(self.boss, "N-1")
        drafts.finish(self.ctx, self.boss, draft.item_id, draft.revision)
        version = itempage.item_page(self.ctx, self.boss, draft.item_id).item
        assert version is not None
        form = forms.create_form(self.ctx, self.boss, "F", "", "", "")
        form = forms.set_items(self.ctx, self.boss, form.id, form.revision, [version.version_id])
        forms.publish(self.ctx, self.boss, form.id, form.revision)
        self.assertEqual(self.codes("state:in_use"), ["N-1"])
        drafts.move(self.ctx, self.boss, draft.item_id, "retired")
        other = forms.create_form(self.ctx, self.boss, "G", "", "", "")
        with self.assertRaisesRegex(Invalid, "item N-1 is retired"):
            forms.set_items(self.ctx, self.boss, other.id, other.revision, [version.version_id])


class Copies(BankCase):
    def test_a_teachers_copy_is_theirs_knows_its_origin_and_can_be_offered_back(self) -> None:
        draft = self.write_item(self.boss, "N-1")
        drafts.finish(self.ctx, self.boss, draft.item_id, draft.revision)
        with self.assertRaises(NotFound):
            drafts.open_draft(self.ctx, self.teach, draft.item_id)
        copy = drafts.copy_item(self.ctx, self.teach, draft.item_id)
        mine = drafts.open_draft(self.ctx, self.teach, copy)
        self.assertEqual((mine.code, mine.content), ("N-1-copy1", draft.content))
        changed = ITEMS["choice"].model_copy(deep=True)
        changed.shown.body = "<p>Which is a half?</p>"
        mine = drafts.save_draft(self.ctx, self.teach, copy, mine.revision, changed.model_dump(), ["S.1"], None)
        drafts.finish(self.ctx, self.teach, copy, mine.revision)
        page = itempage.item_page(self.ctx, self.teach, copy)
        self.assertEqual(
            (page.own, page.origin, page.origin_version), (True, itempage.Related(draft.item_id, "N-1"), 1)
        )
        _, _, found = itempage.compare(self.ctx, self.teach, draft.item_id, 1, copy, 1)
        self.assertEqual([d.what for d in found], ["text"])
        self.assertEqual(self.codes("is:copy owner:mine", self.teach), ["N-1-copy1"])
        self.assertEqual(
            self.codes(
                "", Actor(person_id=self.boss_id, name="x", grants=(Grant("teacher", None),), sign_in_id=0, csrf="")
            ),
            ["N-1"],
        )
        self.assertEqual(
            itempage.item_page(self.ctx, self.boss, draft.item_id).item.shown.body, ITEMS["choice"].shown.body
        )  # type: ignore[union-attr]

        drafts.offer_back(self.ctx, self.teach, copy, "shorter, and read more easily")
        with self.assertRaisesRegex(Conflict, "has a draft at the moment"):
            drafts.offer_back(self.ctx, self.teach, copy, "again")
        offered = drafts.open_draft(self.ctx, self.finch, draft.item_id)
        self.assertEqual(
            (offered.offered_from, offered.stage, offered.content.shown.body),
            ("N-1-copy1", "in_review", "<p>Which is a half?</p>"),
        )
        self.assertEqual(drafts.finish(self.ctx, self.finch, draft.item_id, offered.revision), 2)


class Stimuli(BankCase):
    VALUES: dict[str, Any] = {"title": "The tide", "kind": "passage", "html": "<p>It came in.</p>", "numbered": True}  # noqa: RUF012

    def test_a_next_version_takes_its_items_along_and_leaves_what_was_sat(self) -> None:
        id = stimuli.save_stimulus(self.ctx, self.boss, None, 0, self.VALUES, "P-1", "Reading", "6")
        item = drafts.create_item(self.ctx, self.boss, "N-1", "Reading", "6", id)
        draft = drafts.open_draft(self.ctx, self.boss, item)
        self.assertEqual(draft.stimulus_id, id)
        draft = drafts.save_draft(self.ctx, self.boss, item, draft.revision, ITEMS["choice"].model_dump(), ["S.1"], id)
        drafts.finish(self.ctx, self.boss, item, draft.revision)
        self.assertEqual(stimuli.save_stimulus(self.ctx, self.boss, id, 1, self.VALUES), id)
        self.assertEqual(stimuli.get_stimulus(self.ctx, self.boss, id).view.number, 1, "nothing changed, so no version")
        stimuli.save_stimulus(self.ctx, self.boss, id, 1, {**self.VALUES, "html": "<p>It went out.</p>"})
        page = itempage.item_page(self.ctx, self.boss, item)
        assert page.item is not None and page.item.stimulus is not None
        self.assertEqual((page.item.number, page.item.stimulus.html), (2, "<p>It went out.</p>"))
        _, _, found = itempage.compare(self.ctx, self.boss, item, 1, None, 2)
        self.assertEqual([(d.what, d.before) for d in found], [("stimulus", "P-1, version 1")])
        self.assertEqual(self.codes("went stimulus:P-1"), ["N-1"])
        with self.assertRaisesRegex(Conflict, "changed this stimulus in the meantime"):
            stimuli.save_stimulus(self.ctx, self.boss, id, 1, self.VALUES)

    def test_what_is_missing_is_asked_for(self) -> None:
        kept = media.upload(self.ctx, self.boss, "h.png", picture())
        for values, said in (
            ({"html": " "}, "needs some text"),
            ({"kind": "poem"}, "one of passage"),
            ({"title": ""}, "title needs"),
            ({"kind": "picture", "media": ""}, "choose a picture first"),
            ({"kind": "picture", "media": kept.key}, "what the picture shows"),
            ({"kind": "audio", "media": kept.key, "told": "x"}, "choose a sound first"),
            ({"kind": "data"}, "a table is missing"),
        ):
            with self.assertRaisesRegex(Invalid, said):
                stimuli.save_stimulus(self.ctx, self.boss, None, 0, {**self.VALUES, **values}, "P-1")
        self.assertEqual(stimuli.list_stimuli(self.ctx, self.boss), [])

    def test_a_teachers_own_is_seen_by_them_and_the_keepers(self) -> None:
        id = stimuli.save_stimulus(self.ctx, self.teach, None, 0, self.VALUES, "P-1")
        other = Actor(person_id=self.boss_id, name="x", grants=(Grant("teacher", None),), sign_in_id=0, csrf="")
        self.assertEqual([len(stimuli.list_stimuli(self.ctx, a)) for a in (self.teach, self.boss, other)], [1, 1, 0])
        common = stimuli.save_stimulus(self.ctx, self.boss, None, 0, self.VALUES, "P-2")
        with self.assertRaises(NotAllowed):
            stimuli.save_stimulus(self.ctx, self.teach, common, 1, {**self.VALUES, "title": "Mine"})
        with self.assertRaises(NotFound):
            stimuli.get_stimulus(self.ctx, other, id)


class Pictures(BankCase):
    def test_they_are_written_anew_without_anything_beside_the_picture(self) -> None:
        out = io.BytesIO()
        exif = Image.Exif()
        exif[0x010F] = "a camera, a place"
        Image.new("RGB", (3000, 1500), "red").save(out, "JPEG", exif=exif)
        kept = media.upload(self.ctx, self.boss, "p.jpg", out.getvalue() + b"<script>hidden</script>")
        self.assertEqual((kept.type, kept.width, kept.height), ("image/jpeg", 2000, 1000))
        path, kind = media.read(self.ctx, kept.key)
        self.assertEqual(kind, "image/jpeg")
        for word in (b"camera", b"hidden"):
            self.assertNotIn(word, path.read_bytes())
        again = media.upload(self.ctx, self.boss, "q.jpg", out.getvalue())
        with self.ctx.store.read() as db:
            self.assertEqual((again.key, db.query(Media).count()), (kept.key, 1))

    def test_what_is_no_picture_or_too_much_of_one_is_refused(self) -> None:
        import weasyprint  # noqa: F401  # once something was printed, half of a picture is still none

        bomb = io.BytesIO()
        Image.new("1", (20_000, 20_000)).save(bomb, "PNG")
        for data, said in (
            (b"<svg xmlns='http://www.w3.org/2000/svg' onload='a()'/>", "not a picture that can be read"),
            (b"", "not a picture"),
            (picture()[:100], "not a picture"),
            (bomb.getvalue(), "(million pixels|not a picture)"),
            (b"\0" * (13 * 2**20), "at most 12 MB"),
            (b"RIFF\0\0\0\0WAVEjunk", "not a WAV file"),
        ):
            with self.assertRaisesRegex(Invalid, said):
                media.upload(self.ctx, self.boss, "x", data)
        self.assertFalse((self.folder / "media").exists() and any((self.folder / "media").iterdir()))

    def test_a_sound_is_kept_with_its_length(self) -> None:
        out = io.BytesIO()
        with wave.open(out, "wb") as sound:
            sound.setnchannels(1)
            sound.setsampwidth(2)
            sound.setframerate(8000)
            sound.writeframes(b"\0\0" * 4000)
        kept = media.upload(self.ctx, self.boss, "b.wav", out.getvalue())
        self.assertEqual((kept.type, kept.seconds), ("audio/wav", 0.5))


class Tagging(BankCase):
    def setUp(self) -> None:
        super().setUp()
        self.bring_all()

    def change(self, line: str, **change: Any) -> tagging.TagPreview:
        look = tagging.preview(self.ctx, self.boss, line, [], change)
        return tagging.apply(self.ctx, self.boss, line, [], change, look.stamp)

    def test_many_at_once_seen_before_and_taken_back(self) -> None:
        look = tagging.preview(
            self.ctx,
            self.boss,
            "type:choice,order",
            [],
            {"depth": 3, "label": ["tidal"], "unlabel": ["short"], "standard": "S.1"},
        )
        self.assertEqual((look.chosen, look.changed), (2, 2))
        self.assertEqual(
            look.lines[0].changes,
            [
                ("depth", "2", "3"),
                ("labels", "harbor, short", "harbor, tidal"),
                ("standards", "BAF-M6.1, BAF-M6.2", "S.1, BAF-M6.2"),
            ],
        )
        self.assertEqual(self.codes("depth:3"), [])
        self.change("type:choice,order", depth=3, label=["tidal"], unlabel=["short"], standard="S.1")
        self.assertEqual(self.codes("depth:3 label:tidal standard:S.1 -label:short"), ["ALL-choice", "ALL-order"])
        self.assertEqual(self.codes("tidal"), ["ALL-choice", "ALL-order"], "tags are found as words as well")
        self.change("code:ALL-order", topic="")
        (done, first) = tagging.history(self.ctx, self.boss)
        self.assertEqual((first.items, first.undone, done.what), (2, False, "nothing"))
        self.change("code:ALL-choice", depth=4)
        self.assertEqual(tagging.undo(self.ctx, self.boss, first.id), 2)
        self.assertEqual(
            (self.codes("depth:4"), self.codes("depth:3"), self.codes("label:tidal")), (["ALL-choice"], [], [])
        )
        with self.assertRaisesRegex(Conflict, "undone already"):
            tagging.undo(self.ctx, self.boss, first.id)

    def test_a_change_meanwhile_stops_it(self) -> None:
        look = tagging.preview(self.ctx, self.boss, "type:choice", [], {"depth": 3})
        self.change("type:choice", topic="other")
        self.change("type:choice", depth=4)
        with self.assertRaisesRegex(Conflict, "preview again"):
            tagging.apply(self.ctx, self.boss, "type:choice", [], {"depth": 3}, look.stamp)

    def test_enemies_are_set_and_taken_back(self) -> None:
        self.change("type:choice,order,match", enemies="apart")
        page = itempage.item_page(self.ctx, self.boss, self.id_of("ALL-order"))
        self.assertEqual([e.code for e in page.enemies], ["ALL-choice", "ALL-match"])
        tagging.undo(self.ctx, self.boss, tagging.history(self.ctx, self.boss)[0].id)
        self.assertEqual(itempage.item_page(self.ctx, self.boss, self.id_of("ALL-order")).enemies, [])

    def test_what_is_no_tag_is_refused(self) -> None:
        for change, said in (
            ({"depth": 5}, "depth is 1"),
            ({"seconds": -1}, "seconds"),
            ({"calculator": "abacus"}, "none, basic"),
            ({"standard": "NO"}, "there is no standard"),
            ({"topic": "x" * 81}, "at most 80"),
            ({"label": ["x" * 61]}, "at most 60"),
            ({"enemies": "yes"}, "apart or together"),
        ):
            with self.assertRaisesRegex(Invalid, said):
                tagging.preview(self.ctx, self.boss, "", [], change)

    def test_a_teacher_tags_their_own_items_and_no_others(self) -> None:
        self.bring_all()
        draft = self.write_item(self.teach, "MINE-9")
        drafts.finish(self.ctx, self.teach, draft.item_id, draft.revision)
        look = tagging.preview(self.ctx, self.teach, "", [], {"depth": 1})
        self.assertEqual([line.code for line in look.lines], ["MINE-9"])
        named = tagging.preview(self.ctx, self.teach, "", [draft.item_id, self.id_of("ALL-order")], {"depth": 1})
        self.assertEqual([line.code for line in named.lines], ["MINE-9"])
        self.change("type:order", depth=3)
        self.assertEqual(tagging.history(self.ctx, self.teach), [])
        tagging.apply(self.ctx, self.teach, "", [], {"depth": 1}, look.stamp)
        (mine,) = tagging.history(self.ctx, self.teach)
        theirs = next(done.id for done in tagging.history(self.ctx, self.boss) if done.id != mine.id)
        with self.assertRaises(NotFound):
            tagging.undo(self.ctx, self.teach, theirs)
        self.assertEqual(tagging.undo(self.ctx, self.teach, mine.id), 1)


class Finding(BankCase):
    def test_by_words_kinds_tags_and_what_items_did(self) -> None:
        self.bring_all()

        def did(db: Any) -> None:
            from bildung.store.models import Form

            db.add(Form(id=1, name="F", title="F", created_at=NOON))
            for at, code in enumerate(("ALL-choice", "ALL-order", "ALL-match")):
                version = db.scalars(select(ItemVersion).join(ItemVersion.item).where(Item.code == code)).one()
                flags = [{"flag": "key_suspect", "weight": "problem"}] if at == 1 else []
                db.add(
                    ItemFigure(
                        form_id=1,
                        window_id=self.window_id,
                        item_version_id=version.id,
                        n=100,
                        p=0.2 + 0.3 * at,
                        p_low=0.1,
                        p_high=0.9,
                        r_rest=0.4 - 0.3 * at,
                        wrong="B",
                        wrong_share=0.5 - 0.2 * at,
                        flags=flags,
                        sound=True,
                        at=datetime(2026, 10, 1 + at, tzinfo=UTC),
                        stamp="x",
                    )
                )
            db.flush()
            itemhistory.keep_last(db, list(db.scalars(select(Item.id))))

        self.ctx.store.write(did)
        for line, expected in (
            ("p<40%", ["choice"]),
            ("p>40% r>0", ["order"]),
            ("used:never type:line", ["line"]),
            ("used:year", ["choice", "match", "order"]),
            ("flag:key_suspect", ["order"]),
            ("times:1 -p<40%", ["match", "order"]),
            ("r<0", ["match"]),
            ("went", ["two_part", "writing"]),
            ("went nowhere", []),
            ("even verb", []),
            ("verb even", []),
            ("fer nig", ["writing"]),
            ('"even"', ["multiple"]),
            ("type:line,point", ["line", "point"]),
            ("points>2.5", ["category", "multiple", "several", "writing"]),
            ('unit:"unit 2: water" type:gap', ["gap"]),
            ("touches:BAF-M6.2 type:gap", ["gap"]),
            ("touches:BAF-M6.1", []),
            ("stimulus:P-1", ["two_part", "writing"]),
            ("label:Harbor type:text", ["text"]),
            ("seconds<60", []),
            ("year>0 p:0.5", ["order"]),
            ("code:ALL-t", ["text", "two_part"]),
            ("is:template", []),
        ):
            self.assertEqual(self.codes(line, limit=500), [f"ALL-{name}" for name in expected], line)
        for order, first in (
            ("p", "choice"),
            ("easy", "match"),
            ("r_rest", "match"),
            ("last", "choice"),
            ("recent", "match"),
            ("wrong", "choice"),
        ):
            self.assertEqual(self.codes("used:ever", order=order)[0], f"ALL-{first}", order)
        self.assertEqual(len(self.codes("", limit=5)), 5)
        self.assertEqual(self.codes("", limit=500)[5:10], self.codes("", limit=5, offset=5))
        self.assertEqual(search.find_items(self.ctx, self.boss, "  p<40%   tide ")[2], "p<40% tide")

    def test_a_slip_in_the_line_is_one_clear_error(self) -> None:
        for line, said in (
            ("color:red", "is not known"),
            ("state:lost", "state is one of"),
            ("used:often", "used is one of never"),
            ("p<x", "compared with one number"),
        ):
            with self.assertRaisesRegex(Invalid, said):
                self.codes(line)


class OutAndIn(BankCase):
    def test_a_package_brought_back_changes_nothing(self) -> None:
        self.bring_all()
        look = exporting.look(self.ctx, self.boss, "", "qti")
        self.assertEqual((look.items, look.whole, look.finding), (16, 16, "16 items, all complete."))
        _, _, data = exporting.export(self.ctx, self.boss, "", "qti")
        preview = itemimport.preview_items(self.ctx, self.boss, {"all.zip": data})
        self.assertEqual(preview.counts, {"added": 0, "changed": 0, "left_out": 0, "same": 16})
        self.assertNotIn("template", look.finding)
        sheet = exporting.look(self.ctx, self.boss, "", "sheet")
        self.assertEqual((sheet.items, sheet.whole), (16, 3))
        with self.assertRaisesRegex(Invalid, "0 items fit"):
            exporting.export(self.ctx, self.boss, "nothingatall", "qti")

    def test_into_an_empty_bank_whole_and_once(self) -> None:
        self.bring_all()
        _, _, data = exporting.export(self.ctx, self.boss, "", "qti")
        other = type(self)()
        other.setUp()
        self.addCleanup(other.doCleanups)
        preview = itemimport.preview_items(other.ctx, other.boss, {"all.zip": data})
        self.assertEqual(preview.counts["added"], 16 + 1 + 2, "items, their passage, two standards by their code")
        itemimport.apply_items(other.ctx, other.boss, preview.id)
        self.assertEqual(other.codes("", limit=500), self.codes("", limit=500))
        _, _, again = exporting.export(other.ctx, other.boss, "", "qti")
        self.assertEqual(itemimport.preview_items(other.ctx, other.boss, {"x.zip": again}).counts["same"], 16)


class Variants(BankCase):
    def template(self) -> int:
        def work(db: Any) -> int:
            from bildung.demo.items.templates import templates

            code, grade, _, content, shape = next(t for t in templates() if t[0] == "T6-RATIO")
            item = Item(code=code, subject="Mathematics", grade=grade, state="ready")
            db.add(item)
            versions.add_version(
                db, item, content, [standards_by_code(db)["S.1"]], None, NOON, None, shape.model_dump()
            )
            db.flush()
            versions.index_items(db, [item])
            return item.id

        return self.ctx.store.write(work)

    def test_items_made_of_draws_differ_and_know_where_from(self) -> None:
        id = self.template()
        codes = variants.make_items(self.ctx, self.boss, id, 6, 40)
        self.assertEqual(len(set(codes)), 6)
        bodies = {itempage.item_page(self.ctx, self.boss, self.id_of(code)).item.shown.body for code in codes}  # type: ignore[union-attr]
        self.assertEqual(len(bodies), 6)
        page = itempage.item_page(self.ctx, self.boss, self.id_of(codes[0]))
        self.assertEqual((page.origin and page.origin.code, page.state), ("T6-RATIO", "ready"))
        self.assertEqual(self.codes("is:template"), ["T6-RATIO"])
        self.assertTrue(set(codes).isdisjoint(variants.make_items(self.ctx, self.boss, id, 3, 40)))
        with self.assertRaisesRegex(Invalid, "1 to 50"):
            variants.make_items(self.ctx, self.boss, id, 51, 1)

    def test_draws_that_were_sat_pool_by_template_and_are_held_against_each_other(self) -> None:
        id = self.template()
        codes = variants.make_items(self.ctx, self.boss, id, 3, 40)

        def pooled(*did: tuple[int, float]) -> itempage.Pooled:
            def work(db: Any) -> None:
                db.execute(delete(ItemUse))
                for code, (n, p) in zip(codes, did, strict=False):
                    item = db.scalars(select(Item).where(Item.code == code)).one()
                    db.add(
                        ItemUse(
                            item_id=item.id,
                            item_version_id=item.versions[-1].id,
                            times=1,
                            n=n,
                            p=p,
                            problem=False,
                            at=NOON,
                        )
                    )

            self.ctx.store.write(work)
            found = itempage.item_page(self.ctx, self.boss, id).pooled
            assert found is not None
            return found

        self.assertEqual(pooled(), itempage.Pooled(items=3, sat=0, n=0, p=None, low=None, high=None, differ=""))
        alike = pooled((50, 0.5), (50, 0.6))
        self.assertEqual((alike.items, alike.sat, alike.n, alike.p, alike.differ), (3, 2, 100, 0.55, ""))
        apart = pooled((50, 0.3), (50, 0.7), (10, 0.1))
        self.assertEqual((apart.low, apart.high, round(apart.p or 0, 9)), (0.1, 0.7, round(51 / 110, 9)))
        self.assertIn("from 30% to 70%", apart.differ)
        self.assertIsNone(itempage.item_page(self.ctx, self.boss, self.id_of(codes[0])).pooled)

    def test_a_template_cannot_stand_on_a_form_and_a_bad_one_cannot_be_finished(self) -> None:
        id = self.template()
        version = itempage.item_page(self.ctx, self.boss, id).item
        assert version is not None
        form = forms.create_form(self.ctx, self.boss, "F", "", "", "")
        with self.assertRaisesRegex(Invalid, "is a template; generate items from its draws"):
            forms.set_items(self.ctx, self.boss, form.id, form.revision, [version.version_id])
        draft = drafts.open_draft(self.ctx, self.boss, id)
        shape = draft.template
        assert shape is not None
        bad = shape.model_copy(update={"constraints": []})
        saved = drafts.save_draft(
            self.ctx, self.boss, id, draft.revision, draft.content.model_dump(), ["S.1"], None, bad.model_dump()
        )
        self.assertEqual(saved.faults[0][0], "template")
        self.assertRegex(
            saved.faults[0][1], r"\d+ of 200 draws cannot be used, mostly: answer: two options say the same"
        )
        with self.assertRaises(Invalid):
            drafts.finish(self.ctx, self.boss, id, saved.revision)


class Sat(BankCase):
    def test_every_kind_is_sat_kept_and_analysed(self) -> None:
        """Half of the students answer all rightly, the others choose at random; figures come out for what needs no person."""
        self.bring_people()
        self.bring_all()
        form = forms.create_form(self.ctx, self.boss, "All", "", "Mathematics", "5")
        versions = [f.item.version_id for f in search.find_items(self.ctx, self.boss, limit=500)[0]]
        form = forms.set_items(self.ctx, self.boss, form.id, form.revision, versions)
        forms.publish(self.ctx, self.boss, form.id, form.revision)
        (session_id,) = scheduling.schedule(
            self.ctx,
            self.boss,
            form.id,
            self.window_id,
            [self.class_id()],
            "",
            None,
            NOON,
            datetime(2026, 11, 23, 12, 30, tzinfo=UTC),
        )
        code = listing.get_session(self.ctx, self.boss, session_id).session.code
        kinds = [f.item.kind for f in search.find_items(self.ctx, self.boss, limit=500)[0]]
        wrong = {
            "choice": "C",
            "multiple": "B",
            "numeric": "9",
            "text": "x",
            "order": "x>y>z",
            "match": "r=v",
            "line": "0.1",
            "point": "399 299",
            "gap": "7",
        }
        self.clock.pass_by(minutes=5)
        for at, own in enumerate(self.codes_of(self.class_id())):
            sitter = signin.sitter_of(self.ctx, signin.sign_in_student(self.ctx, code, own, f"device {at}").secret)
            paper = taking.paper(self.ctx, sitter)
            messages = [
                events.Answer(
                    id=f"m-{at}-{n:04d}-x",
                    question=q.id,
                    answer=RIGHT[kind] if at % 2 else wrong.get(kind, ""),
                    takeover=sitter.takeover,
                    sequence=n + 1,
                )
                for n, (q, kind) in enumerate(zip(paper.questions, kinds, strict=True))
            ]
            self.assertEqual(saving.save(self.ctx, sitter, messages).refused, [])
            taking.hand_in(self.ctx, sitter)
        running.close(self.ctx, self.boss, session_id)
        itemhistory.refresh(self.ctx)
        uses = {f.item.kind: f.uses[0] for f in search.find_items(self.ctx, self.boss, limit=500)[0]}
        for kind in ("choice", "numeric", "order", "hot_text", "line", "point", "two_part", "reason"):
            self.assertAlmostEqual(uses[kind].p or 0, 0.5, msg=kind)
        self.assertEqual(uses["choice"].wrong, "C")
        self.assertIsNone(uses["writing"].p, "nobody has marked it yet")
        self.assert_scores_are_awaited()

    def assert_scores_are_awaited(self) -> None:
        """Of those who wrote something, until somebody has scored all that a person must."""

        def line() -> list[tuple[str, str]]:
            found = page.waiting_for(self.ctx, self.boss)
            return [(w.what, w.path.partition("?")[0].rpartition("/")[0]) for w in found if "for a score" in w.what]

        with self.ctx.store.read() as db:
            wanted = (
                select(Response.sitting_id, Response.form_item_id)
                .join(FormItem, FormItem.id == Response.form_item_id)
                .join(ItemVersion, ItemVersion.id == FormItem.item_version_id)
                .where(ItemVersion.kind.in_(("writing", "several")), Response.answer != "")
            )
            written = db.execute(wanted.order_by(Response.sitting_id)).all()
        attempts = sorted({sitting for sitting, _ in written})
        self.assertEqual(line(), [(f"{len(written)} responses wait for a score", "/scoring")])

        def score(db: Session) -> None:
            for sitting, item in written:
                if sitting != attempts[0]:
                    mark = {"marker_id": self.boss_id, "points": 1.0, "at": self.clock.now}
                    db.add(Mark(sitting_id=sitting, form_item_id=item, **mark))

        self.ctx.store.write(score)
        left = sum(sitting == attempts[0] for sitting, _ in written)
        self.assertEqual(line(), [(f"{left} responses wait for a score", "/scoring")])


class Roles(BankCase):
    def test_a_teacher_writes_their_own_and_finishes_it_alone(self) -> None:
        draft = self.write_item(self.teach, "MINE-1")
        self.assertTrue(draft.may_finish)
        drafts.finish(self.ctx, self.teach, draft.item_id, draft.revision)
        self.assertEqual(self.codes("owner:mine", self.teach), ["MINE-1"])
        for work in (lambda: itemimport.preview_items(self.ctx, self.teach, {"i.csv": b"x"}),):
            with self.assertRaises(NotAllowed):
                work()
        other = self.write_item(self.boss, "OURS-1")
        drafts.finish(self.ctx, self.boss, other.item_id, other.revision)
        for work in (
            lambda: drafts.move(self.ctx, self.teach, other.item_id, "retired"),
            lambda: drafts.open_draft(self.ctx, self.teach, other.item_id),
            lambda: variants.make_items(self.ctx, self.teach, other.item_id, 1, 1),
        ):
            with self.assertRaises(NotFound):
                work()
        drafts.comment(self.ctx, self.teach, other.item_id, "My class asked what that word means.")
        with self.ctx.store.read() as db:
            self.assertEqual(db.query(Enrolment).count(), 0)
