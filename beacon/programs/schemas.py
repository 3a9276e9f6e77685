"""What is said of other programs: tokens, webhooks, messages, and what changed since a moment."""

from datetime import date, datetime
from typing import Annotated, Literal
from uuid import UUID

from pydantic import BaseModel, Field

ScopeWord = Literal["read", "enter", "plan", "machines"]
TopicWord = Literal["job.closed", "fault.found", "machine.state-changed", "machine.due", "reference.running-out"]


class Choice(BaseModel):
    """What can be chosen, and what it means."""

    word: str
    says: str


class ProgramIn(BaseModel):
    """Another program, and what its token may do."""

    name: str = Field(min_length=1, max_length=80)
    scopes: Annotated[list[ScopeWord], Field(min_length=1, max_length=4)]


class ProgramView(BaseModel):
    """Another program; `token` is said once, when it is made."""

    id: UUID
    name: str
    scopes: list[ScopeWord]
    begins_with: str
    made_by: str
    made_at: datetime
    used_at: datetime | None
    revoked_at: datetime | None
    token: str = ""


class WebhookIn(BaseModel):
    """An address, and of what it is told."""

    url: str = Field(max_length=500)
    topics: Annotated[list[TopicWord], Field(min_length=1, max_length=10)]


class WebhookView(BaseModel):
    """An address that is told; `secret`, by which it verifies what it is told, is said once."""

    id: UUID
    url: str
    topics: list[TopicWord]
    made_by: str
    made_at: datetime
    ended_at: datetime | None
    secret: str = ""


class MessageView(BaseModel):
    """What was told, and what became of it."""

    id: UUID
    webhook: UUID
    url: str
    topic: TopicWord
    topic_words: str
    about: str
    at: datetime
    tries: int
    tried_at: datetime | None
    next_at: datetime | None
    taken_at: datetime | None
    given_up_at: datetime | None
    said: str


class ProgramsView(BaseModel):
    """Every token and webhook of an organisation, the latest messages, and what can be chosen."""

    programs: list[ProgramView]
    webhooks: list[WebhookView]
    messages: list[MessageView]
    scopes: list[Choice]
    topics: list[Choice]


class ChangedRecord(BaseModel):
    """A record that was sealed."""

    id: UUID
    number: int
    system: UUID
    name: str
    outcome: str
    sealed_at: datetime
    sha256: str


class ChangedFault(BaseModel):
    """A fault that was found."""

    id: UUID
    system: UUID
    name: str
    title: str
    put_right: bool
    at: datetime


class ChangedSystem(BaseModel):
    """A machine on which something was done or logged, as it is now."""

    id: UUID
    name: str
    site: str
    kind: str
    state: str
    state_words: str
    due: date | None


class ChangesView(BaseModel):
    """What happened since a moment, up to `until`, from which the next question goes on; `more` where there is more."""

    until: str
    more: bool
    records: list[ChangedRecord]
    faults: list[ChangedFault]
    systems: list[ChangedSystem]
