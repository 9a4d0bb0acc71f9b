"""Write anew what is recorded of the demo's answers and of declared numbers, after a change that means to move one; read the difference before it is kept."""

import sys
import tempfile
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))

from tests.api import test_what_the_demo_shows as demo
from tests.conftest import NOW
from tests.core import test_what_is_declared as declarations

from assayer.demo.scenario import make_demo

if __name__ == "__main__":
    told = [(f"{module} {name}", numbers) for module in declarations.modules() for name, numbers in declarations.declared(module).items()]
    with tempfile.TemporaryDirectory() as folder:
        make_demo(Path(folder) / "data", NOW)
        shown = demo.show(Path(folder) / "data").items()
    for path, lines in ((declarations.RECORD, told), (demo.RECORD, shown)):
        path.write_text("".join(f"{place}\t{words}\n" for place, words in lines), "utf-8")
        print(f"{len(lines)} places in {path}")
