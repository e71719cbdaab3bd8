"""Whatever is sent to whichever call: an answer that the service's own document describes, never a fault of ours.

A few examples a call in CI; all of them by `HIGHSHELF_FUZZ=100 .venv/bin/python -m pytest tests/service/test_fuzz.py`.
Left out are event streams, which never end by themselves, and calls whose work is done on somebody else's host.
"""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path

import pytest
import schemathesis
from hypothesis import HealthCheck, settings
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    response_schema_conformance,
    status_code_conformance,
)

from highshelf.service.app import create_app
from tests.support import Service

EXAMPLES = int(os.environ.get("HIGHSHELF_FUZZ", "8"))
STREAMS = r"/(watch|jobs/\{job_id\}/events)$"
ON_HOSTS = r"/accounts/\{name\}/(check|root|locate|sites)$|/releases/fetch"
CHECKS = [not_a_server_error, status_code_conformance, content_type_conformance, response_schema_conformance]
# The calls that would end the run for all others: the sign-in counts tries, and operators are not to be removed meanwhile.
schema = (
    schemathesis.openapi.from_dict(create_app(Path("unused")).openapi())
    .exclude(path_regex=STREAMS)
    .exclude(path_regex=ON_HOSTS)
)


@pytest.fixture(scope="module")
def service(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Service]:
    running = Service(tmp_path_factory.mktemp("fuzz") / "data")
    running.inside = ""
    running.start()
    yield running
    running.stop()


@schema.parametrize()
@settings(max_examples=EXAMPLES, deadline=None, derandomize=True, suppress_health_check=list(HealthCheck))
def test_every_answer_is_one_that_is_described(case: schemathesis.Case, service: Service) -> None:
    headers = {"Authorization": f"Bearer {service.token}", "Sec-Fetch-Site": "same-origin"}
    case.call_and_validate(
        base_url=f"http://127.0.0.1:{service.port}",
        headers=headers,
        checks=CHECKS,  # type: ignore[arg-type]
        timeout=60,
    )


def test_nothing_of_it_was_a_fault_in_the_log(service: Service) -> None:
    log = service.log.read_text()
    assert "Traceback" not in log and "'fault'" not in log, log[-3000:]
