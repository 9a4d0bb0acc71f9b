"""The rest of the co-operative's bench: what a pendulum, an oven, a bath, a surface plate and a balance say of three filaments."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta

from assayer.core.methods.exposure import ExposureProtocol
from assayer.core.methods.vocabulary import Bound, Orientation
from assayer.core.quantities.water import density_of_water
from assayer.core.shapes.gauges import DIMENSION_GAUGE
from assayer.demo.maker import ACTORS, Maker
from assayer.services.bench import queue, runs
from assayer.services.bench.requests import NewReading, NewRun
from assayer.services.own_methods import own_methods
from assayer.services.own_methods.requests import NewOwnMethod, OwnDefinitionIn, OwnInputIn, OwnOutcomeIn, OwnResultIn
from assayer.services.printing import batches
from assayer.services.printing.requests import NewBatch
from assayer.services.rigs import rigs
from assayer.services.rigs.requests import NewChannel, NewRig
from assayer.services.sessions.requests import Place
from assayer.services.studies import planning
from assayer.services.studies.requests import NewArm, NewStudy, NewTest

Row = tuple[str, int, str, str | None]
"""A reading as typed: field, position, text, what it is of."""


@dataclass(frozen=True, slots=True)
class Kind:
    """How one filament behaves: impact kJ/m² and how it breaks, torque N·m, bending MPa and mm, sag and deflection °C, warp mm,
    shrinkage, g/cm³ printed and solid, uptake in % after a month, N at which a heat-staked insert is pulled out."""

    material: tuple[str, str, str]
    impact: float
    breaks: tuple[str, ...]
    torque: float
    angle: float
    bends: tuple[float, float]
    sags: float
    deflects: float
    lift: float
    shrinks: float
    density: tuple[float, float]
    uptake: float
    insert: float


KINDS = (
    Kind(
        ("Tarn", "Clearwater", "smoke"),
        6.4,
        ("hinge", "hinge", "complete", "hinge"),
        1.46,
        310.0,
        (97.0, 6.1),
        69.0,
        66.0,
        0.34,
        0.0041,
        (1.241, 1.27),
        0.42,
        655.0,
    ),
    Kind(("Hollin", "Everyday", "amber"), 3.3, ("complete",) * 4, 1.62, 84.0, (112.0, 4.2), 57.0, 54.0, 0.12, 0.0028, (1.212, 1.24), 0.66, 810.0),
    Kind(("Tarn", "Clearwater CF", "black"), 4.6, ("complete",) * 4, 1.38, 61.0, (106.0, 2.9), 74.0, 71.0, 0.08, 0.0012, (1.268, 1.32), 0.31, 540.0),
)


INSERT = OwnDefinitionIn(
    label="Pull-out of a heat-staked insert",
    measures="What the wall around a threaded insert bears when its screw is pulled straight out.",
    inputs=[
        OwnInputIn(name="greatest_load", label="greatest load", dimension="force"),
        OwnInputIn(name="outside_diameter", label="outside diameter of the insert", dimension="length"),
        OwnInputIn(name="depth", label="depth of the insert", dimension="length", usual=3),
    ],
    results=[OwnResultIn(name="pull_out_strength", label="pull-out strength", formula="greatest_load / (pi * outside_diameter * depth)")],
    outcomes=[
        OwnOutcomeIn(label="insert came out"),
        OwnOutcomeIn(label="wall split around it"),
        OwnOutcomeIn(label="screw stripped", bound=Bound.AT_LEAST),
    ],
    shapes=["hardness-block"],
    orientations=[Orientation.FLAT],
    own_parts=False,
)


_SET: Mapping[str, dict[str, float | str | list[float] | list[str]]] = {
    "exposure": {"medium": "liquid", "concentration": 1.0, "temperature": 23.0, "volume": 400.0, "sizes": 1, "looks": 1}
}
_COUPON = {"length": 60.0, "width": 60.0, "thickness": 1.0}


def _sizes(maker: Maker, field: str, position: int, place: int, swollen: float, at: datetime) -> list[NewReading]:
    """A coupon's sizes in mm; `swollen` is how much mass it has taken up, as a share."""
    made = {name: size * (1 + 0.0004 * (place % 3)) * (1 + swollen / (6 if name == "thickness" else 14)) for name, size in _COUPON.items()}
    return [NewReading(id=maker.id(), field=field, position=position, about=name, raw=f"{size:.2f}", happened_at=at) for name, size in made.items()]


