"""Frameworks: standards as trees, brought in and given out as CASE or CSV, with links between versions."""

from __future__ import annotations

import json
from collections import Counter
from dataclasses import dataclass
from typing import Annotated, Any

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from bildung.core.items.frameworks import in_order
from bildung.formats.case import (
    FrameworkRecord,
    RelationRecord,
    StandardRecord,
    read_case,
    read_framework_sheet,
    write_case,
    write_framework_sheet,
)
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid, NotFound
from bildung.services.shared.staging import Planner, Preview, PreviewLine, decide, in_one_go, stage
from bildung.services.shared.typed import need_text
from bildung.services.shared.wire import Id, listed
from bildung.store.models import (
    Framework,
    ItemStandard,
    ItemVersion,
    LessonStandard,
    Standard,
    StandardLink,
)

LONGEST_PLAIN = 300
_FIELDS = ("code", "text", "plain", "kind", "subject", "grade", "grade_to", "priority", "position")


@dataclass(frozen=True)
class Linked:
    relation: str
    framework: str
    code: str


@dataclass(frozen=True, kw_only=True)
class FrameworkLine:
    id: Id
    title: str
    version: str
    main: bool
    standards: int
    linked: int


@dataclass(frozen=True, kw_only=True)
class StandardRow:
    """depth, leaf: its place in the tree. items: with it as main standard. linked: counterparts elsewhere, as
    relation, framework and code."""

    id: Id
    code: str
    text: str
    plain: str
    kind: str
    subject: str
    grade: str
    grade_to: str
    priority: bool
    depth: int
    leaf: bool
    items: int
    linked: Annotated[list[tuple[str, str, str]], listed(Linked)]


@dataclass(frozen=True, kw_only=True)
class FrameworkPage:
    finding: str
    framework: FrameworkLine
    frameworks: list[FrameworkLine]
    rows: list[StandardRow]
    may_change: bool


def list_frameworks(db: Session) -> list[FrameworkLine]:
    """Every framework with how many standards and items it has."""
    counts = {
        id: n for id, n in db.execute(select(Standard.framework_id, func.count()).group_by(Standard.framework_id))
    }
    linked: Counter[int | None] = Counter()
    for (id,) in db.execute(
        select(Standard.framework_id).where(
            Standard.id.in_(select(StandardLink.origin_id)) | Standard.id.in_(select(StandardLink.destination_id))
        )
    ):
        linked[id] += 1
    rows = db.scalars(select(Framework).order_by(Framework.main.desc(), Framework.title, Framework.version.desc()))
    return [
        FrameworkLine(
            id=f.id, title=f.title, version=f.version, main=f.main, standards=counts.get(f.id, 0), linked=linked[f.id]
        )
        for f in rows
    ]


def framework_page(ctx: Context, actor: Actor, framework_id: int | None = None) -> FrameworkPage | None:
    """A framework as a tree, the main one unless another is asked for; None where there is none yet."""
    scope(actor, Action.BANK_READ)
    with ctx.store.read() as db:
        frameworks = list_frameworks(db)
        if framework_id is None:
            framework_id = frameworks[0].id if frameworks else None
        line = next((f for f in frameworks if f.id == framework_id), None)
        if line is None:
            if framework_id is None:
                return None
            raise NotFound("there is no such framework")
        rows = _rows(db, line.id)
    return FrameworkPage(
        finding=_finding(line, rows),
        framework=line,
        frameworks=frameworks,
        rows=rows,
        may_change=actor.may(Action.FRAMEWORKS_WRITE),
    )


def _rows(db: Session, framework_id: int) -> list[StandardRow]:
    standards = {s.id: s for s in db.scalars(select(Standard).where(Standard.framework_id == framework_id))}
    newest = select(func.max(ItemVersion.id)).group_by(ItemVersion.item_id)
    items = {
        id: n
        for id, n in db.execute(
            select(ItemStandard.standard_id, func.count())
            .where(ItemStandard.rank == 0, ItemStandard.item_version_id.in_(newest))
            .group_by(ItemStandard.standard_id)
        )
    }
    linked = _counterparts(db, set(standards))
    placed = in_order({id: s.parent_id for id, s in standards.items()}, {id: s.position for id, s in standards.items()})
    return [
        StandardRow(
            id=s.id,
            code=s.code,
            text=s.text,
            plain=s.plain,
            kind=s.kind,
            subject=s.subject,
            grade=s.grade,
            grade_to=s.grade_to,
            priority=s.priority,
            depth=p.depth,
            leaf=p.leaf,
            items=items.get(s.id, 0),
            linked=linked.get(s.id, []),
        )
        for p in placed
        for s in (standards[p.key],)
    ]


