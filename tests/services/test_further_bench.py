"""The further methods through the services: features by name, breaks told apart, a bath with its rounds, files of other rigs, how a test is set."""

from datetime import timedelta

import numpy as np
import pytest

from assayer.core.errors import EntryError, QuestionError, UnclearFileError
from assayer.core.shapes.gauges import DIMENSION_GAUGE
from assayer.services.bench import curves, rounds, runs
from assayer.services.bench.preview import preview_entry
from assayer.services.bench.requests import Correction, NewRun, PreviewRequest, RawField, RunEdit
from assayer.services.reports import dossier
from assayer.services.rigs import rigs
from assayer.services.rigs.methods import declarations
from assayer.services.sessions.requests import Place
from assayer.services.studies import changing, listing, scatter
from assayer.services.studies.requests import NewTest, StudyEdit

from ..conftest import NOW
from ..support import ACTOR, AT, Lab, channel, new_id, reading, rig

DAY = timedelta(days=1)


class Hall(Lab):
    """One test of one of the further methods, with a rig that does it."""

    def __init__(self, workspace, method, channels, replicates=3, protocol=None, products=("Everyday", "Clearwater"), **rig_more):
        tests = [NewTest(id=new_id(), method=method, orientation="flat", replicates=replicates, protocol=protocol or {})]
        super().__init__(workspace, tests, products, name=f"frame {new_id()}")
        made = rig(name=f"rig of {method}", methods=[method], channels=channels, **rig_more)
        self.own_rig = rigs.add_rig(workspace, ACTOR, made)[0]
        self.test = self.tests[0]

    def enter(self, readings, arm=0, **more):
        specimen = self.specimens(self.test, self.arms[arm], "waiting")[0]
        base = {"id": new_id(), "subject_id": specimen, "test_id": self.test, "rig_version_id": self.own_rig.id, "happened_at": AT, "readings": readings}
        return runs.accept(self.workspace, ACTOR, NewRun(**base | more))[0]

    def column(self):
        return Lab.column(self, self.test)


# ---- dimensions: readings that tell what they are of ---------------------------------------------


@pytest.fixture
def hall(workspace):
    return Hall(workspace, "dimensions", [channel("length", "mm", 0.01)])


def gauge(shrinks=0.004, offset=0.03, **other):
    rows = []
    for i, f in enumerate(DIMENSION_GAUGE.features):
        size = (1 - shrinks) * f.nominal + 2 * offset * {"outer": 1, "inner": -1, "centre": 0}[f.kind]
        rows.append(reading("measured", other.get(f.name.replace(" ", "_"), f"{size:.4f}"), i, about=f.name))
    return rows


def test_features_are_kept_by_name_fitted_and_drawn(hall):
    told = hall.enter(gauge())
    found = {r.quantity: r.value for r in told.results}
    assert found["shrinkage"] == pytest.approx(0.004, abs=2e-5)
    assert found["contour_offset"] == pytest.approx(0.03, abs=2e-3)
    assert told.readings[0].about == "outer 10"
    drawn = listing.get_study(hall.workspace, hall.study.id).tests[0]
    assert [f.name for f in drawn.shape.features][:2] == ["outer 10", "outer 20"]
    assert b'"line outer"' in curves.run_curve(hall.workspace, told.id)


def test_a_feature_is_asked_about_by_its_own_size_and_not_by_its_neighbours(hall):
    with pytest.raises(QuestionError) as error:
        hall.enter(gauge(outer_40="3.98"))
    asked = error.value.questions[0]
    assert (asked.row, asked.likely) == (3, "39.8")
    assert asked.text.startswith("outer 40: ")
    with pytest.raises(EntryError, match="say what of the specimen it is of"):
        hall.enter([reading("measured", "10.0")])
    shown = preview_entry(hall.workspace, PreviewRequest(
        test_id=hall.test, rig_version_id=hall.own_rig.id, specimen_id=hall.specimens(hall.test, hall.arms[0], "waiting")[0],
        readings=[RawField(field="measured", position=i, raw=f"{f.nominal}", about=f.name) for i, f in enumerate(DIMENSION_GAUGE.features)],
    ))  # fmt: skip
    assert (shown.questions, shown.errors) == ([], [])
    assert {r.quantity: r.value for r in shown.reduction.results}["shrinkage"] == pytest.approx(0.0, abs=1e-12)


