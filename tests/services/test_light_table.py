"""What lies on the light table: of each photograph the trial or print, what was changed for it, and the material."""

from assayer.services.dial_in import light_table
from assayer.services.photos import photos
from assayer.store.models import Specimen

from ..support import ACTOR, new_id
from .test_grading import picture
from .trailhead import Trailhead


def take(workspace, kind, subject, colour, band=None):
    return photos.add_photo(workspace, ACTOR, new_id(), kind, subject, picture(colour), colour, band)[0].id


def told(view):
    return [(i.photo.caption, i.what, [d.name for d in i.changes], i.material) for i in view.items]


def test_a_photograph_says_its_trial_what_it_changed_and_its_material(workspace):
    head = Trailhead(workspace)
    second = head.print(1, {"stringing": 3}, fan=55.0)
    of = "Tarn Clearwater CF, black"
    first, later, spool = (
        take(workspace, kind, subject, colour)
        for kind, subject, colour in (("trial", head.first, "teal"), ("trial", head.trial(second).id, "red"), ("spool", head.spool.id, "navy"))
    )
    lying = light_table.light_table(workspace, [later, first, spool, later, new_id()])
    assert told(lying) == [
        ("red", f"trial {second}, clip", ["fan"], of),
        ("teal", "trial 1, clip", [], of),
        ("navy", f"spool {head.spool.code}", [], of),
    ]
    assert [t[0] for t in told(light_table.photos_to_choose(workspace, 2, None))] == ["navy", "red"]
    assert [t[0] for t in told(light_table.photos_to_choose(workspace, 5, later))] == ["teal"]
    photos.retract_photo(workspace, ACTOR, later, back=False)
    assert [t[0] for t in told(light_table.light_table(workspace, [later, first]))] == ["teal"]
    assert [t[0] for t in told(light_table.photos_to_choose(workspace, 5, None))] == ["navy", "teal"]


def test_specimens_runs_batches_and_bands_say_what_they_are(lab):
    lab.accept(lab.flat, lab.arms[1], ["60"])
    run = next(d for c in lab.column(lab.flat).cells if c.arm_id == lab.arms[1] for d in c.dots if d.value is not None)
    with lab.workspace.read() as session:
        specimen = session.get(Specimen, run.specimen_id)
        batch = specimen.batch_id
    ids = [
        take(lab.workspace, kind, subject, colour)
        for kind, subject, colour in (("specimen", run.specimen_id, "teal"), ("run", run.run_id, "red"), ("batch", batch, "navy"))
    ]
    shown = told(light_table.light_table(lab.workspace, ids))
    assert [t[1] for t in shown] == [f"specimen {run.code}, Tension", f"specimen {run.code}, Tension", "print batch of 15 Jun"]
    assert {t[3] for t in shown} == {"Hollin Clearwater, amber"}
