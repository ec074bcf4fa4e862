"""Rules B2 to B5: what may be bought at which price, and the cheapest plan held against trying everything."""

import random
import unittest
from dataclasses import replace
from datetime import date
from decimal import Decimal as D
from fractions import Fraction as F
from typing import Any

from tally_core.basics.errors import ProblemsError
from tally_core.buying.cheapest import cheapest_plan
from tally_core.buying.covering import asks
from tally_core.buying.line_by_line import line_by_line
from tally_core.buying.offers import Break, Held, Need, Offer, Purchase, Supplier
from tally_core.buying.purchase_file import plan_as_json, read_purchase

from .every_plan import every_plan


def generated(r: random.Random) -> dict[str, Any]:
    """A small purchase with everything the rules know: breaks, packs, minimums, freight, charges, days, currencies, surplus, splits."""
    split = r.choice([1, 1, 2])
    parts = [f"P{i}" for i in range(r.randint(1, 2 if split == 2 else 3))]
    suppliers = [
        {
            "code": code,
            "freight": str(r.choice([0, 0, 3, 8, 15])),
            "minimum_order": str(r.choice([0, 0, 20, 40, 75])),
            "small_order_charge": r.choice([None, "4", "10"]),
        }
        for code in "ABC"[: r.randint(1, 3)]
    ]
    needs = [{"part": p, "quantity": str(r.randint(1, 12)), "by": r.choice([None, "2026-12-20", "2026-12-05"])} for p in parts]
    if r.random() < 0.15:
        needs.append({"part": "P0", "quantity": str(r.randint(1, 6)), "by": "2027-01-10"})
    offers = []
    for part in parts:
        for _ in range(r.randint(1, 3)):
            price, start, breaks = F(r.randint(1, 999), 100), r.choice([1, 1, 2]), []
            for _ in range(r.randint(1, 3)):
                breaks.append({"from": str(start), "price": f"{float(price):.3f}"})
                # Once in a while a price that rises.
                start, price = start + r.randint(1, 7), price * F(r.randint(60, 103), 100)
            offers.append(
                {
                    "part": part,
                    "supplier": r.choice(suppliers)["code"],
                    "number": "",
                    "currency": r.choice(["EUR", "EUR", "USD"]),
                    "breaks": breaks,
                    "minimum": str(r.choice([0, 1, 3, 5])),
                    "multiple": str(r.choice([1, 1, 2, 3, 5])),
                    "available": r.choice([None, None, str(r.randint(2, 15))]),
                    "lead_days": r.choice([0, 5, 12, 30]),
                    "valid_to": r.choice([None, None, None, "2026-11-25", "2026-11-24"]),
                }
            )
    return a_purchase(
        split=split,
        surplus_percent=r.choice([None, None, "0", "50", "120"]),
        surplus_worth_percent=r.choice(["0", "0", "30", "100"]),
        hold_to_days=r.random() < 0.8,
        rates={"USD": "0.9173"},
        suppliers=suppliers,
        needs=needs,
        offers=offers,
    )


def a_purchase(**given: Any) -> dict[str, Any]:
    return {"format": "round-tally-purchase", "version": 1, "currency": "EUR", "day": "2026-11-25", **given}


