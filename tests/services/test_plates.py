"""Plates from the plan to the bench: laid out, printed, judged; spares; files."""

import csv
import io
import zipfile
from datetime import timedelta
from types import SimpleNamespace

import lib3mf
import numpy as np
import pytest
import trimesh

from assayer.core.errors import ConflictError, EntryError, MissingError
from assayer.core.plan.plates import layer_evenness
from assayer.services.bench import queue, runs
from assayer.services.bench.requests import NewRun
from assayer.services.gcode.files import MadeFor, get_file, keep_file, retract_file
from assayer.services.gcode.inspections import inspect_file
from assayer.services.printing import batches, judging, plate_files, plates, printers
from assayer.services.printing.requests import BatchOutcome, NewPrinter, SpecimenOutcome
from assayer.services.rigs import rigs
from assayer.services.stock import spools, storage
from assayer.services.stock.requests import NewMove, NewStorage, NewWeighing
from assayer.services.studies import listing, power
from assayer.services.studies.requests import NewArm, NewTest

from ..support import ACTOR, new_id, reading, rig
from .printshop import TOMAS, Shop


@pytest.fixture
def shop(workspace):
    return Shop(workspace)


# ---- laying out ----------------------------------------------------------------------------------


def test_what_waits_lies_on_plates_each_arm_in_two_batches(shop):
    study = shop.study()
    assert (shop.plates(study).unplaced, shop.plates(study).plates) == (18, [])
    laid = shop.lay(study)
    assert laid.unplaced == 0
    assert laid.revision == listing.get_study(shop.workspace, study.id).revision > study.revision
    by_key = {layout.key: layout for layout in laid.layouts}
    pieces = lambda p: by_key[p.layout].pieces  # noqa: E731
    # flat and upright ones are of unlike height: plates of their own
    assert [(p.number, p.part, len(pieces(p))) for p in laid.plates] == [(1, 1, 3), (2, 1, 3), (3, 1, 3), (4, 1, 3), (5, 2, 2), (6, 2, 2), (7, 2, 2), (8, 2, 2)]
    assert {p.arm_id for p in laid.plates[:2]} != {p.arm_id for p in laid.plates[2:4]}
    assert {p.parts for p in laid.plates} == {2}
    spares = [x for p in laid.plates for x in pieces(p) if x.spare]
    assert len(spares) == 2, "one of each arm"
    assert {s.test_id for s in spares} == {study.tests[1].id}
    # the same lies at the same places for both materials
    assert len(laid.layouts) == 4
    assert sorted(n for x in laid.layouts for n in x.plates) == [p.number for p in laid.plates]
    assert all([p.number for p in laid.plates if p.layout == x.key] == x.plates for x in laid.layouts)
    assert [len(x.plates) for x in laid.layouts] == [2, 2, 2, 2]
    with pytest.raises(ConflictError, match="lies on a plate already"):
        shop.lay(study)
    assert all(t.waiting == 0 for a in batches.print_plan(shop.workspace, study.id).arms for t in a.tests)
    back = plates.take_back_plates(shop.workspace, TOMAS, study.id)
    assert (back.unplaced, back.plates, back.layouts) == (18, [], [])
    assert [(p.arm_id, p.part) for p in shop.lay(study).plates] == [(p.arm_id, p.part) for p in laid.plates], "the order follows from the study's seed"
    assert shop.lay(shop.study(), batches=1, spares=False).plates[0].parts == 1


