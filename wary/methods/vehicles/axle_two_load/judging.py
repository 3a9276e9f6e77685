"""Two loads: what is said of what was typed."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from wary import drawings
from wary.drawings import GroupMark
from wary.fields import Plates, at_most
from wary.methods.method import Errors, Seen, Setting
from wary.methods.shared.draft import Draft
from wary.methods.vehicles.axle_two_load.method import AxleInputs, AxleResults, AxleTwoLoad, Group
from wary.quantities import Quantity, from_si, mass_shown, percent_shown, quantity, shown
from wary.results import Figure, in_unit, percent, value_of
from wary.rules.assessment import ADJUST, FIND_FAULT, KEEP_TESTING, LEAVE, Assessment, Reason, Remark, missing
from wary.rules.call import implausible
from wary.rules.slips import Entered, explain

SCALES_DIFFER = quantity("150 kg", "mass")
LEAST_DIVISIONS, LEAST_SHARE = 20, 0.1
"""A payload smaller than so many ticket divisions, or than this share of the empty weight, is a short lever."""
WHERE_TO_LOOK = (
    "The two tickets: did empty and heavy change places, or a group's figures?",
    "The groups as they stood on the ground scale: each on it whole, and the next one off it.",
    "The levelling valve: ride height the same at both weighings, no air lost between them.",
    "The sensor: sound hose, right way round, its plug dry.",
)


def _stepped(given: AxleInputs) -> bool:
    return any(g.empty_shown or g.heavy_shown for g in given.groups or [])


def _missing(group: Group) -> drawings.LoadMissing | None:
    """Which of the two loads a group lacks; a known ratio with one load's raw figure stands for the other."""
    if (group.empty_ticket and group.heavy_ticket) or _by_known_ratio(group):
        return None
    if not group.empty_ticket and not group.heavy_ticket:
        return "both"
    return "heavy" if group.empty_ticket else "empty"


def _by_known_ratio(group: Group) -> tuple[Quantity, float] | None:
    """Ticket and raw figure of the one load that is in, where a known ratio stands for the other; else None."""
    if group.known_slope is None or (group.empty_ticket and group.heavy_ticket):
        return None
    for ticket, raw in ((group.empty_ticket, group.empty_raw), (group.heavy_ticket, group.heavy_raw)):
        if ticket is not None and raw is not None:
            return ticket, raw
    return None


