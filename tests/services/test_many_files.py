"""Many recordings at once: matched by code or order, kept together, the bad ones said, the same again changing nothing."""

import json
import struct

import numpy as np
import pytest

from assayer.core.errors import EntryError
from assayer.services.bench import runs
from assayer.services.bench.many import MOST_FILES, SentFile, take_in_many, unbundle
from assayer.services.bench.requests import NewRun
from assayer.services.studies.requests import NewTest
from assayer.store.models import Curve

from ..support import ACTOR, AT, Lab, jack, new_id, reading


def pull(top=900.0, rows=300):
    travel = np.linspace(0, 3, rows)
    force = np.minimum(top * travel, top)
    force[-20:] = 0.5
    lines = "\n".join(f"{t:.4f};{f:.3f}" for t, f in zip(travel, force, strict=True))
    return f"Travel [mm];Force [N]\n{lines}\n".encode()


def bundle(*files):
    head = json.dumps({"files": [{"id": f.id, "name": f.name, "size": len(f.data)} for f in files]}).encode()
    return struct.pack("<I", len(head)) + head + b"".join(f.data for f in files)


def sent(name, data=None):
    """A file of its own: the greatest force follows from its name."""
    return SentFile(new_id(), name, pull(800.0 + sum(name.encode()) % 997) if data is None else data)


@pytest.fixture
def lab(workspace):
    lab = Lab(workspace, [NewTest(id=new_id(), orientation="flat", replicates=6)])
    lab.frame = jack(workspace)
    return lab


def items(lab):
    from assayer.services.bench import queue

    return queue.queue(lab.workspace, lab.tests[0], "x", blind=True).items


def take(lab, *files, **more):
    return take_in_many(lab.workspace, ACTOR, lab.tests[0], lab.frame.id, files, **more).items


def test_codes_in_names_win_and_the_others_follow_the_order_of_the_test(lab):
    order = items(lab)
    named = sent(f"2026-11-27 {order[4].code.lower()}_pull.csv")
    rows = take(lab, sent("pull 10.csv"), named, sent("pull 9.csv"), sent("pull 2.csv"))
    assert [(r.name, r.matched) for r in rows] == [("pull 10.csv", "order"), (named.name, "code"), ("pull 9.csv", "order"), ("pull 2.csv", "order")]
    assert rows[1].code == order[4].code
    assert [rows[i].code for i in (3, 2, 0)] == [order[0].code, order[1].code, order[2].code], "2, 9, 10 as one counts"
    assert all(len(r.points) >= 20 and r.rows == 300 for r in rows)
    # the next bundle goes on where this one ended
    more = take(lab, sent("pull 11.csv"), taken=[r.specimen_id for r in rows])
    assert more[0].code == order[3].code


def test_what_is_tested_already_is_not_matched_by_order_and_a_code_counts_once(lab):
    lab.accept(lab.tests[0], lab.arms[0], ["60"])
    named = [i for i in items(lab) if i.state == "waiting"][3].code
    done = next(i for i in items(lab) if i.state == "counts")
    twice = [sent(f"{named}.csv"), sent(f"again {named}.csv")]
    rows = take(lab, *twice, *(sent(f"x{i}.csv") for i in range(12)))
    assert (rows[0].code, rows[0].matched) == (named, "code")
    assert (rows[1].code, rows[1].matched) == (None, None)
    assert named in rows[1].doubt, "named with a code that is given away, it is put onto no other specimen"
    assert done.code not in [r.code for r in rows]
    assert [r.code for r in rows].count(None) == 3, "more files than specimens: the last ones are of none"


def test_a_bad_file_says_why_and_leaves_the_others(lab):
    good, picture, unclear = (
        sent("good.csv"),
        sent("photo.csv", b"\x89PNG\r\n\x00\x00"),
        sent("bare.csv", b"\n".join(b"%d;%d;%d" % (i, i, i) for i in range(30))),
    )
    rows = take(lab, picture, good, unclear)
    assert rows[1].error is None
    assert rows[0].error
    assert rows[0].specimen_id is None
    assert "drop one such file by itself" in rows[2].error
    with lab.workspace.read() as session:
        assert [session.get(Curve, f.id) is not None for f in (good, picture, unclear)] == [True, False, False]
        kept = session.get(Curve, good.id)
        assert (kept.file_name, kept.rows, [c["role"] for c in kept.columns]) == ("good.csv", 300, ["force", "travel"])
        assert lab.workspace.files.path(kept.sha256).read_bytes() == good.data, "the file itself is kept"


