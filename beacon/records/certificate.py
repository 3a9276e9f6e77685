"""The certificate of a sealed record: one page of PDF, made from what was sealed and nothing else."""

import datetime
import io
import json
from typing import Any
from zoneinfo import ZoneInfo

import segno
from django.conf import settings
from django.template.loader import render_to_string
from weasyprint import HTML

from beacon.records.models import Record
from wary.fields import limit
from wary.methods import all_methods
from wary.quantities import percent_shown, shown

CALLS = {
    "leave": "leave it alone",
    "adjust": "adjust",
    "keep-testing": "keep testing",
    "find-fault": "find the fault",
    "not-ready": "not ready",
}


def certificate(record: Record) -> bytes:
    """The certificate as PDF."""
    page = render_to_string("records/certificate.html", about(record))
    return bytes(HTML(string=page, base_url=str(settings.ROOT)).write_pdf(pdf_variant="pdf/ua-1"))


def about(record: Record) -> dict[str, Any]:
    """What the certificate says, by the names that its template uses."""
    content = json.loads(record.content)
    answer, closing, system = content["assessment"], content["closing"], content["system"]
    method = all_methods()[content["method"]]
    zone = ZoneInfo(record.job.channel.system.site.time_zone)
    found = answer.get("as_found") or answer
    stages = [("As found", found, content["inputs"].get("runs", []))]
    if answer.get("as_found"):
        stages.append(("As left", answer, content["inputs"].get("as_left", [])))
    return {
        "record": record,
        "title": method.title,
        "system": system,
        "plates": _plates(system.get("plates", {})),
        "references": content.get("references", []),
        "reference_lines": _reference_lines(content["inputs"]),
        "stages": [_stage(name, stage, runs) for name, stage, runs in stages],
        "figures": _figures(answer),
        "visit": [_part(part) for part in content.get("visit", []) if part["assessment"]["call"] != "not-ready"],
        "adjustment": _adjustment(content, found),
        "limits": _limits(content["profile"]),
        "loosened": [entry for entry in content["trail"] if entry["path"].startswith("profile.") and entry["text"]],
        "occasion": content.get("occasion", "routine"),
        "conditions": _typed(content, "conditions"),
        "note": _typed(content, "note"),
        "closing": closing,
        "opened": _when(closing["opened_at"], zone),
        "closed": _when(closing["closed_at"], zone),
        "people": sorted({entry["who"] for entry in content["trail"]}),
        "qr": _qr(f"{settings.PUBLIC_URL}/records/{record.id}#{record.sha256}"),
    }


def _when(text: str, zone: ZoneInfo) -> str:
    return datetime.datetime.fromisoformat(text).astimezone(zone).strftime("%Y-%m-%d %H:%M %Z")


def _typed(content: dict[str, Any], path: str) -> str:
    """The last text of a path in the trail."""
    texts = [entry["text"] for entry in content["trail"] if entry["path"] == path and not entry["undoes"]]
    return texts[-1] if texts else ""


def _plates(plates: dict[str, Any]) -> list[tuple[str, str]]:
    return [(key.replace("_", " "), str(value)) for key, value in plates.items()]


def _reference_lines(inputs: dict[str, Any]) -> list[tuple[str, str]]:
    titles = {
        "reference_division": "division",
        "reference_uncertainty": "expanded uncertainty",
        "test_load": "test load",
        "test_mass": "test mass",
        "test_load_uncertainty": "expanded uncertainty",
    }
    return [(title, str(inputs[key])) for key, title in titles.items() if inputs.get(key)]


def _figure(result: Any) -> str:
    if not isinstance(result, dict) or "value" not in result:
        return ""
    number = result["value"]
    if isinstance(number, bool):
        return "yes" if number else "no"
    if not isinstance(number, (int, float)):
        return str(number)
    if result["unit"] == "%":
        return percent_shown(number / 100, sign=True)
    return f"{shown(number, 5)} {result['unit']}".strip()


