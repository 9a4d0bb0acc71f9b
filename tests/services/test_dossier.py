"""All that is known of a material on one page: each figure from where it comes, and what is not known left open."""

import math

import pytest

from assayer.core.errors import MissingError
from assayer.services.bench import runs
from assayer.services.reports import dossier
from assayer.services.sessions import drying
from assayer.services.sessions.requests import EndDrying, MemberMass, NewDrying
from assayer.services.stock import listing, materials
from assayer.services.stock.requests import MaterialEdit, NewClaim, WindowIn
from assayer.services.unit import Actor

from ..support import ACTOR, jack, material, new_id, run
from .stockroom import add_petg, ago, spool_of

TOMAS = Actor("Tomas", "Europe/Berlin")


def test_lengths_masses_and_prices_follow_from_what_is_registered(workspace):
    key = add_petg(workspace, price=30.0, currency="€")
    found = dossier.dossier(workspace, key)
    assert found.length == pytest.approx(750 / 1.29 / (math.pi / 4 * 1.75**2))
    assert (found.material.per_kg, found.material.per_cm3) == (pytest.approx(40.0), pytest.approx(0.0516))
    bar = next(s for s in found.shapes if s.name == "bar")
    assert (bar.volume, bar.mass, bar.price) == (pytest.approx(3.2), pytest.approx(4.128), pytest.approx(3.2 * 0.0516))
    without = add_petg(workspace, colour="grey", density=None, price=30.0)
    bare = dossier.dossier(workspace, without)
    assert (bare.length, bare.shapes, bare.material.per_cm3, bare.material.per_kg) == (None, [], None, pytest.approx(40.0))
    free = add_petg(workspace, colour="white", price=None)
    assert [s.price for s in dossier.dossier(workspace, free).shapes] == [None] * len(found.shapes)
    nothing = add_petg(workspace, colour="red", net_mass=None)
    assert dossier.dossier(workspace, nothing).length is None
    with pytest.raises(MissingError):
        dossier.dossier(workspace, new_id())


def test_colours_of_a_line_say_in_what_they_differ(workspace):
    one = add_petg(workspace, price=30.0, currency="€")
    two = add_petg(workspace, colour="grey", price=33.0, currency="€", diameter=2.85, window=WindowIn(bed_low=70, bed_high=90, nozzle_low=240, nozzle_high=260))
    differs = {m.colour: m.differs for m in dossier.dossier(workspace, one).line}
    assert differs["black"] == []
    assert differs["grey"] == ["diameter 2.85 mm", "44.00 €/kg", "nozzle 240–260 °C", "bed 70–90 °C"]
    back = {m.colour: m.differs for m in dossier.dossier(workspace, two).line}
    assert back["black"] == ["diameter 1.75 mm", "40.00 €/kg", "bed 70–85 °C"]


def test_a_claim_stands_beside_what_was_measured_of_the_same(lab):
    ws, key = lab.workspace, lab.study.arms[0].material.id
    texts = ("tensile strength 40 MPa", "layer adhesion 20 MPa", "twice the strength of Basic", "strong", "impact strength 8 kJ/m²")
    for text in texts:
        materials.add_claim(ws, ACTOR, key, NewClaim(id=new_id(), text=text, source="box"))
    lab.accept(lab.flat, lab.arms[0], ["60", "61"])
    lab.accept(lab.upright, lab.arms[0], ["30", "31", "32"])
    beside = {c.text: [(v.measured.orientation, v.measured.n) for v in c.verdicts] for c in dossier.dossier(ws, key).claims}
    assert beside == dict(zip(texts, ([("flat", 2)], [("upright", 3)], [], [], []), strict=True))
    labels = {c.text: (c.label, c.colour, c.source) for c in dossier.dossier(ws, key).claims}
    assert labels["tensile strength 40 MPa"] == ("tensile strength", "amber", "box")
    assert dossier.dossier(ws, lab.study.arms[1].material.id).claims == []


def test_the_spread_of_a_line_compares_what_was_measured_alike(lab):
    """Another colour on another rig is not alike."""
    assert dossier.dossier(lab.workspace, lab.study.arms[0].material.id).line_spread == []
    lab.accept(lab.flat, lab.arms[0], ["60", "61"])
    other = jack(lab.workspace)
    runs.accept(lab.workspace, ACTOR, run(lab.specimens(lab.flat, lab.arms[1], "waiting")[0], lab.flat, other.id, "600"))
    assert dossier.dossier(lab.workspace, lab.study.arms[0].material.id).line_spread == []


