"""Why students have no score on one of two occasions, as far as it is known here."""

from __future__ import annotations

from collections import Counter

from bildung.services.growth.cohort import moved_otherwise
from bildung.services.growth.pairview import MissingReason
from bildung.services.growth.seen import Seen


def reasons(seen: Seen) -> list[MissingReason]:
    """Of those who are looked at, most frequent first; then who is counted although their grade moved otherwise than most."""
    pair = seen.pair
    other = {int(pair.start.id): pair.end.name, int(pair.end.id): pair.start.name}
    found: Counter[str] = Counter()
    for person, (occasion, why) in seen.alone.items():
        if why:
            found[why] += 1
        elif not seen.people[person].active:
            found["left the district"] += 1
        elif person in seen.why:
            found[f"{seen.why[person]} in {other[occasion]}"] += 1
        elif seen.where[person].part:
            found["changed class or school between the windows"] += 1
        else:
            found[f"no score in {other[occasion]}"] += 1
    lines = [MissingReason(reason, n) for reason, n in found.most_common()]
    moved = moved_otherwise(pair)
    if moved and len(seen.rows) == len(pair.people):
        lines.append(MissingReason("counted by both grades: repeated or skipped a grade", moved))
    return lines
