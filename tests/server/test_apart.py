"""What nobody waits for is read from the replica once all is there that is kept; where that fails, from the first."""

import time
from datetime import UTC, datetime
from typing import Any
from unittest import mock

from django.db import DatabaseError
from django.test import SimpleTestCase, override_settings

from beacon.database import apart
from beacon.database.apart import read_as_of, read_in_the_background


def moment(ahead: float) -> datetime:
    return datetime.fromtimestamp(time.time() + ahead, UTC)


class InTheBackground(SimpleTestCase):
    def follows(self, *said: datetime | None) -> Any:
        """What is said of the replica, one after the other; the last of it goes on."""
        left = list(said)
        asked = mock.patch.object(apart.following, "as_of", lambda: left.pop(0) if len(left) > 1 else left[0])
        asked.start()
        self.addCleanup(asked.stop)

    @override_settings(REPLICA="")
    def test_without_a_replica_it_is_read_from_the_first(self) -> None:
        self.assertIsNone(read_in_the_background(read_as_of))

    @override_settings(REPLICA="postgres://second/beacon")
    @mock.patch.object(apart, "ASKED_EVERY", 0.01)
    def test_it_waits_until_all_that_is_kept_now_is_there(self) -> None:
        there = moment(1)
        self.follows(moment(-1), None, there)
        self.assertEqual(read_in_the_background(read_as_of), there)
        self.assertIsNone(read_as_of(), "what comes after it is read from the first again")

    @override_settings(REPLICA="postgres://second/beacon")
    @mock.patch.object(apart, "ASKED_EVERY", 0.01)
    @mock.patch.object(apart, "ARRIVES_WITHIN", 0.05)
    def test_one_that_does_not_follow_is_not_waited_for_for_long(self) -> None:
        self.follows(moment(-1))
        self.assertIsNone(read_in_the_background(read_as_of))

    @override_settings(REPLICA="postgres://second/beacon")
    def test_one_that_goes_away_in_the_middle_has_it_done_from_its_start_at_the_first(self) -> None:
        self.follows(moment(1))
        done: list[bool] = []

        def work() -> str:
            done.append(read_as_of() is not None)
            if done[-1]:
                raise DatabaseError("terminating connection")
            return "made"

        with mock.patch.object(apart, "connections") as held:
            self.assertEqual(read_in_the_background(work), "made")
        held["replica"].close.assert_called_once()
        self.assertEqual(done, [True, False])
