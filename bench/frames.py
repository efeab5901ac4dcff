"""The work of `./bildung analyse` as a straightforward data-frame script, to compare with: speed and figures.

python bench/frames.py RESPONSES.csv KEY.csv OUT.json
"""

import json
import sys

import numpy as np
import pandas as pd

responses, key_file, out = sys.argv[1:4]
frame = pd.read_csv(responses, dtype=str, keep_default_na=False).set_index("student")
key = pd.read_csv(key_file, dtype=str).set_index("item")
items = list(key.index)
answers = frame[items]

blank = answers == ""
tail = blank.iloc[:, ::-1].cummin(axis=1).iloc[:, ::-1].astype(bool)
not_reached = tail & tail.shift(1, axis=1, fill_value=False)
points = (answers == key["key"].to_numpy()).astype(float)
total = points.sum(axis=1)
n, k = points.shape
variances, total_variance = points.var(), total.var()
alpha = k / (k - 1) * (1 - variances.sum() / total_variance)


def in_part(ranked, low, high):
    """Weight of each student in a slice of the ranking, ties in part."""
    counts = ranked.value_counts().sort_index()
    top = counts.cumsum()
    bottom = top - counts
    size = len(ranked)
    share = (np.minimum(top, high * size) - np.maximum(bottom, low * size)).clip(lower=0) / counts
    return ranked.map(share)


result = {
    "test": {
        "n": n,
        "mean": total.mean(),
        "sd": total.std(),
        "alpha": alpha,
        "skewness": total.skew(),
        "kurtosis": total.kurt(),
    },
    "items": [],
}
for item in items:
    reached = ~not_reached[item]
    x, t, a = points.loc[reached, item], total[reached], answers.loc[reached, item]
    rest = t - x
    upper, lower = in_part(t, 0.73, 1.0), in_part(t, 0.0, 0.27)
    size = 0.27 * len(t)
    fifths = [in_part(t, f / 5, (f + 1) / 5) for f in range(5)]
    sizes = [w.sum() for w in fifths]
    options = []
    for option in [*key.loc[item, "options"], ""]:
        chose = (a == option).astype(float)
        options.append(
            {
                "option": option,
                "n": int(chose.sum()),
                "share": chose.mean(),
                "mean_total": t[chose == 1].mean(),
                "r_rest": chose.corr(rest),
                "fifths": [(chose * w).sum() / s for w, s in zip(fifths, sizes, strict=True)],
            }
        )
    v = variances[item]
    left = total_variance - 2 * points[item].cov(total) + v
    result["items"].append(
        {
            "item": item,
            "n": int(reached.sum()),
            "n_not_reached": int(not_reached[item].sum()),
            "p": x.mean(),
            "r_rest": x.corr(rest),
            "r_total": x.corr(t),
            "d27": ((x * upper).sum() - (x * lower).sum()) / size,
            "alpha_without": (k - 1) / (k - 2) * (1 - (variances.sum() - v) / left),
            "options": options,
        }
    )
ranks = 100 * (total.rank(method="average") - 0.5) / n
result["students"] = [
    {"student": s, "earned": e, "percentile_rank": r} for s, e, r in zip(total.index, total, ranks, strict=True)
]
with open(out, "w") as f:
    json.dump(result, f)
