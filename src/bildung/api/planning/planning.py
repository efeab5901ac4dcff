"""Plans of windows, and what a school plans with."""

from __future__ import annotations

from dataclasses import fields
from datetime import date
from typing import Annotated

from fastapi import APIRouter, Depends, Response, UploadFile

from bildung.api.planning import shapes
from bildung.api.shared.guard import Anybody, Ctx, StaffGuard, number, number_or_none
from bildung.api.shared.late import LateRoute
from bildung.api.shared.shapes import JobOut
from bildung.api.shared.uploads import contents
from bildung.reports.testingday import Sheet
from bildung.services.planning import (
    asked,
    bells,
    board,
    byhand,
    choosing,
    closings,
    exporting,
    feed,
    fromsheet,
    hold,
    known,
    publishing,
    resources,
    testingday,
    timetable,
    versions,
    ways,
)
from bildung.services.planning.document import PlanWishes
from bildung.services.shared import jobs
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.staging import Preview

router = APIRouter(prefix="/api/planning", tags=["planning"], route_class=LateRoute)
Staff = Annotated[Actor, Depends(StaffGuard(None))]
Reader = Annotated[Actor, Depends(StaffGuard(Action.WINDOWS_READ))]
Planner = Annotated[Actor, Depends(StaffGuard(Action.WINDOWS_PLAN))]


@router.get("/resources", operation_id="resources")
def get_resources(ctx: Ctx, actor: Reader, school: str | None = None) -> resources.ResourcesPage:
    return resources.resources_page(ctx, actor, number_or_none(school))


@router.put("/schools/{school}/rooms", operation_id="saveRooms")
def save_rooms(ctx: Ctx, actor: Planner, school: str, body: shapes.RoomsIn) -> resources.ResourcesPage:
    resources.save_rooms(
        ctx,
        actor,
        number(school),
        [resources.RoomLine(**(r.model_dump() | {"id": number_or_none(r.id)})) for r in body.rooms],
        [resources.CartLine(**(c.model_dump() | {"id": number_or_none(c.id)})) for c in body.carts],
    )
    known.forget(ctx)
    return resources.resources_page(ctx, actor, number(school))


@router.put("/schools/{school}/bells", operation_id="saveBells")
def save_bells(ctx: Ctx, actor: Planner, school: str, body: shapes.BellsIn) -> resources.ResourcesPage:
    wish = bells.Bells(
        types=[
            bells.DayTypeLine(
                id=number_or_none(t.id), name=t.name, blocks=[bells.BlockLine(**b.model_dump()) for b in t.blocks]
            )
            for t in body.types
        ],
        cycle=body.cycle,
        pattern=body.pattern,
        first=body.first,
        shifts=body.shifts,
        changes=[bells.DayChangeLine(**c.model_dump()) for c in body.changes],
    )
    bells.save_bells(ctx, actor, number(school), wish)
    known.forget(ctx)
    return resources.resources_page(ctx, actor, number(school))


@router.get("/timetable", operation_id="timetable")
def get_timetable(ctx: Ctx, actor: Reader, school: str | None = None) -> timetable.Timetable:
    return timetable.timetable_page(ctx, actor, number_or_none(school))


@router.put("/schools/{school}/timetable", operation_id="saveTimetable")
def save_timetable(ctx: Ctx, actor: Planner, school: str, body: shapes.TimetableIn) -> timetable.Timetable:
    times = {number(line.klass): [number(id) for id in line.meets] for line in body.lines}
    timetable.save_times(ctx, actor, number(school), times)
    known.forget(ctx)
    return timetable.timetable_page(ctx, actor, number(school))


@router.post("/schools/{school}/imports", operation_id="previewResources")
def preview_resources(ctx: Ctx, actor: Planner, school: str, files: list[UploadFile]) -> Preview:
    return fromsheet.preview(ctx, actor, number(school), contents(files))


@router.post("/schools/{school}/imports/{import_id}/apply", operation_id="applyResources")
def apply_resources(ctx: Ctx, actor: Planner, school: str, import_id: str) -> Preview:
    done = fromsheet.apply(ctx, actor, number(school), import_id)
    known.forget(ctx)
    return done


@router.put("/staff/{person}", operation_id="saveStaffHours")
def save_staff(ctx: Ctx, actor: Planner, person: str, body: shapes.StaffHoursIn) -> None:
    hours = [resources.Available(**h.model_dump()) for h in body.hours]
    resources.save_staff(
        ctx, actor, number(person), hours, body.provides, body.language, [number(id) for id in body.serves]
    )
    known.forget(ctx)


@router.get("/windows/{window}/board", operation_id="planBoard")
def get_board(ctx: Ctx, actor: Reader, window: str, school: str | None = None) -> board.BoardPage:
    return board.board_page(ctx, actor, number(window), number_or_none(school))


