"""Lists in and out: materials, claims, reported results from a file or pasted cells, row by row."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict
from typing import TYPE_CHECKING, Any

from pydantic import ValidationError
from sqlalchemy import Select, select
from sqlalchemy.orm import Session, joinedload

from assayer.core.errors import AssayerError
from assayer.core.filament.claims import Statement, read_statement, split_statements
from assayer.formats.tables.stock_tables import (
    CLAIM_COLUMNS,
    MATERIAL_COLUMNS,
    REPORTED_COLUMNS,
    TABLES,
    Answer,
    CellProblem,
    ParsedRow,
    cell_of,
    find_columns,
    number_cell,
    parse_rows,
)
from assayer.formats.tables.table import read_table, write_table
from assayer.services.stock.materials import count_doubts, insert_claim, insert_material, material_record, window_of, write_window
from assayer.services.stock.requests import NewMaterial, WindowIn
from assayer.services.stock.views import ImportColumn, ImportDone, ImportPreview, ImportProblem, ImportQuestion, ImportRow, RowState, StatementView
from assayer.services.unit import Actor, Unit, Workspace, find
from assayer.store.models import Claim, Material, ReportedResult

if TYPE_CHECKING:
    from assayer.services.stock.requests import ImportText

_WINDOW = tuple(WindowIn.model_fields)
_DEFAULT_HEX = "#9A948A"
_AT_ONCE = 20
"""Rows that are kept in one turn of writing: a few tenths of a second."""


def preview_import(workspace: Workspace, asked: ImportText) -> ImportPreview:
    """What every row would become; nothing is kept.

    Each row is 'new', 'there' (already, unchanged), 'question' or 'error', and says why.
    """
    with workspace.read() as session:
        return _Import(session, asked).view()


def run_import(workspace: Workspace, actor: Actor, asked: ImportText) -> ImportDone:
    """Keep the rows that are new; the others stay out and say why. Sent again, the kept rows are 'there'.

    A few rows at a time, so that nobody waits behind a long list; what was kept stays if the rest does not come to it.
    """
    with workspace.read() as session:
        done = _Import(session, asked)
    wanted = [row for row in done.rows if done.state(row) in ("new", "gaps")]
    kept = 0
    for start in range(0, len(wanted), _AT_ONCE):
        with workspace.write(actor) as unit:
            lines = set()
            for row in wanted[start : start + _AT_ONCE]:
                try:
                    if done.keep(unit, row):
                        kept += 1
                        lines.add((row.values["maker"], row.values["product"]))
                except (AssayerError, ValidationError) as error:
                    done.refuse(row, error)
            for maker, product in sorted(lines):
                count_doubts(unit, maker, product)
    return ImportDone(**dict(done.view()), kept=kept)


class _Import:
    """A read list, each row held against what is there and against the rows above it."""

    def __init__(self, session: Session, asked: ImportText) -> None:
        self.kind = asked.kind
        table = read_table(asked.text)
        columns = TABLES[asked.kind]
        self.found, self.unknown = find_columns(table, columns)
        self.rows = parse_rows(table, columns, [Answer(a.row, a.field, a.raw) for a in asked.answers])
        self.there: dict[int, str] = {}
        self.gaps: dict[int, Gaps] = {}
        self.materials: dict[int, Material] = {}
        self.same: dict[int, Select[str]] = {}
        seen: dict[tuple[str, ...], int] = {}
        # letters' case is disregarded, as in the search for a twin
        known = session.execute(select(Material.maker, Material.product, Material.colour, Material.id))
        self.known = {tuple(part.lower() for part in row[:3]): row.id for row in known}
        for row in self.rows:
            if not row.errors:
                self._compare(session, row, seen)

    def _compare(self, session: Session, row: ParsedRow, seen: dict[tuple[str, ...], int]) -> None:
        v = row.values
        # a row with a question is not in yet, so it is no twin of the rows below it
        if self.kind == "materials":
            key = _key(row)
            if key in seen:
                row.errors.append(CellProblem("row", f"{v['maker']} {v['product']} in {v['colour']} stands in row {seen[key]} already: leave one of them out"))
                return
            if not row.questions:
                seen[key] = row.number
            if "filler_share" in v and not v.get("filler"):
                row.errors.append(CellProblem("filler", "a share needs the kind of filler"))
            if key in self.known:
                there = find(session, Material, self.known[key])
                self.gaps[row.number] = _gaps(there, v)
                self.there[row.number] = _changes(there, v, self.gaps[row.number])
            return
        self._find(session, row)
        material = self.materials.get(row.number)
        if material is None:
            return
        if self.kind == "claims":
            same = select(Claim.id).where(Claim.material_id == material.id, Claim.text == v["text"], Claim.retracted_at.is_(None))
        else:
            if v.get("n") is not None and (v["n"] != int(v["n"]) or v["n"] < 1):
                row.errors.append(CellProblem("n", f"n: {v['n']:g} is no count of specimens"))
                return
            same = select(ReportedResult.id).where(
                ReportedResult.material_id == material.id, ReportedResult.quantity == v["quantity"], ReportedResult.value == v["value"],
                ReportedResult.method == v.get("method", ""), ReportedResult.source == v.get("source", ""), ReportedResult.retracted_at.is_(None),
            )  # fmt: skip
        key = (material.id, *(str(v.get(k, "")) for k in ("text", "quantity", "value", "method", "source")))
        if key in seen:
            row.errors.append(CellProblem("row", f"the same stands in row {seen[key]} already: leave one of them out"))
            return
        seen[key] = row.number
        self.same[row.number] = same.limit(1)
        self._is_there(session, row)

    def _is_there(self, session: Session, row: ParsedRow) -> bool:
        """Whether what a row says of a material is kept, by now."""
        same = self.same.get(row.number)
        if same is None or session.scalar(same) is None:
            return False
        self.there[row.number] = "kept already"
        return True

    def keep(self, unit: Unit, row: ParsedRow) -> bool:
        """Keep a row, or what fills a gap; False where somebody else did meanwhile."""
        if row.number not in self.gaps:
            if self._is_there(unit.session, row):
                return False
            _KEEP[self.kind](unit, self, row)
            return True
        material = find(unit.session, Material, self.known[_key(row)])
        gaps = _gaps(material, row.values)
        if gaps:
            _fill(unit, material, gaps)
        return bool(gaps)

    def _find(self, session: Session, row: ParsedRow) -> None:
        v = row.values
        if v.get("colour"):
            key = self.known.get((v["maker"].lower(), v["product"].lower(), v["colour"].lower()))
            material = find(session, Material, key) if key else None
            hint = f"{v['maker']} {v['product']} in {v['colour']} is not in the stock: add it first, or check the spelling"
        else:
            keys = [key for (maker, product, _), key in self.known.items() if (maker, product) == (v["maker"].lower(), v["product"].lower())]
            material = find(session, Material, keys[0]) if len(keys) == 1 else None
            hint = f"{v['maker']} {v['product']} is not in the stock: add it first, or check the spelling"
            if len(keys) > 1:
                colours = ", ".join(sorted(find(session, Material, key).colour for key in keys))
                hint = f"{v['maker']} {v['product']} comes in {colours}: say of which colour it was said"
        if material is None:
            row.errors.append(CellProblem("product", hint))
        else:
            self.materials[row.number] = material

    def state(self, row: ParsedRow) -> RowState:
        if row.errors or row.questions:
            return "error" if row.errors else "question"
        if row.number in self.there:
            return "gaps" if self.gaps.get(row.number) else "there"
        return "new"

    def refuse(self, row: ParsedRow, error: Exception) -> None:
        """What only the attempt to keep it showed."""
        text = "; ".join(e["msg"] for e in error.errors()) if isinstance(error, ValidationError) else str(error)
        field = str(error.errors()[0]["loc"][-1]) if isinstance(error, ValidationError) else getattr(error, "field", None) or "row"
        row.errors.append(CellProblem(field, text))

    def view(self) -> ImportPreview:
        items = [
            ImportRow(
                row=r.number,
                line=r.line,
                state=self.state(r),
                cells=r.raw,
                hex=r.values.get("hex"),
                filled=bool(r.values.get("filler")),
                errors=[ImportProblem(field=e.field, text=e.text) for e in r.errors],
                questions=[ImportQuestion(**asdict(q.question), raw=q.raw) for q in r.questions],
                there=self.there.get(r.number),
                claims=[StatementView.model_validate(s) for s in _statements(r)] if self.kind == "materials" else [],
            )
            for r in self.rows
        ]
        columns = [ImportColumn(field=c.field, header=c.header) for c in TABLES[self.kind] if c in self.found.values()]
        counts = {state: sum(i.state == state for i in items) for state in ("new", "gaps", "there", "question", "error")}
        return ImportPreview(kind=self.kind, columns=columns, unknown=self.unknown, rows=items, counts=counts)


def _key(row: ParsedRow) -> tuple[str, ...]:
    return tuple(str(row.values[name]).lower() for name in ("maker", "product", "colour"))


Gaps = dict[str, object]
"""What a row says where nothing is known yet, by the name of the field."""

_GAPS = ("density", "price", "net_mass", "obtained", "hex")
"""What of a material may be empty and be filled; a filler that is not named is none, and no gap."""


def _gaps(material: Material, values: Mapping[str, Any]) -> Gaps:
    """What a row says where nothing is known yet; what is known stays."""
    now = material_record(material).model_dump() | asdict(window_of(material))
    now["hex"] = None if material.hex == _DEFAULT_HEX else material.hex
    said = {k: v for k, v in values.items() if k in (*_GAPS, *_WINDOW)} | ({"source": values["window_source"]} if values.get("window_source") else {})
    found = {k: v for k, v in said.items() if now[k] in (None, "") and v not in (None, "")}
    # a sum without its currency, or the other way round, says nothing
    return found | ({"currency": values["currency"]} if "price" in found and "currency" in values else {})


def _fill(unit: Unit, material: Material, gaps: Gaps) -> None:
    before = asdict(window_of(material))
    window = {k: v for k, v in gaps.items() if k in _WINDOW}
    own = {k: v for k, v in gaps.items() if k not in _WINDOW}
    if window:
        write_window(unit, material, WindowIn.model_validate(before | window))
    for name, value in own.items():
        setattr(material, name, value)
    material.revision += 1
    unit.log("material", material.id, "gaps filled from a list", after={k: v for k, v in gaps.items()})


def _changes(material: Material, values: Mapping[str, object], gaps: Mapping[str, object]) -> str:
    """What a row adds to the material that is there, and in what it differs: what is known is left as it is."""
    now = material_record(material).model_dump() | asdict(window_of(material))
    odd = [
        f"{k.replace('_', ' ')} {_said(now[k])} (row: {_said(v)})"
        for k, v in values.items()
        if k in now and v not in (None, "") and now[k] != v and k not in ("maker", "product", "colour", *gaps)
    ]
    added = f"fills {', '.join(k.replace('_', ' ') for k in gaps)}" if gaps else "in the stock already"
    return added + (f", left as it is: {', '.join(odd[:6])}" if odd else "")


def _said(value: object) -> str:
    """As a person would read it, not as the program holds it."""
    if value is None or value == "":
        return "not given"
    if isinstance(value, bool):
        return "yes" if value else "no"
    return f"{value:g}" if isinstance(value, int | float) else str(value)


def _statements(row: ParsedRow) -> list[Statement]:
    """Claims among a row's notes: what is introduced as one, or can be tied to a quantity."""
    note = row.values.get("note", "")
    introduced = note.lower().startswith(("claim", "the maker claim"))
    read = [read_statement(text) for text in split_statements(note)]
    return [s for s in read if introduced or s.relation != "plain"]