class CheapestOfAll(unittest.TestCase):
    def test_300_small_purchases_cost_what_trying_everything_finds(self) -> None:
        """The optimum comes from ``every_plan``, which enumerates in fractions and shares nothing with the solver."""
        kinds = {"split": 0, "uncovered": 0, "credited": 0, "charged": 0, "better than line by line": 0}
        for seed in range(300):
            document = generated(random.Random(seed))
            with self.subTest(seed=seed):
                missed, least = every_plan(document)
                plan = cheapest_plan(read_purchase(document))
                self.assertEqual((len(plan.uncovered), F(plan.bought.total)), (missed, least))
                self.assertTrue(plan.finished)
                # What was searched to its end is its own bound, to the last digit.
                self.assertEqual(plan.bound, plan.bought.total)
                if plan.line_by_line is not None:
                    self.assertGreaterEqual(plan.line_by_line, plan.bought.total)
                self._adds_up(document, plan_as_json(plan))
                parts = [line.part for order in plan.bought.orders for line in order.lines]
                kinds["split"] += len(parts) > len(set(parts))
                kinds["uncovered"] += bool(plan.uncovered)
                kinds["credited"] += plan.bought.credit > 0
                kinds["charged"] += any(order.charge for order in plan.bought.orders)
                kinds["better than line by line"] += plan.line_by_line is not None and plan.line_by_line > plan.bought.total
        # The generator reaches each kind often enough to mean something.
        for kind, often in kinds.items():
            self.assertGreater(often, 8, kind)

    def _adds_up(self, document: dict[str, Any], said: dict[str, Any]) -> None:
        """The answer read as somebody outside reads it: every order is allowed, and the sums are those of its lines."""
        worth = F(document["surplus_worth_percent"]) / 100
        total, bought = F(0), {}
        for order in said["orders"]:
            self.assertEqual(sum(F(line["cost"]) for line in order["lines"]), F(order["goods"]))
            total += F(order["goods"]) + F(order["freight"]) + F(order["charge"])
            for line in order["lines"]:
                bought[line["part"]] = bought.get(line["part"], 0) + F(line["quantity"])
                total -= worth * F(line["surplus"]) * F(line["price"])
                self.assertAlmostEqual(F(line["quantity"]) * F(line["price"]), F(line["cost"]), places=4)
        self.assertAlmostEqual(total, F(said["total"]), places=3)
        out = {u["part"] for u in said["uncovered"]}
        for need in document["needs"]:
            self.assertTrue(need["part"] in out or bought[need["part"]] >= F(need["quantity"]))

    def test_time_that_runs_out_leaves_a_plan_with_its_bound(self) -> None:
        r = random.Random(4)
        document = generated(r)
        for seed in range(60):
            more = generated(random.Random(1000 + seed))
            names = {p: f"{seed}-{p}" for p in ("P0", "P1", "P2")}
            known = {s["code"] for s in document["suppliers"]}
            document["suppliers"] += [s for s in more["suppliers"] if s["code"] not in known]
            document["needs"] += [{**n, "part": names[n["part"]]} for n in more["needs"]]
            document["offers"] += [{**o, "part": names[o["part"]]} for o in more["offers"]]
        document |= {"split": 2, "surplus_percent": None}
        purchase = read_purchase(document)
        stopped = cheapest_plan(purchase, watch=lambda best, bound: True)
        best = cheapest_plan(purchase, gap=0.02)
        self.assertLessEqual(stopped.bound, best.bought.total)
        self.assertGreaterEqual(stopped.bought.total, best.bound)
        self.assertEqual(len(stopped.uncovered), len(best.uncovered))


