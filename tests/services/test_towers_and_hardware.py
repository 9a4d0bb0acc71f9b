"""Calibrations, towers, sheets looked at and hardware of the dial-in, through the services."""

import pytest
from sqlalchemy import select

from assayer.core.errors import ConflictError, EntryError, MissingError
from assayer.services.day import sheet as day
from assayer.services.dial_in import hardware, hardware_changes, sheets, towers, trails, trials
from assayer.services.dial_in.requests import (
    GradeIn,
    NewBedSurface,
    NewDialCalibration,
    NewGrades,
    NewNozzle,
    NewPrinterChange,
    SeriesIn,
    SetIn,
    SheetIn,
    SheetQuestion,
    TrailEdit,
)
from assayer.services.printing import fit, printers
from assayer.services.printing.requests import FitQuestion
from assayer.services.stock.requests import NewSpool
from assayer.store.models import Change, Material

from ..conftest import NOW
from ..support import ACTOR, new_id
from .stockroom import ago, spool_of
from .trailhead import Trailhead


@pytest.fixture
def head(once):
    return once("trailhead", Trailhead)


def calibrate(head, parent, kind, at=None, **readings):
    new = NewDialCalibration(id=new_id(), trial_id=new_id(), parent_id=head.trial(parent).id, kind=kind, at=at or ago(5), **readings)
    return trials.calibrate_trail(head.workspace, ACTOR, new)[0]


def test_calibrations_write_child_sheets_and_keep_what_was_before(head):
    head.record(1, spool_id=head.spool.id)
    # METHODS 11: new = old × volume·density / mass; old 100 %, 1.29 g/cm³
    told = calibrate(head, 1, "flow by mass", volume=8.0, mass=10.6)
    flow = 100 * 8 * 1.29 / 10.6
    assert told.trials[-1].changes[0].after.value == pytest.approx(flow, abs=0.01)
    assert (told.calibrations[0].before, told.calibrations[0].after, told.calibrations[0].stale) == (100, pytest.approx(flow, abs=0.01), [])
    told = calibrate(head, 2, "flow by wall", at=ago(4), walls=[0.66, 0.68, 0.70])
    assert told.trials[-1].changes[0].after.value == pytest.approx(round(flow, 2) * 0.66 / 0.68, abs=0.01)
    assert told.trials[-1].changes[0].after.source == "calibration"
    told = calibrate(head, 3, "pressure advance", advance=0.045)
    assert told.trials[-1].changes[0].name == "pressure_advance"
    # METHODS 10
    told = calibrate(
        head, 1, "shrinkage", nominal=[20, 40, 80, 120, 10, 30, 6, 12, 24], measured=[19.97, 39.84, 79.60, 119.35, 10.05, 29.91, 5.86, 11.83, 23.78],
        feature=["outer"] * 6 + ["inner"] * 3,
    )  # fmt: skip
    extras = {e.label: e.value for e in sheets.get_sheet(head.workspace, told.trials[-1].sheet_id).sheet.extras}
    assert extras == {"scale": pytest.approx(100 / 0.993831, abs=0.001), "outer contour offset": pytest.approx(-0.093511 / 2, abs=0.0006)}
    assert {c.kind for c in told.calibrations} == {"flow by mass", "flow by wall", "pressure advance", "shrinkage"}
    words = next(c.words for c in told.calibrations if c.kind == "shrinkage")
    assert words == "shrinkage 0.617 ± 0.021 %, contour offset +0.047 mm"


@pytest.mark.parametrize(
    ("kind", "readings", "field"),
    [
        ("flow by mass", {"volume": 8.0}, "mass"),
        ("flow by mass", {"mass": 8.0}, "volume"),
        ("flow by mass", {"volume": 8.0, "mass": 106}, "mass"),
        ("flow by wall", {}, "walls"),
        ("pressure advance", {}, "advance"),
        ("shrinkage", {"nominal": [20], "measured": [19.9], "feature": ["outer"]}, "nominal"),
        ("shrinkage", {"nominal": [20, 40], "measured": [19.9, 3.98], "feature": ["outer", "outer"]}, "measured"),
        ("shrinkage", {"nominal": [20, 20], "measured": [19.9, 19.8], "feature": ["outer", "outer"]}, "nominal"),
    ],
)
def test_calibrations_without_their_readings_are_refused(head, kind, readings, field):
    head.record(1)
    with pytest.raises(EntryError) as error:
        calibrate(head, 1, kind, **readings)
    assert error.value.field == field
    assert len(head.view.trials) == 1


