"""Two tests of one method and orientation in one study: told apart by their shapes wherever they are named."""

import pytest

from assayer.services.bench import queue
from assayer.services.choose import purposes
from assayer.services.choose.requests import CriterionSpec, NewPurpose
from assayer.services.findings import one_test
from assayer.services.studies import listing
from assayer.services.studies.requests import NewTest

from ..support import ACTOR, Lab, new_id


@pytest.fixture
def both(workspace):
    """Shrinkage along x and along y."""
    shapes = (None, "dimension-gauge-across")
    return Lab(workspace, [NewTest(id=new_id(), method="dimensions", orientation="flat", shape=s, replicates=2) for s in shapes])


def test_a_test_is_called_with_its_shape_where_that_is_not_the_usual_one(both):
    wanted = ["Dimensions", "Dimensions, dimension gauge along y"]
    assert [t.label for t in listing.get_study(both.workspace, both.study.id).tests] == wanted
    assert [both.column(t).label for t in both.tests] == wanted
    assert [one_test.findings(both.workspace, t).test.label for t in both.tests] == wanted
    assert [w.label for w in queue.waiting_tests(both.workspace).items] == wanted
    options = purposes.criterion_options(both.workspace, both.study.id).items
    assert [o.test_label for o in options] == wanted
    asked = [CriterionSpec(id=new_id(), test_id=t, quantity="shrinkage", no_use=0.02, all_needed=0) for t in both.tests]
    purpose = purposes.add_purpose(both.workspace, ACTOR, NewPurpose(id=new_id(), study_id=both.study.id, title="Lids", criteria=asked))[0]
    assert [c.test_label for c in purpose.criteria] == wanted
