"""Files that a page hands out to be kept."""

import json
from typing import Any

from django.http import HttpResponse


def download(content: Any, name: str) -> HttpResponse:
    """An answer that is a JSON file to keep."""
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    text = json.dumps(content, indent=2, ensure_ascii=False)
    return HttpResponse(text, content_type="application/json", headers=headers)


def as_file(content: bytes, kind: str, name: str, how: str = "attachment") -> HttpResponse:
    """An answer that is a file, to keep or to be shown."""
    return HttpResponse(content, content_type=kind, headers={"Content-Disposition": f'{how}; filename="{name}"'})
