"""A part of one's own through the services: taken in, marked, planned, laid out, printed, loaded, on the board."""

import io

import lib3mf
import pytest
import trimesh

from assayer.core.errors import ConflictError, EntryError, MissingError, StaleError
from assayer.core.methods import method as find_method
from assayer.services.bench import queue, runs
from assayer.services.bench.preview import preview_entry
from assayer.services.bench.requests import NewRun, PreviewRequest, RawField
from assayer.services.findings import one_test
from assayer.services.parts import parts
from assayer.services.parts.requests import PartEdit, PlaceIn
from assayer.services.printing import plate_files
from assayer.services.reports import dossier
from assayer.services.rigs import rigs
from assayer.services.stock import materials
from assayer.services.stock.requests import MaterialEdit
from assayer.services.studies import listing, power
from assayer.services.studies.requests import NewTest

from ..support import ACTOR, new_id, reading, rig
from .printshop import TOMAS, Shop


@pytest.fixture
def shop(workspace):
    return Shop(workspace)


def stl(*extents):
    return trimesh.creation.box(extents).export(file_type="stl")


def taken_in(workspace, extents=(40, 20, 10), name="Hive hook", **more):
    return parts.add_part(workspace, ACTOR, new_id(), "hook v2.stl", stl(*extents), name, **more)[0]


def place(**more):
    return PlaceIn(**{"id": new_id(), "kind": "measure", "label": "bore", "view": "top", "u": -3.0, "v": 1.5, "nominal": 8.0} | more)


def test_a_part_is_taken_in_once_and_shown_as_it_lies(workspace):
    key, data = new_id(), stl(40, 20, 10)
    made, new = parts.add_part(workspace, ACTOR, key, "hive_hook.stl", data)
    again, second = parts.add_part(workspace, ACTOR, key, "hive_hook.stl", data)
    assert (new, second, again) == (True, False, made)
    assert (made.name, made.file_name, made.unit, made.objects, made.triangles) == ("hive hook", "hive_hook.stl", "mm", 1, 12)
    assert (made.length, made.width, made.height, made.volume) == (40, 20, 10, pytest.approx(8.0))
    assert {(x, abs(x)) for loop in made.views.top for x, _ in loop} == {(20, 20), (-20, 20)}
    assert [(s.orientation, s.height, s.stands) for s in made.standings] == [("flat", 10, True), ("on edge", 20, True), ("upright", 40, True)]
    with pytest.raises(ConflictError, match="another part already has this id"):
        parts.add_part(workspace, ACTOR, key, "hive_hook.stl", stl(40, 20, 11))
    inches = parts.add_part(workspace, ACTOR, new_id(), "a.stl", stl(1, 2, 3), unit="in")[0]
    assert (inches.unit, inches.length) == ("in", 25.4)
    assert [p.name for p in parts.list_parts(workspace).items] == ["a", "hive hook"]
    assert workspace.files.path(_digest(workspace, key)).read_bytes() == data, "the file itself is kept"


def _digest(workspace, key):
    from assayer.store.models import Part

    with workspace.read() as session:
        return session.get(Part, key).sha256


def test_places_are_said_anew_and_nobody_overwrites_another(workspace):
    part, other = taken_in(workspace), taken_in(workspace, name="Other")
    bore, load = place(), place(kind="load", label="hook", view="front", nominal=3.0)
    marked = parts.edit_part(workspace, ACTOR, part.id, PartEdit(places=[bore, load], note="prints lying"), part.revision)
    assert [(p.kind, p.label, p.view, p.u, p.v, p.nominal) for p in marked.places] == [
        ("measure", "bore", "top", -3.0, 1.5, 8.0), ("load", "hook", "front", -3.0, 1.5, None)
    ]  # fmt: skip
    with pytest.raises(StaleError) as stale:
        parts.edit_part(workspace, TOMAS, part.id, PartEdit(name="Mine"), part.revision)
    assert stale.value.current.note == "prints lying"
    moved = parts.edit_part(workspace, TOMAS, part.id, PartEdit(places=[load, bore.model_copy(update={"u": 4.0})]), marked.revision)
    assert [(p.label, p.u) for p in moved.places] == [("hook", -3.0), ("bore", 4.0)]
    assert moved.note == "prints lying"
    with pytest.raises(ConflictError, match="another part has this id"):
        parts.edit_part(workspace, ACTOR, other.id, PartEdit(places=[bore]), other.revision)
    with pytest.raises(ConflictError, match="same id"):
        parts.edit_part(workspace, ACTOR, part.id, PartEdit(places=[bore, bore]), moved.revision)
    none = parts.edit_part(workspace, ACTOR, part.id, PartEdit(places=[], name="Hook"), moved.revision)
    assert (none.places, none.name) == ([], "Hook")
    drawn = parts.part_file(workspace, part.id, "svg", "flat")[0].decode()
    assert "<circle" not in drawn
    parts.edit_part(workspace, ACTOR, part.id, PartEdit(places=[bore, load]), none.revision)
    drawn = parts.part_file(workspace, part.id, "svg", "flat")[0].decode()
    assert all(f">{words}<" in drawn for words in ("1 bore 8", "2 hook"))


