"""Photographs of a test's specimens by arm, and its breaks on a Weibull plot."""

import io

import pytest
from PIL import Image

from assayer.core.errors import EntryError
from assayer.core.stats.weibull import fit_weibull, plotting_positions
from assayer.services.bench import runs
from assayer.services.bench.requests import RunEdit
from assayer.services.findings.specimen_photos import specimen_photos
from assayer.services.findings.strength_spread import strength_spread
from assayer.services.photos import photos
from assayer.services.studies.requests import NewTest
from assayer.services.unit import Actor

from ..support import ACTOR, Lab, new_id
from .test_batches_and_bounds import Batched

TOMAS = Actor("Tomas")


def picture():
    out = io.BytesIO()
    Image.new("RGB", (40, 30), "#884422").save(out, "PNG")
    return out.getvalue()


def test_photographs_before_and_after_the_test_by_arm(workspace):
    lab = Batched(workspace, ("flat", "upright"))
    (first, *_), (other, *_) = lab.pull(0, (40.0, 41.0)), lab.pull(1, (50.0,))
    upright = lab.pull(0, (20.0,), test=lab.tests[1])[0]
    waiting = lab.specimens(lab.flat, lab.arms[1], "waiting")[0]
    for kind, key in (("run", first.id), ("specimen", waiting), ("run", other.id), ("run", upright.id)):
        photos.add_photo(workspace, ACTOR, new_id(), kind, key, picture(), kind)
    found = specimen_photos(workspace, lab.flat).items
    assert [(p.arm_id, p.photo.subject_kind, p.run_id) for p in found] == [
        (lab.arms[0], "run", first.id), (lab.arms[1], "specimen", None), (lab.arms[1], "run", other.id),
    ]  # fmt: skip
    photos.retract_photo(workspace, TOMAS, found[0].photo.id, back=False)
    assert len(specimen_photos(workspace, lab.flat).items) == 2


def test_the_spread_of_what_counts(workspace):
    lab = Batched(workspace)
    lab.print_again((0,))
    made = lab.pull(0, (18.0, 25.0, 22.0, 31.0, 28.0))
    lab.pull(0, (26.0,), outcome="grip", outcome_place=0.1)
    lab.pull(1, (40.0, 41.0))
    one, two = strength_spread(workspace, lab.flat).arms
    fit = fit_weibull((18.0, 25.0, 22.0, 31.0, 28.0), (26.0,))
    assert (one.shape, one.scale, one.bounds) == (pytest.approx(fit.shape, rel=1e-3), pytest.approx(fit.scale, rel=1e-3), 1)
    expected = plotting_positions((18.0, 25.0, 22.0, 31.0, 28.0), (26.0,))
    assert [share for _, share in one.points] == pytest.approx([share for _, share in expected])
    assert (two.shape, len(two.points), "at least 3 breaks" in two.reason) == (None, 2, True)
    runs.edit_run(workspace, TOMAS, made[0].id, RunEdit(validity="left_out", validity_reason="slipped"), None)
    assert len(strength_spread(workspace, lab.flat).arms[0].points) == 4


def test_a_temperature_has_no_weibull_plot(workspace):
    lab = Lab(workspace, [NewTest(id=new_id(), method="heat-ramp", orientation="flat", replicates=2)], methods=["heat-ramp", "tension"])
    with pytest.raises(EntryError, match="no Weibull plot"):
        strength_spread(workspace, lab.tests[0])
