"""Tests as files: QTI 3.0 packages out and in, and the map of a form as a workbook."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from bildung.core.assembly.predict import predict
from bildung.core.school.schooltime import school_day
from bildung.formats.blueprint import DrawKept, FormSettings, PartKept, Plan, settings_of
from bildung.formats.content import KINDS as ITEM_KINDS
from bildung.formats.formmap import form_map
from bildung.formats.problem import ImportProblem
from bildung.formats.qti.packages import media_keys, write_package
from bildung.formats.qti.tests import QtiTestPart, TestRecord, read_test, sections_of, write_test
from bildung.services.bank.candidates import candidates
from bildung.services.bank.itemimport import plan_items
from bildung.services.building.forms import check_items
from bildung.services.building.trialrun import said
from bildung.services.calendar.years import zone_of
from bildung.services.forms.settings import heaps_of, settings, title_of
from bildung.services.items import media
from bildung.services.items.bankitem import bank_item, record_of, with_parts
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, owner_of_new, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.wire import Id
from bildung.store.models import Form, FormItem, Item, ItemVersion


@dataclass(frozen=True)
class Brought:
    """says: what came, in one sentence, and what the package had that a form has no place for."""

    form_id: Id
    says: str


def _form(db: Session, actor: Actor, form_id: int) -> Form:
    form = db.scalar(select(Form).where(Form.id == form_id, scope(actor, Action.TESTS_READ)))
    if form is None:
        raise NotFound("there is no such form")
    if not form.items:
        raise Conflict(f"{form.name} has no items yet")
    return form


def file_name(name: str, ending: str) -> str:
    """A name that every system takes, from what somebody called a thing."""
    return re.sub(r"[^A-Za-z0-9]+", "-", name).strip("-").lower()[:60] + ending


def package(ctx: Context, actor: Actor, form_id: int) -> tuple[str, bytes]:
    """The form with its items as a QTI 3.0 package; the file's name and bytes."""
    scope(actor, Action.BANK_READ)
    with ctx.store.read() as db:
        form = _form(db, actor, form_id)
        versions = {
            v.id: v
            for v in db.scalars(
                with_parts(select(ItemVersion).where(ItemVersion.id.in_([i.item_version_id for i in form.items])))
            )
        }
        rules = settings(form)
        records = [record_of(bank_item(versions[i.item_version_id])) for i in form.items]
        code_of = {i.id: versions[i.item_version_id].item.code for i in form.items}
        heaps = [(h.count, [code_of[c.id] for c in h.items]) for h in heaps_of(db, form)]
        plan = Plan.model_validate(form.plan).parts if form.plan else [PartKept()]
        parts = []
        for at in sorted({i.part for i in form.items}):
            kept = plan[at] if at < len(plan) else PartKept()
            codes = [code_of[i.id] for i in form.items if i.part == at]
            mine = [(n, [c for c in some if c in codes]) for n, some in heaps]
            parts.append(
                QtiTestPart(kept.name, kept.instructions, kept.minutes, sections_of(codes, [h for h in mine if h[1]]))
            )
        test = TestRecord(
            title=title_of(form),
            parts=tuple(parts),
            minutes=rules.minutes,
            linear=rules.movement == "one",
            back=rules.back,
            attempts=rules.attempts,
            feedback=rules.feedback == "now",
        )
        name = form.name
    files = {}
    for key in {key for record in records for key in media_keys(record)}:
        path, _ = media.read(ctx, key)
        files[key] = (path.name, path.read_bytes())
    data = write_package(records, files, lambda paths: write_test(f"test-{form_id}", test, paths))
    return file_name(name, "-qti.zip"), data


def bring(ctx: Context, actor: Actor, file: str, data: bytes) -> Brought:
    """A test with its items from a QTI package, as a draft: all of it or nothing. Items that are here already stay as
    they are; changed ones come as their next version."""
    scope(actor, Action.TESTS_WRITE)
    scope(actor, Action.BANK_KEEP)
    try:
        test = read_test(file, data)
    except ImportProblem as error:
        raise Invalid(str(error), "file") from None
    if test is None:
        raise Invalid(f"{file} has items but no test; bring items in at the Bank", "file")

    def work(db: Session) -> Brought:
        try:
            lines = plan_items(ctx, db, {file: data}, True)
        except ImportProblem as error:
            raise Invalid(str(error), "file") from None
        db.flush()
        codes = [c for part in test.parts for s in part.sections for c in s.items]
        found = _newest_of(db, codes)
        lost = [code for code in codes if code not in found]
        if lost:
            raise Invalid(
                f"{file}: item {lost[0]} cannot be imported, so the test is incomplete; nothing was imported", "file"
            )
        check_items(db, [found[c][0] for c in codes])
        subjects, grades = ({found[c][at] for c in codes} for at in (1, 2))
        name = _free_name(db, test.title)
        draws = _draws(test)
        parts = [PartKept(name=p.name[:120], instructions=p.instructions, minutes=p.minutes) for p in test.parts]
        form = Form(
            name=name,
            title=test.title,
            subject=subjects.pop() if len(subjects) == 1 else "",
            grade=grades.pop() if len(grades) == 1 else "",
            created_at=ctx.clock(),
            owner_id=owner_of_new(actor),
            settings=_rules(test, draws).model_dump(),
            plan=Plan(parts=parts).model_dump(),
        )
        at = 0
        for n, part in enumerate(test.parts):
            for code in (c for s in part.sections for c in s.items):
                at += 1
                form.items.append(FormItem(position=at, part=n, item_version_id=found[code][0]))
        db.add(form)
        db.flush()
        audit.record(
            db, ctx.clock(), actor.person_id, "form.bring", f"form:{form.id}", None, {"file": file, "items": len(codes)}
        )
        fresh = sum(line.what == "item" and line.fate == "added" for line in lines)
        left = list(test.lost) + (["different numbers drawn from each section"] if len(draws) > 1 else [])
        says = f"{name}: {len(codes)} items, {fresh} of them new in the bank"
        return Brought(form.id, says + (f"; not imported: {', '.join(left)}." if left else "."))

    return ctx.store.write(work)


