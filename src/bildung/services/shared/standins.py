"""The stand-ins of outside services that run beside a demo."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass
class Standins:
    """Their addresses.

    Attributes
    ----------
    records
        Of the records system, empty where none runs.
    provider
        Of the sign-in provider, empty where none runs.
    tests
        Of the outside test service, empty where none runs.
    """

    records: str = ""
    provider: str = ""
    tests: str = ""
