"""The test runner: it ends the servers that tests left running before it takes their database away."""

import os
import time
import traceback
import unittest
from collections import defaultdict
from pathlib import Path
from typing import Any

from django.test.runner import DiscoverRunner, ParallelTestSuite, RemoteTestResult, RemoteTestRunner

from tests.served import end_servers

SLOWEST = 60
LAST_LINES = 30


class TimedResult(unittest.TextTestResult):
    """What is printed of a run: at its end where the time went, and which tests took longest."""

    def __init__(self, *given: Any, **more: Any) -> None:
        super().__init__(*given, **more)
        self.seconds: dict[str, float] = {}
        self.around: dict[str, float] = defaultdict(float)

    def startTest(self, test: Any) -> None:
        self._began = time.perf_counter()
        super().startTest(test)

    def stopTest(self, test: Any) -> None:
        self.seconds.setdefault(test.id(), time.perf_counter() - self._began)
        super().stopTest(test)

    def tookSeconds(self, test: Any, seconds: float) -> None:
        """A worker says how long a test took there."""
        self.seconds[test.id()] = seconds

    def tookAround(self, test: Any, seconds: float) -> None:
        """A worker says how long what belongs to a class took, beside its tests."""
        self.around[test.id().rpartition(".")[0]] += seconds

    def print_seconds(self) -> None:
        """The files that took longest, with what their classes took to set up, and the tests that did."""
        files: dict[str, float] = defaultdict(float)
        for name, seconds in self.seconds.items():
            files[name.rsplit(".", 2)[0]] += seconds
        for name, seconds in self.around.items():
            files[name.rpartition(".")[0]] += seconds
        whole = sum(files.values())
        self.stream.writeln(
            f"\n{len(self.seconds)} tests took {whole:.0f} s of all processes. The files that took most:"
        )
        for name, seconds in sorted(files.items(), key=lambda each: -each[1])[:SLOWEST]:
            self.stream.writeln(f"{seconds:8.1f} s  {name}")
        self.stream.writeln("The tests that took longest:")
        for name, seconds in sorted(self.seconds.items(), key=lambda each: -each[1])[:SLOWEST]:
            self.stream.writeln(f"{seconds:8.1f} s  {name}")

    def note_failed(self, file: Path) -> None:
        """What failed, with the last lines that it said: for the end of a run of several parts."""
        with file.open("a") as noted:
            for test, words in [*self.errors, *self.failures]:
                last = "\n".join(words.rstrip().splitlines()[-LAST_LINES:])
                noted.write(f"\n{test.id()}\n{last}\n")
            for test in self.unexpectedSuccesses:
                noted.write(f"\n{test.id()}\nsucceeded, where it was to fail\n")


class Result(RemoteTestResult):
    """What a worker tells of its tests: a failure is told in words, since what it holds cannot always be sent."""

    def startTest(self, test: Any) -> None:
        super().startTest(test)
        self._began = time.perf_counter()

    def stopTest(self, test: Any) -> None:
        self.events.append(("tookSeconds", self.test_index, time.perf_counter() - self._began))
        super().stopTest(test)

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

    def run(self, test: Any) -> Any:
        began = time.perf_counter()
        result = super().run(test)
        tests = sum(event[2] for event in result.events if event[0] == "tookSeconds")
        if result.testsRun:
            result.events.append(("tookAround", result.test_index, time.perf_counter() - began - tests))
        return result


class Suite(ParallelTestSuite):
    runner_class = RemoteRunner


class Runner(DiscoverRunner):
    parallel_test_suite = Suite

    def get_resultclass(self) -> Any:
        return super().get_resultclass() or TimedResult

    def run_suite(self, suite: Any, **given: Any) -> Any:
        result = super().run_suite(suite, **given)
        if isinstance(result, TimedResult):
            result.print_seconds()
            if "BEACON_FAILED" in os.environ:
                result.note_failed(Path(os.environ["BEACON_FAILED"]))
        return result

    def teardown_databases(self, *given: Any, **more: Any) -> None:
        end_servers()
        super().teardown_databases(*given, **more)
