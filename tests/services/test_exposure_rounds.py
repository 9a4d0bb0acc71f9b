"""A bath through the services: mass, sizes and grades at each visit, what is asked about, and what findings make of it."""

from datetime import timedelta

import pytest

from assayer.core.errors import QuestionError
from assayer.services.bench import rounds, runs
from assayer.services.bench.requests import NewRun
from assayer.services.findings import one_test
from assayer.services.rigs import rigs
from assayer.services.sessions.requests import Place
from assayer.services.studies.requests import NewTest
from assayer.services.unit import Actor, Workspace

from ..conftest import NOW
from ..support import ACTOR, Clock, Lab, channel, new_id, reading, rig

TOMAS = Actor("Tomas", "Europe/Berlin")
DAY = 86400


class Bath(Lab):
    """Two coupons of each of two materials in one bath; sizes measured and looks graded at each visit."""

    def __init__(self, workspace, clock, **protocol):
        told = {"due": [DAY, 7 * DAY], "sizes": 1, "looks": 1} | protocol
        super().__init__(workspace, [NewTest(id=new_id(), method="exposure", orientation="flat", replicates=2, protocol=told)])
        self.clock, self.test, self.session = clock, self.tests[0], new_id()
        shown = [channel("mass", "g", 0.0001, dimension="mass", high=120), channel("length", "cm", 0.001, dimension="length", high=15)]
        self.bath = rigs.add_rig(workspace, ACTOR, rig(name="Bath", methods=["exposure"], channels=shown, places=4))[0]
        self.runs = []

    def lower(self, arm, place):
        specimen = self.specimens(self.test, self.arms[arm], "waiting")[0]
        told = [reading("mass_before", "100"), *(reading("sizes_before", raw, about=name) for name, raw in (("length", "6.0"), ("thickness", "0.1")))]
        new = NewRun(
            id=new_id(), subject_id=specimen, test_id=self.test, rig_version_id=self.bath.id, happened_at=self.clock.now, complete=False,
            readings=[*told, reading("exposed", "", happened_at=self.clock.now)], place=Place(session_id=self.session, position=place),
        )  # fmt: skip
        runs.accept(self.workspace, ACTOR, new)
        self.runs.append(new)
        return new

    def read(self, new, *readings, actor=ACTOR, **more):
        told = [r.model_copy(update={"happened_at": self.clock.now}) for r in readings]
        return runs.accept(self.workspace, actor, new.model_copy(update={"readings": told, "happened_at": self.clock.now} | more))[0]

    def member(self, new):
        return next(m for m in rounds.get_rack(self.workspace, self.bath.rig_id, "st", False).members if m.run_id == new.id)


@pytest.fixture
def bath(data_folder):
    clock = Clock(NOW)
    made = Workspace(data_folder, clock, durable=False)
    yield Bath(made, clock)
    made.close()


def test_a_place_tells_what_is_read_beside_the_mass_in_the_units_of_its_rig(bath):
    new = bath.lower(0, 0)
    member = bath.member(new)
    told = [(b.field, b.about, b.unit, len(b.grades), b.before) for b in member.along]
    assert told == [
        *(("sizes_before", n, "cm", 0, True) for n in ("length", "width", "thickness")),
        *(("sizes", n, "cm", 0, False) for n in ("length", "width", "thickness")),
        *((n, None, "grade", 5, False) for n in ("looks", "feel", "distortion")),
    ]
    assert [(r.field, r.about, r.position) for r in member.along_read] == [("sizes_before", "length", 0), ("sizes_before", "thickness", 0)]
    bath.clock.now = NOW + timedelta(days=1)
    bath.read(new, reading("mass", "101"), reading("looks", "3", about="Ilse"))
    bath.read(new, reading("looks", "2", about="Tomas"), actor=TOMAS)
    assert [(r.field, r.about, r.position) for r in bath.member(new).along_read if r.field == "looks"] == [("looks", "Ilse", 0), ("looks", "Tomas", 0)]


def test_each_size_is_held_against_its_own_course_and_may_shrink_a_little(bath):
    new = bath.lower(0, 0)
    bath.clock.now = NOW + timedelta(days=1)
    bath.read(new, reading("mass", "101"), *(reading("sizes", raw, about=n) for n, raw in (("length", "6.06"), ("thickness", "0.103"))))
    bath.clock.now = NOW + timedelta(days=7)
    kept = bath.read(new, reading("mass", "102", 1), reading("sizes", "5.95", 1, about="length"), reading("looks", "0", 1, about="Ilse"))
    shown = ["mass_before", "sizes_before", "sizes_before", "exposed", "mass", "mass", "sizes", "sizes", "sizes", "looks"]
    assert [r.field for r in kept.readings] == shown, "as the method goes, the event before what is counted from it"
    assert {r.quantity: r.value for r in kept.results}[f"size_change@{7 * DAY}@length"] == pytest.approx(-100 * 0.05 / 6)
    with pytest.raises(QuestionError) as asked:
        bath.read(new, reading("sizes", "0.089", 1, about="thickness"))
    assert [q.text.split(":")[0] for q in asked.value.questions] == ["size, thickness 0.89 mm runs backwards"]


def test_before_the_last_visit_board_and_findings_show_the_latest_and_grades_are_compared_by_ranks(bath):
    for place, arm in enumerate((0, 1, 0, 1)):
        bath.lower(arm, place)
    assert one_test.findings(bath.workspace, bath.test).quantity.name == f"mass_change@{7 * DAY}"
    for position, days in ((0, 1), (1, 7)):
        bath.clock.now = NOW + timedelta(days=days)
        for place, new in enumerate(bath.runs):
            looks = (4, 1, 4, 2)[place] if days == 7 else 4
            bath.read(new, reading("mass", f"{101 + days / 7 + place / 100:.2f}", position), reading("looks", str(looks), position, about="Ilse"))
        shown = one_test.findings(bath.workspace, bath.test)
        assert shown.quantity.name == f"mass_change@{days * DAY}"
        assert shown.arms[0].group.n == 2
        column = bath.column(bath.test)
        assert (column.quantity, column.quantity_label) == (shown.quantity.name, shown.quantity.label)
        assert [c.group.mean for c in column.cells] == [a.group.mean for a in shown.arms]
    looks = one_test.findings(bath.workspace, bath.test, f"looks@{7 * DAY}")
    found = next(a.verdict for a in looks.arms if a.verdict is not None and a.verdict.word != "reference")
    # two against two tell at most p = 1/3, however far they are apart
    assert (found.word, found.notes) == ("undecided", ["no clear difference between the grades (p 0.33)"])
    assert (looks.anova, looks.pairs, looks.agreement) == (None, [], None)
    assert [a.group.mean for a in looks.arms] == [4.0, 1.5]
