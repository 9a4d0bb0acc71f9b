"""Recordings through the services: calibrated, drawn, kept once, with the range that was dragged."""

import struct
import threading

import numpy as np
import pytest

from assayer.core.errors import ConflictError, EntryError, MissingError
from assayer.services.bench import curves, recompute, runs
from assayer.services.bench.reductions import load_recording
from assayer.services.bench.requests import RunEdit
from assayer.services.rigs.requests import ComplianceEdit
from assayer.store.models import Curve

from ..core.test_tension import pull
from ..support import ACTOR, jack, new_id, run
from .test_bench_wiring import AREA, calibrate


def recording(lab, rig_id, peak_stress=40.0, key=None):
    strain, stress = pull(strength=peak_stress, draw=0.02)
    lines = ["Force (N),Extension (mm)"] + [f"{s * AREA:.5f},{e * 20:.6f}" for e, s in zip(strain, stress, strict=True)]
    key = key or new_id()
    curves.take_in(lab.workspace, ACTOR, key, rig_id, "pull.csv", "\n".join(lines).encode())
    return key


def head(data):
    import json

    length = struct.unpack("<I", data[:4])[0]
    return json.loads(data[4 : 4 + length])["curves"]


def test_a_recording_is_calibrated_by_its_rig_and_reduced_with_its_compliance(lab):
    frame = jack(lab.workspace, compliance=0.0005).id
    specimen = lab.specimens(lab.flat, lab.arms[0])[0]
    kept = runs.accept(lab.workspace, ACTOR, run(specimen, lab.flat, frame, None, curve_id=recording(lab, frame)))[0]
    before = {r.quantity: r.value for r in kept.results}
    assert before["strength"] == pytest.approx(40.0, rel=1e-3)
    drawn = curves.curves_of_test(lab.workspace, lab.flat)
    told = calibrate(lab, frame, 1.05)
    moved = {m.quantity: m.new / m.old for m in told.moved}
    assert moved["strength"] == pytest.approx(1.05, rel=1e-6)
    assert moved["peak_force"] == pytest.approx(1.05, rel=1e-6)
    again = curves.curves_of_test(lab.workspace, lab.flat)
    assert head(again)[0]["marks"]["peak"][1] == pytest.approx(1.05 * head(drawn)[0]["marks"]["peak"][1], rel=1e-6), "the drawing follows"
    stiffer = recompute.keep_compliance(lab.workspace, ACTOR, frame, ComplianceEdit(compliance=0.0)).moved
    ratio = {m.quantity: m.new / m.old for m in stiffer}
    assert ratio["apparent_modulus"] < 1
    assert "strength" not in ratio, "the give of the frame is none of the force"


def test_a_recording_counts_for_one_specimen_and_comes_once(lab):
    one, two, *_ = lab.specimens(lab.flat, lab.arms[0])
    curve = recording(lab, lab.rig)
    runs.accept(lab.workspace, ACTOR, run(one, lab.flat, lab.rig, None, curve_id=curve))
    with pytest.raises(ConflictError, match="already belongs to"):
        runs.accept(lab.workspace, ACTOR, run(two, lab.flat, lab.rig, None, curve_id=curve))
    assert recording(lab, lab.rig, key=curve) == curve
    with pytest.raises(ConflictError, match="another recording already has this id"):
        recording(lab, lab.rig, peak_stress=41.0, key=curve)


