"""Tables, one file a subject. Importing this package knows them all."""

from bildung.store.models.bank import Item, ItemStandard, ItemVersion, Scoring, Standard
from bildung.store.models.base import Base
from bildung.store.models.people import (
    AcademicSession,
    Enrolment,
    Federation,
    Person,
    Role,
    School,
    SchoolClass,
    Window,
)
from bildung.store.models.sessions import PackedAnswers, PlannedSession, Response, ResponseEvent, Sitting
from bildung.store.models.tests import Form, FormItem
from bildung.store.models.trail import AuditEntry, RosterReport, SignIn, StagedImport

__all__ = [
    "AcademicSession", "AuditEntry", "Base", "Enrolment", "Federation", "Form", "FormItem", "Item", "ItemStandard",
    "ItemVersion",
    "PackedAnswers", "Person", "PlannedSession", "Response", "ResponseEvent", "Role", "RosterReport",
    "School", "SchoolClass",
    "Scoring", "SignIn", "Sitting", "StagedImport", "Standard", "Window",
]  # fmt: skip
