"""What the documents name is there, and what is there is named."""

import re
from pathlib import Path

from typer.main import get_command

from assayer.cli import app
from assayer.core.methods import REGISTRY
from assayer.formats.readings.run_file import schema_of

ROOT = Path(__file__).parents[1]


def test_links_and_pictures_of_the_readme_exist_and_none_is_left_over():
    readme = (ROOT / "README.md").read_text()
    linked = set(re.findall(r"\]\(([^)#]+)\)", readme))
    for link in linked:
        assert (ROOT / link).exists(), link
    pictures = {f"docs/screenshots/{p.name}" for p in (ROOT / "docs/screenshots").glob("*.png")}
    assert pictures <= linked
    assert 5 <= len(pictures) < 20


def test_every_command_is_documented_and_every_target_exists():
    readme, makefile = (ROOT / "README.md").read_text(), (ROOT / "Makefile").read_text()
    for name, command in get_command(app).commands.items():
        if not command.hidden and name not in ("serve", "demo"):
            assert f"assayer {name}" in readme, name
    for target in re.findall(r"^make (\w+)", readme, re.MULTILINE):
        assert re.search(rf"^{target}:", makefile, re.MULTILINE), target


def test_every_reading_and_quantity_of_a_method_stands_in_its_row_and_no_other():
    _header, *rows = re.findall(r"^\| ([a-z0-9-]+) \| (.*) \| (.*) \| (.*) \|$", (ROOT / "docs/readings.md").read_text(), re.MULTILINE)
    assert [row[0] for row in rows] == list(REGISTRY)
    for name, readings, lab, quantities in rows:
        method = REGISTRY[name]
        properties = schema_of(method)["properties"]["readings"]["properties"]
        named = [set(re.findall(r"`(\w+)`", cell)) for cell in (readings, lab, quantities)]
        assert named[0] | named[1] == set(properties) - {"reading_step"}, name
        assert named[2] == {q.name for q in method.quantities}, name


def test_decisions_have_their_three_parts():
    found = sorted((ROOT / "docs/decisions").glob("*.md"))
    assert found
    for i, path in enumerate(found, 1):
        assert path.name.startswith(f"{i:04d}-"), path.name
        words = path.read_text()
        assert all(part in words for part in ("**Context.**", "**Decision.**", "**Consequences.**")), path.name


def test_nothing_committed_names_a_registry_and_no_page_an_outside_address():
    for name in ("requirements.lock", "requirements-dev.lock", "requirements-uv.lock", "web/package-lock.json"):
        words = (ROOT / name).read_text()
        assert not re.search(r"https?://|\"resolved\"|--(extra-)?index-url", words), name
    for path in (ROOT / "web/src").rglob("*.ts*"):
        if path.name != "schema.d.ts":
            assert not re.search(r"https?://(?!127\.0\.0\.1|www\.w3\.org/2000/svg)", path.read_text()), path


def test_colours_are_written_in_one_place():
    """No component writes a colour of its own: a filament's own colour (a test's too) and its ink, and the theme, are the exceptions."""
    allowed = {"theme.css", "theme.ts", "Swatch.tsx", "NewMaterialForm.tsx"}
    for path in (*(ROOT / "web/src").rglob("*.css"), *(ROOT / "web/src").rglob("*.tsx")):
        if path.name not in allowed and ".test." not in path.name:
            assert not re.search(r"#[0-9a-fA-F]{6}\b|#[0-9a-fA-F]{3}\b(?![-\w])", path.read_text()), path
