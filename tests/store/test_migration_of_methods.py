"""A notebook from before the corrected methods (schema 15) opens, recomputes, and says what changed."""

import json

import pytest
from alembic import command
from alembic.config import Config
from sqlalchemy import text

from assayer.services.bench import recompute, specimens
from assayer.services.rigs import rigs
from assayer.services.studies import listing
from assayer.services.unit import Workspace
from assayer.store.database import Database
from assayer.store.schema import _MIGRATIONS

from ..support import ACTOR
from .test_migrations import AT, insert, key

TIMES = [60.0, 3600.0, 14400.0, 36000.0, 86400.0, 172800.0, 360000.0, 604800.0]
SPECIMENS = {"in the parallel part": 60, "named only": 61, "at the shoulder": 62, "bent": 63}
PLACES = {"in the parallel part": 0.33, "named only": 0.30, "at the shoulder": 0.25, "bent": None}


def schema_15(folder):
    """Three bars pulled on the short pull bar, said to have broken outside the gauge section; one bent on under its greatest load; creep planned as delivered."""
    database = Database(folder, durable=False)
    config = Config()
    config.set_main_option("script_location", str(_MIGRATIONS))
    with database._writer.begin() as c:
        config.attributes["connection"] = c
        command.upgrade(config, "0015")
        insert(c, "materials", id=key(1), maker="Hollin", product="Everyday", polymer="PLA", colour="amber", hex="#D9962B", mark="Ha", created_at=AT)
        insert(c, "rigs", id=key(3), code="AAAA0", name="Frame", methods='["tension", "bending"]')
        insert(c, "rig_versions", id=key(4), rig_id=key(3), number=1, valid_from=AT, compliance=0.0, geometry='{"span": 64}', places=1, note="", revision=1)
        for n, name in enumerate(("force", "length")):
            unit = {"force": "N", "length": "mm"}[name]
            insert(c, "rig_channels", id=key(5 + n), rig_version_id=key(4), name=name, dimension=name, unit=unit, decimals=0, step=0.01, position=n)
        insert(c, "settings_sheets", id=key(7), name="as printed", values="{}", created_at=AT)
        insert(c, "variants", id=key(8), material_id=key(1), sheet_id=key(7), treatment="")
        study = {"question": "", "studied_factor": "material", "seed": 1, "revision": 1, "created_at": AT, "zone": "UTC"}
        insert(c, "studies", id=key(10), title="Study", **study)
        insert(c, "arms", id=key(12), study_id=key(10), variant_id=key(8), mark="Ha", position=0)
        insert(c, "batches", id=key(15), variant_id=key(8), printed_at=AT, zone="UTC")
        for n, (method, shape) in enumerate((("tension", "short-pull-bar"), ("bending", "bar"), ("creep", "creep-frame"))):
            planned = {"protocol": "{}", "replicates": 3, "spares": 0, "margin_value": 0.1, "margin_relative": True, "position": n, "revision": 1}
            insert(c, "tests", id=key(20 + n), study_id=key(10), method=method, procedure_version=f"{method}-1", orientation="flat", shape=shape, **planned)
        for name, n in SPECIMENS.items():
            _tested(c, name, n, PLACES[name])
    database.close()


