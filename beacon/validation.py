"""Where text and numbers come in: bodies, queries and addresses are looked at once, for all endpoints."""

import datetime
import json
import re
from itertools import islice
from typing import Annotated, Any

from django.http import HttpRequest
from django.utils import timezone
from django.utils.datastructures import MultiValueDict
from ninja.parser import Parser
from pydantic import AfterValidator, Field

from beacon.problems import Problem
from wary.clean import FIRST_DAY, LAST_DAY, fit, on_a_clock, unfit

MOST_SAID = 20
BY_THEMSELVES = re.compile(r"/jobs/[^/]+/entries$")
"""Where each thing of a list is looked at by itself, so that one that cannot be kept leaves the others alone."""


def _instant(found: datetime.datetime) -> datetime.datetime:
    """A time in UTC. Raises ValueError for one without a zone, or that no clock of today shows."""
    if found.tzinfo is None:
        raise ValueError("has no time zone; expected a time such as 2031-03-04T09:30:00Z")
    return on_a_clock(found, timezone.now())


def _day(found: datetime.date) -> datetime.date:
    """A day that a calendar of today holds. Raises ValueError for another."""
    if not FIRST_DAY <= found <= LAST_DAY:
        raise ValueError(f"lies beyond what is planned; expected a day from {FIRST_DAY} to {LAST_DAY}")
    return found


Instant = Annotated[datetime.datetime, AfterValidator(_instant)]
"""A time that comes in: with its zone, kept in UTC, from 1970 to two days from now."""

Day = Annotated[datetime.date, AfterValidator(_day)]
"""A day that comes in, for something that is planned or due."""

Whole = Annotated[int, Field(ge=0, le=2**31 - 1)]
"""How many of something, or a place in an order."""


class CleanParser(Parser):
    """Reads bodies and queries; what holds no text that can be kept, or no ordinary number, is refused by its path."""

    def parse_body(self, request: HttpRequest) -> Any:
        """The decoded body. Raises Problem where it is no JSON, or something in it cannot be kept."""
        try:
            found = json.loads(request.body)
        except (ValueError, RecursionError):
            raise Problem(422, "The body cannot be read", "Expected JSON in UTF-8.") from None
        if isinstance(found, list) and BY_THEMSELVES.search(request.path):
            return found
        wrong = [{"path": path, "text": text} for path, text in islice(unfit(found), MOST_SAID)]
        if wrong:
            raise Problem(422, "Some fields cannot be kept", "Look at the fields named here.", wrong)
        return found

    def parse_querydict(self, data: MultiValueDict[str, str], list_fields: list[str], request: HttpRequest) -> Any:
        """The query. Raises Problem where something in it cannot be kept."""
        for key in data:
            if not fit(key) or not all(fit(one) for one in data.getlist(key)):
                text = "holds a character that cannot be kept"
                raise Problem(422, "This cannot be asked", errors=[{"path": key if fit(key) else "", "text": text}])
        return super().parse_querydict(data, list_fields, request)
