"""Fills an empty database with the demo: its plant, then its past."""

import datetime

from django.db import transaction
from django.utils import timezone

from beacon.demo import filling, metering, on_wheels, planning, practising, scenario, stories
from beacon.people.models import Membership, Organisation, Person
from beacon.plant.models import (
    Cell,
    Channel,
    InstrumentKind,
    Reference,
    Site,
    System,
    limits_of,
    starting_profiles,
)


class NotADemo(Exception):
    """The demo was to be filled into a database that was begun for real."""


@transaction.atomic
def seed() -> Organisation:
    """The demo's organisation, made where it is not there yet."""
    there = Organisation.objects.filter(name=scenario.ORGANISATION).first()
    if there:
        practising.put_on_the_line(there)
        return there
    if Organisation.objects.exists():
        # Accounts whose password stands in the source are never made beside real ones.
        raise NotADemo("This database was begun for real: the demo's accounts have no place in it.")
    made = Organisation.objects.create(name=scenario.ORGANISATION)
    _plant(made)
    teller = stories.noted(made)
    on_wheels.tell(teller)
    filling.tell(teller)
    metering.tell(teller)
    planning.tell(teller)
    practising.tell(teller)
    teller.tell()
    practising.put_on_the_line(made)
    return made


def _plant(organisation: Organisation) -> None:
    starting_profiles(organisation)
    sites = {
        name: Site.objects.create(organisation=organisation, name=name, time_zone=scenario.ZONE, place=place)
        for place, name in enumerate(scenario.SITES)
    }
    for one in scenario.PEOPLE:
        person = Person.objects.create_user(one.address, one.address, scenario.PASSWORD, name=one.name)
        membership = Membership.objects.create(person=person, organisation=organisation, role=one.role)
        membership.sites.set([sites[name] for name in one.sites])
    today = timezone.now().date()
    for ref in scenario.REFERENCES:
        Reference.objects.create(
            organisation=organisation,
            due=today + datetime.timedelta(days=ref.due_in),
            **{key: value for key, value in vars(ref).items() if key != "due_in"},
        )
    for name, fields in scenario.INSTRUMENTS:
        rows = [{"title": title, "digits": digits} for title, digits in fields]
        InstrumentKind.objects.create(organisation=organisation, name=name, fields=rows)
    for machine in scenario.SYSTEMS:
        _machine(organisation, sites[machine.site], machine)


def _machine(organisation: Organisation, site: Site, machine: scenario.DemoSystem) -> None:
    system = System.objects.create(
        site=site,
        kind=machine.kind,
        name=machine.name,
        material=machine.material,
        serial=machine.serial,
        plates=machine.plates,
        profile=limits_of(organisation, machine.profile),
        reference=Reference.objects.filter(organisation=organisation, name=machine.reference).first(),
        correction=machine.correction,
        factor_name=machine.factor_name,
        factor_decimals=machine.decimals,
        direction=machine.direction,
        nominal_factor=machine.nominal,
        interval_days=machine.interval,
        notes=machine.notes,
        instrument=InstrumentKind.objects.filter(organisation=organisation).first(),
    )
    channels = [
        Channel.objects.create(
            system=system,
            name=name,
            place=place,
            factor=factor,
            test_weight_factor=weights,
            zero=zero,
            figures=machine.figures[place] if machine.figures else {},
        )
        for place, (name, factor, weights, zero) in enumerate(machine.channels)
    ]
    for place, (label, capacity, sensitivity, source, serial) in enumerate(machine.cells, 1):
        Cell.objects.create(
            channel=channels[0],
            place=place,
            label=label,
            capacity=capacity,
            sensitivity=sensitivity,
            source=source,
            serial=serial,
            fitted=timezone.now().date() - datetime.timedelta(days=1400),
        )
