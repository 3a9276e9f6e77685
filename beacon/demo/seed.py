"""Fills an empty database with the demo: its plant, then its past."""

import datetime
from zoneinfo import ZoneInfo

from django.db import transaction
from django.utils import timezone

from beacon.demo import scenario
from beacon.demo.past import Past, loads
from beacon.people.models import Membership, Organisation, Person
from beacon.plant.models import Channel, LimitProfile, Reference, Site, System, starting_profiles


@transaction.atomic
def seed() -> Organisation:
    """The demo's organisation, made where it is not there yet."""
    there = Organisation.objects.filter(name=scenario.ORGANISATION).first()
    if there:
        return there
    made = Organisation.objects.create(name=scenario.ORGANISATION)
    _plant(made)
    _past(made)
    return made


def days_ago(days: int, hour: int = 8, minute: int = 10) -> datetime.datetime:
    """A morning so many days ago, at the sites."""
    zone = ZoneInfo(scenario.ZONE)
    day = timezone.now().astimezone(zone) - datetime.timedelta(days=days)
    return min(
        day.replace(hour=hour, minute=minute, second=0, microsecond=0), timezone.now() - datetime.timedelta(hours=2)
    )


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
    for machine in scenario.SYSTEMS:
        system = System.objects.create(
            site=sites[machine.site],
            kind=machine.kind,
            name=machine.name,
            material=machine.material,
            serial=machine.serial,
            plates=machine.plates,
            profile=LimitProfile.objects.get(organisation=organisation, key=machine.profile),
            reference=Reference.objects.filter(organisation=organisation, name=machine.reference).first(),
            correction=machine.correction,
            factor_name=machine.factor_name,
            factor_decimals=machine.decimals,
            direction=machine.direction,
            nominal_factor=machine.nominal,
            interval_days=machine.interval,
            notes=machine.notes,
        )
        for place, (name, factor, weights, zero) in enumerate(machine.channels):
            Channel.objects.create(
                system=system, name=name, place=place, factor=factor, test_weight_factor=weights, zero=zero
            )


def _channel(organisation: Organisation, system: str) -> Channel:
    return Channel.objects.select_related("system__site__organisation", "system__profile", "system__reference").get(
        system__site__organisation=organisation, system__name=system, place=0
    )


def _past(organisation: Organisation) -> None:
    ines = Person.objects.get(username="ines@gannetness.example")
    corin = Person.objects.get(username="corin@gannetness.example")
    long_ago = Past(corin, _channel(organisation, "Shell conveyor C2"), "belt-material-test", days_ago(171, 9))
    long_ago.look().enter({"inputs.zero_done": "job", "inputs.factor": "1.1574"})
    long_ago.rows(
        "runs",
        loads(
            [
                (
                    "34.22",
                    "12.74",
                    "20.31",
                    "first load of the day: the hatch was left open and part of it fell beside",
                ),
                ("33.96", "12.76", "21.50"),
                ("32.58", "12.74", "20.12"),
                ("33.40", "12.74", "20.95"),
                ("33.86", "12.76", "21.40"),
            ]
        ),
    )
    long_ago.enter({"read_back": "1.1420", "conditions": "Dry, light wind, shell at about 4 % moisture."})
    long_ago.rows(
        "as_left",
        loads([("33.12", "12.74", "20.40"), ("33.74", "12.76", "20.96"), ("32.90", "12.74", "20.18")]),
    ).close()

    fine = Past(ines, _channel(organisation, "Stockpile conveyor C5"), "belt-material-test", days_ago(64, 10))
    fine.look().enter({"inputs.zero_done": "job"})
    fine.rows("runs", loads([("29.84", "12.72", "17.10"), ("30.48", "12.74", "17.79"), ("30.12", "12.72", "17.37")]))
    fine.enter({"note": "In order. Nothing touched."}).close()

    under_way = Past(ines, _channel(organisation, "Shell conveyor C2"), "belt-material-test", days_ago(0, 7, 30))
    under_way.look("auto-zero", "guards").enter({"inputs.zero_done": "job"})
    under_way.rows("runs", loads([("34.10", "12.76", "21.66"), ("32.61", "12.74", "20.13")]))