def test_a_corrected_feature_stays_the_feature(hall):
    told = hall.enter(gauge())
    old = next(r for r in told.readings if r.about == "outer 120")
    change = Correction(id=new_id(), field="measured", position=old.position, raw="119.70", supersedes=old.id, reason="misread")
    after = runs.correct(hall.workspace, ACTOR, told.id, change, told.revision)[0]
    assert [r.about for r in after.readings if r.raw == "119.70"] == ["outer 120"]
    assert {r.quantity: r.value for r in after.results}["shrinkage"] != {r.quantity: r.value for r in told.results}["shrinkage"]


def test_nearer_to_its_size_is_better_on_the_board(hall):
    for arm, shrinks in ((0, 0.0060), (0, 0.0061), (0, 0.0059), (1, 0.0020), (1, 0.0021), (1, 0.0019)):
        hall.enter(gauge(shrinks), arm)
    verdict = next(c for c in hall.column().cells if c.arm_id == hall.arms[1]).verdict
    assert verdict.word == "better"


# ---- impact: unlike breaks -----------------------------------------------------------------------


@pytest.fixture
def pendulum(workspace):
    shown = [channel("angle", "°", 0.5, "angle"), channel("length", "mm", 0.01)]
    return Hall(workspace, "impact", shown, 5, geometry={"hammer_mass": 0.75, "radius": 0.31, "release_angle": 130.0, "loss": 0.02})


def strike(hall, angle, outcome, arm=0, **more):
    return hall.enter([reading("width_under_notch", "8.0"), reading("thickness", "4.0"), reading("rise_angle", angle)], arm, outcome=outcome, **more)


def test_breaks_of_another_kind_stand_apart_and_what_did_not_break_is_a_bound(pendulum):
    for angle in ("110", "111", "112"):
        strike(pendulum, angle, "complete")
    strike(pendulum, "90", "hinge")
    held = strike(pendulum, "80", "none")
    assert {r.quantity: r.bound for r in held.results}["impact_strength"] == "at_least"
    cell = next(c for c in pendulum.column().cells if c.arm_id == pendulum.arms[0])
    assert (cell.group.n, cell.group.at_least) == (4, 1)
    assert any("1 ended otherwise (hinge" in n for n in cell.notes)
    # told otherwise, it counts with the others
    hinge = next(d for d in cell.dots if d.state == "apart")
    runs.edit_run(pendulum.workspace, ACTOR, hinge.run_id, RunEdit(outcome="complete"), None)
    cell = next(c for c in pendulum.column().cells if c.arm_id == pendulum.arms[0])
    assert (cell.group.n, cell.notes[0]) == (5, "1 of 5 are lower bounds: the true mean is higher")
    assert "above the mean of what broke" in cell.notes[1], "what stood more than the others broke at says so"


def test_of_two_ends_as_common_the_one_declared_first_is_the_tests(pendulum):
    for angle, outcome in (("90", "hinge"), ("91", "hinge"), ("110", "complete"), ("111", "complete")):
        strike(pendulum, angle, outcome)
    cell = next(c for c in pendulum.column().cells if c.arm_id == pendulum.arms[0])
    assert [d.state for d in sorted(cell.dots, key=lambda d: d.value)] == ["counts", "counts", "apart", "apart"]
    strike(pendulum, "92", "hinge", arm=1)
    cell = next(c for c in pendulum.column().cells if c.arm_id == pendulum.arms[0])
    assert [d.state for d in sorted(cell.dots, key=lambda d: d.value)] == ["apart", "apart", "counts", "counts"]


def test_unlike_breaks_are_averaged_nowhere(pendulum):
    for angle, outcome in (("110", "complete"), ("112", "complete"), ("80", "none"), ("90", "hinge"), ("94", "hinge")):
        strike(pendulum, angle, outcome)
    material = listing.get_study(pendulum.workspace, pendulum.study.id).arms[0].material.id
    groups = {g.end: g for g in dossier.dossier(pendulum.workspace, material).history if g.main}
    complete, hinge = groups.pop("complete, in two or more pieces"), groups.pop("hinge, held by a thin skin")
    assert not groups
    # what did not break stands with the commonest end, as on the board
    assert ((complete.n, complete.at_least), (hinge.n, hinge.at_least)) == ((3, 1), (2, 0))
    cell = next(c for c in pendulum.column().cells if c.arm_id == pendulum.arms[0])
    assert complete.mean == pytest.approx(cell.group.mean)
    # each end is an arm of its own to the scatter
    seen = next(s for s in scatter.scatter(pendulum.workspace).items if s.method == "impact")
    broken = [v for v in complete.values if v != max(complete.values)]
    pooled = (np.var(broken, ddof=1) + np.var(hinge.values, ddof=1)) / 2
    assert (seen.arms, seen.specimens, seen.sd) == (2, 4, pytest.approx(np.sqrt(pooled)))


