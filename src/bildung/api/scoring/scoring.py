"""Scoring: what waits, responses one after the other, who scores what, safety alerts."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Depends, Response, UploadFile

from bildung.api.scoring.shapes import (
    AlertClosedIn,
    AlertPersonsIn,
    AlertSent,
    EarlierIn,
    GroupScoreIn,
    PhraseIn,
    ScoreIn,
    ScoringPlanIn,
    TypedIn,
    WindowIn,
)
from bildung.api.shared.files import as_file
from bildung.api.shared.guard import Ctx, StaffGuard, number, number_or_none
from bildung.api.shared.late import LateRoute
from bildung.api.shared.uploads import contents
from bildung.services.scoring import (
    alerts,
    answersfile,
    desk,
    earlier,
    groups,
    paperentry,
    phrases,
    scorers,
    scoresfile,
    waiting,
)
from bildung.services.scoring.alerts import AlertSchool, AlertsPage
from bildung.services.scoring.desk import Desk, DeskNext, ScoreWish
from bildung.services.scoring.earlier import EarlierPage
from bildung.services.scoring.groups import GroupScored, GroupsPage
from bildung.services.scoring.paperentry import Entered, EntryPage, EntrySheet
from bildung.services.scoring.phrases import PhraseLine
from bildung.services.scoring.scorers import AgreementPage, ScorerChoice
from bildung.services.scoring.waiting import TaskWish, WaitingPage
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.staging import Preview

router = APIRouter(prefix="/api/scoring", tags=["scoring"], route_class=LateRoute)
Scorer = Annotated[Actor, Depends(StaffGuard(Action.SCORES_GIVE))]
Owner = Annotated[Actor, Depends(StaffGuard(Action.SCORES_OWN))]
Planner = Annotated[Actor, Depends(StaffGuard(Action.SCORES_PLAN))]
Staff = Annotated[Actor, Depends(StaffGuard(None))]


@router.get("", operation_id="waitingForScores")
def get_waiting(ctx: Ctx, actor: Scorer, window: str | None = None) -> WaitingPage:
    return waiting.waiting_page(ctx, actor, number_or_none(window))


@router.get("/items/{place}", operation_id="scoringDesk")
def get_desk(ctx: Ctx, actor: Scorer, place: str, window: str, sitting: str | None = None) -> Desk:
    """An item with its rubric, and the response that is next, or the one asked for."""
    return desk.desk(ctx, actor, number(place), number(window), number_or_none(sitting))


@router.post("/items/{place}/responses/{sitting}", operation_id="giveScore")
def score(ctx: Ctx, actor: Scorer, place: str, sitting: str, body: ScoreIn) -> DeskNext:
    """Keep a score; answers with the next response."""
    wish = ScoreWish(
        criteria=tuple(body.criteria),
        code=body.code,
        comment=body.comment,
        final=body.final,
        second=body.second,
        truth=body.truth,
    )
    return desk.score(ctx, actor, number(place), number(body.window), number(sitting), wish)


@router.delete("/items/{place}/responses/{sitting}", operation_id="withdrawScore")
def take_back(ctx: Ctx, actor: Scorer, place: str, sitting: str, window: str) -> DeskNext:
    return desk.take_back(ctx, actor, number(place), number(window), number(sitting))


@router.post("/items/{place}/responses/{sitting}/skip", operation_id="skipResponse")
def skip(ctx: Ctx, actor: Scorer, place: str, sitting: str, body: WindowIn) -> DeskNext:
    return desk.skip(ctx, actor, number(place), number(body.window), number(sitting))


@router.post("/items/{place}/responses/{sitting}/alert", operation_id="raiseSafetyAlert", status_code=201)
def raise_alert(ctx: Ctx, actor: Scorer, place: str, sitting: str, body: WindowIn) -> AlertSent:
    return AlertSent(to=alerts.raise_alert(ctx, actor, number(place), number(body.window), number(sitting)))


@router.get("/items/{place}/groups", operation_id="responseGroups")
def get_groups(ctx: Ctx, actor: Scorer, place: str, window: str) -> GroupsPage:
    """Responses that say the same, most frequent first."""
    return groups.groups_page(ctx, actor, number(place), number(window))


@router.post("/items/{place}/groups", operation_id="scoreGroup")
def score_group(ctx: Ctx, actor: Scorer, place: str, body: GroupScoreIn) -> GroupScored:
    """One score for all of a group that wait for whoever asks."""
    wish = ScoreWish(criteria=tuple(body.criteria), code=body.code)
    return groups.score_group(ctx, actor, number(place), number(body.window), body.says, wish)


@router.put("/items/{place}/plan", operation_id="planScoring", status_code=204)
def plan(ctx: Ctx, actor: Planner, place: str, body: ScoringPlanIn) -> None:
    tasks = [TaskWish(scorer=number(t.scorer), due=t.due, classes=tuple(map(number, t.classes))) for t in body.tasks]
    waiting.plan_scoring(ctx, actor, number(place), number(body.window), tasks, body.share, body.apart)


@router.get("/items/{place}/agreement", operation_id="scorerAgreement")
def agreement(ctx: Ctx, actor: Planner, place: str, window: str) -> AgreementPage:
    return scorers.agreement_page(ctx, actor, number(place), number(window))


@router.get("/items/{place}/earlier", operation_id="earlierScores")
def get_earlier(ctx: Ctx, actor: Planner, place: str, window: str) -> EarlierPage:
    """Scores that were given before the rubric changed."""
    return earlier.earlier_page(ctx, actor, number(place), number(window))


@router.put("/items/{place}/earlier", operation_id="keepEarlierScores", status_code=204)
def keep_earlier(ctx: Ctx, actor: Planner, place: str, body: EarlierIn) -> None:
    """They stand, until the rubric changes again."""
    earlier.keep_earlier(ctx, actor, number(place), number(body.window), body.newest)


@router.get("/forms/{form}/scores.{kind}", operation_id="scoresFile", response_class=Response)
def get_scores(ctx: Ctx, actor: Planner, form: str, window: str, kind: Literal["csv", "xlsx"]) -> Response:
    """Scores that people gave, with who and when."""
    return as_file(scoresfile.scores_file(ctx, actor, number(form), number(window), kind), "scores", kind)


@router.get("/scorers", operation_id="scorerChoices")
def scorer_choices(ctx: Ctx, actor: Planner) -> list[ScorerChoice]:
    """Staff to whom items can be given."""
    return scorers.choices(ctx, actor)


@router.post("/phrases", operation_id="keepPhrase")
def keep_phrase(ctx: Ctx, actor: Scorer, body: PhraseIn) -> list[PhraseLine]:
    return phrases.keep_phrase(ctx, actor, body.text)


@router.delete("/phrases/{phrase}", operation_id="dropPhrase")
def drop_phrase(ctx: Ctx, actor: Scorer, phrase: str) -> list[PhraseLine]:
    return phrases.drop_phrase(ctx, actor, number(phrase))


@router.get("/alerts", operation_id="safetyAlerts")
def get_alerts(ctx: Ctx, actor: Staff) -> AlertsPage:
    """Those that went to whoever asks."""
    return alerts.alerts(ctx, actor)


@router.post("/alerts/{alert}/close", operation_id="closeSafetyAlert", status_code=204)
def close_alert(ctx: Ctx, actor: Staff, alert: str, body: AlertClosedIn) -> None:
    alerts.close_alert(ctx, actor, number(alert), body.outcome)


@router.get("/alert-persons", operation_id="alertPersons")
def get_persons(ctx: Ctx, actor: Planner) -> list[AlertSchool]:
    return alerts.alert_schools(ctx, actor)


@router.put("/alert-persons/{school}", operation_id="nameAlertPersons")
def name_persons(ctx: Ctx, actor: Planner, school: str, body: AlertPersonsIn) -> list[AlertSchool]:
    return alerts.name_persons(ctx, actor, number(school), [number(p) for p in body.persons])


@router.get("/paper/{session}", operation_id="paperAttempts")
def get_paper(ctx: Ctx, actor: Owner, session: str) -> EntryPage:
    """Attempts of a session that were taken on paper."""
    return paperentry.entry_page(ctx, actor, number(session))


@router.get("/paper/{session}/sheet.{kind}", operation_id="paperSheet", response_class=Response)
def get_sheet(ctx: Ctx, actor: Owner, session: str, kind: Literal["csv", "xlsx"]) -> Response:
    """A row for each attempt on paper, to be filled in elsewhere."""
    return as_file(answersfile.answers_sheet(ctx, actor, number(session), kind), "answers", kind)


@router.post("/paper/{session}/imports", operation_id="previewPaperAnswers")
def preview_answers(ctx: Ctx, actor: Owner, session: str, files: list[UploadFile]) -> Preview:
    return answersfile.preview(ctx, actor, number(session), contents(files))


@router.post("/paper/{session}/imports/{import_id}/apply", operation_id="applyPaperAnswers")
def apply_answers(ctx: Ctx, actor: Owner, session: str, import_id: str) -> Preview:
    return answersfile.apply(ctx, actor, number(session), import_id)


@router.get("/paper/{session}/{sitting}", operation_id="paperAttempt")
def get_paper_attempt(ctx: Ctx, actor: Owner, session: str, sitting: str) -> EntrySheet:
    return paperentry.entry_sheet(ctx, actor, number(session), number(sitting))


@router.put("/paper/{session}/{sitting}", operation_id="typeAnswers")
def type_answers(ctx: Ctx, actor: Owner, session: str, sitting: str, body: TypedIn) -> Entered:
    """Keep answers that were typed off paper."""
    typed = {number(place): text for place, text in body.answers.items()}
    again = None if body.again is None else {number(place): text for place, text in body.again.items()}
    return paperentry.enter(ctx, actor, number(session), number(sitting), typed, again, body.submit)
