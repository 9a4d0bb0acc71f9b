"""Everything that the demo shows, held against what it showed when somebody last looked it through.

The demo is made from a seed through the services, so each answer is a second run of the whole chain, from an entry to a
ranking. A change that means to change an answer writes the record anew (tools/record_demo.py) and its difference is
read like code: it names the place and what stood there.
"""

import math
import shutil
from pathlib import Path

import pytest

from assayer.services.unit import Workspace

from ..conftest import NOW
from .application import serving
from .demo_questions import questions
from .fingerprint import Fingerprint, differs

RECORD = Path(__file__).parent / "what_the_demo_shows.txt"


def show(folder: Path) -> dict[str, str]:
    """The demo of one certain day in `folder`, line by line."""
    workspace = Workspace(folder, lambda: NOW, durable=False)
    mark = Fingerprint()
    try:
        with serving(workspace) as client:
            for view, verb, path, body in questions(client, workspace):
                answer = client.request(verb, path, json=body)
                mark.add(f"{view.removeprefix('/api/')} {answer.status_code}", answer)
    finally:
        workspace.close()
    return mark.lines()


@pytest.mark.xdist_group("demo of that day")
def test_every_answer_is_what_it_was(demo_of_that_day, tmp_path):
    kept = dict(line.split("\t") for line in RECORD.read_text("utf-8").splitlines())
    shown = show(shutil.copytree(demo_of_that_day, tmp_path / "data"))
    moved = [place for place in sorted(kept.keys() | shown.keys()) if differs(kept.get(place, ""), shown.get(place, ""))]
    told = [f"{place}: was {kept.get(place, 'not there')}, is {shown.get(place, 'not there')}" for place in moved[:25]]
    assert not moved, f"{len(moved)} places differ; the first:\n" + "\n".join(told)


def test_a_figure_that_moves_and_two_that_change_places_are_seen():
    def told(values):
        mark = Fingerprint()
        mark.walk("x", values)
        return mark.lines()["x[]"]

    assert not differs(told([1.0, 2.0, 3.0]), told([1.0, 2.0, math.nextafter(3.0, 4.0)]))
    for other in ([1.0, 2.0, 3.0001], [2.0, 1.0, 3.0], [1.0, 2.0], [1.0, 2.0, None], [1.0, 2.0, "3"]):
        assert differs(told([1.0, 2.0, 3.0]), told(other)), other
    assert differs(told(["a", "b"]), told(["b", "a"]))
