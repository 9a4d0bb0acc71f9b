"""Fixtures that several folders share."""

import shutil
from datetime import UTC, datetime

import pytest

from assayer.demo.scenario import make_demo
from assayer.services.unit import Workspace

NOW = datetime(2026, 6, 15, 10, 0, tzinfo=UTC)


@pytest.fixture(scope="session")
def demo_folder(tmp_path_factory):
    """The demo data, made once; copy it before changing it."""
    folder = tmp_path_factory.mktemp("demo") / "data"
    make_demo(folder, datetime.now(UTC))
    return folder


@pytest.fixture
def own_demo(demo_folder, tmp_path):
    """A copy of the demo data to be changed at will."""
    return shutil.copytree(demo_folder, tmp_path / "data")


@pytest.fixture
def workspace(tmp_path):
    """An empty data folder with a clock that stands still."""
    made = Workspace(tmp_path / "data", lambda: NOW, durable=False)
    yield made
    made.close()
