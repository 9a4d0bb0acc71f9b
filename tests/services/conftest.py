"""What most tests of the services begin with."""

import pytest

from assayer.services.studies.requests import NewTest
from assayer.services.unit import Workspace

from ..conftest import NOW
from ..support import Clock, Lab, new_id


@pytest.fixture
def clock():
    return Clock(NOW)


@pytest.fixture
def lab(data_folder, clock):
    """Two materials pulled flat and upright, four of each, on a clock that a test moves."""
    workspace = Workspace(data_folder, clock, durable=False)
    made = Lab(workspace, [NewTest(id=new_id(), orientation=o, replicates=4) for o in ("flat", "upright")])
    made.flat, made.upright = made.tests
    yield made
    workspace.close()