def test_a_calibration_grows_old_with_nozzle_and_lot(head):
    head.record(1, spool_id=head.spool.id)
    calibrate(head, 1, "pressure advance", advance=0.04)
    calibrate(head, 1, "pressure advance", at=ago(2), advance=0.05)
    assert [c.stale for c in head.view.calibrations] == [[], ["a newer one stands"]]
    nozzle = new_id()
    hardware.add_nozzle(head.workspace, ACTOR, NewNozzle(id=nozzle, name="Steel 0.4", diameter=0.4, hardened=True))
    trails.edit_trail(head.workspace, ACTOR, head.id, TrailEdit(nozzle_id=nozzle), head.view.revision)
    assert "the nozzle was changed since (not named)" in head.view.calibrations[0].stale[0]
    calibrate(head, 1, "pressure advance", at=ago(1), advance=0.06)
    finer = new_id()
    hardware.add_nozzle(head.workspace, ACTOR, NewNozzle(id=finer, name="Brass 0.25", diameter=0.25, hardened=False))
    trails.edit_trail(head.workspace, ACTOR, head.id, TrailEdit(nozzle_id=finer), head.view.revision)
    assert head.view.calibrations[0].stale == ["the nozzle was changed since (Steel 0.4)"]
    other = spool_of(head.workspace, material_id=head.material, spool=NewSpool(id=new_id(), material_id=head.material, lot="9", received_on=NOW.date()))
    head.print(1, told={"spool_id": other.id}, fan=50.0)
    assert "lot 9, measured with 7" in head.view.calibrations[0].stale[-1]


TOWER = SeriesIn(setting="fan", start=0, step=20, count=5, band_height=7, base_height=1.4)


def test_a_tower_is_graded_band_by_band_and_read_for_each_use(head):
    head.record(1)
    number = head.plan(1, series=TOWER, part="fan tower")
    head.record(number)
    key = head.trial(number).id
    rows = {"bridging": (0, 1, 3, 3, 4), "layers": (4, 4, 3, 2, 1), "surface": (3, 3, 3, 3, 3)}
    grades = [GradeIn(id=new_id(), trait=t, grade=g, band=i) for t, values in rows.items() for i, g in enumerate(values, 1)]
    trials.grade_trial(head.workspace, ACTOR, key, NewGrades(grades=grades))
    t = head.trial(number)
    assert t.bands[1] == {"bridging": 1, "layers": 4, "surface": 3}
    assert {w.reading: (w.first, w.last, w.words) for w in t.windows} == {
        "load": (1, 2, "0 … 20 % (4 of 4)"),
        "long bridges": (5, 5, "80 % (4 of 4)"),
        "looks": (None, None, "not graded: stringing"),
    }
    assert t.grades == {}, "bands are no grades of the whole"
    assert head.view.effects == []


def test_a_band_that_failed_ends_the_series(head):
    head.record(1)
    number = head.plan(1, series=TOWER, part="fan tower")
    head.record(number, outcome="failed", failed_band=4)
    with pytest.raises(EntryError, match="band 4 failed"):
        trials.grade_trial(head.workspace, ACTOR, head.trial(number).id, NewGrades(grades=[GradeIn(id=new_id(), trait="bridging", grade=1, band=4)]))
    low = [GradeIn(id=new_id(), trait="bridging", grade=g, band=b) for b, g in ((1, 0), (2, 1), (3, 1.5))]
    trials.grade_trial(head.workspace, ACTOR, head.trial(number).id, NewGrades(grades=low))
    assert [w.words for w in head.trial(number).windows] == ["no band is good enough: the best has 1.5 of 4"]
    with pytest.raises(ConflictError, match="no sheet of its own"):
        head.record(number, outcome="good")
        trials.accept_trial(head.workspace, ACTOR, head.trial(number).id, back=False)


def test_series_are_looked_at_against_material_and_printer(head):
    hot = SeriesIn(setting="nozzle_temperature", start=260, step=-10, count=5, band_height=7)
    look = towers.look_at_series(head.workspace, hot, head.id)
    assert look.series.values == [260, 250, 240, 230, 220]
    by_end = hot.model_copy(update={"count": None, "end": 220.0})
    assert towers.look_at_series(head.workspace, by_end, head.id) == look
    assert head.trial(head.plan(1, series=by_end, part="tower")).series.count == 5
    assert ["260 °C lie outside" in c.text for c in look.cautions] == [True]
    assert towers.look_at_series(head.workspace, hot, None).cautions == []
    with pytest.raises(EntryError, match="Warm Box reaches at most 280"):
        head.plan(1, series=hot.model_copy(update={"start": 290}))
    with pytest.raises(ConflictError):
        trials.grade_trial(head.workspace, ACTOR, head.first, NewGrades(grades=[GradeIn(id=new_id(), trait="bridging", grade=1)]))


def test_a_sheet_is_looked_at_before_it_is_kept(head):
    asked = SheetQuestion(material_id=head.material, printer_id=head.printer.id, sheet=SheetIn(values={"nozzle_temperature": SetIn(value=285.0)}))
    assert [w.source for w in sheets.look_at_told(head.workspace, asked).warnings] == ["maker's window (leaflet)", "Warm Box"]


