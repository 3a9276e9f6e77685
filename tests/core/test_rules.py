"""The rules of the call as a sequence: the first that applies decides, and a method can put in its own."""

import unittest

from tests.core.jobs import AGREEING, assess, belt, codes
from wary.fields import limit
from wary.rules.assessment import ADJUST, FIND_FAULT, KEEP_TESTING, LEAVE, NOT_READY, Reason
from wary.rules.call import HEADLINES, RULES, Profile, Question, Rule, Verdict, judge, with_rule
from wary.rules.evidence import Evidence, Pair

PROFILE = Profile(limit("0.5 %"), 0.005, 3, 0.1)


def asked(*pairs: tuple[float, float], **more: object) -> Question:
    evidence = Evidence(tuple(Pair(number, *pair) for number, pair in enumerate(pairs)))
    return Question(evidence, PROFILE, 3, **more)  # type: ignore[arg-type]


GOOD = ((21340.0, 21340.0), (19870.0, 19875.0), (20610.0, 20605.0))
HEAVY = ((21340.0, 21660.0), (19870.0, 20130.0), (20610.0, 20910.0))


class Sequence(unittest.TestCase):
    def test_each_call_by_the_first_rule_that_applies(self) -> None:
        self.assertEqual(judge(asked(*GOOD)).call, LEAVE)
        self.assertEqual(judge(asked(*HEAVY)).call, ADJUST)
        self.assertEqual(judge(asked(*GOOD[:2])).call, KEEP_TESTING)
        self.assertEqual(judge(asked((20000.0, 30000.0), (20000.0, 30000.0), (20000.0, 30000.0))).call, FIND_FAULT)
        unready = asked(*GOOD, unready=(Reason("zero-first", "Take the zero first."),))
        self.assertEqual(judge(unready).call, NOT_READY)

    def test_what_a_method_found_before_any_comparison_comes_before_the_figures(self) -> None:
        failed = asked(*HEAVY, failed=(Reason("sanity", "An idler has seized."),))
        verdict = judge(failed)
        self.assertEqual((verdict.call, verdict.reasons[0].text), (FIND_FAULT, "An idler has seized."))
        both = asked(*HEAVY, failed=(Reason("sanity", "x"),), unready=(Reason("zero-first", "y"),))
        self.assertEqual(judge(both).reasons[0].text, "y")

    def test_the_rules_have_names_of_their_own(self) -> None:
        names = [rule.name for rule in RULES]
        self.assertEqual(len(names), len(set(names)))
        self.assertGreaterEqual(len(names), 8)
        self.assertEqual(set(HEADLINES), {NOT_READY, KEEP_TESTING, FIND_FAULT, ADJUST, LEAVE})

    def test_a_rule_of_a_method_s_own_stands_before_the_one_named(self) -> None:
        own = Rule("wet", lambda ask: Verdict(FIND_FAULT, [Reason("wet", "The kelp is too wet to weigh.")]))
        for named in [rule.name for rule in RULES]:
            rules = with_rule(own, named)
            places = [rule.name for rule in rules]
            self.assertEqual(places.index("wet") + 1, places.index(named))
            self.assertEqual(len(rules), len(RULES) + 1)
        first = with_rule(own, RULES[0].name)
        self.assertEqual(judge(asked(*GOOD), first).reasons[0].code, "wet")
        last = with_rule(own, RULES[-1].name)
        self.assertEqual(judge(asked(*GOOD[:2]), last).call, KEEP_TESTING)
        self.assertNotIn("wet", [rule.name for rule in RULES])

    def test_a_place_that_is_not_there_is_an_error_of_whoever_wrote_it(self) -> None:
        with self.assertRaises(KeyError):
            with_rule(Rule("wet", lambda ask: None), "no-such-rule")

    def test_a_rule_that_does_not_apply_lets_the_next_decide(self) -> None:
        silent = with_rule(Rule("silent", lambda ask: None), RULES[0].name)
        for pairs in (GOOD, HEAVY, GOOD[:1]):
            self.assertEqual(judge(asked(*pairs), silent), judge(asked(*pairs)))


class Occasions(unittest.TestCase):
    def test_on_a_first_calibration_the_band_is_a_factor_of_three(self) -> None:
        wide = [("20", "30"), ("21", "31.5"), ("19", "28.5")]
        self.assertEqual(assess(belt(wide))["call"], "find-fault")
        self.assertEqual(assess(belt(wide, job_occasion="first"))["call"], "adjust")
        wider = [("20", "70"), ("21", "73.5"), ("19", "66.5")]
        self.assertEqual(assess(belt(wider, job_occasion="first"))["call"], "find-fault")

    def test_order_of_the_runs_changes_nothing(self) -> None:
        answer = assess(belt(AGREEING, factor=1.142, factor_decimals=4))
        back = assess(belt(AGREEING[::-1], factor=1.142, factor_decimals=4))
        self.assertEqual((answer["call"], codes(answer)), (back["call"], codes(back)))
        self.assertEqual(answer["results"]["new_factor"], back["results"]["new_factor"])
