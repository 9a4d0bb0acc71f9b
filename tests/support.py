"""Made-up entries that several tests use."""

from datetime import UTC, datetime

from assayer.core.ids import uuid7
from assayer.services.bench.requests import NewReading, NewRun
from assayer.services.rigs.requests import NewRig
from assayer.services.stock.requests import NewMaterial
from assayer.services.unit import Actor

ACTOR = Actor("Ilse", "Europe/Berlin")
AT = datetime(2026, 6, 15, 9, 0, tzinfo=UTC)


def new_id():
    return str(uuid7(datetime.now(UTC)))


def material(product="Everyday", colour="amber", **more):
    return NewMaterial(**{"id": new_id(), "maker": "Hollin", "product": product, "polymer": "PLA", "colour": colour, "hex": "#D9962B"} | more)


def rig(**more):
    return NewRig(**{"id": new_id(), "version_id": new_id(), "name": "Pull frame", "force_unit": "kgf"} | more)


def run(specimen_id, test_id, rig_version_id, peak="60.2", width=("4.02",), thickness=("3.97",), **more):
    fields = [("width", i, v) for i, v in enumerate(width)] + [("thickness", i, v) for i, v in enumerate(thickness)]
    if peak is not None:
        fields.append(("peak_force", 0, peak))
    readings = [NewReading(id=new_id(), field=f, position=i, raw=raw) for f, i, raw in fields]
    base = {"id": new_id(), "specimen_id": specimen_id, "test_id": test_id, "rig_version_id": rig_version_id, "happened_at": AT, "readings": readings}
    return NewRun(**base | more)