def test_mass_and_time_are_those_of_the_pieces_and_the_first_comes_next_for_a_reason(shop):
    study = shop.study(tests=[NewTest(id=new_id(), orientation="flat", replicates=4)])
    laid = shop.lay(study)
    first = laid.plates[0]
    density = {study.arms[0].id: 1.24, study.arms[1].id: 1.1}[first.arm_id]
    assert first.mass == pytest.approx(2 * 3.582 * density, rel=1e-3)
    assert first.minutes == pytest.approx(2 * 3582 / 4 / 60, rel=1e-3)
    assert first.why == "drawn at random among the 2 plates of all first batches, 0 printed"
    shop.print(first)
    assert shop.plates(study).plates[1].why == "drawn at random among the 2 plates of all first batches, 1 printed"
    assert shop.lay(
        shop.study(arms=[NewArm(id=new_id(), material_id=shop.materials[0])], tests=[NewTest(id=new_id(), orientation="flat", replicates=1)])
    ).plates[0].why == ("the only plate of a first batch")


def test_a_bed_that_is_not_known_or_too_small_is_refused_with_the_reason(shop):
    study = shop.study()
    unknown = printers.add_printer(shop.workspace, ACTOR, NewPrinter(id=new_id(), name="Two"))[0].id
    with pytest.raises(EntryError, match="how large a part Two builds is not known"):
        shop.lay(study, printer_id=unknown)
    with pytest.raises(EntryError, match=r"the short pull bar, flat, 70 × 12 mm, does not fit on the bed of 60 × 60 mm"):
        shop.lay(study, printer_id=shop.add_printer("Small", build_x=60, build_y=60))
    with pytest.raises(EntryError, match="70 mm high, and the printer builds 65 mm"):
        shop.lay(study, printer_id=shop.add_printer("Low", build_z=65))
    assert shop.plates(study).plates == [], "nothing was kept of it"
    kept = shop.add_printer("Clipped", margin=0, keep_out=[(0, 0, 220, 100)], clearance=40, passes_over=30)
    laid = shop.lay(study, printer_id=kept, one_by_one=True)
    assert all(p.y >= 100 + 6 - 1e-6 for layout in laid.layouts for p in layout.pieces)
    assert laid.layouts[0].bed.keep_out == [(0, 0, 220, 100)]
    assert {layout.evenness for layout in laid.layouts} == {1}
    # an upright bar is higher than what passes over it: one a plate
    upright = study.tests[1].id
    assert all(len(layout.pieces) == 1 for layout in laid.layouts if layout.pieces[0].test_id == upright)


# ---- printing ------------------------------------------------------------------------------------


def test_a_printed_plate_has_its_specimens_at_their_places_and_debits_its_spools(shop):
    study = shop.study()
    first, second, *_ = shop.lay(study).plates
    batch = shop.print(second, spool_id=shop.spools[0] if second.arm_id == study.arms[0].id else shop.spools[1], mass=20, purge=2.5, minutes=95)
    own = 0 if second.arm_id == study.arms[0].id else 1
    assert [s.position for s in batch.specimens] == [1, 2, 3]
    assert (batch.plate_id, batch.mass, batch.purge, batch.minutes, batch.printer) == (second.id, 22.5, 2.5, 95, "One")
    assert [(u.mass, u.purge) for u in shop.used(own)] == [(22.5, 2.5)]
    assert shop.plates(study).plates[1].batch_id == batch.id
    with pytest.raises(ConflictError, match="plate 2 was printed already"):
        shop.print(second)
    with pytest.raises(EntryError, match="of another arm"):
        shop.print(first, arm_id=next(a.id for a in study.arms if a.id != first.arm_id))
    with pytest.raises(EntryError, match="holds another material"):
        shop.print(first, spool_id=shop.spools[1 if first.arm_id == study.arms[0].id else 0])
    beside = [{"spool_id": shop.spools[1 - own], "part": 3.0, "purge": 1.0}]
    other = shop.print(
        next(p for p in shop.plates(study).plates if p.batch_id is None and p.arm_id == study.arms[own].id), spool_id=shop.spools[own], besides=beside
    )
    assert [(b.mass, b.purge) for b in other.besides] == [(4.0, 1.0)]
    assert [u.mass for u in shop.used(1 - own)] == [4.0]
    assert other.mass == pytest.approx(3 * 3.582 * (1.24 if own == 0 else 1.1), rel=1e-3), "by volume, where nothing is said"
    taken = plates.take_back_plates(shop.workspace, TOMAS, study.id)
    assert [p.batch_id is None for p in taken.plates] == [False, False], "what is printed stays"


