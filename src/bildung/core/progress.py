"""How long work tells how far it is."""

from __future__ import annotations

from collections.abc import Callable

Tell = Callable[[str, int, int], None]
"""Told what is being done, how much of it is done, and of how much. May raise, which ends the work."""