def test_its_solid_comes_as_it_stands(workspace):
    part = taken_in(workspace)
    body, name = parts.part_file(workspace, part.id, "stl", "upright")
    assert name == "Hive hook"
    assert trimesh.load(io.BytesIO(body), file_type="stl").extents.tolist() == pytest.approx([10, 20, 40])
    model = lib3mf.get_wrapper().CreateModel()
    reader = model.QueryReader("3mf")
    reader.SetStrictModeActive(True)
    reader.ReadFromBuffer(parts.part_file(workspace, part.id, "3mf", "on edge")[0])
    assert reader.GetWarningCount() == 0
    thin = taken_in(workspace, (120, 10, 3))
    with pytest.raises(EntryError, match="it falls over"):
        parts.part_file(workspace, thin.id, "stl", "upright")
    with pytest.raises(MissingError):
        parts.get_part(workspace, new_id())


def test_a_part_is_planned_printed_loaded_and_seen_on_the_board(shop):
    part = taken_in(shop.workspace)
    test = NewTest(id=new_id(), method="functional-part", orientation="flat", shape=part.id, replicates=2)
    study = shop.study(tests=[test])
    assert study.tests[0].shape.label == "Hive hook"
    assert study.tests[0].shape.family == "part"
    assert parts.get_part(shop.workspace, part.id).tests == 1
    needs = power.power(shop.workspace, study.id)
    assert [n.mass for n in needs.needs] == pytest.approx([2 * 8.0 * 1.24, 2 * 8.0 * 1.1])
    laid = shop.lay(study, batches=1)
    plate = next(p for p in laid.plates if p.arm_id == study.arms[0].id)
    layout = next(x for x in laid.layouts if x.key == plate.layout)
    assert [(k.kind, k.width, k.depth, k.height) for k in layout.kinds] == [("Hive hook, flat", 40, 20, 10)]
    mesh = trimesh.load(io.BytesIO(plate_files.plate_file(shop.workspace, plate.id, "stl")[0]), file_type="stl")
    assert mesh.volume == pytest.approx(2 * 8000)
    batch = shop.print(plate, spool_id=shop.spools[0])
    assert batch.mass == pytest.approx(2 * 8.0 * 1.24)
    parts.edit_part(shop.workspace, ACTOR, part.id, PartEdit(name="Hook"), part.revision)
    assert {i.shape for i in queue.waiting_tests(shop.workspace).items} == {"Hook"}, "called as it is called now"
    version = rigs.add_rig(shop.workspace, ACTOR, rig(methods=["functional-part"]))[0].id
    for specimen, load in zip(batch.specimens, ("331.3 N", "340 N"), strict=True):
        entry = {"id": new_id(), "subject_id": specimen.id, "test_id": study.tests[0].id, "rig_version_id": version, "happened_at": shop.workspace.clock()}
        told = [reading("peak_force", load), reading("mass", "10.2 g"), reading("print_time", "7112 s")]
        run = runs.accept(shop.workspace, ACTOR, NewRun(**entry, readings=told, outcome="broke"))[0]
    assert {r.quantity: r.value for r in run.results}["load_per_mass"] == pytest.approx(340 / 10.2)
    group = next(c for c in shop.column(study).cells if c.arm_id == study.arms[0].id)
    assert group.group.mean == pytest.approx((331.3 + 340) / 2)
    gone = parts.retract_part(shop.workspace, ACTOR, part.id, back=False)
    assert gone.retracted
    assert listing.get_study(shop.workspace, study.id).tests[0].shape.label == "Hook", "what was planned with it keeps it"
    with pytest.raises(EntryError, match="there is no part"):
        shop.study(tests=[test.model_copy(update={"id": new_id()})])
    assert parts.list_parts(shop.workspace).items == []
    assert not parts.retract_part(shop.workspace, ACTOR, part.id, back=True).retracted


