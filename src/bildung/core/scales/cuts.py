"""Cut scores by grade and season: which hold for a student at a time, and whether a table of them makes sense."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from bildung.core.errors import Refused
from bildung.core.scales.levels import Levels


@dataclass(frozen=True)
class CutRow:
    """Cut scores of a grade in a season.

    Attributes
    ----------
    grade : str
        Empty for every grade.
    season : str
        Such as Fall, empty for every season.
    cuts : tuple[float, ...]
        From the lowest level's upper end on; rising, or falling where less is better.
    """

    grade: str
    season: str
    cuts: tuple[float, ...]


@dataclass(frozen=True)
class CutTable:
    """Performance levels of a measure.

    Attributes
    ----------
    names : tuple[str, ...]
        Lowest first.
    rows : tuple[CutRow, ...]
        Each grade and season once.
    goal : int
        Place of the level, from 1, that students are to reach.
    """

    names: tuple[str, ...]
    rows: tuple[CutRow, ...]
    goal: int

    def levels(self, grade: str, season: str) -> Levels | None:
        """What holds for a grade in a season; None where nothing does.

        A row of the grade and season goes before one of the grade, that before one of the season, that before one for all.

        Parameters
        ----------
        grade : str
            Of the student at that time.
        season : str
            Of the occasion.

        Returns
        -------
        Levels | None
        """
        by_place = {(row.grade, row.season): row.cuts for row in self.rows}
        for place in ((grade, season), (grade, ""), ("", season), ("", "")):
            if place in by_place:
                return Levels(self.names, by_place[place])
        return None

    def cut(self, grade: str, season: str) -> float | None:
        """The score from which on the goal is reached; None where no cut scores hold.

        Parameters
        ----------
        grade : str
            Of the student at that time.
        season : str
            Of the occasion.

        Returns
        -------
        float | None
        """
        found = self.levels(grade, season)
        return None if found is None else found.cuts[self.goal - 2]

    def turned(self) -> CutTable:
        """For scores with the sign turned, where less was better.

        Returns
        -------
        CutTable
        """
        rows = tuple(CutRow(r.grade, r.season, tuple(-cut for cut in r.cuts)) for r in self.rows)
        return CutTable(self.names, rows, self.goal)


def cut_table(
    names: Sequence[str], rows: Sequence[CutRow], goal: int, low: float, high: float, falling: bool = False
) -> CutTable:
    """A table that was checked.

    Parameters
    ----------
    names : Sequence[str]
        Of the levels, lowest first, at least two.
    rows : Sequence[CutRow]
        With one cut less than there are levels.
    goal : int
        Place of the level to reach, from 2.
    low : float
        Least score of the scale.
    high : float
        Most.
    falling : bool
        Whether less is better, so that cuts fall.

    Returns
    -------
    CutTable

    Raises
    ------
    Refused
        Naming the grade and season that is wrong, and what is allowed.
    """
    if len(names) < 2 or len({n.lower() for n in names}) != len(names) or not all(names):
        raise Refused("there are at least two levels, each with a name of its own")
    if not 2 <= goal <= len(names):
        raise Refused(f"the level to reach is one from the second to the last, {names[-1]}")
    if not rows:
        raise Refused("there are cut scores for at least one grade")
    seen: set[tuple[str, str]] = set()
    for row in rows:
        where = " ".join(part for part in (f"grade {row.grade}" if row.grade else "every grade", row.season) if part)
        if (row.grade, row.season) in seen:
            raise Refused(f"{where} stands twice; once is enough")
        seen.add((row.grade, row.season))
        if len(row.cuts) != len(names) - 1:
            raise Refused(f"{where} has {len(row.cuts)} cut scores; {len(names)} levels need {len(names) - 1}")
        if any(not low <= cut <= high for cut in row.cuts):
            raise Refused(f"{where}: a cut score is on the scale from {low:g} to {high:g}")
        turned = [-cut for cut in row.cuts] if falling else list(row.cuts)
        if turned != sorted(set(turned)):
            raise Refused(f"{where}: each cut score lies {'below' if falling else 'above'} the one before")
    return CutTable(tuple(names), tuple(rows), goal)
