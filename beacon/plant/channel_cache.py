"""Channels with all that stands behind them, read once and kept for as long as none of it changes.

A job's machine is asked for with every entry and changes perhaps once a year. Whether it did is said
by the database with the job itself, as the versions of the rows; any process can begin with nothing held.
"""

import uuid
from collections import OrderedDict
from threading import Lock
from typing import Any

from django.db.models import F, Func, TextField

from beacon.plant.models import Channel

CHANNELS_HELD = 256
BEHIND = ("system__site__organisation", "system__profile")


class RowVersions(Func):
    """The versions of the rows that some columns belong to: another text after any change of any of them."""

    output_field = TextField()

    def as_sql(self, compiler: Any, connection: Any, *_: Any, **context: Any) -> tuple[str, tuple[str | int, ...]]:
        aliases = (compiler.quote_name_unless_alias(column.alias) for column in self.get_source_expressions())
        return f"concat_ws('-', {', '.join(f'{alias}.xmin' for alias in aliases)})", ()


def versions(channel: str) -> RowVersions:
    """The versions of a channel, its system, site, organisation and profile; `channel` is the way to it in a query.

    A column that is no key is named of each, since a key is taken from the row that points to it.
    """
    ways = ("name", "system__name", "system__site__name", "system__site__organisation__name", "system__profile__title")
    return RowVersions(*(F(f"{channel}__{way}") for way in ways))


_lock = Lock()
_held: OrderedDict[uuid.UUID, tuple[str, Channel]] = OrderedDict()


def cached_channel(channel_id: uuid.UUID, version: str) -> Channel:
    """The channel with its system, site, organisation and profile, at this version or a later one; only to be read."""
    with _lock:
        known, channel = _held.get(channel_id, ("", None))
        if channel is not None and known == version:
            _held.move_to_end(channel_id)
            return channel
    read = Channel.objects.select_related(*BEHIND).get(id=channel_id)
    with _lock:
        _held[channel_id] = (version, read)
        _held.move_to_end(channel_id)
        while len(_held) > CHANNELS_HELD:
            _held.popitem(last=False)
    return read