def test_a_spare_takes_the_place_of_what_was_lost_and_gives_it_back(shop):
    tests = [NewTest(id=new_id(), orientation="flat", replicates=3, spares=1)]
    study = shop.study(tests=tests)
    plate = shop.lay(study, batches=1).plates[0]
    batch = shop.print(plate)
    spare = batch.specimens[3]
    assert ([s.number for s in batch.specimens], spare.spare) == ([1, 2, 3, None], True)
    in_queue = lambda: {i.code for i in queue.queue(shop.workspace, study.tests[0].id, "st", blind=False).items}  # noqa: E731
    assert spare.code not in in_queue()
    lost = shop.judge(batch, "failed", 1)
    assert [(s.number, s.spare) for s in lost.specimens] == [(1, False), (2, False), (3, False), (2, False)], "it stands for number 2 now"
    assert in_queue() == {batch.specimens[i].code for i in (0, 2, 3)}
    # a second one is lost, and there is no spare left: it waits to be printed again
    shop.judge(batch, "misprinted", 0)
    assert shop.plates(study).unplaced == 1
    back = shop.judge(batch, "good", 1)
    assert [s.number for s in back.specimens] == [1, 2, 3, None]
    assert shop.plates(study).unplaced == 1
    again = shop.lay(study)
    assert next(p.part for p in again.plates if p.batch_id is None and p.arm_id == plate.arm_id) == 2
    # the spare that was laid once is not laid again
    layout = next(x for x in again.layouts if x.key == again.plates[-1].layout)
    assert [p.spare for p in layout.pieces] == [False]


def test_a_batch_lost_as_a_whole_is_good_again_as_a_whole(shop):
    study = shop.study(tests=[NewTest(id=new_id(), orientation="flat", replicates=3, spares=1)])
    batch = shop.print(shop.lay(study, batches=1).plates[0])
    for order in ((0, 1, 2, 3), (3, 2, 1, 0)):
        lost = shop.judge(batch, "misprinted", *order)
        assert [s.number for s in lost.specimens] == [1, 2, 3, None], "shown where they were planned, and the spare takes nobody's place"
        assert {s.outcome for s in lost.specimens} == {"misprinted"}
        assert shop.plates(study).unplaced == 3
        good = shop.judge(batch, "good", *order)
        assert [(s.number, s.spare) for s in good.specimens] == [(1, False), (2, False), (3, False), (None, True)]
        assert shop.plates(study).unplaced == 0
    told = [SpecimenOutcome(specimen_id=i, outcome="failed") for i in (batch.specimens[0].id, new_id())]
    with pytest.raises(EntryError, match="not of this batch"):
        judging.judge_batch(shop.workspace, TOMAS, batch.id, BatchOutcome(specimens=told))


def test_until_when_the_spool_of_a_plate_is_dry_enough(shop):
    study = shop.study(tests=[NewTest(id=new_id(), orientation="flat", replicates=2)])
    shop.lay(study, batches=1)
    now = shop.workspace.clock()

    def put(i, hours_ago, where="open"):
        move = NewMove(id=new_id(), spool_id=shop.spools[i])
        storage.store_spools(shop.workspace, ACTOR, NewStorage(at=now - timedelta(hours=hours_ago), storage=where, moves=[move]))
        spools_of = {p.arm_id: p.spool for p in shop.plates(study).plates}
        shown = spools_of[study.arms[i].id]
        return shown.dry_until, shown.stale

    # a slow polymer may lie open for 336 h
    assert put(0, 40) == (now + timedelta(hours=296), False)
    assert put(1, 340) == (None, True)
    assert put(0, 2, "dry box") == (None, False), "in the box it takes up no more"


