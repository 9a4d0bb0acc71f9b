"""Bytes that are no HTTP: answered in the form of all other refusals."""

import json
import socket
import time
from threading import Thread

import pytest
import uvicorn

from assayer.api.app import create_app
from assayer.api.wire import Protocol

from ..browser.walk import running_server

ODD = b"NONSENSE\r\n\r\n"


@pytest.fixture
def address(workspace):
    """A server in a thread of this process."""
    listener = socket.create_server(("127.0.0.1", 0))
    server = uvicorn.Server(uvicorn.Config(create_app(workspace), log_level="error", ws="none", http=Protocol))
    thread = Thread(target=server.run, kwargs={"sockets": [listener]})
    thread.start()
    while not server.started:
        time.sleep(0.01)
    yield listener.getsockname()
    server.should_exit = True
    thread.join(20)
    assert not thread.is_alive()


@pytest.mark.parametrize("sent", [b"\x16\x03\x01\x02\x00\x01\x00\r\n\r\n", b"GET / HTTP/1.1\r\nHo st: x\r\n\r\n", ODD])
def test_what_is_no_request_is_refused_in_words_and_the_server_goes_on(address, sent):
    refused(address, sent)


def test_the_server_that_is_started_refuses_so(tmp_path, nursery):
    with running_server(tmp_path / "data", nursery) as server:
        host, port = server.url.removeprefix("http://").split(":")
        refused((host, int(port)), ODD)


def refused(address, sent):
    with socket.create_connection(address, timeout=10) as line:
        line.sendall(sent)
        got = b""
        while piece := line.recv(4096):
            got += piece
    head, _, body = got.partition(b"\r\n\r\n")
    lines = head.decode("ascii").split("\r\n")
    headers = dict(row.split(": ", 1) for row in lines[1:])
    assert lines[0] == "HTTP/1.1 400 Bad Request"
    assert (headers["content-type"], headers["connection"], headers["content-length"]) == ("application/problem+json", "close", str(len(body)))
    problem = json.loads(body)
    assert (problem["status"], problem["title"]) == (400, "Not understood")
    assert "cannot be read" in problem["detail"]
    with socket.create_connection(address, timeout=10) as line:
        line.sendall(b"GET /api/people HTTP/1.1\r\nHost: 127.0.0.1:%d\r\nConnection: close\r\n\r\n" % address[1])
        assert line.recv(4096).startswith(b"HTTP/1.1 200")
