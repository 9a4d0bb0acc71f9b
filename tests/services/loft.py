"""Two racks and frames under load, as several tests of rounds begin."""

from datetime import timedelta

from assayer.services.bench import rounds, runs
from assayer.services.bench.requests import NewRun
from assayer.services.rigs import rigs
from assayer.services.sessions.requests import Place, RoomReading
from assayer.services.studies.requests import NewTest
from assayer.services.unit import Actor

from ..conftest import NOW
from ..support import ACTOR, Lab, channel, new_id, reading, rig

TOMAS = Actor("Tomas", "Europe/Berlin")
HOUR = timedelta(hours=1)
SCHEDULE = {"load": 24.0, "horizon": 36000.0, "due": [60, 3600, 14400, 36000], "recovery_due": [360, 3600]}


class Loft(Lab):
    """Two racks, and a creep test with a schedule of its own."""

    def __init__(self, workspace, clock=None, tests=None):
        super().__init__(workspace, tests or [NewTest(id=new_id(), method="creep", orientation="flat", replicates=4, protocol=SCHEDULE)])
        self.clock = clock
        gap = [channel("gap", "mm", 0.01, decimals=2, high=150)]
        self.loft = rigs.add_rig(workspace, ACTOR, rig(name="Loft rack", methods=["creep"], channels=gap, places=4))[0]
        self.cellar = rigs.add_rig(workspace, ACTOR, rig(name="Cellar rack", methods=["creep"], channels=gap, places=2))[0]
        self.sessions = {self.loft.id: new_id(), self.cellar.id: new_id()}

    def hang(self, place=0, arm=0, rack=None, test=None, actor=ACTOR):
        rack, test = rack or self.loft, test or self.tests[0]
        specimen = self.specimens(test, self.arms[arm], "waiting")[0]
        new = NewRun(
            id=new_id(), subject_id=specimen, test_id=test, rig_version_id=rack.id, happened_at=self.clock.now, complete=False, readings=[],
            place=Place(session_id=self.sessions[rack.id], position=place),
        )  # fmt: skip
        runs.accept(self.workspace, actor, new)
        return new

    def add(self, new, *readings, actor=ACTOR, complete=False, room=None, **more):
        place = (
            new.place
            if room is None
            else Place(session_id=new.place.session_id, position=new.place.position, room=RoomReading(id=new_id(), raw=room, at=self.clock.now))
        )
        change = {"readings": list(readings), "complete": complete, "place": place, "happened_at": self.clock.now} | more
        return runs.accept(self.workspace, actor, new.model_copy(update=change))[0]

    def load(self, new, at=0.0, unloaded="2000"):
        self.clock.now = NOW + at * HOUR
        self.add(new, reading("unloaded", unloaded), reading("load_on", "", happened_at=self.clock.now))

    def read(self, new, hours, raw, position, ambient=21.0, **more):
        self.clock.now = NOW + hours * HOUR
        return self.add(new, reading("gap", raw, position, happened_at=self.clock.now, ambient_c=ambient), **more)

    def through(self, new, last="2080", ambient=21.0):
        """All readings of the schedule, taken off at the end."""
        self.load(new)
        for hours, raw, i in ((1 / 60, "2040", 0), (1, "2050", 1), (4, "2060", 2)):
            self.read(new, hours, raw, i, ambient)
        return self.read(new, 10, last, 3, ambient, complete=True, outcome="carried")

    def view(self, rack=None, station="st", blind=False):
        return rounds.get_rack(self.workspace, (rack or self.loft).rig_id, station, blind)

    def item(self, rack=None):
        return next(i for i in rounds.list_racks(self.workspace).items if i.rig_version_id == (rack or self.loft).id)
