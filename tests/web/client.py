"""A client that reads pages as a browser shows them: however a template is laid out."""

import re
from typing import Any

import httpx
from fastapi import testclient


class TestClient(testclient.TestClient):
    """FastAPI's test client; in the text of a page, spaces and line ends are one space."""

    __test__ = False

    def request(self, *args: Any, **kwargs: Any) -> httpx.Response:
        """Send a request, and read a page's text with its white space collapsed."""
        answer = super().request(*args, **kwargs)
        if answer.headers.get("content-type", "").startswith("text/html"):
            answer._text = re.sub(r"\s+", " ", answer.text)
        return answer
