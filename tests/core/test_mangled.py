"""Mangled job files, made up by the thousand: each is refused with sentences, or gets an assessment of finite figures.

Here are a thousand of them; `./run fuzz` makes twenty thousand at a time.
"""

import copy
import datetime
import json
import math
import os
import unittest
import uuid
from typing import Any

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.worked import WORKED
from wary.clean import fit, unfit
from wary.fields import Inputs
from wary.job.assess import assess
from wary.job.file import Refused, decode, read
from wary.job.fold import rebuilt
from wary.job.places import joined
from wary.job.subject import Subject
from wary.job.view import bench
from wary.job.written import written
from wary.log import Entry
from wary.machines import all_machines
from wary.machines.machine import Part
from wary.methods import all_methods
from wary.methods.method import NO_LIMITS, Method
from wary.methods.within import assessed, furthest
from wary.results import Results

EXAMPLES = int(os.environ.get("BEACON_EXAMPLES", "1000"))

NASTY = st.one_of(
    st.sampled_from(
        [
            None, "", " ", "0", "1e300", "1e300 kg", "-1e300 kg", "1e-300 kg", "1e308 t", "1e300 mV/V", "1e300 mV", "1e300 mA",
            "1e300 s", "0 kg", "-5 kg", "nan kg", "inf kg", "kg", "12 parsecs", "1 lb 17 oz", "9999-12-31", "0001-01-01", "yes",
            "\u2212", "1,000,000", "½ kg", "١٢ kg", "x" * 3000, True, False, 0, -1, 1, 10**400, 2**63, 1e300, -1e300, 1e-300,
            1e999, [], {}, [[]], [{}], [None], "a\x00b", "\ud800", {"value": "1 kg"}, ["1 kg"] * 3,
        ]
    ),
    st.floats(),
    st.integers(),
    st.text(max_size=12),
)  # fmt: skip


def _documents() -> list[dict[str, Any]]:
    """One whole job file of each method, as it is worked."""
    found = []
    for one in WORKED:
        entries = [
            Entry(uuid.UUID(int=number), number, path, text) for number, (path, text) in enumerate(one.texts.items(), 1)
        ]
        order = (("", one.method),)
        subject = Subject(all_machines()[one.kind], one.plates)

        snapshot = assess(subject, (Part("", one.method),), rebuilt(entries, order), datetime.date(2031, 3, 1))
        found.append(json.loads(json.dumps(written(snapshot))))
    return found


DOCUMENTS = _documents()


def finite(found: Any) -> bool:
    """Whether no figure in it is infinite or no number."""
    if isinstance(found, float):
        return math.isfinite(found)
    inside = found.values() if isinstance(found, dict) else found if isinstance(found, (list, tuple)) else ()
    return all(finite(one) for one in inside)


