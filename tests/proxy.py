"""A proxy as a shop puts before the server: HTTPS to the outside by word, plain HTTP inside."""

import http.client
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from http.cookiejar import CookieJar, DefaultCookiePolicy
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from urllib.request import HTTPCookieProcessor, build_opener

from scripts.visitor import Visitor

HOST = "bench.example"
PASSED_ON = ("Cookie", "Content-Type", "Referer", "Accept", "Range")
"""Headers of a browser that reach the server; everything else is the proxy's own word."""


def _handler(port: int) -> type[BaseHTTPRequestHandler]:
    class Handler(BaseHTTPRequestHandler):
        protocol_version = "HTTP/1.1"

        def pass_on(self) -> None:
            body = self.rfile.read(int(self.headers.get("Content-Length") or 0))
            headers = {name: self.headers[name] for name in PASSED_ON if name in self.headers}
            headers |= {
                "Host": HOST,
                "X-Forwarded-Proto": "https",
                "X-Forwarded-For": self.client_address[0],
            }
            inside = http.client.HTTPConnection("127.0.0.1", port)
            try:
                inside.request(self.command, self.path, body or None, headers)
                answer = inside.getresponse()
                content = answer.read()
            except OSError:
                self.send_error(502)
                return
            finally:
                inside.close()
            self.send_response(answer.status)
            for name, value in answer.getheaders():
                if name.lower() not in ("transfer-encoding", "connection", "content-length"):
                    self.send_header(name, value)
            self.send_header("Content-Length", str(len(content)))
            self.end_headers()
            self.wfile.write(content)

        do_GET = do_POST = do_HEAD = pass_on

        def log_message(self, *words: object) -> None:
            """Say nothing."""

    return Handler


@contextmanager
def proxied(port: int) -> Iterator[str]:
    """Put a proxy before a server of this machine; yields the address it is reached at."""
    server = ThreadingHTTPServer(("127.0.0.1", 0), _handler(port))
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    try:
        yield f"http://127.0.0.1:{server.server_address[1]}"
    finally:
        server.shutdown()
        thread.join()
        server.server_close()


class Outside(Visitor):
    """A browser that was told it speaks HTTPS to the shop's name: it sends secure cookies, and says
    where it comes from."""

    def __init__(self, base: str) -> None:
        super().__init__(base)
        jar = CookieJar(DefaultCookiePolicy(secure_protocols=("http", "https")))
        self.opener = build_opener(HTTPCookieProcessor(jar))
        self.opener.addheaders = [("Referer", f"https://{HOST}/")]