def _keep_material(unit: Unit, _done: _Import, row: ParsedRow) -> None:
    v = row.values
    claims = _statements(row)
    window = {name: v[name] for name in _WINDOW if name in v}
    if v.get("window_source"):
        window["source"] = v["window_source"]
    rest = "; ".join(t for t in split_statements(v.get("note", "")) if t not in {c.text for c in claims})
    fields = {k: v[k] for k in NewMaterial.model_fields if k in v and k not in ("note", "window")}
    # what was asked about a cell has been answered by now: the row has no question left
    confirmed = _asked_keys(fields, window)
    new = NewMaterial(**({"hex": _DEFAULT_HEX} | fields), id=unit.new_id(), note=rest, window=WindowIn(**window) if window else None, confirmed=confirmed)
    material = insert_material(unit, new)
    for claim in claims:
        insert_claim(unit, material.id, unit.new_id(), claim.text, "list of materials", "")


def _asked_keys(*told: Mapping[str, object]) -> list[str]:
    return [f"{k}={v:.10g}" for values in told for k, v in values.items() if isinstance(v, float)]


def _keep_claim(unit: Unit, done: _Import, row: ParsedRow) -> None:
    v = row.values
    insert_claim(unit, done.materials[row.number].id, unit.new_id(), v["text"], v.get("source", ""), v.get("method", ""))


