"""Writers get their turn in the order in which they asked, whatever becomes of the one before."""

import threading
import time

import pytest

from assayer.core.errors import EntryError
from assayer.services.stock.materials import add_material
from assayer.store.turns import Turns

from ..support import ACTOR, material


def started(turns, work):
    """A thread that waits in the queue by the time this returns."""
    before = len(turns._waiting)
    thread = threading.Thread(target=work)
    thread.start()
    while len(turns._waiting) == before and thread.is_alive():
        time.sleep(0.001)
    return thread


def test_turns_are_handed_on_in_order_one_at_a_time():
    turns, order, inside = Turns(), [], []

    def work(name):
        with turns.mine():
            inside.append(name)
            assert len(inside) == 1
            order.append(name)
            inside.remove(name)
            if name == 3:
                raise RuntimeError("failed in its turn")

    hook, threading.excepthook = threading.excepthook, lambda _: None
    try:
        with turns.mine():
            threads = [started(turns, lambda i=i: work(i)) for i in range(12)]
            assert order == []
        for thread in threads:
            thread.join(5)
    finally:
        threading.excepthook = hook
    assert order == list(range(12))
    with turns.mine():
        order.append("free again")
    assert order[-1] == "free again"


def test_a_turn_that_ends_in_an_error_frees_the_next(workspace):
    with pytest.raises(EntryError), workspace.write(ACTOR):
        raise EntryError("nothing of it is kept")
    assert add_material(workspace, ACTOR, material())[1]


def test_entries_of_several_threads_are_kept_in_the_order_in_which_they_were_asked(workspace):
    kept = []
    threads = []
    with workspace.write(ACTOR):
        for i in range(6):
            threads.append(started(workspace.db._turns, lambda i=i: kept.append(add_material(workspace, ACTOR, material(f"Line {i}"))[0].product)))
    for thread in threads:
        thread.join(20)
    assert kept == [f"Line {i}" for i in range(6)]
