"""A material, a spool, a printer and a trail with its first trial, as several tests of the dial-in begin."""

from assayer.services.dial_in import trails, trials
from assayer.services.dial_in.requests import GradeIn, NewTrail, NewTrial, SetIn, TrialRecord
from assayer.services.printing import printers
from assayer.services.printing.requests import NewPrinter
from assayer.services.stock.requests import WindowIn

from ..support import ACTOR, new_id
from .stockroom import add_petg, ago, spool_of

WINDOW = WindowIn(nozzle_low=220, nozzle_high=250, bed_low=70, bed_high=85, flow_max=8, dry_temperature=65, dry_time=8, source="leaflet")


class Trailhead:
    """A trail of one material on one printer; trials are planned and recorded in one step."""

    def __init__(self, workspace):
        self.workspace = workspace
        self.material = add_petg(workspace, window=WINDOW)
        self.spool = spool_of(workspace, material_id=self.material)
        new = NewPrinter(id=new_id(), name="Warm Box", nozzle=0.6, hardened=True, nozzle_hottest=280, bed_hottest=110, acceleration=1500)
        self.printer = printers.add_printer(workspace, ACTOR, new)[0]
        self.id = new_id()
        self.first = new_id()
        trails.add_trail(
            workspace,
            ACTOR,
            NewTrail(id=self.id, material_id=self.material, printer_id=self.printer.id, purpose="Clip", part="clip", trial_id=self.first),
        )

    @property
    def view(self):
        return trails.get_trail(self.workspace, self.id)

    def trial(self, number):
        return next(t for t in self.view.trials if t.number == number)

    def plan(self, parent, series=None, control=None, part=None, **changes):
        """The number of a trial planned from another."""
        key = new_id()
        held = {name: value if isinstance(value, SetIn) or value is None else SetIn(value=value) for name, value in changes.items()}
        new = NewTrial(id=key, parent_id=self.trial(parent).id, changes=held, series=series, control_material_id=control, part=part)
        trials.add_trial(self.workspace, ACTOR, new)
        return next(t.number for t in self.view.trials if t.id == key)

    def record(self, number, grades=None, actor=ACTOR, **told):
        """Note what came of a trial; grades by trait."""
        t = self.trial(number)
        given = grades if isinstance(grades, list) else [GradeIn(id=new_id(), trait=name, grade=value) for name, value in (grades or {}).items()]
        record = TrialRecord(**{"outcome": "good", "printed_at": ago(10 - number / 10), "grades": given} | told)
        return trials.record_trial(self.workspace, actor, t.id, record, t.revision)

    def print(self, parent, grades=None, told=None, **changes):
        number = self.plan(parent, **changes)
        self.record(number, grades, **told or {})
        return number
