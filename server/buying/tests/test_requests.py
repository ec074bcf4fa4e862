"""Asking for what has no price: looked at, sent, reminded of, and the workbook that comes back read into offers."""

import io
from decimal import Decimal as D
from typing import Any
from unittest.mock import patch

from django.core import mail
from openpyxl import load_workbook

from buying.models import Offer, Request

from .lamps import Lamps, day


class Requests(Lamps):
    def setUp(self) -> None:
        super().setUp()
        self.buyer.post("/partners", {"name": "Fathom Bolts", "supplier": True, "code": "FB", "mail": "desk@fathom.example"})
        self.buyer.post("/partners", {"name": "Holm Metals", "supplier": True, "code": "HM"})
        self.the_plan = self.plan()

    def ask(self, parts: list[str], suppliers: list[str], wanted: str | None = None) -> list[dict[str, Any]]:
        body = {"parts": parts, "suppliers": suppliers, "wanted_by": wanted}
        status, made = self.buyer.post(f"/requests/of-plan/{self.the_plan['id']}", body)
        self.assertEqual(status, 200, made)
        return made

    def send(self, request: dict[str, Any], **more: str) -> tuple[int, dict[str, Any]]:
        body = {"version": request["version"], "words": request["words"], "mail_to": request["mail_to"]} | more
        return self.buyer.post(f"/requests/{request['id']}/send", body)

    def test_looked_at_sent_answered_and_planned_with(self) -> None:
        request, other = self.ask(["SCR", "TUBE"], ["FB", "HM"], day(5))
        self.assertEqual((request["state"], len(mail.outbox), other["mail_to"]), ("draft", 0, ""))
        self.assertIn("520 ea of SCR, Screw (Nordry N-5)", request["words"])
        self.assertIn("17 bar of TUBE", request["words"])
        self.assertEqual(self.send(other)[0], 422, "nobody knows where to")
        status, sent = self.send(request, words="Please quote.\n" + request["words"])
        self.assertEqual((status, sent["state"]), (200, "sent"))
        (message,) = mail.outbox
        self.assertEqual((message.to, message.subject), (["desk@fathom.example"], f"Request for quotation {sent['number']}"))
        self.assertTrue(message.body.startswith("Please quote."))
        self.assertEqual([a[0] for a in message.attachments], [f"{sent['number']}.xlsx", f"{sent['number']}.xml"])
        document = self.buyer.get(f"/requests/{sent['id']}/request.xml")[1]
        self.assertIn(b">N-5</", document)
        self.assertEqual(document, message.attachments[1][1])
        self.assertEqual(self.send(sent)[0], 422, "it is not sent twice")

        # They fill in two prices for the screws, in hundreds, and none for the tube.
        name, content, _ = message.attachments[0]
        self.assertEqual(name, f"{sent['number']}.xlsx")
        book = load_workbook(io.BytesIO(content))
        sheet = book.active
        at = {cell.value: cell.column for cell in sheet[1]}
        row = next(n for n in range(2, 5) if sheet.cell(n, at["Part"]).value == "SCR")
        for title, value in {"MPN": "N-5", "From": 100, "Price": 9, "Per": 100, "Lead days": 4}.items():
            sheet.cell(row, at[title]).value = value
        for title, value in {"Part": "SCR", "MPN": "N-5", "From": 500, "Price": 7, "Per": 100}.items():
            sheet.cell(4, at[title]).value = value
        filled = io.BytesIO()
        book.save(filled)
        status, said = self.buyer.upload("back.xlsx", filled.getvalue(), f"/requests/{sent['id']}/answer")
        self.assertEqual((status, said["kept"], said["wrong"]), (200, 1, 0), said)
        offer = Offer.objects.get()
        self.assertEqual(
            (offer.breaks, offer.source, offer.source_words, offer.lead_days),
            ([["100", "0.09"], ["500", "0.07"]], "answer", sent["number"], 4),
        )
        self.assertEqual(Request.objects.get(pk=sent["id"]).state, "answered")
        again = self.read(self.buyer.post(f"/buying/plans/{self.the_plan['id']}/plan", {})[1]["id"])
        # 520 at 0.07.
        self.assertEqual((D(again["total"]), again["needs"]["TUBE"]["reason"]), (D("36.40"), "no offer"))

    def test_what_a_request_refuses_is_known_beforehand(self) -> None:
        request = self.ask(["SCR"], ["FB"])[0]
        back = b"Part;MPN;From;Price\nSCR;N-5;1;0.08\n"
        told = {}
        for state in ("draft", "sent", "answered"):
            if state == "sent":
                request = self.send(request)[1]
            elif state == "answered":
                self.buyer.upload("back.csv", back, f"/requests/{request['id']}/answer")
                request = self.buyer.get("/requests", plan=self.the_plan["id"])[1][0]
            self.assertEqual(request["state"], state)
            at, version = f"/requests/{request['id']}", {"version": request["version"]}
            tried = self.buyer.refusals(
                {
                    "send": ("POST", f"{at}/send", version | {"words": "x", "mail_to": "a@fathom.example"}),
                    "remind": ("POST", f"{at}/remind", version),
                    "answer": ("POST", f"{at}/answer", back),
                }
            )
            self.assertEqual(tried, request["why_not"], state)
            told[state] = [action for action, words in tried.items() if words is None]
        self.assertEqual(told, {"draft": ["send"], "sent": ["remind", "answer"], "answered": ["answer"]})
        self.assertEqual(Offer.objects.count(), 1)

    def test_what_is_overdue_is_seen_and_reminded_of(self) -> None:
        (request,) = self.ask(["SCR"], ["FB"], day(-2))
        sent = self.send(request)[1]
        self.assertEqual(sent["late"], 2)
        self.ask(["TUBE"], ["HM"])
        heap = next(h for h in self.buyer.get("/today")[1]["heaps"] if h["title"] == "Requests not answered")
        self.assertEqual(
            [(r["what"], r["urgent"], r["to"]) for r in heap["rows"]],
            [
                (f"{who}, 1 part", late, f"/buying/{self.the_plan['id']}?open=requests")
                for who, late in (("Fathom Bolts", True), ("Holm Metals", False))
            ],
        )
        status, reminded = self.buyer.post(f"/requests/{sent['id']}/remind", {"version": sent["version"]})
        self.assertEqual((status, reminded["reminders"], len(mail.outbox)), (200, 1, 2))
        self.assertIn("is still open", mail.outbox[1].body)
        self.assertEqual(self.buyer.get("/requests", plan=self.the_plan["id"])[1][-1]["number"], sent["number"])

    def test_a_mail_that_cannot_leave_changes_nothing(self) -> None:
        (request,) = self.ask(["SCR"], ["FB"])
        with patch("buying.actions.ask_for_quotation.EmailMessage.send", side_effect=ConnectionRefusedError("no server")):
            status, answer = self.send(request)
        self.assertEqual((status, "could not leave" in str(answer), Request.objects.get().state), (422, True, "draft"))

    def test_whom_and_what_is_asked_is_named_where_it_is_wrong(self) -> None:
        body = {"parts": ["GLASS"], "suppliers": [], "wanted_by": "soon"}
        status, answer = self.buyer.post(f"/requests/of-plan/{self.the_plan['id']}", body)
        self.assertEqual((status, [p["place"] for p in answer["problems"]]), (422, ["parts", "suppliers", "wanted_by"]))
        (request,) = self.ask(["SCR"], ["FB"])
        status, answer = self.send(request, words=" ", mail_to="desk@fathom.example, all@fathom.example")
        self.assertEqual((status, [p["place"] for p in answer["problems"]]), (422, ["words", "mail_to"]))
