"""Lists of materials, claims and reported results as labs keep them: header words, units, ranges, currency signs.

Reading never guesses: every cell becomes a value, an error that says what would be right, or a question with
the likely meaning. The same columns are written on export.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from assayer.core.errors import EntryError, FileError, Question
from assayer.core.filament.window import PLAUSIBLE
from assayer.core.quantities.slips import question_number
from assayer.core.quantities.units import DENSITY, FLOW, LENGTH, MASS, SPEED, TEMPERATURE, TIME, Dimension, parse_number, parse_quantity
from assayer.formats.curves.column_words import plain
from assayer.formats.tables.table import Table

PLAUSIBLE_MATERIAL: dict[str, tuple[float, float, str, str]] = {
    "diameter": (1.5, 3.2, "nominal diameter", "mm"),
    "density": (0.8, 2.5, "density", "g/cm³"),
    "net_mass": (50, 10_000, "net mass", "g"),
    "price": (0.5, 2_000, "price", ""),
    "filler_share": (0.1, 80, "filler share", "%"),
}
_DASHES = re.compile(r"\s*(?:–|—|−|-|\.\.\.|…|\bto\b|\bbis\b)\s*")
_CURRENCY = re.compile(r"(€|£|\$|¥|\b[A-Z]{3}\b|\bkr\b)")
_HEX = re.compile(r"^#?([0-9A-Fa-f]{6})$")
_YES = ("yes", "y", "ja", "true", "1", "x", "✓", "oui", "si")
_NO = ("no", "n", "nein", "false", "0", "non", "none")
_OBTAINED = {"bought": "bought", "sent free": "sent free", "free": "sent free", "sample": "sent free", "sent": "sent free", "own": "own"}


@dataclass(frozen=True, slots=True)
class CellProblem:
    """What is wrong with one cell, or (field "row") with the row."""

    field: str
    text: str


@dataclass(frozen=True, slots=True)
class CellQuestion:
    """What is asked about one cell, with its text."""

    question: Question
    raw: str


@dataclass(slots=True)
class ParsedRow:
    """One row as understood: values by field, what is wrong, what is asked."""

    number: int
    line: int
    raw: dict[str, str]
    values: dict[str, Any] = field(default_factory=dict)
    errors: list[CellProblem] = field(default_factory=list)
    questions: list[CellQuestion] = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class Answer:
    """What the user says about one cell: a new text, or (the old text again) that it stands."""

    row: int
    field: str
    raw: str


Parse = Callable[[str], dict[str, Any]]


@dataclass(frozen=True, slots=True)
class Column:
    """A column: the field it fills, words it is known by, how a cell becomes values, and its header on export."""

    field: str
    header: str
    words: tuple[str, ...]
    parse: Parse
    required: bool = False


def _text(name: str, limit: int = 80) -> Parse:
    def parse(cell: str) -> dict[str, Any]:
        if len(cell) > limit:
            raise EntryError(f"{len(cell)} characters, at most {limit} are kept", name)
        return {name: cell}

    return parse


def _number(name: str, dimension: Dimension | None = None) -> Parse:
    def parse(cell: str) -> dict[str, Any]:
        if dimension is None:
            return {name: parse_number(cell.rstrip("% "), name)}
        return {name: parse_quantity(cell, dimension, field=name).value}

    return parse


def _span(name: str, dimension: Dimension) -> Parse:
    def parse(cell: str) -> dict[str, Any]:
        # a number first, then the dash: "-20" is no range
        parts = [p for p in _DASHES.split(cell, maxsplit=1) if p]
        unit = re.sub(r"^[\d.,\s]+", "", parts[-1]).strip()
        ends = [parse_quantity(p if re.search(r"[^\d.,\s]", p) else f"{p} {unit}".strip(), dimension, field=name).value for p in parts]
        low, high = ends[0], ends[-1]
        if low > high:
            raise EntryError(f"'{cell}' is upside down: was {high:g}–{low:g} meant?", name)
        return {f"{name}_low": low, f"{name}_high": high}

    return parse


def _price(cell: str) -> dict[str, Any]:
    sign = _CURRENCY.search(cell)
    return {"price": parse_number(_CURRENCY.sub("", cell), "price"), "currency": sign[1] if sign else ""}


def _hex(cell: str) -> dict[str, Any]:
    match = _HEX.match(cell)
    if match is None:
        raise EntryError(f"'{cell}' is no colour: write it as #RRGGBB", "hex")
    return {"hex": f"#{match[1].upper()}"}


def _drying(cell: str) -> dict[str, Any]:
    """ "65 °C 8 h", "65 °C / 8 h", "65" """
    parts = re.findall(r"(\d+(?:[.,]\d+)?)\s*(°?\s*[CFcf]\b|h\b|hours?\b|min\b|[^\W\d]+)?", cell)
    values: dict[str, Any] = {}
    for number, unit in parts:
        if not unit and "dry_temperature" not in values:
            unit = "°C"
        if unit.strip("° ").lower() in ("c", "f"):
            values["dry_temperature"] = parse_quantity(f"{number} {unit}", TEMPERATURE, field="dry").value
        else:
            values["dry_time"] = parse_quantity(f"{number} {unit}", TIME, "h", "dry").value / 3600
    if not values:
        raise EntryError(f"'{cell}' is no drying: write it as '65 °C 8 h'", "dry")
    return values


def _yes_no(name: str) -> Parse:
    def parse(cell: str) -> dict[str, Any]:
        word = plain(cell)
        if word in _YES:
            return {name: True}
        if word in _NO:
            return {name: False}
        raise EntryError(f"'{cell}' is neither yes nor no", name)

    return parse


def _obtained(cell: str) -> dict[str, Any]:
    found = _OBTAINED.get(plain(cell))
    if found is None:
        raise EntryError(f"'{cell}': write bought, sent free or own", "obtained")
    return {"obtained": found}


_WHO = (
    Column("maker", "Maker", ("maker", "brand", "manufacturer", "hersteller", "producer"), _text("maker"), True),
    Column("product", "Product", ("product", "produkt", "name", "type name"), _text("product"), True),
)
_COLOUR = Column("colour", "Colour", ("colour", "color", "farbe"), _text("colour", 40), True)

MATERIAL_COLUMNS: tuple[Column, ...] = (
    *_WHO,
    Column("polymer", "Polymer", ("polymer", "base polymer", "material", "base"), _text("polymer", 40), True),
    Column("filler", "Filler", ("filler", "fibre", "fiber", "fullstoff"), _text("filler", 40)),
    Column("filler_share", "Filler %", ("filler %", "share", "filler share", "fibre %"), _number("filler_share")),
    _COLOUR,
    Column("hex", "Hex", ("hex", "rgb", "colour code", "color code"), _hex),
    Column("diameter", "Ø mm", ("ø mm", "ø", "diameter", "diameter mm", "durchmesser"), _number("diameter", LENGTH)),
    Column("density", "Density g/cm³", ("density", "density g/cm³", "dichte"), _number("density", DENSITY)),
    Column("price", "Price", ("price", "preis", "cost"), _price),
    Column("net_mass", "Net g", ("net g", "net", "net mass", "mass", "weight", "netto"), _number("net_mass", MASS)),
    Column("obtained", "Obtained", ("obtained", "source of sample", "how obtained"), _obtained),
    Column("nozzle", "Nozzle °C", ("nozzle °c", "nozzle", "nozzle temperature", "duse"), _span("nozzle", TEMPERATURE)),
    Column("bed", "Bed °C", ("bed °c", "bed", "bed temperature", "bett"), _span("bed", TEMPERATURE)),
    Column("chamber", "Chamber °C", ("chamber °c", "chamber", "chamber temperature"), _span("chamber", TEMPERATURE)),
    Column("speed", "Speed mm/s", ("speed mm/s", "speed", "print speed"), _span("speed", SPEED)),
    Column("dry", "Dry", ("dry", "drying", "trocknen"), _drying),
    Column("dry_limit", "Dry at most °C", ("dry at most °c", "drying limit", "dry at most"), _number("dry_limit", TEMPERATURE)),
    Column("flow_max", "Max flow mm³/s", ("max flow mm³/s", "max flow", "flow", "volumetric flow"), _number("flow_max", FLOW)),
    Column("nozzle_min", "Nozzle min mm", ("nozzle min mm", "nozzle min", "least nozzle", "min nozzle"), _number("nozzle_min", LENGTH)),
    Column("hardened", "Hardened", ("hardened", "hardened nozzle"), _yes_no("hardened")),
    Column("enclosure", "Enclosure", ("enclosure", "enclosed", "gehause"), _yes_no("enclosure")),
    Column("fumes", "Fumes", ("fumes", "smell", "odour", "odor"), _yes_no("fumes")),
    Column("dust", "Dust", ("dust",), _yes_no("dust")),
    Column("bed_surface", "Bed surface", ("bed surface", "surface", "plate", "build plate"), _text("bed_surface")),
    Column("adhesive", "Adhesive", ("adhesive", "glue"), _text("adhesive")),
    Column("tolerance", "Tolerance mm", ("tolerance mm", "tolerance", "± mm"), _number("tolerance", LENGTH)),
    Column("window_source", "Window from", ("window from", "data sheet"), _text("window_source", 200)),
    Column("note", "Note", ("note", "notes", "remark", "remarks", "comment", "claims", "notiz", "bemerkung"), _text("note", 1000)),
)
CLAIM_COLUMNS: tuple[Column, ...] = (
    *_WHO,
    Column("colour", "Colour", _COLOUR.words, _COLOUR.parse),
    Column("text", "Claim", ("claim", "statement", "text", "says"), _text("text", 400), True),
    Column("method", "Method", ("method", "standard", "norm"), _text("method")),
    Column("source", "Source", ("source", "where", "from", "quelle"), _text("source", 200)),
)
REPORTED_COLUMNS: tuple[Column, ...] = (
    *_WHO,
    _COLOUR,
    Column("quantity", "Quantity", ("quantity", "property", "measured", "grosse"), _text("quantity"), True),
    Column("value", "Value", ("value", "mean", "result", "wert"), _number("value"), True),
    Column("unit", "Unit", ("unit", "einheit"), _text("unit", 12), True),
    Column("n", "n", ("n", "count", "specimens"), _number("n")),
    Column("sd", "sd", ("sd", "scatter", "standard deviation", "s"), _number("sd")),
    Column("method", "Method", ("method", "standard", "norm", "conditions"), _text("method")),
    Column("source", "Source", ("source", "lab", "where", "from"), _text("source", 200)),
    Column("reported_on", "Date", ("date", "when", "year", "datum"), _text("reported_on", 20)),
)
TABLES: Mapping[str, tuple[Column, ...]] = {"materials": MATERIAL_COLUMNS, "claims": CLAIM_COLUMNS, "reported": REPORTED_COLUMNS}


def find_columns(table: Table, columns: tuple[Column, ...]) -> tuple[dict[int, Column], list[str]]:
    """Which column of the table fills which field, and the headers that fill none.

    Raises
    ------
    FileError
        If a needed column is missing, or two columns fill the same field.
    """
    found: dict[int, Column] = {}
    unknown = []
    for i, header in enumerate(table.header):
        name = re.sub(r"\s+", " ", plain(header)).strip()
        bare = re.sub(r"\s*[\[(].*?[\])]", "", name)
        column = next((c for c in columns if name in map(plain, c.words) or bare in map(plain, c.words)), None)
        if column is None:
            if header:
                unknown.append(header)
            continue
        if column in found.values():
            raise FileError(f"two columns are '{column.header}': rename or take out one of them", 1)
        found[i] = column
    missing = [c.header for c in columns if c.required and c not in found.values()]
    if missing:
        raise FileError(f"the header has no column {', '.join(repr(m) for m in missing)}; it has {', '.join(h for h in table.header if h)}", 1)
    return found, unknown


def parse_rows(table: Table, columns: tuple[Column, ...], answers: list[Answer]) -> list[ParsedRow]:
    """Understand every row, with the user's answers in place of the cells they are about."""
    found, _ = find_columns(table, columns)
    said = {(a.row, a.field): a.raw for a in answers}
    plausible = PLAUSIBLE | PLAUSIBLE_MATERIAL
    rows = []
    for row in table.rows:
        parsed = ParsedRow(row.number, row.line, {})
        for i, column in found.items():
            written = row.cells[i] if i < len(row.cells) else ""
            cell = said.get((row.number, column.field), written)
            parsed.raw[column.field] = cell
            _parse_cell(parsed, column, cell, plausible, settled=(row.number, column.field) in said and cell == written)
        if len(row.cells) > len(table.header) and any(row.cells[len(table.header) :]):
            text = f"the row has {len(row.cells)} cells, the header {len(table.header)}: put quotes round a cell that holds '{table.delimiter}'"
            parsed.errors.append(CellProblem("row", text))
        rows.append(parsed)
    return rows


