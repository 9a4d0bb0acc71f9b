"""Files in the dialects of rigs: understood, or asked about, or refused with the line."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from assayer.core.errors import EntryError, FileError, TooLargeError, UnclearFileError
from assayer.formats.curves.column_words import LOG
from assayer.formats.curves.curve_file import read_curve
from assayer.formats.text import MAX_BYTES

ROWS = [(i * 0.1, i * 0.01, i * 5.25) for i in range(12)]


def table(delimiter=",", mark=".", header="Time (s),Travel (mm),Force (N)", rows=ROWS, end="\n"):
    body = end.join(delimiter.join(f"{v:.3f}".replace(".", mark) for v in row) for row in rows)
    return (header + end + body + end).encode()


@pytest.mark.parametrize(
    "header, delimiter, mark, factor",
    [
        ("Time (s),Travel (mm),Force (N)", ",", ".", 1),
        ("Zeit [s];Traversenweg [mm];Standardkraft [kN]", ";", ",", 1000),
        ("Temps (s)\tDéplacement (mm)\tEffort (daN)", "\t", ",", 10),
        ("Tiempo;Recorrido;Carga\ns;mm;kgf", ";", ",", 9.80665),
        ("t/s|pos/mm|F/N", "|", ".", 1),
        ("tempo_s corsa_mm forza_N", " ", ".", 1),
        ("# czas przemieszczenie\nTijd (s);Verplaatsing (mm);Kracht (lbf)", ";", ".", 4.4482216152605),
    ],
)
def test_dialects_and_languages(header, delimiter, mark, factor):
    recording = read_curve(table(delimiter, mark, header)).recording
    np.testing.assert_allclose(recording.need("force"), [r[2] * factor for r in ROWS], atol=1e-3 * factor)
    np.testing.assert_allclose(recording.need("travel"), [r[1] for r in ROWS], atol=1e-9)
    np.testing.assert_allclose(recording.need("time"), [r[0] for r in ROWS], atol=1e-9)


@pytest.mark.parametrize("encoding", ["utf-8-sig", "utf-16", "utf-16-le", "utf-16-be", "cp1252"])
def test_encodings(encoding):
    data = table(";", ",", "Prüfzeit (s);Weg (mm);Prüfkraft (N)").decode().encode(encoding)
    assert read_curve(data).recording.need("force")[-1] == pytest.approx(57.75)


def test_quoted_cells_and_windows_line_ends():
    data = '"Time (s)","Travel (mm)","Force (N)"\r\n' + "\r\n".join(f'"{t:.2f}","{x:.2f}","{f:.2f}"'.replace(".", ",") for t, x, f in ROWS)
    assert read_curve(data.encode()).recording.need("force")[-1] == pytest.approx(57.75)


@given(
    st.sampled_from([(",", "."), (";", ","), (";", "."), ("\t", ","), ("|", ".")]), st.lists(st.tuples(*[st.floats(-5e3, 5e3)] * 2), min_size=6, max_size=40)
)
@settings(max_examples=40, deadline=None)
def test_what_was_written_is_read_back(dialect, rows):
    delimiter, mark = dialect
    header = delimiter.join(["Travel (mm)", "Force (N)"])
    recording = read_curve(table(delimiter, mark, header, rows)).recording
    np.testing.assert_allclose(
        np.column_stack([recording.need("travel"), recording.need("force")]), [[float(f"{v:.3f}") for v in row] for row in rows], atol=1e-9
    )


def test_stray_lines_and_a_cut_off_last_row_are_left_out_and_named():
    lines = table().decode().splitlines()
    lines.insert(6, "paused by operator")
    lines[-1] = "1.1,0."
    recording = read_curve("\n".join(lines).encode()).recording
    assert recording.need("force").size == len(ROWS) - 1
    assert recording.line(5) == 8, "rows after the stray line keep the number of their own line"
    assert recording.warnings[0].startswith("line 7: 'paused by operator' is not a row of numbers")
    assert recording.warnings[1].startswith("line 14: '1.1,0.' is an incomplete row")


def test_repeated_time_stamps_are_named():
    rows = [(0.0, 0.0, 0.0), *ROWS]
    assert read_curve(table(rows=rows)).recording.warnings == ["line 3: the time stamp repeats the one before"]


@pytest.mark.parametrize(
    "data, words",
    [
        (b"", "the file is empty"),
        (b"\xff\xfe \x00\n\x00", "the file is empty"),
        (bytes(range(256)) * 20, "not a text file"),
        (b"%PDF-1.7\x00\x01\x02\x03" * 40, "not a text file"),
        (b"only words\nand more words\n", "no table of numbers"),
        (b"Time (s),Force (N)\n1,2\n2,3\n", "only 2 rows of numbers"),
        (table(";", ",", "Weg (mm);Kraft (N)", [(1.0, 2.0)] * 8).replace(b"2,000", b"1.002,000"), "thousands separators"),
        (table() + table(), "line 14: a second recording begins here"),
        (table(header="a,b", rows=[(1.0, 2.0)] * 8).replace(b".", b","), "may be the decimal mark as well"),
    ],
)
def test_files_that_cannot_be_used(data, words):
    with pytest.raises(FileError, match=words):
        read_curve(data)


def test_too_large_a_file_is_refused_before_it_is_read():
    with pytest.raises(TooLargeError, match="at most 50 MB"):
        read_curve(b"1,2\n" * (MAX_BYTES // 4 + 1))


@pytest.mark.parametrize(
    "header, asked, suggestion",
    [
        (None, "which column is the force", "time:s,travel:mm,force:N"),
        ("Time (s),Travel (mm),Force", "the unit of column 3 'Force' \\(force\\)", "time:s,travel:mm,force:N"),
        ("Time (s),Travel (mm),Force (mm)", "'mm' is no unit of force", "--columns"),
        ("Force (N),Travel (mm),Force (kgf)", "columns 1 and 3 all look like force", "--columns"),
        ("Time (s),channel 2,Force (N)", "whether column 2 is the travel", "--columns"),
    ],
)
def test_what_is_not_certain_is_asked(header, asked, suggestion):
    data = table(header=header) if header else table().split(b"\n", 1)[1]
    with pytest.raises(UnclearFileError, match=asked) as caught:
        read_curve(data)
    assert suggestion in str(caught.value)
    assert caught.value.preview.rows[0] == ["0.000", "0.000", "0.000"]
    # the answer settles it, and is kept as a template for files of the same kind
    told = read_curve(data, "time:s,travel:mm,force:kgf")
    assert told.recording.need("force")[-1] == pytest.approx(57.75 * 9.80665)
    assert read_curve(data, template=told.template()).recording.need("force")[-1] == told.recording.need("force")[-1]


@pytest.mark.parametrize(
    "columns, words",
    [
        ("time:s,force:mm", "'mm' is not a unit of force"),
        ("weight:kg", "'weight' is no role"),
        ("time:s,travel:mm", "none of them is the force"),
        ("force:N," * 3 + "time:s", "4 columns are named, but the file has 3"),
    ],
)
def test_wrong_answers_are_refused(columns, words):
    with pytest.raises(EntryError, match=words):
        read_curve(table(), columns)


@pytest.mark.parametrize(("cells", "seconds"), [(("0:05", "2:05", "61:00"), (5, 125, 3660)), (("0:00:01.5", "0:01:00,25", "1:02:03"), (1.5, 60.25, 3723))])
def test_a_clock_is_read_as_seconds(cells, seconds):
    rows = [f"{c};{i};{10 * i}" for i, c in enumerate(cells)]
    more = [f"{90 + i}:00;{i};{10 * i}" if cells[0].count(":") == 1 else f"9{i}:00:00;{i};{10 * i}" for i in range(3, 9)]
    recording = read_curve("\n".join(["Time (s);Travel (mm);Force (N)", *rows, *more]).encode()).recording
    np.testing.assert_allclose(recording.need("time")[:3], seconds)


@pytest.mark.parametrize(("stray", "told"), [(3, []), (4, ["1 more lines left out"]), (6, ["3 more lines left out"])])
def test_three_lines_left_out_are_named_and_the_rest_counted(stray, told):
    lines = table().decode().splitlines()
    lines[5:5] = [f"paused {i}" for i in range(stray)]
    warnings = read_curve("\n".join(lines).encode()).recording.warnings
    assert [w for w in warnings if "paused" in w] == [f"line {6 + i}: 'paused {i}' is not a row of numbers: left out" for i in range(3)]
    assert [w for w in warnings if "more lines" in w] == told


@pytest.mark.parametrize("cell", ["nan", "inf", "1e999"])
def test_what_is_no_finite_number_is_no_reading(cell):
    lines = table().decode().splitlines()
    lines[6] = f"0.5,0.05,{cell}"
    recording = read_curve("\n".join(lines).encode()).recording
    assert recording.need("force").size == len(ROWS) - 1
    assert recording.warnings[0].startswith("line 7")


@pytest.mark.parametrize(
    ("header", "about", "column", "choices"),
    [
        (None, "force", None, [1, 2, 3]),
        ("Time (s),Travel (mm),Force (mm)", "force", 3, None),
        ("Time (s),Travel (mm),Force", "force", 3, None),
        ("Force (N),Travel (mm),Force (kgf)", "force", None, [1, 3]),
        ("Time (s),channel 2,Force (N)", "travel", 2, [2]),
    ],
)
def test_a_question_names_its_column_and_the_choices(header, about, column, choices):
    data = table(header=header) if header else table().split(b"\n", 1)[1]
    with pytest.raises(UnclearFileError) as caught:
        read_curve(data)
    question = next(q for q in caught.value.questions if q.about == about)
    assert question.column == column
    assert choices is None or question.choices == choices


def test_columns_of_no_concern_are_passed_over():
    recording = read_curve(table(header="Temperature (°C),Travel (mm),Force (N)")).recording
    assert recording.need("force")[-1] == pytest.approx(57.75)
    with pytest.raises(EntryError):
        recording.need("time")


def log(*rows, header="Time;Temp. [°C]"):
    return read_curve((header + "\n" + "\n".join(rows) + "\n").encode(), wanted=LOG).recording


@pytest.mark.parametrize(
    "stamps",
    [
        [f"2026-11-27 14:0{i}:30" for i in range(6)],
        [f"2026-11-27T14:0{i}:30.0Z" for i in range(6)],
        [f"27.11.2026 14:0{i}:30" for i in range(6)],
        [f"27.11.2026 14:0{i}" for i in range(6)],
        [f"14:0{i}:30" for i in range(6)],
        # past midnight, with the date and without it
        ["2026-12-31 23:58:10", "2026-12-31 23:59:10", *(f"2027-01-01 00:0{i}:10" for i in range(4))],
        ["23:58:10", "23:59:10", *(f"00:0{i}:10" for i in range(4))],
    ],
)
def test_a_log_has_times_of_day_or_dates_with_them(stamps):
    found = log(*(f"{at};{20 + i},5" for i, at in enumerate(stamps)))
    assert (found.need("time") - found.need("time")[0]).tolist() == [60.0 * i for i in range(6)]
    assert found.need("temperature").tolist() == [20.5 + i for i in range(6)]
    assert found.warnings == []


def test_a_log_may_have_its_date_apart_and_its_unit_told():
    rows = [f"2026-11-27;14:0{i}:30;{20 + i}" for i in range(6)]
    assert list(log(*rows, header="Date;Time;Temperature (°C)").channels) == ["temperature", "time"]
    spaced = [f"2026-11-27 14:0{i}:30 {20 + i}.5" for i in range(6)]
    assert log(*spaced, header="Datum Zeit Temperatur_°C").need("temperature")[0] == 20.5
    minutes = [f"{i / 2};{68 + 9 * i}" for i in range(6)]
    found = log(*minutes, header="Time (min);Temperature (°F)")
    assert found.need("time").tolist() == [30.0 * i for i in range(6)]
    assert found.need("temperature") == pytest.approx([20.0 + 5 * i for i in range(6)])


def test_a_time_without_its_unit_is_asked_for_in_a_log_only():
    rows = [f"{i};{20 + i}" for i in range(6)]
    with pytest.raises(UnclearFileError, match="unit of column 1 'Time'"):
        log(*rows, header="Time;Temperature (°C)")
    pull = "Time,Travel (mm),Force (N)\n" + "\n".join(f"{i},{i},{9 * i}" for i in range(6))
    assert list(read_curve(pull.encode()).recording.channels) == ["force", "travel"]
    clocked = pull.replace("\n", "\n0:0", 6).replace("0:0Time", "Time")
    assert "time" not in read_curve(clocked.encode()).recording.channels


def test_a_date_that_does_not_exist_is_left_out_and_named():
    rows = [f"2026-02-{d} 10:00:00;20" for d in (26, 27, 28, 29, 30)] + [f"2026-03-0{d} 10:00:00;21" for d in (1, 2)]
    found = log(*rows)
    assert found.rows == 5
    assert [w.split(":")[0] for w in found.warnings] == ["line 5", "line 6"]
