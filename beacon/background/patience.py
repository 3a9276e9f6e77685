"""How long what is done in the background tries again where the database was away."""

import psycopg
from django.db import InterfaceError, OperationalError
from procrastinate import RetryStrategy
from psycopg_pool import PoolTimeout

AWAY = (OperationalError, InterfaceError, psycopg.OperationalError, psycopg.InterfaceError, PoolTimeout)
"""What is raised where the database is away, or ended what was asked."""
PATIENT = RetryStrategy(max_attempts=9, exponential_wait=3, retry_exceptions=AWAY)
"""Tried again after 3, 9, 27 s and so on: for half a day."""
