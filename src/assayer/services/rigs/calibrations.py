"""Calibrations: how what a rig shows stands to what is true; and what its channels say of a reading."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import TYPE_CHECKING

from sqlalchemy import bindparam, select
from sqlalchemy.orm import Session, joinedload

from assayer.core.errors import EntryError
from assayer.core.methods.steps import Field
from assayer.core.quantities.slips import ask, question_past
from assayer.core.quantities.units import DIMENSIONS, Quantity, read_display
from assayer.services.rigs.views import CalibrationView
from assayer.services.unit import Unit, expect_revision, find
from assayer.store.models import Calibration, RigChannel, RigVersion

if TYPE_CHECKING:
    from assayer.services.rigs.requests import CalibrationEdit, ComplianceEdit, NewCalibration

_READERS = "rig readers"
_STEPS = 10
"""A reading below this many reading steps is coarse."""


@dataclass(frozen=True, slots=True)
class RigReader:
    """A rig version as readings see it: channels and calibrations, read once."""

    version: RigVersion
    calibrations: Sequence[Calibration]
    _shown_by: dict[tuple[str, str | None], RigChannel | None] = field(default_factory=dict, compare=False)

    def channel_of(self, field: Field) -> RigChannel | None:
        """The channel that shows a field: of its name, else the first of its dimension."""
        wanted = field.dimension, field.channel
        if wanted not in self._shown_by:
            alike = [c for c in self.version.channels if c.dimension == field.dimension]
            self._shown_by[wanted] = next((c for c in alike if c.name == field.channel), alike[0] if alike else None)
        return self._shown_by[wanted]

    def read(self, field: Field, raw: str) -> Quantity:
        """What was typed into a field, in the unit and with the implied decimals that the rig shows."""
        channel = self.channel_of(field)
        if channel is None:
            return read_display(raw, field.of_dimension, field.of_dimension.base, 0, field.name)
        return read_display(raw, field.of_dimension, channel.unit, channel.decimals, field.name)

    def step(self, field: Field) -> float:
        """The step in which the rig shows a field, in its base unit; 0 where it is not known."""
        channel = self.channel_of(field)
        return 0.0 if channel is None else channel.step * abs(field.of_dimension.unit(channel.unit).factor)

    def factor(self, channel: str, at: datetime) -> float:
        """The factor of the calibration that was valid at an instant; 1 where there is none."""
        found = self._valid(channel, at)
        return 1.0 if found is None else found.factor

    def factor_of(self, field: Field, at: datetime) -> float:
        channel = self.channel_of(field)
        return 1.0 if channel is None else self.factor(channel.name, at)

    def marks(self, field: Field, value: float, at: datetime) -> list[str]:
        """What is to be said of a reading, in base units: beyond the range, coarse, or read after the calibration fell due."""
        channel = self.channel_of(field)
        if channel is None:
            return []
        unit = DIMENSIONS[channel.dimension].unit(channel.unit)
        shown = (value - unit.offset) / unit.factor
        said = f"{field.label} {shown:.6g} {unit.symbol}"
        marks = []
        if channel.high is not None and shown > channel.high:
            marks.append(f"{said} is above the {channel.high:g} {unit.symbol} that {self.version.rig.name} reads to")
        if channel.low is not None and shown < channel.low:
            marks.append(f"{said} is below the {channel.low:g} {unit.symbol} that {self.version.rig.name} reads from")
        if abs(shown) < _STEPS * channel.step:
            marks.append(f"{said} is less than {_STEPS} steps of {channel.step:g} {unit.symbol}: a coarse reading")
        calibration = self._valid(channel.name, at)
        if calibration is not None and calibration.due_at is not None and at > calibration.due_at:
            marks.append(f"{field.label}: the calibration of {channel.name} was due on {calibration.due_at:%Y-%m-%d}")
        return marks

    def overdue(self, fields: Iterable[Field], at: datetime) -> list[Calibration]:
        """The calibrations of what shows these fields that were valid at an instant, and due before it."""
        channels = dict.fromkeys(c.name for field in fields if (c := self.channel_of(field)) is not None)
        valid = [self._valid(name, at) for name in channels]
        return [c for c in valid if c is not None and c.due_at is not None and c.due_at < at]

    def _valid(self, channel: str, at: datetime) -> Calibration | None:
        valid = [
            c for c in self.calibrations if c.channel == channel and c.retracted_at is None and c.valid_from <= at and (c.valid_to is None or at < c.valid_to)
        ]
        return max(valid, key=lambda c: c.valid_from, default=None)


def reader_of(session: Session, rig_version_id: str) -> RigReader:
    """A rig version with its channels and calibrations; read once in a session, for a run asks for it at every step."""
    known: dict[str, RigReader] = session.info.setdefault(_READERS, {})
    if rig_version_id not in known:
        known[rig_version_id] = _read_rig(session, rig_version_id)
    return known[rig_version_id]


_RIG = select(RigVersion).where(RigVersion.id == bindparam("version")).options(joinedload(RigVersion.rig), joinedload(RigVersion.channels))
_CALIBRATIONS = select(Calibration).where(Calibration.rig_version_id == bindparam("version"))


def _read_rig(session: Session, rig_version_id: str) -> RigReader:
    version = session.scalars(_RIG, {"version": rig_version_id}).unique().one_or_none()
    if version is None:
        version = find(session, RigVersion, rig_version_id)
    return RigReader(version, session.scalars(_CALIBRATIONS, {"version": rig_version_id}).all())


def add_calibration(unit: Unit, rig_version_id: str, new: NewCalibration) -> bool:
    """Keep a calibration within a transaction; the same id again changes nothing (False)."""
    there = unit.session.get(Calibration, new.id)
    if there is not None:
        unit.refuse_other("calibration", CalibrationView.model_validate(there), same=there.rig_version_id == rig_version_id and there.channel == new.channel)
        return False
    calibration = _new_calibration(unit.session, rig_version_id, new, unit.now)
    unit.session.add(calibration)
    unit.session.flush()
    # one that was read before does not know it
    unit.session.info.pop(_READERS, None)
    unit.log("calibration", calibration.id, "added", after=_state(calibration))
    return True


def foresee_calibration(session: Session, rig_version_id: str, new: NewCalibration, now: datetime) -> bool:
    """Let a session read the rig as if the calibration were kept; False where it is."""
    if session.get(Calibration, new.id) is not None:
        return False
    calibration = _new_calibration(session, rig_version_id, new, now)
    reader = reader_of(session, rig_version_id)
    session.info[_READERS][rig_version_id] = replace(reader, calibrations=[*reader.calibrations, calibration])
    return True


def _new_calibration(session: Session, rig_version_id: str, new: NewCalibration, now: datetime) -> Calibration:
    version = find(session, RigVersion, rig_version_id)
    if all(c.name != new.channel for c in version.channels):
        raise EntryError(f"{version.rig.name} has no channel '{new.channel}': it has {', '.join(c.name for c in version.channels)}", "channel")
    ask([question_past("valid_from", new.valid_from, now, "valid from")], new.confirmed)
    calibration = Calibration(rig_version_id=rig_version_id, revision=1, **new.model_dump(exclude={"confirmed"}))
    _check_span(calibration)
    return calibration


def change_calibration(unit: Unit, calibration_id: str, edit: CalibrationEdit, revision: int) -> Calibration:
    """Correct a calibration within a transaction; what was read with it is to be computed anew."""
    before = _state(find(unit.session, Calibration, calibration_id))
    calibration = edited_calibration(unit.session, calibration_id, edit, revision, unit.now)
    unit.session.flush()
    unit.log("calibration", calibration.id, "corrected", before, _state(calibration))
    return calibration


def edited_calibration(session: Session, calibration_id: str, edit: CalibrationEdit, revision: int, now: datetime) -> Calibration:
    """A calibration with an edit made to it, not flushed."""
    calibration = find(session, Calibration, calibration_id)
    expect_revision(revision, calibration.revision, "the calibration")
    given = edit.model_dump(exclude_unset=True, exclude={"confirmed", "retracted"})
    for needed in ("factor", "valid_from"):
        if needed in given and given[needed] is None:
            raise EntryError("it cannot be left empty", needed)
    if edit.valid_from is not None:
        ask([question_past("valid_from", edit.valid_from, now, "valid from")], edit.confirmed)
    for name, value in given.items():
        setattr(calibration, name, "" if name == "note" and value is None else value)
    if edit.retracted is not None:
        calibration.retracted_at = now if edit.retracted else None
    _check_span(calibration)
    calibration.revision += 1
    return calibration


def _check_span(calibration: Calibration) -> None:
    if calibration.valid_to is not None and calibration.valid_to <= calibration.valid_from:
        raise EntryError("the calibration ends before it begins: were the two exchanged?", "valid_to")
    if calibration.due_at is not None and calibration.due_at <= calibration.valid_from:
        raise EntryError("it is due again before it begins", "due_at")


def _state(calibration: Calibration) -> dict[str, object]:
    def day(at: datetime | None) -> str | None:
        return None if at is None else at.isoformat()

    return {
        "channel": calibration.channel,
        "factor": calibration.factor,
        "valid_from": day(calibration.valid_from),
        "valid_to": day(calibration.valid_to),
        "due_at": day(calibration.due_at),
        "note": calibration.note,
        "retracted": calibration.retracted_at is not None,
    }


def set_compliance(unit: Unit, rig_version_id: str, edit: ComplianceEdit) -> RigVersion:
    """Correct the compliance of a version within a transaction; its recordings are to be reduced anew."""
    version = find(unit.session, RigVersion, rig_version_id)
    before = {"compliance": version.compliance, "uncertainty": version.compliance_uncertainty}
    version.compliance, version.compliance_uncertainty = edit.compliance, edit.uncertainty
    version.revision += 1
    unit.session.flush()
    unit.log("rig version", version.id, "compliance set", before, {"compliance": edit.compliance, "uncertainty": edit.uncertainty})
    return version