@dataclass
class _Axles:
    sheet: Draft[AxleResults]
    given: AxleInputs
    setting: Setting

    def __post_init__(self) -> None:
        self.groups: Sequence[Group] = self.given.groups or []
        tickets = [t for g in self.groups for t in (g.empty_ticket, g.heavy_ticket, g.proof_ticket) if t]
        self.unit = tickets[0].unit if tickets else "kg"
        self.division = self.given.ticket_division.si if self.given.ticket_division else None
        self.unsaid = False

    def answer(self) -> Assessment[AxleResults]:
        """The checks of the page, in their order."""
        sheet = self.sheet
        self._inputs()
        self._figures()
        if self._verifies():
            return sheet.answer("not-ready", sheet.absent) if sheet.absent else self._proof("match-again")
        reversed_ = self._lever_reversed()
        if reversed_ and sheet.facts():
            return sheet.answer(FIND_FAULT, reversed_, look=WHERE_TO_LOOK)
        if sheet.absent:
            return sheet.answer("not-ready", sheet.absent)
        half = [(place, group, gone) for place, group in enumerate(self.groups) if (gone := _missing(group))]
        if half:
            return self._half_entered(half)
        again, apart = self._not_matched(), self._against_gross()
        self._levers()
        self._two_scales()
        if again:
            lead = "A reading that was stepped does not stand at its ticket."
            return sheet.answer(ADJUST, again, headline="Match it again", lead=lead)
        if apart:
            return sheet.answer(FIND_FAULT, apart, look=WHERE_TO_LOOK)
        if any(group.proof_ticket is None or group.proof_shown is None for group in self.groups):
            return self._unproven()
        return self._proof()

    def _verifies(self) -> bool:
        """Whether it is only verified: a ticket and what was shown of every group, and no old tickets asked for."""
        groups = self.groups
        alone = not any(group.empty_ticket or group.heavy_ticket for group in groups)
        return alone and any(group.proof_ticket and group.proof_shown for group in groups)

    def _inputs(self) -> None:
        sheet, given = self.sheet, self.given
        for load, prepared in (("empty", given.empty_prepared), ("heavy", given.heavy_prepared)):
            if prepared is False:
                text = f"The {load} weighing was not prepared: level, chocked, brakes off, suspension emptied and filled again, at ride height."
                sheet.check("prepared", "fail", text)
                sheet.absent.append(Reason("not-prepared", text, {"path": f"inputs.{load}_prepared"}))
            elif prepared:
                sheet.check("prepared", "pass", f"Prepared for the {load} weighing.")
        if self._verifies():
            for place, group in enumerate(self.groups):
                for key, read in (("proof_ticket", group.proof_ticket), ("proof_shown", group.proof_shown)):
                    if read is None:
                        text = f"{_name(group, place)}: type what {'the ticket says' if key == 'proof_ticket' else 'it showed'}."
                        sheet.absent.append(missing(f"inputs.groups[{place}].{key}", text))
        elif self.groups and not any(group.empty_ticket or group.heavy_ticket for group in self.groups):
            where = _name(self.groups[0], 0)
            text = f"{where}: weigh it on a ground scale, empty or heavy, and type what the ticket says."
            sheet.absent.append(missing("inputs.groups[0].empty_ticket", text))
        for place, group in enumerate(self.groups):
            for load, ticket, _ in group.weighings():
                if ticket is not None and ticket.si <= 0:
                    text = f"{_name(group, place)}: a ticket of {ticket.text} is no load; it must be above zero."
                    sheet.absent.append(Reason("no-load", text, {"path": f"inputs.groups[{place}].{load}_ticket"}))
        against = any(group.empty_shown or group.heavy_shown for group in self.groups)
        if self.division is None and (against or given.empty_gross or given.heavy_gross):
            text = "Read the division off the ticket, and type it: it says how near is near enough."
            sheet.absent.append(missing("inputs.ticket_division", text))

    def _figures(self) -> None:
        results, unit, groups = self.sheet.results, self.unit, self.groups
        pairs = [(g.empty_ticket, g.heavy_ticket) for g in groups]
        if groups and all(empty and heavy for empty, heavy in pairs):
            payloads = [heavy.si - empty.si for empty, heavy in pairs if empty and heavy]
            results.payloads = [in_unit(payload, unit) for payload in payloads]
            results.total_payload = in_unit(math.fsum(payloads), unit)
        lines = [line for group in groups if (line := _line(group))]
        if lines and len(lines) == len(groups):
            results.slopes = [in_unit(slope, unit) for slope, _ in lines]
            results.offsets = [in_unit(offset, unit) for _, offset in lines]
        results.empty_mismatch = self._mismatch([g.empty_ticket for g in groups], self.given.empty_gross)
        results.heavy_mismatch = self._mismatch([g.heavy_ticket for g in groups], self.given.heavy_gross)
        matches = [apart for group in groups for apart in _matches(group) if apart is not None]
        if matches:
            results.match_errors = [in_unit(apart, unit) for apart in matches]
        self._found()
        self._more_to_load()
        self.sheet.remarks["groups"] = [self._told(group) for group in groups]
        if groups and all(g.proof_ticket and g.proof_shown and g.proof_ticket.si > 0 for g in groups):
            errors = [g.proof_shown.si - g.proof_ticket.si for g in groups if g.proof_shown and g.proof_ticket]
            weighed = math.fsum(g.proof_ticket.si for g in groups if g.proof_ticket)
            results.proof_errors = [in_unit(error, unit) for error in errors]
            results.proof_error = in_unit(math.fsum(errors), unit)
            results.proof_error_share = percent(math.fsum(errors) / weighed)

    def _found(self) -> None:
        """What it showed before it was stepped, against the tickets: heavy where that was read, else empty."""
        for load in ("heavy", "empty"):
            pairs = [(g.heavy_before, g.heavy_ticket) if load == "heavy" else (g.empty_before, g.empty_ticket) for g in self.groups]  # fmt: skip
            if not pairs or not all(before and ticket and ticket.si > 0 for before, ticket in pairs):
                continue
            errors = [before.si - ticket.si for before, ticket in pairs if before and ticket]
            weighed = math.fsum(ticket.si for _, ticket in pairs if ticket)
            self.sheet.results.found_errors = [in_unit(error, self.unit) for error in errors]
            self.sheet.results.found_error_share = percent(math.fsum(errors) / weighed)
            return

    def _more_to_load(self) -> None:
        """How much to add before the heavy ticket: a payload large enough to be a lever, group by group."""
        wanted = []
        for place, group in enumerate(self.groups):
            if group.empty_ticket and not group.heavy_ticket and group.empty_ticket.si > 0:
                least = max(LEAST_SHARE * group.empty_ticket.si, LEAST_DIVISIONS * (self.division or 0.0))
                wanted.append(f"{_name(group, place)} {mass_shown(least, self.unit, 3)}")
        if wanted:
            self.sheet.plan.append(
                f"Load at least so much more on each group before the heavy ticket: {', '.join(wanted)}."
            )

    def _mismatch(self, tickets: list[Quantity | None], gross: Quantity | None) -> Figure | None:
        """By how much the groups add up to more than the printed gross; None while any of them is missing."""
        read = [ticket.si for ticket in tickets if ticket]
        if not gross or not read or len(read) < len(tickets):
            return None
        return in_unit(math.fsum(read) - gross.si, self.unit)

    def _told(self, group: Group) -> dict[str, Remark]:
        said = {}
        for load, ticket, shows in group.weighings():
            if ticket is None or shows is None:
                continue
            apart = shows.si - ticket.si
            near = load == "proof" or self.division is None or at_most(abs(apart), self.division)
            text = f"{shown(from_si(apart, self.unit), 5, sign=True)} {self.unit}"
            said[f"{load}_off"] = Remark(text, apart, "" if load == "proof" else "good" if near else "bad")
        line = _line(group)
        if line:
            said["slope"] = Remark(mass_shown(line[0], self.unit), line[0])
        return said

    def _half_entered(self, half: Sequence[tuple[int, Group, str]]) -> Assessment[AxleResults]:
        reasons = []
        for place, group, gone in half:
            load = "both loads are" if gone == "both" else f"the {gone} ticket is"
            text = f"{_name(group, place)}: {load} missing. Not valid until both loads of every group are in; either may come first."
            key = "heavy_ticket" if gone == "heavy" else "empty_ticket"
            reasons.append(Reason("half-entered", text, {"path": f"inputs.groups[{place}].{key}"}))
        whole = {gone for _, _, gone in half}
        load = whole.pop() if len(half) == len(self.groups) and len(whole) == 1 else ""
        headline = f"Half entered: weigh it {load}" if load in ("empty", "heavy") else "Half entered"
        return self.sheet.answer(KEEP_TESTING, reasons, headline=headline, lead="Not valid until both loads are in.")

    def _lever_reversed(self) -> list[Reason]:
        reasons = []
        for place, group in enumerate(self.groups):
            if not group.empty_ticket or not group.heavy_ticket:
                continue
            name = _name(group, place)
            if group.heavy_ticket.si <= group.empty_ticket.si:
                text = f"{name}: {group.heavy_ticket.text} heavy is no more than {group.empty_ticket.text} empty. Look whether the tickets changed places."
                self.sheet.check("heavier", "fail", text)
                reasons.append(Reason("sanity", text, {"path": f"inputs.groups[{place}].heavy_ticket"}))
            empty, heavy = group.empty_raw, group.heavy_raw
            if empty is not None and heavy is not None and heavy <= empty:
                how = "does not move" if heavy == empty else "falls"
                text = f"{name}: with the load on its raw figure {how}, from {shown(empty, 6)} to {shown(heavy, 6)}: a sensor the wrong way round, or a valve that levels it."
                self.sheet.check("heavier", "fail", text)
                reasons.append(Reason("sanity", text, {"path": f"inputs.groups[{place}].heavy_raw"}))
        if not reasons:
            self.sheet.check("heavier", "pass", "Every group is heavier with the load on.")
        return reasons

    def _not_matched(self) -> list[Reason]:
        reasons, matched, unsaid = [], 0, []
        for place, group in enumerate(self.groups):
            for load, apart in zip(("empty", "heavy"), _matches(group), strict=True):
                if apart is None:
                    if group.empty_ticket if load == "empty" else group.heavy_ticket:
                        unsaid.append(f"{_name(group, place)}, {load}")
                    continue
                matched += 1
                if self.division is not None and not at_most(abs(apart), self.division):
                    text = (
                        f"{_name(group, place)}, {load}: it shows {mass_shown(apart, self.unit)} "
                        f"{'more' if apart > 0 else 'less'} than its ticket. Step it until it is within {mass_shown(self.division, self.unit)}."
                    ).replace("−", "")
                    reasons.append(Reason("match-again", text, {"path": f"inputs.groups[{place}].{load}_shown"}))
        if reasons:
            self.sheet.check("matched", "fail", reasons[0].text)
        elif matched:
            self.sheet.check("matched", "pass", "Every reading that was stepped stands at its ticket.")
        if unsaid:
            self.unsaid = True
            text = f"{'; '.join(unsaid)}: not said whether it matched. Type what it shows after it was stepped."
            self.sheet.check("match-unknown", "note", text)
        return reasons

    def _against_gross(self) -> list[Reason]:
        reasons = []
        results, given = self.sheet.results, self.given
        for load, apart, gross in (
            ("empty", results.empty_mismatch, given.empty_gross),
            ("heavy", results.heavy_mismatch, given.heavy_gross),
        ):
            if apart is None or gross is None or self.division is None:
                continue
            by, allowed, printed = apart.si, self.division * len(self.groups), gross.text
            if at_most(abs(by), allowed):
                self.sheet.check("gross", "pass", f"The groups, {load}, add up to the printed {printed}.")
                continue
            way = "more" if by > 0 else "less"
            text = f"The groups, {load}, add up to {mass_shown(abs(by), self.unit)} {way} than the printed {printed}; {mass_shown(allowed, self.unit)} is allowed. A ticket was misread, or the groups were split wrongly on the scale."
            self.sheet.check("gross", "fail", text)
            reasons.append(Reason("sanity", text, {"path": f"inputs.{load}_gross"}))
        return reasons

    def _levers(self) -> None:
        for place, group in enumerate(self.groups):
            if not group.empty_ticket or not group.heavy_ticket:
                continue
            payload = group.heavy_ticket.si - group.empty_ticket.si
            short = []
            if self.division is not None and payload < LEAST_DIVISIONS * self.division * (1 - 1e-9):
                short.append(
                    f"{shown(payload / self.division, 3)} divisions of the ticket, and {LEAST_DIVISIONS} are wanted"
                )
            if payload < LEAST_SHARE * group.empty_ticket.si * (1 - 1e-9):
                short.append(
                    f"{percent_shown(payload / group.empty_ticket.si, decimals=1)} of its empty weight, and {percent_shown(LEAST_SHARE, decimals=0)} is wanted"
                )
            if short:
                text = f"{_name(group, place)}: a payload of {mass_shown(payload, self.unit)} is a short lever: {'; '.join(short)}."
                if self._steers(place):
                    text += " A steer group gains little: that is as usual."
                self.sheet.check("small-lever", "note", text)  # fmt: skip

    def _steers(self, place: int) -> bool:
        """Whether a group is the one that steers: named so, or the first of several where none is."""
        names = [(group.name or "").lower() for group in self.groups]
        named = [at for at, name in enumerate(names) if "steer" in name or "front" in name]
        return place in named if named else place == 0 and len(names) > 1

    def _two_scales(self) -> None:
        empty, heavy = self.given.empty_scale, self.given.heavy_scale
        if empty and heavy and empty.strip().lower() != heavy.strip().lower():
            apart = self.given.scales_differ_by or SCALES_DIFFER
            text = f"Empty was weighed on {empty.strip()}, heavy on {heavy.strip()}: two scales may differ by {mass_shown(apart.si, apart.unit)}. Use one for both."
            self.sheet.check("two-scales", "note", text)

    def _unproven(self) -> Assessment[AxleResults]:
        known = [_name(group, place) for place, group in enumerate(self.groups) if _by_known_ratio(group)]
        if known:
            source = f" ({self.given.ratio_from.strip()})" if self.given.ratio_from else ""
            text = f"{', '.join(known)}: one load, and a known ratio of an earlier record{source}: provisional until a third weighing proves it."
            reasons = [Reason("provisional", text), Reason("unproven", "No third weighing has proved it yet.")]
            return self.sheet.answer(LEAVE, reasons, headline="Provisional, not proven yet", lead=text)
        matched = ", and it is not said whether all of it matched" if self.unsaid else " and matched"
        text = f"Both loads are in{matched}. A third weighing, with another load, proves it; until then it is unproven."
        return self.sheet.answer(
            LEAVE, [Reason("unproven", text)], headline="Set, not proven yet", lead="Both loads are in."
        )

    @property
    def _differ(self) -> float:
        """By how much the proof's ground scale may differ from that of the heavy load, kg; nothing where it is the same."""
        heavy, proof = self.given.heavy_scale, self.given.proof_scale
        if not heavy or not proof or heavy.strip().lower() == proof.strip().lower():
            return 0.0
        return (self.given.scales_differ_by or SCALES_DIFFER).si

    def _proof(self, again: str = "outside-limit") -> Assessment[AxleResults]:
        sheet, accept = self.sheet, self.setting.profile.accept
        shows = [g.proof_shown for g in self.groups if g.proof_shown]
        tickets = [g.proof_ticket for g in self.groups if g.proof_ticket]
        weighed, read = math.fsum(t.si for t in tickets), math.fsum(s.si for s in shows)
        error, share = read - weighed, read / weighed - 1
        off = f"At the third weighing it shows {mass_shown(abs(error), self.unit)} too {'much' if error > 0 else 'little'}, {percent_shown(abs(share))}"
        if accept is None:
            text = "This profile has no accept limit: say how far off is still in order."
            return sheet.answer("not-ready", [missing("profile.accept", text)])
        if read > 0:
            units = Entered(Plates(), tickets[0].unit, shows[0].unit)
            sheet.slips = explain(weighed / read, 0.0, units)
        differ = self._differ
        inside = accept.kept(share, error) or (
            differ > 0 and at_most(abs(error), accept.relative_at(weighed) * weighed + differ)
        )
        limit = str(accept)
        if differ:
            limit = f"{accept} and the {mass_shown(differ, self.unit)} by which two ground scales may differ"
            text = f"The proof was weighed on {(self.given.proof_scale or '').strip()}, the heavy load on {(self.given.heavy_scale or '').strip()}: {mass_shown(differ, self.unit)} are added to the limit."
            sheet.check("two-scales", "note", text)
        apart = [place for place, (s, t) in enumerate(zip(shows, tickets, strict=True)) if not self._group_near(s, t)]
        sheet.down = error > 0
        if inside and not apart:
            text = (
                f"{off}; within {limit}, and each group within twice that."
                if error
                else f"The third weighing reads what the ticket says; the limit is {limit}."
            )
            if self._verifies():
                text = text.replace("third weighing", "ticket's weighing")
            headline = "In order: leave it alone" if self._verifies() else "Proven: leave it alone"
            return sheet.answer(LEAVE, [Reason("within-limit", text)], headline=headline, lead=text)
        wild = (
            implausible(weighed / read, self.setting.profile, self.setting.occasion, off, "stepping")
            if read > 0
            else Reason("implausible", f"{off}: nothing to take a ratio from.")
        )
        if wild:
            return sheet.answer(FIND_FAULT, [wild], look=WHERE_TO_LOOK)
        reasons = [] if inside else [Reason(again, f"{off}; outside {limit}. Match both loads again.")]
        for place in apart:
            by = shows[place].si - tickets[place].si
            text = f"{_name(self.groups[place], place)} is off by {mass_shown(abs(by), self.unit)}, more than twice the limit: match it again."
            reasons.append(Reason(again, text, {"path": f"inputs.groups[{place}].proof_shown"}))
        return sheet.answer(ADJUST, reasons, headline="Match it again", lead=f"{off}.")

    def _group_near(self, shows: Quantity, ticket: Quantity) -> bool:
        """Within twice the accept limit, or within one division of the ticket."""
        accept, apart = self.setting.profile.accept, shows.si - ticket.si
        near = self.division is not None and at_most(abs(apart), self.division)
        if near or accept is None:
            return near
        allowed = 2 * accept.relative_at(ticket.si) * ticket.si + self._differ
        return accept.kept(apart / ticket.si / 2, apart / 2) or (self._differ > 0 and at_most(abs(apart), allowed))