@router.post("/windows/{window}/schools/{school}/plan", operation_id="makePlan")
def make_plan(ctx: Ctx, actor: Planner, window: str, school: str, body: shapes.PlanIn) -> board.BoardPage:
    with jobs.working(ctx, actor, body.job) as job:
        plan = asked.make(ctx, actor, number(school), number(window), _wishes(body.wishes), job, body.again)
    return board.page_of_plan(ctx, actor, plan)


def _wishes(body: shapes.WishesIn) -> PlanWishes:
    values = body.model_dump() | {"tests": [number(id) for id in body.tests]}
    return PlanWishes(**{f.name: values[f.name] for f in fields(PlanWishes)})


@router.post("/windows/{window}/schools/{school}/choosing", operation_id="openChoosing")
def open_choosing(ctx: Ctx, actor: Planner, window: str, school: str, body: shapes.ChoosingIn) -> board.BoardPage:
    """Teachers choose blocks for their own classes."""
    plan = choosing.open_choosing(ctx, actor, number(school), number(window), _wishes(body.wishes), body.until)
    return board.page_of_plan(ctx, actor, plan)


@router.delete("/plans/{plan}/choosing", operation_id="closeChoosing")
def close_choosing(ctx: Ctx, actor: Planner, plan: str) -> board.BoardPage:
    choosing.close_choosing(ctx, actor, number(plan))
    return board.page_of_plan(ctx, actor, number(plan))


@router.post("/plans/{plan}/remind", operation_id="remindTeachers")
def remind(ctx: Ctx, actor: Planner, plan: str) -> board.BoardPage:
    choosing.remind(ctx, actor, number(plan))
    return board.page_of_plan(ctx, actor, number(plan))


@router.get("/choices", operation_id="blockChoices")
def get_choices(ctx: Ctx, actor: Staff) -> choosing.BlockChoicesPage:
    return choosing.choices_page(ctx, actor)


@router.put("/plans/{plan}/choices", operation_id="chooseBlock")
def choose(ctx: Ctx, actor: Staff, plan: str, body: shapes.ChoiceIn) -> choosing.BlockChoicesPage:
    choosing.choose(ctx, actor, number(plan), body.key, body.slot)
    return choosing.choices_page(ctx, actor)


@router.get("/plans/{plan}/ways", operation_id="waysOut")
def get_ways(ctx: Ctx, actor: Planner, plan: str) -> list[ways.WayOutLine]:
    return ways.ways(ctx, actor, number(plan))


@router.post("/plans/{plan}/ways", operation_id="takeWayOut")
def take_way(ctx: Ctx, actor: Planner, plan: str, body: shapes.WayIn) -> board.BoardPage:
    with jobs.working(ctx, actor, body.job) as job:
        ways.take_way_out(ctx, actor, number(plan), body.way, job)
    return board.page_of_plan(ctx, actor, number(plan))


@router.post("/plans/{plan}/moves", operation_id="moveByHand")
def move(ctx: Ctx, actor: Planner, plan: str, body: shapes.MoveIn) -> board.BoardPage:
    values = body.model_dump(exclude={"revision"})
    values |= {"proctor": number(body.proctor), "students": [number(id) for id in body.students]}
    byhand.move(ctx, actor, number(plan), body.revision, byhand.HandMove(**values))
    return board.page_of_plan(ctx, actor, number(plan))


@router.post("/plans/{plan}/undo", operation_id="undoMove")
def undo(ctx: Ctx, actor: Planner, plan: str, body: shapes.StepIn) -> board.BoardPage:
    byhand.undo(ctx, actor, number(plan), body.revision, body.redo)
    return board.page_of_plan(ctx, actor, number(plan))


@router.post("/plans/{plan}/blocked", operation_id="blockTime")
def block_time(ctx: Ctx, actor: Planner, plan: str, body: shapes.BlockedIn) -> board.BoardPage:
    byhand.block(ctx, actor, number(plan), body.revision, body.slot, body.on)
    return board.page_of_plan(ctx, actor, number(plan))


@router.post("/plans/{plan}/closings", operation_id="closeRoom")
def close_room(ctx: Ctx, actor: Planner, plan: str, body: shapes.ClosingIn) -> board.BoardPage:
    """A room is lost for some days: close it and plan again, moving as little as possible."""
    with jobs.working(ctx, actor, body.job) as job:
        closings.close(ctx, actor, number(plan), body.revision, body.room, body.first, body.last, job)
    return board.page_of_plan(ctx, actor, number(plan))


@router.delete("/plans/{plan}/closings/{closing}", operation_id="reopenRoom")
def reopen_room(ctx: Ctx, actor: Planner, plan: str, closing: str) -> board.BoardPage:
    closings.reopen(ctx, actor, number(plan), number(closing))
    return board.page_of_plan(ctx, actor, number(plan))


