"""Studies of other kinds than materials: a sweep of line widths on plates, four colours, a spool left on the shelf, rig against rig."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import datetime, timedelta

from sqlalchemy import select

from assayer.demo.curve_model import Behaviour
from assayer.demo.maker import ACTORS, Maker, Rigs
from assayer.demo.pulls import Told, pull_one
from assayer.services.bench import queue
from assayer.services.choose import purposes
from assayer.services.choose.requests import CriterionSpec, NewPurpose
from assayer.services.printing import batches, judging, plates
from assayer.services.printing.requests import BatchOutcome, NewBatch, NewPlates, SpecimenOutcome, Treated
from assayer.services.printing.views import BatchView
from assayer.services.studies import changing, listing, planning
from assayer.services.studies.requests import NewArm, NewStudy, NewTest, StudyEdit, StudyExtension
from assayer.services.studies.views import StudyView
from assayer.store.models import Printer, RigVersion

Found = Mapping[tuple[str, str, str], str]

_LINES = {0.4: Behaviour(2900, 26.4, 5.0), 0.48: Behaviour(3050, 30.2, 4.5), 0.56: Behaviour(3100, 32.8, 4.0)}
"""mm of line width, and how bars of it pull upright: wider lines hold better, by less and less."""


def plan_kinds(maker: Maker, now: datetime, found: Found, spools: Mapping[str, str], used: Rigs) -> None:
    """Plan one study of each kind; some of it printed, some pulled."""
    with maker.workspace.read() as session:
        printers = {name: key for key, name in session.execute(select(Printer.id, Printer.name))}
        rigs = {version: rig for version, rig in session.execute(select(RigVersion.id, RigVersion.rig_id))}
    _colours(maker, now, found)
    _shelf(maker, now, found, spools, used)
    _two_rigs(maker, now, found, spools, rigs, used)
    _line_widths(maker, now, found, spools, printers["Bench One"], used)
    _washed(maker, now, found, spools, used)
    _fans(maker, now, found, spools, used)
    _printed_in_rounds(maker, now, found, spools, used)


def _study(maker: Maker, at: datetime, title: str, question: str, factor: str, arms: Sequence[NewArm], tests: Sequence[NewTest], **more: object) -> StudyView:
    maker.clock.now = at
    told = {"id": maker.id(), "title": title, "question": question, "studied_factor": factor, "arms": list(arms), "tests": list(tests)}
    return planning.create_study(maker.workspace, ACTORS[1], NewStudy.model_validate(told | {"settings": "0.2 mm layers, 4 perimeters, solid"} | more))[0]


def _colours(maker: Maker, now: datetime, found: Found) -> None:
    arms = [NewArm(id=maker.id(), material_id=found["Hollin", "Everyday", colour]) for colour in ("amber", "ivory", "slate", "brick")]
    tests = [NewTest(id=maker.id(), orientation=o, replicates=4, spares=1) for o in ("flat", "upright")]
    _study(
        maker,
        now - timedelta(days=12.3),
        "Four colours of Everyday",
        "Do the colours of one product differ, so that gates may be any of them?",
        "colour",
        arms,
        tests,
    )


def _print(maker: Maker, at: datetime, arm_id: str, spool: str | None) -> BatchView:
    maker.clock.now = at
    return batches.print_batch(maker.workspace, ACTORS[0], NewBatch(id=maker.id(), arm_id=arm_id, spool_id=spool, printed_at=at))[0]


def _pull(maker: Maker, study: StudyView, at: datetime, how: Mapping[str, tuple[str, Behaviour]], most: int = 99, odd: tuple[str, float] | None = None) -> None:
    """Pull what is printed: `how` by arm as the rig it is pulled on and how it behaves; the second one of the `odd` arm at a share of the usual load."""
    for test in study.tests:
        pulled: Counter[str] = Counter()
        for i, item in enumerate(queue.queue(maker.workspace, test.id, "demo", blind=False).items[:most]):
            assert item.arm is not None
            maker.clock.now = at + timedelta(minutes=4 * i)
            rig, behaviour = how[item.arm.id]
            pulled[item.arm.id] += 1
            share = odd[1] if odd is not None and (item.arm.id, pulled[item.arm.id]) == (odd[0], 2) else 1.0
            pull_one(maker, test, item.specimen_id, Told(rig=rig, behaviour=behaviour, share=share), i)


def _shelf(maker: Maker, now: datetime, found: Found, spools: Mapping[str, str], used: Rigs) -> None:
    ivory = found["Hollin", "Everyday", "ivory"]
    arms = [NewArm(id=maker.id(), material_id=ivory, treatment=treated, spool_id=spools["ivory"]) for treated in ("", "spool a fortnight on the shelf")]
    title, question = "Everyday after a fortnight on the shelf", "Does it matter that the spool lay open for two weeks?"
    study = _study(maker, now - timedelta(days=12.5), title, question, "treatment", arms, [NewTest(id=maker.id(), orientation="upright", replicates=5)])
    _print(maker, now - timedelta(days=9.4), study.arms[0].id, spools["ivory"])
    _pull(maker, study, now - timedelta(days=8.5), {study.arms[0].id: (used.frame, Behaviour(3000, 23.5, 4.0))})


_WASHED = {
    ("everyday", ""): Behaviour(3150, 55.8, 3.0), ("everyday", "w"): Behaviour(2900, 47.0, 3.6),
    ("clearwater", ""): Behaviour(1950, 46.5, 2.6, 0.05), ("clearwater", "w"): Behaviour(1920, 45.3, 3.0, 0.05),
}  # fmt: skip
"""How bars pull as they were printed, and washed: one of them minds the soda."""


def _washed(maker: Maker, now: datetime, found: Found, spools: Mapping[str, str], used: Rigs) -> None:
    filaments = {"everyday": found["Hollin", "Everyday", "amber"], "clearwater": found["Tarn", "Clearwater", "smoke"]}
    told = {"": "", "w": "a week in 2 % washing soda, 40 °C"}
    arms = [NewArm(id=maker.id(), material_id=filaments[name], treatment=told[how], spool_id=spools[name]) for name, how in _WASHED]
    title, question = "Gates after a week in soda", "How much of their strength do the gates keep once they have been washed?"
    study = _study(
        maker,
        now - timedelta(days=12.8),
        title,
        question,
        "treatment",
        arms,
        [NewTest(id=maker.id(), orientation="flat", replicates=5)],
        crosses_materials=True,
    )
    for i, arm in enumerate(study.arms):
        printed = _print(maker, now - timedelta(days=11.5) + timedelta(hours=2 * i), arm.id, arm.spool_id)
        if arm.treatment:
            maker.clock.now = now - timedelta(days=3)
            judging.treat_batch(maker.workspace, ACTORS[0], printed.id, Treated(at=maker.clock.now))
    _pull(maker, study, now - timedelta(days=2.5), {a.id: (used.frame, b) for a, b in zip(study.arms, _WASHED.values(), strict=True)})
    criteria = [
        CriterionSpec(id=maker.id(), test_id=study.tests[0].id, quantity="strength", no_use=20, all_needed=50),
        CriterionSpec(id=maker.id(), test_id=study.tests[0].id, quantity="retention", no_use=0.5, all_needed=1.0, required=0.8),
    ]
    purposes.add_purpose(maker.workspace, ACTORS[1], NewPurpose(id=maker.id(), study_id=study.id, title="Gates that are washed", criteria=criteria))


def _two_rigs(maker: Maker, now: datetime, found: Found, spools: Mapping[str, str], rigs: Mapping[str, str], used: Rigs) -> None:
    amber = found["Hollin", "Everyday", "amber"]
    versions = (used.frame, used.jack)
    arms = [NewArm(id=maker.id(), material_id=amber, rig_id=rigs[version], spool_id=spools["everyday"]) for version in versions]
    title, question = "Jack frame against pull frame", "Do both frames say the same of one filament?"
    study = _study(maker, now - timedelta(days=12.7), title, question, "rig", arms, [NewTest(id=maker.id(), orientation="flat", replicates=6)])
    for i, arm in enumerate(study.arms):
        _print(maker, now - timedelta(days=7.9) + timedelta(hours=i), arm.id, spools["everyday"])
    behaviours = (Behaviour(3150, 55.8, 3.0), Behaviour(3150, 54.1, 4.0))
    _pull(maker, study, now - timedelta(days=7), {a.id: (v, b) for a, v, b in zip(study.arms, versions, behaviours, strict=True)}, odd=(study.arms[1].id, 0.6))


def _line_widths(maker: Maker, now: datetime, found: Found, spools: Mapping[str, str], printer: str, used: Rigs) -> None:
    amber = found["Hollin", "Everyday", "amber"]
    arms = [NewArm(id=maker.id(), material_id=amber, spool_id=spools["everyday"], settings={"line_width": width}) for width in _LINES]
    tests = [NewTest(id=maker.id(), orientation=o, replicates=6, spares=1) for o in ("flat", "upright")]
    title, question = "Line width for entrance gates", "Which line width holds best between the layers, for the time it takes?"
    study = _study(
        maker,
        now - timedelta(days=12.9),
        title,
        question,
        "setting",
        arms,
        tests,
        studied_settings=["line_width"],
        settings="0.2 mm layers, 4 perimeters, solid",
    )
    maker.clock.now = now - timedelta(days=4.8)
    laid = plates.lay_plates(maker.workspace, ACTORS[0], study.id, NewPlates(printer_id=printer))
    done: list[BatchView] = []
    first = [p for p in laid.plates if p.part == 1]
    for i, plate in enumerate(first):
        maker.clock.now = now - timedelta(days=4.5) + timedelta(hours=3 * i)
        new = NewBatch(
            id=maker.id(), arm_id=plate.arm_id, plate_id=plate.id, spool_id=spools["everyday"], printer_id=printer, nozzle="brass 0.4", room=21.5,
            minutes=round(plate.minutes * 1.1), printed_at=maker.clock.now,
        )  # fmt: skip
        done.append(batches.print_batch(maker.workspace, ACTORS[0], new)[0])
    wrong = [SpecimenOutcome(specimen_id=s.id, outcome="misprinted", fault="40 % infill") for s in done[-1].specimens]
    judging.judge_batch(maker.workspace, ACTORS[1], done[-1].id, BatchOutcome(specimens=wrong))
    loose = [SpecimenOutcome(specimen_id=done[0].specimens[1].id, outcome="would not stick")]
    judging.judge_batch(maker.workspace, ACTORS[1], done[0].id, BatchOutcome(specimens=loose))
    _pull(maker, study, now - timedelta(days=3.5), {a.id: (used.frame, b) for a, b in zip(study.arms, _LINES.values(), strict=True)}, most=5)


_FANS = {0: 24.5, 10: 30.6, 20: 31.2, 40: 29.0, 70: 25.4, 100: 22.6}
"""% of part-cooling fan, and MPa at which bars printed so part upright: a little air is best, by far not in the middle."""


def _fans(maker: Maker, now: datetime, found: Found, spools: Mapping[str, str], used: Rigs) -> None:
    amber = found["Hollin", "Everyday", "amber"]
    arms = [NewArm(id=maker.id(), material_id=amber, spool_id=spools["everyday"], settings={"fan": fan}) for fan in _FANS]
    title, question = "Part-cooling fan for upright gates", "How much fan does a gate stand that is printed upright?"
    tests = [NewTest(id=maker.id(), orientation="upright", replicates=3)]
    study = _study(maker, now - timedelta(days=12.95), title, question, "setting", arms, tests, studied_settings=["fan"])
    for i, arm in enumerate(study.arms):
        _print(maker, (now - timedelta(days=11)).replace(hour=9, minute=0) + timedelta(hours=i), arm.id, spools["everyday"])
    how = {a.id: (used.frame, Behaviour(2900, strength, 4.0, scatter=0.015)) for a, strength in zip(study.arms, _FANS.values(), strict=True)}
    _pull(maker, study, now - timedelta(days=10), how)


_ROUNDS = ((1.00, 1.00), (1.03, 0.97), (0.84, 1.01))
"""How far each of three prints of the two filaments lies from their usual strength: the nozzle was half blocked in the last of the first one."""


def _printed_in_rounds(maker: Maker, now: datetime, found: Found, spools: Mapping[str, str], used: Rigs) -> None:
    """Two filaments, three prints of each in turn: what differs from print to print is in the intervals."""
    filaments = {"clearwater": found["Tarn", "Clearwater", "smoke"], "everyday": found["Hollin", "Everyday", "amber"]}
    arms = [NewArm(id=maker.id(), material_id=key, spool_id=spools[name]) for name, key in filaments.items()]
    title, question = "Feeder clips, three prints of each", "Which filament makes the stronger clip, whichever print it comes from?"
    study = _study(maker, now - timedelta(days=12.9), title, question, "material", arms, [NewTest(id=maker.id(), orientation="flat", replicates=3)])
    changing.edit_study(maker.workspace, ACTORS[1], study.id, StudyEdit(batches=len(_ROUNDS)), study.revision)
    usual = (Behaviour(1950, 46.5, 2.6, 0.05, 0.03), Behaviour(3150, 55.8, 3.0, scatter=0.03))
    for number, factors in enumerate(_ROUNDS):
        if number:
            maker.clock.now = now - timedelta(days=7 - number)
            more = StudyExtension(replicates={study.tests[0].id: 3 * (number + 1)}, reason="one more print of each")
            study = changing.extend_study(maker.workspace, ACTORS[1], study.id, more, listing.get_study(maker.workspace, study.id).revision)
        for i, arm in enumerate(study.arms):
            _print(maker, now - timedelta(days=7 - number) + timedelta(hours=1 + 2 * i), arm.id, arm.spool_id)
        how = {a.id: (used.frame, replace(b, strength=b.strength * f)) for a, b, f in zip(study.arms, usual, factors, strict=True)}
        _pull_waiting(maker, study, now - timedelta(days=6.5 - number), how)


def _pull_waiting(maker: Maker, study: StudyView, at: datetime, how: Mapping[str, tuple[str, Behaviour]]) -> None:
    (test,) = study.tests
    waiting = [item for item in queue.queue(maker.workspace, test.id, "demo", blind=False).items if item.state == "waiting"]
    for i, item in enumerate(waiting):
        assert item.arm is not None
        maker.clock.now = at + timedelta(minutes=4 * i)
        rig, behaviour = how[item.arm.id]
        pull_one(maker, test, item.specimen_id, Told(rig=rig, behaviour=behaviour), i)
