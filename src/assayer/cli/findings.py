"""Commands on results (FINDINGS): groups, effects, sweeps, agreement of rigs, claims and statements."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated, Any

import typer

import assayer
from assayer.cli.common import JsonOption, app, figure
from assayer.core.errors import EntryError, FileError

TableArgument = Annotated[Path, typer.Argument(help="A table with a header row.")]
JsonArgument = Annotated[Path, typer.Argument(help="A JSON file.")]
MarginOption = Annotated[str, typer.Option(help="Smallest difference that matters: 10% of the reference or best mean, or absolute.")]
LowerOption = Annotated[bool, typer.Option("--lower-is-better")]


@app.command()
def compare(
    file: TableArgument,
    value: Annotated[str, typer.Option(help="Header of the column of values.")],
    group: Annotated[str, typer.Option(help="Header of the column of groups.")],
    batch: Annotated[str | None, typer.Option(help="Header of the column of print batches: batch is then a random effect in the intervals.")] = None,
    reference: Annotated[str | None, typer.Option(help="Group the others are judged against; default: the first.")] = None,
    margin: MarginOption = "10%",
    lower_is_better: LowerOption = False,
    as_json: JsonOption = False,
) -> None:
    """Compare groups: Welch's ANOVA, all pairs, and a verdict on each against the reference."""
    from assayer.formats.tables.columns import read_columns

    table = read_columns(file, [value], [group] if batch is None else [group, batch])
    batches = None if batch is None else table.texts[batch]
    comparison = assayer.compare(table.numbers[value], table.texts[group], reference=reference, margin=margin, lower_is_better=lower_is_better, batches=batches)
    if as_json:
        typer.echo(json.dumps(comparison.as_dict()))
        return
    for name, g in comparison.groups.items():
        ends = f"[{figure(g.ci95.low)}, {figure(g.ci95.high)}]" if g.ci95 else "(one value: no interval)"
        within = f"  batches {g.batches}, sd within {figure(g.within_sd)}" if g.batches else ""
        typer.echo(f"{name:16} n {g.n:<3} mean {figure(g.mean)} {ends}{within}")
    if comparison.batch_ratio:
        typer.echo(f"batch-to-within ratio {comparison.batch_ratio.ratio:.3g}")
    if comparison.anova:
        typer.echo(f"Welch's ANOVA: F {comparison.anova.f:.4g}, df {comparison.anova.df1:g} / {comparison.anova.df2:.4g}, p {comparison.anova.p:.3g}")
    for v in comparison.verdicts:
        more = f"; {v.more_specimens} more each would decide" if v.more_specimens else ""
        notes = f" ({'; '.join(v.notes)})" if v.notes else ""
        typer.echo(f"{v.group} against {comparison.reference}: {v.difference:+.4g}: {v.word}{more}{notes}")
    for warning in comparison.warnings:
        typer.echo(f"note: {warning}")


@app.command()
def effects(
    file: TableArgument,
    value: Annotated[str, typer.Option(help="Header of the column of values.")],
    factors: Annotated[str, typer.Option(help="Headers of the columns of factors, separated by commas.")],
    as_json: JsonOption = False,
) -> None:
    """Main effects and interactions of several factors, each level against the first."""
    from assayer.formats.tables.columns import read_columns
    from assayer.notebook.findings import effects_dict

    names = list(dict.fromkeys(name.strip() for name in factors.split(",") if name.strip()))
    if not names:
        raise EntryError("name at least one factor", "factors")
    table = read_columns(file, [value], names)
    result = assayer.effects(table.numbers[value], {name: table.texts[name] for name in names})
    if as_json:
        typer.echo(json.dumps(effects_dict(result)))
        return
    for e in result.effects:
        aliases = f"  (with {', '.join(e.aliases)})" if e.aliases else ""
        interval = "" if e.ci95 is None else f" [{figure(e.ci95.low)}, {figure(e.ci95.high)}]  df {e.df:.4g}  p {e.p:.3g}"
        mark = "  stands out" if result.stands_out_from is not None and abs(e.difference) > result.stands_out_from else ""
        typer.echo(f"{e.name:20} {':'.join(e.levels)} against {':'.join(e.against)}: {e.difference:+.4g}{interval}{mark}{aliases}")
    if result.pse is not None and result.stands_out_from is not None:
        typer.echo(f"no replicates: pseudo standard error {result.pse:.4g}; an effect stands out beyond {result.stands_out_from:.4g}")