def test_a_spare_may_fill_what_was_left_out_at_the_bench(shop):
    study = shop.study(tests=[NewTest(id=new_id(), orientation="flat", replicates=2, spares=2)])
    mine = shop.lay(study, batches=1).plates[0]
    batch = shop.print(mine)
    version = rigs.add_rig(shop.workspace, ACTOR, rig())[0].id

    def tested(specimen, validity="counts"):
        more = {"validity": validity, "validity_reason": "slipped in the grips"} if validity != "counts" else {}
        entries = [reading("width", "5.0"), reading("thickness", "4.0"), reading("peak_force", "900 N")]
        entry = {"id": new_id(), "subject_id": specimen.id, "test_id": study.tests[0].id, "rig_version_id": version, "happened_at": shop.workspace.clock()}
        return runs.accept(shop.workspace, ACTOR, NewRun(**entry, readings=entries, outcome="gauge", **more))[0]

    assert shop.plates(study).spares == []
    tested(batch.specimens[0], "left_out")
    (offer,) = shop.plates(study).spares
    assert (offer.number, offer.code, offer.arm_id) == (1, batch.specimens[2].code, mine.arm_id)
    with pytest.raises(ConflictError, match="this replicate has its specimen"):
        judging.take_spare(shop.workspace, TOMAS, _slot(shop, study, mine.arm_id, 2), batch.specimens[2].id)
    with pytest.raises(ConflictError, match="is no free spare"):
        judging.take_spare(shop.workspace, TOMAS, offer.slot_id, batch.specimens[1].id)
    before = listing.get_study(shop.workspace, study.id).revision
    taken = judging.take_spare(shop.workspace, TOMAS, offer.slot_id, offer.specimen_id)
    assert [(s.number, s.spare) for s in taken.specimens] == [(1, False), (2, False), (1, False), (None, True)]
    assert listing.get_study(shop.workspace, study.id).revision > before
    assert judging.take_spare(shop.workspace, TOMAS, offer.slot_id, offer.specimen_id) == taken, "twice is once"
    assert shop.plates(study).spares == []


def _slot(shop, study, arm_id, number):
    from assayer.store.models import Slot

    with shop.workspace.read() as session:
        return session.query(Slot.id).filter_by(arm_id=arm_id, test_id=study.tests[0].id, number=number).scalar()


def test_a_replicate_that_was_printed_otherwise_makes_its_place_a_spare(shop):
    study = shop.study(tests=[NewTest(id=new_id(), orientation="flat", replicates=2)])
    plate = shop.lay(study, batches=1).plates[0]
    first = shop.print(plate)
    shop.judge(first, "failed", 0)
    again = shop.lay(study)
    later = next(p for p in again.plates if p.batch_id is None and p.arm_id == plate.arm_id)
    shop.judge(first, "good", 0)
    batch = shop.print(later)
    assert [(s.number, s.spare) for s in batch.specimens] == [(None, True)]
    assert batch.arm_id == plate.arm_id, "although it fills nothing"
    assert batch in batches.batches_of(shop.workspace, study.id).items


# ---- files ---------------------------------------------------------------------------------------


def objects(data):
    wrapper = lib3mf.get_wrapper()
    model = wrapper.CreateModel()
    reader = model.QueryReader("3mf")
    reader.SetStrictModeActive(True)
    reader.ReadFromBuffer(data)
    assert reader.GetWarningCount() == 0
    items = model.GetBuildItems()
    found = []
    while items.MoveNext():
        item = items.GetCurrent()
        t = item.GetObjectTransform()
        found.append((item.GetObjectResource().GetName(), t.Fields[3][0], t.Fields[3][1]))
    return found


