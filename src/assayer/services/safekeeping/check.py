"""Does everything that is kept still hold together?"""

from __future__ import annotations

import hashlib
from pathlib import Path

from sqlalchemy import func, select, text

from assayer.core.errors import AssayerError, DataFolderError
from assayer.services.bench.recompute import would_move
from assayer.services.safekeeping.views import CheckReport, Fault
from assayer.services.unit import Workspace
from assayer.store.backup import Progress
from assayer.store.files import NAMED
from assayer.store.models import Base, Run

_RESTORE = "stop Assayer, keep a copy of the folder, then restore the last backup (assayer restore FILE.zip --data DIR)"


def check(workspace: Workspace, progress: Progress = lambda what, share: None) -> CheckReport:
    """Integrity of the database, references, kept files against the database, results against the readings."""
    progress("looking through the database", 0.0)
    faults: list[Fault] = []
    rows = runs = 0
    try:
        with workspace.read() as session:
            for (wrong,) in session.execute(text("PRAGMA integrity_check(5)")):
                if wrong != "ok":
                    faults.append(Fault(about="database", text=f"the database is damaged ({' '.join(wrong.split())[:120]})", advice=_RESTORE))
            for table, _, target, _ in session.execute(text("PRAGMA foreign_key_check")).fetchmany(5):
                faults.append(Fault(about="references", text=f"a row of {table} points at a row of {target} that is not there", advice=_RESTORE))
            rows = sum(session.scalar(select(func.count()).select_from(t)) or 0 for t in Base.metadata.sorted_tables)
            runs = session.scalar(select(func.count()).select_from(Run).where(Run.retracted_at.is_(None))) or 0
            named = {str(digest) for table, column in NAMED for (digest,) in session.execute(text(f'SELECT DISTINCT "{column}" FROM "{table}"'))}
    except DataFolderError as error:
        return CheckReport(faults=[Fault(about="database", text=str(error), advice=_RESTORE)], notes=[], rows=rows, recordings=0, runs=runs)
    faults += _recordings(workspace, named, progress)
    if not faults:
        faults += _results(workspace, progress)
    kept = {p.name for p in workspace.files.folder.glob("*/*") if len(p.name) == 64}
    spare = len(kept - named)
    notes = [f"{spare} files belong to nothing: taken in and then dropped, or left by a crash; they do no harm"] if spare else []
    return CheckReport(faults=faults, notes=notes, rows=rows, recordings=len(named), runs=runs)


def _hash_of(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def _recordings(workspace: Workspace, named: set[str], progress: Progress) -> list[Fault]:
    missing, altered = [], []
    for i, digest in enumerate(sorted(named)):
        progress("reading the files", i / len(named))
        path = workspace.files.path(digest)
        if not path.is_file():
            missing.append(digest)
        elif _hash_of(path) != digest:
            altered.append(digest)
    whole = "the curves of recordings are whole in the database all the same"
    faults = []
    for what, found in (("missing", missing), ("altered", altered)):
        if found:
            text_ = f"{len(found)} of {len(named)} kept files are {what} ({found[0][:12]}… first); {whole}"
            faults.append(Fault(about="recordings", text=text_, advice="take them from a backup: unpack its folder 'files' over the one in the data folder"))
    return faults


def _results(workspace: Workspace, progress: Progress) -> list[Fault]:
    """The results that are kept are what the readings give."""
    try:
        moved = would_move(workspace, lambda done, total: progress("reducing the readings anew", done / max(total, 1)))
    except AssayerError as error:
        return [Fault(about="results", text=f"a run cannot be reduced any more ({error})", advice="open its specimen and correct or leave out the reading")]
    if not moved:
        return []
    first = moved[0]
    return [
        Fault(
            about="results",
            text=f"{len(moved)} kept results are not what the readings give ({first.code} {first.label} first)",
            advice="run assayer recompute: it brings them up to date and says what moved",
        )
    ]
