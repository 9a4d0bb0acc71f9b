"""What became of a product, gaps filled from a list, and what a spool and a printer say to one another."""

from datetime import date

import pytest

from assayer.core.errors import EntryError, MissingError, QuestionError, StaleError
from assayer.services.printing import fit, printers
from assayer.services.printing.requests import FitQuestion, NewPrinter, PrintSettingsIn
from assayer.services.reports import dossier
from assayer.services.stock import lists, materials, products, spools
from assayer.services.stock.requests import ImportText, MaterialEdit, ProductEdit, SpoolEdit, WindowIn

from ..support import ACTOR, material, new_id
from .stockroom import add_petg, spool_of

HEAD = "Maker,Product,Polymer,Colour,Density,Price,Net g,Nozzle °C,Max flow mm³/s,Fumes,Window from,Obtained"


def edit(workspace, key, **given):
    revision = dossier.dossier(workspace, key).material.revision
    return products.edit_product(workspace, ACTOR, key, ProductEdit(**given), revision)


def related(workspace, key):
    return [(r.how, r.maker, r.product) for r in dossier.dossier(workspace, key).related]


def test_a_successor_that_is_not_there_is_said_so(workspace):
    key = add_petg(workspace)
    revision = dossier.dossier(workspace, key).material.revision
    with pytest.raises(MissingError):
        products.edit_product(workspace, ACTOR, key, ProductEdit(succeeds_id=new_id()), revision)


def test_a_product_is_withdrawn_and_followed_for_all_its_colours(workspace):
    old, grey = add_petg(workspace), add_petg(workspace, colour="grey")
    new, base = material("Clearwater CF 2", maker="Tarn"), material("Clearwater", maker="Tarn")
    for m in (new, base):
        materials.add_material(workspace, ACTOR, m)
    edit(workspace, old, withdrawn_on=date(2026, 3, 1), base_id=base.id)
    edit(workspace, new.id, succeeds_id=grey)
    assert [dossier.dossier(workspace, key).material.withdrawn_on for key in (old, grey, new.id, base.id)] == ["2026-03-01", "2026-03-01", None, None]
    for key in (old, grey):
        assert related(workspace, key) == [("derived from", "Tarn", "Clearwater"), ("succeeded by", "Tarn", "Clearwater CF 2")]
    assert related(workspace, new.id) == [("succeeds", "Tarn", "Clearwater CF")]
    assert related(workspace, base.id) == [("base of", "Tarn", "Clearwater CF")], "a product is named once, whatever its colours"
    # a colour that joins it later, or is moved into it, is withdrawn as well; one that leaves it is not
    late = add_petg(workspace, colour="red")
    assert dossier.dossier(workspace, late).material.withdrawn_on == "2026-03-01"
    materials.edit_material(workspace, ACTOR, late, MaterialEdit(product="Clearwater CF 2"), dossier.dossier(workspace, late).material.revision)
    assert (dossier.dossier(workspace, late).material.withdrawn_on, related(workspace, late)) == (None, [("succeeds", "Tarn", "Clearwater CF")])
    materials.edit_material(workspace, ACTOR, grey, MaterialEdit(note="kept"), dossier.dossier(workspace, grey).material.revision)
    assert dossier.dossier(workspace, grey).material.withdrawn_on == "2026-03-01"
    edit(workspace, grey, withdrawn_on=None)
    assert dossier.dossier(workspace, old).material.withdrawn_on is None
    assert ("derived from", "Tarn", "Clearwater") in related(workspace, old), "only what is given changes"


def test_a_product_takes_no_place_of_its_own(workspace):
    one, two, three = (material(p) for p in ("One", "Two", "Three"))
    for m in (one, two, three):
        materials.add_material(workspace, ACTOR, m)
    edit(workspace, two.id, succeeds_id=one.id)
    edit(workspace, three.id, succeeds_id=two.id, base_id=one.id)
    for key, given, words in (
        (one.id, {"succeeds_id": one.id}, "cannot take its own place"),
        (one.id, {"succeeds_id": three.id}, "cannot take its own place"),
        (one.id, {"base_id": three.id}, "cannot be derived from itself"),
        (one.id, {"withdrawn_on": date(1999, 12, 31)}, "before the year 2000"),
    ):
        with pytest.raises(EntryError, match=words) as refused:
            edit(workspace, key, **given)
        assert refused.value.field == next(iter(given))
    with pytest.raises(MissingError):
        edit(workspace, one.id, base_id=new_id())
    with pytest.raises(StaleError):
        products.edit_product(workspace, ACTOR, two.id, ProductEdit(withdrawn_on=date(2026, 1, 1)), 1)
    edit(workspace, one.id, withdrawn_on=date(2000, 1, 1))


def take_in(workspace, *rows):
    asked = ImportText(kind="materials", text="\n".join([HEAD, *rows]))
    return lists.preview_import(workspace, asked), lists.run_import(workspace, ACTOR, asked)


