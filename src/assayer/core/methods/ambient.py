"""How much the room may differ before a comparison is marked (METHODS 6), °C."""

AMBIENT_RANGE = 5.0
"""Within one run."""

AMBIENT_APART = 3.0
"""The mean of a run from that of its group."""
