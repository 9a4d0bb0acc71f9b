"""Speed of the dial-in: large files inspected, long trails shown."""

from __future__ import annotations

import math
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from benchmarks.measuring import report, timed
from tests.services.trailhead import Trailhead

from assayer.services.dial_in import trails
from assayer.services.unit import Workspace


def _layer() -> str:
    """Three round islands with three walls of 180 corners and hatching each: about 37 kB."""
    lines = []
    for x in (60.0, 110.0, 160.0):
        for wall in (2, 1, 0):
            radius = 20 - 0.45 * wall
            corners = [(x + radius * math.cos(math.radians(2 * i)), 100 + radius * math.sin(math.radians(2 * i))) for i in range(181)]
            lines += [f"G1 X{corners[0][0]:.3f} Y{corners[0][1]:.3f} F9000", f"M204 S{3000 if wall else 1500}", f"G1 F{3000 if wall else 1800}"]
            lines += [f"G1 X{to[0]:.3f} Y{to[1]:.3f} E0.02324" for to in corners[1:]]
            lines += ["G1 E-0.8 F2100", "G1 E0.8"]
        for i in range(60):
            ends = (88, 112) if i % 2 else (112, 88)
            lines += [f"G1 X{x - 13 + i * 0.45:.3f} Y{ends[0]} E0.015 F4800", f"G1 X{x - 13 + i * 0.45:.3f} Y{ends[1]} E0.8"]
    return "\n".join(lines) + "\n"


_LAYER = _layer()


_OURS = "import atexit, sys\natexit.register(lambda: print(open('/proc/self/status').read(), file=sys.stderr))\nfrom assayer.cli import main\nmain()\n"
"""The command itself, then its own peak of memory: what the system tells of a child counts what its parent held."""


def bench_gcode() -> None:
    """Files of 10 and 100 MB through the command line, in a process of their own; a plain reader of the same lines beside it."""
    plain_code = "import sys\nfor line in open(sys.argv[1]):\n    for word in line.split():\n        if word[0] in 'XYZEF':\n            float(word[1:])\n"
    for megabytes, bound in ((10, 6.0), (100, 60.0)):
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "large.gcode"
            with path.open("w") as file:
                file.write("G21\nG90\nM83\nM104 S210\n")
                z = 0.0
                while file.tell() < megabytes * 1e6:
                    z += 0.2
                    file.write(f"G1 Z{z:.3f} F720\n" + _LAYER)
            start = time.perf_counter()
            ours = subprocess.run(
                [sys.executable, "-c", _OURS, "gcode", "inspect", str(path), "--json"], stdout=subprocess.DEVNULL, stderr=subprocess.PIPE, check=True
            )
            taken = time.perf_counter() - start
            start = time.perf_counter()
            subprocess.run([sys.executable, "-c", plain_code, str(path)], check=True)
            plain = time.perf_counter() - start
            peak = next(int(line.split()[1]) for line in ours.stderr.decode().splitlines() if line.startswith("VmHWM"))
            report(f"inspect {megabytes} MB of G-code", taken, bound, "s", f"({taken / plain:.2f} of only splitting and reading its numbers)")
            report(f"memory of that, {megabytes} MB", peak / 1e3, 300, "MB")


def bench_trail() -> None:
    """A trail of 200 trials: its page, and what to try next."""
    with tempfile.TemporaryDirectory() as folder:
        workspace = Workspace(Path(folder) / "data", durable=False)
        head = Trailhead(workspace)
        head.record(1, {"stringing": 1, "surface": 2})
        for n in range(1, 200):
            head.print(max(1, n - n % 4), {"stringing": n % 5, "surface": n % 3}, **{("fan", "brim", "infill")[n % 3]: float(5 + n % 30)})
        page, steps = timed(lambda: trails.get_trail(workspace, head.id), lambda: trails.next_steps(workspace, head.id, None, None), repeat=7)
        report("a trail of 200 trials", page, 0.3, "s")
        report("what to try next in it", steps, 0.3, "s")
        workspace.close()
