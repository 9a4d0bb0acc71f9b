"""What corrected methods need: whether a compliance is known, where a bar broke on its own shape, and what entries were asked for."""

from alembic import op

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None

# a compliance of exactly 0 was never measured: it stood for one that is not known
RIG_VERSIONS = [
    """CREATE TABLE new_rig_versions (
    id VARCHAR(36) NOT NULL,
    rig_id VARCHAR(36) NOT NULL,
    number INTEGER NOT NULL,
    valid_from DATETIME NOT NULL,
    compliance DOUBLE,
    compliance_uncertainty DOUBLE,
    geometry JSON NOT NULL,
    places INTEGER NOT NULL,
    note TEXT NOT NULL,
    revision INTEGER NOT NULL,
    CONSTRAINT pk_rig_versions PRIMARY KEY (id),
    CONSTRAINT uq_rig_versions_rig_id_number UNIQUE (rig_id, number),
    CONSTRAINT ck_rig_versions_compliance CHECK (compliance >= 0),
    CONSTRAINT ck_rig_versions_compliance_uncertainty CHECK (compliance_uncertainty >= 0),
    CONSTRAINT ck_rig_versions_places CHECK (places BETWEEN 1 AND 99),
    CONSTRAINT fk_rig_versions_rig_id FOREIGN KEY(rig_id) REFERENCES rigs (id)
)""",
    """INSERT INTO new_rig_versions (id, rig_id, number, valid_from, compliance, geometry, places, note, revision)
    SELECT id, rig_id, number, valid_from, nullif(compliance, 0.0), geometry, places, note, revision FROM rig_versions ORDER BY rowid""",
    "DROP TABLE rig_versions",
    "ALTER TABLE new_rig_versions RENAME TO rig_versions",
    "CREATE INDEX ix_rig_versions_rig_id ON rig_versions (rig_id)",
]

# parallel part and overall length in mm of the bars that could be touched where they broke
BARS = {
    "short-pull-bar": (24, 70), "short-pull-bar-4": (24, 70), "dumb-bell-1ba": (30, 75), "dumb-bell-1a": (80, 170), "d638-i": (57, 165), "d638-iv": (33, 115),
    "d638-v": (9.53, 63.5),
}  # fmt: skip
_DRAWN = 980.0
"""Pixels that a bar was drawn long; its parallel part took 400 to 560 of them, whatever its share was."""
_FILLED_IN = (0.43, 0.3, 0.12)
"""Places that the page filled in by itself, from a button with words: nobody saw the break there."""

_OLD_READING_TIMES = "[60.0, 3600.0, 14400.0, 36000.0, 86400.0, 172800.0, 360000.0, 604800.0]"


_IMPLIED = ("outside the gauge section", "at the grip")
"""Why a run was a lower bound, where that followed from the zones of the drawing and nobody said it."""
_COUNTS = "validity = 'counts', validity_reason = NULL, validity_by = NULL, validity_at = NULL"


def _places() -> None:
    """Where a bar broke, from a share of the drawing, which was not to scale, to a share of its length; in the parallel part it counts."""
    connection = op.get_bind()
    runs = connection.exec_driver_sql(
        "SELECT r.id, r.outcome_place, r.validity_reason, t.shape FROM runs r JOIN tests t ON t.id = r.test_id"
        " WHERE r.outcome_place IS NOT NULL AND t.method = 'tension'"
    ).all()
    for run_id, place, reason, shape in runs:
        if shape not in BARS:
            continue
        moved = None if any(abs(place - f) < 1e-9 for f in _FILLED_IN) else on_bar(place, *BARS[shape])
        connection.exec_driver_sql("UPDATE runs SET outcome_place = ? WHERE id = ?", (moved, run_id))
        parallel, overall = BARS[shape]
        if moved is not None and min(moved, 1 - moved) >= 0.5 - parallel / overall / 2 and reason in _IMPLIED:
            connection.exec_driver_sql(f"UPDATE runs SET {_COUNTS} WHERE id = ? AND validity = 'at_least'", (run_id,))


def on_bar(place: float, parallel: float, overall: float) -> float:
    """A place on the former drawing as a share of the bar's length: the parallel part and what is beside it were each stretched evenly."""
    drawn = min(560.0, max(400.0, parallel / overall * _DRAWN)) / _DRAWN
    true = parallel / overall
    near = min(place, 1 - place)
    edge = (1 - drawn) / 2
    moved = near / edge * (1 - true) / 2 if near < edge else 0.5 - (0.5 - near) / drawn * true
    return moved if place <= 0.5 else 1 - moved


def upgrade() -> None:
    op.execute("CREATE INDEX ix_results_reduction ON results (test_id, reduction_version)")
    for statement in RIG_VERSIONS:
        op.execute(statement)
    _places()
    # the field was labelled "greatest load": that is what was entered
    bent = "SELECT r.id FROM runs r JOIN tests t ON t.id = r.test_id WHERE t.method = 'bending'"
    op.execute(f"UPDATE readings SET field = 'peak_force' WHERE field = 'load' AND run_id IN ({bent})")
    # what bent on without breaking was made a bound by that alone
    op.execute(f"UPDATE runs SET {_COUNTS} WHERE validity = 'at_least' AND validity_reason = 'bent on without breaking' AND id IN ({bent})")
    # creep that was planned with the times as they were delivered keeps them
    op.execute(
        f"UPDATE tests SET protocol = json_set(protocol, '$.due', json('{_OLD_READING_TIMES}'))"
        " WHERE method = 'creep' AND json_extract(protocol, '$.due') IS NULL"
    )


def downgrade() -> None:
    raise NotImplementedError("a newer notebook is not opened by an older Assayer")
