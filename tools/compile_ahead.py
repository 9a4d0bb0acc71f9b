"""Compile once what many processes load, also where Python is told to keep nothing it compiled.

    .venv/bin/python tools/compile_ahead.py src/assayer
    .venv/bin/python tools/compile_ahead.py tests

Whatever the files of a folder import is imported once, and so kept compiled, and only that: all of the packages
that are installed would take four times as long. Of tests, also what pytest makes of their assertions, which each
of its workers would otherwise make anew.
"""

import ast
import importlib
import py_compile
import sys
import warnings
from pathlib import Path
from types import SimpleNamespace

sys.dont_write_bytecode = False
ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT))


def imported(tree: ast.AST) -> set[str]:
    """The modules that a file imports from elsewhere, within functions too."""
    found = set()
    for node in ast.walk(tree):
        if isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module and not node.level:
            # what is taken from a package may be a module of it
            found |= {node.module, *(f"{node.module}.{alias.name}" for alias in node.names)}
    return found


def rewrite(path: Path) -> None:
    from _pytest.assertion import rewrite as pytest_s

    folder = pytest_s.get_cache_dir(path)
    folder.mkdir(exist_ok=True)
    made_of, code = pytest_s._rewrite_test(path, None)
    pytest_s._write_pyc(SimpleNamespace(trace=print), code, made_of, folder / (path.stem + pytest_s.PYC_TAIL))


def main(folder: Path) -> None:
    warnings.simplefilter("ignore")
    wanted: set[str] = set()
    for path in sorted(folder.rglob("*.py")):
        wanted |= imported(ast.parse(path.read_bytes()))
        if path.name.startswith("test_") or path.name == "conftest.py":
            rewrite(path)
        else:
            py_compile.compile(str(path), quiet=1)
    for name in sorted(wanted):
        try:
            importlib.import_module(name)
        except Exception:  # noqa: BLE001
            # a name within a module, or what this machine cannot load: whoever needs it says so
            continue


if __name__ == "__main__":
    main(ROOT / sys.argv[1])
