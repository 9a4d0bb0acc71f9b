"""Schemathesis against the description: no answer but the declared ones, whatever is sent."""

import shutil

import pytest
import schemathesis
from hypothesis import HealthCheck, settings

from assayer.services.unit import Workspace

from .application import APPLICATION, serving

schema = schemathesis.openapi.from_asgi("/api/openapi.json", APPLICATION, headers={"Host": "127.0.0.1"})
# the methods it tries beside the declared ones, and each bound by itself, cost minutes
schema.config.phases.coverage.enabled = False


@pytest.fixture(scope="module", autouse=True)
def _data(demo_folder, tmp_path_factory):
    workspace = Workspace(shutil.copytree(demo_folder, tmp_path_factory.mktemp("fuzz") / "data"), durable=False)
    with serving(workspace):
        yield
    workspace.close()


@schema.parametrize()
@settings(max_examples=5, deadline=None, derandomize=True, suppress_health_check=list(HealthCheck), database=None)
def test_answers_are_the_declared_ones(case):
    response = case.call(headers={"Host": "127.0.0.1"})
    assert response.status_code < 500 or response.status_code == 507, response.text
    declared = case.operation.definition.raw["responses"]
    assert str(response.status_code) in declared, (response.status_code, response.text[:500])
    if response.status_code >= 400:
        assert response.headers["content-type"][0] == "application/problem+json"
