"""The test runner: it ends the servers that tests left running before it takes their database away."""

from typing import Any

from django.test.runner import DiscoverRunner

from tests.served import end_servers


class Runner(DiscoverRunner):
    def teardown_databases(self, *given: Any, **more: Any) -> None:
        end_servers()
        super().teardown_databases(*given, **more)
