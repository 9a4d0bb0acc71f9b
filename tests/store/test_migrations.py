"""A notebook of the second schema, with two studies, a calibrated rig and a grip break in it, opens and says the same."""

from datetime import UTC, datetime

import pytest
from alembic import command
from alembic.config import Config
from sqlalchemy import text

from assayer.services.bench import specimens
from assayer.services.rigs import rigs
from assayer.services.studies import board
from assayer.services.studies.views import BoardView
from assayer.services.unit import Workspace
from assayer.store.database import Database
from assayer.store.models import Specimen, Study, Variant
from assayer.store.schema import _MIGRATIONS

AT = "2026-01-01 10:00:00.000000"
FORCE, WIDTH, THICKNESS = 572.708, 4.02, 3.97


def key(n):
    return f"01a00000-0000-7000-8000-{n:012d}"


def insert(connection, table, **values):
    names = ", ".join(f'"{n}"' for n in values)
    connection.execute(text(f"INSERT INTO {table} ({names}) VALUES ({', '.join(':' + n for n in values)})"), values)


def second_schema(folder):
    """One material in two studies of one test each, one specimen each; the first pulled, broken at the grip."""
    database = Database(folder, durable=False)
    config = Config()
    config.set_main_option("script_location", str(_MIGRATIONS))
    with database._writer.begin() as c:
        config.attributes["connection"] = c
        command.upgrade(config, "0002")
        insert(c, "materials", id=key(1), maker="Hollin", product="Everyday", polymer="PLA", colour="amber", hex="#D9962B", mark="Ha", created_at=AT)
        insert(c, "rigs", id=key(3), code="AAAA0", name="Pull frame", method="tension")
        lengths = {"length_unit": "mm", "length_step": 0.01}
        insert(c, "rig_versions", id=key(4), rig_id=key(3), number=1, valid_from=AT, compliance=0.0003, force_unit="kgf", force_step=0.1, **lengths)
        insert(c, "calibrations", id=key(5), rig_version_id=key(4), quantity="force", factor=1.02, valid_from=AT)
        for s in (10, 20):
            study = {"question": "", "studied_factor": "material", "seed": 1, "revision": 3, "created_at": AT, "zone": "UTC"}
            insert(c, "studies", id=key(s), title=f"Study {s}", **study)
            # each study made a sheet and a variant of its own
            insert(c, "settings_sheets", id=key(s + 7), name="as printed", values="{}", created_at=AT)
            insert(c, "variants", id=key(s + 1), material_id=key(1), sheet_id=key(s + 7), treatment="")
            insert(c, "arms", id=key(s + 2), study_id=key(s), variant_id=key(s + 1), mark="Ha", position=0)
            shape = {"orientation": "flat", "shape": "short-pull-bar"}
            test = {"replicates": 1, "spares": 0, "margin_value": 0.1, "margin_relative": True, "position": 0}
            insert(c, "tests", id=key(s + 3), study_id=key(s), method="tension", procedure_version="tension-1", **shape, **test)
            insert(c, "slots", id=key(s + 4), arm_id=key(s + 2), test_id=key(s + 3), number=1)
            insert(c, "batches", id=key(s + 5), variant_id=key(s + 1), printed_at=AT, zone="UTC")
            insert(c, "specimens", id=key(s + 6), code=f"AAAA{s // 10}", batch_id=key(s + 5), position=1, slot_id=key(s + 4), **shape)
        insert(c, "studies", id=key(50), title="not printed yet", **study)
        run = {"happened_at": AT, "zone": "UTC", "operator": "Ilse", "validity": "at_least", "options": "{}", "complete": True, "remarks": "[]", "revision": 2}
        ids = {"specimen_id": key(16), "test_id": key(13), "rig_version_id": key(4)}
        insert(c, "runs", id=key(30), procedure_version="tension-1", fracture="grip", **ids, **run)
        rows = (("width", "4.02", WIDTH, "mm"), ("thickness", "3.97", THICKNESS, "mm"), ("peak_force", "58.4", FORCE, "N"))
        for i, (field, raw, value, unit) in enumerate(rows):
            entered = {"happened_at": AT, "entered_at": AT, "zone": "UTC", "entered_by": "Ilse"}
            insert(c, "readings", id=key(31 + i), run_id=key(30), step="s", field=field, position=0, raw=raw, value=value, unit=unit, **entered)
    database.close()


@pytest.fixture
def opened(tmp_path):
    second_schema(tmp_path / "data")
    workspace = Workspace(tmp_path / "data", durable=False)
    yield workspace
    workspace.close()


def test_nothing_is_lost_and_nothing_points_nowhere(opened):
    with opened.read() as session:
        assert session.execute(text("PRAGMA foreign_key_check")).all() == []
        assert session.execute(text("SELECT count(*) FROM readings")).scalar() == 3
        assert session.query(Variant).count() == 1, "one material on one sheet is one variant, whatever studies it is in"


def test_what_was_printed_is_a_study_under_way(opened):
    moment = datetime.fromisoformat(AT).replace(tzinfo=UTC)
    with opened.read() as session:
        assert {s.title: s.started_at for s in session.query(Study)} == {"Study 10": moment, "Study 20": moment, "not printed yet": None}
        assert {s.outcome for s in session.query(Specimen)} == {"good"}


def test_the_rig_shows_its_channels_and_its_calibration(opened):
    page = rigs.get_rig(opened, key(3))
    assert {c.name: (c.unit, c.step) for c in page.rig.channels} == {"force": ("kgf", 0.1), "length": ("mm", 0.01)}
    assert (page.rig.methods, page.rig.compliance) == (["tension"], 0.0003)
    assert [(c.channel, c.factor) for c in page.calibrations] == [("force", 1.02)]


def test_the_run_says_how_it_ended_and_what_it_is_worth(opened):
    from assayer.services.bench import recompute

    from ..support import ACTOR

    recompute.recompute(opened, ACTOR)
    shown = specimens.get_specimen(opened, key(16))
    run = shown.runs[0]
    assert (run.outcome, run.validity, run.operator, run.subject_id) == ("grip", "at_least", "Ilse", key(16))
    assert {r.field: r.raw for r in run.readings} == {"width": "4.02", "thickness": "3.97", "peak_force": "58.4"}
    strength = next(r for r in run.results if r.quantity == "strength")
    assert (strength.value, strength.bound) == (pytest.approx(1.02 * FORCE / (WIDTH * THICKNESS), rel=1e-6), "at_least")
    cell = BoardView.model_validate_json(board.board(opened, key(10))[0]).columns[0].cells[0]
    assert (cell.planned, cell.printed, cell.tested, cell.group.at_least) == (1, 1, 1, 1)
    assert shown.shape == "short-pull-bar-4", "it was printed 4 × 4, and stays so"
    empty = BoardView.model_validate_json(board.board(opened, key(20))[0]).columns[0].cells[0]
    assert (empty.printed, empty.tested) == (1, 0)
