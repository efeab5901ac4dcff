"""Tables, one file a subject. Importing this package knows them all."""

from bildung.store.models.bank import (
    Framework,
    Item,
    ItemComment,
    ItemDraft,
    ItemEnemy,
    ItemFigure,
    ItemStandard,
    ItemUse,
    ItemVersion,
    Media,
    Scoring,
    Standard,
    StandardLink,
    Stimulus,
    StimulusVersion,
    TagChange,
)
from bildung.store.models.base import Base
from bildung.store.models.classes import (
    CoursePlan,
    Enrolment,
    JoinRequest,
    Lesson,
    LessonStandard,
    SchoolClass,
    Taught,
)
from bildung.store.models.people import (
    Accommodation,
    Attribute,
    AttributeValue,
    Consent,
    FamilyLink,
    Federation,
    Group,
    GroupMember,
    GroupStaff,
    Person,
    Role,
    School,
    Setting,
)
from bildung.store.models.sessions import PackedAnswers, PlannedSession, Response, ResponseEvent, Sitting
from bildung.store.models.tests import Form, FormItem
from bildung.store.models.trail import AuditEntry, RecordsRun, RosterReport, SignIn, StagedImport
from bildung.store.models.years import AcademicSession, ClosedDays, SchoolYear, Window

__all__ = [
    "AcademicSession", "Accommodation", "Attribute", "AttributeValue", "AuditEntry", "Base", "ClosedDays",
    "Consent", "CoursePlan", "Enrolment", "FamilyLink", "Federation", "Form", "FormItem", "Framework", "Group",
    "GroupMember", "GroupStaff", "Item", "ItemComment", "ItemDraft", "ItemEnemy", "ItemFigure", "ItemStandard", "ItemUse",
    "ItemVersion", "JoinRequest", "Lesson", "LessonStandard", "Media", "PackedAnswers", "Person", "PlannedSession",
    "RecordsRun", "Response", "ResponseEvent", "Role", "RosterReport", "School", "SchoolClass", "SchoolYear",
    "Scoring", "Setting", "SignIn", "Sitting", "StagedImport", "Standard", "StandardLink", "Stimulus",
    "StimulusVersion", "TagChange", "Taught", "Window",
]  # fmt: skip