def test_the_time_to_print_a_part_is_its_share_of_the_plate_unless_it_is_typed(shop):
    part = taken_in(shop.workspace)
    tests = [NewTest(id=new_id(), method="functional-part", orientation="flat", shape=s, replicates=1) for s in (part.id, None)]
    study = shop.study(tests=[tests[0], NewTest(id=new_id(), orientation="flat", replicates=2)])
    own = next(p for p in shop.lay(study, batches=1).plates if p.arm_id == study.arms[0].id)
    batch = shop.print(own, minutes=100)
    version = rigs.add_rig(shop.workspace, ACTOR, rig(methods=["functional-part"]))[0].id
    specimen = next(s for s in batch.specimens if s.test_id == study.tests[0].id)

    def per_hour(*more):
        entry = {"id": new_id(), "subject_id": specimen.id, "test_id": study.tests[0].id, "rig_version_id": version, "happened_at": shop.workspace.clock()}
        told = [reading("peak_force", "300 N"), *more]
        preview = preview_entry(
            shop.workspace,
            PreviewRequest(
                test_id=study.tests[0].id,
                specimen_id=specimen.id,
                rig_version_id=version,
                readings=[RawField(field=r.field, position=0, raw=r.raw) for r in told],
            ),
        )
        run, _ = runs.accept(shop.workspace, ACTOR, NewRun(**entry, readings=told, outcome="broke"))
        runs.retract(shop.workspace, ACTOR, run.id)
        found = {r.quantity: r.value for r in run.results}["load_per_hour"]
        assert {r.quantity: r.value for r in preview.reduction.results}["load_per_hour"] == pytest.approx(found)
        return found

    # 8 cm³ of it, beside two bars of 3.58 cm³
    share = 8.0 / (8.0 + 2 * find_method("tension").shapes[0].volume)
    assert per_hour() == pytest.approx(300 / (100 / 60 * share))
    assert per_hour(reading("print_time", "30 min")) == pytest.approx(600)


def test_only_a_test_that_is_done_on_parts_takes_one_and_it_must_stand(shop):
    part, thin = taken_in(shop.workspace), taken_in(shop.workspace, (120, 10, 3), "Slat")
    with pytest.raises(EntryError, match="has no shape"):
        shop.study(tests=[NewTest(id=new_id(), orientation="flat", shape=part.id, replicates=2)])
    with pytest.raises(EntryError, match="the Slat cannot be printed upright: it would fall over") as found:
        shop.study(tests=[NewTest(id=new_id(), method="functional-part", orientation="upright", shape=thin.id, replicates=2)])
    assert found.value.row == 1
    with pytest.raises(EntryError, match="cannot be printed upright"):
        shop.study(tests=[NewTest(id=new_id(), orientation="upright", shape="dumb-bell-1a", replicates=2)])
    plain = shop.study(tests=[NewTest(id=new_id(), method="functional-part", orientation="flat", replicates=2)])
    assert plain.tests[0].shape.name == "bracket"


def test_a_spool_gives_so_many_pieces_at_so_much_by_what_was_weighed(shop):
    part = taken_in(shop.workspace)
    study = shop.study(tests=[NewTest(id=new_id(), method="functional-part", orientation="flat", shape=part.id, replicates=2)])
    plate = next(p for p in shop.lay(study, batches=1).plates if p.arm_id == study.arms[0].id)
    version = rigs.add_rig(shop.workspace, ACTOR, rig(methods=["functional-part"]))[0].id
    for specimen, mass in zip(shop.print(plate, spool_id=shop.spools[0]).specimens, ("8.0 g", "8.4 g"), strict=True):
        told = [reading("peak_force", "300 N"), reading("mass", mass)]
        entry = {"id": new_id(), "subject_id": specimen.id, "test_id": study.tests[0].id, "rig_version_id": version, "happened_at": shop.workspace.clock()}
        runs.accept(shop.workspace, ACTOR, NewRun(**entry, readings=told, outcome="broke"))
    material = study.arms[0].material.id

    def told_of(quantity=None, **edit):
        if edit:
            revision = dossier.dossier(shop.workspace, material).material.revision
            materials.edit_material(shop.workspace, ACTOR, material, MaterialEdit(**edit), revision)
        found = one_test.findings(shop.workspace, study.tests[0].id, quantity)
        spools = {a.arm.id: a.per_spool for a in found.arms}
        assert spools[study.arms[1].id] is None, "none of it was weighed"
        return spools[study.arms[0].id]

    assert told_of(net_mass=None) is None, "who knows how much is on a spool"
    first = told_of(net_mass=750, price=24.6, currency="€")
    # 750 / 8.2 = 91.46; 24.60 · 8.2 / 750
    assert (first.pieces, first.net, first.cost, first.currency) == (91, 750, pytest.approx(0.26896), "€")
    assert told_of("mass") == told_of("load_per_mass") == first
    assert told_of(net_mass=82).pieces == 10, "ten times 8.2 g are ten pieces"
    assert told_of(price=None).cost is None
