"""A stand-in for an organisation's own sign-in: OpenID Connect, just so much of it as a client needs."""

import base64
import hashlib
import json
import secrets
import threading
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any
from urllib.parse import parse_qs, urlencode, urlsplit

import jwt


class Provider:
    """Answers for whoever `claims` says; `away` answers nothing that can be read."""

    def __init__(self) -> None:
        self.claims: dict[str, Any] = {}
        self.away = False
        self.asked: list[str] = []
        self.codes: dict[str, dict[str, str]] = {}
        provider = self

        class Handler(BaseHTTPRequestHandler):
            def do_GET(self) -> None:
                provider.get(self)

            def do_POST(self) -> None:
                provider.post(self)

            def log_message(self, *_: Any) -> None:
                pass

        self.server = ThreadingHTTPServer(("127.0.0.1", 0), Handler)
        self.url = f"http://127.0.0.1:{self.server.server_port}"
        threading.Thread(target=self.server.serve_forever, daemon=True).start()

    def end(self) -> None:
        self.server.shutdown()
        self.server.server_close()

    def get(self, to: BaseHTTPRequestHandler) -> None:
        at = urlsplit(to.path)
        self.asked.append(at.path)
        if self.away:
            return self.say(to, 503, b"<html>away</html>")
        if at.path == "/.well-known/openid-configuration":
            names = {"authorization_endpoint": "authorize", "token_endpoint": "token", "userinfo_endpoint": "me", "jwks_uri": "keys"}  # fmt: skip
            said = {key: f"{self.url}/{name}" for key, name in names.items()} | {"issuer": self.url}
            return self.say(to, 200, json.dumps(said).encode())
        if at.path == "/authorize":
            given = {key: one[0] for key, one in parse_qs(at.query).items()}
            code = secrets.token_urlsafe(8)
            self.codes[code] = given
            to.send_response(302)
            to.send_header("Location", f"{given['redirect_uri']}?{urlencode({'code': code, 'state': given['state']})}")
            to.end_headers()
            return None
        if at.path == "/me":
            return self.say(to, 200, json.dumps(self.claims).encode())
        return self.say(to, 404, b"")

    def post(self, to: BaseHTTPRequestHandler) -> None:
        body = to.rfile.read(int(to.headers["Content-Length"])).decode()
        given = {key: one[0] for key, one in parse_qs(body).items()}
        asked = self.codes.pop(given.get("code", ""), None)
        proof = base64.urlsafe_b64encode(hashlib.sha256(given.get("code_verifier", "").encode()).digest()).rstrip(b"=")
        if asked is None or asked.get("code_challenge", "").encode() != proof:
            return self.say(to, 400, b'{"error": "invalid_grant"}')
        about = self.claims | {"iss": self.url, "aud": asked["client_id"], "exp": 4102444800, "iat": 1}
        said = {"access_token": "opens", "token_type": "Bearer", "id_token": jwt.encode(about, "x" * 32)}
        return self.say(to, 200, json.dumps(said).encode())

    def say(self, to: BaseHTTPRequestHandler, status: int, body: bytes) -> None:
        to.send_response(status)
        to.send_header("Content-Type", "application/json")
        to.send_header("Content-Length", str(len(body)))
        to.end_headers()
        to.wfile.write(body)
