"""Every route asked with what its own schema allows and with what it does not: a sentence each, never a failure.

`./ear faults N` asks each route N times as often.
"""

from __future__ import annotations

import os

import schemathesis
from hypothesis import HealthCheck, Phase, settings
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import response_schema_conformance

from tests.support import ROOT, RunningServer

TIMES = int(os.environ.get("EAGER_EAR_FAULTS_TIMES", "1"))
EXAMPLES = 3
# Answers without an end, and bodies that are files: they have tests of their own.
ELSEWHERE = r"/changes$|/live$|^/api/cases$|/(recordings|photos)/\{"

schema = schemathesis.openapi.from_path(ROOT / "frontend" / "src" / "api" / "openapi.json").exclude(
    path_regex=ELSEWHERE
)


@schema.parametrize()
@settings(
    max_examples=EXAMPLES * TIMES,
    deadline=None,
    derandomize=True,
    phases=[Phase.generate],
    suppress_health_check=list(HealthCheck),
)
def test_no_route_fails_on_what_its_schema_allows_or_not(case: schemathesis.Case, server: RunningServer) -> None:
    response = case.call(base_url=server.url, timeout=30)
    case.validate_response(response, checks=[not_a_server_error, response_schema_conformance])
