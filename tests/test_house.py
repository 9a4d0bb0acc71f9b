"""The house of docs/architecture.md: rooms of one name in every layer, things short enough to do one thing, typed answers."""

import ast
import importlib
import inspect
import pkgutil
import typing
from pathlib import Path

import numpy as np
import pytest

import assayer.services

ROOT = Path(__file__).parents[1]
ROOMS = {p.name for p in (ROOT / "src/assayer/services").iterdir() if p.is_dir() and p.name != "__pycache__"}
WRITTEN = [p for folder in ("src", "tests", "tools", "benchmarks") for p in (ROOT / folder).rglob("*.py") if "migrations" not in p.parts]


def test_areas_have_the_same_name_in_every_layer():
    """What stands in one layer under a name of its own has its services under that name."""
    shared = {"__init__", "base", "app", "common", "description", "problems", "people", "refusal_words", "series", "wire"}
    models = {p.stem for p in (ROOT / "src/assayer/store/models").glob("*.py")}
    routes = {p.stem.removeprefix("routes_") for p in (ROOT / "src/assayer/api").glob("*.py")}
    pages = {p.name for p in (ROOT / "web/src/areas").iterdir()}
    assert models - shared <= ROOMS
    assert routes - shared <= ROOMS
    assert pages <= ROOMS
    assert len(pages) >= 7


@pytest.mark.parametrize("path", WRITTEN, ids=lambda p: str(p.relative_to(ROOT)))
def test_no_file_is_longer_than_400_lines_and_no_function_than_80(path):
    text = path.read_text()
    assert text.count("\n") <= 400
    long = [(n.name, n.end_lineno - n.lineno + 1) for n in ast.walk(ast.parse(text)) if isinstance(n, ast.FunctionDef) and n.end_lineno - n.lineno >= 80]
    assert not long


def modules():
    for found in pkgutil.walk_packages(assayer.services.__path__, "assayer.services."):
        yield importlib.import_module(found.name)


def loose(note):
    """Whether an annotation says Any or a bare object somewhere; the shape of an array is free."""
    if typing.get_origin(note) is np.ndarray:
        return False
    return note in (typing.Any, object, dict) or any(loose(part) for part in typing.get_args(note))


def test_no_public_service_answers_with_any():
    found, seen = [], 0
    for module in modules():
        for name, function in inspect.getmembers(module, inspect.isfunction):
            if name.startswith("_") or function.__module__ != module.__name__:
                continue
            seen += 1
            # what it is told may be known to it by type only; what it answers it makes itself
            if loose(eval(function.__annotations__["return"], function.__globals__)):
                found.append(f"{module.__name__}.{name}")
    assert seen > 100
    assert not found


def test_what_services_and_api_hand_round_has_a_name():
    """A bare mapping says nothing of what is in it."""
    told = [p for layer in ("services", "api") for p in (ROOT / "src/assayer" / layer).rglob("*.py")]
    assert not [str(p.relative_to(ROOT)) for p in told if "dict[str, Any]" in p.read_text()]


def test_no_field_of_a_view_or_a_request_is_any():
    from assayer.services.views import View

    found = [f"{kind.__name__}.{name}" for kind in descendants(View) for name, field in kind.model_fields.items() if loose(field.annotation)]
    assert not found


def descendants(kind):
    for child in kind.__subclasses__():
        yield child
        yield from descendants(child)
