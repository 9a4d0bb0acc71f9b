"""Several specimens in one file: blocks below and columns beside one another, each as if it had come by itself."""

import numpy as np
import pytest

from assayer.core.codes import with_check
from assayer.core.errors import FileError, UnclearFileError
from assayer.formats.curves.curve_file import read_curve
from assayer.formats.curves.parting import codes_in, part_file

CODES = [with_check(body) for body in ("7K2M", "QW9X", "3TTZ")]
LENGTHS = (40, 55, 33)


def pulls():
    """Travel in mm and force in N of three specimens, of unlike lengths."""
    return [(np.arange(n) * 0.05, np.arange(n) * 1.25 * (k + 1)) for k, n in enumerate(LENGTHS)]


def check(parts, labels):
    assert [p.label for p in parts] == labels
    for part, (travel, force) in zip(parts, pulls(), strict=True):
        read = read_curve(part.data).recording
        assert np.allclose(read.need("travel"), travel)
        assert np.allclose(read.need("force"), force)
    return [read_curve(p.data) for p in parts]


def rows(travel, force, delimiter=";"):
    return [f"{t:.2f}{delimiter}{f:.2f}" for t, f in zip(travel, force, strict=True)]


@pytest.mark.parametrize("named", ["Specimen {}", "# {} pulled on Tuesday", ""])
def test_blocks_under_their_own_headers(named):
    lines = ["Frame 3"]
    for code, (travel, force) in zip(CODES, pulls(), strict=True):
        lines += [named.format(code), "", "Travel [mm];Force [N]", *rows(travel, force), ""]
    read = check(part_file("\n".join(lines).encode()), CODES if named else ["1", "2", "3"])
    assert len({r.signature for r in read}) == 1, "the rig's template speaks for each"


def test_blocks_that_only_words_part_have_the_first_ones_header_and_its_units():
    lines = ["Travel;Force", "mm;kN"]
    for code, (travel, force) in zip(CODES, pulls(), strict=True):
        lines += [f"Probe {code.lower()}", *rows(travel, force)] if lines[-1] != "mm;kN" else rows(travel, force)
    parts = part_file("\n".join(lines).encode())
    assert [p.label for p in parts] == ["1", *CODES[1:]]
    for part, (_, force) in zip(parts, pulls(), strict=True):
        assert np.allclose(read_curve(part.data).recording.need("force"), 1000 * force)


def side_by_side(heads, delimiter=";", shared=False, above=()):
    data = pulls()
    columns = [data[1][0]] if shared else []
    for travel, force in data:
        columns += [force] if shared else [travel, force]
    body = [delimiter.join(f"{c[i]:.2f}" if i < len(c) else "" for c in columns) for i in range(max(LENGTHS))]
    return "\n".join([*above, delimiter.join(heads), *body]).encode()


def test_columns_beside_one_another_with_codes_numbers_or_nothing():
    for heads, labels in (
        ([f"{c} {w}" for c in CODES for w in ("travel [mm]", "force [N]")], CODES),
        ([f"{w} {k} [{u}]" for k in (1, 2, 3) for w, u in (("Travel", "mm"), ("Force", "N"))], ["1", "2", "3"]),
        (["Travel [mm]", "Force [N]"] * 3, ["1", "2", "3"]),
    ):
        read = check(part_file(side_by_side(heads)), labels)
        assert len({r.signature for r in read}) == 1, heads


def test_codes_may_stand_above_the_header_and_units_below_it():
    above = [f"{CODES[0]};;{CODES[1]};;{CODES[2]};"]
    data = side_by_side(["Travel", "Force"] * 3, above=above).decode().split("\n")
    data.insert(2, "mm;N;mm;N;mm;N")
    check(part_file("\n".join(data).encode()), CODES)


def test_one_travel_is_shared_by_forces_under_codes_of_their_own():
    parts = part_file(side_by_side(["Travel [mm]", *(f"Force {c} [N]" for c in CODES)], shared=True))
    assert [p.label for p in parts] == CODES
    for part, (_, force), n in zip(parts, pulls(), LENGTHS, strict=True):
        read = read_curve(part.data).recording
        assert np.allclose(read.need("force"), force)
        assert np.allclose(read.need("travel"), np.arange(n) * 0.05)


def test_a_remark_names_the_line_of_the_whole_file():
    lines = ["Travel [mm];Force [N]", *rows(*pulls()[0]), "", "Travel [mm];Force [N]", *rows(*pulls()[1])]
    lines.insert(60, "1.00;")
    second = read_curve(part_file("\n".join(lines).encode())[1].data).recording
    assert second.warnings == ["line 61: '1.00;' is an incomplete row: left out"]
    assert second.line(0) == 44


@pytest.mark.parametrize(
    "heads",
    [
        ["Time [s]", "Travel [mm]", "Force [N]"],
        ["Travel [mm]", "Force [N]", "Force [kN]"],
        ["Travel [mm]", "Force 1 [N]", "Force 2 [N]"],
        ["Travel [mm]", "Strain [%]", "Force [N]"],
    ],
)
def test_one_specimens_channels_are_not_parted(heads):
    body = "\n".join(f"{i * 0.1:.2f};{i * 0.2:.2f};{i * 3.0:.2f}" for i in range(30))
    assert part_file(f"{';'.join(heads)}\n{body}".encode()) == []


def test_a_line_that_cannot_be_read_makes_no_second_specimen():
    lines = ["Travel [mm];Force [N]", *rows(*pulls()[0])]
    lines.insert(39, "overload")
    assert part_file("\n".join(lines).encode()) == [], "two rows after it are no recording"
    for remark, parts in (("overload, gone on", 0), ("Specimen no. 2", 2), (f"now {CODES[1]}", 2), ("Travel [mm];Force [N]", 2)):
        lines = ["Travel [mm];Force [N]", *rows(*pulls()[0]), remark, *rows(*pulls()[1])]
        assert len(part_file("\n".join(lines).encode())) == parts, remark
    with pytest.raises(FileError, match="empty"):
        part_file(b"")
    assert part_file(b"only words here\nand here\n") == []
    with pytest.raises(UnclearFileError):
        read_curve(side_by_side(["Travel [mm]", "Force [N]"] * 3)[:2000].split(b"\n\n")[0])


def test_only_words_with_a_right_check_character_are_codes():
    wrong = CODES[0][:-1] + ("0" if CODES[0][-1] != "0" else "1")
    assert codes_in(f"pull {CODES[0]} of {wrong}_{CODES[1].lower()}.csv") == [CODES[0], CODES[1]]