def test_an_entry_is_held_against_those_that_ended_alike(pendulum):
    for angle, outcome in (("110", "complete"), ("111", "complete"), ("90", "hinge"), ("91", "hinge")):
        strike(pendulum, angle, outcome)
    specimen = pendulum.specimens(pendulum.test, pendulum.arms[0], "waiting")[0]

    def said(outcome):
        rows = [RawField(field=f, position=0, raw=raw) for f, raw in (("width_under_notch", "8.0"), ("thickness", "4.0"), ("rise_angle", "110.5"))]
        asked = PreviewRequest(test_id=pendulum.test, rig_version_id=pendulum.own_rig.id, specimen_id=specimen, readings=rows, outcome=outcome)
        return [c.text for c in preview_entry(pendulum.workspace, asked).checks if "of this arm" in c.text]

    assert said("complete") == []
    assert [t.partition(" % ")[2] for t in said("hinge")] == ["from the mean of the other 2 of this arm"]
    assert said("hinge")[0].startswith("−")
    assert said(None) == [], "how it ended is not known yet: it has no siblings"


def test_the_hammer_is_that_of_the_rig_and_its_letters_are_sent(pendulum):
    told = strike(pendulum, "111", "complete")
    found = {r.quantity: r.value for r in told.results}
    lever = 0.75 * 9.80665 * 0.31
    energy = lever * (np.cos(np.radians(111)) - np.cos(np.radians(130))) - 0.02
    assert found["net_energy"] == pytest.approx(energy, rel=1e-9)
    outcomes = listing.get_study(pendulum.workspace, pendulum.study.id).tests[0].outcomes
    assert [(o.symbol, o.bound) for o in outcomes] == [("C", "exact"), ("H", "exact"), ("P", "exact"), ("N", "at_least")]


# ---- exposure: a bath in rounds ------------------------------------------------------------------


@pytest.fixture
def bath(workspace, clock):
    hall = Hall(workspace, "exposure", [channel("mass", "g", 0.0001, "mass")], 2, {"due": [86400, 604800]}, places=4)
    hall.clock = clock
    hall.session = new_id()
    return hall


def dip(hall, place, arm=0, dry="4.0000"):
    specimen = hall.specimens(hall.test, hall.arms[arm], "waiting")[0]
    new = NewRun(
        id=new_id(), subject_id=specimen, test_id=hall.test, rig_version_id=hall.own_rig.id, happened_at=hall.clock.now, complete=False,
        readings=[reading("mass_before", dry), reading("exposed", "", happened_at=hall.clock.now)], place=Place(session_id=hall.session, position=place),
    )  # fmt: skip
    runs.accept(hall.workspace, ACTOR, new)
    return new


def weigh(hall, new, position, raw, **more):
    told = reading("mass", raw, position, happened_at=hall.clock.now)
    return runs.accept(hall.workspace, ACTOR, new.model_copy(update={"readings": [told], "happened_at": hall.clock.now} | more))[0]


def test_a_bath_says_what_it_wants_next_in_the_words_of_its_method(bath):
    bath.clock.now = NOW
    hung = NewRun(
        id=new_id(), subject_id=bath.specimens(bath.test, bath.arms[0], "waiting")[0], test_id=bath.test, rig_version_id=bath.own_rig.id, happened_at=NOW,
        complete=False, readings=[], place=Place(session_id=bath.session, position=1),
    )  # fmt: skip
    runs.accept(bath.workspace, ACTOR, hung)
    view = rounds.get_rack(bath.workspace, bath.own_rig.rig_id, "s", blind=False)
    member = view.members[0]
    assert (view.method, view.weights) == ("Exposure", False)
    assert (member.stage, member.before, member.next_event.name) == ("hung", "mass_before", "exposed")
    assert "dry mass" in member.before_words
    assert "the clock runs" in member.next_event.begin
    assert [len(w.items) for w in view.waiting] == [3]
    dip_now = hung.model_copy(update={"readings": [reading("mass_before", "4.0"), reading("exposed", "", happened_at=NOW)]})
    runs.accept(bath.workspace, ACTOR, dip_now)
    member = rounds.get_rack(bath.workspace, bath.own_rig.rig_id, "s", blind=False).members[0]
    assert (member.stage, member.field, member.words, member.next_event, member.unloaded) == ("loaded", "mass", "mass, wiped dry", None, 4.0)
    assert [d.at - NOW for d in member.due] == [DAY, 7 * DAY]