def test_gaps_are_filled_from_a_list_and_nothing_known_is_overwritten(workspace):
    new = material("Outdoor", maker="Fenwick", polymer="ASA", colour="moss", density=None, net_mass=None, window=WindowIn(nozzle_low=245, nozzle_high=268))
    materials.add_material(workspace, ACTOR, new)
    bare = material("Pliant", maker="Stell", polymer="PP", colour="white", density=0.9, price=44.0, currency="€", window=None)
    materials.add_material(workspace, ACTOR, bare)
    rows = (
        "Fenwick,Outdoor,ASA,moss,1.07,31 €,1000,250–260,13,yes,label,bought",
        "Stell,Pliant,PP,white,0.95,40 €,750,220–240,,no,,",
        "Stell,Pliant,PP,blue,0.9,,,,,,,",
    )
    preview, done = take_in(workspace, *rows)
    assert [r.state for r in preview.rows] == ["gaps", "gaps", "new"]
    assert preview.counts == {"new": 1, "gaps": 2, "there": 0, "question": 0, "error": 0}
    assert (
        preview.rows[0].there
        == "fills density, price, net mass, flow max, fumes, obtained, source, currency, left as it is: nozzle low 245 (row: 250), nozzle high 268 (row: 260)"
    )
    assert preview.rows[1].there == "fills net mass, nozzle low, nozzle high, fumes, left as it is: density 0.9 (row: 0.95), price 44 (row: 40)"
    assert done.kept == 3
    outdoor, pliant = (dossier.dossier(workspace, key) for key in (new.id, bare.id))
    m, w = outdoor.material, outdoor.window
    assert (m.density, m.price, m.currency, m.net_mass, m.obtained, m.revision) == (1.07, 31.0, "€", 1000, "bought", 2)
    assert (w.nozzle_low, w.nozzle_high, w.flow_max, w.fumes, w.dust, w.source) == (245, 268, 13, True, None, "label")
    assert (pliant.material.density, pliant.material.price, pliant.material.net_mass) == (0.9, 44.0, 750)
    assert (pliant.window.nozzle_low, pliant.window.fumes) == (220, False)
    assert any("gaps filled from a list" in e.action for e in outdoor.record)
    again, done = take_in(workspace, *rows)
    assert ([r.state for r in again.rows], done.kept) == (["there"] * 3, 0)
    out = lists.export_table(workspace, "materials")
    assert "Fumes" in out.splitlines()[0]


def test_a_speed_and_a_flow_in_the_likely_other_unit_are_asked_about(workspace):
    with pytest.raises(QuestionError) as asked:
        add_petg(workspace, window=WindowIn(speed_low=1800, speed_high=4800, flow_max=0.72))
    assert [(q.field, q.likely) for q in asked.value.questions] == [("speed_low", "30"), ("speed_high", "80"), ("flow_max", "12")]
    assert "1800 mm/min" in asked.value.questions[0].text
    assert "0.72 cm³/min" in asked.value.questions[2].text
    add_petg(workspace, window=WindowIn(speed_low=1800, speed_high=4800, flow_max=0.72), confirmed=[q.key for q in asked.value.questions])
    rows = lists.preview_import(
        workspace,
        ImportText(kind="materials", text="Maker,Product,Polymer,Colour,Speed,Max flow\nA,B,PLA,red,2400–3600,720\nA,C,PLA,red,40–60 mm/s,0.72 cm³/min"),
    )
    assert [[(q.field, q.likely) for q in r.questions] for r in rows.rows] == [[("speed", "40–60"), ("flow_max", "12")], []]
    page = spool_of(workspace, material_id=add_petg(workspace, colour="grey"))
    view = fit.fit_to_print(workspace, FitQuestion(spool_id=page.id, settings=PrintSettingsIn(speed=3600, flow=720)))
    assert [(q.field, q.likely, q.may_confirm) for q in view.questions] == [("speed", "60", True), ("flow", "12", True)]
    assert fit.fit_to_print(workspace, FitQuestion(spool_id=page.id, settings=PrintSettingsIn(speed=60, flow=12))).questions == []


def test_a_spools_body_meets_the_feeder(workspace):
    key = add_petg(workspace, window=WindowIn(fumes=True))
    page = spool_of(workspace, material_id=key)
    printer = NewPrinter(id=new_id(), name="Bench", extraction=False, holder=52.0, drives_rims=True, takes_refills=False, loads_itself=True)
    assert printers.add_printer(workspace, ACTOR, printer)[0].holder == 52.0

    def missed(**body):
        kept = spools.edit_spool(workspace, ACTOR, page.id, SpoolEdit(**body), spools.get_spool(workspace, page.id).revision)
        assert {k: getattr(kept, k) for k in body} == body
        return {m.rule for m in fit.fit_to_print(workspace, FitQuestion(spool_id=page.id, printer_id=printer.id)).misses} & {
            "extraction",
            "spool body",
            "spool bore",
            "loose end",
        }

    assert missed(body="plastic", bore=60.0, loose_end="straight") == {"extraction"}
    assert missed(body="cardboard", bore=50.0, loose_end="bent") == {"extraction", "spool body", "spool bore", "loose end"}
    assert missed(body="refill") == {"extraction", "spool body", "loose end"}
