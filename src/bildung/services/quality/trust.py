"""How far to trust the total, the parts and a pass line; and what the form was to cover against what was sat."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from bildung.core.assembly.blueprint import held
from bildung.core.classical.analysis import TestAnalysis
from bildung.core.classical.settings import DEFAULTS, Settings
from bildung.core.items.shown import coefficient, percent
from bildung.core.precision.trust import Trust, dimension_words, trust
from bildung.formats.blueprint import read_plan
from bildung.services.bank.candidates import candidates
from bildung.services.quality.judged import Judged, judge
from bildung.services.quality.overview import groups_of
from bildung.services.quality.scope import ScopeRequest
from bildung.services.shared.access import Actor
from bildung.services.shared.context import Context
from bildung.services.shared.errors import Invalid
from bildung.services.shared.jobs import Job
from bildung.services.shared.results import KeptResults

MOST_CUTS = 8


@dataclass(frozen=True, kw_only=True)
class Covered:
    """One demand of the blueprint: what it wants, what the form holds, and of that what was sat and judged sound."""

    name: str
    low: float
    high: float
    have: float
    count: str
    sat: float
    sound: float
    says: str


@dataclass(frozen=True, kw_only=True)
class TrustReport:
    """n: students behind the reliability. by: what the parts are. coverage: empty where no blueprint is known."""

    finding: str
    n: int
    k: int
    points: float
    mean: float | None
    sd: float | None
    by: str
    trust: Trust
    dimensions_say: str
    coverage: list[Covered]
    coverage_says: str


@dataclass
class TrustAtHand:
    """Reports without names, each with the analysis that it was made of."""

    found: KeptResults[tuple[TestAnalysis, Trust]] = field(default_factory=lambda: KeptResults(16))


def trust_report(
    ctx: Context,
    actor: Actor,
    wanted: ScopeRequest,
    settings: Settings = DEFAULTS,
    cuts: Sequence[float] = (),
    by: str = "standard",
    job: Job | None = None,
) -> TrustReport:
    """cuts: pass lines as shares of the points; the watch line where none is named."""
    if len(cuts) > MOST_CUTS or any(not 0 < cut <= 1 for cut in cuts):
        raise Invalid(f"at most {MOST_CUTS} cut scores, each above 0 and at most 100%", "cut")
    judged = judge(ctx, actor, wanted, settings, job)
    lines = {f"{percent(cut)}": cut for cut in (cuts or (settings.watch_line,)) if cut > 0}
    groups = groups_of(judged, by)
    # the shuffled copies of the dimension check are the slow part
    found = ctx.own(TrustAtHand).found.get(
        (id(judged.analysis), tuple(lines.items()), by),
        lambda: (judged.analysis, trust(judged.analysis, groups, lines, job.tell if job else None)),
    )[1]
    coverage, says = _coverage(ctx, actor, judged)
    spread = judged.analysis.distribution
    return TrustReport(
        finding=_finding(judged, found),
        n=judged.analysis.reliability.n,
        k=spread.k,
        points=spread.points,
        mean=spread.mean,
        sd=spread.sd,
        by=by,
        trust=found,
        dimensions_say=dimension_words(found.dimensions) if found.dimensions else found.dimensions_why,
        coverage=coverage,
        coverage_says=says,
    )


def _finding(judged: Judged, found: Trust) -> str:
    alpha, interval = judged.analysis.reliability.alpha, judged.analysis.reliability.alpha_ci95
    if alpha is None:
        return f"Reliability cannot be estimated: {judged.analysis.reliability.why.get('alpha', '')}."
    text = f"The total {found.words}: reliability {coefficient(alpha)}"
    if interval:
        text += f" ({coefficient(interval[0])} to {coefficient(interval[1])})"
    if found.sem is not None:
        text += f", so a score is accurate to about {found.sem:.1f} points either way"
    own = [p for p in found.parts if p.says_more]
    if own:
        text += f". {len(own)} of {len(found.parts)} sections can be reported separately"
    elif any(p.says_more is not None for p in found.parts):
        text += ". No section adds to the total"
    elif len(found.parts) > 1:
        text += f". Its sections cannot be judged ({found.parts[0].why.get('says_more') or found.parts[0].why.get('alpha', '')})"
    cut = found.cuts[0] if found.cuts else None
    if cut is not None and cut.result is not None:
        text += f"; {percent(1 - cut.result.accuracy)} would be misclassified at {cut.name}"
    return text + "."


def _coverage(ctx: Context, actor: Actor, judged: Judged) -> tuple[list[Covered], str]:
    form = judged.scoped.forms[0]
    if not form.plan or len(judged.scoped.forms) > 1:
        return [], "" if len(judged.scoped.forms) > 1 else "This form has no blueprint."
    plan = read_plan(form.plan).core()
    ids = [row.item.version_id for row in judged.rows]
    with ctx.store.read() as db:
        by_id = {c.id: c for c in candidates(ctx, db, actor, None, always=ids)}
    placed = [(by_id[row.item.version_id], row.part) for row in judged.rows if row.item.version_id in by_id]
    judged_items = list(zip(judged.rows, judged.analysis.items, strict=True))
    sound = {row.item.version_id for row, item in judged_items if item.sound}
    met = {row.item.version_id for row, item in judged_items if item.figures.n}
    found = []
    for want in held(plan, placed):
        if want.row is None:
            continue
        row = plan.rows[want.row]
        mine = [(c, row.weight(c)) for c, part in placed if part == row.part and row.fits(c)]
        sat, kept_ = (sum(weight for c, weight in mine if c.id in some) for some in (met, sound))
        found.append(
            Covered(
                name=want.name,
                low=want.low,
                high=want.high,
                have=want.have,
                count=want.count,
                sat=sat,
                sound=kept_,
                says=want.says,
            )
        )
    lost = [c.name for c in found if c.sound < min(c.low, c.sat)]
    whole = all(c.sat >= min(c.low, c.have) for c in found)
    text = "Everything in the blueprint was covered" if whole else "Some of what was planned was not used yet"
    if lost:
        more = f" and {len(lost) - 3} more" if len(lost) > 3 else ""
        text += f"; by sound items alone {', '.join(lost[:3])}{more} {'falls' if len(lost) == 1 else 'fall'} short of the blueprint"
    return found, text + "."
