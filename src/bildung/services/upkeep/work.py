"""The work that the server does by itself, in its order."""

from __future__ import annotations

from bildung.services.answers import itemhistory
from bildung.services.people import membership
from bildung.services.planning import asked
from bildung.services.quality import lines, reports
from bildung.services.rosters import fromsystem
from bildung.services.sessions import running
from bildung.services.shared.context import Context
from bildung.services.sitting import taking
from bildung.services.upkeep import backups, retention
from bildung.services.upkeep.rounds import Upkeep


def begin(ctx: Context) -> None:
    """What was cut off when the server stopped is begun again."""
    reports.resume(ctx)
    asked.resume(ctx)
    ctx.bus.on(reports.WANTED, lambda: reports.resume(ctx))


def rounds() -> Upkeep:
    """Sessions past their end close, a backup is made and the records system asked at night, and once a day what is kept
    too long goes."""
    return Upkeep(
        every=[
            running.close_overdue,
            taking.hand_in_overdue,
            judge_what_closed,
            lines.keep_asked,
            fromsystem.nightly,
            backups.nightly_backup,
        ],
        daily=[membership.new_day, retention.sweep],
    )


def judge_what_closed(ctx: Context) -> None:
    """The history of items, and the line of each test, before anybody asks for them."""
    if itemhistory.refresh(ctx):
        lines.keep_current(ctx)
