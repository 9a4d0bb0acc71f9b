"""The co-operative's stock: eight materials out of its own list, their spools, two dryers, two printers."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from pathlib import Path
from typing import Literal

from sqlalchemy import select

from assayer.core.errors import AssayerError
from assayer.demo.maker import ACTORS, Maker
from assayer.services.printing import printers
from assayer.services.printing.requests import NewPrinter
from assayer.services.sessions import drying
from assayer.services.sessions.requests import EndDrying, MemberMass, NewDrying
from assayer.services.stock import intakes, lists, materials, spools, storage
from assayer.services.stock.requests import ImportText, MaterialEdit, NewClaim, NewIntake, NewMove, NewSpool, NewStorage, NewWeighing
from assayer.store.models import Material

LISTS = {kind: Path(__file__).with_name(f"{kind}.csv") for kind in ("materials", "reported")}
"""What the co-operative kept in a spreadsheet before; the first five materials are the arms of the study."""


@dataclass(frozen=True, slots=True)
class Checked:
    """One spool as it was found; days before now."""

    key: str
    material: tuple[str, str, str]
    lot: str
    came: float
    checked: float
    gross: str
    empty: str
    mean: float = 1.748
    scatter: float = 0.006
    seal: str = "intact"
    desiccant: str = "dry"
    winding: str = "even"
    snap: str = "bends"
    snap_known_good: str = "bends"
    popping: str = "none"
    heat_limit: float | None = None
    storage: str = "dry box"
    place: str = "Box A"
    body: Literal["plastic", "cardboard", "refill"] = "plastic"
    bore: float | None = 55.0
    loose_end: Literal["straight", "bent"] = "straight"


SPOOLS = (
    Checked("clearwater", ("Tarn", "Clearwater", "smoke"), "TC-2604", 22, 15, "1223", "214"),
    Checked("everyday", ("Hollin", "Everyday", "amber"), "E 5518", 30, 15, "1246", "238", 1.751, storage="open", place="shelf", heat_limit=60),
    Checked("carbon", ("Tarn", "Clearwater CF", "black"), "CF-0177", 20, 15, "968", "214", 1.744, 0.009),
    Checked("moss", ("Fenwick", "Outdoor", "moss"), "118", 25, 15, "1251,5", "247", desiccant="none"),
    Checked("burden", ("Orrery", "Burden", "natural"), "7731", 24, 15, "698.6", "190", 1.739, 0.012, "open", "wet", popping="some"),
    # under-filled: 948 g of 1000 g
    Checked("ivory", ("Hollin", "Everyday", "ivory"), "E 5530", 11, 10, "1186", "238", 1.753, storage="sealed bag", place="drawer"),
    # mis-wound, and oval with it
    Checked("moss-2", ("Fenwick", "Outdoor", "moss"), "121", 9, 8, "1249", "247", 1.762, 0.021, winding="crossed", storage="sealed bag", place="to go back"),
    Checked(
        "grey", ("Fenwick", "Outdoor GF", "grey"), "G-33", 6, 5, "1248", "247", 1.747, 0.008, seal="open", storage="open", place="shelf",
        body="cardboard", bore=53.0, loose_end="bent",
    ),
    Checked("white", ("Stell", "Pliant", "white"), "P 90", 5, 4, "958", "205", 1.752, 0.007, storage="sealed bag", place="drawer"),
    # wet: it pops, snaps where a good strand bends, and the bag was open
    Checked("burden-2", ("Orrery", "Burden", "natural"), "7809", 2, 1, "693.1", "190", 1.741, 0.011, "open", "wet", snap="snaps", popping="much",
            storage="open", place="shelf"),
)  # fmt: skip


def make_materials(maker: Maker, now: datetime) -> dict[tuple[str, str, str], str]:
    """The list goes in as anybody's would; returns the materials' ids."""
    maker.clock.now = now - timedelta(days=40)
    for kind, path in LISTS.items():
        done = lists.run_import(maker.workspace, ACTORS[0], ImportText.model_validate({"kind": kind, "text": path.read_text("utf-8")}))
        if done.kept != len(done.rows):
            raise AssayerError(f"the demo's list of {kind} did not go in whole: {done.counts}")
    with maker.workspace.read() as session:
        found = {(m.maker, m.product, m.colour): m.id for m in session.scalars(select(Material))}
    sourced = NewClaim(id=maker.id(), text="30 % stronger than Tarn Clearwater", source="leaflet in the box")
    materials.add_claim(maker.workspace, ACTORS[1], found["Tarn", "Clearwater CF", "black"], sourced)
    edit = MaterialEdit(note="The co-operative's usual filament.")
    materials.edit_material(maker.workspace, ACTORS[1], found["Hollin", "Everyday", "amber"], edit, 1)
    for new in (
        NewPrinter(
            id=maker.id(), name="Bench One", nozzle=0.4, hardened=False, enclosed=False, bed_surface="textured", strand=1.75, nozzle_hottest=280,
            bed_hottest=100, extraction=False, holder=52, drives_rims=False, takes_refills=True, loads_itself=False, build_x=220, build_y=210, build_z=230,
            keep_out=[(0, 0, 30, 12)], clearance=32, passes_over=28,
        ),
        NewPrinter(
            id=maker.id(), name="Warm Box", nozzle=0.6, hardened=True, enclosed=True, bed_surface="textured", strand=1.75, nozzle_hottest=320, bed_hottest=120,
            chamber_hottest=65, extraction=True, holder=50, drives_rims=True, takes_refills=False, loads_itself=True, build_x=250, build_y=200, build_z=240,
        ),
    ):  # fmt: skip
        printers.add_printer(maker.workspace, ACTORS[0], new)
    return found


def make_spools(maker: Maker, now: datetime, found: dict[tuple[str, str, str], str]) -> dict[str, str]:
    """Spools come, are checked and dried, before the study's prints; returns the spools' ids."""
    ids = {}
    for i, plan in enumerate(SPOOLS):
        maker.clock.now = now - timedelta(days=plan.checked) + timedelta(minutes=9 * i)
        ids[plan.key] = _take_in(maker, now, plan, found[plan.material], ACTORS[i % 2].who)
    maker.clock.now = now - timedelta(days=9, hours=3)
    came = (now - timedelta(days=9)).date()
    new = NewSpool(id=maker.id(), material_id=found["Hollin", "Everyday", "ivory"], lot="E 5544", received_on=came)
    intakes.add_spool(maker.workspace, ACTORS[0], new)
    _dry(maker, now, ids)
    return ids


def _take_in(maker: Maker, now: datetime, plan: Checked, material_id: str, who: str) -> str:
    new = NewSpool(
        id=maker.id(), material_id=material_id, lot=plan.lot, received_on=(now - timedelta(days=plan.came)).date(), heat_limit=plan.heat_limit or 95,
        body=plan.body, bore=plan.bore, loose_end=plan.loose_end,
    )  # fmt: skip
    readings = [f"{plan.mean + plan.scatter * maker.noise.standard_normal():.3f}" for _ in range(10)]
    looked = {name: getattr(plan, name) for name in ("gross", "empty", "seal", "desiccant", "winding", "snap", "snap_known_good", "popping")}
    intake = NewIntake(
        id=maker.id(), spool=new, happened_at=maker.clock.now, diameters=readings, storage=plan.storage, place=plan.place, **looked
    )  # fmt: skip
    intakes.take_in(maker.workspace, replace(ACTORS[0], who=who), intake)
    return new.id


def _dry(maker: Maker, now: datetime, ids: dict[str, str]) -> None:
    """Two sessions before the prints, one that runs."""
    for device, days, heat, hours, masses in (
        ("Loft dryer", 14.0, 65.0, 8.0, {"clearwater": ("1223", "1220.9"), "carbon": ("968", "965.7")}),
        ("Cupboard oven", 13.4, 90.0, 12.0, {"burden": ("698.6", "691.8")}),
    ):
        maker.clock.now = now - timedelta(days=days)
        members = [MemberMass(spool_id=ids[k], raw=before) for k, (before, _) in masses.items()]
        new = NewDrying(id=maker.id(), device=device, temperature=heat, hours=hours, started_at=maker.clock.now, members=members)
        drying.start_drying(maker.workspace, ACTORS[1], new)
        maker.clock.now += timedelta(hours=hours, minutes=12)
        out = [MemberMass(spool_id=ids[k], raw=after) for k, (_, after) in masses.items()]
        end = EndDrying(ended_at=maker.clock.now, members=out, storage="dry box", place="Box A", humidity=13)
        drying.end_drying(maker.workspace, ACTORS[1], new.id, end, 1)
    maker.clock.now = now - timedelta(hours=5)
    members = [MemberMass(spool_id=ids["grey"], raw="1248"), MemberMass(spool_id=ids["moss"])]
    new = NewDrying(id=maker.id(), device="Loft dryer", temperature=75, hours=8, started_at=maker.clock.now, members=members)
    drying.start_drying(maker.workspace, ACTORS[0], new)


def use_spools(maker: Maker, now: datetime, ids: dict[str, str]) -> None:
    """After the study's prints: one is weighed, one was left out, the box is read."""
    maker.clock.now = now - timedelta(days=3)
    left = spools.get_spool(maker.workspace, ids["clearwater"]).left
    assert left is not None
    # the purge lines that no print counts
    gross = f"{214 + left - 4.6:.1f}"
    spools.weigh(maker.workspace, ACTORS[1], ids["clearwater"], NewWeighing(id=maker.id(), raw=gross, at=maker.clock.now))
    maker.clock.now = now - timedelta(hours=20)
    moves = [NewMove(id=maker.id(), spool_id=ids["burden"])]
    storage.store_spools(maker.workspace, ACTORS[1], NewStorage(moves=moves, storage="open", place="on Warm Box", at=maker.clock.now))
    boxed = [NewMove(id=maker.id(), spool_id=ids[k]) for k in ("clearwater", "carbon")]
    maker.clock.now = now - timedelta(hours=2)
    storage.store_spools(maker.workspace, ACTORS[0], NewStorage(moves=boxed, storage="dry box", place="Box A", humidity=14, at=maker.clock.now))
