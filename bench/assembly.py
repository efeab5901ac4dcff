"""How fast parallel forms are found: `.venv/bin/python bench/assembly.py [ITEMS] [FORMS]`."""

from __future__ import annotations

import random
import sys
import time

from bildung.core.assembly.assemble import assemble
from bildung.core.assembly.blueprint import Candidate, Row, TestBlueprint
from bildung.core.assembly.program import Demands


def bank(size: int, seed: int = 1) -> list[Candidate]:
    """Twenty standards at three depths, one item in ten with a stimulus in sets of six, one in a hundred with an enemy."""
    rng = random.Random(seed)
    found = []
    for at in range(size):
        p = min(0.97, max(0.08, rng.gauss(0.6, 0.18)))
        sd = (p * (1 - p)) ** 0.5
        standard = f"S{at % 20:02}"
        if rng.random() < 0.10:
            stimulus, standard = f"P{at // 120}-{at % 2}", f"S{(at // 120) % 4:02}"
        else:
            stimulus = ""
        enemies = frozenset({at + 1 if at % 2 == 0 else at - 1}) if (at // 2) % 50 == 0 else frozenset()
        found.append(
            Candidate(
                id=at,
                code=f"I{at}",
                standards=(standard,),
                points=1.0,
                kind=rng.choice(("choice", "choice", "number", "order")),
                depth=rng.choice((1, 2, 2, 3)),
                topic="",
                unit="",
                seconds=rng.choice((45, 60, 90, 120)),
                stimulus=stimulus,
                p=p,
                p_error=0.04,
                sd=sd,
                loading=sd * rng.uniform(0.2, 0.6),
                r_rest=0.3,
                n=120,
                used=0,
                window=False,
                problem=False,
                enemies=enemies,
            )
        )
    return found


def blueprint() -> TestBlueprint:
    rows = tuple(Row(low=1, high=4, standard=f"S{at:02}") for at in range(20))
    depths = (Row(low=10, high=14, depth=1), Row(low=16, high=22, depth=2), Row(low=6, high=12, depth=3))
    kinds = (Row(low=15, high=25, kind="choice"), Row(low=6, high=14, kind="number"))
    return TestBlueprint(
        rows=rows + depths + kinds, items=(40, 40), minutes=(40, 60), sets=(2, 3), set_low=3, set_high=5
    )


def main() -> None:
    size, forms = int(sys.argv[1]) if len(sys.argv) > 1 else 2000, int(sys.argv[2]) if len(sys.argv) > 2 else 4
    items, demands = bank(size), Demands(forms=forms, anchor=8)
    began = time.perf_counter()

    def tell(what: str, best: float, bound: float) -> None:
        print(f"  {time.perf_counter() - began:5.1f} s {what}: {best:.3f}, not below {bound:.3f}")

    found = assemble(blueprint(), items, demands, 60, tell)
    took = time.perf_counter() - began
    if found.collision:
        print("collides:", [d.says for d in found.collision.demands], found.collision.gives_up)
    means = [f"{form.predicted.mean:.2f}" for form in found.forms]
    print(f"{size} items, {forms} forms: {took:.1f} s, deviation {found.deviation:.3f}, not below {found.bound:.3f}")
    print(
        f"  means {', '.join(means)}; common {len(found.common)}; alpha {[round(f.predicted.alpha or 0, 3) for f in found.forms]}"
    )


if __name__ == "__main__":
    main()