def fill_bench(maker: Maker, now: datetime, found: Mapping[tuple[str, str, str], str]) -> None:
    """Plan, print and test; of each arm the last specimen of each test waits on the bench."""
    begin = now - timedelta(days=15.3)
    maker.clock.now = begin
    used = _rigs(maker, now)
    maker.clock.now = begin
    arms = [NewArm(id=maker.id(), material_id=found[k.material]) for k in KINDS]
    planned = [
        ("impact", "flat", 4), ("torsion", "flat", 3), ("torsion", "upright", 5), ("bending", "flat", 3), ("heat-ramp", "flat", 3),
        ("deflection-temperature", "flat", 3), ("warp", "flat", 3), ("dimensions", "flat", 3), ("immersion-density", "flat", 3), ("exposure", "flat", 3),
    ]  # fmt: skip
    pull_out = own_methods.add_own(maker.workspace, ACTORS[0], NewOwnMethod(id=maker.id(), definition=INSERT))[0].method
    used["own"] = _spring_balance(maker, pull_out)
    planned.append((pull_out, "flat", 3))
    tests = [NewTest(id=maker.id(), method=name, orientation=how, replicates=n, protocol=_SET.get(name, {})) for name, how, n in planned]
    ordered = {"traits": ["fine_detail", "texture"], "ordered": 1}
    tests.append(NewTest(id=maker.id(), method="graded", orientation="flat", replicates=2, protocol=ordered))
    tests.append(NewTest(id=maker.id(), method="graded", orientation="flat", replicates=4, protocol={"traits": ["surface", "stringing", "sheen"]}))
    told = NewStudy(
        id=maker.id(), title="Entrance gates in a sun-struck hive", arms=arms, tests=tests, settings="0.2 mm layers, 4 perimeters, solid",
        question="Which of three filaments takes a knock, stands the heat, keeps its size and does not mind the soda?",
    )  # fmt: skip
    study = planning.create_study(maker.workspace, ACTORS[0], told)[0]
    for i, arm in enumerate(study.arms):
        maker.clock.now = begin + timedelta(hours=5 + 4 * i)
        batches.print_batch(maker.workspace, ACTORS[0], NewBatch(id=maker.id(), arm_id=arm.id, printed_at=maker.clock.now, minutes=410))
    kinds = {arm.id: kind for arm, kind in zip(study.arms, KINDS, strict=True)}
    *typed, soaked, inserts, laid, graded = study.tests
    for number, test in enumerate(typed):
        typing = _torsion_upright if test.orientation == Orientation.UPRIGHT else _TYPED[test.method]
        _test(maker, test.id, used[test.method], typing, kinds, begin + timedelta(days=2, hours=3 * number))
    _test(maker, inserts.id, used["own"], _insert, kinds, begin + timedelta(days=4))
    _soak(maker, soaked.id, used["exposure"], kinds, now)
    _grade(maker, graded.id, used["graded"], kinds, begin + timedelta(days=5))
    _order(maker, laid.id, used["graded"], kinds, begin + timedelta(days=6))


def _test(
    maker: Maker, test_id: str, rig: str, typed: Callable[[Maker, Kind, int], tuple[list[Row], str | None]], kinds: Mapping[str, Kind], begin: datetime
) -> None:
    seen: Counter[str] = Counter()
    items = queue.queue(maker.workspace, test_id, "demo", blind=False).items
    planned = Counter(i.arm.id for i in items if i.arm is not None)
    for i, item in enumerate(items):
        assert item.arm is not None
        seen[item.arm.id] += 1
        if seen[item.arm.id] == planned[item.arm.id]:
            continue
        maker.clock.now = begin + timedelta(minutes=4 * i)
        rows, outcome = typed(maker, kinds[item.arm.id], seen[item.arm.id] - 1)
        new = NewRun(
            id=maker.id(), subject_id=item.specimen_id, test_id=test_id, rig_version_id=rig, happened_at=maker.clock.now,
            readings=[NewReading(id=maker.id(), field=f, position=p, raw=raw, about=about) for f, p, raw, about in rows], outcome=outcome,
        )  # fmt: skip
        runs.accept(maker.workspace, ACTORS[0], new)


def _about(maker: Maker, value: float, share: float) -> float:
    return value * (1 + share * float(maker.noise.standard_normal()))


def _sized(maker: Maker, name: str, value: float, times: int = 3) -> list[Row]:
    return [(name, i, f"{value + 0.012 * float(maker.noise.standard_normal()):.2f}", None) for i in range(times)]