def _counterparts(db: Session, ids: set[int]) -> dict[int, list[tuple[str, str, str]]]:
    """Of each standard its links either way; one that points here is told from this side."""
    found: dict[int, list[tuple[str, str, str]]] = {}
    other = {s.id: s for s in db.scalars(select(Standard).where(Standard.framework_id.is_not(None)))}
    titles = {f.id: f"{f.title} {f.version}".strip() for f in db.scalars(select(Framework))}
    for link in db.scalars(select(StandardLink)):
        for mine, theirs, words in (
            (link.origin_id, link.destination_id, link.relation),
            (link.destination_id, link.origin_id, f"{link.relation} (from there)"),
        ):
            if mine in ids and theirs in other and theirs not in ids:
                s = other[theirs]
                found.setdefault(mine, []).append((words, titles.get(s.framework_id or 0, ""), s.code or s.text))
    return found


def _finding(line: FrameworkLine, rows: list[StandardRow]) -> str:
    leaves = [r for r in rows if r.leaf]
    bare = sum(r.items == 0 for r in leaves)
    urgent = sum(r.items == 0 and r.priority for r in leaves)
    unsaid = sum(not r.plain for r in leaves)
    text = f"{line.title} {line.version}".strip() + f": {len(leaves)} standards"
    text += f", {bare} without an item" if bare else ", each with an item"
    text += f", {urgent} of them marked as a priority." if urgent else "."
    if unsaid:
        text += f" {unsaid} {'has' if unsaid == 1 else 'have'} no sentence for families yet."
    return text


def texts(ctx: Context) -> dict[str, tuple[str, str]]:
    """Text and family sentence of every code, for wherever a code stands; the main framework's come last and win."""
    with ctx.store.read() as db:
        rows = db.execute(
            select(Standard.code, Standard.text, Standard.plain)
            .outerjoin(Framework, Framework.id == Standard.framework_id)
            .where(Standard.code != "", Standard.text != "")
            .order_by(Framework.main)
        )
        return {code: (text, plain) for code, text, plain in rows}


def preview(ctx: Context, actor: Actor, files: dict[str, bytes], title: str = "") -> Preview:
    """Look at what a framework's file would add and change."""
    scope(actor, Action.FRAMEWORKS_WRITE)
    if title.strip():
        files = {**files, "title.json": json.dumps(title.strip()).encode()}
    return stage(ctx, actor, "framework", files, _planner(ctx, actor))


def apply(ctx: Context, actor: Actor, id: str, yes: bool = False) -> Preview:
    """Take in what was looked at; refused where the bank has moved since."""
    scope(actor, Action.FRAMEWORKS_WRITE)
    return decide(ctx, actor, "framework", id, _planner(ctx, actor), yes)


def _planner(ctx: Context, actor: Actor) -> Planner:
    return in_one_go(lambda db, files, do: plan_framework(ctx, db, files, do, actor.person_id))


def plan_framework(ctx: Context, db: Session, files: dict[str, bytes], do: bool, by: int | None) -> list[PreviewLine]:
    """What becomes of each standard of a CASE package or a sheet. A standard is known by its identifier, else by its
    code; items stay with it when its text or place changes."""
    title = json.loads(files["title.json"]) if "title.json" in files else ""
    lines: list[PreviewLine] = []
    for name, data in files.items():
        if name == "title.json":
            continue
        record = _read(name, data, title)
        lines += _Plan(db, record, do).lines
        if do:
            audit.record(
                db,
                ctx.clock(),
                by,
                "framework.bring",
                f"framework:{record.title}",
                None,
                {"standards": len(record.standards)},
            )
    return lines


def _read(name: str, data: bytes, title: str) -> FrameworkRecord:
    if data.lstrip()[:1] == b"{" or name.lower().endswith(".json"):
        return read_case(name, data)
    if not title:
        raise Invalid("a sheet needs the framework's title beside it", "title")
    return read_framework_sheet(name, data, title)


