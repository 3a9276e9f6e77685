"""What is calibrated by itself on a system: recipes, doses, buckets; added, copied and changed with a trail."""

from uuid import UUID

from django.db import transaction
from django.http import Http404, HttpRequest
from ninja import Router

from beacon.people.access import person, works_at
from beacon.people.models import Person
from beacon.plant import schemas
from beacon.plant.access import system_to_work_on
from beacon.plant.models import Channel, PlateChange, System
from beacon.plant.view import Answer, channel_view, refuse_unseen
from beacon.problems import Problem, ProblemDocument

router = Router(tags=["plant"])
NUMBER = "number"
MOST_CHANNELS = 500


@router.post("systems/{system_id}/channels", response={201: schemas.ChannelView, 422: ProblemDocument})
@transaction.atomic
def add_channel(request: HttpRequest, system_id: UUID, given: schemas.ChannelIn) -> tuple[int, Answer]:
    """A further channel; a copy begins with the figures of the one that it is of, under the next free number."""
    user = person(request)
    # Locked, so that no two take the same number.
    system = system_to_work_on(user, system_id, lock=True)
    there = list(system.channels.all())
    if len(there) >= MOST_CHANNELS:
        raise Problem(422, "There are too many", f"A system has at most {MOST_CHANNELS} of these.")
    figures: dict[str, object] = {}
    if given.copy_of:
        source = next((one for one in there if one.id == given.copy_of), None)
        if source is None:
            raise Http404
        figures = {key: value for key, value in source.figures.items() if key != NUMBER}
    name = (given.name or "").strip()
    wrong = [] if name else [{"path": "name", "text": "What is it called? Type a name."}]
    kept, unread = _read(system, given, there, name)
    if wrong or unread:
        raise Problem(422, "This cannot be kept yet", "Nothing was changed.", [*wrong, *unread])
    figures |= kept
    if given.copy_of:
        figures = dict(system.machine.copied(figures, system.plates)) | kept
    if any(plate.key == NUMBER for plate in system.machine.channel_plates):
        figures.setdefault(NUMBER, next_number(there))
    place = 1 + max((one.place for one in there), default=-1)
    channel = Channel.objects.create(system=system, name=name, place=place, figures=figures)
    added = f"{system.machine.channel_name} {name}"[:60]
    PlateChange.objects.create(system=system, field=added, after="added", who=user)
    return 201, channel_view(channel)


@router.patch("channels/{channel_id}", response={200: schemas.ChannelView, 409: ProblemDocument, 422: ProblemDocument})
@transaction.atomic
def change_channel(request: HttpRequest, channel_id: UUID, given: schemas.ChannelIn) -> Answer:
    """Changes a channel's name or own figures; what stood there before stays in the trail."""
    user = person(request)
    channel = _channel(user, channel_id)
    # The system first, so that no two of its channels take the same name or number.
    system = System.objects.select_for_update(of=("self",), no_key=True).get(pk=channel.system_id)
    Channel.objects.select_for_update(of=("self",), no_key=True).get(pk=channel.pk)
    channel.refresh_from_db(fields=["name", "figures"])
    now = {f"figures.{key}": str(text) for key, text in channel.figures.items()} | {"name": channel.name}
    asked = {f"figures.{key}": str(text) for key, text in given.figures.items()}
    refuse_unseen(system, given.before or {}, now, asked | ({"name": given.name.strip()} if given.name else {}))
    name = (given.name or channel.name).strip()
    kept, wrong = _read(system, given, list(system.channels.exclude(pk=channel.pk)), name)
    if wrong:
        raise Problem(422, "This cannot be kept yet", "Nothing was changed.", wrong)
    after = {key: value for key, value in channel.figures.items() if key not in given.figures} | kept
    titles = system.machine.titles()
    for key in sorted(channel.figures.keys() | after.keys()):
        old, new = str(channel.figures.get(key, "")), str(after.get(key, ""))
        if old != new:
            field = f"{name}, {titles.get(key, key).lower()}"[:60]
            PlateChange.objects.create(system=system, field=field, before=old, after=new, who=user)
    if name != channel.name:
        called = system.machine.channel_name
        PlateChange.objects.create(system=system, field=called, before=channel.name, after=name, who=user)
    channel.name, channel.figures = name, after
    channel.save(update_fields=["name", "figures"])
    return channel_view(channel)


def next_number(there: list[Channel]) -> int:
    """The lowest number that no channel has."""
    used = {one.figures.get(NUMBER) for one in there}
    return next(number for number in range(1, len(there) + 2) if number not in used)


def _read(
    system: System, given: schemas.ChannelIn, others: list[Channel], name: str
) -> tuple[dict[str, object], list[dict[str, str]]]:
    """Figures as they are kept, and a sentence for each that is none of a channel's, cannot be read, or is taken."""
    mine = {plate.key for plate in system.machine.channel_plates}
    kept, wrong = system.machine.read_plates({k: v for k, v in given.figures.items() if k in mine}, "figures")
    expected = ", ".join(sorted(mine)) or "none"
    for key in sorted(given.figures.keys() - mine):
        wrong.append({"path": f"figures.{key}", "text": f"is none of its figures; expected {expected}"})
    number = kept.get(NUMBER)
    taken = next((one.name for one in others if number is not None and one.figures.get(NUMBER) == number), None)
    if taken:
        wrong.append({"path": f"figures.{NUMBER}", "text": f"{number} is {taken}’s already."})
    if any(one.name.lower() == name.lower() for one in others):
        wrong.append({"path": "name", "text": f"There is one of the name “{name}” already."})
    return kept, wrong


def _channel(user: Person, channel_id: UUID) -> Channel:
    found = Channel.objects.filter(id=channel_id, **works_at("system__site__organisation", user))
    channel = found.select_related("system__site__organisation").first()
    if channel is None:
        raise Http404
    return channel