def _stage(name: str, stage: dict[str, Any], runs: list[dict[str, Any]]) -> dict[str, Any]:
    results = stage["results"]
    rows = []
    for number, run in enumerate(results.get("runs", [])):
        typed = runs[number] if number < len(runs) else {}
        rows.append(
            {
                "number": number + 1,
                "reference": _figure(run.get("reference")),
                "indicated": _figure(run.get("indicated")),
                "error": _figure(run.get("error")),
                "aside": typed.get("set_aside", ""),
            }
        )
    for column in ("reference", "indicated"):
        _same_decimals(rows, column)
    return {
        "name": name,
        "call": CALLS[stage["call"]],
        "reasons": [reason["text"] for reason in stage["reasons"]],
        "rows": rows,
        "mean": _figure(results.get("mean_error")),
        "uncertainty": _figure(results.get("expanded_uncertainty")).lstrip("+"),
        "spread": _figure(results.get("spread")).lstrip("+"),
        "coverage": _figure(results.get("coverage_factor")),
        "budget": stage.get("budget", []),
    }


def _same_decimals(rows: list[dict[str, Any]], column: str) -> None:
    """Gives the masses of a column as many decimals as the one with most."""
    most = max((len(row[column].partition(" ")[0].partition(".")[2]) for row in rows), default=0)
    for row in rows:
        number, space, unit = row[column].partition(" ")
        whole, _, decimals = number.partition(".")
        if most and number:
            row[column] = f"{whole}.{decimals:0<{most}}{space}{unit}"


IN_A_LINE = (
    "zero_error",
    "zero_spread",
    "zero_shift",
    "error",
    "effective_mass",
    "expected_rate",
    "live_error",
    "range",
    "worst",
    "balance",
    "share_used",
)
"""The figures of another part of the visit that its one line gives; the sealed file has them all."""

COMPARED = ("runs", "mean_error", "expanded_uncertainty", "spread", "coverage_factor", "runs_in_set", "minimum_runs")


def _figures(answer: dict[str, Any]) -> list[tuple[str, str]]:
    """The results of a method that compares no runs, each with its figure."""
    if "runs" in answer["results"]:
        return []
    rows = []
    for key, result in answer["results"].items():
        words = key.replace("_", " ")
        if isinstance(result, list):
            figures = [
                _figure(one) or ", ".join(f"{k.replace('_', ' ')} {_figure(v)}" for k, v in one.items())
                for one in result
            ]
            rows.append((words, "; ".join(figures)))
        elif _figure(result):
            rows.append((words, _figure(result)))
    return rows


def _part(part: dict[str, Any]) -> dict[str, Any]:
    answer = part["assessment"]
    return {
        "title": all_methods()[part["method"]].title,
        "call": answer["headline"],
        "reasons": [reason["text"] for reason in answer["reasons"]],
        "figures": [
            (key.replace("_", " "), _figure(answer["results"][key])) for key in IN_A_LINE if key in answer["results"]
        ],
    }


def _adjustment(content: dict[str, Any], found: dict[str, Any]) -> list[tuple[str, str]]:
    rows = []
    inputs, results = content["inputs"], found["results"]
    if inputs.get("factor"):
        typed = _typed(content, "inputs.factor") or str(inputs["factor"])
        rows.append((f"{content['system'].get('factor_name', 'factor')} as found", typed))
    if results.get("new_factor"):
        rows.append(("worked out", (found.get("key_in") or {}).get("factor") or _figure(results["new_factor"])))
        rows.append(("change", _figure(results.get("percent_change"))))
    read_back = _typed(content, "read_back")
    if read_back:
        rows.append(("read back from the instrument", read_back))
    return rows


def _limits(profile: dict[str, Any]) -> str:
    words = []
    if profile.get("accept"):
        words.append(f"accept {limit(profile['accept'])}")
    if profile.get("repeat"):
        words.append(f"repeat {profile['repeat']} for three runs")
    if profile.get("minimum_runs"):
        words.append(f"at least {profile['minimum_runs']} runs")
    return " · ".join(words)


def _qr(text: str) -> str:
    picture = io.BytesIO()
    segno.make(text, error="m").save(picture, kind="svg", xmldecl=False, svgns=True, scale=1, border=0)
    return picture.getvalue().decode()
