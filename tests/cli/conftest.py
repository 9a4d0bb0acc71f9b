"""Commands, run to their end."""

import pytest

from assayer.cli import main


@pytest.fixture
def run(capsys, monkeypatch):
    """A command in this process: what it prints, once it ended as it should."""

    def command(*words, status=0):
        monkeypatch.setattr("sys.argv", ["assayer", *map(str, words)])
        with pytest.raises(SystemExit) as ended:
            main()
        said = capsys.readouterr()
        assert (ended.value.code or 0) == status, said
        return said

    return command


@pytest.fixture
def refused(nursery):
    """What is said to a folder that is not served; in a process of its own, which would go on serving it otherwise."""

    def command(folder):
        done = nursery.run("serve", "--data", folder, "--port", 0)
        assert done.returncode == 2, done
        return done.stderr

    return command
