"""Materials, what is claimed and reported of them, lists in and out, labels."""

import csv
import re
from pathlib import Path

import pytest
import segno
from pydantic import ValidationError

from assayer.core.errors import ConflictError, EntryError, FileError, QuestionError, StaleError
from assayer.services import codes
from assayer.services.bench import queue, runs
from assayer.services.reports import dossier
from assayer.services.rigs import rigs
from assayer.services.stock import labels, listing, lists, materials, spools
from assayer.services.stock.requests import (
    ImportAnswer,
    ImportText,
    MaterialEdit,
    NewClaim,
    NewMaterial,
    PreferencesEdit,
    SpoolEdit,
    WindowIn,
)
from assayer.services.studies import planning
from assayer.services.studies.requests import NewArm, NewStudy, NewTest
from assayer.services.unit import Actor, Workspace
from assayer.store.models import Claim, Spool

from ..conftest import NOW
from ..support import ACTOR, new_id, printed, rig, run
from .stockroom import add_petg, ago, spool_of

LIST = Path(__file__).parent / "data/materials.csv"


def test_colours_measured_alike_stand_side_by_side(workspace):
    """Two colours in one study on one rig: each with its own mean, and how far they lie apart."""
    keys = [add_petg(workspace, colour=c) for c in ("black", "grey")]
    frame = rigs.add_rig(workspace, ACTOR, rig())[0].id
    plan = NewStudy(
        id=new_id(),
        title="Colours",
        arms=[NewArm(id=new_id(), material_id=k) for k in keys],
        tests=[NewTest(id=new_id(), orientation="flat", replicates=2)],
    )
    made, _ = planning.create_study(workspace, ACTOR, plan)
    printed(workspace, made, ago(1))
    test = made.tests[0].id
    peaks = {"black": ["60", "62"], "grey": ["50", "51"]}
    for item in queue.queue(workspace, test, "st", blind=False).items:
        runs.accept(workspace, ACTOR, run(item.specimen_id, test, frame, peaks[item.arm.material.colour].pop()))
    (spread,) = dossier.dossier(workspace, keys[0]).line_spread
    assert [(m.colour, m.n) for m in spread.means] == [("grey", 2), ("black", 2)]
    assert spread.ratio == pytest.approx(61 / 50.5)
    assert [g.n for g in dossier.dossier(workspace, keys[0]).history if g.main] == [2], "never put together"


def test_the_dossier_keeps_colours_apart_and_reported_beside_measured(workspace):
    black = add_petg(workspace, price=58.0, currency="€")
    grey = add_petg(workspace, colour="grey", price=61.5, currency="€", density=1.31, hex="#888888")
    materials.add_claim(workspace, ACTOR, black, NewClaim(id=new_id(), text="stiffness 4,2 GPa (ISO 527)", source="leaflet"))
    found = dossier.dossier(workspace, grey)
    assert [(m.colour, m.differs) for m in found.line] == [("black", ["density 1.29 g/cm³", "77.33 €/kg"]), ("grey", [])]
    assert [(c.colour, c.label, c.source) for c in found.claims] == [("black", "tensile modulus", "leaflet")]
    assert found.shapes[0].mass == pytest.approx(3.58204 * 1.31, abs=1e-4)
    assert found.material.per_specimen == pytest.approx(61.5 / 750 * 3.58204 * 1.31, abs=1e-5)
    text = "Maker\tProduct\tColour\tQuantity\tValue\tUnit\tn\nTarn\tClearwater CF\tgrey\ttensile strength\t48,5\tMPa\t3"
    assert lists.run_import(workspace, ACTOR, ImportText(kind="reported", text=text)).kept == 1
    found = dossier.dossier(workspace, grey)
    assert [(r.quantity, r.value, r.n) for r in found.reported] == [("tensile strength", 48.5, 3)]
    assert found.history == []
    claim = dossier.dossier(workspace, black).claims[0]
    materials.retract(workspace, ACTOR, Claim, claim.id, back=False)
    assert dossier.dossier(workspace, black).claims == []
    materials.retract(workspace, ACTOR, Claim, claim.id, back=True)
    assert len(dossier.dossier(workspace, black).claims) == 1


