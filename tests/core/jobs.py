"""Job files for the tests, as small as they can be."""

from typing import Any

from wary.job.file import read

# Four lorries that agree, and one that does not (reference, indicated), in tonnes.
AGREEING = [("21.34", "21.66"), ("19.87", "20.13"), ("20.61", "20.91"), ("21.12", "21.40")]


def runs(pairs: list[tuple[str, str]], unit: str = "t") -> list[dict[str, Any]]:
    return [{"reference": f"{r} {unit}", "indicated": f"{i} {unit}"} for r, i in pairs]


def belt(pairs: list[tuple[str, str]] | None = None, /, **inputs: Any) -> dict[str, Any]:
    """A belt material test with its zero done; keywords are inputs, `job_…` stand at the top."""
    top = {key.removeprefix("job_"): inputs.pop(key) for key in list(inputs) if key.startswith("job_")}
    given = {"zero_done": "job", **({"runs": runs(pairs)} if pairs is not None else {}), **inputs}
    return {
        "format": "wary-beacon/job",
        "version": 1,
        "method": "belt-material-test",
        "inputs": {key: given[key] for key in given if given[key] is not None},
        **top,
    }


def assess(document: dict[str, Any]) -> dict[str, Any]:
    return read(document).assess().as_json()


def codes(answer: dict[str, Any]) -> list[str]:
    return [reason["code"] for reason in answer["reasons"]]


def figure(answer: dict[str, Any], name: str) -> float:
    return answer["results"][name]["value"]


def job(method: str, /, **inputs: Any) -> dict[str, Any]:
    """A job file of any method; keywords are inputs, `job_…` stand at the top."""
    top = {key.removeprefix("job_"): inputs.pop(key) for key in list(inputs) if key.startswith("job_")}
    given = {key: found for key, found in inputs.items() if found is not None}
    return {"format": "wary-beacon/job", "version": 1, "method": method, "inputs": given, **top}


def answered(method: str, /, **inputs: Any) -> dict[str, Any]:
    return assess(job(method, **inputs))


def figures(answer: dict[str, Any], name: str) -> list[float]:
    return [row["value"] for row in answer["results"][name]]


def states(answer: dict[str, Any]) -> dict[str, str]:
    return {check["code"]: check["state"] for check in answer["checks"]}