def _impact(maker: Maker, kind: Kind, number: int) -> tuple[list[Row], str]:
    """The angle that the hammer rises to after it left its energy in the bar."""
    width, thickness = 8.0, 4.05
    how = kind.breaks[number]
    energy = _about(maker, kind.impact, 0.11) * (1.5 if how == "hinge" else 1.0) * width * thickness / 1e3
    lever = 0.75 * 9.80665 * 0.31
    rise = math.degrees(math.acos(math.cos(math.radians(132.1)) + (energy + 0.02) / lever))
    return [
        *_sized(maker, "width_under_notch", width, 1),
        *_sized(maker, "thickness", thickness, 1),
        ("rise_angle", 0, f"{round(2 * rise) / 2:.1f}", None),
    ], how


def _torsion(maker: Maker, kind: Kind, number: int) -> tuple[list[Row], str]:
    greatest, angle = _about(maker, kind.torque, 0.05), _about(maker, kind.angle, 0.08)
    at = 0.72 * greatest
    rows: list[Row] = [*_sized(maker, "diameter", 8.02), ("torque_at_set_angle", 0, f"{at:.2f}", None), ("greatest_torque", 0, f"{greatest:.2f}", None)]
    return [*rows, ("angle_at_break", 0, f"{angle:.0f}", None)], "twisted off"


def _torsion_upright(maker: Maker, kind: Kind, number: int) -> tuple[list[Row], str]:
    """The layers part: less than half the torque, at a third of the angle, before the set angle is reached."""
    greatest, angle = _about(maker, 0.44 * kind.torque, 0.07), _about(maker, min(0.34 * kind.angle, 38.0), 0.08)
    rows: list[Row] = [*_sized(maker, "diameter", 8.02), ("greatest_torque", 0, f"{greatest:.2f}", None), ("angle_at_break", 0, f"{angle:.0f}", None)]
    return rows, "between layers"


def _bending(maker: Maker, kind: Kind, number: int) -> tuple[list[Row], str]:
    load, deflection = kind.bends
    rows: list[Row] = [*_sized(maker, "width", 10.02), *_sized(maker, "thickness", 4.01), ("peak_force", 0, f"{_about(maker, load, 0.04):.1f}", None)]
    on_the_way: list[Row] = [("load", 0, f"{load / 2:.0f}", None), ("deflection", 0, f"{_about(maker, 0.42 * deflection, 0.05):.2f}", None)]
    return [*rows, *on_the_way], "broke" if deflection < 5 else "bent"


def _heat(maker: Maker, kind: Kind, number: int) -> tuple[list[Row], str]:
    """Looked at every 2 °C."""
    noticed = 2 * math.ceil(_about(maker, kind.sags, 0.015) / 2)
    return [("noticed_at", 0, f"{noticed}", None), ("failed_at", 0, f"{noticed + 12}", None)], "sagged"


def _deflection(maker: Maker, kind: Kind, number: int) -> tuple[list[Row], str]:
    passes = _about(maker, kind.deflects, 0.012)
    rows: list[Row] = [*_sized(maker, "width", 10.01), *_sized(maker, "thickness", 4.0)]
    for i, warm in enumerate(range(24, int(passes) + 8, 6)):
        sag = 0.06 + 0.0012 * (warm - 24) + 0.24 * math.exp((warm - passes) / 5.0)
        rows += [("ramp_temperature", i, f"{warm}", None), ("ramp_sag", i, f"{sag:.3f}", None)]
    return rows, "passed"


def _warp(maker: Maker, kind: Kind, number: int) -> tuple[list[Row], str]:
    lifts = [kind.lift * (1 + 0.3 * float(maker.noise.standard_normal())) for _ in range(4)]
    return [("corners", i, f"{v:.2f}", None) for i, v in enumerate(lifts)], "lifted" if kind.lift > 0.3 and number == 1 else "stayed"


def _dimensions(maker: Maker, kind: Kind, number: int) -> tuple[list[Row], str]:
    rows: list[Row] = []
    shrinks = _about(maker, kind.shrinks, 0.06)
    for i, feature in enumerate(DIMENSION_GAUGE.features):
        side = {"outer": 1, "inner": -1, "centre": 0}[feature.kind]
        size = (1 - shrinks) * feature.nominal + 2 * 0.035 * side + 0.012 * float(maker.noise.standard_normal())
        rows.append(("measured", i, f"{size:.2f}", feature.name))
    return rows, "measured"


_WATER = 22.5
"""°C of the water that coupons are weighed in."""


def _density(maker: Maker, kind: Kind, number: int) -> tuple[list[Row], str]:
    printed, solid = kind.density
    air = 3.02 + 0.02 * float(maker.noise.standard_normal())
    liquid = air * (1 - density_of_water(_WATER) / _about(maker, printed, 0.002))
    rows: list[Row] = [("mass_in_air", 0, f"{air:.4f}", None), ("mass_in_liquid", 0, f"{liquid:.4f}", None), ("solid_density", 0, f"{solid}", None)]
    return [*rows, ("water_temperature", 0, f"{_WATER}", None)], "sank"


