"""The commands on findings, with the worked cases that came with our format for them; figures computed independently."""

import json
from pathlib import Path

import pytest

import assayer

DATA = Path(__file__).parents[1] / "data/findings"
EXAMPLES = json.loads((DATA / "examples.json").read_text("utf-8"))
STATEMENTS = json.loads((DATA / "statements.json").read_text("utf-8"))
LOOSE = ("p", "aicc", "lack_of_fit_p", "optimum")


def figures(found):
    """What a command answers, by the names that the examples use."""
    shown = {name: value for name, value in found.items() if isinstance(value, int | float | str)}
    for effect in found.get("effects", []):
        low, high = effect.get("ci95") or (None, None)
        for name, value in (("difference", effect["difference"]), ("low", low), ("high", high), ("p", effect.get("p"))):
            shown[f"{name}.{effect['factor']}"] = value
    for shape, fitted in found.get("shapes", {}).items():
        shown |= {f"aicc.{shape}": fitted["aicc"], f"lack_of_fit_p.{shape}": fitted["lack_of_fit_p"]}
    if "levels" in found:
        shown["window"] = [level["x"] for level in found["levels"] if level["in_window"]]
    if "optimum" in found:
        shown["optimum"] = found["optimum"]["x"]
    if "ci95" in found:
        shown["low"], shown["high"] = found["ci95"]
    return shown | found.get("at", {})


@pytest.mark.parametrize("case", EXAMPLES, ids=lambda case: case["command"])
def test_worked_cases_come_out(case, tmp_path, run):
    given = tmp_path / "given"
    given.write_text(case.get("csv") or json.dumps(case["json"]))
    found = figures(json.loads(run(case["command"], given, *case.get("args", ()), "--json").out))
    for name, expected in case["expected"].items():
        bound = 1e-2 if name.split(".")[0] in LOOSE else 1e-4
        assert found[name] == (pytest.approx(expected, rel=bound) if isinstance(expected, float) else expected), name


def test_statements_are_judged_as_our_format_shows(run):
    found = json.loads(run("statements", DATA / "statements.json", "--json").out)
    assert found["statements"] == STATEMENTS["statements"]
    assert "disagrees     percentage  Tarn Clearwater is 19 % weaker" in run("statements", DATA / "statements.json").out


def test_tables_are_readable(tmp_path, run):
    by_name = {}
    for case in EXAMPLES:
        given = tmp_path / "given"
        given.write_text(case.get("csv") or json.dumps(case["json"]))
        by_name.setdefault(case["command"], []).append(run(case["command"], given, *case.get("args", ())).out)
    assert "state                wet against dry: -16.34 [-17.7706, -14.906]  df" in by_name["effects"][0]
    assert "fan:speed            80:90 against 20:40: +9.15  stands out" in by_name["effects"][1]
    assert "quadratic  AICc -30.0744  lack of fit p 0.387  chosen" in by_name["sweep"][0]
    assert "0.2        n 4   mean 39.4325  loss at most 0  best  in window" in by_name["sweep"][0]
    assert "0.28       n 4   mean 36.2925  loss at most 3.70" in by_name["sweep"][0]
    assert "no optimum within the tested levels" in by_name["sweep"][-1]
    assert "16.4 → 18.0187 [16.7715, 19.2658]" in by_name["agreement"][0]
    assert by_name["claim"][0] == "as claimed: 47.78 [46.8533, 48.7067]\n"


@pytest.mark.parametrize(
    "command, text, words, said",
    [
        ("effects", "a,b,v\nx,1,2\ny,1,3\n", ["--value", "v", "--factors", "a,b"], "'b' is the same everywhere"),
        ("effects", "a,b,v\nx,1,2\nx,1,3\ny,1,3\ny,1,4\nx,2,1\ny,2,5\n", ["--value", "v", "--factors", "a,b"], "only one value with a x, b 2"),
        ("effects", "a,b,v\nx,1,2\nx,1,3\ny,1,3\ny,1,4\nx,2,1\nx,2,5\n", ["--value", "v", "--factors", "a,b"], "no value with a y, b 2"),
        ("effects", "a,v\nx,1\n", ["--value", "v", "--factors", ","], "name at least one factor"),
        ("sweep", "x,y\n1,2\n2,3\n", ["--x", "x", "--y", "y"], "at least three levels, but there are 2"),
        ("sweep", "x,y\n1,2\n2,3\n3,4\n", ["--x", "x", "--y", "y"], "repeat levels"),
        ("sweep", "x,y\n1,2\n1,2\n2,3\n3,4\n", ["--x", "x", "--y", "y"], "no scatter within the levels"),
        ("sweep", "x,y\n1,2\n1,b\n", ["--x", "x", "--y", "y"], "line 3: 'y'"),
        ("agreement", "x,y\n1,2\n2,3\n3,4\n4,5\n", ["--x", "x", "--y", "y"], "at least 5 materials, but there are 4"),
        ("agreement", "x,y\n1,2\n2,3\n3,4\n4,5\n5,7\n", ["--x", "x", "--y", "y", "--at", "6"], "6 lies outside 1 … 5"),
        ("claim", '{"claimed": "52", "values": [1, 2]}', [], "'claimed' is a number"),
        ("claim", '{"values": [1, 2]}', [], "'claimed' is missing"),
        ("claim", '{"claimed": 5, "values": []}', [], "'values' is a list of numbers"),
        ("claim", '{"claimed": 5, "values": [1, true]}', [], "'values' is a list of numbers"),
        ("claim", '{"claimed": 5, "values": [1, 2], "better": "big"}', [], "'big' is no side"),
        ("claim", '{"claimed_factor": 0, "values": [1, 2], "against": [1, 2]}', [], "a factor is above 0"),
        ("claim", '{"claimed": 5, "values": [1, 2], "margin": [1]}', [], "a margin is a number"),
        ("claim", "[1]", [], "holds no JSON object"),
        ("claim", "{", [], "line 1"),
        ("statements", '{"results": [], "statements": [{"txt": ""}]}', [], "statements, row 1: 'text' is a text"),
        ("statements", '{"results": [{"material": "A", "quantity": "q", "mean": 1, "ci95": [1]}], "statements": []}', [], "results, row 1: ci95"),
        ("statements", '{"results": [{"material": "A", "quantity": "q", "mean": "x"}], "statements": []}', [], "results, row 1: mean"),
        ("statements", '{"results": 3}', [], "'results' is a list of objects"),
    ],
)
def test_bad_input_is_one_line_that_names_its_place(command, text, words, said, tmp_path, run):
    given = tmp_path / "given.csv"
    given.write_text(text)
    done = run(command, given, *words, status=2)
    assert said in done.err
    assert len(done.err.strip().splitlines()) == 1


def test_the_same_functions_serve_a_notebook():
    found = assayer.sweep([1, 1, 2, 2, 3, 3], [5, 6, 9, 8, 4, 5], margin="2")
    assert (found.best_level, [level.in_window for level in found.levels]) == (2, [False, True, False])
    assert assayer.effects([1.0, 2.0, 4.0, 5.0], {"a": ["x", "x", "y", "y"]}).effects[0].difference == 3
    with pytest.raises(assayer.core.errors.EntryError, match="'a' has 1 levels, but there are 2 values"):
        assayer.effects([1.0, 2.0], {"a": ["x"]})