def test_what_was_soaked_counts_at_its_last_set_time(bath):
    bath.clock.now = NOW
    soaked = [dip(bath, 0), dip(bath, 1, 1, "4.1000")]
    bath.clock.now = NOW + 1.04 * DAY
    first = weigh(bath, soaked[0], 0, "4.0200")
    assert [(r.quantity, round(r.value, 6)) for r in first.results] == [("mass_change@86400", 0.5)]
    assert next(r for r in first.readings if r.field == "mass").after == pytest.approx(1.04 * 86400)
    column = bath.column()
    # until the last set time has come the latest one that has results stands there, under its own name
    assert (column.quantity, column.quantity_label) == ("mass_change@86400", "mass change after 24 h")
    assert [c.group and round(c.group.mean, 6) for c in column.cells] == [0.5, None]
    bath.clock.now = NOW + 7 * DAY
    weigh(bath, soaked[0], 1, "4.0400", complete=True, outcome="as before")
    weigh(bath, soaked[1], 1, "4.1820", complete=True, outcome="changed")
    assert bath.column().quantity == "mass_change@604800"
    means = [c.group.mean for c in bath.column().cells]
    assert means == [pytest.approx(1.0), pytest.approx(2.0)]
    assert bath.column().margin == 0.2
    study = listing.get_study(bath.workspace, bath.study.id).tests[0]
    assert (study.main, study.margin, study.margin_relative) == ("mass_change@604800", 0.2, False)
    with bath.workspace.read() as session:
        assert scatter.scatter_of(bath.workspace, session, ["exposure"])[0].specimens == 2


# ---- files ---------------------------------------------------------------------------------------


def table(header, *columns):
    rows = zip(*columns, strict=True)
    return (header + "\n" + "\n".join(";".join(f"{v:.5f}" for v in row) for row in rows)).encode()


def test_a_twist_is_read_from_a_file_of_torque_and_angle(workspace):
    shown = [channel("torque", "N·m", 0.01, "torque"), channel("angle", "°", 1, "angle"), channel("length", "mm", 0.01)]
    hall = Hall(workspace, "torsion", shown)
    angle = np.arange(0, 120, 0.25)
    torque = np.minimum(0.02 * angle, 1.4)
    torque[-30:] = 0.01
    data = table("Winkel [°];Drehmoment [N·m];Kraft [N]", angle, torque, torque * 0)
    view = curves.take_in(workspace, ACTOR, new_id(), hall.own_rig.id, "a.csv", data)[0]
    assert set(view.columns) == {"angle", "torque"}, "a force is nothing that a twist is read from"
    told = hall.enter([reading("diameter", "8.0", i) for i in range(3)], curve_id=view.id, outcome="twisted off")
    found = {r.quantity: r.value for r in told.results}
    assert found["greatest_torque"] == pytest.approx(1.4, rel=1e-3)
    assert found["torque_at_set_angle"] == pytest.approx(0.9, rel=1e-2)
    with pytest.raises(UnclearFileError, match="which column is the torque"):
        curves.take_in(workspace, ACTOR, new_id(), hall.own_rig.id, "b.csv", table("a;b;c", angle, torque, torque))
    assert b'"y_label":"torque"' in curves.raw_curve(workspace, view.id)


def test_a_ramp_is_read_from_a_file_of_temperature_and_sag(workspace):
    shown = [channel("temperature", "°C", 0.1, "temperature"), channel("deflection", "mm", 0.001)]
    hall = Hall(workspace, "heat-ramp", shown)
    warm = np.arange(30, 80, 0.5)
    sag = np.clip(warm - 60, 0, None) ** 2 * 0.02
    view = curves.take_in(workspace, ACTOR, new_id(), hall.own_rig.id, "r.csv", table("Temperature (°C);Sag (mm)", warm, sag))[0]
    told = hall.enter([], curve_id=view.id, outcome="sagged")
    assert {r.quantity: r.value for r in told.results}["sag_onset"] == pytest.approx(60 + np.sqrt(0.1 / 0.02), abs=0.1)


# ---- how a test is set ---------------------------------------------------------------------------


