"""Traits that a print is graded by, 0 to 4, with the description of every step (METHODS 12)."""

from __future__ import annotations

from dataclasses import dataclass

ODOUR_CAUTION = (
    "Never sniff at the nozzle: note what you smell where you stand. Styrene (ABS, ASA, HIPS), caprolactam (PA) and formaldehyde (overheated POM) "
    "harm: extract, and from “in the room” on air the room and leave it."
)
"""General knowledge of the trade (PROCESS 1)."""


BEST_GRADE = 4
"""The highest step of every trait."""


@dataclass(frozen=True, slots=True)
class Trait:
    """One thing that is looked at.

    Attributes
    ----------
    name, label, short : str
        `short` stands under the bars of the trail.
    steps : tuple of str
        What each grade from 0 to 4 looks like.
    better : bool
        Whether more is better; where it is not, no grade is the good one, and a purpose says which is wanted.
    far : bool
        Whether it is worth looking at from 1 m as well.
    caution : str
        What to take care of while grading it.
    """

    name: str
    label: str
    short: str
    steps: tuple[str, str, str, str, str]
    better: bool = True
    far: bool = False
    caution: str = ""


TRAITS: tuple[Trait, ...] = (
    Trait(
        "stringing",
        "stringing",
        "strings",
        ("webs that join the parts", "many strings, some thick", "several thin strings", "a few hairs that brush off", "no string"),
        far=True,
    ),
    Trait(
        "bridging",
        "bridging",
        "bridge",
        ("fell down or tore", "sags by more than three lines", "sags by one to three lines", "a single line hangs", "straight and closed"),
    ),
    Trait(
        "overhang",
        "overhang",
        "overhang",
        ("curls up and breaks", "lines hang apart from 35°", "rough from 45°", "rough from 50° only", "clean at 55°"),
    ),
    Trait(
        "surface",
        "surface finish",
        "walls",
        ("gaps, blobs or torn lines", "waves that are felt", "waves that are seen", "even, a faint seam", "even all over"),
        far=True,
    ),
    Trait(
        "layers",
        "hold between layers",
        "layers",
        ("comes apart by itself", "splits when bent by hand", "splits along a layer when broken", "breaks across most layers", "breaks as one piece"),
    ),
    Trait(
        "flatness",
        "flatness on the bed",
        "flat",
        ("came off", "corners lift by more than 1 mm", "corners lift by 0.3 to 1 mm", "a corner lifts by less than 0.3 mm", "lies flat"),
    ),
    Trait(
        "fine_detail",
        "fine detail",
        "detail",
        ("spikes and thin edges are missing", "spikes melted to lumps", "spikes blunt, edges broken", "spikes whole, tips round", "spikes and edges sharp"),
    ),
    Trait(
        "bed_adhesion",
        "hold on the bed",
        "hold",
        ("does not stick at all", "comes off while it prints", "held with a brim only", "holds, edges can be lifted", "holds everywhere"),
    ),
    Trait(
        "removal",
        "removal from the bed",
        "removal",
        ("tore the bed surface or the part", "with a tool and force", "by flexing, with force", "by flexing, easily", "by hand, cold"),
    ),
    Trait(
        "support_removal",
        "removal of supports",
        "supports",
        ("cannot be removed", "tears the part", "leaves scars", "leaves marks", "comes off clean"),
    ),
    Trait(
        "sanding",
        "sanding",
        "sanding",
        ("melts and smears", "clogs the paper at once", "slow, fuzzy", "even, slow", "even and quick"),
    ),
    Trait(
        "scratching",
        "resistance to scratching",
        "scratches",
        ("a fingernail marks it deeply", "a fingernail marks it", "a coin marks it", "a steel edge marks it", "a steel edge hardly marks it"),
    ),
    Trait(
        "strand",
        "toughness of the raw strand",
        "strand",
        ("snaps as it unwinds", "snaps at the first bend", "snaps when bent to a loop", "bends white, then snaps", "bends over and stays whole"),
    ),
    Trait(
        "noise",
        "noise at the nozzle",
        "noise",
        ("loud pops all the time", "pops often", "a pop now and then", "a faint hiss", "silent"),
    ),
    Trait(
        "feel",
        "feel in the hand",
        "feel",
        ("unpleasant: sharp or fibrous", "rough", "dry, even", "smooth", "smooth and warm"),
    ),
    Trait(
        "likeness",
        "likeness to what it imitates",
        "likeness",
        ("nothing like it", "its colour only", "at a glance", "until it is touched", "taken for it in the hand"),
        far=True,
    ),
    Trait("sheen", "sheen", "sheen", ("dead matt", "matt", "silky", "glossy", "like a mirror"), better=False, far=True),
    Trait("shade", "shade", "shade", ("much lighter than asked", "lighter", "as asked", "darker", "much darker than asked"), better=False, far=True),
    Trait(
        "odour",
        "odour",
        "odour",
        ("none", "only at the nozzle", "in the room", "strong in the room", "one leaves the room"),
        better=False,
        caution=ODOUR_CAUTION,
    ),
    Trait("texture", "texture to the touch", "texture", ("glass-like", "smooth", "fine grain", "coarse grain", "ribbed"), better=False),
)

_BY_NAME = {t.name: t for t in TRAITS}


def trait(name: str) -> Trait | None:
    return _BY_NAME.get(name)


def median_grade(grades: list[float]) -> float | None:
    """The grade that counts of several graders: their median (METHODS 12)."""
    if not grades:
        return None
    ranked = sorted(grades)
    half = len(ranked) // 2
    return ranked[half] if len(ranked) % 2 else (ranked[half - 1] + ranked[half]) / 2
