"""The machines that an organisation practises on, and which hidden state is drawn."""

from django.http import Http404

from beacon.people.access import locked
from beacon.people.models import Organisation
from beacon.plant.models import Cell, Channel, Reference, Site, System, limits_of
from wary.machines import all_machines
from wary.simulators import stand_in_of
from wary.simulators.stand_in import OnRecord


def practice_channel(of: Organisation, kind: str) -> Channel:
    """The organisation's practice machine of a kind, made when it is first wanted, with the plates that it has today."""
    machine = all_machines()[kind]
    # One at a time, so that there is one machine of each kind.
    locked(of)
    known = stand_in_of(machine).on_record()
    system = System.objects.filter(site__organisation=of, practice=True, kind=kind).first()
    if system is None:
        site = Site.objects.filter(organisation=of).order_by("place").first()
        if site is None:
            raise Http404
        profile = limits_of(of, machine.profile)
        system = System(site=site, kind=kind, practice=True, profile=profile)
    system.reference = _reference(of, known)
    system.name, system.material, system.plates = known.name, known.material, known.plates
    system.factor_decimals, system.nominal_factor = known.factor_decimals, known.factor.rstrip("0").rstrip(".")
    system.save()
    channel = system.channels.first() or Channel(system=system)
    channel.name, channel.factor, channel.zero = known.channel or machine.channels[0], known.factor, known.zero
    channel.figures = known.figures
    channel.save()
    _cells(channel, known)
    return Channel.objects.select_related("system__site__organisation", "system__profile", "system__reference").get(
        pk=channel.pk
    )


def _reference(of: Organisation, known: OnRecord) -> Reference:
    """The reference of a stand-in; it is told apart from those of real work."""
    given = {
        "kind": known.reference_kind, "division": known.reference_division, "range": known.reference_range,
        "nominal": known.reference_nominal,
    }  # fmt: skip
    found, _ = Reference.objects.update_or_create(
        organisation=of, name=known.reference, practice=True, defaults=given, create_defaults=given
    )
    return found


def _cells(channel: Channel, known: OnRecord) -> None:
    if known.cells and not channel.cells.exists():
        Cell.objects.bulk_create(
            Cell(channel=channel, place=place, label=label, capacity=known.cell_capacity, sensitivity=known.cell_sensitivity)
            for place, label in enumerate(known.cells)
        )  # fmt: skip