class _Plan:
    def __init__(self, db: Session, record: FrameworkRecord, do: bool) -> None:
        self.db, self.record, self.do = db, record, do
        self.lines: list[PreviewLine] = []
        self.framework = db.scalar(select(Framework).where(Framework.identifier == record.identifier))
        self._framework()
        self.there: dict[str, Standard] = {}
        self.by_code: dict[str, Standard] = {}
        if self.framework is not None and self.framework.id is not None:
            for s in db.scalars(select(Standard).where(Standard.framework_id == self.framework.id)):
                self.there[s.identifier or ""] = s
                self.by_code[s.code] = s
        # codes that came with items only find their text here
        self.orphans = {s.code: s for s in db.scalars(select(Standard).where(Standard.framework_id.is_(None)))}
        self._standards()
        self._links()

    def _framework(self) -> None:
        r = self.record
        values = {"title": r.title, "version": r.version, "creator": r.creator, "language": r.language}
        name = f"{r.title} {r.version}".strip()
        if self.framework is None:
            self.lines.append(
                PreviewLine(
                    fate="added", what="framework", id=r.identifier, label=name, detail=f"{len(r.standards)} standards"
                )
            )
            if self.do:
                first = self.db.scalar(select(func.count()).select_from(Framework)) == 0
                self.framework = Framework(identifier=r.identifier, main=first, **values)
                self.db.add(self.framework)
                self.db.flush()
            return
        moves = [n for n, v in values.items() if getattr(self.framework, n) != v]
        self.lines.append(
            PreviewLine(
                fate="changed" if moves else "same",
                what="framework",
                id=r.identifier,
                label=name,
                detail=", ".join(moves),
            )
        )
        if self.do:
            for n in moves:
                setattr(self.framework, n, values[n])

    def _standards(self) -> None:
        kept: set[int] = set()
        made: dict[str, Standard] = {}
        for s in self.record.standards:
            row = (
                self.there.get(s.identifier)
                or (self.by_code.get(s.code) if s.code else None)
                or self.orphans.get(s.code)
            )
            label = f"{s.code} {s.text}".strip()[:120]
            values: dict[str, Any] = {name: getattr(s, name) for name in _FIELDS}
            if row is None:
                self.lines.append(PreviewLine(fate="added", what="standard", id=s.code or s.identifier, label=label))
                if self.do:
                    row = Standard(identifier=s.identifier, framework_id=self._id(), **values)
                    self.db.add(row)
            else:
                kept.add(row.id)
                if not s.plain and row.plain:
                    values["plain"] = row.plain  # a sentence written here is not lost to a file that has none
                moves = [n for n, v in values.items() if getattr(row, n) != v and n != "position"]
                was_orphan = row.framework_id is None
                fate: Any = "changed" if moves or was_orphan else "same"
                detail = (
                    "its code came with an item before"
                    if was_orphan
                    else "; ".join(f"{n}: {getattr(row, n) or '–'} → {values[n] or '–'}" for n in moves)
                )
                self.lines.append(
                    PreviewLine(fate=fate, what="standard", id=s.code or s.identifier, label=label, detail=detail)
                )
                if self.do:
                    for n, v in values.items():
                        setattr(row, n, v)
                    row.framework_id, row.identifier = self._id(), s.identifier
            if row is not None:
                made[s.identifier] = row
        if self.do:
            self.db.flush()
            for s in self.record.standards:
                made[s.identifier].parent_id = made[s.parent].id if s.parent else None
            self.db.flush()
        self.made = made
        self._gone(kept)

    def _id(self) -> int:
        assert self.framework is not None
        return self.framework.id

    def _gone(self, kept: set[int]) -> None:
        """Standards that the file no longer has: those that something hangs on stay, the others go."""
        gone = [s for s in self.there.values() if s.id not in kept]
        if not gone:
            return
        ids = [s.id for s in gone]
        used = set(self.db.scalars(select(ItemStandard.standard_id).where(ItemStandard.standard_id.in_(ids))))
        used |= set(self.db.scalars(select(LessonStandard.standard_id).where(LessonStandard.standard_id.in_(ids))))
        for s in gone:
            label = f"{s.code} {s.text}".strip()[:120]
            if s.id in used:
                self.lines.append(
                    PreviewLine(
                        fate="left_out",
                        what="standard",
                        id=s.code,
                        label=label,
                        detail="no longer in the file; kept, because items or lessons use it",
                    )
                )
                continue
            self.lines.append(
                PreviewLine(
                    fate="changed", what="standard", id=s.code, label=label, detail="no longer in the file: removed"
                )
            )
            if self.do:
                self.db.execute(
                    delete(StandardLink).where((StandardLink.origin_id == s.id) | (StandardLink.destination_id == s.id))
                )
                for child in self.db.scalars(select(Standard).where(Standard.parent_id == s.id)):
                    child.parent_id = None
                self.db.delete(s)

    def _links(self) -> None:
        known = {s.identifier: s for s in self.db.scalars(select(Standard).where(Standard.identifier.is_not(None)))}
        names = {s.identifier: s.code for s in self.record.standards} | {i or "": s.code for i, s in known.items()}
        mine = {s.identifier for s in self.record.standards}
        there = {(link.origin_id, link.destination_id, link.relation) for link in self.db.scalars(select(StandardLink))}
        for link in self.record.links:
            label = (
                f"{names.get(link.origin, link.origin)} {link.relation} {names.get(link.destination, link.destination)}"
            )
            if not all(end in known or end in mine for end in (link.origin, link.destination)):
                self.lines.append(
                    PreviewLine(
                        fate="left_out",
                        what="link",
                        id=link.relation,
                        label=label,
                        detail="the other standard is not here; import its framework first",
                    )
                )
                continue
            origin, destination = known.get(link.origin), known.get(link.destination)
            if origin is not None and destination is not None and (origin.id, destination.id, link.relation) in there:
                self.lines.append(PreviewLine(fate="same", what="link", id=link.relation, label=label))
                continue
            self.lines.append(PreviewLine(fate="added", what="link", id=link.relation, label=label))
            if self.do:
                assert origin is not None and destination is not None
                self.db.add(StandardLink(origin_id=origin.id, destination_id=destination.id, relation=link.relation))


