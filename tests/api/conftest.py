"""The application over a copy of the demo data, as most tests of the API begin."""

import pytest

from assayer.services.unit import Workspace

from .application import serving


@pytest.fixture
def app(own_demo):
    workspace = Workspace(own_demo, durable=False)
    with serving(workspace, "http://127.0.0.1:8717") as client:
        yield client
    workspace.close()


@pytest.fixture
def study(app):
    return app.get(f"/api/studies/{app.get('/api/studies').json()['items'][0]['id']}").json()