@pytest.mark.parametrize("wrong", ["Hol\x07lin", "Hollin\n", "\tx\x1f", "a\ud800"])
def test_names_hold_no_control_characters(wrong):
    with pytest.raises(ValidationError, match=r"control characters|unicode"):
        NewMaterial(id=new_id(), maker=f"a{wrong}b", product="x", polymer="PLA", colour="red", hex="#FF0000")


def test_edits_are_checked_and_logged(workspace):
    key = add_petg(workspace)
    other = add_petg(workspace, colour="grey")
    with pytest.raises(QuestionError, match=r"was 1.27 g/cm³ meant"):
        materials.edit_material(workspace, ACTOR, key, MaterialEdit(density=12.7), 1)
    with pytest.raises(EntryError, match="upside down"):
        materials.edit_material(workspace, ACTOR, key, MaterialEdit(window=WindowIn(bed_low=85, bed_high=70)), 1)
    with pytest.raises(ConflictError, match="already there"):
        materials.edit_material(workspace, ACTOR, other, MaterialEdit(colour="BLACK"), 1)
    with pytest.raises(QuestionError, match=r"was 250 °C meant"):
        materials.edit_material(workspace, ACTOR, key, MaterialEdit(window=WindowIn(nozzle_high=25)), 1)
    assert materials.edit_material(workspace, ACTOR, key, MaterialEdit(density=1.28, obtained="sent free"), 1) == 2
    with pytest.raises(StaleError):
        materials.edit_material(workspace, ACTOR, key, MaterialEdit(density=1.3), 1)
    last = dossier.dossier(workspace, key).record[0]
    assert (last.action, [(c.name, c.before, c.after) for c in last.changes]) == ("edited", [("density", "1.29", "1.28"), ("obtained", "", "sent free")])


def test_stock_is_filtered_and_sorted(workspace):
    lists.run_import(workspace, ACTOR, ImportText(kind="materials", text=LIST.read_text("utf-8")))
    by = {i.colour: i for i in listing.list_stock(workspace, listing.StockQuery()).items}
    page = spool_of(workspace, material_id=by["moss"].id, gross="1250", empty="247")

    def names(**asked):
        return [i.colour for i in listing.list_stock(workspace, listing.StockQuery(**asked)).items]

    assert names(words="tarn CARBON") == ["black"]
    assert names(words=page.code.lower()) == ["moss"]
    assert names(words="50%_") == []
    assert names(polymer="PLA") == ["amber", "ivory"]
    assert names(filled=True) == ["grey", "natural", "black"]
    assert names(state="fit") == ["moss"]
    assert len(names(state="none")) == 7
    assert names(sort="price")[:2] == ["amber", "ivory"]
    assert names(sort="price")[-1] == "natural"
    spools.edit_spool(workspace, ACTOR, page.id, SpoolEdit(gone_why="used up"), page.revision)
    assert names(state="at hand") == []


# lists


def test_the_labs_own_list_goes_in_with_eight_and_a_word_on_each_of_the_rest(workspace):
    text = LIST.read_text("utf-8")
    asked = ImportText(kind="materials", text=text)
    assert lists.preview_import(workspace, asked).counts == {"new": 8, "gaps": 0, "there": 0, "question": 1, "error": 2}
    assert listing.list_stock(workspace, listing.StockQuery()).total == 0, "a preview keeps nothing"
    done = lists.run_import(workspace, ACTOR, asked)
    rows = {r.row: r for r in done.rows}
    assert done.kept == 8
    assert [e.text for e in rows[9].errors] == ["Stell Pliant in white stands in row 8 already: leave one of them out"]
    assert [(q.field, q.likely, q.text) for q in rows[10].questions] == [("density", "1.27", "density 12.7 g/cm³: was 1.27 g/cm³ meant?")]
    assert [e.field for e in rows[11].errors] == ["filler_share", "nozzle"]
    assert "120 %" in rows[11].errors[0].text
    assert "was 270–290 meant?" in rows[11].errors[1].text
    listed = listing.list_stock(workspace, listing.StockQuery())
    assert (listed.total, sum(i.contradictions for i in listed.items)) == (8, 1)
    grey = next(i for i in listed.items if i.colour == "grey")
    found = dossier.dossier(workspace, grey.id)
    assert found.contradictions[0].text == "hardened nozzle: “no hardened nozzle needed” against “wears soft nozzles, use a hardened one”"
    w = found.window
    assert (w.nozzle_low, w.nozzle_high, w.chamber_low, w.nozzle_min, w.dry_time, w.hardened) == (250, 272, 50, 0.5, 9, False)
    amber = next(i for i in listed.items if i.colour == "amber")
    assert [(c.text, c.relation, c.value) for c in dossier.dossier(workspace, amber.id).claims] == [
        ("three times the impact strength of our Hearth", "times", 3)
    ]
    # sent again nothing is doubled; the answered question brings the ninth
    again = lists.run_import(workspace, ACTOR, asked)
    assert (again.kept, again.counts["there"]) == (0, 8)
    answered = asked.model_copy(update={"answers": [ImportAnswer(row=10, field="density", raw="1,27")]})
    assert lists.run_import(workspace, ACTOR, answered).kept == 1
    honey = next(i for i in listing.list_stock(workspace, listing.StockQuery()).items if i.colour == "honey")
    assert (honey.density, honey.note) == (1.27, "density slipped by a decimal")


