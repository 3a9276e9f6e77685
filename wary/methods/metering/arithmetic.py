"""What the methods of metering share: what was caught, how much is enough for its scale, and the cautions."""

from collections.abc import Mapping, Sequence
from typing import Any

from wary.fields import Inputs, MassFromZero, WhyAside, field
from wary.methods.shared.draft import Draft
from wary.quantities import Quantity
from wary.results import Results
from wary.rules.assessment import Reason, missing
from wary.rules.call import Profile
from wary.rules.planning import smallest_amount

NOBODY_NEAR = "Nobody near the outlet or the shaft. Say that it will turn, and have it answered, before it does."
STOPPED_FIRST = "Nobody reaches in until the shaft has stopped and cannot start."
CAUTIONS = (NOBODY_NEAR, STOPPED_FIRST)


class Weighed(Inputs):
    """What was caught and weighed: gross and tare, or a net."""

    gross: MassFromZero | None = field("Gross")
    tare: MassFromZero | None = field("Tare of the container")
    net: MassFromZero | None = field("Net")
    set_aside: WhyAside | None = field("Why it is set aside")

    @classmethod
    def contradicting(cls, raw: Mapping[str, Any]) -> list[tuple[str, str]]:
        """A gross or a tare beside a net."""
        text = "stands beside “net” in the same row; expected a net, or gross and tare, not both"
        return [(key, text) for key in ("gross", "tare") if raw.get("net") is not None and raw.get(key) is not None]


def net_of(row: Weighed) -> float | None:
    """The net of a row in kg; None while it cannot be told."""
    if row.net is not None:
        return row.net.si
    return row.gross.si - row.tare.si if row.gross is not None and row.tare is not None else None


def need_net(sheet: Draft[Results], path: str, where: str, row: Weighed) -> None:
    """Notes what is absent of a net, or that there is none."""
    if row.gross is None and row.net is None:
        sheet.absent.append(missing(f"{path}.{'gross' if row.tare is not None else 'net'}", f"{where}: weigh what was caught, and type it."))  # fmt: skip
    elif row.net is None and row.tare is None:
        sheet.absent.append(missing(f"{path}.tare", f"{where}: type the tare of its container, or the net."))
    no_net(sheet, path, where, net_of(row))


def no_net(sheet: Draft[Results], path: str, where: str, net: float | None) -> None:
    """Notes a net of zero or less, which is no load."""
    if net is not None and net <= 0:
        sheet.absent.append(Reason("no-load", f"{where}: nothing is left after the tare. Look at gross and tare, and at the unit.", {"path": path}))  # fmt: skip


def unit_of(given: Sequence[Quantity | None], otherwise: str = "kg") -> str:
    """The unit of the first of these that is given."""
    return next((one.unit for one in given if one is not None), otherwise)


def enough(profile: Profile, division: Quantity | None, readings: int) -> float | None:
    """`R_min` in kg for a catch on a scale of this division; None where nothing says it."""
    share = profile.accept.percentage if profile.accept else None
    return smallest_amount(division.si, readings, 0.0, share) if division and share else None
