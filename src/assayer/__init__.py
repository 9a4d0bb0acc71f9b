"""Assayer: from recorded pulls to verdicts and a ranking that can be defended.

    import assayer
    assayer.reduce_file("tension", "pull.csv", width=4.02, thickness=3.97, shape="dumb-bell-1ba")
    assayer.reduce("creep", {"unloaded": 0.37, "gap": [{"after": "20 h", "value": 1.24}, …]})
    assayer.compare([41.2, 42.6, 38.1, 39.0], ["a", "a", "b", "b"])
    assayer.sweep([0.12, 0.12, 0.16, 0.16, 0.2, 0.2], [30.1, 31.0, 33.2, 32.5, 34.1, 33.4], margin="2")

The functions load their numerics on first use, so that the import itself stays quick.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from assayer.notebook import Comparison as Comparison
    from assayer.notebook import agreement as agreement
    from assayer.notebook import claim as claim
    from assayer.notebook import compare as compare
    from assayer.notebook import effects as effects
    from assayer.notebook import reduce as reduce
    from assayer.notebook import reduce_file as reduce_file
    from assayer.notebook import reduce_recording as reduce_recording
    from assayer.notebook import statements as statements
    from assayer.notebook import sweep as sweep

__version__ = "0.1.0"
__all__ = [
    "Comparison", "__version__", "agreement", "claim", "compare", "effects", "reduce", "reduce_file", "reduce_recording", "statements", "sweep",
]  # fmt: skip


def __getattr__(name: str) -> Any:
    if name in __all__:
        from assayer import notebook

        return getattr(notebook, name)
    raise AttributeError(f"module 'assayer' has no attribute '{name}'")
