"""How what services answer leaves the server: ids as text, and pairs as objects whose fields have names.

A service's dataclass is the answer of a route as it is (docs/architecture.md). Only what differs between here and the
wire is said, by the types of this module.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from types import GenericAlias
from typing import Annotated, Any

from pydantic import PlainSerializer

Id = Annotated[int, PlainSerializer(str, return_type=str)]
"""A whole number here, text on the wire, since a browser's numbers end at 2**53."""


def listed(kind: type) -> PlainSerializer:
    """Each row of a list as an object of this kind, its fields filled in their order."""

    def objects(rows: Iterable[tuple[Any, ...]]) -> list[Any]:
        return [kind(*row) for row in rows]

    return PlainSerializer(objects, return_type=GenericAlias(list, (kind,)))  # type: ignore[arg-type]


@dataclass(frozen=True)
class Named:
    """A number or a text by its name."""

    name: str
    value: str | int


@dataclass(frozen=True)
class Word:
    """A text by its name."""

    name: str
    value: str


@dataclass(frozen=True)
class Ref:
    """Something by its id, with its name to show."""

    id: Id
    name: str
