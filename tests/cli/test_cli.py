"""The command line: JSON as promised, one line on stderr and status 2 otherwise."""

import json
import subprocess
import sys
from pathlib import Path

import pytest

CURVES = Path(__file__).parents[1] / "data/curves"
COMPARED = json.loads((CURVES.parent / "findings/compare.json").read_text("utf-8"))
DIMENSIONS = ["--width", "4,594", "--thickness", "3.907 mm", "--gauge-length", "25"]


def test_reduce_prints_the_promised_json(run):
    found = json.loads(run("reduce", "tension", CURVES / "comma_ductile.csv", *DIMENSIONS, "--json").out)
    assert set(found) == {"method", "procedure_version", "reduction_version", "results", "warnings"}
    assert [r["quantity"] for r in found["results"]] == [
        "strength", "stress_at_break", "apparent_modulus", "yield_strength", "strain_at_yield", "strain_at_strength", "strain_at_break", "energy_to_break", "peak_force",
    ]  # fmt: skip
    assert {k for r in found["results"] for k in r} == {"quantity", "value", "unit", "bound", "warnings"}
    assert all(r["bound"] == "exact" for r in found["results"])


def test_a_shape_gives_the_length_that_travel_is_divided_by_and_a_length_by_hand_replaces_it(run):
    section = ["--width", "4.594", "--thickness", "3.907", "--json"]

    def strains(*more):
        found = json.loads(run("reduce", "tension", CURVES / "comma_ductile.csv", *section, *more).out)["results"]
        return {r["quantity"]: r["value"] for r in found if "strain" in r["quantity"]}

    by_hand, by_shape = strains("--gauge-length", "25"), strains("--shape", "dumb-bell-1ba")
    assert by_shape["strain_at_break"] * 50.917 == pytest.approx(by_hand["strain_at_break"] * 25, rel=1e-3)
    assert by_shape["nominal_strain_at_break"] * 58 == pytest.approx(by_hand["strain_at_break"] * 25, rel=1e-3)
    both = strains("--shape", "dumb-bell-1ba", "--gauge-length", "25")
    assert both == by_hand | {name: pytest.approx(v, rel=1e-3) for name, v in by_shape.items() if name.startswith("nominal")}
    refused = run("reduce", "tension", CURVES / "comma_ductile.csv", *section[:-1], status=2)
    assert "--shape" in refused.err


def test_compare_prints_the_promised_json(tmp_path, run):
    table = tmp_path / "t.csv"
    rows = [("A", v) for v in ("18,2", "17,1", "19,0", "16,8", "18,5")] + [("B", v) for v in ("21,4", "22,0", "19,9", "20,7", "22,6")]
    table.write_text("grade;value\n" + "\n".join(f"{g};{v}" for g, v in rows))
    found = json.loads(run("compare", table, "--value", "value", "--group", "grade", "--reference", "A", "--json").out)
    assert {"groups", "anova", "pairs", "verdicts"} <= set(found)
    assert set(found["groups"][0]) == {"group", "n", "mean", "sd", "cv", "ci95"}
    assert {"a", "b", "difference", "ci95", "p"} == set(found["pairs"][0])
    assert {"group", "difference", "ci95", "ci90", "verdict", "more_specimens"} <= set(found["verdicts"][0])
    assert found["verdicts"][0]["verdict"] == "better"
    assert "B against A: +3.4: better" in run("compare", table, "--value", "value", "--group", "grade").out


@pytest.mark.parametrize("case", COMPARED)
def test_batches_are_compared_as_our_format_for_findings_shows(case, tmp_path, run):
    table = tmp_path / "t.csv"
    table.write_text(case["csv"])
    found = json.loads(run("compare", table, *case["args"], "--json").out)
    figures = {"batch_to_within": found["batch_to_within"]}
    for group in found["groups"]:
        low, high = group["ci95"]
        for name, value in (("mean", group["mean"]), ("low", low), ("high", high), ("within_sd", group["within_sd"])):
            figures[f"{name}.{group['group']}"] = value
    assert figures == pytest.approx(case["expected"], rel=1e-6)


@pytest.mark.parametrize(
    "words, said",
    [
        (["reduce", "tension", CURVES / "none.csv", *DIMENSIONS], "cannot read"),
        (["reduce", "tension", CURVES / "comma_plain.csv", "--width", "0", "--thickness", "4", "--gauge-length", "25"], "width must be greater than 0"),
        (["reduce", "tension", CURVES / "comma_plain.csv", "--width", "abc", "--thickness", "4", "--gauge-length", "25"], "'abc' is not a number"),
        (["reduce", "tension", CURVES / "truth.json", *DIMENSIONS], "no table of numbers"),
        (["reduce", "tension"], "Missing argument"),
        (["serve", "--host", "0.0.0.0"], "without accounts"),
        (["recompute", "--data", "/nowhere/at/all"], "there is no notebook"),
        (["demo", "--no-serve", "--data", "/tmp/x", "--now", "yesterday"], "is no instant"),
        (["nonsense"], "No such command"),
    ],
)
def test_errors_are_one_line_on_stderr_and_status_2(words, said, run):
    done = run(*words, status=2)
    assert said in done.err
    assert len(done.err.strip().splitlines()) == 1
    assert not done.out


def test_it_refuses_to_guess_and_says_what_would_tell_it(tmp_path, run):
    headerless = tmp_path / "h.csv"
    headerless.write_text("\n".join((CURVES / "comma_ductile.csv").read_text().splitlines()[1:]))
    done = run("reduce", "tension", headerless, *DIMENSIONS, status=2)
    assert "cannot tell which column is the force" in done.err
    suggestion = done.err.split("--columns ")[-1].split()[0]
    assert suggestion == "time:s,travel:mm,force:N"
    run("reduce", "tension", headerless, *DIMENSIONS, "--columns", suggestion)


def test_a_wrong_value_names_its_line(tmp_path, run):
    table = tmp_path / "t.csv"
    table.write_text("g,v\na,1\nb,1.2.3\n")
    assert "line 3: 'v'" in run("compare", table, "--value", "v", "--group", "g", status=2).err
    assert "no single column 'x'" in run("compare", table, "--value", "x", "--group", "g", status=2).err


def test_importing_stays_light():
    loaded = subprocess.run(
        [sys.executable, "-c", "import sys, assayer; print([m for m in ('numpy', 'scipy', 'fastapi', 'sqlalchemy') if m in sys.modules])"],
        capture_output=True,
        text=True,
        check=True,
    )
    assert loaded.stdout.strip() == "[]"


def test_a_start_loads_nothing_that_only_a_fit_or_a_solid_needs_and_the_first_page_no_request_of_other_areas():
    heavy = ("scipy", "trimesh", "manifold3d", "lib3mf", "PIL", "pandas")
    code = f"""
import json, sys
from assayer.api.app import create_app
application = create_app()
first = [m for m in sys.modules if (m.startswith("assayer.") and m.endswith(".requests")) or m in ("assayer.services.dial_in.views", "assayer.services.bench.recompute")]
application.load_rest()
print(json.dumps([sorted(first), [m for m in {heavy!r} if m in sys.modules]]))
"""
    loaded = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert json.loads(loaded.stdout) == [["assayer.services.day.requests", "assayer.services.requests"], []]
