"""Whatever is sent to whichever operation: no fault of ours, problems in our words, true answers.

Cases are drawn from the API's own description, right ones and wrong ones, and sent as each role;
half of them name things that there are.
"""

import json
import random
from collections.abc import Iterator

import pytest
import schemathesis
from django.conf import settings as django_settings
from django.test import Client
from hypothesis import HealthCheck, Phase, given, settings
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    response_schema_conformance,
)
from yoke_server.accounts.models import User
from yoke_server.config.api import api
from yoke_server.derive.computing import derive_stale
from yoke_server.report.services import write_report

from tests import processes, recorded

CASES = 5  # an operation, each sent as every role
PARTS = 2  # so that workers share them
ROLES = [None, "reviewer", "technician", "engineer"]  # who may do the most comes last
LEFT_OUT = {
    *(("/api/session", "delete", role) for role in ROLES),  # what comes after would be a stranger's
    ("/api/welcome", "get", None),  # open to strangers: it says whether anybody can sign in yet
}
PROBLEM = "application/problem+json"
CHECKS = [content_type_conformance, response_schema_conformance]
TOKEN = "t" * 32

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def things(setup, engineer):
    """A run with a report, and the numbers of all things that there are."""
    run = recorded.record(setup, [recorded.block(i) for i in range(20)])
    derive_stale(setup.pk)
    report = write_report(engineer, run.pk)
    return {
        "setup_id": setup.pk,
        "bench_id": setup.bench_id,
        "run_id": run.pk,
        "report_id": report.pk,
        "channel_id": setup.channels.first().pk,
        "number": 1,
        "device_id": setup.bench.devices.first().pk,
        "task_id": 1,
        "channel": setup.channels.first().key,
    }


@pytest.fixture
def address(database, setup):
    with processes.web(database, YOKE_ORDER_SECONDS="0.01") as found:
        yield found


def cookies_of(role) -> dict[str, str]:
    if role is None:
        return {}
    client = Client()
    client.force_login(User.objects.get(username=role))
    return {"sessionid": client.cookies["sessionid"].value, "csrftoken": TOKEN}


def operations(address) -> Iterator[object]:
    schema = schemathesis.openapi.from_dict(api.get_openapi_schema())
    schema.config.update(base_url=address)
    for found in schema.get_all_operations():
        yield found.ok()


@pytest.mark.parametrize("part", range(PARTS))
def test_any_request_has_an_answer_that_fits_each_role(address, things, part):
    dice, cookies = random.Random(7), {role: cookies_of(role) for role in ROLES}
    for operation in list(operations(address))[part::PARTS]:

        @settings(
            max_examples=CASES,
            deadline=None,
            database=None,
            derandomize=True,
            phases=[Phase.generate],
            suppress_health_check=list(HealthCheck),
        )
        @given(case=operation.as_strategy())
        def check(case):
            for place in (case.path_parameters, case.query):
                for name in set(place or ()) & set(things):
                    if dice.random() < 0.6:
                        place[name] = things[name]
            case.headers.clear()
            for role in ROLES:
                if (case.operation.path, case.operation.method, role) in LEFT_OUT:
                    continue
                response = case.call(cookies=cookies[role], headers={"X-CSRFToken": TOKEN})
                case.validate_response(response, checks=CHECKS)
                a_problem_where_it_failed(response, role)

        check()


def a_problem_where_it_failed(response, role):
    status = response.status_code
    assert status < 500 or status == 503, response.text  # no recorder answers here
    if role is None:
        assert status in (401, 403, 413, 422, 429), response.text
    if status < 400:
        return
    assert response.headers["content-type"][0] == PROBLEM
    problem = json.loads(response.content)
    assert problem["status"] == status
    assert problem["title"].endswith(".")
    if status == 422:
        assert problem["field"], problem
    assert "Traceback" not in response.text
    assert django_settings.SECRET_KEY not in response.text
