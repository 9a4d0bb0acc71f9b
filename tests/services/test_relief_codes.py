"""Codes that are given before printing: one plate's own, taken by its specimens, given back with it."""

import io

import lib3mf
import pytest

from assayer.core.errors import ConflictError, EntryError
from assayer.services.codes import free_code
from assayer.services.photos import photos
from assayer.services.printing import batches, plate_files, plates, relief_codes
from assayer.services.studies.requests import NewTest

from ..support import ACTOR, new_id
from .printshop import TOMAS, Shop
from .test_plates import objects


@pytest.fixture
def shop(workspace):
    return Shop(workspace)


def layout_of(laid, plate):
    return next(x for x in laid.layouts if x.key == next(p for p in laid.plates if p.id == plate.id).layout)


def test_a_plate_with_codes_is_its_own_file_and_its_specimens_have_them(shop):
    study = shop.study(tests=[NewTest(id=new_id(), orientation="flat", shape="dumb-bell-1a", replicates=3)])
    before = shop.lay(study, batches=1)
    first, second = before.plates
    assert first.layout == second.layout
    plain = plate_files.plate_file(shop.workspace, first.id, "3mf")[0]
    assert plain == plate_files.plate_file(shop.workspace, second.id, "3mf")[0]
    laid = relief_codes.sink_codes(shop.workspace, ACTOR, first.id)
    codes = [p.code for p in layout_of(laid, first).pieces]
    assert [k.takes_code for k in layout_of(laid, first).kinds] == [True]
    assert len(set(codes)) == 3
    assert [p.code for p in layout_of(laid, second).pieces] == [None] * 3
    assert relief_codes.sink_codes(shop.workspace, TOMAS, first.id) == laid, "twice is once"
    assert plate_files.plate_file(shop.workspace, second.id, "3mf")[0] == plain
    sunk = plate_files.plate_file(shop.workspace, first.id, "3mf")[0]
    assert sunk != plain
    assert len(objects(sunk)) == 3
    reader = lib3mf.get_wrapper().CreateModel().QueryReader("3mf")
    reader.SetStrictModeActive(True)
    reader.ReadFromBuffer(sunk)
    assert reader.GetWarningCount() == 0
    with shop.workspace.write(ACTOR) as unit:
        unit.rng = type("Draws", (), {"choice": staticmethod(iter(codes[0][:4] + "0123").__next__)})
        unit.rng.choice = lambda _, it=iter(codes[0][:4] + "2345"): next(it)
        assert free_code(unit)[:4] == "2345", "what is sunk into a piece is taken"
    batch = shop.print(first)
    assert [s.code for s in batch.specimens] == codes
    assert not set(codes) & {s.code for s in shop.print(second).specimens}
    with pytest.raises(ConflictError, match="was printed already"):
        relief_codes.sink_codes(shop.workspace, ACTOR, second.id)


def test_what_has_no_room_is_left_to_the_pen_and_a_plate_taken_back_gives_its_codes_back(shop):
    tests = [NewTest(id=new_id(), orientation=o, shape="dumb-bell-1ba", replicates=1) for o in ("flat", "upright")]
    study = shop.study(tests=[*tests, NewTest(id=new_id(), orientation="flat", method="shear", replicates=1)])
    laid = shop.lay(study, batches=1)
    plate = laid.plates[0]
    told = relief_codes.sink_codes(shop.workspace, ACTOR, plate.id)
    assert {p.kind: p.code is not None for p in layout_of(told, plate).pieces} == {
        "dumb-bell small (1BA), flat": True, "shear bar, flat": False
    }  # fmt: skip
    assert [p.batch_id for p in plates.take_back_plates(shop.workspace, ACTOR, study.id).plates] == []
    again = shop.lay(study, batches=1)
    assert {p.code for x in again.layouts for p in x.pieces} == {None}
    other = shop.study(tests=[NewTest(id=new_id(), orientation="upright", replicates=2)])
    with pytest.raises(EntryError, match="write the codes on"):
        relief_codes.sink_codes(shop.workspace, ACTOR, shop.lay(other).plates[0].id)


def test_photographs_of_a_batch_are_shown_with_it_and_with_no_other(shop):
    from PIL import Image

    picture = io.BytesIO()
    Image.new("RGB", (40, 30), "teal").save(picture, "PNG")
    study = shop.study(tests=[NewTest(id=new_id(), orientation="flat", replicates=1)])
    made = [shop.print(p) for p in shop.lay(study, batches=1).plates]
    kept, _ = photos.add_photo(shop.workspace, ACTOR, new_id(), "batch", made[0].id, picture.getvalue(), "warped at one end")
    shown = {b.id: [p.caption for p in b.photos] for b in batches.batches_of(shop.workspace, study.id).items}
    assert shown == {made[0].id: ["warped at one end"], made[1].id: []}
    photos.retract_photo(shop.workspace, ACTOR, kept.id, back=False)
    assert [b.photos for b in batches.batches_of(shop.workspace, study.id).items] == [[], []]