def _keep_reported(unit: Unit, done: _Import, row: ParsedRow) -> None:
    v = row.values
    values = {name: v.get(name, "") for name in ("quantity", "unit", "method", "source", "reported_on")}
    material = done.materials[row.number]
    result = ReportedResult(
        id=unit.new_id(), material_id=material.id, value=v["value"], n=None if v.get("n") is None else int(v["n"]), sd=v.get("sd"),
        entered_at=unit.now, entered_by=unit.actor.who, **values,
    )  # fmt: skip
    unit.session.add(result)
    unit.log("reported result", result.id, "added", after={"material_id": material.id, "quantity": result.quantity, "value": result.value})


_KEEP = {"materials": _keep_material, "claims": _keep_claim, "reported": _keep_reported}


# export


def export_table(workspace: Workspace, kind: str) -> str:
    """All of one kind as CSV, in the columns that are read back."""
    with workspace.read() as session:
        materials = session.scalars(select(Material).options(joinedload(Material.window)).order_by(Material.maker, Material.product, Material.colour)).all()
        if kind == "materials":
            return write_table([c.header for c in MATERIAL_COLUMNS], [_material_row(m) for m in materials])
        by_id = {m.id: m for m in materials}
        if kind == "claims":
            claims = session.scalars(select(Claim).where(Claim.retracted_at.is_(None)))
            rows = sorted([*_who(by_id[c.material_id]), c.text, c.method, c.source] for c in claims)
            return write_table([c.header for c in CLAIM_COLUMNS], rows)
        reported = session.scalars(select(ReportedResult).where(ReportedResult.retracted_at.is_(None)))
        rows = sorted(
            [
                *_who(by_id[r.material_id]),
                r.quantity,
                number_cell(r.value),
                r.unit,
                "" if r.n is None else str(r.n),
                number_cell(r.sd),
                r.method,
                r.source,
                r.reported_on,
            ]
            for r in reported
        )
        return write_table([c.header for c in REPORTED_COLUMNS], rows)


