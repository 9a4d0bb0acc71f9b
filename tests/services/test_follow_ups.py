"""What is to be looked at again: set on anything, shown on its day, late after it; put off, settled, taken back."""

from datetime import date, timedelta

import pytest

from assayer.core.errors import ConflictError, MissingError, StaleError
from assayer.services import changes
from assayer.services.day import follow_ups, sheet
from assayer.services.day.requests import FollowUpEdit, NewFollowUp
from assayer.services.unit import Actor

from ..conftest import NOW
from ..support import ACTOR, new_id
from .stockroom import spool_of
from .trailhead import Trailhead

TODAY = NOW.date()
TOMAS = Actor("Tomas", "Europe/Berlin")


def follow_up(kind, key, days=30, text="has it yellowed?", **more):
    return NewFollowUp(**{"id": new_id(), "object_kind": kind, "object_id": key, "text": text, "due_on": TODAY + timedelta(days=days)} | more)


def shown(workspace):
    return [i for i in sheet.day_sheet(workspace).items if i.kind == "follow-up"]


def test_it_is_shown_on_its_day_and_late_after_it_where_it_was_set(lab, clock):
    key = lab.arms[0]
    material = lab.study.arms[0].material.id
    new = follow_up("material", material)
    made, is_new = follow_ups.add_follow_up(lab.workspace, ACTOR, new)
    assert (is_new, made.due_on, made.who, made.done_at) == (True, TODAY + timedelta(days=30), "Ilse", None)
    assert follow_ups.add_follow_up(lab.workspace, ACTOR, new) == (made, False)
    with pytest.raises(ConflictError, match="was kept before with other content"):
        follow_ups.add_follow_up(lab.workspace, ACTOR, new.model_copy(update={"text": "other"}))
    with pytest.raises(MissingError):
        follow_ups.add_follow_up(lab.workspace, ACTOR, follow_up("spool", key))
    # set in Berlin: its day begins at 22:00 UTC in summer
    for at, state in (
        (timedelta(days=29), None),
        (timedelta(days=29, hours=11, minutes=59), None),
        (timedelta(days=29, hours=12), "due"),
        (timedelta(days=30, hours=11), "due"),
        (timedelta(days=30, hours=12), "late"),
    ):
        clock.now = NOW + at
        assert [i.state for i in shown(lab.workspace)] == ([state] if state else []), at
    item = shown(lab.workspace)[0]
    assert (item.title, item.text, item.material_id, item.spool_id) == ("Hollin Everyday, amber", "has it yellowed?", material, None)
    assert item.follow_up == made


def test_each_kind_leads_to_what_it_is_about(lab):
    specimen = lab.specimens(lab.flat, lab.arms[0], "waiting")[0]
    head = Trailhead(lab.workspace)
    spool = spool_of(lab.workspace, material_id=head.material)
    with lab.workspace.read() as session:
        from assayer.store.models import RigVersion, Specimen

        code, rig = session.get(Specimen, specimen).code, session.get(RigVersion, lab.rig).rig_id
    for kind, key in (("study", lab.study.id), ("specimen", specimen), ("spool", spool.id), ("rig", rig), ("trail", head.id)):
        follow_ups.add_follow_up(lab.workspace, ACTOR, follow_up(kind, key, days=-1, text=f"look at the {kind}"))
    told = {i.text: i for i in shown(lab.workspace)}
    assert {t: i.title for t, i in told.items()} == {
        "look at the study": lab.study.title,
        "look at the specimen": f"{code} · {lab.study.title}",
        "look at the spool": f"{spool.code} · Tarn Clearwater CF",
        "look at the rig": "Pull frame",
        "look at the trail": "Clip of Clearwater CF",
    }
    ids = {t.split()[-1]: (i.study_id, i.code, i.spool_id, i.rig_id, i.trail_id) for t, i in told.items()}
    assert ids == {
        "study": (lab.study.id, None, None, None, None), "specimen": (None, code, None, None, None), "spool": (None, None, spool.id, None, None),
        "rig": (None, None, None, rig, None), "trail": (None, None, None, None, head.id),
    }  # fmt: skip
    assert [s.mark for s in told["look at the spool"].swatches] == [spool.material.mark]
    assert {i.state for i in told.values()} == {"late"}


def test_it_is_put_off_settled_and_taken_back_and_the_record_says_so(workspace):
    spool = spool_of(workspace)
    first = follow_ups.add_follow_up(workspace, ACTOR, follow_up("spool", spool.id, days=0))[0]
    other = follow_ups.add_follow_up(workspace, ACTOR, follow_up("spool", spool.id, days=-3, text="brittle?"))[0]

    def edit(f, actor=ACTOR, **more):
        return follow_ups.edit_follow_up(workspace, actor, f.id, FollowUpEdit(**more), f.revision)

    def listed():
        return [f.text for f in follow_ups.list_follow_ups(workspace, "spool", spool.id).items]

    assert [i.text for i in shown(workspace)] == ["brittle?", "has it yellowed?"], "the longest due first"
    put_off = edit(first, due_on=date(2026, 7, 1))
    assert (put_off.due_on, put_off.revision, [i.text for i in shown(workspace)]) == (date(2026, 7, 1), 2, ["brittle?"])
    with pytest.raises(StaleError) as stale:
        edit(first, actor=TOMAS, text="mine")
    assert stale.value.current == put_off
    settled = edit(other, done=True)
    assert (settled.done_at, shown(workspace)) == (NOW, [])
    assert edit(settled, done=True).revision == settled.revision, "what changes nothing is no change"
    assert listed() == ["has it yellowed?", "brittle?"], "settled ones last"
    opened = edit(settled, done=False)
    assert (opened.done_at, len(shown(workspace))) == (None, 1)
    gone = edit(opened, retracted=True)
    assert (listed(), shown(workspace)) == (["has it yellowed?"], [])
    assert edit(edit(gone, retracted=False), text="brittle now?", due_on=TODAY).text == "brittle now?"
    with workspace.read() as session:
        told = [c.action for c in changes.record_of(session, [spool.id])[spool.id] if c.action.startswith("follow-up")]
    assert sorted(told) == sorted(
        [
            "follow-up set",
            "follow-up set",
            "follow-up put off",
            "follow-up settled",
            "follow-up opened again",
            "follow-up taken back",
            "follow-up brought back",
            "follow-up changed",
        ]
    )
