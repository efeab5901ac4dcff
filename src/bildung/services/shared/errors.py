"""What a service says when it cannot do what was asked; api/shared/problems.py turns these into problem details."""

from __future__ import annotations

from datetime import timedelta


class Problem(Exception):
    """detail: one sentence for the person. place: the field, file or object it is about."""

    status = 400
    title = "Not possible"

    def __init__(self, detail: str, place: str | None = None) -> None:
        super().__init__(detail)
        self.detail = detail
        self.place = place


class NotSignedIn(Problem):
    status = 401
    title = "Sign in first"


class NotAllowed(Problem):
    status = 403
    title = "No permission"


class NotFound(Problem):
    """Also said of what exists but is not theirs to see, so that nobody learns what exists."""

    status = 404
    title = "Not found"


class Conflict(Problem):
    status = 409
    title = "Changed in the meantime"


class Invalid(Problem):
    status = 422
    title = "Not accepted"


class TooMany(Problem):
    """retry_after: how long to wait before the next try."""

    status = 429
    title = "Too many attempts"

    def __init__(self, detail: str, place: str | None = None, retry_after: timedelta = timedelta(0)) -> None:
        super().__init__(detail, place)
        self.retry_after = retry_after