def export(ctx: Context, actor: Actor, framework_id: int, kind: str, base: str) -> tuple[bytes, str, str]:
    """The framework as case1.0, case1.1 or csv: its bytes, media type and file name."""
    scope(actor, Action.BANK_READ)
    if kind not in ("case1.0", "case1.1", "csv"):
        raise Invalid("one of case1.0, case1.1, csv", "kind")
    with ctx.store.read() as db:
        framework = db.get(Framework, framework_id)
        if framework is None:
            raise NotFound("there is no such framework")
        record = _record(db, framework)
    name = "-".join(filter(None, (framework.title.lower().replace(" ", "-"), framework.version)))
    if kind == "csv":
        return write_framework_sheet(record), "text/csv", f"{name}.csv"
    package = write_case(record, kind[-3:], base, ctx.clock())
    return json.dumps(package, ensure_ascii=False, indent=1).encode(), "application/json", f"{name}-{kind}.json"


def _record(db: Session, framework: Framework) -> FrameworkRecord:
    rows = {s.id: s for s in db.scalars(select(Standard).where(Standard.framework_id == framework.id))}
    order = in_order({id: s.parent_id for id, s in rows.items()}, {id: s.position for id, s in rows.items()})
    standards = tuple(
        StandardRecord(
            identifier=s.identifier or "",
            code=s.code,
            text=s.text,
            plain=s.plain,
            kind=s.kind,
            subject=s.subject,
            grade=s.grade,
            grade_to=s.grade_to,
            priority=s.priority,
            parent=rows[s.parent_id].identifier or "" if s.parent_id in rows else "",
            position=s.position,
        )
        for p in order
        for s in (rows[p.key],)
    )
    identifiers = {
        s.id: s.identifier or "" for s in db.scalars(select(Standard).where(Standard.identifier.is_not(None)))
    }
    links = tuple(
        RelationRecord(identifiers[link.origin_id], link.relation, identifiers[link.destination_id])
        for link in db.scalars(select(StandardLink).order_by(StandardLink.origin_id, StandardLink.destination_id))
        if link.origin_id in rows and link.destination_id in identifiers
    )
    return FrameworkRecord(
        identifier=framework.identifier,
        title=framework.title,
        version=framework.version,
        creator=framework.creator,
        language=framework.language,
        standards=standards,
        links=links,
    )


def change_standard(ctx: Context, actor: Actor, standard_id: int, plain: str, priority: bool) -> None:
    """What a school says itself of a standard: the sentence for families, and whether it is a priority."""
    scope(actor, Action.FRAMEWORKS_WRITE)
    plain = " ".join(plain.split())
    if len(plain) > LONGEST_PLAIN:
        raise Invalid(f"a sentence has at most {LONGEST_PLAIN} characters", "plain")

    def work(db: Session) -> None:
        row = db.get(Standard, standard_id)
        if row is None:
            raise NotFound("there is no such standard")
        before = {"plain": row.plain, "priority": row.priority}
        row.plain, row.priority = plain, priority
        after = {"plain": plain, "priority": priority}
        if before != after:
            audit.record(db, ctx.clock(), actor.person_id, "standard.change", f"standard:{row.code}", before, after)

    ctx.store.write(work)


def make_main(ctx: Context, actor: Actor, framework_id: int) -> None:
    """From now on its codes are meant where an item names a code only."""
    scope(actor, Action.FRAMEWORKS_WRITE)

    def work(db: Session) -> None:
        chosen = db.get(Framework, framework_id)
        if chosen is None:
            raise NotFound("there is no such framework")
        for row in db.scalars(select(Framework)):
            row.main = row.id == framework_id
        name = need_text(chosen.title, "title")
        audit.record(db, ctx.clock(), actor.person_id, "framework.main", f"framework:{name}")

    ctx.store.write(work)
