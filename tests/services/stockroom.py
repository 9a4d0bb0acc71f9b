"""A material, its intake and its spool, as several tests of the stock begin."""

from datetime import date, timedelta

from assayer.services.stock import intakes, materials
from assayer.services.stock.requests import (
    NewIntake,
    NewSpool,
    WindowIn,
)

from ..conftest import NOW
from ..support import ACTOR, material, new_id

PETG = WindowIn(bed_low=70, bed_high=85, dry_temperature=65, dry_time=8, flow_max=12, hardened=True, nozzle_min=0.4, source="label")


def ago(hours):
    return NOW - timedelta(hours=hours)


def add_petg(workspace, **more):
    values = {"maker": "Tarn", "polymer": "PETG", "filler": "carbon fibre", "net_mass": 750, "density": 1.29, "window": PETG, "colour": "black"} | more
    new = material("Clearwater CF", **values)
    materials.add_material(workspace, ACTOR, new)
    return new.id


def intake(material_id, **more):
    base = {
        "id": new_id(),
        "spool": NewSpool(id=new_id(), material_id=material_id, lot="7", received_on=date(2026, 6, 10), heat_limit=80),
        "happened_at": ago(48),
    }
    return NewIntake(**base | {"gross": "964", "empty": "214", "seal": "intact", "storage": "dry box", "place": "Box A"} | more)


def spool_of(workspace, **more):
    page, _ = intakes.take_in(workspace, ACTOR, intake(more.pop("material_id", None) or add_petg(workspace), **more))
    return page


# intake
