"""The worker of what is done in the background: inside the server's process, or beside it by `manage.py procrastinate worker`.

What is to be done is a row of the same database, put there in the transaction of what it follows from: both are kept,
or neither. A worker that dies holding one is noticed by its heart that no longer beats, and another does it.
"""

import asyncio
import logging

from procrastinate import PsycopgConnector
from procrastinate.contrib.django import app
from procrastinate.contrib.django.utils import connector_params

LOG = logging.getLogger(__name__)
AGAIN_AFTER = 5.0
"""So long it waits before it begins anew where the database is away, s."""


async def keep_working() -> None:
    """Does what is to be done, until it is cancelled; begins anew where the database was away."""
    while True:
        try:
            # The application's own connector belongs to requests; a worker listens, and has one of its own.
            connector = PsycopgConnector(kwargs=connector_params(), min_size=1, max_size=4)
            working = app.with_connector(connector)
            async with working.open_async():
                await working.run_worker_async(install_signal_handlers=False, delete_jobs="successful")
            return
        except asyncio.CancelledError:
            raise
        except Exception:
            LOG.warning("What is done in the background stopped, and begins anew.", exc_info=True)
            await asyncio.sleep(AGAIN_AFTER)