def _tested(c, name, n, place):
    """One specimen with its run, its readings, and the results that the former rules gave."""
    bent = name == "bent"
    test, shape = (21, "bar") if bent else (20, "short-pull-bar")
    insert(c, "slots", id=key(n + 100), arm_id=key(12), test_id=key(test), number=n - 59)
    insert(c, "specimens", id=key(n), code=f"AAAB{n - 60}", batch_id=key(15), position=n - 59, slot_id=key(n + 100), orientation="flat", shape=shape)
    outcome, reason = ("bent", "bent on without breaking") if bent else ("outside gauge", "outside the gauge section")
    of = {"subject_kind": "specimen", "subject_id": key(n), "test_id": key(test)}
    said = {"validity": "at_least", "validity_reason": reason, "validity_by": "Ilse", "validity_at": AT, "outcome": outcome, "outcome_place": place}
    more = {"operator": "Ilse", "happened_at": AT, "zone": "UTC", "options": "{}", "complete": True, "remarks": "[]", "revision": 1}
    procedure = f"{'bending' if bent else 'tension'}-1"
    insert(c, "runs", id=key(n + 200), specimen_id=key(n), procedure_version=procedure, rig_version_id=key(4), **of, **said, **more)
    typed = (("width", 10.0), ("thickness", 4.0), ("load", 90.0)) if bent else (("width", 5.0), ("thickness", 4.0), ("peak_force", 800.0))
    for i, (field, value) in enumerate(typed):
        entered = {"happened_at": AT, "entered_at": AT, "zone": "UTC", "entered_by": "Ilse"}
        raw = {"raw": str(value), "value": value, "unit": "N" if value > 50 else "mm"}
        insert(c, "readings", id=key(10 * n + i + 1000), run_id=key(n + 200), step="s", field=field, position=0, **raw, **entered)
    former = (("flexural_stress", 54.0, 2), ("flexural_strength", 54.0, 2)) if bent else (("strength", 40.0, 3), ("peak_force", 800.0, 3))
    for quantity, value, version in former:
        kept = {"unit": "N" if quantity == "peak_force" else "MPa", "bound": "at_least", "warnings": "[]", "reduction_version": version}
        insert(c, "results", run_id=key(n + 200), quantity=quantity, value=value, reading_step=0.0, provisional=False, **of, **kept)


@pytest.fixture
def opened(tmp_path):
    schema_15(tmp_path / "data")
    workspace = Workspace(tmp_path / "data", durable=False)
    yield workspace
    workspace.close()


def test_it_opens_whole_and_a_compliance_of_zero_is_one_that_nobody_knows(opened):
    with opened.read() as session:
        assert session.execute(text("PRAGMA foreign_key_check")).all() == []
    assert rigs.get_rig(opened, key(3)).rig.compliance is None
    creep = listing.get_study(opened, key(10)).tests[2]
    assert json.loads(json.dumps(creep.protocol["due"])) == TIMES, "what was planned with the former reading times keeps them"


def test_it_recomputes_and_says_what_changed(opened):
    assert recompute.outdated(opened).runs == 4
    moved = recompute.recompute_all(opened, ACTOR).moved
    changed = {(m.code, m.quantity): (m.old_bound, m.new_bound) for m in moved}
    assert changed == {
        ("AAAB0", "strength"): ("at_least", "exact"), ("AAAB0", "peak_force"): ("at_least", "exact"),
        ("AAAB3", "flexural_strength"): ("at_least", "exact"), ("AAAB3", "flexural_stress"): ("at_least", None),
    }  # fmt: skip
    assert recompute.outdated(opened).runs == 0


@pytest.mark.parametrize(
    ("name", "place", "bound"),
    [
        # drawn with a parallel part of 400 of 980 pixels, which is 24 of 70 mm: 0.33 on the drawing is 0.357 of the bar
        ("in the parallel part", 0.5 - (0.5 - 0.33) / (400 / 980) * 24 / 70, "exact"),
        ("named only", None, "at_least"),
        ("at the shoulder", 0.25 / 0.295918 * 23 / 70, "at_least"),
    ],
)
def test_where_it_broke_is_a_place_on_the_bar_and_what_the_page_filled_in_is_none(opened, name, place, bound):
    recompute.recompute_all(opened, ACTOR)
    run = specimens.get_specimen(opened, key(SPECIMENS[name])).runs[0]
    assert run.outcome_place == (None if place is None else pytest.approx(place, rel=1e-4))
    assert next(r.bound for r in run.results if r.quantity == "strength") == bound
    assert run.validity == ("counts" if bound == "exact" else "at_least")


def test_the_greatest_load_that_was_asked_for_is_the_peak(opened):
    recompute.recompute_all(opened, ACTOR)
    run = specimens.get_specimen(opened, key(SPECIMENS["bent"])).runs[0]
    assert [r.field for r in run.readings] == ["width", "thickness", "peak_force"]
    assert {r.quantity: (r.value, r.bound) for r in run.results} == {"flexural_strength": (pytest.approx(3 * 90 * 64 / (2 * 10 * 16)), "exact")}
