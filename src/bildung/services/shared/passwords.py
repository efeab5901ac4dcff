"""Passwords: hashing, comparing, temporary ones."""

from __future__ import annotations

import functools
import os
import secrets
import threading
from datetime import timedelta

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError

TEMPORARY_LENGTH = 12


_hasher = PasswordHasher(time_cost=2, memory_cost=19 * 1024, parallelism=1)


TEMPORARY = timedelta(days=14)  # for so long a password that somebody else gave can be used to choose one's own


_hashing = threading.BoundedSemaphore(max(1, (os.cpu_count() or 1) // 2))  # forty who sign in at once leave a core free


def hash_password(password: str) -> str:
    """What is kept of a password."""
    with _hashing:
        return _hasher.hash(password)


def password_fits(hashed: str | None, password: str) -> bool:
    """Takes as long where there is no password to compare with."""
    try:
        known = hashed or _nobody()
        with _hashing:
            return _hasher.verify(known, password) and hashed is not None
    except (VerificationError, InvalidHashError):
        return False


@functools.cache
def _nobody() -> str:
    """So that an unknown name takes as long as a wrong password."""
    return _hasher.hash(secrets.token_hex())
