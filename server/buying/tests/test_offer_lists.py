"""A supplier's price list: rows become offers, found by our number, a maker's or their own; wrong rows are named and nothing is lost."""

from typing import Any

from testing import workbook

from buying.models import Offer

from .lamps import Lamps

HEAD = ["Article", "MPN", "Part", "From", "Price", "Per", "Pack", "MOQ", "Stock", "Lead time", "Valid to"]


class OfferLists(Lamps):
    def bring(self, rows: list[list[Any]], anyway: bool = False) -> tuple[int, dict[str, Any]]:
        path = f"/buying/offers/file?code=FB&anyway={'true' if anyway else 'false'}"
        return self.buyer.upload("prices.xlsx", workbook(rows), path)

    def setUp(self) -> None:
        super().setUp()
        self.buyer.post("/partners", {"name": "Fathom Bolts", "supplier": True, "code": "FB"})

    def test_rows_of_one_part_become_one_offer_with_its_breaks(self) -> None:
        status, said = self.bring([
            HEAD, ["FB-5", "n 5", "", 100, 12.5, 100, 50, 50, 9000, 7, "2027-06-30"], ["FB-5", "n 5", "", 1000, 9, 100, "", "", "", "", ""],
            ["FB-90", "", "GLASS", "", "3,20", "", "", "", "", "", ""],
        ])  # fmt: skip
        self.assertEqual((status, said["kept"], said["wrong"]), (200, 2, 0), said)
        screws = Offer.objects.get(part__number="SCR")
        self.assertEqual(
            (screws.breaks, screws.their_number, screws.lead_days), ([["100", "0.125"], ["1000", "0.09"]], "FB-5", 7)
        )
        self.assertEqual(
            (screws.multiple, screws.minimum, screws.available, screws.source, screws.source_words),
            (50, 50, 9000, "list", "prices.xlsx"),
        )
        self.assertEqual(Offer.objects.get(part__number="GLASS").breaks, [["1", "3.2"]])
        # Next time their own number is enough.
        self.assertEqual(self.bring([["Article", "Price"], ["FB-90", 3.1]])[1]["kept"], 1)
        self.assertEqual(Offer.objects.filter(part__number="GLASS").count(), 2, "the one before stands beside it")

    def test_wrong_rows_are_named_and_the_good_ones_wait_for_a_word(self) -> None:
        rows = [
            HEAD, ["A", "", "SCR", 1, 0.1, "", "", "", "", "", ""], ["B", "", "NONE", 1, 1, "", "", "", "", "", ""],
            ["C", "", "TUBE", 1, "", "", "", "", "", "", ""], ["D", "", "GLASS", 1, 2, "", 0, "", "", "", ""],
            ["E", "", "GLASS", 1, 2, "", "", "", "", "", "soon"], ["F", "", "GLASS", 1, "two", "", "", "", "", "", ""],
            ["G", "", "GLASS", 1, 2, "", "", "", "", "", ""], ["G", "", "GLASS", 10, 3, "", "", "", "", "", ""],
        ]  # fmt: skip
        status, said = self.bring(rows)
        self.assertEqual((status, said["good"], said["kept"], said["wrong"], Offer.objects.count()), (200, 2, 0, 5, 0))
        self.assertEqual([p.split(":")[0] for p in said["problems"]], ["row 3", "row 4", "row 5", "row 6", "row 7"])
        self.assertEqual(said["look"], ["row 8, GLASS: the price rises from 2 at 1 to 3 at 10"])
        self.assertEqual(self.bring(rows, anyway=True)[1]["kept"], 2)
        self.assertEqual(self.bring([["Colour", "Weight"], ["red", 1]])[0], 422)
        self.assertEqual(self.buyer.upload("prices.xlsx", workbook(rows), "/buying/offers/file?code=NONE")[0], 404)