class PricesAndPacks(unittest.TestCase):
    """Worked by hand."""

    def plan(self, needs: list[Need], offers: list[Offer], **given: Any):
        suppliers = given.pop("suppliers", {"S": Supplier("S"), "T": Supplier("T", D(5))})
        return cheapest_plan(Purchase("EUR", date(2026, 11, 25), suppliers, tuple(needs), tuple(offers), **given))

    def test_a_higher_break_that_costs_less_is_bought(self) -> None:
        # 430 at 0.50 are 215.00; 500 at 0.40 are 200.00, with 70 over.
        offer = Offer("X", "S", "X-1", "EUR", (Break(D(1), D("0.50")), Break(D(500), D("0.40"))))
        plan = self.plan([Need("X", D(430))], [offer])
        (line,) = plan.bought.orders[0].lines
        self.assertEqual((plan.bought.total, line.quantity, line.surplus), (D("200.00"), D(500), D(70)))

    def test_freight_counts_once_for_the_whole_plan(self) -> None:
        # Each by itself is cheaper at T (9 and 9 of 10 and 10), but T's freight of 5 makes both cheaper at S.
        offers = [Offer(part, code, "", "EUR", (Break(D(1), price),)) for part in "XY" for code, price in (("S", D(10)), ("T", D(9)))]
        plan = self.plan([Need("X", D(1)), Need("Y", D(1))], offers)
        self.assertEqual((plan.bought.total, plan.line_by_line), (D(20), D(23)))
        self.assertEqual([order.supplier for order in plan.bought.orders], ["S"])

    def test_goods_are_raised_to_a_minimum_where_that_costs_less_than_the_charge(self) -> None:
        # 10 at 9 are 90, under 100: the charge of 25 would make 115; two more make 108.
        supplier = {"S": Supplier("S", minimum_order=D(100), small_order_charge=D(25))}
        offer = Offer("X", "S", "", "EUR", (Break(D(1), D(9)),), multiple=D(1))
        self.assertEqual(self.plan([Need("X", D(10))], [offer], suppliers=supplier).bought.total, D(108))
        tight = self.plan([Need("X", D(10))], [offer], suppliers=supplier, surplus_percent=D(10))
        self.assertEqual((tight.bought.total, tight.bought.orders[0].charge), (D(115), D(25)))

    def test_what_is_measured_is_bought_in_any_amount(self) -> None:
        offer = Offer("ROD", "S", "", "USD", (Break(D("0.5"), D("3.10")),))
        plan = self.plan([Need("ROD", D("12.345"))], [offer], rates={"USD": D("0.92")})
        self.assertEqual(plan.bought.total, D("12.345") * D("3.10") * D("0.92"))

    def test_what_comes_early_serves_a_later_day(self) -> None:
        # 40 by the 5th can only come from S; the 60 by January are cheaper at T. S's price of 100 is better still for all.
        needs = [Need("X", D(40), date(2026, 12, 5)), Need("X", D(60), date(2027, 1, 20))]
        fast = Offer("X", "S", "", "EUR", (Break(D(1), D(2)),), lead_days=5)
        slow = Offer("X", "T", "", "EUR", (Break(D(1), D(1)),), lead_days=40)
        plan = self.plan(needs, [fast, slow])
        self.assertEqual(plan.bought.total, 40 * 2 + 60 + 5)
        with_break = Offer("X", "S", "", "EUR", (Break(D(1), D(2)), Break(D(100), D(1))), lead_days=5)
        self.assertEqual(self.plan(needs, [with_break, slow]).bought.total, D(100))

    def test_what_comes_late_and_would_not_do_either_is_too_few(self) -> None:
        need = [Need("X", D(100), date(2026, 12, 1))]
        offers = [
            Offer("X", "S", "", "EUR", (Break(D(1), D(1)),), available=D(10)),
            Offer("X", "T", "", "EUR", (Break(D(1), D(1)),), available=D(20), lead_days=40),
        ]
        self.assertEqual([u.reason for u in self.plan(need, offers, split=2).uncovered], ["too few"])
        offers[1] = replace(offers[1], available=None)
        self.assertEqual([u.reason for u in self.plan(need, offers, split=2).uncovered], ["too late"])

    def test_what_is_held_in_full_leaves_no_further_line(self) -> None:
        offers = [Offer("X", code, "", "EUR", (Break(D(1), D(1)),)) for code in "STU"]
        for quantity, lines in (("6", 3), ("9", 2), ("10", 2)):
            held = (Held(0, D(1)), Held(1, D(quantity)))
            ((ask,), _) = asks(
                Purchase("EUR", date(2026, 11, 25), {code: Supplier(code) for code in "STU"}, (Need("X", D(10)),), tuple(offers), held=held)
            )
            self.assertEqual(ask.lines, lines, quantity)

    def test_what_is_needed_in_whole_numbers_is_bought_so(self) -> None:
        offers = [
            {"part": p, "supplier": "S", "breaks": [{"from": "1", "price": "1"}], **more}
            for p, more in (("X", {}), ("Y", {}), ("X", {"multiple": "5"}))
        ]
        read = read_purchase(
            a_purchase(suppliers=[{"code": "S"}], needs=[{"part": "X", "quantity": "3"}, {"part": "Y", "quantity": "2.5"}], offers=offers)
        )
        self.assertEqual([o.multiple for o in read.offers], [1, None, 5])

    def alone(self, needs: list[Need], offers: list[Offer], **given: Any) -> list[tuple[str, str, D]] | None:
        """What each part by itself would be bought at: part, supplier and quantity."""
        suppliers = given.pop("suppliers", {"S": Supplier("S"), "T": Supplier("T")})
        purchase = Purchase("EUR", date(2026, 11, 25), suppliers, tuple(needs), tuple(offers), **given)
        bought = line_by_line(purchase, asks(purchase)[0])
        return bought and [(line.part, order.supplier, line.quantity) for order in bought.orders for line in order.lines]

    def test_line_by_line_is_each_part_by_itself(self) -> None:
        need, one = [Need("X", D(10))], Break(D(1), D(1))
        # 20 at 1.00, of which 10 are over and worth half of it again, are 15; 10 at 1.60 are 16.
        packed, loose = (Offer("X", "S", "", "EUR", (one,), multiple=D(20)), Offer("X", "T", "", "EUR", (Break(D(1), D("1.6")),)))
        self.assertEqual(self.alone(need, [packed, loose], surplus_worth_percent=D(50)), [("X", "S", D(20))])
        self.assertEqual(self.alone(need, [packed, loose]), [("X", "T", D(10))])
        # Twice as much as is needed is just what is allowed.
        self.assertEqual(self.alone(need, [packed], surplus_percent=D(100)), [("X", "S", D(20))])
        # Five here and five there are ten, and nothing more is bought.
        few = [Offer("X", code, "", "EUR", (Break(D(1), D(price)),), available=D(5)) for code, price in (("S", 1), ("T", 2), ("S", 3))]
        self.assertEqual(self.alone(need, few, split=3), [("X", "S", D(5)), ("X", "T", D(5))])

    def test_an_order_that_is_refused_is_raised_by_the_line_that_adds_least(self) -> None:
        """X is 10 at 9.00, Y one pack of 5 at 8.00: 130.00. To reach 135.00, one more X adds 9.00 and another pack 40.00."""
        needs = [Need("X", D(10)), Need("Y", D(5))]
        offers = [
            Offer("X", "S", "", "EUR", (Break(D(1), D(9)),), multiple=D(1)),
            Offer("Y", "S", "", "EUR", (Break(D(1), D(8)),), multiple=D(5)),
        ]
        strict = {"S": Supplier("S", minimum_order=D(135))}
        self.assertEqual(self.alone(needs, offers, suppliers=strict), [("X", "S", D(11)), ("Y", "S", D(5))])
        # What is given for nothing raises no order.
        free = [*offers, Offer("Z", "S", "", "EUR", (Break(D(1), D(0)),))]
        self.assertEqual(self.alone([*needs, Need("Z", D(1))], free, suppliers=strict)[0], ("X", "S", D(11)))
        # Where one more is too many, the pack is; where that is, too, nobody sells.
        self.assertEqual(
            self.alone(
                [Need("X", D(10)), Need("Y", D(5))],
                [offers[0], offers[1]],
                suppliers={"S": Supplier("S", minimum_order=D(131))},
                surplus_percent=D(5),
            ),
            None,
        )

    def test_a_choice_by_hand_is_held_and_the_rest_planned_around_it(self) -> None:
        offers = [Offer("X", "S", "", "EUR", (Break(D(1), D(1)),)), Offer("X", "T", "", "EUR", (Break(D(1), D(2)),))]
        plan = self.plan([Need("X", D(10))], offers, held=(Held(1, D(4)),))
        self.assertEqual({(o.supplier, o.lines[0].quantity) for o in plan.bought.orders}, {("S", D(6)), ("T", D(4))})
        self.assertEqual(plan.bought.total, 6 + 8 + 5)

    def test_what_is_held_by_hand_is_ordered_however_small_and_said(self) -> None:
        suppliers = {"S": Supplier("S", minimum_order=D(100)), "T": Supplier("T")}
        offers = [Offer("X", "S", "", "EUR", (Break(D(1), D(1)),), available=D(20)), Offer("Y", "T", "", "EUR", (Break(D(1), D(2)),))]
        needs = [Need("X", D(10)), Need("Y", D(5))]
        self.assertEqual([u.part for u in self.plan(needs, offers, suppliers=suppliers).uncovered], ["X"])
        held = self.plan(needs, offers, suppliers=suppliers, held=(Held(0, D(10)),))
        self.assertEqual((held.uncovered, held.bought.total, [o.supplier for o in held.bought.refused]), ((), D(20), ["S"]))

    def test_suppliers_may_be_left_out_and_counted(self) -> None:
        offers = [Offer(p, c, "", "EUR", (Break(D(1), D(1) if (p, c) != ("Y", "S") else D(50)),)) for p in "XY" for c in "ST"]
        needs = [Need("X", D(1)), Need("Y", D(1))]
        self.assertEqual(len(self.plan(needs, offers[:1] + offers[3:]).bought.orders), 2)
        self.assertEqual(self.plan(needs, offers, most_suppliers=1).bought.total, D(7))
        self.assertEqual(self.plan(needs, offers, barred=frozenset("T")).bought.total, D(51))


