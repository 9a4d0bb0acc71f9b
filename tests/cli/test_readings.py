"""Readings in our open format through the command line, and the declarations it prints."""

import json
from pathlib import Path

import pytest

import assayer

EXAMPLES = json.loads((Path(__file__).parents[1] / "data/readings/examples.json").read_text("utf-8"))


def key(result):
    at = result.get("load", result.get("after"))
    return result["quantity"] if at is None else f"{result['quantity']}@{at:.10g}"


def missed(example, results):
    """Quantities of an example that are not met: the tolerances are relative, at least 1e-9."""
    found = {key(r): r for r in results}
    return {
        name: (found.get(name, {}).get("value"), value)
        for name, (value, tolerance, *_) in example["expected"].items()
        if name not in found or found[name]["value"] != pytest.approx(value, rel=tolerance, abs=1e-9)
    }


@pytest.mark.parametrize("index", range(len(EXAMPLES)), ids=[e["method"] for e in EXAMPLES])
def test_readings_reduce_to_what_was_computed_apart(index):
    example = EXAMPLES[index]
    assert missed(example, assayer.reduce(example["method"], example["readings"]).as_dict()["results"]) == {}


def test_a_file_of_readings_through_the_command_line(tmp_path, run):
    for i, example in enumerate(EXAMPLES):
        path = tmp_path / f"{i}.json"
        path.write_text(json.dumps({k: example[k] for k in ("method", "readings")}))
        found = json.loads(run("reduce", example["method"], path, "--json").out)
        assert found["method"] == example["method"]
        assert missed(example, found["results"]) == {}


def test_a_wrong_reading_is_named_with_its_place(tmp_path, run):
    path = tmp_path / "r.json"
    path.write_text(json.dumps({"method": "shear", "readings": {"width": [4.9], "thickness": ["5.0 kN"], "peak_force": 700}}))
    assert "thickness" in run("reduce", "shear", path, status=2).err
    path.write_text(json.dumps({"method": "shear", "readings": {"breadth": 4}}))
    assert "breadth" in run("reduce", "shear", path, status=2).err


def test_methods_print_what_they_are_and_their_schema(run):
    listed = run("methods").out
    assert all(name in listed for name in ("tension", "creep", "stepped-bending", "shear", "hardness"))
    schema = json.loads(run("methods", "creep", "--schema").out)
    assert schema["$schema"].startswith("https://json-schema.org")
    assert "gap" in json.dumps(schema)