@app.command()
def sweep(
    file: TableArgument,
    x: Annotated[str, typer.Option("--x", help="Header of the column of the setting.")],
    y: Annotated[str, typer.Option("--y", help="Header of the column of the response.")],
    margin: MarginOption = "10%",
    lower_is_better: LowerOption = False,
    as_json: JsonOption = False,
) -> None:
    """The shape of a response to one setting, its best level and the window around it."""
    from assayer.formats.tables.columns import read_columns
    from assayer.notebook.findings import sweep_dict

    table = read_columns(file, [x, y])
    result = assayer.sweep(table.numbers[x], table.numbers[y], margin=margin, lower_is_better=lower_is_better)
    if as_json:
        typer.echo(json.dumps(sweep_dict(result)))
        return
    for shape, curve in result.curves.items():
        typer.echo(f"{shape:10} AICc {curve.aicc:.4f}  lack of fit p {curve.lack_of_fit_p:.3g}{'  chosen' if shape is result.chosen else ''}")
    if result.chosen is None:
        typer.echo("no shape fits: no curve is drawn, the result rests on the levels")
    if result.optimum is not None and result.optimum.interval is not None:
        typer.echo(f"optimum {figure(result.optimum.x)} [{figure(result.optimum.interval.low)}, {figure(result.optimum.interval.high)}]")
    elif result.optimum is not None:
        typer.echo(f"the curve turns at {figure(result.optimum.x)}: no optimum within the tested levels")
    for level in result.levels:
        marks = ("  best" if level.x == result.best_level else "") + ("  in window" if level.in_window else "")
        typer.echo(f"{level.x:<10g} n {level.n:<3} mean {figure(level.mean)}  loss at most {figure(level.loss_limit)}{marks}")
    typer.echo(f"scatter within levels {figure(result.pure_error_sd)}, margin {figure(result.margin)}")


@app.command()
def agreement(
    file: TableArgument,
    x: Annotated[str, typer.Option("--x", help="Header of the column of the one rig.")],
    y: Annotated[str, typer.Option("--y", help="Header of the column of the other.")],
    at: Annotated[str | None, typer.Option("--at", help="A reading of the one rig to convert.")] = None,
    as_json: JsonOption = False,
) -> None:
    """The line between two rigs, one row for each material (Deming regression)."""
    from assayer.core.quantities.units import parse_number
    from assayer.formats.tables.columns import read_columns
    from assayer.notebook.findings import agreement_dict

    table = read_columns(file, [x, y])
    result = agreement_dict(assayer.agreement(table.numbers[x], table.numbers[y]), None if at is None else parse_number(at, "at"))
    if as_json:
        typer.echo(json.dumps(result))
        return
    typer.echo(f"slope {figure(result['slope'])} ± {figure(result['se_slope'])}, intercept {figure(result['intercept'])} ± {figure(result['se_intercept'])}")
    typer.echo(f"scatter about the line {figure(result['s'])}")
    if at is not None:
        typer.echo(f"{at} → {figure(result['at']['predicted'])} [{figure(result['at']['low'])}, {figure(result['at']['high'])}]")


@app.command()
def claim(file: JsonArgument, as_json: JsonOption = False) -> None:
    """Judge a claimed value or factor against measured values."""
    from assayer.notebook.findings import claim_dict

    request = _read_json(file)
    result = assayer.claim(request)
    if as_json:
        typer.echo(json.dumps(claim_dict(result, "claimed_factor" in request)))
        return
    ends = "" if result.ci95 is None else f" [{figure(result.ci95.low)}, {figure(result.ci95.high)}]"
    typer.echo(f"{result.verdict}: {figure(result.measured)}{ends}{f' ({result.reason})' if result.reason else ''}")


@app.command()
def statements(file: JsonArgument, as_json: JsonOption = False) -> None:
    """Hold sentences against the results that they name."""
    from assayer.notebook.findings import statements_dict

    checked = assayer.statements(_read_json(file))
    if as_json:
        typer.echo(json.dumps(statements_dict(checked), ensure_ascii=False))
        return
    for s in checked:
        typer.echo(f"{s.verdict:13} {s.kind:11} {s.text}{f'  → {s.actual}' if s.actual else ''}")


def _read_json(file: Path) -> dict[str, Any]:
    from assayer.formats.text import read_bytes

    try:
        read = json.loads(read_bytes(file).decode("utf-8-sig"))
    except UnicodeDecodeError:
        raise FileError(f"'{file}' is not UTF-8") from None
    except json.JSONDecodeError as error:
        raise FileError(f"'{file}' is no JSON: {error.msg}", error.lineno) from None
    except RecursionError:
        raise FileError(f"'{file}' is nested too deeply") from None
    if not isinstance(read, dict):
        raise FileError(f"'{file}' holds no JSON object")
    return read
