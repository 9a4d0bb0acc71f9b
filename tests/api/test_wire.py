"""Bytes that are no HTTP: answered in the form of all other refusals."""

import json
import socket

import pytest

from ..browser.walk import running_server


@pytest.fixture(scope="module")
def address(tmp_path_factory):
    with running_server(tmp_path_factory.mktemp("wire") / "data") as server:
        host, port = server.url.removeprefix("http://").split(":")
        yield host, int(port)


@pytest.mark.parametrize("sent", [b"\x16\x03\x01\x02\x00\x01\x00\r\n\r\n", b"GET / HTTP/1.1\r\nHo st: x\r\n\r\n", b"NONSENSE\r\n\r\n"])
def test_what_is_no_request_is_refused_in_words_and_the_server_goes_on(address, sent):
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