_TYPED: Mapping[str, Callable[[Maker, Kind, int], tuple[list[Row], str | None]]] = {
    "impact": _impact, "torsion": _torsion, "bending": _bending, "heat-ramp": _heat, "deflection-temperature": _deflection, "warp": _warp,
    "dimensions": _dimensions, "immersion-density": _density,
}  # fmt: skip


def _insert(maker: Maker, kind: Kind, number: int) -> tuple[list[Row], str]:
    """The strongest wall outlasts the screw; fibre makes it split instead of letting go."""
    load = _about(maker, kind.insert, 0.07)
    rows: list[Row] = [("greatest_load", 0, f"{load:.0f}", None), ("outside_diameter", 0, "5.6", None), *_sized(maker, "depth", 5.03)]
    return rows, "screw stripped" if kind.insert > 700 else "wall split around it" if kind.insert < 600 else "insert came out"


def _grade(maker: Maker, test_id: str, rig: str, kinds: Mapping[str, Kind], begin: datetime) -> None:
    """Ilse graded all prints for two traits, Tomas the first of them; the third trait waits for both."""
    usual = {"Clearwater": (3, 1), "Everyday": (3, 4), "Clearwater CF": (2, 3)}
    for i, item in enumerate(queue.queue(maker.workspace, test_id, "demo", blind=False).items):
        assert item.arm is not None
        surface, stringing = usual[kinds[item.arm.id].material[1]]
        maker.clock.now = begin + timedelta(minutes=i)
        run_id = maker.id()
        for actor, trait, grade in ((ACTORS[0], "surface", surface), (ACTORS[1], "surface", surface), (ACTORS[0], "stringing", stringing)):
            seen = min(4, max(0, grade + int(maker.noise.integers(-1, 2)) * int(maker.noise.random() < 0.4)))
            reading = NewReading(id=maker.id(), field=trait, raw=str(seen), about=actor.who)
            new = NewRun(
                id=run_id, subject_id=item.specimen_id, test_id=test_id, rig_version_id=rig, happened_at=maker.clock.now, readings=[reading], complete=False
            )
            runs.accept(maker.workspace, actor, new)


def _order(maker: Maker, test_id: str, rig: str, kinds: Mapping[str, Kind], begin: datetime) -> None:
    """Ilse and Tomas laid the prints in order by their fine detail; the other trait waits for both."""
    seen = {"Clearwater": 2.0, "Everyday": 3.0, "Clearwater CF": 0.5}
    items = queue.queue(maker.workspace, test_id, "demo", blind=False).items
    runs_of = {item.specimen_id: maker.id() for item in items}
    for k, actor in enumerate(ACTORS[:2]):
        worth = {i.specimen_id: seen[kinds[i.arm.id].material[1]] + 0.5 * float(maker.noise.standard_normal()) for i in items if i.arm is not None}
        for place, specimen in enumerate(sorted(worth, key=lambda s: -worth[s]), 1):
            maker.clock.now = begin + timedelta(minutes=20 * k + place)
            reading = NewReading(id=maker.id(), field="fine_detail_place", raw=str(place), about=actor.who)
            new = NewRun(
                id=runs_of[specimen], subject_id=specimen, test_id=test_id, rig_version_id=rig, happened_at=maker.clock.now, readings=[reading], complete=False
            )
            runs.accept(maker.workspace, actor, new)


def _spring_balance(maker: Maker, method: str) -> str:
    shown = [
        NewChannel(name="force", dimension="force", unit="N", decimals=0, step=1, low=0, high=1000),
        NewChannel(name="length", dimension="length", unit="mm", decimals=0, step=0.01, low=0, high=150),
    ]
    return rigs.add_rig(maker.workspace, ACTORS[0], NewRig(id=maker.id(), version_id=maker.id(), name="Spring balance", methods=[method], channels=shown))[0].id


