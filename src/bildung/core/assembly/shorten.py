"""A shortened form: fewer items of each standard, at least one of each, as hard as the form it is taken from."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from bildung.core.assembly.blueprint import Candidate, Row, TestBlueprint, TestPart
from bildung.core.assembly.predict import predict
from bildung.core.errors import Refused


def shortened_plan(placed: Sequence[tuple[Candidate, int]], parts: Sequence[TestPart], share: float) -> TestBlueprint:
    """What a shortened form holds, to be assembled from the form's own items.

    The target is the share of the points expected of the whole form;

    Parameters
    ----------
    placed : Sequence[tuple[Candidate, int]]
        Its items with their parts.
    parts : Sequence[TestPart]
        Its parts.
    share : float
        Of the items of each standard that stay, rounded to the nearest, never below one. None where an item has no
        history.

    Returns
    -------
    TestBlueprint

    Raises
    ------
    Refused
        Where nothing would be shorter.
    """
    counts = Counter((item.standard, part) for item, part in placed)
    kept = {key: max(1, int(n * share + 0.5)) for key, n in counts.items()}
    total = sum(kept.values())
    if total >= len(placed):
        raise Refused(
            f"{len(counts)} standards with {len(placed)} items: at least one of each leaves nothing to take away"
        )
    expected = predict([item for item, _ in placed])
    return TestBlueprint(
        rows=tuple(Row(low=n, high=n, standard=standard, part=part) for (standard, part), n in sorted(kept.items())),
        parts=tuple(parts),
        items=(total, total),
        points=None,
        minutes=None,
        target=None if expected.unknown else expected.share,
    )
