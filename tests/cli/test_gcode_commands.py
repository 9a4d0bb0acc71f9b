"""G-code on the command line: inspected as text and JSON, stepped into another file, refused in one line."""

import json

from ..gcode_writer import tower


def test_a_file_is_inspected_and_stepped(tmp_path, run):
    file, out = tmp_path / "tower.gcode", tmp_path / "stepped.gcode"
    file.write_bytes(tower())
    found = json.loads(run("gcode", "inspect", file, "--json", "--acceleration", 2000).out)
    assert (found["layers"], found["temperatures"]["nozzle"]) == (217, [240, 230])
    assert abs(found["filament_mm"] - 217 * 156 * 0.03) < 0.01
    slower = json.loads(run("gcode", "inspect", file, "--json", "--acceleration", 300, "--corner", 2).out)
    assert slower["time_s"] > found["time_s"]
    told = run("gcode", "inspect", file, "--progress")
    assert "217 layers, 43.4 mm high" in told.out
    assert int(told.err.split()[-1]) == file.stat().st_size
    done = run(
        "gcode",
        "step",
        file,
        "--setting",
        "nozzle_temperature",
        "--start",
        236,
        "--step",
        -4,
        "--end",
        216,
        "--band-height",
        7,
        "--base-height",
        1.4,
        "-o",
        out,
    )
    assert "band 6: 216 °C, layers 183 to 217" in done.out
    assert "set otherwise" in done.out or "sets it otherwise" in done.out
    lines = out.read_bytes().split(b"\n")
    assert [line for line in lines if line in (b"M104 S232", b"M104 S216")] == [b"M104 S232", b"M104 S216"]
    assert json.loads(run("gcode", "inspect", out, "--json").out)["temperatures"]["nozzle"] == [236, 232, 228, 224, 220, 216]


def test_what_cannot_be_is_one_line_and_leaves_nothing(tmp_path, run):
    file, out = tmp_path / "tower.gcode", tmp_path / "stepped.gcode"
    file.write_bytes(tower(layers=50))
    for words, says in (
        (("gcode", "inspect", tmp_path / "none.gcode"), "there is no file"),
        (("gcode", "step", file, "--setting", "fan", "--start", 0, "--step", 20, "--count", 6, "--band-height", 7, "-o", out), "10 mm high"),
        (("gcode", "step", file, "--setting", "seam", "--start", 0, "--step", 20, "--count", 6, "--band-height", 7, "-o", out), "cannot be stepped"),
        (("gcode", "step", file, "--setting", "fan", "--start", 0, "--step", 50, "--count", 2, "--band-height", 5, "-o", file), "write to another file"),
    ):
        done = run(*words, status=2)
        assert says in done.err
        assert done.err.count("\n") == 1
    assert sorted(p.name for p in tmp_path.iterdir()) == ["tower.gcode"]