def test_the_same_bundle_again_changes_nothing_and_another_file_under_its_id_is_refused(lab):
    first = sent("a.csv")
    take(lab, first)
    assert take(lab, first)[0].error is None
    assert take(lab, SentFile(first.id, "a.csv", pull(800.0)))[0].error == "another recording already has this id"
    with lab.workspace.read() as session:
        assert session.query(Curve).count() == 1


def test_a_matched_recording_is_taken_in_as_one_dropped_by_itself(lab):
    row = take(lab, sent("a.csv", pull()))[0]
    new = NewRun(
        id=new_id(), subject_id=row.specimen_id, test_id=lab.tests[0], rig_version_id=lab.frame.id, happened_at=AT, curve_id=row.id, outcome="gauge",
        readings=[reading("width", "4.02"), reading("thickness", "3.97")],
    )  # fmt: skip
    told = runs.accept(lab.workspace, ACTOR, new)[0]
    assert {r.quantity: r.value for r in told.results}["strength"] == pytest.approx(900 / (4.02 * 3.97), rel=2e-3)


@pytest.mark.parametrize(
    "data, words",
    [
        (b"", "no bundle of files"), (struct.pack("<I", 5) + b"{", "no bundle"), (struct.pack("<I", 2) + b"{}", "no bundle"), (struct.pack("<I", 12) + b'{"files": []}'[:12], "no bundle"),
        (bundle() , "from 1 to 200"), (bundle(SentFile(new_id(), "a", b"abc"))[:-1], r"file 1 \(a\) ends before its 3 bytes"), (bundle(SentFile("x", "a", b"abc")), "no bundle"),
        (bundle(*(SentFile(new_id(), "a", b"") for _ in range(MOST_FILES + 1))), "from 1 to 200"),
    ],
    ids=["nothing", "cut head", "no list", "cut list", "no file", "cut file", "no id", "too many"],
)  # fmt: skip
def test_what_is_no_bundle_is_refused(data, words):
    with pytest.raises(EntryError, match=words):
        unbundle(data)


def test_a_bundle_comes_apart_as_it_was_put_together():
    files = [SentFile(new_id(), "ä b.csv", b"123"), SentFile(new_id(), "", b""), SentFile(new_id(), "c", b"\x00" * 9)]
    assert [(f.id, f.name, f.data) for f in unbundle(bundle(*files))] == [(f.id, f.name or "recording", f.data) for f in files]


def test_several_specimens_in_one_file_are_parted_and_matched(lab):
    order = items(lab)
    codes = [order[3].code, order[1].code]
    blocks = sent("tuesday.csv", b"\n\n".join(f"Specimen {c}\n".encode() + pull(top) for c, top in zip(codes, (800.0, 700.0), strict=True)))
    lone = sent("alone.csv", pull(600.0))
    unnamed = sent("both.csv", pull(500.0) + b"\n" + pull(400.0))
    rows = take(lab, blocks, lone, unnamed)
    assert [(r.name, r.matched) for r in rows] == [
        (f"tuesday.csv · {codes[0]}", "code"), (f"tuesday.csv · {codes[1]}", "code"), ("alone.csv", "order"), ("both.csv · 1", "order"), ("both.csv · 2", "order")
    ]  # fmt: skip
    assert [r.code for r in rows] == [*codes, order[0].code, order[2].code, order[4].code]
    assert [round(max(y for _, y in r.points)) for r in rows] == [800, 700, 600, 500, 400]
    assert rows[0].id == blocks.id, "the first part has the id that was sent"
    assert len({r.id for r in rows}) == 5
    with lab.workspace.read() as session:
        kept = {key: session.get(Curve, key) for key in (r.id for r in rows)}
    assert kept[rows[0].id].sha256 == kept[rows[1].id].sha256
    assert lab.workspace.files.path(kept[rows[1].id].sha256).read_bytes() == blocks.data, "the file is kept as it came"
    # sent again, each part is there already
    assert [(r.id, r.error) for r in take(lab, blocks, taken=[r.specimen_id for r in rows])] == [(rows[0].id, None), (rows[1].id, None)]
    new = NewRun(
        id=new_id(), subject_id=rows[1].specimen_id, test_id=lab.tests[0], rig_version_id=lab.frame.id, happened_at=AT, curve_id=rows[1].id,
        readings=[reading("width", "5.0"), reading("thickness", "4.0")],
    )  # fmt: skip
    told = runs.accept(lab.workspace, ACTOR, new)[0]
    assert {r.quantity: r.value for r in told.results}["strength"] == pytest.approx((700 - 0.5) / 20), "counted from what the gauge shows once it is broken"
