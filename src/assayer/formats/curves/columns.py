"""What the columns of a table are: told, remembered for a rig, or recognised by header and unit; never guessed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

from assayer.core.errors import EntryError, FileColumn, FilePreview, FileQuestion, UnclearFileError
from assayer.formats.curves.column_words import PULL, ROLES, HeaderCell, read_header_cell, unit_in_preamble
from assayer.formats.curves.table import DELIMITER_NAMES, Table
from assayer.formats.text import split_row


@dataclass(frozen=True, slots=True)
class Column:
    """What a column is: its role (one of ROLES, or "skip") and its unit."""

    role: str
    unit: str | None = None


@dataclass(frozen=True, slots=True)
class FileTemplate:
    """The answers for one rig's files, used again wherever header and number of columns are the same."""

    signature: str
    columns: tuple[Column, ...]


def parse_columns(text: str, width: int, wanted: Sequence[str] = PULL) -> tuple[Column, ...]:
    columns: list[Column] = []
    for part in text.split(","):
        role, _, unit = part.strip().partition(":")
        role = role.strip().lower()
        if role in {"-", "skip", ""}:
            columns.append(Column("skip"))
            continue
        if role not in ROLES:
            raise EntryError(f"columns: '{role}' is no role: use {', '.join(ROLES)} or - for a column to leave out", "columns")
        try:
            symbol = ROLES[role].unit(unit.strip() or ROLES[role].base).symbol
        except EntryError as error:
            raise EntryError(f"columns: {error.message}", "columns") from None
        columns.append(Column(role, symbol))
    if len(columns) > width:
        raise EntryError(f"columns: {len(columns)} columns are named, but the file has {width}", "columns")
    roles = [c.role for c in columns if c.role != "skip"]
    if wanted[0] not in roles:
        raise EntryError(f"columns: none of them is the {wanted[0]}", "columns")
    if len(set(roles)) < len(roles):
        raise EntryError("columns: a role is named twice", "columns")
    return (*columns, *(Column("skip"),) * (width - len(columns)))


def recognise_columns(table: Table, wanted: Sequence[str] = PULL) -> tuple[Column, ...]:
    needed, second = wanted[0], wanted[1]
    if len(table.header) != table.width:
        cells: list[HeaderCell] = [HeaderCell("", (), unit) for unit in table.units]
    else:
        cells = [_of_use(read_header_cell(text, unit), wanted) for text, unit in zip(table.header, table.units, strict=True)]
    questions: list[FileQuestion] = []
    columns = [_recognise_column(i, cell, table, questions, second) for i, cell in enumerate(cells)]
    roles = [c.role for c in columns]
    if needed not in roles and not any(q.about == needed for q in questions):
        questions.insert(0, FileQuestion(needed, None, f"which column is the {needed}", list(range(1, table.width + 1))))
    for role in wanted:
        places = [i + 1 for i, r in enumerate(roles) if r == role]
        if len(places) > 1:
            questions.append(FileQuestion(role, None, f"columns {_listed(places)} all look like {role}: which one counts", places))
    unnamed = [i + 1 for i, (c, cell) in enumerate(zip(columns, cells, strict=True)) if c.role == "skip" and not cell.roles]
    if unnamed and not any(r in {second, "strain"} for r in roles):
        questions.append(FileQuestion(second, unnamed[0], _which_is(second, unnamed), unnamed))
    if questions:
        told = ",".join(_suggested(c, i, table.width, wanted) for i, c in enumerate(columns))
        what = "; ".join(dict.fromkeys(q.text for q in questions))
        raise UnclearFileError(f"cannot tell {what}: say it with --columns, for example --columns {told}", questions, preview_of(table, tuple(columns)))
    return tuple(columns)


def _of_use(cell: HeaderCell, wanted: Sequence[str]) -> HeaderCell:
    """A cell without the roles that nobody reads here."""
    kept = tuple(r for r in cell.roles if r in wanted or r == "other" or (r == "travel_or_strain" and "travel" in wanted))
    return cell if kept == cell.roles else replace(cell, roles=kept or ("other",))


def _which_is(role: str, unnamed: list[int]) -> str:
    return f"whether column {unnamed[0]} is the {role}" if len(unnamed) == 1 else f"which of columns {_listed(unnamed)} is the {role}"


def _listed(numbers: list[int]) -> str:
    return str(numbers[0]) if len(numbers) == 1 else ", ".join(map(str, numbers[:-1])) + f" and {numbers[-1]}"


def _suggested(column: Column, index: int, width: int, wanted: Sequence[str]) -> str:
    if column.role != "skip":
        return f"{column.role}:{column.unit or ROLES[column.role].base}"
    first, second = (f"{role}:{ROLES[role].base}" for role in wanted[:2])
    usual = {1: [first], 2: [second, first]}.get(width, ["time:s", second, first])
    return usual[index] if index < len(usual) else "-"


def _recognise_column(index: int, cell: HeaderCell, table: Table, questions: list[FileQuestion], second: str) -> Column:
    roles = [r for r in cell.roles if r != "other"]
    if "other" in cell.roles and not roles:
        return Column("skip")
    named = f"column {index + 1}" + (f" '{cell.text}'" if cell.text else "")
    if "travel_or_strain" in roles:
        roles.remove("travel_or_strain")
        if not roles:
            by_unit = [r for r in ("travel", "strain") if cell.unit is not None and _unit_of(r, cell.unit)]
            if not by_unit:
                questions.append(FileQuestion("travel", index + 1, f"the unit of {named}", ["mm", "%"]))
            return Column(by_unit[0], _unit_of(by_unit[0], cell.unit or "")) if by_unit else Column("skip")
    if len(roles) > 1 and cell.unit is not None:
        fitting = [r for r in roles if _unit_of(r, cell.unit)]
        roles = fitting or roles
    if len(roles) > 1:
        questions.append(FileQuestion("role", index + 1, f"whether {named} is {' or '.join(roles)}", roles))
        return Column("skip")
    if not roles:
        return Column("skip")
    role = roles[0]
    unit_text = cell.unit or unit_in_preamble(table.preamble, ROLES[role])
    if unit_text is None:
        if role == "time" and role != second:
            # no result rests on the time, so it is not worth a question
            return Column("skip")
        if role == "time" and index in table.clocks:
            return Column(role, "s")
        questions.append(FileQuestion(role, index + 1, f"the unit of {named} ({role})", _symbols(role)))
        return Column(role)
    symbol = _unit_of(role, unit_text)
    if symbol is None:
        questions.append(FileQuestion(role, index + 1, f"{named}: '{unit_text}' is no unit of {ROLES[role].name}, so what it is", _symbols(role)))
        return Column("skip")
    return Column(role, symbol)


@lru_cache(maxsize=512)
def _unit_of(role: str, text: str) -> str | None:
    try:
        return ROLES[role].unit(text).symbol
    except EntryError:
        return None


def _symbols(role: str) -> list[str]:
    return list(dict.fromkeys(u.symbol for u in ROLES[role].units.values()))


def preview_of(table: Table, columns: tuple[Column, ...]) -> FilePreview:
    return FilePreview(
        encoding=table.encoding,
        delimiter=DELIMITER_NAMES[table.delimiter],
        decimal=table.decimal,
        first_line=table.first + 1,
        signature=table.signature,
        header=table.header if len(table.header) == table.width else [],
        columns=[FileColumn(i + 1, c.role, c.unit) for i, c in enumerate(columns)],
        rows=[split_row(line, table.delimiter) for line in table.lines[table.first : table.first + 5]],
    )