def test_a_plate_is_a_file_with_every_piece_at_its_place(shop):
    study = shop.study(tests=[NewTest(id=new_id(), method="stepped-bending", orientation="flat", replicates=5), NewTest(id=new_id(), orientation="upright")])
    laid = shop.lay(study)
    flat = laid.plates[0] if laid.layouts[0].pieces[0].test_id == study.tests[0].id else laid.plates[1]
    layout = next(x for x in laid.layouts if x.key == flat.layout)
    data, number = plate_files.plate_file(shop.workspace, flat.id, "3mf")
    assert number == flat.number
    found = objects(data)
    assert [name for name, _, _ in found] == [f"{p.position}: bar 80 × 10 × 4, flat" for p in layout.pieces]
    assert np.allclose([(x, y) for _, x, y in found], [(p.x, p.y) for p in layout.pieces], atol=1e-3)
    mesh = trimesh.load(io.BytesIO(plate_files.plate_file(shop.workspace, flat.id, "stl")[0]), file_type="stl")
    mesh.merge_vertices()
    assert mesh.is_watertight
    assert mesh.body_count == len(layout.pieces)
    low, high = mesh.bounds
    middle = ((low + high) / 2)[:2]
    assert np.allclose(middle, (110, 105), atol=0.01), "in the middle of the bed"
    # the numbers are sunk: less than the bars themselves; 2 and 3 take strokes of one length
    volumes = sorted(part.volume for part in mesh.split())
    assert max(volumes) < 3200
    assert len({round(v, 1) for v in volumes}) == 2
    drawing = plate_files.plate_file(shop.workspace, flat.id, "svg")[0].decode()
    assert drawing.count("<path") == len(layout.pieces)
    assert 'width="232mm"' in drawing
    assert "220 × 210 mm, front" in drawing
    with pytest.raises(MissingError):
        plate_files.plate_file(shop.workspace, new_id(), "3mf")


def test_all_plates_come_as_one_file_with_a_list(shop):
    study = shop.study()
    with pytest.raises(MissingError, match="lay them out first"):
        plate_files.plates_file(shop.workspace, study.id)
    laid = shop.lay(study)
    shop.print(laid.plates[0])
    with zipfile.ZipFile(io.BytesIO(plate_files.plates_file(shop.workspace, study.id))) as package:
        rows = list(csv.DictReader(io.StringIO(package.read("plates.csv").decode())))
        names = [n for n in package.namelist() if n != "plates.csv"]
        assert len(names) == 4, "each different one once"
        assert {r["file"] for r in rows} == set(names)
        counts = {name: len(objects(package.read(name))) for name in names}
    assert [int(r["plate"]) for r in rows] == [p.number for p in laid.plates[1:]]
    assert all(int(r["specimens"]) == counts[r["file"]] for r in rows)
    assert {r["printer"] for r in rows} == {"One"}
    assert [(r["mass g"], r["minutes"]) for r in rows] == [(f"{p.mass:.1f}", f"{p.minutes:.0f}") for p in laid.plates[1:]]
    marks = {a.id: a.mark for a in study.arms}
    assert [(r["arm"], int(r["batch of the arm"])) for r in rows] == [(marks[p.arm_id], p.part) for p in laid.plates[1:]]