def _parse_cell(parsed: ParsedRow, column: Column, cell: str, plausible: Mapping[str, tuple[float, float, str, str]], settled: bool) -> None:
    if not cell:
        if column.required:
            parsed.errors.append(CellProblem(column.field, f"{column.header} is empty"))
        return
    try:
        values = column.parse(cell)
    except EntryError as error:
        parsed.errors.append(CellProblem(column.field, f"{column.header}: {error.message}"))
        return
    asked = {}
    for name, value in values.items():
        if name == "filler_share" and not 0 < value < 100:
            parsed.errors.append(CellProblem(name, f"{column.header}: a mass share of {value:g} % is not between 0 and 100"))
        elif name in plausible and not settled:
            question = question_number(column.field, value, *plausible[name], parsed.number)
            if question is not None:
                asked[name] = question
    if asked:
        parsed.questions.append(CellQuestion(_about_cell(column.field, values, asked), cell))
    parsed.values |= values


def _about_cell(field: str, values: Mapping[str, Any], asked: Mapping[str, Question]) -> Question:
    """One question about a cell that may hold several values: its likely meaning is the whole cell, so that an answer loses none of them."""
    first = next(iter(asked.values()))
    if len(values) == 1:
        return first
    meant = {name: float(q.likely) for name, q in asked.items() if q.likely is not None}
    likely = cell_of(field, {**values, **meant}) if len(meant) == len(asked) else None
    return replace(first, text=" ".join(dict.fromkeys(q.text for q in asked.values())), likely=likely)


def cell_of(field: str, values: Mapping[str, Any]) -> str:
    """What is written into a cell that holds these values, as it is read back: a range, a drying, a price with its sign, a number."""
    if f"{field}_low" in values:
        ends = [number_cell(values[f"{field}_{end}"]) for end in ("low", "high") if values[f"{field}_{end}"] is not None]
        return "–".join(dict.fromkeys(ends))
    if field == "dry":
        parts = [(values.get("dry_temperature"), "°C"), (values.get("dry_time"), "h")]
        return " ".join(f"{number_cell(value)} {unit}" for value, unit in parts if value is not None)
    if field == "price":
        return f"{number_cell(values['price'])} {values['currency']}".strip()
    return number_cell(values[field])


def number_cell(value: float | None) -> str:
    return "" if value is None else f"{value:.10g}"
