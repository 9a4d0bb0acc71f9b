"""Every number that is declared when a module is read (constants, tables, defaults), against a record of it (decision 0033)."""

import ast
import dataclasses
import enum
import inspect
import pkgutil
from collections.abc import Iterator, Mapping, Sequence
from datetime import timedelta
from hashlib import blake2b
from importlib import import_module
from importlib.util import find_spec, module_from_spec
from numbers import Real
from pathlib import Path
from typing import Any

import numpy as np
import pytest

RECORD = Path(__file__).with_name("what_is_declared.txt")
_MOST = 80
"""So many numbers of one name are written out; of more their count, sum and digest."""


def modules() -> list[str]:
    """All modules of core and services."""
    found = []
    for layer in ("assayer.core", "assayer.services"):
        package = import_module(layer)
        found += [m.name for m in pkgutil.walk_packages(package.__path__, layer + ".") if not m.ispkg]
    return sorted(found)


def declared(name: str) -> dict[str, str]:
    """The numbers of a module by what they stand in, made anew: tables are made when a module is read, before any test could see it."""
    import_module(name)
    spec = find_spec(name)
    assert spec is not None
    assert spec.loader is not None
    made = module_from_spec(spec)
    spec.loader.exec_module(made)
    numbers = {key: list(_numbers(getattr(made, key), name, 0)) for key in _own_names(Path(spec.origin or ""))}
    return {key: _told(own) for key, own in numbers.items() if own}


def _own_names(path: Path) -> list[str]:
    """What a module defines itself."""
    found: list[str] = []
    for node in ast.parse(path.read_text("utf-8")).body:
        targets = node.targets if isinstance(node, ast.Assign) else [node.target] if isinstance(node, ast.AnnAssign) and node.value else []
        found += [t.id for t in targets if isinstance(t, ast.Name)]
        if isinstance(node, ast.FunctionDef | ast.ClassDef):
            found.append(node.name)
    return found


def _told(numbers: list[float]) -> str:
    words = " ".join(f"{n:.10g}" for n in numbers)
    if len(numbers) <= _MOST:
        return words
    return f"{len(numbers)} numbers, sum {sum(n for n in numbers if np.isfinite(n)):.10g}, {blake2b(words.encode(), digest_size=6).hexdigest()}"


def _numbers(value: Any, module: str, deep: int) -> Iterator[float]:
    if deep > 12 or isinstance(value, str | bytes | enum.Enum):
        return
    if isinstance(value, Real | np.bool_):
        yield float(value)
    elif isinstance(value, np.ndarray):
        if value.dtype.kind in "fiub":
            yield from (float(v) for v in value.ravel())
    elif isinstance(value, type):
        yield from _of_class(value, module, deep)
    elif inspect.isfunction(value):
        defaults = [p.default for p in inspect.signature(value).parameters.values() if p.default is not p.empty]
        yield from (n for d in defaults for n in _numbers(d, module, deep + 1))
    elif dataclasses.is_dataclass(value):
        yield from (n for f in dataclasses.fields(value) for n in _numbers(getattr(value, f.name, None), module, deep + 1))
    elif isinstance(value, Mapping):
        for key, one in value.items():
            yield from _numbers(key, module, deep + 1)
            yield from _numbers(one, module, deep + 1)
    elif isinstance(value, Sequence):
        yield from (n for one in value for n in _numbers(one, module, deep + 1))
    elif isinstance(value, set | frozenset):
        yield from sorted(n for one in value for n in _numbers(one, module, deep + 1))
    elif isinstance(value, timedelta):
        yield value.total_seconds()


def _of_class(made: type, module: str, deep: int) -> Iterator[float]:
    """Defaults of fields, and of the parameters of methods."""
    if dataclasses.is_dataclass(made):
        yield from (n for f in dataclasses.fields(made) for n in _numbers(f.default, module, deep + 1))
    for name, own in vars(made).items():
        plain = own.__func__ if isinstance(own, staticmethod | classmethod) else own
        if (inspect.isfunction(plain) and plain.__module__ == module and not (name.startswith("__") and name != "__init__")) or (
            not name.startswith("_") and isinstance(plain, int | float | tuple)
        ):
            yield from _numbers(plain, module, deep + 1)


def recorded() -> dict[str, dict[str, str]]:
    found: dict[str, dict[str, str]] = {}
    for line in RECORD.read_text("utf-8").splitlines():
        place, told = line.split("\t")
        module, _, name = place.partition(" ")
        found.setdefault(module, {})[name] = told
    return found


@pytest.mark.parametrize("module", modules())
def test_a_module_declares_the_numbers_that_are_recorded_of_it(module):
    assert declared(module) == recorded().get(module, {}), "if this is meant: make record, and read the difference"


def test_nothing_is_recorded_of_modules_that_are_gone():
    assert set(recorded()) <= set(modules())
