"""This server's clock against the database's: several servers write into one log, and its times are to be one time."""

import logging
import time

from django.db import connection

LOG = logging.getLogger(__name__)
MOST_OFF = 5.0
"""So many seconds a server's clock may be off that of the database."""


def clock_off() -> float:
    """How many seconds this clock is ahead of the database's."""
    began = time.time()
    with connection.cursor() as cursor:
        cursor.execute("select extract(epoch from clock_timestamp())")
        there = float(cursor.fetchone()[0])
    # What the question took lies half before the answer.
    return (began + time.time()) / 2 - there


def said_of_the_clock() -> str:
    """What is wrong with this server's clock, in a sentence; nothing where it goes right."""
    off = clock_off()
    if abs(off) <= MOST_OFF:
        return ""
    told = f"This server's clock is {abs(off):.0f} s {'ahead of' if off > 0 else 'behind'} the database's. Set both by a time server."
    LOG.warning(told)
    return told
