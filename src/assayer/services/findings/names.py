"""What arms are called in sentences: by their material, and by what tells those of one material apart."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from assayer.services.studies.evidence_groups import Evidence
from assayer.services.studies.views import ArmView


def arm_names(arms: Sequence[ArmView]) -> dict[str, str]:
    """By arm id. Arms of one material alone are named by what differs; marks never stand alone.

    "Orrery Burden"; "Hollin Everyday, amber" beside another colour; "Hollin Everyday, untreated"; "line 0.4 mm".
    """
    products = Counter(_product(a) for a in arms)
    colours = Counter((_product(a), a.material.colour) for a in arms)
    materials = {a.material.id for a in arms}
    treated = {_product(a) for a in arms if a.treatment}
    names = {}
    for a in arms:
        product = _product(a)
        parts = [] if len(materials) == 1 and len(arms) > 1 else [product]
        if products[product] > 1 and colours[product, a.material.colour] < products[product] and len(materials) > 1:
            parts.append(a.material.colour)
        if product in treated and products[product] > 1:
            parts.append(a.treatment or "untreated")
        parts += [f"{name} {value}" for name, value in a.differs.items()]
        names[a.id] = ", ".join(parts) or product
    # two arms that nothing named here tells apart keep their marks
    repeated = Counter(names.values())
    marks = {a.id: a.mark for a in arms}
    return {key: f"{name} ({marks[key]})" if repeated[name] > 1 else name for key, name in names.items()}


def name_of_earlier(evidence: Evidence) -> dict[str, str]:
    """Of the reference by its id, where it is an arm of another study."""
    if evidence.earlier is None:
        return {}
    m = evidence.earlier.arm.variant.material
    treatment = evidence.earlier.arm.variant.treatment
    what = [f"{m.maker} {m.product}", m.colour, *([treatment] if treatment else [])]
    return {evidence.earlier.arm.id: f"{', '.join(what)} of “{evidence.earlier.study}”"}


def _product(arm: ArmView) -> str:
    return f"{arm.material.maker} {arm.material.product}"