def _places(found: Any, way: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    """Every place in a document, by its keys."""
    places = [way] if way else []
    if isinstance(found, dict):
        for key, one in found.items():
            places += _places(one, (*way, key))
    elif isinstance(found, list):
        for place, one in enumerate(found):
            places += _places(one, (*way, place))
    return places


@st.composite
def mangled(draw: st.DrawFn) -> dict[str, Any]:
    """A whole job file in which some places hold something else, are gone, or stand twice."""
    document = copy.deepcopy(draw(st.sampled_from(DOCUMENTS)))
    for _ in range(draw(st.integers(1, 4))):
        places = [
            way for way in _places(document) if way[0] in ("inputs", "profile", "references", "date", "method", "visit")
        ]
        if not places:
            break
        way = draw(st.sampled_from(places))
        block: Any = document
        for key in way[:-1]:
            block = block[key]
        act = draw(st.integers(0, 9))
        if act == 0:
            del block[way[-1]]
        elif act == 1 and isinstance(block, dict):
            block[draw(st.text(max_size=8))] = copy.deepcopy(draw(NASTY))
        elif act == 2 and isinstance(block, list):
            block.append(copy.deepcopy(draw(NASTY)))
        else:
            block[way[-1]] = copy.deepcopy(draw(NASTY))
    return document


class JobFiles(unittest.TestCase):
    def answered(self, text: str) -> None:
        try:
            answer = read(decode(text)).assess().as_json()
        except Refused as refused:
            self.assertTrue(all(one.text for one in refused.refusals))
            return
        json.dumps(answer, allow_nan=False)
        self.assertTrue(answer["call"])

    @settings(max_examples=EXAMPLES, deadline=None, suppress_health_check=list(HealthCheck))
    @given(mangled())
    def test_every_mangled_file_gets_an_answer(self, document: dict[str, Any]) -> None:
        self.answered(json.dumps(document))

    @settings(max_examples=EXAMPLES // 10, deadline=None)
    @given(st.text())
    def test_any_text_gets_an_answer(self, text: str) -> None:
        self.answered(text)

    def test_figures_apart_by_more_than_floating_point_holds_say_so(self) -> None:
        said = 0
        for document in DOCUMENTS:
            for way in _places(document["inputs"]):
                for huge in ("1e300", "1e-300"):
                    broken = copy.deepcopy(document)
                    block = broken["inputs"]
                    for key in way[:-1]:
                        block = block[key]
                    unit = str(block[way[-1]]).rpartition(" ")[2]
                    block[way[-1]] = f"{huge} {unit}"
                    with self.subTest(f"{document['method']} {way}"):
                        try:
                            answer = read(broken).assess()
                        except Refused:
                            continue
                        json.dumps(answer.as_json(), allow_nan=False)
                        said += any(reason.code == "out-of-range" for reason in answer.reasons)
        self.assertGreater(said, 0)

    def test_a_block_with_half_a_million_equal_names_is_refused_at_once(self) -> None:
        with self.assertRaises(Refused):
            decode("{" + ",".join(['"a":1'] * 300_000) + "}")
        with self.assertRaises(Refused):
            decode("[" * 100_000)


class OnTheBench(unittest.TestCase):
    """The same nastiness typed: whatever is typed, the job stands and is shown."""

    @settings(max_examples=EXAMPLES // 10, deadline=None, suppress_health_check=list(HealthCheck))
    @given(st.data())
    def test_whatever_is_typed_the_job_stands(self, data: st.DataObject) -> None:

        one = data.draw(st.sampled_from(WORKED))
        texts = dict(one.texts)
        for _ in range(data.draw(st.integers(1, 3))):
            path = data.draw(st.sampled_from(sorted(texts)))
            text = str(data.draw(NASTY))[:2000]
            # What cannot be kept at all is refused before it stands anywhere.
            texts[path] = text if fit(text) else "?"
        entries = [
            Entry(uuid.UUID(int=number), number, joined("", path), text)
            for number, (path, text) in enumerate(texts.items(), 1)
        ]
        subject = Subject(all_machines()[one.kind], one.plates)
        fold = rebuilt(entries, (("", one.method),))
        snapshot = assess(subject, (Part("", one.method),), fold, datetime.date(2031, 3, 1))
        shown = bench(snapshot)
        self.assertTrue(all(finite(part.model_dump()) for part in shown.parts))


class Parts(unittest.TestCase):
    def test_what_no_text_may_hold(self) -> None:
        self.assertTrue(fit("Tür, ½ t − 5 °C 🧪"))
        for text in ("a\x00", "\ud83e", "\udc00x"):
            self.assertFalse(fit(text))
        deep: Any = "x"
        for _ in range(60):
            deep = [deep]
        for found, path in (
            ({"a": ["\x00"]}, "a[0]"), ({"a\x00": 1}, ""), (math.inf, ""), (2**64, ""), (deep, "[0]" * 40),
        ):  # fmt: skip
            self.assertEqual([one for one, _ in unfit(found)], [path])
        self.assertFalse(list(unfit({"a": [1, 2.5, "x", None, True]})))

    def test_the_figure_furthest_from_ordinary_is_named(self) -> None:
        given = all_methods()["belt-length"].inputs.model_validate({"speed": "1e200 m/s", "revolution_times": ["30 s"]})
        self.assertEqual(furthest(given), ("speed", "1e200 m/s"))
        self.assertEqual(furthest([]), ("", ""))

    def test_a_method_that_overflows_answers(self) -> None:
        class Broken(Method[Inputs, Results]):
            key = "broken"
            results = Results

            def assess(self, given: Any, setting: Any) -> Any:
                raise OverflowError

        answer = assessed(Broken(), Inputs(), NO_LIMITS)
        self.assertEqual([reason.code for reason in answer.reasons], ["out-of-range"])
