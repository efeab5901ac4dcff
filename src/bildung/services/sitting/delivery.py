"""Answers that a device still holds when its student has left it: brought later, whoever works on the device then.

A device is used by many students a day, and its network may be away while they change. What is unsent lies on the device
by attempt, each with a secret of its own that can do one thing: add answers to that attempt, and submit it as its student did.
"""

from __future__ import annotations

import hashlib
from datetime import timedelta

from sqlalchemy import select

from bildung.services.shared.access import Sitter
from bildung.services.shared.context import Context
from bildung.services.shared.errors import NotFound
from bildung.store.models import SignIn

KEPT = timedelta(days=14)  # a device that lay in a cart over a break


def delivery_of(secret: str) -> str:
    """What a device delivers with, made of the secret in the cookie; the cookie cannot be made of it."""
    return hashlib.sha256(f"delivery {secret}".encode()).hexdigest()


def delivery_hash(delivery: str) -> str:
    """As it lies in the store."""
    return hashlib.sha256(delivery.encode()).hexdigest()


def delivering(ctx: Context, delivery: str) -> Sitter:
    """Whose attempt it is for, also after they have signed out."""
    with ctx.store.read() as db:
        found = db.scalar(select(SignIn).where(SignIn.delivery_hash == delivery_hash(delivery)))
        if found is None or found.sitting_id is None or found.created_at + KEPT < ctx.clock():
            raise NotFound("these answers can no longer be delivered; tell the person in the room")
        return Sitter(
            person_id=found.person_id,
            sitting_id=found.sitting_id,
            takeover=found.takeover,
            sign_in_id=found.id,
            csrf=found.csrf,
        )
