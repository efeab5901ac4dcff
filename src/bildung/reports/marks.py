"""Drawings for paper: an item's answers as a ribbon, a share with its interval, students by points, option curves. They
draw what they are given and compute nothing but places."""

from __future__ import annotations

import html
from collections.abc import Sequence

HUES = ("#14505c", "#8a5a1c", "#7b3f63", "#4a6a2f", "#5b5b8c")
RELIEF = ("#22344a", "#456a80", "#86a5a6", "#cfcba8", "#f0dfaf")
INK, SECOND, HAIR = "#16242a", "#51636a", "#d5dbd8"


def relief(share: float | None) -> str:
    """Tint of a share, the same height everywhere."""
    if share is None:
        return RELIEF[2]
    return RELIEF[0 if share < 0.25 else 1 if share < 0.5 else 2 if share < 0.7 else 3 if share < 0.85 else 4]


def ribbon(answers: Sequence[tuple[str, int, bool]], not_reached: int, width: float = 180) -> str:
    """answers: option, students, whether it is a key; "" is omitted."""
    total = sum(n for _, n, _ in answers) + not_reached
    if not total:
        return ""
    x, parts = 0.0, []
    for at, (option, n, key) in enumerate(answers):
        w = n / total * width
        if w <= 0:
            continue
        fill = "#fff" if option == "" else HUES[at % len(HUES)]
        edge = f' stroke="{SECOND}" stroke-width=".5"' if option == "" else ""
        parts.append(f'<rect x="{x:.1f}" y="1" width="{max(0.5, w - 0.8):.1f}" height="9" fill="{fill}"{edge}/>')
        if key:
            parts.append(f'<rect x="{x:.1f}" y="11" width="{max(0.5, w - 0.8):.1f}" height="2" fill="{INK}"/>')
        if option and len(option) * 5 < w - 4:
            parts.append(
                f'<text x="{x + w / 2:.1f}" y="8.3" font-size="7" font-family="Next" font-weight="650" fill="#fff" text-anchor="middle">{html.escape(option)}</text>'
            )
        x += w
    if not_reached:
        parts.append(
            f'<rect x="{x:.1f}" y="1" width="{width - x:.1f}" height="9" fill="#fff" stroke="{SECOND}" stroke-width=".5" stroke-dasharray="1.5 1.5"/>'
        )
    return _svg(width, 14, parts)


def interval(p: float | None, ci: Sequence[float] | None, line: float | None, width: float = 90) -> str:
    def x(share: float) -> float:
        return 4 + share * (width - 8)

    parts = [f'<path d="M0 6H{width}" stroke="{HAIR}"/>']
    if line is not None:
        parts.append(f'<path d="M{x(line):.1f} 1V11" stroke="{SECOND}" stroke-dasharray="2 2" stroke-width=".7"/>')
    if p is not None:
        if ci:
            parts.append(f'<path d="M{x(ci[0]):.1f} 6H{x(ci[1]):.1f}" stroke="{RELIEF[0]}" stroke-width="1.2"/>')
        parts.append(
            f'<circle cx="{x(p):.1f}" cy="6" r="3" fill="{relief(p)}" stroke="{RELIEF[0]}" stroke-width=".8"/>'
        )
    return _svg(width, 12, parts)


def histogram(bars: Sequence[tuple[float, int]], most: float, width: float = 330, height: float = 84) -> str:
    """bars: score and students; most: points that can be earned."""
    if not bars or most <= 0:
        return ""
    crowd = max(n for _, n in bars)
    ground, step = height - 14, (width - 20) / (most + 1)
    parts = []
    for score, n in bars:
        tall = n / crowd * (ground - 6)
        x = 10 + score / most * (width - 20 - step)
        parts.append(
            f'<rect x="{x:.1f}" y="{ground - tall:.1f}" width="{max(1, step - 0.8):.1f}" height="{tall:.1f}" fill="{relief(score / most)}" stroke="{RELIEF[2]}" stroke-width=".3"/>'
        )
    parts.append(f'<path d="M6 {ground}H{width - 6}" stroke="{SECOND}" stroke-width=".8"/>')
    for score, at in ((0, 10 + step / 2), (most, width - 10 - step / 2)):
        parts.append(
            f'<text x="{at:.1f}" y="{height - 3}" font-size="8" font-family="Next" fill="{SECOND}" text-anchor="middle">{score:g}</text>'
        )
    return _svg(width, height, parts)


def curves(
    x: Sequence[float], lines: Sequence[tuple[str, Sequence[float], int, bool]], width: float = 230, height: float = 110
) -> str:
    """lines: answer, its share at each x, its place among the options, whether it is a key."""
    if len(x) < 2:
        return ""
    left, ground = 22.0, height - 18

    def place(v: float, share: float) -> str:
        return f"{left + (v + 2) / 4 * (width - left - 22):.1f} {ground - share * (ground - 8):.1f}"

    parts = [
        f'<path d="M{left} {ground - t * (ground - 8):.1f}H{width - 18}" stroke="{HAIR if t else SECOND}" stroke-width=".7"/><text x="{left - 4}" y="{ground - t * (ground - 8) + 3:.1f}" font-size="7.5" font-family="Next" fill="{SECOND}" text-anchor="end">{t * 100:.0f}</text>'
        for t in (0, 0.5, 1)
    ]
    ends: list[tuple[float, str, str]] = []
    for answer, share, at, key in lines:
        color = SECOND if answer == "" else HUES[at % len(HUES)]
        path = "L".join(place(v, s) for v, s in zip(x, share, strict=True))
        dash = ' stroke-dasharray="2 3"' if answer == "" else ""
        parts.append(f'<path d="M{path}" fill="none" stroke="{color}" stroke-width="{2 if key else 1.2}"{dash}/>')
        if answer:
            ends.append((ground - share[-1] * (ground - 8) + 3, answer[:4], color))
    places: list[float] = []
    for y, _, _ in sorted(ends):  # letters that would stand on each other are pushed apart
        places.append(max(y, places[-1] + 8) if places else y)
    edge = left + (x[-1] + 2) / 4 * (width - left - 22) + 4
    parts += [
        f'<text x="{edge:.1f}" y="{y:.1f}" font-size="8.5" font-family="Next" font-weight="650" fill="{color}">{html.escape(word)}</text>'
        for y, (_, word, color) in zip(places, sorted(ends), strict=True)
    ]
    parts.append(
        f'<text x="{left}" y="{height - 4}" font-size="7.5" font-family="Next" fill="{SECOND}">weakest</text><text x="{width - 18}" y="{height - 4}" font-size="7.5" font-family="Next" fill="{SECOND}" text-anchor="end">strongest</text>'
    )
    return _svg(width, height, parts)


def _svg(width: float, height: float, parts: Sequence[str]) -> str:
    return f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}" height="{height}" viewBox="0 0 {width} {height}">{"".join(parts)}</svg>'
