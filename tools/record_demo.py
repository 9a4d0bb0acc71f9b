"""Write the record of what the demo shows anew, after a change that means to change an answer; read its difference before it is kept."""

import sys
import tempfile
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))

from tests.api.test_what_the_demo_shows import RECORD, show

if __name__ == "__main__":
    with tempfile.TemporaryDirectory() as folder:
        lines = show(Path(folder) / "data")
    RECORD.write_text("".join(f"{place}\t{told}\n" for place, told in lines.items()), "utf-8")
    print(f"{len(lines)} places in {RECORD}")
