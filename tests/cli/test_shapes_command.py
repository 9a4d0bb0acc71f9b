"""`assayer shapes`: what there is, and each as a file; what cannot be is one line that names it."""

import io
import json

import pytest
import trimesh
from typer.testing import CliRunner

from assayer.cli import app, main
from assayer.core.shapes import SHAPES


def run(*args):
    return CliRunner().invoke(app, ["shapes", *map(str, args)])


def test_all_shapes_are_listed_with_how_they_can_stand():
    lines = run().stdout.splitlines()
    assert [line.split()[0] for line in lines] == list(SHAPES)
    bar = next(line for line in lines if line.startswith("bar "))
    assert "3.20 cm³" in bar
    assert bar.endswith("flat, on edge, upright (brim)")
    listed = json.loads(run("--json").stdout)["items"]
    assert [s["name"] for s in listed] == list(SHAPES)


def test_a_shape_is_written_as_it_stands(tmp_path):
    for kind in ("stl", "3mf"):
        out = tmp_path / f"bar.{kind}"
        told = run("short-pull-bar", "--orientation", "upright", "--size", "width=6,5", "-o", out)
        assert told.exit_code == 0, told.output
        mesh = trimesh.load(io.BytesIO(out.read_bytes()), file_type=kind, force="mesh")
        assert mesh.extents == pytest.approx([12, 12, 70], abs=0.01)
        section = mesh.section(plane_origin=[0, 0, 35.001], plane_normal=[0, 0, 1])
        assert sorted((section.vertices.max(axis=0) - section.vertices.min(axis=0))[:2]) == pytest.approx([4, 6.5], abs=0.005)
    drawn = tmp_path / "bar.svg"
    assert run("bar", "-o", drawn).exit_code == 0
    assert "thickness 4" in drawn.read_text()
    edge = tmp_path / "edge.stl"
    assert run("bar", "--orientation", "on-edge", "--number", 7, "-o", edge).exit_code == 0
    assert trimesh.load(edge, force="mesh").extents == pytest.approx([80, 4, 10], abs=0.01)


def test_lengths_are_shown():
    assert run("notched-bar").stdout.splitlines() == ["notched bar, 3.191 cm³", "  overall          80 mm", "  width            10 mm", "  thickness        4 mm",
                                                     "  depth            2 mm", "  angle            45°", "  tip              0.25 mm"]  # fmt: skip
    assert json.loads(run("bar", "--size", "width=12", "--json").stdout)["volume"] == pytest.approx(3.84)


@pytest.mark.parametrize(
    ("args", "says"),
    [
        (["nothing"], "there is no shape 'nothing': choose one of short-pull-bar"),
        (["bar", "--size", "width"], "'width' is not a length"),
        (["bar", "--size", "wide=3"], "has no 'wide'"),
        (["d638-i", "--orientation", "upright", "-o", "a.stl"], "falls over"),
        (["bar", "--orientation", "sideways", "-o", "a.stl"], "no orientation 'sideways'"),
        (["bar", "-o", "a.step"], "end it in .stl, .3mf or .svg"),
        (["bar", "-o", "/nowhere/a.stl"], "cannot be written"),
        (["-o", "a.stl"], "name the shape"),
    ],
)
def test_what_cannot_be_is_one_line(args, says, tmp_path, monkeypatch, capsys):
    monkeypatch.chdir(tmp_path)
    monkeypatch.setattr("sys.argv", ["assayer", "shapes", *args])
    with pytest.raises(SystemExit) as end:
        main()
    assert end.value.code == 2
    (line,) = capsys.readouterr().err.splitlines()
    assert says in line
    assert list(tmp_path.iterdir()) == []