def test_nozzles_surfaces_and_changes_of_a_printer(head):
    ws = head.workspace
    brass, steel, sheet_ = new_id(), new_id(), new_id()
    hardware.add_nozzle(ws, ACTOR, NewNozzle(id=brass, name="Brass 0.6", diameter=0.6))
    hardware.add_nozzle(ws, ACTOR, NewNozzle(id=steel, name="Steel 0.4", diameter=0.4, hardened=True))
    with pytest.raises(ConflictError):
        hardware.add_nozzle(ws, ACTOR, NewNozzle(id=new_id(), name="Steel 0.4", diameter=0.4))
    hardware.add_bed_surface(ws, ACTOR, NewBedSurface(id=sheet_, name="Taped glass"))

    def change(**more):
        return hardware_changes.change_printer(ws, ACTOR, head.printer.id, NewPrinterChange(id=new_id(), at=ago(1), **more))[0]

    change(kind="nozzle", nozzle_id=brass)
    shown = change(kind="nozzle", nozzle_id=steel, retire=True)
    by_name = {n.name: n for n in shown.nozzles}
    assert by_name["Brass 0.6"].retired_at is not None
    assert (by_name["Steel 0.4"].printer_id, shown.printers[0].nozzle_id) == (head.printer.id, steel)
    assert [c.text for c in shown.printers[0].changes] == ["Steel 0.4 fitted", "Brass 0.6 fitted"]
    with pytest.raises(ConflictError, match="retired"):
        change(kind="nozzle", nozzle_id=brass)
    with pytest.raises(EntryError):
        change(kind="frame")
    shown = change(kind="bed surface", bed_surface_id=sheet_)
    assert shown.printers[0].bed_surface_id == sheet_
    told = fit.fit_to_print(ws, FitQuestion(spool_id=head.spool.id, printer_id=head.printer.id))
    assert told is not None
    assert [(p.nozzle, p.hardened, p.bed_surface) for p in printers.list_printers(ws).items] == [(0.4, True, "Taped glass")]
    change_id, words = shown.printers[0].changes[0].id, shown.printers[0].changes[0].text
    taken = hardware_changes.retract_change(ws, ACTOR, change_id, back=False)
    assert len(taken.printers[0].changes) == 2
    assert len(hardware_changes.retract_change(ws, ACTOR, change_id, back=True).printers[0].changes) == 3
    with ws.read() as session:
        noted = session.execute(select(Change.action, Change.after).where(Change.entity_id == head.printer.id).order_by(Change.seq.desc())).all()
    assert [(a, w["what"]) for a, w in noted if a.startswith("change ")] == [("change brought back", words), ("change retracted", words)]


def test_a_nozzle_that_is_fitted_with_a_note_is_fitted_all_the_same(head):
    ws = head.workspace
    nozzle, surface = new_id(), new_id()
    hardware.add_nozzle(ws, ACTOR, NewNozzle(id=nozzle, name="Steel 0.4", diameter=0.4, hardened=True))
    hardware.add_bed_surface(ws, ACTOR, NewBedSurface(id=surface, name="Taped glass"))
    told = NewPrinterChange(id=new_id(), at=ago(1), kind="nozzle", text="the old one was worn", nozzle_id=nozzle, bed_surface_id=surface)
    (shown,) = hardware_changes.change_printer(ws, ACTOR, head.printer.id, told)[0].printers
    assert (shown.nozzle_id, shown.bed_surface_id) == (nozzle, surface)
    assert shown.changes[0].text == "Steel 0.4 fitted; Taped glass laid on; the old one was worn"
    for unknown in ({"nozzle_id": new_id()}, {"bed_surface_id": new_id()}):
        with pytest.raises(MissingError):
            hardware_changes.change_printer(ws, ACTOR, head.printer.id, told.model_copy(update={"id": new_id()} | unknown))


def test_a_nozzle_counts_the_abrasive_grams_it_has_seen(head):
    nozzle = new_id()
    hardware.add_nozzle(head.workspace, ACTOR, NewNozzle(id=nozzle, name="Steel 0.4", diameter=0.4, hardened=True))
    trails.edit_trail(head.workspace, ACTOR, head.id, TrailEdit(nozzle_id=nozzle), head.view.revision)
    head.record(1, total_mass=50.0)
    head.print(1, told={"total_mass": 30.0}, fan=50.0)
    head.print(1, told={"total_mass": 12.0}, fan=60.0)
    # the first trial was planned before the nozzle was named
    assert [n.abrasive for n in hardware.hardware(head.workspace).nozzles] == [42.0]
    with head.workspace.db.write() as session:
        session.get_one(Material, head.spool.material_id).filler = "chalk"
    assert [n.abrasive for n in hardware.hardware(head.workspace).nozzles] == [0.0], "what does not wear is not counted"


def test_planned_trials_stand_on_the_day_sheet_until_the_trail_is_put_away(head):
    def waiting():
        return [i.title for i in day.day_sheet(head.workspace).items if i.kind == "trial"]

    assert waiting() == ["Print trial 1"]
    trails.edit_trail(head.workspace, ACTOR, head.id, TrailEdit(put_away=True), head.view.revision)
    assert waiting() == []
    assert head.view.put_away
    trails.edit_trail(head.workspace, ACTOR, head.id, TrailEdit(put_away=False, purpose="Hook"), head.view.revision)
    assert waiting() == ["Print trial 1"]
    assert head.view.purpose == "Hook"
    with pytest.raises(EntryError):
        trails.edit_trail(head.workspace, ACTOR, head.id, TrailEdit(purpose=None), head.view.revision)
