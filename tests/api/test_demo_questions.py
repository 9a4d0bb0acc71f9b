"""Every question that the pages ask of the demo is answered, and no answer holds a number that is not one."""

import shutil

import pytest

from assayer.services.unit import Workspace

from ..conftest import NOW
from .application import serving
from .demo_questions import questions


@pytest.mark.xdist_group("demo of that day")
def test_every_question_of_the_demo_is_answered(demo_of_that_day, tmp_path):
    workspace = Workspace(shutil.copytree(demo_of_that_day, tmp_path / "data"), lambda: NOW, durable=False)
    refused, asked = [], 0
    try:
        with serving(workspace) as client:
            for _, verb, path, body in questions(client, workspace):
                answer = client.request(verb, path, json=body)
                asked += 1
                if answer.status_code >= 500 or (answer.headers["content-type"].startswith("application/json") and "NaN" in answer.text):
                    refused.append(f"{verb} {path}: {answer.status_code} {answer.text[:200]}")
    finally:
        workspace.close()
    assert asked > 500
    assert not refused
