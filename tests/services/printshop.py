"""A shop: two materials, a spool of each, a printer of known size; a study that a test plans, lays out and prints."""

from assayer.services.printing import batches, judging, plates, printers
from assayer.services.printing.requests import BatchOutcome, NewBatch, NewPlates, NewPrinter
from assayer.services.stock import intakes, materials, spools
from assayer.services.stock.requests import NewSpool, SpoolEdit
from assayer.services.studies import board, planning
from assayer.services.studies.requests import NewArm, NewStudy, NewTest
from assayer.services.studies.views import BoardView
from assayer.services.unit import Actor

from ..support import ACTOR, material, new_id

TOMAS = Actor("Tomas", "Europe/Berlin")


class Shop:
    """Two materials, a spool of each, a printer of known size; a study that a test plans."""

    def __init__(self, workspace):
        self.workspace = workspace
        made = [material("Everyday", density=1.24), material("Tough", density=1.1)]
        self.spools = []
        for m in made:
            materials.add_material(workspace, ACTOR, m)
            day = workspace.clock().date()
            spool = intakes.add_spool(workspace, ACTOR, NewSpool(id=new_id(), material_id=m.id, lot=f"L-{m.product}", received_on=day, label_net=1000))
            spools.edit_spool(workspace, ACTOR, spool[0].id, SpoolEdit(empty=200), spool[0].revision)
            self.spools.append(spool[0].id)
        self.materials = [m.id for m in made]
        self.printer = self.add_printer("One")

    def add_printer(self, name, **more):
        sizes = {"build_x": 220, "build_y": 210, "build_z": 200} | more
        return printers.add_printer(self.workspace, ACTOR, NewPrinter(id=new_id(), name=name, **sizes))[0].id

    def study(self, arms=None, tests=None, **more):
        arms = arms or [NewArm(id=new_id(), material_id=m) for m in self.materials]
        tests = tests or [NewTest(id=new_id(), orientation="flat", replicates=5), NewTest(id=new_id(), orientation="upright", replicates=4, spares=1)]
        return planning.create_study(self.workspace, ACTOR, NewStudy(id=new_id(), title="t", arms=arms, tests=tests, **more))[0]

    def lay(self, study, **more):
        return plates.lay_plates(self.workspace, TOMAS, study.id, NewPlates(**{"printer_id": self.printer} | more))

    def print(self, plate, **more):
        told = {"id": new_id(), "arm_id": plate.arm_id, "plate_id": plate.id, "printer_id": plate.printer_id, "printed_at": self.workspace.clock()}
        return batches.print_batch(self.workspace, ACTOR, NewBatch(**told | more))[0]

    def judge(self, batch, outcome, *which, fault=""):
        told = [{"specimen_id": batch.specimens[i].id, "outcome": outcome, "fault": fault} for i in which]
        return judging.judge_batch(self.workspace, TOMAS, batch.id, BatchOutcome(specimens=told))

    def plates(self, study):
        return plates.plates_of(self.workspace, study.id)

    def column(self, study):
        return BoardView.model_validate_json(board.board(self.workspace, study.id)[0]).columns[0]

    def used(self, i):
        return spools.get_spool(self.workspace, self.spools[i]).uses
