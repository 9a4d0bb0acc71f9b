"""What most tests of the services begin with."""

import copy
import shutil

import pytest

from assayer.services.bench import runs, specimens
from assayer.services.studies.requests import NewTest
from assayer.services.unit import Workspace

from ..conftest import NOW
from ..support import Clock, Lab, new_id
from .loft import Loft


@pytest.fixture(autouse=True)
def what_an_entry_answers_is_what_is_read_afterwards(monkeypatch):
    """It is put together of what is being kept, not read back: held wherever a test enters anything."""
    accept = runs.accept

    def checked(workspace, actor, new):
        answered, is_new = accept(workspace, actor, new)
        assert answered.model_dump_json() == specimens.get_run(workspace, answered.id).model_dump_json()
        return answered, is_new

    monkeypatch.setattr(runs, "accept", checked)


@pytest.fixture
def clock():
    return Clock(NOW)


@pytest.fixture(scope="session")
def _made(migrated, tmp_path_factory):
    """Labs as they were once set up, by name."""
    made = {}

    def set_up(name, build):
        if name not in made:
            folder = shutil.copytree(migrated, tmp_path_factory.mktemp(name) / "data")
            workspace = Workspace(folder, Clock(NOW), durable=False)
            made[name] = folder, build(workspace)
            workspace.close()
        return made[name]

    return set_up


@pytest.fixture
def once(_made, tmp_path, clock):
    """A lab of one's own, copied from one that is set up once a session: making it anew takes longer than most tests."""
    opened = []

    def lab(name, build):
        folder, made = _made(name, build)
        own = copy.deepcopy(made, {id(made.workspace): None})
        own.workspace = Workspace(shutil.copytree(folder, tmp_path / name), clock, durable=False)
        opened.append(own.workspace)
        return own

    yield lab
    for workspace in opened:
        workspace.close()


def _two_materials(workspace):
    made = Lab(workspace, [NewTest(id=new_id(), orientation=o, replicates=4) for o in ("flat", "upright")])
    made.flat, made.upright = made.tests
    return made


@pytest.fixture
def lab(once):
    """Two materials pulled flat and upright, four of each, on a clock that a test moves."""
    return once("two materials", _two_materials)


@pytest.fixture
def loft(once, clock):
    made = once("loft", Loft)
    made.clock = clock
    return made
