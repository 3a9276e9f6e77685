"""Requests made up from the OpenAPI document, with identifiers that exist, by everyone who may ask: none may be a fault.

`./run fuzz MINUTES` makes more of them than the tests have time for, mangled job files too, and changes of sealed rows.
"""

import os
import sys
import time
import warnings
from collections.abc import Callable, Iterator
from typing import Any
from urllib.parse import urlencode

import schemathesis
from django.db import transaction
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st

from beacon.api import api
from tests.server.test_isolation import Isolation

SLOW = ("pdf", "/live", "xlsx", "/chain/verifications", "/practice", "/lines")
"""Endpoints that cost much: asked less often."""
ROLES = ("technician", "lead", "reader", "nobody")


class Fuzz(Isolation):
    """The plants of the isolation tests: two organisations, with one of everything."""

    examples = int(os.environ.get("BEACON_FUZZ", "6"))

    def setUp(self) -> None:
        super().setUp()
        # Asked by those who own these things, so that what is asked for is there.
        self.clients = {
            "technician": self.signed_in(self.other.technician),
            "lead": self.signed_in(self.other.lead),
            "reader": self.signed_in(self.other.people["reader"]),  # type: ignore[index]
            "nobody": self.client_class(),
        }

    def operations(self) -> Iterator[Any]:
        for found in schemathesis.openapi.from_dict(api.get_openapi_schema()).get_all_operations():
            yield found.ok()

    def asked(self, operation: Any, case: Any, role: str, exists: bool) -> None:
        """Asks one made-up request; what it may answer is what the document says."""
        names = {**case.path_parameters}
        url = operation.path
        for name in names:
            known = self.ids.get(name, "belt-fine") if exists else str(names[name])
            if name == "job_id" and any(word in url for word in ("stand-in", "/live", "truth")):
                known = self.practice if exists else known
            url = url.replace(f"{{{name}}}", known.replace("/", "%2F").replace("?", "%3F"))
        client = self.clients[role]
        body = case.body if isinstance(case.body, (dict, list, str, int, float, bool)) or case.body is None else {}
        query = {key: value for key, value in (case.query or {}).items() if value is not None}
        send = getattr(client, operation.method)
        with transaction.atomic():
            if operation.method in ("get", "delete"):
                answer = send(url, query)
            else:
                answer = send(
                    f"{url}?{urlencode(query, doseq=True)}" if query else url, body, content_type="application/json"
                )
            transaction.set_rollback(True)
        said = {int(status) for status in operation.definition.raw["responses"]}
        self.assertLess(answer.status_code, 500, f"{role} {operation.method} {url} {query} {body!r:.300}")
        self.assertIn(answer.status_code, said, f"{role} {operation.method} {url}")

    def made_up(self, operation: Any, examples: int) -> Callable[[], None]:
        """A test that asks one endpoint so many made-up things."""

        @settings(
            max_examples=examples,
            deadline=None,
            phases=[Phase.generate],
            suppress_health_check=list(HealthCheck),
            database=None,
        )
        @given(
            case=operation.as_strategy(), role=st.sampled_from(ROLES), exists=st.sampled_from([True, True, True, False])
        )
        def ask(case: Any, role: str, exists: bool) -> None:
            self.asked(operation, case, role, exists)

        return ask

    def test_no_request_that_can_be_made_up_is_a_fault(self) -> None:
        warnings.simplefilter("ignore")
        for operation in self.operations():
            slow = any(word in operation.path for word in SLOW)
            if operation.path.endswith("/live"):
                continue

            ask = self.made_up(operation, 1 if slow else self.examples)
            with self.subTest(f"{operation.method} {operation.path}"):
                ask()


# What it stands on is tried where it is at home.
for name in [one for one in dir(Isolation) if one.startswith("test_")]:
    setattr(Fuzz, name, None)


def main(minutes: float) -> int:
    """Fuzzes for so many minutes: job files, then requests, in turn until the time is over."""
    import django

    os.environ["BEACON_EXAMPLES"] = "20000"
    os.environ["BEACON_FUZZ"] = "60"
    os.environ["BEACON_CHANGES"] = "1000"
    django.setup()
    from django.test.runner import DiscoverRunner

    until = time.monotonic() + minutes * 60
    rounds = 0
    while time.monotonic() < until:
        rounds += 1
        settings.register_profile("fuzz", derandomize=False, database=None)
        settings.load_profile("fuzz")
        if DiscoverRunner(verbosity=0, interactive=False).run_tests(
            ["tests.core.test_mangled", "tests.fuzz", "tests.server.test_tampering"]
        ):
            return 1
    print(f"{rounds} rounds, no fault.")
    return 0


if __name__ == "__main__":
    sys.exit(main(float(sys.argv[1])))
