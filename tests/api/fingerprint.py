"""What answers hold, put into lines that are short, can be read, and change when anything in the answers does.

One line for each place in an answer ("cells[].group.mean"), whichever entry of a list it is in: figures as their number,
their sum and their sum weighted by position (so that two that change places are seen), words as a count of each, or as
a sum of their characters where there are many. Ids become the order in which they first appear.
"""

import csv
import io
import json
import math
import re
import struct
from collections import Counter
from dataclasses import dataclass, field
from zlib import crc32

import numpy as np

_ID = re.compile(r"[0-9a-f]{8}-[0-9a-f]{4}-7[0-9a-f]{3}-[0-9a-f]{4}-[0-9a-f]{12}")
_NUMBER = re.compile(r"-?\d+(?:\.\d+)?(?:e-?\d+)?")
_SHOWN = 5
CLOSE = 1e-6


@dataclass
class Fingerprint:
    """Answers by view, added one after another."""

    leaves: dict[str, list] = field(default_factory=dict)
    ids: dict[str, str] = field(default_factory=dict)

    def add(self, view, answer):
        """An answer of any of the kinds that the server gives."""
        kind = answer.headers.get("content-type", "").split(";")[0]
        if kind.endswith("json"):
            self.walk(view, answer.json())
        elif kind == "text/csv":
            self.walk(view, list(csv.DictReader(io.StringIO(answer.text.lstrip("\ufeff")))))
        elif kind == "application/octet-stream":
            size = struct.unpack("<I", answer.content[:4])[0]
            self.walk(view, {"head": json.loads(answer.content[4 : 4 + size]), "body": np.frombuffer(answer.content[4 + size :], "<f4").tolist()})
        else:
            self.walk(view, {"words": _NUMBER.sub("0", answer.text), "numbers": [float(n) for n in _NUMBER.findall(answer.text)]})

    def walk(self, path, value):
        if isinstance(value, dict):
            for key, inner in value.items():
                self.walk(f"{path}.{'*' if _ID.fullmatch(key) else key}", inner)
        elif isinstance(value, list):
            self.leaves.setdefault(f"{path}[]", []).append(len(value))
            for inner in value:
                self.walk(f"{path}[]", inner)
        else:
            self.leaves.setdefault(path, []).append(value)

    def lines(self):
        """Place and what stands there, sorted by place."""
        return {path: self._told(values) for path, values in sorted(self.leaves.items())}

    def _told(self, values):
        numbers = [(i, v) for i, v in enumerate(values, 1) if isinstance(v, int | float) and not isinstance(v, bool)]
        words = [self._word(v) for v in values if not isinstance(v, int | float) or isinstance(v, bool)]
        told = []
        if numbers:
            told.append(
                f"{len(numbers)} figures {math.fsum(v for _, v in numbers):.10g} {math.fsum(i * v for i, v in numbers):.10g} ({math.fsum(abs(v) for _, v in numbers):.3g})"
            )
        if words:
            counted = Counter(words)
            shown = (
                ", ".join(f"{n} {w}" for w, n in sorted(counted.items())) if len(counted) <= _SHOWN and sum(map(len, counted)) < 90 else f"{len(words)} words"
            )
            told.append(f"{shown} #{crc32(chr(10).join(words).encode()):08x}")
        return "; ".join(told)

    def _word(self, value):
        if not isinstance(value, str):
            return {None: "none", True: "yes", False: "no"}[value]
        return _ID.sub(lambda m: self.ids.setdefault(m[0], f"id{len(self.ids)}"), value).replace("\n", " ")


def differs(kept, told):
    """Whether two descriptions of a place say different things; figures may differ in their last digits."""
    if kept == told:
        return False
    pattern = re.compile(r"(\d+) figures (\S+) (\S+) \((\S+)\)")
    a, b = pattern.search(kept), pattern.search(told)
    if a is None or b is None or a[1] != b[1] or pattern.sub("", kept) != pattern.sub("", told):
        return True
    room = CLOSE * float(a[4]) + 1e-9
    return abs(float(a[2]) - float(b[2])) > room or abs(float(a[3]) - float(b[3])) > room * int(a[1])
