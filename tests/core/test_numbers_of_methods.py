"""The numbers in METHODS and in what we decided, written a second time: a rule that reads another one is another rule."""

import pytest

from .test_tables import fresh

NUMBERS = {
    # METHODS 1: load on at 0.5 % of the peak; the toe line spans 15 % of the strength, 6 points at least, between 5 and 50 %; 0.001 before load comes on: rubbery
    "curves.loading": {"_LOAD_ON": 0.005, "_TOE_LOW": 0.05, "_TOE_HIGH": 0.5, "_TOE_SPAN": 0.15, "_TOE_ROWS": 6, "_RUBBERY_STRAIN": 0.001},
    # below 40 % for good; within 1 % of the peak of the greatest force in the preceding 0.0005 of strain; a tail of 10 samples, within 5 %
    "curves.breaking": {"_GONE": 0.4, "_BACK": 0.01, "_LOOK_BACK_STRAIN": 0.0005, "_TAIL_ROWS": 10, "_TAIL_DRIFT": 0.05},
    # 0.0005 to 0.0025; 0.9 of the break strain, 5 points, r² 0.995; not exceeded over the next 0.005; 0.2 % offset
    "curves.stiffness": {"_RANGE": (0.0005, 0.0025), "_SHORT": 0.9, "_ROWS": 5, "_STRAIGHT_R2": 0.995, "_AHEAD": 0.005, "_OFFSET": 0.002, "_SMOOTH": 0.0005},
    "curves.remarks": {"_DROP": 0.02, "_DROP_ROWS": 2, "_CLIP_ROWS": 8, "_CLIP_RATIO": 10},
    "curves.compliance": {"_LOW": 0.2, "_HIGH": 0.95, "_STRAIGHT_R2": 0.99},
    # METHODS 5: none if the first is below 10 r; at least twice; at least 3 r; above 0.1 L; (16 ± 1) h
    "methods.stepped_bending": {"_CLEAR": 10.0, "_STEADY": 2.0, "_RISE": 3.0},
    "methods.spans": {"LARGE": 0.1, "USUAL_SPAN": (15.0, 17.0)},
    # METHODS 4, 5, 7, 8
    "methods.torsion": {"SHEAR_RANGE": (0.001, 0.005), "_BROKEN": 0.4, "_IDLE": 0.005, "_HEAD_ROWS": 5},
    "stats.grades": {"CLEAR": 0.05},
    "methods.bending": {"CONVENTIONAL": 0.035},
    "methods.impact": {"HAMMER_RANGE": (0.1, 0.8)},
    "methods.onset": {"BASELINE": 10.0, "_BASELINE_READINGS": 5, "_SCATTERS": 5.0, "LEAST_SAG": 0.1},
    "methods.deflection_temperature": {"STRAIN": 0.002, "WARMEST_START": 27.0},
    # METHODS 6: five readings, the last 100 times the first, not beyond twice the last; 5 °C, 3 °C
    "methods.creep": {"HOUR": 3600.0, "DAY": 86400.0, "_FIT_READINGS": 5, "_FIT_SPAN": 100.0, "_BEYOND": 2.0},
    "methods.ambient": {"AMBIENT_RANGE": 5.0, "AMBIENT_APART": 3.0},
    "methods.functional_part": {"HOUR": 3600.0},
    "stats.findley": {"_LIMITS": (0.01, 0.999), "_OFF": 1e-3},
    # METHODS 13: 90 % of the draws, ten thousand of them; no more than 50 specimens are asked for
    "ranking.ranking": {"SURE": 0.9, "DRAWS": 10_000},
    "stats.verdicts": {"MOST_ADDED": 50},
    "stats.shares": {"_Z95": 1.959963984540054},
    # METHODS 11: ten readings of the strand, ± 0.05 mm
    "filament.diameter": {"WANTED": 10, "TOLERANCE": 0.05, "PLAUSIBLE": 0.12},
    "stats.shrinkage": {"_MOST": 0.1},
    "filament.moisture": {"DRY_BOX_LIMIT": 20.0, "ENOUGH": 0.9, "COOLER": 5.0, "OPEN_HOURS": {"fast": 8.0, "medium": 168.0, "slow": 336.0}},
    "filament.intake": {"UNDER_FILLED": 0.03, "OVAL": 0.03},
    "filament.mass": {"GROSS_FOR_NET": 1.08},
    "filament.balance": {"RESERVE": 0.05},
    "filament.claims": {"SAME_VALUE": 0.05},
    "filament.fit": {"FILLED_NOZZLE": 0.4},
    # pounds and inches by definition
    "quantities.units": {"STANDARD_GRAVITY": 9.80665, "_POUND_FORCE": 0.45359237 * 9.80665, "_INCH": 25.4},
    "gcode.moves": {"INCH": 25.4, "DEFAULT_FEED": 25.0},
    "gcode.layers": {"JUMP": 0.25, "_SAME": 0.005, "_USUAL": 0.2},
    "gcode.judging": {"FLOW_ROOM": 1.02, "UNEVEN": 0.1, "_NEAR": 0.5},
    "gcode.stepping": {"_SAME": 0.005, "_LEAST_LAYERS": 2},
    "gcode.contour": {"GAP": 1.0, "LEAST_AREA": 1.0},
    "plan.plates": {"GAP": 4.0, "UNLIKE": 1.5, "BATCHES": 2, "MOST_ON_A_PLATE": 120},
    "plan.due": {"_SHARE": 0.1},
    "plan.designs": {"MOST_RUNS": 60},
    "plan.tied_settings": {"TIED": 0.9},
    "advice.towers": {"ENOUGH": 2.0, "NEAR": 0.5},
    "settings.limits": {"HIGHEST_LAYER": 0.8},
    "settings.series": {"MOST_BANDS": 40, "LEAST_BAND": 2.0},
    "settings.beginnings": {"_PREFERRED_NOZZLE": 0.4},
    "shapes.base": {"LONGEST": 1000.0},
    "shapes.tower": {"LEAST_BAND": 5.0, "STEEP": (35, 45, 55)},
    "shapes.gauges": {"STEPS": (10.0, 20.0, 30.0, 40.0, 80.0, 120.0), "HOLES": (6.0, 12.0, 24.0), "CENTRES": (0.0, 40.0, 80.0)},
    "shapes.printed": {"SLENDER": 8.0, "TOO_SLENDER": 25.0, "_HOLLOW": 0.85, "_MARK_HIGH": 0.2, "_NUMBER_DEEP": 0.4},
    "shapes.own": {"MOST_TRIANGLES": 400_000, "SHORTEST": 2.0, "UNITS": {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4}},
    "shapes.solids": {"_SAG": 0.002},
    "shapes.relief": {"LEAST_CELL": 0.45, "_GAP": 0.8},
}


@pytest.mark.parametrize("module", sorted(NUMBERS))
def test_a_rule_has_the_numbers_that_are_written_of_it(module):
    made = fresh(module)
    for name, value in NUMBERS[module].items():
        found = getattr(made, name)
        assert found == (pytest.approx(value, rel=1e-9) if isinstance(value, float) else value), name