def test_the_file_of_a_plate_is_held_against_its_sheet_and_tells_what_it_takes(shop, tmp_path):
    arms = [NewArm(id=new_id(), material_id=shop.materials[0], settings={"nozzle_temperature": t}) for t in (210, 225)]
    study = shop.study(arms, [NewTest(id=new_id(), orientation="flat", replicates=2)], studied_factor="setting")
    laid = shop.lay(study, batches=1)
    plate = next(p for p in laid.plates if p.arm_id == study.arms[1].id)
    path = tmp_path / "plate.gcode"
    body = ["G90", "M83", "M104 S210", "G1 Z0.2 F600", *[f"G1 X{50 + 40 * (i % 2)} Y{50 + i} E2 F1800" for i in range(60)]]
    path.write_text("\n".join(body) + "\n")
    key = new_id()
    with shop.workspace.files.incoming() as coming:
        coming.write(path.read_bytes())
        coming.finish()
        keep_file(shop.workspace, ACTOR, key, "plate.gcode", coming, inspect_file(path), MadeFor(plate_id=plate.id))
    shown = next(p for p in shop.plates(study).plates if p.id == plate.id)
    assert (shown.file.id, shown.file.name) == (key, "plate.gcode")
    assert shown.minutes == pytest.approx(shown.file.time_s / 60)
    # 60 strokes of 2 mm of 1.75 mm strand at 1.24 g/cm³
    assert shown.mass == pytest.approx(120 * np.pi / 4 * 1.75**2 * 1.24 / 1000, rel=1e-6)
    assert any("210" in f.text for f in get_file(shop.workspace, key).findings), "the sheet of this arm says 225 °C"
    told = power.power(shop.workspace, study.id)
    assert (told.rate, told.rate_files) == (pytest.approx(120 * np.pi / 4 * 1.75**2 / shown.file.time_s), 1)
    other = power.power(shop.workspace, shop.study().id)
    assert (other.rate, other.rate_files) == (4.0, 0), "another study has no file yet"
    batch = shop.print(plate, spool_id=shop.spools[0])
    assert batch.mass == pytest.approx(shown.mass)
    assert [p.file for p in shop.plates(study).plates if p.id != plate.id] == [None]
    retract_file(shop.workspace, ACTOR, key, back=False)
    assert next(p for p in shop.plates(study).plates if p.id == plate.id).file is None


def test_the_spool_that_a_plate_would_be_printed_from_is_shown_with_what_is_left(shop):
    study = shop.study(tests=[NewTest(id=new_id(), orientation="flat", replicates=2)])
    weighed = NewWeighing(id=new_id(), at=shop.workspace.clock(), raw="700")
    spools.weigh(shop.workspace, ACTOR, shop.spools[0], weighed)
    laid = {p.arm_id: p for p in shop.lay(study, batches=1).plates}
    first = laid[study.arms[0].id].spool
    assert (first.id, first.left, first.stale, first.dry_until) == (shop.spools[0], 500, False, None)
    assert laid[study.arms[1].id].spool.id == shop.spools[1]
    shop.print(laid[study.arms[0].id])
    assert next(p for p in shop.plates(study).plates if p.arm_id == study.arms[0].id).spool is None, "once printed it is the batch that says so"


def test_how_even_a_plate_is_follows_from_the_area_of_each_piece_in_a_layer(shop):
    tests = [NewTest(id=new_id(), method=name, orientation="flat", replicates=2) for name in ("hardness", "stepped-bending")]
    layouts = shop.lay(shop.study(tests=tests), batches=1).layouts
    assert sorted({k.height for layout in layouts for k in layout.kinds}) == [4, 6]
    # 9.6 cm³ of a block over 6 mm, 3.2 cm³ of a bar over 4 mm
    area = {6: 1600.0, 4: 800.0}
    for layout in layouts:
        heights = {k.kind: k.height for k in layout.kinds}
        expected = layer_evenness([(heights[p.kind], area[heights[p.kind]]) for p in layout.pieces])
        assert layout.evenness == pytest.approx(expected, rel=1e-3)
    assert any(0 < layout.evenness < 1 for layout in layouts), "blocks and bars lie together"


def test_a_plate_of_unknown_mass_has_an_empty_cell_in_the_list():
    material = SimpleNamespace(maker="Hollin", product="Everyday", colour="amber")
    arm = SimpleNamespace(mark="Ha", variant=SimpleNamespace(material=material, treatment=""))
    plate = SimpleNamespace(number=3, part=1, sheet="s", printer="One", spool=None, mass=None, minutes=12.4)
    assert plate_files._row(plate, arm, "a.3mf", 2)[-4:] == ["", "2", "", "12"]
