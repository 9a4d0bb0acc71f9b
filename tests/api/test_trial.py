"""The trial of durability in a form of one minute, and that its reader would see what it looks for."""

import sqlite3

from benchmarks.trial_of_durability import Trial, read, run_trial


def test_a_minute_of_kills_loses_doubles_and_halves_nothing(tmp_path, nursery):
    folder = tmp_path / "data"
    trial = run_trial(folder, 60, seed=3, nursery=nursery, pause=0.5)
    assert trial.sound, trial.words()
    assert trial.kills >= 3
    assert len(trial.answered) > 100
    assert trial.sent - len(trial.answered) > trial.kills, "every kill came in the middle of something"
    # each kind of damage is seen
    runs = [key for key, entry in trial.answered.items() if "readings" in entry]
    weighing = next(key for key in trial.answered if key not in runs)
    database = sqlite3.connect(folder / "assayer.db")
    with database:
        database.execute("DELETE FROM readings WHERE run_id = ? AND field = 'peak_force'", (runs[0],))
        database.execute("DELETE FROM results WHERE run_id = ?", (runs[1],))
        database.execute("DELETE FROM weighings WHERE id = ?", (weighing,))
    database.close()
    again = Trial(answered=dict(trial.answered))
    never = again.answered.pop(runs[2])
    read(folder, again)
    assert never["id"] == runs[2]
    assert (set(again.half), again.missing, again.other) == (
        {runs[0], runs[1]},
        [weighing],
        [f"never answered, and there: {runs[2]}"],
    )
    assert not again.sound
