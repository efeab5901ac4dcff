"""What the page about two occasions shows."""

from __future__ import annotations

from dataclasses import dataclass

from bildung.services.growth.head import LevelChoice, MeasureHead
from bildung.services.growth.measures import NormSetLine
from bildung.services.growth.occasions import OccasionLine
from bildung.services.shared.wire import Id


@dataclass(frozen=True, kw_only=True)
class GrowthStudent:
    """One student. alias: number to show in place of the name. grade: of the class. expected: end score that the start lets expect;
    from_expected: how much better the end is. percentile: among students with the same starting score, band its 68% band. claim: against
    them. reliable: rise or fall beyond error; empty otherwise. beyond: ahead of or behind the expected score by more than error. sgp:
    growth percentile; None where there are too few students. start_level, end_level: of the performance levels, or of the ordered levels
    that are the score. marks: what is to be known of the attempts."""

    id: Id
    name: str
    alias: int
    klass: str
    grade: str
    start: float
    end: float
    gain: float
    expected: float | None
    from_expected: float | None
    percentile: float | None
    band: list[float] | None
    sgp: int | None
    claim: str
    reliable: str
    beyond: str
    start_level: str
    end_level: str
    marks: list[str]


@dataclass(frozen=True, kw_only=True)
class GrowthContour:
    """A curve of equal height for the same start: (start, gain), as it is drawn."""

    percentile: int
    points: list[list[float]]


@dataclass(frozen=True, kw_only=True)
class GrowthGroup:
    """A class, grade, school or student group. slope: mean start, mean end and mean expected end. told: mean residual gain in standard
    deviations, with its 95% interval; points: the same in points of the scale. off: the interval lies above (1) or below (-1) expectation.
    judged: how many students stand behind it; by: table or others. median_sgp: of their growth percentiles, told with the mean start only.
    picked: its students seem to have been picked by their start score.
    says: what is to be said of it; why: why nothing can. hidden: too small to be shown, or beside one that is."""

    id: Id
    name: str
    n: int
    mean_start: float | None
    mean_end: float | None
    mean_expected: float | None
    mean_gain: float | None
    gain_ci95: list[float] | None
    told: float | None
    ci95: list[float] | None
    shrunken: float | None
    points: float | None
    reach: float | None
    met: float | None
    off: int
    judged: int
    by: str
    median_sgp: float | None
    missing: int
    picked: bool
    tipping: float | None
    says: str
    why: str
    hidden: bool


@dataclass(frozen=True, kw_only=True)
class GradeBlock:
    """A grade with its classes; contours are drawn for it."""

    grade: str
    line: GrowthGroup
    classes: list[GrowthGroup]
    contours: list[GrowthContour]


@dataclass(frozen=True, kw_only=True)
class ChanceView:
    """Who ended reliably ahead of and behind the expected score, beside what chance brings; says: whether students may be named. marked:
    of those behind and ahead, attempts with a mark; without: what is left without them, in a sentence, empty where none has a mark."""

    n: int
    ahead: int
    behind: int
    expected: float
    upper95: int
    ahead_says: str
    behind_says: str
    marked: int
    without: str


@dataclass(frozen=True)
class MissingReason:
    reason: str
    n: int


@dataclass(frozen=True, kw_only=True)
class LevelMove:
    """Students of a start level by where they ended, in the order of the levels."""

    level: str
    n: int
    ended: list[int]


@dataclass(frozen=True, kw_only=True)
class LevelMoves:
    """Movement between ordered levels. up_ci95: of the share who rose. by_class: classes with who rose, stayed and fell."""

    levels: list[str]
    rows: list[LevelMove]
    up: int
    same: int
    down: int
    up_ci95: list[float] | None
    p: float | None
    by_class: list[ClassMoves]


@dataclass(frozen=True, kw_only=True)
class ClassMoves:
    id: Id
    name: str
    grade: str
    n: int
    up: int
    same: int
    down: int
    hidden: bool


@dataclass(frozen=True, kw_only=True)
class PairPage:
    """start, end: the occasions. norms: the figures rest on; None: students are held against each other. falling: less is better, and gain
    is what was won. klass: title of the class that is looked at, empty for more. levels: names of ordered levels, which have no gain; moves: between them. attribute: id of the one by which groups are
    made; attributes: those there are. regression: what is due to a low or high start of a school or group, in sentences. behind, ahead:
    students who may be named. students: none where there are more than 4,000. elsewhere: students who were in no class here for long
    enough. workings: how it was calculated, a sentence each."""

    finding: str
    measure: MeasureHead
    start: OccasionLine
    end: OccasionLine
    windows: list[OccasionLine]
    norms: NormSetLine | None
    school: str
    grade: str
    klass: str
    schools: list[LevelChoice]
    grades: list[str]
    n: int
    mean_gain: float | None
    gain_ci95: list[float] | None
    met: float | None
    blocks: list[GradeBlock]
    by_school: list[GrowthGroup]
    attribute: str
    attributes: list[LevelChoice]
    groups: list[GrowthGroup]
    regression: list[str]
    moves: LevelMoves | None
    students: list[GrowthStudent]
    chance: ChanceView | None
    behind: list[GrowthStudent]
    ahead: list[GrowthStudent]
    missing: int
    of: int
    reasons: list[MissingReason]
    elsewhere: int
    workings: list[str]