def _who(m: Material) -> list[str]:
    return [m.maker, m.product, m.colour]


def _material_row(m: Material) -> list[str]:
    w = window_of(m)
    cells = {
        "maker": m.maker, "product": m.product, "polymer": m.polymer, "filler": m.filler or "", "filler_share": number_cell(m.filler_share), "colour": m.colour,
        "hex": m.hex, "diameter": number_cell(m.diameter), "density": number_cell(m.density),
        "price": cell_of("price", {"price": m.price, "currency": m.currency}),
        "net_mass": number_cell(m.net_mass), "obtained": m.obtained, "dry_limit": number_cell(w.dry_limit), "flow_max": number_cell(w.flow_max),
        "nozzle_min": number_cell(w.nozzle_min), "hardened": _yes(w.hardened), "enclosure": _yes(w.enclosure), "fumes": _yes(w.fumes), "dust": _yes(w.dust),
        "bed_surface": w.bed_surface, "adhesive": w.adhesive,
        "tolerance": number_cell(w.tolerance), "window_source": w.source, "note": m.note,
    }  # fmt: skip
    held = w.as_dict()
    cells |= {name: cell_of(name, held) for name in ("nozzle", "bed", "chamber", "speed", "dry")}
    return [cells[c.field] for c in MATERIAL_COLUMNS]


def _yes(value: bool | None) -> str:
    return "" if value is None else "yes" if value else "no"