def test_an_odd_value_stands_once_it_is_confirmed(workspace):
    text = "Maker,Product,Polymer,Colour,Density\nStell,Ballast,PP,grey,4.1"
    asked = ImportText(kind="materials", text=text, answers=[ImportAnswer(row=1, field="density", raw="4.1")])
    assert lists.run_import(workspace, ACTOR, asked).kept == 1
    assert listing.list_stock(workspace, listing.StockQuery()).items[0].density == 4.1


def test_what_goes_out_comes_in_again(workspace, tmp_path):
    lists.run_import(workspace, ACTOR, ImportText(kind="materials", text=LIST.read_text("utf-8")))
    key = listing.list_stock(workspace, listing.StockQuery(words="smoke")).items[0].id
    materials.add_claim(workspace, ACTOR, key, NewClaim(id=new_id(), text='=SUM("evil")', source="box"))
    tables = {kind: lists.export_table(workspace, kind) for kind in ("materials", "claims")}
    assert "'=SUM" in tables["claims"], "a spreadsheet must not read a formula"
    other = Workspace(tmp_path / "other", lambda: NOW, durable=False)
    for kind, text in tables.items():
        done = lists.run_import(other, ACTOR, ImportText(kind=kind, text=text))
        assert done.kept == len(done.rows), done.counts
        assert lists.export_table(other, kind) == text
    other.close()


@pytest.mark.parametrize(
    ("kind", "text", "line", "words"),
    [
        ("materials", "Maker", 1, "one cell only"),
        ("materials", "Maker;Product;Polymer;Colour", None, "no row below"),
        ("materials", "Maker;Product;Colour\na;b;c", 1, "no column 'Polymer'"),
        ("materials", "Maker;Maker;Product;Polymer;Colour\na;a;b;c;d", 1, "two columns are 'Maker'"),
        ("claims", "Maker;Product\na;b", 1, "no column 'Claim'"),
    ],
)
def test_a_list_that_is_none_is_refused_with_its_line(workspace, kind, text, line, words):
    with pytest.raises(FileError, match=words) as caught:
        lists.preview_import(workspace, ImportText(kind=kind, text=text))
    assert caught.value.line == line


def test_a_claim_of_a_product_in_several_colours_says_of_which(workspace):
    add_petg(workspace, colour="black")
    text = "Maker;Product;Claim;Colour\nTARN;clearwater cf;no warping;"
    assert lists.preview_import(workspace, ImportText(kind="claims", text=text)).counts["new"] == 1
    add_petg(workspace, colour="grey")
    found = lists.preview_import(workspace, ImportText(kind="claims", text=text))
    assert found.rows[0].errors[0].text == "TARN clearwater cf comes in black, grey: say of which colour it was said"
    assert lists.run_import(workspace, ACTOR, ImportText(kind="claims", text=text + "grey")).kept == 1


def test_claims_of_an_unknown_product_are_named(workspace):
    found = lists.preview_import(workspace, ImportText(kind="claims", text="Maker;Product;Claim\nTarn;Cleerwater;no warping"))
    assert [(e.field, e.text) for e in found.rows[0].errors] == [("product", "Tarn Cleerwater is not in the stock: add it first, or check the spelling")]


# long lists, and several people


def long_list(count):
    return "\n".join(["Maker;Product;Polymer;Colour;Note", *(f"Tarn;Long {i // 5};PLA;colour {i};no warping" for i in range(count))])


