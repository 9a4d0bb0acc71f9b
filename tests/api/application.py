"""One application for the tests of the API: it is loaded and described once, over whatever notebook a test begins with."""

from collections.abc import Iterator, Mapping
from contextlib import contextmanager

from fastapi.testclient import TestClient

from assayer.api.app import Described, create_app
from assayer.services.safekeeping.jobs import Jobs
from assayer.services.unit import Workspace

APPLICATION = create_app()


@contextmanager
def serving(
    workspace: Workspace, base_url: str = "http://127.0.0.1", headers: Mapping[str, str] | None = None, application: Described = APPLICATION
) -> Iterator[TestClient]:
    """The application over a workspace, as it is just after a start; one test at a time."""
    state = application.state
    state.workspace, state.jobs, state.inspections = workspace, Jobs(workspace), None
    try:
        with TestClient(application, base_url=base_url, headers=headers) as client:
            yield client
        state.jobs.wait()
    finally:
        state.workspace = state.jobs = None
