"""The policy that keeps the page, and all that ships with it, to its own host."""

from collections.abc import MutableMapping

POLICY = "; ".join(
    [
        "default-src 'self'",
        "img-src 'self' data: blob:",
        "object-src 'none'",
        "base-uri 'none'",
        "form-action 'self'",
        "frame-ancestors 'none'",
    ]
)


IN_THE_WORKER = POLICY + "; script-src 'self' 'wasm-unsafe-eval'"
"""The policy of the worker in which the core runs: it alone may run what was compiled elsewhere."""


def static_headers(headers: MutableMapping[str, str], path: str, url: str) -> None:
    """What is said with each file that ships: scripts and workers are kept to their own host as the page is."""
    worker = url.startswith("/static/assets/worker-")
    headers["Content-Security-Policy"] = IN_THE_WORKER if worker else POLICY
    headers["X-Content-Type-Options"] = "nosniff"