def _soak(maker: Maker, test_id: str, rig: str, kinds: Mapping[str, Kind], now: datetime) -> None:
    """Two of each went into the soda a week ago, but for an hour: one reading was missed, the next is due now."""
    start = now - timedelta(days=7)
    due = ExposureProtocol().due
    session = maker.id()
    seen: Counter[str] = Counter()
    place = 0
    for item in queue.queue(maker.workspace, test_id, "demo", blind=False).items:
        assert item.arm is not None
        seen[item.arm.id] += 1
        if seen[item.arm.id] > 2:
            continue
        dry = 4.41 + 0.02 * float(maker.noise.standard_normal())
        at = start + timedelta(minutes=2 * place)
        maker.clock.now = at
        readings = [
            NewReading(id=maker.id(), field="mass_before", raw=f"{dry:.4f}", happened_at=at - timedelta(minutes=5)),
            *_sizes(maker, "sizes_before", 0, place, 0.0, at - timedelta(minutes=4)),
            NewReading(id=maker.id(), field="exposed", raw="", happened_at=at),
        ]
        new = NewRun(
            id=maker.id(), subject_id=item.specimen_id, test_id=test_id, rig_version_id=rig, happened_at=at, readings=readings, complete=False,
            place=Place(session_id=session, position=place),
        )  # fmt: skip
        runs.accept(maker.workspace, ACTORS[1], new)
        for i, seconds in enumerate(due[:2]):
            if (place, i) == (3, 1):
                continue
            read = at + timedelta(seconds=seconds)
            gained = kinds[item.arm.id].uptake / 100 * math.sqrt(seconds / due[-1])
            wet = dry * (1 + _about(maker, gained, 0.06))
            maker.clock.now = read
            readings = [
                NewReading(id=maker.id(), field="mass", position=i, raw=f"{wet:.4f}", happened_at=read, ambient_c=21.0),
                *_sizes(maker, "sizes", i, place, gained, read),
                *(
                    NewReading(id=maker.id(), field=name, position=i, about=ACTORS[1].who, raw=str(4 - (i if worn else 0)), happened_at=read)
                    for name, worn in (("looks", kinds[item.arm.id].uptake > 0.6), ("feel", kinds[item.arm.id].uptake > 0.4), ("distortion", False))
                ),
            ]
            runs.accept(maker.workspace, ACTORS[1], new.model_copy(update={"readings": readings, "happened_at": read}))
        place += 1


def _rigs(maker: Maker, now: datetime) -> dict[str, str]:
    """Version ids by method."""

    def channel(name: str, dimension: str, unit: str, step: float, high: float, low: float = 0.0) -> dict[str, object]:
        return {"name": name, "dimension": dimension, "unit": unit, "decimals": 0, "step": step, "low": low, "high": high}

    calliper = channel("length", "length", "mm", 0.01, 150)
    dial = channel("deflection", "length", "mm", 0.01, 25)
    torque = channel("torque", "torque", "N·m", 0.01, 6)
    warm = channel("temperature", "temperature", "°C", 1, 250)
    told: list[tuple[str, str, dict[str, object]]] = [
        ("impact", "Pendulum on the doorpost", {
            "channels": [channel("angle", "angle", "°", 0.5, 180), calliper],
            "geometry": {"hammer_mass": 0.75, "radius": 0.31, "release_angle": 132.1, "loss": 0.02, "span": 62}, "note": "Charpy, notch away from the hammer"}),
        ("torsion", "Torque wrench in the vice", {"channels": [torque, channel("angle", "angle", "°", 1, 3600), calliper]}),
        ("bending", "Press on two supports", {"channels": [channel("force", "force", "N", 0.1, 2000), dial, calliper], "geometry": {"span": 64}}),
        ("heat-ramp", "Kitchen oven with a window", {"channels": [warm, dial], "geometry": {"noticed_step": 2, "rate": 0.5}, "note": "door shut, fan off"}),
        ("deflection-temperature", "Oil bath", {"channels": [warm | {"step": 0.1}, dial | {"step": 0.001}, calliper],
            "geometry": {"span": 64, "heating_rate": 120, "zeroed_after": 5, "liquid_bath": 1}}),
        ("warp", "Surface plate", {"channels": [channel("length", "length", "mm", 0.01, 25, -25)], "note": "feeler gauges and a height gauge"}),
        ("dimensions", "Digital calliper", {"channels": [calliper]}),
        ("immersion-density", "Balance with a hook", {"channels": [channel("mass", "mass", "g", 0.0001, 120, -5), warm | {"step": 0.1}]}),
        ("graded", "North window, at arm's length", {"channels": []}),
        ("exposure", "Soda bath 1 %, 23 °C", {"channels": [channel("mass", "mass", "g", 0.0001, 120)], "places": 8, "note": "washing soda, 1 %"}),
    ]  # fmt: skip
    found = {}
    for i, (method, name, facts) in enumerate(told):
        maker.clock.now = now - timedelta(days=39) + timedelta(minutes=i)
        new = NewRig.model_validate({"id": maker.id(), "version_id": maker.id(), "name": name, "methods": [method]} | facts)
        found[method] = rigs.add_rig(maker.workspace, ACTORS[0], new)[0].id
    return found