def _newest_of(db: Session, codes: list[str]) -> dict[str, tuple[int, str, str]]:
    """Version, subject and grade by code, of the items that are here."""
    newest = select(func.max(ItemVersion.id)).group_by(ItemVersion.item_id)
    return {
        code: (id, subject, grade)
        for code, id, subject, grade in db.execute(
            select(Item.code, ItemVersion.id, Item.subject, Item.grade)
            .join(ItemVersion, ItemVersion.item_id == Item.id)
            .where(Item.code.in_(codes), ItemVersion.id.in_(newest))
        )
    }


def _free_name(db: Session, title: str) -> str:
    """The title, with a number where a form is named so already."""
    name, number = title, 2
    while db.scalar(select(Form.id).where(Form.name == name)) is not None:
        name, number = f"{title} {number}", number + 1
    return name


def _draws(test: TestRecord) -> set[int]:
    """How many are drawn from a section that holds more."""
    sections = [s for part in test.parts for s in part.sections]
    return {s.select for s in sections if s.select is not None and s.select < len(s.items)}


def _rules(test: TestRecord, draws: set[int]) -> FormSettings:
    """How the test is taken, as far as the package says it in words of the standard."""
    return settings_of("").model_copy(
        update={
            "minutes": test.minutes,
            "movement": "one" if test.linear else "free",
            "back": test.back,
            "attempts": test.attempts,
            "feedback": "now" if test.feedback and test.linear and not test.back else "release",
            "draw": DrawKept(count=min(draws)) if len(draws) == 1 else None,
        }
    )


def map_of(ctx: Context, actor: Actor, form_id: int) -> tuple[str, bytes]:
    """The form's map as a workbook; the file's name and bytes."""
    with ctx.store.read() as db:
        form = _form(db, actor, form_id)
        ids = [i.item_version_id for i in form.items]
        by_id = {c.id: c for c in candidates(ctx, db, actor, None, always=ids)}
        versions = {v.id: v for v in db.scalars(with_parts(select(ItemVersion).where(ItemVersion.id.in_(ids))))}
        names = [p.name for p in Plan.model_validate(form.plan).parts] if form.plan else []
        rows: list[list[Any]] = []
        coverage: dict[str, list[float]] = {}
        for number, place in enumerate(form.items, 1):
            item, c = bank_item(versions[place.item_version_id]), by_id[place.item_version_id]
            part = names[place.part] if place.part < len(names) and names[place.part] else ""
            rows.append(
                [
                    number,
                    part or (f"Part {place.part + 1}" if len(names) > 1 else ""),
                    item.code,
                    item.number,
                    ITEM_KINDS[item.kind],
                    c.standard,
                    ", ".join(c.standards[1:]),
                    c.depth,
                    c.topic,
                    c.unit,
                    c.stimulus,
                    c.points,
                    item.key,
                    c.seconds / 60 if c.seconds else None,
                    c.p,
                    c.n or None,
                    c.r_rest,
                    "yes" if place.face else "",
                ]
            )
            held = coverage.setdefault(c.standard or "none", [0, 0.0])
            held[0] += 1
            held[1] += c.points
        expected = predict([by_id[id] for id in ids])
        facts = [
            ("Title for students", title_of(form)),
            ("Kind", form.kind),
            ("Subject, grade", f"{form.subject} {form.grade}".strip()),
            ("Family, role", f"{form.family.name}, {form.role}" if form.family else ""),
            ("Score scale", form.scale or form.name),
            ("State", f"published {school_day(form.published_at, zone_of(db))}" if form.published_at else "draft"),
            ("Items", len(rows)),
            ("Points", sum(by_id[id].points for id in ids)),
            ("Test settings", "; ".join(said(form))),
            ("Expected share of the points", None if expected.share is None else round(expected.share, 3)),
            ("Items without history", len(expected.unknown)),
        ]
        data = form_map(form.name, facts, rows, [(s, int(n), p) for s, (n, p) in sorted(coverage.items())])
        return file_name(form.name, "-map.xlsx"), data