class WhyNothingCovers(unittest.TestCase):
    def reason(self, offer: Offer | None = None, need: Need | None = None, supplier: Supplier | None = None, **given: Any) -> str:
        need = need or Need("X", D(10), date(2026, 12, 1))
        purchase = Purchase("EUR", date(2026, 11, 25), {"S": supplier or Supplier("S")}, (need,), (offer,) if offer else (), **given)
        (uncovered,) = cheapest_plan(purchase).uncovered
        return uncovered.reason

    def test_each_reason(self) -> None:
        price = (Break(D(1), D(1)),)

        def offer(**given: Any) -> Offer:
            return Offer("X", "S", "", given.pop("currency", "EUR"), price, **given)

        approved = Need("X", D(10), None, frozenset({"AB12"}))
        self.assertEqual(self.reason(), "no offer")
        self.assertEqual(self.reason(offer(valid_to=date(2026, 11, 24))), "no offer")
        self.assertEqual(self.reason(offer(valid_from=date(2026, 11, 26))), "no offer")
        self.assertEqual(self.reason(offer(currency="USD")), "no offer")
        self.assertEqual(self.reason(offer(), barred=frozenset("S")), "no offer")
        self.assertEqual(self.reason(offer(maker="Other"), supplier=Supplier("S", only_makers=frozenset({"THIS"}))), "no offer")
        self.assertEqual(self.reason(offer(maker="Other"), supplier=Supplier("S", not_makers=frozenset({"OTHER"}))), "no offer")
        self.assertEqual(self.reason(offer(maker_number="CD-34"), approved), "not approved")
        self.assertEqual(self.reason(offer(lead_days=7)), "too late")
        self.assertEqual(self.reason(offer(available=D(9))), "too few")
        self.assertEqual(self.reason(offer(multiple=D(8)), surplus_percent=D(50)), "over the surplus")
        # Five at a time and three at a time never make seven and no more.
        self.assertEqual(self.reason(offer(multiple=D(5)), Need("X", D(7)), surplus_percent=D(5), split=2), "over the surplus")
        refuses = Supplier("S", minimum_order=D(100))
        self.assertEqual(self.reason(offer(available=D(20)), supplier=refuses), "under the order minimum")

    def test_the_edge_of_each_is_covered(self) -> None:
        offer = Offer(
            "X",
            "S",
            "",
            "EUR",
            (Break(D(1), D(1)),),
            available=D(10),
            lead_days=6,
            valid_from=date(2026, 11, 25),
            valid_to=date(2026, 11, 25),
            maker_number="ab-12",
        )
        need = Need("X", D(10), date(2026, 12, 1), frozenset({"AB12"}))
        supplier = Supplier("S", minimum_order=D(10))
        plan = cheapest_plan(Purchase("EUR", date(2026, 11, 25), {"S": supplier}, (need,), (offer,), surplus_percent=D(0)))
        self.assertEqual((plan.uncovered, plan.bought.total), ((), D(10)))

    def test_one_part_does_not_take_the_others_with_it(self) -> None:
        suppliers = {"S": Supplier("S", minimum_order=D(100)), "T": Supplier("T")}
        offers = (Offer("X", "S", "", "EUR", (Break(D(1), D(1)),), available=D(20)), Offer("Y", "T", "", "EUR", (Break(D(1), D(3)),)))
        plan = cheapest_plan(Purchase("EUR", date(2026, 11, 25), suppliers, (Need("X", D(10)), Need("Y", D(2))), offers))
        self.assertEqual(([u.part for u in plan.uncovered], plan.bought.total), (["X"], D(6)))


