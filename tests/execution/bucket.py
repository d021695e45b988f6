"""A small stand-in for an object store: one bucket, its files from a folder, listed and read as such stores answer."""

from __future__ import annotations

import threading
import urllib.parse
from collections.abc import Iterator
from contextlib import contextmanager
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from xml.sax.saxutils import escape

__all__ = ["bucket"]

NAMESPACE = "http://s3.amazonaws.com/doc/2006-03-01/"


class _Store(BaseHTTPRequestHandler):
    folder: Path
    protocol_version = "HTTP/1.1"

    def log_message(self, *_: object) -> None:
        """Discard the log."""

    def _key(self) -> tuple[str, dict[str, str]]:
        path, _, query = self.path.partition("?")
        bucket, _, key = urllib.parse.unquote(path).lstrip("/").partition("/")
        assert bucket == "play"
        return key, dict(urllib.parse.parse_qsl(query, keep_blank_values=True))

    def _answer(self, status: int, body: bytes = b"", **more: str) -> None:
        self.send_response(status)
        for name, value in more.items():
            self.send_header(name.replace("_", "-"), value)
        if "Content_Length" not in more:
            self.send_header("Content-Length", str(len(body)))
        self.end_headers()
        if self.command != "HEAD":
            self.wfile.write(body)

    def do_HEAD(self) -> None:
        key, _ = self._key()
        file = self.folder / key
        if not key:
            self._answer(200)
        elif file.is_file():
            self._answer(
                200, Content_Length=str(file.stat().st_size), Last_Modified="Sun, 29 Nov 2026 10:00:00 GMT", ETag='"1"'
            )
        else:
            self._answer(404)

    def do_GET(self) -> None:
        key, query = self._key()
        if not key:
            self._list(query)
            return
        file = self.folder / key
        if not file.is_file():
            self._answer(404, b"<Error><Code>NoSuchKey</Code></Error>", Content_Type="application/xml")
            return
        data = file.read_bytes()
        wanted = self.headers.get("Range", "")
        if wanted.startswith("bytes="):
            first, _, last = wanted.removeprefix("bytes=").partition("-")
            part = data[int(first) : int(last) + 1 if last else None]
            self._answer(206, part, Content_Range=f"bytes {first}-{int(first) + len(part) - 1}/{len(data)}")
        else:
            self._answer(200, data)

    def _list(self, query: dict[str, str]) -> None:
        prefix, most = query.get("prefix", ""), int(query.get("max-keys", "1000"))
        names = sorted(
            one.relative_to(self.folder).as_posix() for one in self.folder.glob("**/*")
            if one.is_file() and one.relative_to(self.folder).as_posix().startswith(prefix)
        )  # fmt: skip
        after = query.get("continuation-token", "")
        left = [name for name in names if name > after]
        shown, more = left[:most], len(left) > most
        token = f"<NextContinuationToken>{escape(shown[-1])}</NextContinuationToken>" if more else ""
        told = "".join(
            f"<Contents><Key>{escape(name)}</Key><Size>{(self.folder / name).stat().st_size}</Size>"
            '<LastModified>2026-11-29T10:00:00.000Z</LastModified><ETag>"1"</ETag><StorageClass>STANDARD</StorageClass></Contents>'
            for name in shown
        )
        body = (
            f'<?xml version="1.0" encoding="UTF-8"?><ListBucketResult xmlns="{NAMESPACE}"><Name>play</Name>'
            f"<Prefix>{escape(prefix)}</Prefix><KeyCount>{len(shown)}</KeyCount><MaxKeys>{most}</MaxKeys>"
            f"<IsTruncated>{str(more).lower()}</IsTruncated>{token}{told}</ListBucketResult>"
        )
        self._answer(200, body.encode(), Content_Type="application/xml")


@contextmanager
def bucket(folder: Path) -> Iterator[str]:
    """Serve a folder as the bucket `play`, on loopback. Gives what follows `s3://play/PATH` in a URL."""
    server = ThreadingHTTPServer(("127.0.0.1", 0), type("Store", (_Store,), {"folder": folder}))
    threading.Thread(target=server.serve_forever, daemon=True).start()
    try:
        yield f"?endpoint_override=127.0.0.1:{server.server_address[1]}&scheme=http&region=here"
    finally:
        server.shutdown()
        server.server_close()