def test_a_long_list_lets_others_write_in_between_and_loses_nothing_where_it_breaks_off(workspace, monkeypatch):
    turns, write = [], workspace.write
    monkeypatch.setattr(workspace, "write", lambda actor: turns.append(actor) or write(actor))
    asked, keep = ImportText(kind="materials", text=long_list(45)), lists._KEEP["materials"]

    def fails(unit, done, row):
        if row.values["colour"] == "colour 30":
            raise OSError("no space left")
        keep(unit, done, row)

    monkeypatch.setitem(lists._KEEP, "materials", fails)
    with pytest.raises(OSError, match="no space"):
        lists.run_import(workspace, ACTOR, asked)
    assert materials.list_materials(workspace, 1, 0).total == 20
    monkeypatch.setitem(lists._KEEP, "materials", keep)
    turns.clear()
    done = lists.run_import(workspace, ACTOR, asked)
    assert (done.kept, done.counts["there"], len(turns)) == (25, 20, 2)
    assert materials.list_materials(workspace, 1, 0).total == 45


@pytest.mark.parametrize(
    ("kind", "text"),
    [
        ("materials", "Maker;Product;Polymer;Colour\nTarn;Clearwater;PETG;black"),
        ("materials", "Maker;Product;Polymer;Colour;Density\nTarn;Clearwater CF;PETG;black;1,31"),
        ("claims", "Maker;Product;Claim\nTarn;Clearwater CF;no warping"),
        ("reported", "Maker;Product;Colour;Quantity;Value;Unit\nTarn;Clearwater CF;black;strength;47;MPa"),
    ],
)
def test_two_people_taking_in_one_list_at_once_keep_it_once(workspace, monkeypatch, kind, text):
    add_petg(workspace, colour="black", density=None)
    asked, write, other = ImportText(kind=kind, text=text), workspace.write, []

    def after_another(actor):
        if not other:
            other.append(None)
            other[0] = lists.run_import(workspace, Actor("Tomas", "UTC"), asked).kept
        return write(actor)

    monkeypatch.setattr(workspace, "write", after_another)
    done = lists.run_import(workspace, ACTOR, asked)
    assert (other, done.kept) == ([1], 0)
    again = lists.preview_import(workspace, asked)
    assert again.counts["there"] == 1


# labels


def test_labels_carry_code_swatch_and_a_qr_code_of_the_set_address(workspace):
    page = spool_of(workspace)
    svg = labels.label(workspace, page.code, "http://10.0.0.7:8717")
    assert page.code in svg
    assert "Tarn Clearwater CF" in svg
    assert labels.get_preferences(workspace, "http://10.0.0.7:8717").label_base_url == "http://10.0.0.7:8717"
    labels.set_preferences(workspace, ACTOR, PreferencesEdit(label_base_url="http://workshop.local/"))
    changed = labels.label(workspace, page.code.lower(), "http://10.0.0.7:8717")
    assert changed != svg
    # the modules drawn are those of the code for this address
    wanted = [
        (x, y)
        for y, row in enumerate(segno.make_qr(f"http://workshop.local/c/{page.code}", error="m").matrix_iter(border=4))
        for x, bit in enumerate(row)
        if bit
    ]
    path = re.search(r'<path transform[^>]* d="([^"]*)"', changed)[1]
    assert [(int(x), int(y)) for x, y in re.findall(r"M(\d+) (\d+)h1", path)] == wanted


def test_a_spool_shares_the_space_of_codes(workspace):
    page = spool_of(workspace)
    found = codes.resolve_code(workspace, f"http://workshop.local/c/{page.code}")
    assert (found.kind, found.id) == ("spool", page.id)
    with workspace.read() as session:
        assert session.get(Spool, page.id).code == page.code


def test_what_a_maker_does_not_say_goes_out_empty(workspace):
    add_petg(workspace, window=WindowIn(hardened=False, bed_low=70), density=None)
    header, row = csv.reader(lists.export_table(workspace, "materials").splitlines())
    said = {name: cell for name, cell in zip(header, row, strict=True) if cell}
    assert (said["Hardened"], said["Bed °C"]) == ("no", "70")
    assert not {"Enclosure", "Nozzle °C", "Density g/cm³", "Dry"} & set(said)
