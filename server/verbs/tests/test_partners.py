"""Partners: made as they are named, renamed everywhere, joined where two rows are one firm, kept while anything names them."""

from definition.firm import firm_lines, signed
from definition.models.parts import MakerNumber, Part, Workspace
from definition.models.sheets import Operation
from django.test import TestCase
from partners.models import Partner
from testing import Api, load, rod_and_tube


class Partners(TestCase):
    def setUp(self) -> None:
        load(rod_and_tube())
        self.api = Api("engineer")

    def patch(self, code: str, body: dict) -> tuple[int, dict]:
        version = Partner.objects.get(code=code).version
        return self.api.send("PATCH", f"/partners/one?code={code}", {"version": version} | body)

    def supplied(self, number: str, supplier: str) -> None:
        status, said = self.api.patch(f"/parts/one?number={number}", {"supplier": supplier})
        self.assertEqual(status, 200, said)

    def test_a_supplier_is_made_as_it_is_named_and_found_in_any_spelling_or_by_its_code(self) -> None:
        self.supplied("ROD", " Quayside  Finishing ")
        made = Partner.objects.get(name="Quayside Finishing")
        self.assertEqual((made.code, made.supplier, made.maker, made.customer), ("P0001", True, False, False))
        for typed in ("quayside finishing", "p0001"):
            self.supplied("NUT", "")
            self.supplied("NUT", typed)
            self.assertEqual(self.api.get("/parts/one", number="NUT")[1]["supplier"], "Quayside Finishing")
        self.assertEqual(Partner.objects.filter(supplier=True).count(), 1)
        status, _ = self.api.send("PUT", "/parts/one/makers?number=NUT", [{"maker": "QUAYSIDE FINISHING", "number": "Q-1"}])
        made.refresh_from_db()
        self.assertEqual((status, made.maker, made.supplier), (200, True, True))

    def test_a_letter_without_a_capital_is_found_again(self) -> None:
        for number in ("ROD", "NUT"):
            for typed in ("Groß & Söhne", "GROß & SÖHNE", "groß & söhne"):
                self.supplied(number, "")
                self.supplied(number, typed)
        self.assertEqual([p.name for p in Partner.objects.all()], ["Groß & Söhne"])

    def test_a_new_name_is_read_wherever_it_was_named_and_the_history_keeps_the_old(self) -> None:
        self.supplied("ROD", "Quay Finish")
        Operation.objects.update(outside=True, supplier_id="Quay Finish")
        status, said = self.patch("P0001", {"name": "Quayside Finishing", "currency": "usd", "mail": "desk@quayside.example"})
        self.assertEqual((status, said["name"], said["currency"]), (200, "Quayside Finishing", "USD"))
        self.assertEqual(self.api.get("/parts/one", number="ROD")[1]["supplier"], "Quayside Finishing")
        self.assertEqual(set(Operation.objects.filter(outside=True).values_list("supplier", flat=True)), {"Quayside Finishing"})
        self.assertEqual(Part.history.filter(number="ROD").first().supplier_id, "Quay Finish")
        (row,) = self.api.get("/partners", role="supplier", search="quay fin")[1]
        self.assertEqual((row["parts"], row["operations"] > 0, row["maker_numbers"]), (1, True, 0))

    def test_two_rows_of_one_firm_are_joined(self) -> None:
        self.supplied("ROD", "Quayside")
        self.supplied("NUT", "Quay Side Ltd")
        for maker in ("Quayside", "Quay Side Ltd"):
            body = [{"maker": maker, "number": "Q-1"}, {"maker": maker, "number": f"Q-2 {maker}"}]
            self.api.send("PUT", f"/parts/one/makers?number={'ROD' if maker == 'Quayside' else 'NUT'}", body)
        row = Partner.objects.get(name="Quay Side Ltd")
        status, said = self.patch(row.code, {"name": "QUAYSIDE"})
        self.assertEqual((status, "join the two" in said["message"]), (422, True))
        # The same number at both stands once afterwards.
        MakerNumber.objects.create(part=Part.objects.get(number="NUT"), rank=3, maker_id="Quayside", number="q-1")
        stale = self.api.post(f"/partners/one/join?code={row.code}", {"into": "P0001", "version": row.version + 1})
        status, said = self.api.post(f"/partners/one/join?code={row.code}", {"into": "P0001", "version": row.version})
        self.assertEqual((stale[0], status, said["name"], said["maker"]), (422, 200, "Quayside", True))
        self.assertEqual(set(Part.objects.exclude(supplier=None).values_list("supplier", flat=True)), {"Quayside"})
        numbers = MakerNumber.objects.filter(part__number="NUT").values_list("maker", "number")
        self.assertEqual(sorted(numbers), [("Quayside", "Q-2 Quay Side Ltd"), ("Quayside", "q-1")])
        self.assertFalse(Partner.objects.filter(name="Quay Side Ltd").exists())
        gone = self.api.post("/partners/one/join?code=P0001", {"into": row.code, "version": Partner.objects.get().version})
        self.assertEqual(gone[0], 404)

    def test_what_is_named_stays_and_what_is_not_goes_with_a_record(self) -> None:
        self.supplied("ROD", "Quayside")
        row = Partner.objects.get()
        status, said = self.api.post("/partners/one/drop?code=P0001", {"version": row.version})
        self.assertEqual((status, "named by 1 part" in said["message"]), (422, True))
        self.supplied("ROD", "")
        self.assertEqual(self.api.post("/partners/one/drop?code=P0001", {"version": row.version})[0], 200)
        self.assertEqual((Partner.objects.count(), Partner.history.filter(history_type="-").count()), (0, 1))

    def test_who_we_are_is_said_once(self) -> None:
        self.assertEqual((firm_lines(), signed("Please quote.")), ([], "Please quote."))
        at = "/partners/ourselves"
        status, said = self.api.send(
            "PATCH", at, {"firm": " Tern  & Pier ", "firm_address": "Quay 4\r\n  Northquay ", "firm_mail": "buy@tern.example"}
        )
        self.assertEqual(
            (status, said), (200, {"firm": "Tern & Pier", "firm_address": "Quay 4\nNorthquay", "firm_mail": "buy@tern.example"})
        )
        self.assertEqual(signed("Please quote."), "Please quote.\n\nTern & Pier\nQuay 4\nNorthquay\nbuy@tern.example")
        for body, words in (
            ({"firm": "T" * 201}, "at most 200"), ({"firm": "a\x07b"}, "can be printed"), ({"firm_mail": "nobody"}, "no address"),
            ({"firm_address": "\n".join("abcdefg")}, "at most 6 lines"),
        ):  # fmt: skip
            status, said = self.api.send("PATCH", at, body)
            self.assertEqual((status, [p["place"] for p in said["problems"]]), (422, [*body]), body)
            self.assertIn(words, said["message"])
        self.assertEqual(self.api.send("PATCH", at, {"firm_mail": ""})[1]["firm"], "Tern & Pier")
        self.assertEqual(Workspace.history.count(), 3)

    def test_what_cannot_be_kept_is_named_by_its_field(self) -> None:
        self.api.post("/partners", {"name": "Harbour Co-operative", "customer": True})
        for body, place, words in (
            ({"name": "harbour co-operative", "customer": True}, "name", "has it already"),
            ({"name": "", "customer": True}, "name", "is needed"),
            ({"name": "N" * 201, "customer": True}, "name", "at most 200"),
            ({"name": "a\x07b", "customer": True}, "name", "can be printed"),
            ({"name": "New", "code": "p0001", "customer": True}, "code", "Harbour Co-operative (P0001)"),
            ({"name": "New", "code": "a b", "customer": True}, "code", "letters, digits"),
            ({"name": "New", "contact": "c" * 201, "customer": True}, "contact", "at most 200"),
            ({"name": "New", "currency": "E1", "customer": True}, "currency", "three letters"),
            ({"name": "New", "mail": "nobody", "customer": True}, "mail", "no address"),
            ({"name": "New"}, "supplier", "customer, a supplier or a maker"),
        ):
            status, said = self.api.post("/partners", body)
            self.assertEqual((status, [p["place"] for p in said["problems"]]), (422, [place]), body)
            self.assertIn(words, said["message"])
        self.assertEqual(Partner.objects.count(), 1)
        self.assertEqual(self.api.send("PATCH", "/partners/one?code=P0001", {"name": "X"})[0], 422)
