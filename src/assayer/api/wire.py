"""What the server's own layer answers, before there is a request: bytes that are no HTTP get our form too."""

from __future__ import annotations

from http import HTTPStatus

from uvicorn.protocols.http.auto import AutoHTTPProtocol

from assayer.api.problems import Problem, answer

_UNREADABLE = Problem(title="Not understood", status=400, detail="what came is no request: a line or a header of it cannot be read")


class Protocol(AutoHTTPProtocol):  # type: ignore[misc, valid-type]
    """The server's protocol, with our words for what it cannot read."""

    def send_400_response(self, msg: str) -> None:
        said = answer(_UNREADABLE)
        said.headers["connection"] = "close"
        headers = b"".join(name + b": " + value + b"\r\n" for name, value in said.raw_headers)
        status = HTTPStatus(said.status_code)
        self.transport.write(f"HTTP/1.1 {status.value} {status.phrase}\r\n".encode() + headers + b"\r\n" + bytes(said.body))
        self.transport.close()