def test_rigs_are_named_where_an_arm_was_measured_on_several(lab):
    key = lab.study.arms[0].material.id
    lab.accept(lab.flat, lab.arms[0], ["60", "61"])
    lab.accept(lab.upright, lab.arms[0], ["30", "31"])
    alone = {(m.orientation, m.rig) for m in dossier.dossier(lab.workspace, key).history}
    assert alone == {("flat", ""), ("upright", "")}
    other = jack(lab.workspace)
    runs.accept(lab.workspace, ACTOR, run(lab.specimens(lab.flat, lab.arms[0], "waiting")[0], lab.flat, other.id, "600"))
    found = {(m.orientation, m.rig_version_id, m.rig) for m in dossier.dossier(lab.workspace, key).history}
    assert {(side, rig) for side, version, rig in found if version == other.id} == {("flat", "Jack")}
    assert {(side, rig) for side, version, rig in found if version != other.id} == {("flat", "Pull frame"), ("upright", "")}


def test_what_drying_took_out_is_listed_the_latest_first(workspace):
    key = add_petg(workspace)
    pages = [spool_of(workspace, material_id=key) for _ in range(2)]
    for page, start, end, before, after in ((pages[0], 40, 32, "964", "961"), (pages[1], 20, 14, "964", "963"), (pages[0], 10, 4, "961", "")):
        members = [MemberMass(spool_id=page.id, raw=before)]
        session = drying.start_drying(workspace, ACTOR, NewDrying(id=new_id(), device="Box", temperature=65, hours=8, started_at=ago(start), members=members))[
            0
        ]
        drying.end_drying(workspace, ACTOR, session.id, EndDrying(ended_at=ago(end), members=[MemberMass(spool_id=page.id, raw=after)]), session.revision)
    rows = dossier.dossier(workspace, key).moisture_lost
    assert [(r.code, r.hours, r.temperature) for r in rows] == [(pages[1].code, 6, 65), (pages[0].code, 8, 65)]
    assert [r.lost for r in rows] == [pytest.approx(1 / (963 - 214)), pytest.approx(3 / (961 - 214))]


def test_the_record_of_a_material_has_its_claims_and_the_latest_first(workspace):
    key = add_petg(workspace)
    workspace.clock = lambda: ago(-1)
    materials.add_claim(workspace, TOMAS, key, NewClaim(id=new_id(), text="no warping"))
    workspace.clock = lambda: ago(-2)
    materials.edit_material(workspace, TOMAS, key, MaterialEdit(density=1.3), 1)
    record = dossier.dossier(workspace, key).record
    assert [(e.entity, e.action, e.who) for e in record] == [("material", "edited", "Tomas"), ("claim", "added", "Tomas"), ("material", "added", "Ilse")]


def test_the_stock_counts_what_was_tested_of_each_and_what_it_costs(lab):
    lab.accept(lab.flat, lab.arms[0], ["60", "61"])
    lab.accept(lab.upright, lab.arms[0], ["30"])
    lab.accept(lab.flat, lab.arms[0], ["62"], validity="left_out", validity_reason="slipped")
    page = listing.list_stock(lab.workspace, listing.StockQuery())
    rows = {i.product: i.measured for i in page.items}
    assert rows["Clearwater"] == {}
    assert rows["Everyday"] == {"tension flat": 2, "tension upright": 1}
    assert {p.key for p in page.strip} >= {"tension flat", "tension upright", "creep flat", "hardness flat"}
    assert (page.total, page.offset) == (2, 0)
    assert [p.name for p in page.polymers] == ["PLA"]
    new = material("Cheap", price=10.0, currency="€", net_mass=1000, density=1.0)
    materials.add_material(lab.workspace, ACTOR, new)
    cheap = next(i for i in listing.list_stock(lab.workspace, listing.StockQuery(words="cheap")).items)
    assert (cheap.per_kg, cheap.per_specimen) == (pytest.approx(10.0), pytest.approx(0.01 * 3.58204, rel=1e-4))
