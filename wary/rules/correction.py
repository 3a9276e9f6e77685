"""The figure to key in, with the decimals that the instrument takes, and what was read back.

A factor has a direction: `multiplies` (display = factor × raw, `new = old × k`) or `divides`
(`new = old / k`). The new figure is rounded half up.
"""

from dataclasses import dataclass

from wary.quantities import decimals_of, percent_shown, round_half_up
from wary.results import JSON


@dataclass(frozen=True)
class KeyIn:
    """What to key in, as texts: the change in per cent, and of a factor the new one, the old one and what it would make.

    `rounding` is what rounding the new factor costs.
    """

    percent: str
    factor: str | None = None
    was: str | None = None
    change: str | None = None
    would_read: str | None = None
    rounding: str | None = None

    def as_json(self) -> dict[str, JSON]:
        return {key: text for key, text in vars(self).items() if text is not None}


@dataclass(frozen=True)
class NewFactor:
    """The factor to key in: the old one, the exact new one, and the new one with the decimals the instrument takes."""

    old: float
    exact: float
    keyed: float
    decimals: int | None

    def key_in(self, change: float, would: float, rounding: float | None = None) -> KeyIn:
        """For the screen. `change` in per cent; `would` the error left, a fraction; `rounding` what it costs."""
        return KeyIn(
            percent=signed(change),
            factor=as_keyed(self.keyed, self.decimals),
            was=as_keyed(self.old, self.decimals),
            change=f"{'up' if self.keyed > self.old else 'down'} {percent_shown(abs(self.keyed / self.old - 1))}",
            would_read=percent_shown(would, sign=True),
            rounding=percent_shown(rounding) if rounding is not None else None,
        )


def key_in_factor(old: float, ratio: float, direction: str | None, decimals: int | None) -> NewFactor:
    """The factor that makes readings grow by `ratio`, rounded half up; unrounded where that would be zero."""
    exact = old / ratio if direction == "divides" else old * ratio
    keyed = exact if decimals is None else round_half_up(exact, decimals)
    return NewFactor(old, exact, keyed if keyed > 0 else exact, decimals)


def gain(old: float, new: float, direction: str | None) -> float:
    """By how much readings grow when the factor goes from old to new."""
    return old / new if direction == "divides" else new / old


def nominal_ratio(factor: float, nominal: float, ratio: float, direction: str | None) -> float:
    """How far the new factor would be from the one it should be near, in the sense of a correction ratio.

    Counts per unit grow when readings must fall: a factor that divides is turned over, to mean the same.
    """
    return nominal * ratio / factor if direction == "divides" else factor * ratio / nominal


def signed(percent: float) -> str:
    """`+1.40` or `−1.40`."""
    return f"{'+' if percent > 0 else '−'}{abs(percent):.2f}"


def as_keyed(factor: float, decimals: int | None) -> str:
    """A factor with the decimals that the instrument takes; six digits where that is not known."""
    if decimals is None:
        return f"{factor:.6g}"
    return f"{factor:.{max(decimals, min(decimals_of(factor), 12))}f}"


def read_back_question(text: str, keyed: float, worked_out: str) -> str | None:
    """A quiet question where the instrument shows something else than was worked out; None where it fits.

    `text` is the read-back as typed and `keyed` the number in it.
    """
    wanted = float(worked_out)
    if keyed == wanted:
        return None
    decimals = len(worked_out.partition(".")[2])
    if decimals_of(keyed) > decimals:
        return f"{text} has more decimals than the {decimals} that the instrument takes. Read it again."
    for factor in (10, 0.1):
        if abs(keyed / (wanted * factor) - 1) < 1e-6:
            return f"{text} against {worked_out}: has the decimal point moved?"
    if sorted(text.replace(",", ".")) == sorted(worked_out):
        return f"{text} against {worked_out}: have two digits changed places?"
    return f"The instrument shows {text}; worked out was {worked_out}. What it shows is what counts from here on."