class FromAFile(unittest.TestCase):
    def wrong(self, **given: Any) -> list[str]:
        offer = {"part": "X", "supplier": "S", "number": "", "breaks": [{"from": "1", "price": "2"}], "multiple": "1"}
        good = {"suppliers": [{"code": "S"}], "needs": [{"part": "X", "quantity": "3"}], "offers": [{**offer, **given.pop("offer", {})}]}
        with self.assertRaises(ProblemsError) as caught:
            read_purchase(a_purchase(**{**good, **given}))
        return [problem.place for problem in caught.exception.problems]

    def test_what_is_wrong_is_named_by_its_place(self) -> None:
        self.assertEqual(self.wrong(offer={"multiple": "0"}), ["offers[0].multiple"])
        self.assertEqual(self.wrong(offer={"currency": "USD"}), ["offers[0].currency"])
        self.assertEqual(self.wrong(offer={"supplier": "Q"}), ["offers[0].supplier"])
        self.assertEqual(self.wrong(offer={"breaks": []}), ["offers[0].breaks"])
        self.assertEqual(self.wrong(offer={"breaks": [{"from": "1", "price": "1"}, {"from": "1", "price": "2"}]}), ["offers[0].breaks"])
        self.assertEqual(self.wrong(offer={"breaks": [{"from": "1"}]}), ["offers[0].breaks[0].price"])
        self.assertEqual(self.wrong(offer={"minimum": "-1"}), ["offers[0].minimum"])
        self.assertEqual(self.wrong(offer={"lead_days": -1}), ["offers[0].lead_days"])
        self.assertEqual(self.wrong(offer={"valid_to": "soon"}), ["offers[0].valid_to"])
        self.assertEqual(self.wrong(needs=[{"part": "X", "quantity": "1,5"}]), ["needs[0].quantity"])
        self.assertEqual(self.wrong(needs=[{"part": "X"}]), ["needs[0].quantity"])
        self.assertEqual(self.wrong(suppliers=[{"code": "S"}, {"code": "S"}]), ["suppliers[1].code"])
        self.assertEqual(self.wrong(split=0), ["split"])
        self.assertEqual(self.wrong(surplus_worth_percent="101"), ["surplus_worth_percent"])
        self.assertEqual(self.wrong(day="yesterday"), ["day"])
        self.assertEqual(self.wrong(rates={"USD": "0"}), ["rates.USD"])
        self.assertEqual(self.wrong(rates={"EUR": "2"}), ["rates.EUR"])
        self.assertEqual(self.wrong(version=2), ["version"])
        self.assertEqual(self.wrong(format="another"), ["format"])

    def test_two_offers_alike_and_breaks_that_rise_are_planned_with(self) -> None:
        offer = {"part": "X", "supplier": "S", "breaks": [{"from": "5", "price": "3"}, {"from": "1", "price": "2"}]}
        document = a_purchase(suppliers=[{"code": "S"}], needs=[{"part": "X", "quantity": "4"}], offers=[offer, offer])
        said = plan_as_json(cheapest_plan(read_purchase(document)))
        self.assertEqual((said["total"], said["bound"], len(said["orders"][0]["lines"])), ("8.000000", "8.000000", 1))


if __name__ == "__main__":
    unittest.main()
