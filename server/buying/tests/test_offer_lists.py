"""A supplier's price list: rows become offers, found by our number, a maker's or their own; wrong rows are named and nothing is lost."""

from typing import Any

from testing import workbook

from buying.models import Offer

from .lamps import Lamps

HEAD = ["Article", "MPN", "Part", "From", "Price", "Per", "Pack", "MOQ", "Stock", "Lead time", "Valid to"]


class OfferLists(Lamps):
    def bring(self, rows: list[list[Any]], anyway: bool = False) -> tuple[int, dict[str, Any]]:
        """Bring a list; where it is right, or anyway, keep it. Answers what was said of it."""
        status, answer = self.buyer.upload("prices.xlsx", workbook(rows), "/buying/price-lists?code=FB")
        self.assertEqual((status, answer["failed"], answer["state"]), (200, "", "waiting"))
        said = answer["said"]
        if said["good"] and (anyway or not said["wrong"]):
            status, answer = self.buyer.post(f"/buying/price-lists/{answer['id']}/keep", {"version": answer["version"]})
            self.assertEqual((answer["failed"], answer["state"]), ("", "kept"))
        return status, answer["said"]

    def setUp(self) -> None:
        super().setUp()
        self.buyer.post("/partners", {"name": "Fathom Bolts", "supplier": True, "code": "FB"})

    def test_rows_of_one_part_become_one_offer_with_its_breaks(self) -> None:
        status, said = self.bring(
            [
                HEAD,
                ["FB-5", "n 5", "", 100, 12.5, 100, 50, 50, 9000, 7, "2027-06-30"],
                ["FB-5", "n 5", "", 1000, 9, 100, "", "", "", "", ""],
                ["FB-90", "", "GLASS", "", "3,20", "", "", "", "", "", ""],
            ]
        )
        self.assertEqual((status, said["kept"], said["wrong"]), (200, 2, 0), said)
        screws = Offer.objects.get(part__number="SCR")
        self.assertEqual((screws.breaks, screws.their_number, screws.lead_days), ([["100", "0.125"], ["1000", "0.09"]], "FB-5", 7))
        self.assertEqual(
            (screws.multiple, screws.minimum, screws.available, screws.source, screws.source_words), (50, 50, 9000, "list", "prices.xlsx")
        )
        self.assertEqual(Offer.objects.get(part__number="GLASS").breaks, [["1", "3.2"]])
        # Next time their own number is enough.
        self.offer("GLASS", "Fathom Bolts", [["1", "3"]], their_number="FB-90")
        said = self.bring([["Article", "Price"], ["FB-90", 3.1]])[1]
        self.assertEqual((said["kept"], said["replaced"]), (1, 1))
        # What an earlier list said is kept and no plan uses it; what was typed, and what this list does not name, holds.
        glass = Offer.objects.filter(part__number="GLASS").order_by("id")
        self.assertEqual([(o.source, o.let_go_by) for o in glass], [("list", "a later list"), ("by hand", ""), ("list", "")])
        self.assertIsNone(Offer.objects.get(part__number="SCR").let_go_at)

    def test_wrong_rows_are_named_and_the_good_ones_wait_for_a_word(self) -> None:
        rows = [
            HEAD,
            ["A", "", "SCR", 1, 0.1, "", "", "", "", "", ""],
            ["B", "", "NONE", 1, 1, "", "", "", "", "", ""],
            ["C", "", "TUBE", 1, "", "", "", "", "", "", ""],
            ["D", "", "GLASS", 1, 2, "", 0, "", "", "", ""],
            ["E", "", "GLASS", 1, 2, "", "", "", "", "", "soon"],
            ["F", "", "GLASS", 1, "two", "", "", "", "", "", ""],
            ["G", "", "GLASS", 1, 2, "", "", "", "", "", ""],
            ["G", "", "GLASS", 10, 3, "", "", "", "", "", ""],
        ]
        status, said = self.bring(rows)
        self.assertEqual((status, said["good"], said["kept"], said["wrong"], Offer.objects.count()), (200, 2, 0, 5, 0))
        self.assertEqual([p.split(":")[0] for p in said["problems"]], ["row 3", "row 4", "row 5", "row 6", "row 7"])
        self.assertEqual(said["look"], ["row 8, GLASS: the price rises from 2 at 1 to 3 at 10"])
        self.assertEqual(self.bring(rows, anyway=True)[1]["kept"], 2)
        said = self.bring([["Colour", "Weight"], ["red", 1]])[1]
        self.assertEqual((said["good"], "needs a column price" in said["problems"][0]), (0, True))
        self.assertEqual(self.buyer.upload("prices.xlsx", workbook(rows), "/buying/price-lists?code=NONE")[0], 404)

    def test_columns_are_said_once_for_a_supplier(self) -> None:
        """Titles of their own, beneath lines of their own: which column holds what is said, kept, and holds for the next list."""
        head = [["Fathom Bolts, prices of spring"], [], ["Nr.", "Unser Typ", "Staffel", "Preis"]]
        rows = [*head, ["F1", "N 5", 100, 12], ["F1", "N-5", 500, "9,50"]]
        status, answer = self.buyer.upload("prices.xlsx", workbook(rows), "/buying/price-lists?code=FB")
        self.assertEqual((status, answer["said"]["good"], answer["mapped"]), (200, 0, False))
        at = f"/buying/price-lists/{answer['id']}"
        version = {"version": answer["version"]}
        self.assertEqual(self.buyer.post(f"{at}/keep", version)[0], 422, "there is nothing to keep")
        for columns in ({"price": 9}, {"price": 0, "part": 0}, {"price": 3}, {"colour": 1, "price": 3}):
            self.assertEqual(self.buyer.send("PUT", f"{at}/columns", {"columns": columns} | version)[0], 422, columns)
        columns = {"their_number": 0, "maker_number": 1, "from": 2, "price": 3}
        self.assertEqual(self.buyer.send("PUT", f"{at}/columns", {"columns": columns} | version)[1]["said"]["good"], 1)

    def test_titles_beneath_a_heading_are_found(self) -> None:
        rows = [["Prices of spring", "", ""], [], ["MPN", "From", "Price"], ["N 5", 100, "0,12"], ["N-5", 500, "0,095"]]
        _, answer = self.buyer.upload("prices.xlsx", workbook(rows), "/buying/price-lists?code=FB")
        self.assertEqual(
            (answer["titles"], answer["said"]["good"], answer["sample"][0]), (["MPN", "From", "Price"], 1, ["N 5", "100", "0,12"])
        )
        # Their words for the same: said once, and then read so.
        other = [["Unser Typ", "Staffel", "Euro"], *rows[3:]]
        answer = self.buyer.upload("prices.xlsx", workbook(other), "/buying/price-lists?code=FB")[1]
        self.assertEqual((answer["said"]["good"], answer["columns"]), (0, {}))
        at, columns = f"/buying/price-lists/{answer['id']}", {"maker_number": 0, "from": 1, "price": 2}
        answer = self.buyer.send("PUT", f"{at}/columns", {"columns": columns, "version": answer["version"]})[1]
        self.assertEqual((answer["said"]["good"], answer["mapped"]), (1, True))
        self.assertEqual(self.buyer.post(f"{at}/keep", {"version": answer["version"] - 1})[0], 422, "another version was looked at")
        answer = self.buyer.post(f"{at}/keep", {"version": answer["version"]})[1]
        self.assertEqual(
            (answer["state"], answer["said"]["kept"], Offer.objects.get().breaks), ("kept", 1, [["100", "0.12"], ["500", "0.095"]])
        )
        self.assertEqual(self.buyer.post(f"{at}/keep", {"version": answer["version"]})[0], 422, "it is kept already")
        self.assertEqual(self.buyer.get("/buying/price-lists", code="FB")[1][0]["id"], answer["id"])
        again = self.buyer.upload("summer.xlsx", workbook(other), "/buying/price-lists?code=FB")[1]
        self.assertEqual((again["columns"], again["said"]["good"]), (columns, 1))
        self.buyer.post(f"/buying/price-lists/{again['id']}/let-go", {"version": again["version"]})
        self.assertEqual(self.buyer.get("/buying/price-lists", code="FB")[1][0]["state"], "kept")
        self.buyer.post("/partners", {"name": "Other", "supplier": True, "code": "OT"})
        other_of = self.buyer.upload("summer.xlsx", workbook(other), "/buying/price-lists?code=OT")[1]
        self.assertEqual(other_of["columns"], {}, "what one supplier's titles mean is not another's")

    def test_what_a_list_refuses_is_known_beforehand(self) -> None:
        content = b"Part;Article;From;Price\nSCR;N-5;1;0.08\n"
        _, of = self.buyer.upload("prices.csv", content, "/buying/price-lists?code=FB")
        at, told = f"/buying/price-lists/{of['id']}", []
        for state in ("waiting", "kept"):
            if state == "kept":
                self.buyer.post(f"{at}/keep", {"version": of["version"]})
                (of,) = self.buyer.get("/buying/price-lists", code="FB")[1]
            self.assertEqual(of["state"], state)
            version = {"version": of["version"]}
            tried = self.buyer.refusals(
                {
                    "map": ("PUT", f"{at}/columns", version | {"columns": {"part": 0, "maker_number": 1, "from": 2, "price": 3}}),
                    "keep": ("POST", f"{at}/keep", version),
                    "let_go": ("POST", f"{at}/let-go", version),
                }
            )
            self.assertEqual(tried, of["why_not"], state)
            told.append(sum(words is None for words in tried.values()))
        self.assertEqual(told, [3, 0])

    def test_a_file_that_is_no_list_and_a_large_one_half_of_it_wrong(self) -> None:
        answer = self.buyer.upload("prices.xlsx", b"no workbook", "/buying/price-lists?code=FB")[1]
        self.assertIn("is not a workbook", answer["failed"])
        self.assertEqual((answer["said"], Offer.objects.count()), (None, 0))
        rows = "".join(f"{'SCR' if n % 2 else 'NONE'};A{n};1;{n}.5\n" for n in range(100_000))
        answer = self.buyer.upload("prices.csv", f"Part;Article;From;Price\n{rows}".encode(), "/buying/price-lists?code=FB")[1]
        said = answer["said"]
        self.assertEqual((answer["failed"], said["good"], said["wrong"], len(said["problems"])), ("", 50_000, 50_000, 200))
        self.assertEqual((said["problems"][0], Offer.objects.count()), ("row 2: NONE is no part of ours", 0))
