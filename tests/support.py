"""Made-up entries that several tests use."""

from datetime import UTC, datetime

from assayer.core.ids import uuid7
from assayer.services.bench import queue, runs
from assayer.services.bench.requests import NewReading, NewRun
from assayer.services.printing import batches
from assayer.services.printing.requests import NewBatch
from assayer.services.rigs import rigs
from assayer.services.rigs.requests import NewChannel, NewRig
from assayer.services.stock import materials
from assayer.services.stock.requests import NewMaterial
from assayer.services.studies import board, planning
from assayer.services.studies.requests import NewArm, NewStudy
from assayer.services.studies.views import BoardView
from assayer.services.unit import Actor

ACTOR = Actor("Ilse", "Europe/Berlin")
AT = datetime(2026, 6, 15, 9, 0, tzinfo=UTC)


def new_id():
    return str(uuid7(datetime.now(UTC)))


def material(product="Everyday", colour="amber", **more):
    return NewMaterial(**{"id": new_id(), "maker": "Hollin", "product": product, "polymer": "PLA", "colour": colour, "hex": "#D9962B"} | more)


def channel(name, unit, step, dimension=None, **more):
    return NewChannel(name=name, dimension=dimension or ("force" if name == "force" else "length"), unit=unit, step=step, **more)


def rig(**more):
    """A pull frame that shows kgf, with a calliper."""
    channels = [channel("force", "kgf", 0.1), channel("length", "mm", 0.01)]
    return NewRig(**{"id": new_id(), "version_id": new_id(), "name": "Pull frame", "methods": ["tension"], "channels": channels} | more)


def reading(field, raw, position=0, **more):
    return NewReading(**{"id": new_id(), "field": field, "position": position, "raw": raw} | more)


def run(specimen_id, test_id, rig_version_id, peak="60.2", width=("4.02",), thickness=("3.97",), **more):
    readings = [reading("width", v, i) for i, v in enumerate(width)] + [reading("thickness", v, i) for i, v in enumerate(thickness)]
    if peak is not None:
        readings.append(reading("peak_force", peak))
    base = {"id": new_id(), "subject_id": specimen_id, "test_id": test_id, "rig_version_id": rig_version_id, "happened_at": AT, "readings": readings}
    return NewRun(**base | more)


def printed(workspace, study, at=AT, spools=()):
    """All that the study plans, printed: one batch an arm."""
    for arm in study.arms:
        new = NewBatch(id=new_id(), arm_id=arm.id, spool_id=dict(spools).get(arm.id), printed_at=at)
        batches.print_batch(workspace, ACTOR, new)
    return study


def jack(workspace, **more):
    """A second rig, that shows N."""
    shown = [channel("force", "N", 1, high=2000), channel("length", "mm", 0.01)]
    return rigs.add_rig(workspace, ACTOR, rig(**{"name": "Jack", "channels": shown} | more))[0]


class Clock:
    """The instant as a test sets it."""

    def __init__(self, now):
        self.now = now

    def __call__(self):
        return self.now


class Lab:
    """Two materials, some tests, everything printed, nothing tested yet: what wiring tests go through."""

    def __init__(self, workspace, tests, products=("Everyday", "Clearwater"), **rigs_more):
        self.workspace = workspace
        arms = []
        for product in products:
            m = material(product)
            materials.add_material(workspace, ACTOR, m)
            arms.append(NewArm(id=new_id(), material_id=m.id))
        self.rig = rigs.add_rig(workspace, ACTOR, rig(**rigs_more))[0].id
        new = NewStudy(id=new_id(), title="t", arms=arms, tests=tests)
        self.study = printed(workspace, planning.create_study(workspace, ACTOR, new)[0])
        self.tests = [t.id for t in self.study.tests]
        self.arms = [a.id for a in self.study.arms]

    def specimens(self, test, arm, state=None):
        items = queue.queue(self.workspace, test, "st", blind=False).items
        return [i.specimen_id for i in items if i.arm.id == arm and (state is None or i.state == state)]

    def accept(self, test, arm, peaks, **more):
        free = self.specimens(test, arm, "waiting")
        return [runs.accept(self.workspace, ACTOR, run(s, test, self.rig, p, **more))[0] for s, p in zip(free, peaks, strict=False)]

    def column(self, test):
        found = BoardView.model_validate_json(board.board(self.workspace, self.study.id)[0])
        return next(c for c in found.columns if c.test_id == test)

    def cell(self, test, arm):
        return next(c for c in self.column(test).cells if c.arm_id == arm)
