"""What a closed practice came to, and the progress somebody made over all of theirs."""

from collections import Counter
from collections.abc import Iterable
from typing import Any

from django.db.models import QuerySet

from beacon.bench.models import Entry, Job
from beacon.bench.revisions import day_of, snapshot_of, subject_of
from beacon.people.models import Organisation, Person
from beacon.practice.models import Practice
from wary.job.assess import Snapshot, case_of
from wary.job.evidence import looks_of, signs_in
from wary.job.places import REFERENCES
from wary.job.story import MOST_FOLLOWED, Story, clock, story
from wary.machines import all_machines
from wary.rules.assessment import FIND_FAULT, Call
from wary.simulators.score import TITLES, Facts, Score, score
from wary.simulators.stand_in import INSPECT
from wary.suspects.suspect import Sign

STOPPED = ("out-of-service", "left-for-repair", "abandoned")
Answer = dict[str, Any]


def facts(practice: Practice, snapshot: Snapshot) -> Facts:
    """What was done in a practice that is closed, for its score."""
    job = practice.job
    outcome = (job.closing or {}).get("outcome", "")
    begun = [part for part in snapshot.parts.values() if part.begun]
    call: Call = snapshot.machine.call
    if any(part.assessment.call == FIND_FAULT for part in begun) or snapshot.machine.call == FIND_FAULT:
        call = FIND_FAULT
    at = clock(practice.started_at, practice.done)
    return Facts(
        call=call,
        stopped=outcome in STOPPED,
        unproven=bool(snapshot.not_valid),
        read_back=any(part.marks.read_back for part in begun),
        minutes=at(job.closed_at or job.touched_at) / 60,
        runs=_readings(practice),
    )


def _readings(practice: Practice) -> int:
    """Rows that were written down, in whatever list."""
    written = Entry.objects.filter(job=practice.job, source__in=(Entry.Source.TYPED, Entry.Source.CAPTURED))
    paths = written.exclude(text="").filter(path__contains=".").values_list("path", flat=True)
    plain = ("inputs.", "tick.", "caution.", "loose.", f"{REFERENCES}.", "profile.", "row.")
    rows = {path.rpartition(".")[0] for path in paths if not path.rpartition("/")[2].startswith(plain)}
    return len(rows)


def would_have_told(practice: Practice) -> list[str]:
    """The looks that would have shown what was wrong, each with when it was made, if it was."""
    known = looks_of(practice.job.channel.system.machine)
    made = {one.what.removeprefix(INSPECT): one.at for one in practice.done if one.what.startswith(INSPECT)}
    entered = {sign.look for sign in _signs(practice)}
    found = []
    for key in practice.machine.hidden.seen:
        words = known[key][0].words
        if key in made:
            found.append(f"{words} You looked after {made[key] / 60:.0f} min.")
        elif key in entered:
            found.append(f"{words} You did that.")
        else:
            found.append(f"{words} It was not looked at.")
    return found


def _signs(practice: Practice) -> list[Sign]:
    return [sign for part in case_of(snapshot_of(practice.job)).parts for sign in signs_in(part)]


def overlooked(practice: Practice) -> list[str]:
    """The looks that would have shown a fault which went unseen, in words; none where it was found."""
    if kept_score(practice).get("judged", {}).get("found") is not False:
        return []
    known = looks_of(practice.job.channel.system.machine)
    return [known[key][0].words for key in list(practice.machine.hidden.seen)[:1]]


def score_of(practice: Practice) -> Score:
    """The score of a closed practice."""
    snapshot = snapshot_of(practice.job)
    machine = practice.machine
    return score(machine.truth(practice.done), facts(practice, snapshot), machine.minutes)


def kept_score(practice: Practice) -> Answer:
    """What a closed practice came to, as it was kept when it was closed; worked out for one that is older than that."""
    return practice.scored or _as_kept(score_of(practice))


def _as_kept(found: Score) -> Answer:
    return {"good": found.good, "verdict": found.verdict, "judged": {one.decision: one.right for one in found.judged}}


def keep_score(job: Job) -> None:
    """Keeps what a practice came to, once its job is closed and within the same transaction."""
    practice = Practice.objects.select_for_update(of=("self",), no_key=True).filter(job=job).first()
    if practice is not None:
        practice.job = job
        practice.scored = _as_kept(score_of(practice))
        practice.save(update_fields=["scored"])


def story_of(practice: Practice) -> Story:
    """What was done in a practice, in the order of time."""
    job = practice.job
    entries = list(Entry.objects.filter(job=job).select_related("who").order_by("sequence")[: MOST_FOLLOWED + 1])
    return story(
        practice.machine,
        practice.done,
        [one.logged for one in entries],
        subject_of(job),
        job.parts,
        day_of(job),
        practice.started_at,
    )


def practices(of: Organisation, who: Person | None = None) -> QuerySet[Practice]:
    """The practices of an organisation, the latest first; of one person where asked."""
    found = Practice.objects.filter(job__channel__system__site__organisation=of)
    if who is not None:
        found = found.filter(job__opened_by=who)
    return found.select_related("job__channel__system", "scenario__of").order_by("-started_at")


def progress(done: Iterable[Practice]) -> Answer:
    """How somebody fares: by decision and by kind of machine, how often right of how often asked; and what is missed most."""
    asked: Counter[str] = Counter()
    right: Counter[str] = Counter()
    kinds: Counter[str] = Counter()
    good: Counter[str] = Counter()
    unseen: Counter[str] = Counter()
    for practice in done:
        kept = kept_score(practice)
        kind = practice.job.channel.system.kind
        kinds[kind] += 1
        good[kind] += bool(kept.get("good"))
        unseen.update(overlooked(practice))
        for decision, was_right in kept.get("judged", {}).items():
            asked[decision] += 1
            right[decision] += was_right
    decisions = [
        {"decision": key, "title": title, "right": right[key], "of": asked[key]}
        for key, title in TITLES.items()
        if asked[key]
    ]
    missed = sorted((row for row in decisions if row["right"] < row["of"]), key=lambda row: row["right"] / row["of"])  # type: ignore[operator]
    return {
        "practices": sum(kinds.values()),
        "right": sum(good.values()),
        "decisions": decisions,
        "kinds": [
            {"key": key, "title": all_machines()[key].title, "right": good[key], "of": kinds[key]}
            for key in sorted(kinds, key=lambda key: (good[key] / kinds[key], key))
        ],
        "missed": [row["title"] for row in missed[:3]],
        "overlooked": [{"words": words, "times": times} for words, times in unseen.most_common(5)],
    }