def test_a_set_angle_of_ones_own_decides_and_only_equal_tests_are_put_together(workspace):
    shown = [channel("torque", "N·m", 0.01, "torque"), channel("angle", "°", 1, "angle"), channel("length", "mm", 0.01)]
    hall = Hall(workspace, "torsion", shown, protocol={"set_angle": 20.0})
    told = hall.enter([reading("diameter", "8.0"), reading("greatest_torque", "1.2"), reading("angle_at_break", "30")])
    assert told.remarks == []
    assert listing.get_study(workspace, hall.study.id).tests[0].protocol == {"set_angle": 20.0}
    with pytest.raises(EntryError, match="set angle"):
        Hall(workspace, "torsion", shown, protocol={"set_angle": 5000.0}, products=("Outdoor",))
    held = Hall(workspace, "warp", [channel("length", "mm", 0.01)], protocol={"one_end_held": 1.0}, products=("Burden", "Meadow"))
    lifted = {r.quantity: r.value for r in held.enter([reading("corners", "0.5")]).results}
    assert lifted["curvature"] == pytest.approx(2 * 0.5 / 180**2)


def test_what_may_be_set_is_declared_with_its_words_and_unit(workspace):
    settings = {m.name: {s.name: (s.kind, s.base) for s in m.settings} for m in declarations(workspace).methods}
    assert settings["stepped-bending"] == {"ladder": ("numbers", "N"), "times": ("numbers", "s")}
    assert settings["torsion"] == {"set_angle": ("number", "°")}
    assert settings["warp"] == {"one_end_held": ("yes or no", "1")}
    assert settings["tension"] == {}


# ---- bounds taken into the mean ------------------------------------------------------------------


def test_a_study_may_ask_for_means_that_take_bounds_in(workspace):
    lab = Lab(workspace, [NewTest(id=new_id(), orientation="flat", replicates=6)])
    test, section = lab.tests[0], 4.02 * 3.97
    values = (25.8, 31.2, 22.4, 28.9, 27.1)

    def kgf(mpa):
        return f"{mpa * section / 9.80665:.6f}"

    lab.accept(test, lab.arms[1], [kgf(v) for v in values])
    lab.accept(test, lab.arms[1], [kgf(24.6)], outcome="grip")
    lab.accept(test, lab.arms[0], [kgf(v) for v in (18.2, 17.1, 19.0, 16.8, 18.5)])
    plain = lab.cell(test, lab.arms[1])
    assert (plain.group.n, plain.group.at_least, plain.group.mean) == (6, 1, pytest.approx(sum((*values, 24.6)) / 6, rel=1e-5))
    edited = changing.edit_study(workspace, ACTOR, lab.study.id, StudyEdit(bounds_in=True), listing.get_study(workspace, lab.study.id).revision)
    assert edited.bounds_in
    # METHODS 13: D with 24.6 as "at least"
    cell = lab.cell(test, lab.arms[1])
    assert (cell.group.mean, cell.group.at_least) == (pytest.approx(27.285, abs=1e-3), 0)
    assert cell.group.ci95 == (pytest.approx(24.212, abs=5e-3), pytest.approx(29.938, abs=5e-3))
    assert "1 of 6 are lower bounds, included in the mean (Weibull); its interval does not model batches" in cell.notes
    assert (cell.verdict.word, cell.verdict.difference) == ("better", pytest.approx(27.285 - 17.92, abs=2e-3))
    assert lab.cell(test, lab.arms[0]).group.mean == pytest.approx(17.92, rel=1e-5), "no bounds, no fit"
    # a bound above the mean of what broke says that this mean is too low
    late = lab.accept(test, lab.arms[0], [kgf(21.0)], outcome="grip")[0]
    assert any("above the mean of what broke" in n for n in lab.cell(test, lab.arms[0]).notes)
    runs.retract(workspace, ACTOR, late.id)
    changing.edit_study(workspace, ACTOR, lab.study.id, StudyEdit(bounds_in=False), listing.get_study(workspace, lab.study.id).revision)
    assert lab.cell(test, lab.arms[1]).group == plain.group


def test_a_slipped_load_is_the_loads_and_no_dimensions_whatever_would_mend_it(workspace):
    """A tenth of the width would make the strength plausible too; the width was held against the shape already."""
    lab = Lab(workspace, [NewTest(id=new_id(), orientation="flat", replicates=2)])
    with pytest.raises(QuestionError) as error:
        lab.accept(lab.tests[0], lab.arms[0], ["6.02"])
    asked = error.value.questions[0]
    assert (asked.field, asked.likely) == ("peak_force", "590.36 N")


def test_what_was_soaked_to_nonsense_is_asked_about_beside_its_event(bath):
    bath.clock.now = NOW
    soaked = dip(bath, 0)
    bath.clock.now = NOW + DAY
    with pytest.raises(QuestionError) as error:
        weigh(bath, soaked, 0, "40.2")
    assert error.value.questions[0].field == "mass"
    kept = weigh(bath, soaked, 0, "4.02")
    assert [round(r.value, 6) for r in kept.results] == [0.5]
