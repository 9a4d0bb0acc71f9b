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


@pytest.fixture(scope="session")
def migrated(tmp_path_factory):
    """A data folder of the newest schema with nothing in it: migrating anew takes longer than most tests."""
    folder = tmp_path_factory.mktemp("migrated") / "data"
    Workspace(folder, durable=False).close()
    return folder


@pytest.fixture
def data_folder(migrated, tmp_path):
    """An empty data folder of one's own."""
    return shutil.copytree(migrated, tmp_path / "data")


@pytest.fixture
def workspace(data_folder):
    """An empty data folder with a clock that stands still."""
    made = Workspace(data_folder, lambda: NOW, durable=False)
    yield made
    made.close()
