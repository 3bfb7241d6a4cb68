"""Somebody who uses a running server through its pages, as a browser would."""

import json
import re
import urllib.error
import urllib.parse
import urllib.request
from http.cookiejar import CookieJar
from typing import Any

TOKEN = re.compile(r'name="csrfmiddlewaretoken" value="([^"]+)"')
TIMEOUT_S = 60.0
Answer = tuple[int, str, str]
"""Status, address after redirects, text."""


class Visitor:
    """One browser: cookies, and the token of the last page."""

    def __init__(self, base: str) -> None:
        self.base = base
        self.token = ""
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(CookieJar()))

    def get(self, path: str) -> Answer:
        """Return the answer to a request for a page."""
        return self._answer(urllib.request.Request(self.base + path))

    def post(self, path: str, **fields: Any) -> Answer:
        """Return the answer to a form; raises OSError where there was none."""
        data = urllib.parse.urlencode(
            {"csrfmiddlewaretoken": self.token, **fields}, doseq=True
        ).encode()
        return self._answer(urllib.request.Request(self.base + path, data=data))

    def send_file(self, path: str, name: str, content: bytes) -> Answer:
        """Return the answer to a form with one file in its field `file`."""
        mark = b"----file-of-a-visitor"
        head = 'Content-Disposition: form-data; name="{}"'
        pieces = [
            mark,
            head.format("csrfmiddlewaretoken").encode(),
            b"",
            self.token.encode(),
            mark,
            f'{head.format("file")}; filename="{name}"'.encode(),
            b"",
            content,
            mark + b"--",
        ]
        body = b"\r\n".join(b"--" + piece if piece.startswith(mark) else piece for piece in pieces)
        kind = {"Content-Type": f"multipart/form-data; boundary={mark.decode()}"}
        return self._answer(urllib.request.Request(self.base + path, data=body, headers=kind))

    def json(self, path: str) -> Any:
        """Return the JSON of an address, {} where it answers with something else."""
        try:
            return json.loads(self.get(path)[2])
        except ValueError:
            return {}

    def sign_in(self, name: str, password: str) -> Answer:
        """Sign in; the answer is that of the first page."""
        self.get("/sign-in/")
        return self.post("/sign-in/", username=name, password=password)

    def new_bike(self, label: str, pattern: str) -> str:
        """Describe a bike from a pattern; return its UUID."""
        self.get("/bikes/new/")
        address = self.post("/bikes/new/", label=label, start=f"pattern:{pattern}")[1]
        return address.rstrip("/").split("/")[-2]

    def new_job(self, bike: str, complaint: str) -> str:
        """Open a job; return its UUID."""
        self.get("/jobs/new/")
        address = self.post("/jobs/new/", bike=bike, complaint=complaint)[1]
        return address.rstrip("/").split("/")[-2]

    def _answer(self, request: urllib.request.Request) -> Answer:
        try:
            with self.opener.open(request, timeout=TIMEOUT_S) as response:
                status, address, body = response.status, response.geturl(), response.read()
        except urllib.error.HTTPError as error:
            status, address, body = error.code, error.geturl(), error.read()
        text = body.decode("utf-8", "replace")
        found = TOKEN.search(text)
        if found:
            self.token = found[1]
        return status, address, text
