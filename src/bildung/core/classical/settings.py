"""The numbers that flags and views rest on; every one can be set."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, kw_only=True)
class Settings:
    """Limits of methods.md, section 2. Shares are 0..1."""

    watch_line: float = 0.60
    very_hard: float = 0.25
    very_easy: float = 0.95
    wrong_key_r: float = 0.15
    wrong_key_gap: float = 0.25
    second_answer_share: float = 0.15
    weak_r: float = 0.20
    idle_share: float = 0.05
    omitted_share: float = 0.05
    not_reached_share: float = 0.10
    alpha_gain: float = 0.005
    least_option: int = 5
    least_description: int = 5
    least_relation: int = 25
    small_sample: int = 50
    distinct_answers: int = 10


DEFAULTS = Settings()