def test_a_recording_sent_six_times_at_once_is_kept_once(lab):
    key, answers = new_id(), []
    data = "\n".join(["Force (N),Extension (mm)", *(f"{i},{i / 100}" for i in range(3000))]).encode()
    together = threading.Barrier(6)

    def send(content):
        together.wait()
        try:
            answers.append(curves.take_in(lab.workspace, ACTOR, key, lab.rig, "pull.csv", content)[1])
        except ConflictError:
            answers.append("refused")

    threads = [threading.Thread(target=send, args=(data if i < 5 else data + b"\n3000,30",)) for i in range(6)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(60)
    assert sorted(map(str, answers)) in (["False"] * 4 + ["True", "refused"], ["True"] + ["refused"] * 5), answers
    assert [p.name for p in lab.workspace.files.folder.rglob("*.part")] == []
    with lab.workspace.read() as session:
        assert session.query(Curve).count() == 1


def test_a_raw_curve_and_its_overview_keep_every_drop(lab):
    curve = recording(lab, lab.rig)
    raw = curves.raw_curve(lab.workspace, curve)
    meta = head(raw)[0]
    assert (meta["x_label"], meta["x_unit"], meta["y_unit"]) == ("travel", "mm", "N")
    x = np.arange(5000.0)
    y = np.sin(x / 700)
    y[3210] = -9.0
    thin_x, thin_y = curves.thin(x, y, 600)
    assert thin_x.size <= 602
    assert thin_y.min() == -9.0
    assert thin_y.max() == y.max()
    assert (thin_x[0], thin_x[-1]) == (0.0, 4999.0)
    assert curves.thin(x[:600], y[:600], 600)[0] is not None
    assert curves.thin(x[:600], y[:600], 600)[0].size == 600


def test_an_overview_keeps_the_least_and_the_greatest_of_every_stretch():
    x = np.arange(20_000.0)
    y = np.random.default_rng(4).standard_normal(x.size)
    y[12_345], y[777] = 40.0, -40.0
    kept_x, kept_y = curves.thin(x, y, 400)
    assert len(kept_x) <= 402
    assert np.all(np.diff(kept_x) > 0)
    assert (kept_x[0], kept_x[-1]) == (0, x.size - 1)
    assert {(12_345.0, 40.0), (777.0, -40.0)} <= set(zip(kept_x.tolist(), kept_y.tolist(), strict=True))
    assert np.array_equal(y[kept_x.astype(int)], kept_y)
    # each of the 200 stretches has both of its ends in it
    for start in range(0, x.size, 100):
        stretch = kept_y[(kept_x >= start) & (kept_x < start + 100)]
        assert (stretch.min(), stretch.max()) == (y[start : start + 100].min(), y[start : start + 100].max())


def test_a_run_without_a_curve_has_none_to_draw(lab):
    kept = lab.accept(lab.flat, lab.arms[0], ["60"])[0]
    assert not kept.has_view
    with pytest.raises(MissingError, match="no curve to draw"):
        curves.run_curve(lab.workspace, kept.id)
    assert head(curves.curves_of_test(lab.workspace, lab.flat)) == []


def test_a_dragged_range_stays_with_the_run_until_it_is_taken_away(lab):
    specimen = lab.specimens(lab.flat, lab.arms[0])[0]
    kept = runs.accept(lab.workspace, ACTOR, run(specimen, lab.flat, lab.rig, None, curve_id=recording(lab, lab.rig)))[0]
    plain = {r.quantity: r.value for r in kept.results}["apparent_modulus"]
    dragged = runs.edit_run(lab.workspace, ACTOR, kept.id, RunEdit(options={"modulus_range": [0.005, 0.009]}), kept.revision)
    assert {r.quantity: r.value for r in dragged.results}["apparent_modulus"] < plain
    assert dragged.options == {"modulus_range": [0.005, 0.009]}
    with pytest.raises(EntryError, match="must run from a lower"):
        runs.edit_run(lab.workspace, ACTOR, kept.id, RunEdit(options={"modulus_range": [0.009, 0.005]}), dragged.revision)
    with pytest.raises(EntryError, match="has no 'smoothing'"):
        runs.edit_run(lab.workspace, ACTOR, kept.id, RunEdit(options={"smoothing": 3}), dragged.revision)
    back = runs.edit_run(lab.workspace, ACTOR, kept.id, RunEdit(options={"modulus_range": None}), dragged.revision)
    assert {r.quantity: r.value for r in back.results}["apparent_modulus"] == pytest.approx(plain)
    assert back.options == {}


@pytest.mark.parametrize(
    "header, columns, x, label, unit",
    [
        ("Force (N),Extension (mm),Strain (%)", (1.0, 0.5, 2.0), 0.5, "travel", "mm"),
        ("Force (N),Strain (%)", (1.0, 2.0), 2.0, "strain", "%"),
        ("Force (N),Time (s)", (1.0, 9.0), 1.0, "row", "no."),
    ],
)
def test_a_raw_curve_is_drawn_over_travel_before_strain_before_rows(lab, header, columns, x, label, unit):
    rows = [",".join(f"{i * c:g}" for c in columns) for i in range(400)]
    key = new_id()
    curves.take_in(lab.workspace, ACTOR, key, lab.rig, "pull.csv", "\n".join([header, *rows]).encode())
    raw = curves.raw_curve(lab.workspace, key)
    meta = head(raw)[0]
    assert (meta["x_label"], meta["x_unit"], meta["points"]) == (label, unit, 400)
    length = struct.unpack("<I", raw[:4])[0]
    drawn = np.frombuffer(raw, "<f4", offset=4 + length)
    assert drawn[:400] == pytest.approx(np.arange(400) * x, rel=1e-6)
    assert drawn[400:] == pytest.approx(np.arange(400.0), rel=1e-6)


def test_a_clock_of_many_digits_keeps_its_hundredths(lab):
    """Time and travel are kept from their first row in single precision; force, strain and the rest as they are."""
    rows = [f"{100 + i},{500_000 + i / 1000:.3f},{1_750_000_000 + i / 100:.2f}" for i in range(200)]
    key = new_id()
    curves.take_in(lab.workspace, ACTOR, key, lab.rig, "pull.csv", "\n".join(["Force (N),Extension (mm),Time (s)", *rows]).encode())
    with lab.workspace.read() as session:
        kept = load_recording(session.get(Curve, key))
    assert kept.need("force") == pytest.approx(100 + np.arange(200.0))
    assert kept.need("time") == pytest.approx(np.arange(200) / 100, abs=1e-6)
    assert kept.need("travel") == pytest.approx(np.arange(200) / 1000, abs=1e-7)
