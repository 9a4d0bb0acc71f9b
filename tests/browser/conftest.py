"""A real server on a free port over a copy of the demo data, and a browser; both are begun anew for each walk, not loaded anew."""

import pytest

from .walk import chrome, running_server, windowless


@pytest.fixture
def server(own_demo, nursery):
    nursery.learn(own_demo)
    with running_server(own_demo, nursery) as running:
        yield running


@pytest.fixture(scope="session")
def one_browser():
    """Started once: starting it takes as long as a short walk."""
    with chrome(windowless()) as started:
        yield started


@pytest.fixture
def walk(server, one_browser):
    one_browser.begin(origin=server.url)
    one_browser.base = server.url
    one_browser.sits_here("Ilse", server.url)
    return one_browser


@pytest.fixture
def tests_of_demo(server):
    study = server.get(f"/api/studies/{server.get('/api/studies')['items'][0]['id']}")
    return {t["orientation"] if t["method"] == "tension" else t["method"]: t["id"] for t in study["tests"]}
