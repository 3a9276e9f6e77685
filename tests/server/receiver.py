"""A receiver of webhooks, as another program has one: it keeps what it is told, and answers as it is made to."""

import threading
import time
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any


class Receiver:
    """Listens on loopback. `answers` are the statuses of its next answers, in turn; then it takes everything.

    A status of 0 is none: it says nothing until it is closed. -1 is an answer without end.
    """

    def __init__(self) -> None:
        self.told: list[tuple[dict[str, str], str]] = []
        self.answers: list[int] = []
        over = self.over = threading.Event()
        outer = self

        class Handler(BaseHTTPRequestHandler):
            def do_POST(self) -> None:
                body = self.rfile.read(int(self.headers["Content-Length"])).decode()
                outer.told.append(({key.lower(): value for key, value in self.headers.items()}, body))
                status = outer.answers.pop(0) if outer.answers else 204
                if status == 0:
                    over.wait(30)
                    return
                self.send_response(abs(status) if status != -1 else 200)
                if status in (301, 302, 307):
                    self.send_header("Location", f"http://127.0.0.1:{outer.port}/elsewhere")
                self.end_headers()
                while status == -1 and not over.is_set():
                    try:
                        self.wfile.write(b"x" * 65536)
                    except OSError:
                        return
                    time.sleep(0.001)

            def log_message(self, *given: Any) -> None:
                pass

        self.server = ThreadingHTTPServer(("127.0.0.1", 0), Handler)
        self.server.daemon_threads = True
        self.port = self.server.server_address[1]
        threading.Thread(target=self.server.serve_forever, daemon=True).start()

    @property
    def url(self) -> str:
        return f"http://127.0.0.1:{self.port}/told"

    def close(self) -> None:
        self.over.set()
        self.server.shutdown()
        self.server.server_close()