@router.get("/plans/{plan}/versions", operation_id="planVersions")
def get_versions(ctx: Ctx, actor: Reader, plan: str) -> list[versions.KeptPlan]:
    return versions.list_versions(ctx, actor, number(plan))


@router.post("/plans/{plan}/versions", operation_id="keepPlan")
def keep_plan(ctx: Ctx, actor: Planner, plan: str, body: shapes.VersionIn) -> list[versions.KeptPlan]:
    versions.keep(ctx, actor, number(plan), body.name)
    return versions.list_versions(ctx, actor, number(plan))


@router.get("/plans/{plan}/versions/{version}", operation_id="comparePlans")
def compare_versions(ctx: Ctx, actor: Reader, plan: str, version: str) -> versions.PlanComparison:
    return versions.compare(ctx, actor, number(plan), number(version))


@router.delete("/plans/{plan}/versions/{version}", operation_id="dropPlan")
def drop_version(ctx: Ctx, actor: Planner, plan: str, version: str) -> list[versions.KeptPlan]:
    versions.remove(ctx, actor, number(plan), number(version))
    return versions.list_versions(ctx, actor, number(plan))


@router.post("/plans/{plan}/versions/{version}/restore", operation_id="restorePlan")
def restore_version(ctx: Ctx, actor: Planner, plan: str, version: str, body: shapes.PublishIn) -> board.BoardPage:
    versions.restore(ctx, actor, number(plan), number(version), body.revision)
    return board.page_of_plan(ctx, actor, number(plan))


@router.post("/plans/{plan}/publish", operation_id="publishPlan")
def publish(ctx: Ctx, actor: Planner, plan: str, body: shapes.PublishIn) -> board.BoardPage:
    publishing.publish(ctx, actor, number(plan), body.revision)
    return board.page_of_plan(ctx, actor, number(plan))


@router.get(
    "/plans/{plan}/plan.csv",
    operation_id="exportPlan",
    response_class=Response,
    responses={200: {"content": {"text/csv": {}}}},
)
def export(ctx: Ctx, actor: Reader, plan: str) -> Response:
    return Response(
        exporting.export_plan(ctx, actor, number(plan)),
        media_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": 'attachment; filename="plan.csv"'},
    )


@router.post("/schools/{school}/release", operation_id="releasePlan", status_code=204)
def release(ctx: Ctx, actor: Planner, school: str) -> None:
    hold.release(ctx, actor, number(school))


@router.get("/jobs/{job}", operation_id="lookAtPlan")
def look(ctx: Ctx, actor: Planner, job: str) -> JobOut:
    return JobOut.model_validate(jobs.look_or_wait(ctx, actor, job))


@router.delete("/jobs/{job}", operation_id="stopPlan", status_code=204)
def stop(ctx: Ctx, actor: Planner, job: str) -> None:
    jobs.look(ctx, actor, job).stop()


@router.get("/day", operation_id="testingDay")
def get_day(ctx: Ctx, actor: Reader, school: str | None = None, day: date | None = None) -> testingday.TestingDay:
    return testingday.testing_day(ctx, actor, number_or_none(school), day)


@router.get(
    "/schools/{school}/days/{day}/{sheet}.pdf",
    operation_id="printTestingDay",
    response_class=Response,
    responses={200: {"content": {"application/pdf": {}}}},
)
def print_day(ctx: Ctx, actor: Reader, school: str, day: date, sheet: Sheet) -> Response:
    document = testingday.print_day(ctx, actor, number(school), day, sheet)
    headers = {"Content-Disposition": f'inline; filename="{sheet}-{day}.pdf"'}
    return Response(document, media_type="application/pdf", headers=headers)


@router.get("/feed", operation_id="calendarFeed")
def get_feed(ctx: Ctx, actor: Staff) -> feed.FeedState:
    return feed.state(ctx, actor)


@router.post("/feed", operation_id="makeCalendarFeed", status_code=201)
def make_feed(ctx: Ctx, actor: Staff) -> shapes.FeedOut:
    return shapes.FeedOut(path=f"/api/planning/feeds/{feed.make(ctx, actor)}.ics")


@router.delete("/feed", operation_id="revokeCalendarFeed", status_code=204)
def revoke_feed(ctx: Ctx, actor: Staff) -> None:
    feed.revoke(ctx, actor)


@router.get(
    "/feeds/{token}.ics",
    operation_id="readCalendarFeed",
    response_class=Response,
    responses={200: {"content": {"text/calendar": {}}}},
    dependencies=[Depends(Anybody())],
)
def read_feed(ctx: Ctx, token: str) -> Response:
    return Response(feed.read(ctx, token), media_type="text/calendar; charset=utf-8")
