"""The test runner: it ends the servers that tests left running before it takes their database away."""

import traceback
from typing import Any

from django.test.runner import DiscoverRunner, ParallelTestSuite, RemoteTestResult, RemoteTestRunner

from tests.served import end_servers


class Result(RemoteTestResult):
    """What a worker tells of its tests: a failure is told in words, since what it holds cannot always be sent."""

    def addError(self, test: Any, err: Any) -> None:
        super().addError(test, _in_words(err))

    def addFailure(self, test: Any, err: Any) -> None:
        super().addFailure(test, _in_words(err))

    def addSubTest(self, test: Any, subtest: Any, err: Any) -> None:
        if err is not None:
            super().addFailure(test, _in_words(err, str(subtest)))


def _in_words(err: Any, of: str = "") -> Any:
    words = "".join(traceback.format_exception(*err))
    return AssertionError, AssertionError(f"{of}\n{words}" if of else words), None


class RemoteRunner(RemoteTestRunner):
    resultclass = Result


class Suite(ParallelTestSuite):
    runner_class = RemoteRunner


class Runner(DiscoverRunner):
    parallel_test_suite = Suite

    def teardown_databases(self, *given: Any, **more: Any) -> None:
        end_servers()
        super().teardown_databases(*given, **more)
