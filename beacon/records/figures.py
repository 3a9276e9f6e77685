"""Figures of a sealed assessment for reading: an error with its sign, a mass with its unit, limits in words."""

from collections.abc import Mapping
from typing import Any

from wary.fields import limit
from wary.quantities import percent_shown, shown
from wary.results import Figure, ResultField, text_of

Content = dict[str, Any]


Titles = Mapping[str, ResultField]
"""The results of a method by name; empty for one of before they said what they are."""


def figure_text(result: Any, name: str = "error", about: ResultField | None = None) -> str:
    """A result for reading as its field says, else an error or a change in per cent with its sign; empty for what is no figure."""
    if not isinstance(result, dict) or "value" not in result:
        return ""
    number = result["value"]
    if isinstance(number, bool):
        return "yes" if number else "no"
    if not isinstance(number, (int, float)):
        return str(number)
    if about is not None:
        return text_of(Figure(number, result["unit"]), about)
    if result["unit"] == "%":
        return percent_shown(number / 100, sign="error" in name or "change" in name)
    return f"{shown(number, 5)} {result['unit']}".strip()


def called(name: str, titles: Titles) -> str:
    """What a result is called."""
    return titles[name].title if name in titles else name.replace("_", " ")


def same_decimals(rows: list[Content], column: str) -> None:
    """Gives the masses of a column as many decimals as the one with most."""
    most = max((len(row[column].partition(" ")[0].partition(".")[2]) for row in rows), default=0)
    for row in rows:
        number, space, unit = row[column].partition(" ")
        whole, _, decimals = number.partition(".")
        if most and number:
            row[column] = f"{whole}.{decimals:0<{most}}{space}{unit}"


def _in_words(result: Any, key: str, about: ResultField | None) -> str:
    """A result, or what it is made of, for reading."""
    if isinstance(result, list):
        return ", ".join(_in_words(one, key, about) for one in result)
    if isinstance(result, dict) and "value" not in result:
        inside = {one.key: one for one in about.fields} if about else {}
        return ", ".join(
            f"{called(name, inside)} {figure_text(one, name, inside.get(name))}" for name, one in result.items()
        )
    return figure_text(result, key, about)


def figures(answer: Content, titles: Titles) -> list[list[str]]:
    """The results of a method that compares no runs, each with its figure; `titles` are what its results are called."""
    if "runs" in answer["results"]:
        return []
    rows = []
    for key, result in answer["results"].items():
        about = titles.get(key)
        listed = result if isinstance(result, list) else [result]
        text = "; ".join(_in_words(one, key, about) for one in listed)
        if text:
            rows.append([called(key, titles), text])
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
