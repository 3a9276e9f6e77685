"""Figures of a sealed assessment for reading: an error with its sign, a mass with its unit, limits in words."""

from typing import Any

from wary.fields import limit
from wary.quantities import percent_shown, shown

Content = dict[str, Any]


def figure_text(result: Any, name: str = "error") -> str:
    """A result for reading, an error or a change in per cent with its sign; empty for what is no figure."""
    if not isinstance(result, dict) or "value" not in result:
        return ""
    number = result["value"]
    if isinstance(number, bool):
        return "yes" if number else "no"
    if not isinstance(number, (int, float)):
        return str(number)
    if result["unit"] == "%":
        return percent_shown(number / 100, sign="error" in name or "change" in name)
    return f"{shown(number, 5)} {result['unit']}".strip()


def same_decimals(rows: list[Content], column: str) -> None:
    """Gives the masses of a column as many decimals as the one with most."""
    most = max((len(row[column].partition(" ")[0].partition(".")[2]) for row in rows), default=0)
    for row in rows:
        number, space, unit = row[column].partition(" ")
        whole, _, decimals = number.partition(".")
        if most and number:
            row[column] = f"{whole}.{decimals:0<{most}}{space}{unit}"


def _in_words(result: Any, key: str) -> str:
    """A result, or what it is made of, for reading."""
    if isinstance(result, list):
        return ", ".join(_in_words(one, key) for one in result)
    if isinstance(result, dict) and "value" not in result:
        return ", ".join(f"{name.replace('_', ' ')} {figure_text(one, name)}" for name, one in result.items())
    return figure_text(result, key)


def figures(answer: Content) -> list[list[str]]:
    """The results of a method that compares no runs, each with its figure."""
    if "runs" in answer["results"]:
        return []
    rows = []
    for key, result in answer["results"].items():
        words = key.replace("_", " ")
        text = "; ".join(_in_words(one, key) for one in result) if isinstance(result, list) else _in_words(result, key)
        if text:
            rows.append([words, text])
    return rows


def number_in(text: str) -> float | None:
    try:
        return float(text.replace(",", "."))
    except ValueError:
        return None


def limits_in_words(profile: Content) -> str:
    words = []
    if profile.get("accept"):
        words.append(f"accept {limit(profile['accept'])}")
    if profile.get("repeat"):
        words.append(f"repeat {profile['repeat']} for three runs")
    if profile.get("minimum_runs"):
        words.append(f"at least {profile['minimum_runs']} runs")
    return " · ".join(words)
