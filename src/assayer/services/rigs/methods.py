"""Methods as they are declared: their cards, and what capture follows from."""

from __future__ import annotations

from dataclasses import fields
from typing import Literal

from sqlalchemy import select

from assayer.core.methods import REGISTRY
from assayer.core.methods import method as find_method
from assayer.core.methods.base import Method
from assayer.core.methods.inputs import Setting
from assayer.core.methods.steps import Field, RampStep, RecordingStep, RoundsStep, Step, TimedLoadsStep
from assayer.core.methods.traits import TRAITS
from assayer.core.methods.vocabulary import LEFT_OUT_REASONS, Orientation
from assayer.core.quantities.shown import CHOICES
from assayer.core.quantities.units import DIMENSIONS, Dimension
from assayer.formats.curves.column_words import ROLES
from assayer.services.declarations import outcome_views, shape_view
from assayer.services.rigs.views import (
    ChannelRole,
    Declarations,
    DimensionView,
    FieldView,
    MethodQuantity,
    MethodView,
    OwnMark,
    ProtocolSetting,
    ShownUnit,
    StepView,
    UnitChoice,
)
from assayer.services.unit import Workspace
from assayer.store.models import OwnMethodVersion


def declarations(workspace: Workspace) -> Declarations:
    """All that core declares and pages use, and the tests that the lab defined."""
    with workspace.read() as session:
        rows = session.scalars(select(OwnMethodVersion).order_by(OwnMethodVersion.label, OwnMethodVersion.number.desc())).all()
        newest = {r.family: max(o.number for o in rows if o.family == r.family) for r in rows}
        marks = {r.method: OwnMark(id=r.id, family=r.family, number=r.number, offered=r.withdrawn_at is None and r.number == newest[r.family]) for r in rows}
    return Declarations(
        methods=[*(method_view(m) for m in REGISTRY.values()), *(method_view(find_method(name), mark) for name, mark in marks.items())],
        left_out_reasons=list(LEFT_OUT_REASONS),
        orientations=list(Orientation),
        roles=[ChannelRole(name=name, units=_symbols(d)) for name, d in ROLES.items()],
        dimensions=[DimensionView(name=d.name, base=d.base, units=_symbols(d)) for d in DIMENSIONS.values()],
        shown=[UnitChoice(name=c.name, label=c.label, options=[[ShownUnit.model_validate(u) for u in option] for option in c.options]) for c in CHOICES],
    )


def _symbols(dimension: Dimension) -> list[str]:
    return list(dict.fromkeys(u.symbol for u in dimension.units.values()))


def method_view(m: Method, own: OwnMark | None = None) -> MethodView:
    return MethodView(
        name=m.name,
        own=own,
        label=m.label,
        after=m.after,
        measures=m.measures,
        formulas=list(m.formulas),
        procedure_version=m.procedure_version,
        reduction_version=m.reduction_version,
        subject=m.subject,
        orientations=[Orientation(o) for o in m.orientations],
        shapes=[shape_view(s) for s in m.shapes],
        own_parts=m.own_parts,
        steps=[_step_view(s) for s in m.steps],
        outcomes=outcome_views(m),
        quantities=[
            MethodQuantity(
                name=q.name,
                label=q.label,
                unit=q.unit,
                good_side=q.good_side,
                by=q.by,
                plausible=q.plausible,
                margin=q.margin.value,
                margin_relative=q.margin.relative,
                ratio_scale=q.ratio_scale,
                graded=q.graded,
            )
            for q in m.quantities
        ],
        main=m.main,
        count=m.count,
        protocol=m.protocol().as_dict(),
        settings=[_protocol_setting(s) for s in m.protocol.declared()],
        options=[f.name for f in fields(m.options)],
    )


def _step_view(s: Step) -> StepView:
    return StepView(
        kind=s.kind,
        name=s.name,
        label=s.label,
        optional=s.optional,
        fields=[_field_view(f) for f in s.fields],
        channels=list(s.channels) if isinstance(s, RecordingStep | RampStep) else [],
        ladder=s.ladder if isinstance(s, TimedLoadsStep) else None,
        times=s.times if isinstance(s, TimedLoadsStep) else None,
        due=s.due if isinstance(s, RoundsStep) else None,
    )


def _field_view(f: Field) -> FieldView:
    return FieldView(
        name=f.name,
        label=f.label,
        dimension=f.dimension,
        base=f.of_dimension.base,
        needed=f.needed,
        usual=f.usual,
        sign=f.sign,
        channel=f.channel,
        nominal=f.nominal,
        counts_from=f.counts_from,
        by_load=f.by_load,
        from_rig=f.from_rig,
        from_print=f.from_print,
        by_about=f.by_about,
        yes_no=f.yes_no,
    )


def _protocol_setting(s: Setting) -> ProtocolSetting:
    words = isinstance(s.default, tuple) and isinstance(s.default[0], str)
    kind: Literal["number", "numbers", "yes or no", "words", "choice"] = (
        "choice" if s.choices else "yes or no" if isinstance(s.default, bool) else "words" if words else "numbers" if isinstance(s.default, tuple) else "number"
    )
    default = list(s.default) if isinstance(s.default, tuple) else s.default if s.choices or s.default is None else float(s.default)
    choices = {t.name: t.label for t in TRAITS} if words else dict(s.choices)
    return ProtocolSetting(name=s.name, label=s.label, dimension=s.dimension, base=DIMENSIONS[s.dimension].base, kind=kind, default=default, choices=choices)
