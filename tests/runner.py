"""The test runner: it ends the servers that tests left running before it takes their database away."""

import pickle
from typing import Any

from django.test.runner import DiscoverRunner, ParallelTestSuite, RemoteTestResult, RemoteTestRunner

from tests.served import end_servers


class Result(RemoteTestResult):
    """What a worker tells of its tests: a failure that cannot be sent is told in words, and ends nothing else."""

    def addError(self, test: Any, err: Any) -> None:
        super().addError(test, _sendable(err))

    def addFailure(self, test: Any, err: Any) -> None:
        super().addFailure(test, _sendable(err))

    def addSubTest(self, test: Any, subtest: Any, err: Any) -> None:
        super().addSubTest(test, subtest, err and _sendable(err))


def _sendable(err: Any) -> Any:
    kind, value, trace = err
    try:
        pickle.loads(pickle.dumps((kind, value)))
    except Exception:
        value = AssertionError(f"{kind.__name__}: {value}")
        return AssertionError, value, trace
    return err


class RemoteRunner(RemoteTestRunner):
    resultclass = Result


class Suite(ParallelTestSuite):
    runner_class = RemoteRunner


class Runner(DiscoverRunner):
    parallel_test_suite = Suite

    def teardown_databases(self, *given: Any, **more: Any) -> None:
        end_servers()
        super().teardown_databases(*given, **more)