def _line(group: Group) -> tuple[float, float] | None:
    """Slope (kg for one raw count) and offset (kg) of a group; None where a figure is missing or the raw ones are alike."""
    known = _by_known_ratio(group)
    if known and group.known_slope:
        return group.known_slope.si, known[0].si - group.known_slope.si * known[1]
    empty, heavy = group.empty_raw, group.heavy_raw
    if empty is None or heavy is None or heavy == empty or not group.empty_ticket or not group.heavy_ticket:
        return None
    slope = (group.heavy_ticket.si - group.empty_ticket.si) / (heavy - empty)
    return slope, group.empty_ticket.si - slope * empty


def _matches(group: Group) -> tuple[float | None, float | None]:
    """What was shown less what the ticket says, in kg, empty and heavy; None where either is missing."""
    pairs = ((group.empty_shown, group.empty_ticket), (group.heavy_shown, group.heavy_ticket))
    empty, heavy = (s.si - t.si if s and t else None for s, t in pairs)
    return empty, heavy


def _name(group: Group, place: int) -> str:
    return group.name or f"Group {place + 1}"


class JudgedAxleTwoLoad(AxleTwoLoad):
    """`axle-two-load`, judged."""

    def assess(self, given: AxleInputs, setting: Setting) -> Assessment[AxleResults]:
        sheet = Draft(self, setting)
        sheet.need(given, "groups")
        return _Axles(sheet, given, setting).answer()

    def errors(self, given: AxleInputs, answer: Assessment[AxleResults]) -> Errors | None:
        share, found = value_of(answer.results.proof_error_share), value_of(answer.results.found_error_share)
        if share is None and found is None:
            return None
        stepped = _stepped(given) or any(g.empty_ticket or g.heavy_ticket for g in given.groups or [])
        return Errors(found, share, unread=found is None) if stepped else Errors(share)

    def draw(self, given: AxleInputs, seen: Seen) -> drawings.Axles:
        """The vehicle from the side, with what each group carries at the load that was typed last."""
        groups = given.groups or []
        marks = []
        for place, group in enumerate(groups):
            load = group.proof_ticket or group.heavy_ticket or group.empty_ticket
            marks.append(
                GroupMark(
                    label=group.name or str(place + 1),
                    empty=drawings.figure(group.empty_ticket, 6),
                    heavy=drawings.figure(group.heavy_ticket, 6),
                    carries=drawings.figure(load, 6),
                    missing=_missing(group),
                )
            )
        return drawings.Axles(groups=tuple(marks), valid=bool(groups) and not any(mark.missing for mark in marks))


METHOD = JudgedAxleTwoLoad()
