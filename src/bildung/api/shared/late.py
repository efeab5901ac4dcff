"""Routes that are read when they are first asked for.

FastAPI reads the parameters and the answer of a route while its module is imported: 6 ms a route, a second and a half
for all of them, before anything is served. What a request must match, path and method, is enough until one comes.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from fastapi.routing import APIRoute
from starlette.routing import compile_path


class LateRoute(APIRoute):
    """A route of FastAPI whose parameters and answer are read at its first request, or when the contract is written.

    Nothing else about it differs. A route that cannot be read fails there instead of at the start; the test of the
    contract reads every one.
    """

    def __init__(self, path: str, endpoint: Callable[..., Any], **options: Any) -> None:
        self._unread: tuple[str, Callable[..., Any], dict[str, Any]] | None = (path, endpoint, options)
        self.path = path
        self.endpoint = endpoint
        self.name = options.get("name") or endpoint.__name__
        self.methods = {method.upper() for method in options.get("methods") or ["GET"]}
        self.path_regex, self.path_format, self.param_convertors = compile_path(path)

    def __getattr__(self, name: str) -> Any:
        """Reads the rest when any of it is first wanted."""
        if unread := self.__dict__.get("_unread"):
            self._unread = None
            path, endpoint, options = unread
            super().__init__(path, endpoint, **options)
            return getattr(self, name)
        raise AttributeError(f"{type(self).__name__} has no {name}")
