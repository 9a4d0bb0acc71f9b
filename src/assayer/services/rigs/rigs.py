"""Rigs, their versions and channels."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import datetime
from typing import TYPE_CHECKING

from sqlalchemy import func, select
from sqlalchemy.orm import Session, joinedload, selectinload

from assayer.core.errors import ConflictError, EntryError
from assayer.core.methods import REGISTRY, known
from assayer.core.methods import method as find_method
from assayer.core.quantities.slips import ask, question_past
from assayer.core.quantities.units import DIMENSIONS
from assayer.services.changes import record_of
from assayer.services.codes import free_code
from assayer.services.rigs.views import CalibrationView, ChannelView, RigList, RigPage, RigView
from assayer.services.unit import Actor, Unit, Workspace, find
from assayer.store.models import Calibration, Material, Rig, RigChannel, RigVersion, Run, Test

if TYPE_CHECKING:
    from assayer.services.rigs.requests import NewRig, NewRigVersion, RigEdit, RigFacts


def rig_view(version: RigVersion, calibrations: Iterable[Calibration], now: datetime) -> RigView:
    """A version of a rig with what its standing calibrations say."""
    standing = [c for c in calibrations if c.retracted_at is None and c.valid_from <= now and (c.valid_to is None or c.valid_to > now)]
    due = [c.due_at for c in standing if c.due_at is not None]
    return RigView(
        id=version.id,
        rig_id=version.rig_id,
        code=version.rig.code,
        name=version.rig.name,
        version=version.number,
        methods=version.rig.methods,
        reference_material_id=version.rig.reference_material_id,
        compliance=version.compliance,
        compliance_uncertainty=version.compliance_uncertainty,
        geometry=version.geometry,
        places=version.places,
        note=version.note,
        channels=[ChannelView.model_validate(c) for c in version.channels],
        valid_from=version.valid_from,
        calibrated_at=max((c.valid_from for c in standing), default=None),
        due_at=min(due, default=None),
    )


def list_rigs(workspace: Workspace) -> RigList:
    """The newest version of every rig."""
    with workspace.read() as session:
        newest = newest_versions(session)
        rows = session.scalars(select(Calibration).where(Calibration.rig_version_id.in_([v.id for v in newest]))).all()
        return RigList(items=[rig_view(v, [c for c in rows if c.rig_version_id == v.id], workspace.clock()) for v in newest])


def newest_versions(session: Session) -> list[RigVersion]:
    """Of each rig the version that stands, by name, with channels."""
    versions = session.scalars(
        select(RigVersion).join(Rig).options(joinedload(RigVersion.rig), selectinload(RigVersion.channels)).order_by(Rig.name, RigVersion.number.desc())
    ).all()
    newest: dict[str, RigVersion] = {}
    for version in versions:
        newest.setdefault(version.rig_id, version)
    return list(newest.values())


def newest_version(session: Session, rig_id: str) -> RigVersion:
    """The version of a rig that stands."""
    return session.scalars(select(RigVersion).where(RigVersion.rig_id == rig_id).order_by(RigVersion.number.desc()).limit(1)).one()


def get_rig(workspace: Workspace, rig_id: str) -> RigPage:
    """One rig with its versions, the calibrations of the one that stands, and its record."""
    with workspace.read() as session:
        return rig_page(session, find(session, Rig, rig_id), workspace.clock())


def rig_page(session: Session, rig: Rig, now: datetime) -> RigPage:
    versions = session.scalars(
        select(RigVersion).where(RigVersion.rig_id == rig.id).options(selectinload(RigVersion.channels)).order_by(RigVersion.number.desc())
    ).all()
    ids = [v.id for v in versions]
    calibrations = session.scalars(select(Calibration).where(Calibration.rig_version_id.in_(ids)).order_by(Calibration.valid_from.desc())).all()
    runs = session.scalar(select(func.count()).select_from(Run).where(Run.rig_version_id.in_(ids), Run.retracted_at.is_(None))) or 0
    views = [rig_view(v, [c for c in calibrations if c.rig_version_id == v.id], now) for v in versions]
    record = record_of(session, [rig.id, *ids, *(c.id for c in calibrations)], 60)
    return RigPage(
        rig=views[0],
        versions=views,
        calibrations=[CalibrationView.model_validate(c) for c in calibrations if c.rig_version_id == versions[0].id],
        runs=runs,
        record=sorted((e for own in record.values() for e in reversed(own)), key=lambda e: e.at, reverse=True),
    )


def add_rig(workspace: Workspace, actor: Actor, new: NewRig) -> tuple[RigView, bool]:
    """Add a rig with its first version; the same ids again change nothing (second value False)."""
    with workspace.write(actor, (new.version_id, new)) as unit:
        there = unit.session.get(RigVersion, new.version_id)
        if there is not None:
            unit.refuse_other("rig", kept := rig_view(there, [], unit.now), same=there.rig_id == new.id)
            return kept, False
        _refuse_twin(unit.session, new.name)
        _check_methods(new.methods)
        rig = Rig(id=new.id, code=free_code(unit), name=new.name, methods=new.methods)
        version = _add_version(unit, rig, new.version_id, 1, new)
        unit.log("rig", rig.id, "added", after={"name": rig.name, "code": rig.code, "methods": rig.methods})
        return rig_view(version, [], unit.now), True


def add_version(workspace: Workspace, actor: Actor, rig_id: str, new: NewRigVersion) -> tuple[RigPage, bool]:
    """A rig that was changed is another one from that day on: its results stay apart from the former ones."""
    with workspace.write(actor, (new.version_id, new)) as unit:
        rig = find(unit.session, Rig, rig_id)
        there = unit.session.get(RigVersion, new.version_id)
        if there is not None:
            unit.refuse_other("rig's version", kept := rig_page(unit.session, rig, unit.now), same=there.rig_id == rig_id)
            return kept, False
        last = newest_version(unit.session, rig_id)
        since = new.valid_from or unit.now
        if since <= last.valid_from:
            raise EntryError(f"the version before stands since {last.valid_from:%Y-%m-%d %H:%M}: the new one must come after it", "valid_from")
        _add_version(unit, rig, new.version_id, last.number + 1, new)
        unit.log("rig", rig.id, "changed", {"version": last.number}, {"version": last.number + 1, "note": new.note})
        return rig_page(unit.session, rig, unit.now), True


def edit_rig(workspace: Workspace, actor: Actor, rig_id: str, edit: RigEdit) -> RigPage:
    """Another name, other methods that it serves, or another reference material."""
    with workspace.write(actor) as unit:
        rig = find(unit.session, Rig, rig_id)
        before = _edited(unit.session, rig)
        if edit.name is not None and edit.name != rig.name:
            _refuse_twin(unit.session, edit.name)
            rig.name = edit.name
            _touch_tests(unit, rig.id)
        if edit.methods is not None:
            _check_methods(edit.methods)
            rig.methods = edit.methods
        if "reference_material_id" in edit.model_fields_set:
            if edit.reference_material_id is not None:
                find(unit.session, Material, edit.reference_material_id)
            rig.reference_material_id = edit.reference_material_id
        unit.session.flush()
        unit.log("rig", rig.id, "edited", before, _edited(unit.session, rig))
        return rig_page(unit.session, rig, unit.now)


def _edited(session: Session, rig: Rig) -> dict[str, object]:
    """What an edit may change, as it is recorded."""
    material = session.get(Material, rig.reference_material_id) if rig.reference_material_id else None
    reference = None if material is None else f"{material.maker} {material.product}, {material.colour}"
    return {"name": rig.name, "methods": rig.methods, "reference_material": reference}


def _touch_tests(unit: Unit, rig_id: str) -> None:
    """What names the rig beside its evidence is said anew."""
    rows = unit.session.execute(
        select(Test.study_id, Test.id)
        .join(Run, Run.test_id == Test.id)
        .join(RigVersion, RigVersion.id == Run.rig_version_id)
        .where(RigVersion.rig_id == rig_id)
        .distinct()
    )
    for study_id, test_id in rows.all():
        unit.touch(study_id, [test_id])


def _refuse_twin(session: Session, name: str) -> None:
    if session.scalar(select(Rig.id).where(Rig.name == name)) is not None:
        raise ConflictError(f"there is already a rig called '{name}'")


def _check_methods(methods: Sequence[str]) -> None:
    odd = next((m for m in methods if not known(m)), None)
    if odd is not None:
        raise EntryError(f"there is no method '{odd}': choose of {', '.join(REGISTRY)}", "methods")


def _add_version(unit: Unit, rig: Rig, version_id: str, number: int, new: RigFacts) -> RigVersion:
    if not new.channels and any(f.channel for name in rig.methods if known(name) for f in find_method(name).fields()):
        raise EntryError("say what its displays show: at least one", "channels")
    if new.valid_from is not None:
        ask([question_past("valid_from", new.valid_from, unit.now, "valid from")])
    version = RigVersion(
        id=version_id,
        rig=rig,
        number=number,
        valid_from=new.valid_from or unit.now,
        compliance=new.compliance,
        compliance_uncertainty=new.compliance_uncertainty,
        geometry=dict(new.geometry),
        places=new.places,
        note=new.note,
        revision=1,
    )
    seen: set[str] = set()
    for position, channel in enumerate(new.channels, 1):
        if channel.name in seen:
            raise EntryError(f"the channel '{channel.name}' is there twice", "channels", row=position)
        seen.add(channel.name)
        dimension = DIMENSIONS.get(channel.dimension)
        if dimension is None:
            raise EntryError(f"channel {position}: '{channel.dimension}' is no dimension: use one of {', '.join(DIMENSIONS)}", "channels", row=position)
        try:
            symbol = dimension.unit(channel.unit).symbol
        except EntryError as error:
            raise EntryError(f"channel {position}: {error.message}", "channels", row=position) from None
        if channel.low is not None and channel.high is not None and channel.low >= channel.high:
            raise EntryError(f"channel {position}: the range {channel.low:g} … {channel.high:g} is upside down", "channels", row=position)
        version.channels.append(RigChannel(id=unit.new_id(), **channel.model_dump() | {"unit": symbol}, position=position))
    unit.session.add(version)
    unit.session.flush()
    return version
