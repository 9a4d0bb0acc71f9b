"""A real server on a free port over a copy of the demo data, and a browser."""

import pytest

from .walk import browser, running_server


@pytest.fixture
def server(own_demo):
    with running_server(own_demo) as running:
        yield running


@pytest.fixture
def walk(server):
    with browser() as walking:
        walking.base = server.url
        walking.open(server.url + "/studies")
        walking.driver.execute_script("localStorage.setItem('assayer.person', 'Ilse')")
        yield walking


@pytest.fixture
def tests_of_demo(server):
    study = server.get(f"/api/studies/{server.get('/api/studies')['items'][0]['id']}")
    return {t["orientation"] if t["method"] == "tension" else t["method"]: t["id"] for t in study["tests"]}
