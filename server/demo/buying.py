"""What the demo's suppliers ask, on which terms, and a plan over it. All of it is invented."""

from datetime import timedelta
from typing import Any

from buying.actions.make_quote import change_quote, make_quote
from buying.actions.open_plan import open_plan, plans_of_inquiry
from buying.actions.order_plan import order_part
from buying.actions.place_order import place_order
from buying.actions.plan_now import KIND, plan_now, run_plan
from buying.actions.receive_goods import receive_goods
from buying.actions.save_terms import save_terms
from buying.actions.state_rate import state_rate
from buying.actions.take_offer import take_offer
from buying.models import BuyPlan, Offer
from django.contrib.auth.models import User
from django.db import transaction
from django.utils.timezone import localdate
from jobs.work import last_job
from outside.services import supplier_services
from partners.models import Partner
from verbs.partners.save_firm import save_firm
from verbs.partners.save_partner import save_partner

from demo.inquiries import load_lantern_inquiry

__all__ = ["load_buying"]

# name, currency, mail, freight, order minimum, charge under it (-: refused), days on the way, makers they may sell
_SUPPLIERS = """
Northquay Components     |     | sales@northquay.example  | 14   | 150 | 12 | 2 |
Kelpie Electronic Supply | USD | desk@kelpie.example      | 75   | 250 | -  | 6 | Norwick Passive, Tarn Components, Holmfirth Semiconductor
Fathom Fasteners         |     | orders@fathom.example    | 7.50 | 60  | 9  | 1 |
Lantern Chandlery        |     | counter@chandlery.example| 11   | 0   | -  | 2 |
Holm Metals              |     | yard@holm.example        | 65   | 400 | -  | 3 |
"""

# part, supplier, quantity=price pairs, minimum, multiple, available, days
_OFFERS = """
LNS-155  | Northquay Components     | 1=9.10 50=8.40 200=7.65 500=7.20        | 25   |      |      | 30
LNS-155  | Lantern Chandlery        | 1=9.60 100=8.05                         | 10   | 10   |      | 24
LNS-200  | Northquay Components     | 1=14.90 50=13.90                        | 10   |      |      | 30
LNS-200  | Lantern Chandlery        | 1=15.20 30=14.10                        |      | 5    |      | 24
ORG-150  | Lantern Chandlery        | 1=0.66 250=0.58                         |      |      |      | 12
ORG-150  | Fathom Fasteners         | 100=0.61 500=0.49                       | 100  | 100  |      | 16
BAR-AL65 | Holm Metals              | 1=128.00 10=122.40 40=116.10            |      |      | 60   | 18
SHT-AL3  | Holm Metals              | 1=41.00 10=38.20                        |      | 2    |      | 12
PCB-1021 | Northquay Components     | 1=4.60 100=3.95 500=3.38                | 50   | 10   |      | 26
EMT-4700 | Northquay Components     | 1=1.34 500=1.18 2000=1.09 5000=1.02     |      | 100  | 4000 | 35
EMT-4700 | Kelpie Electronic Supply | 1=1.41 1000=1.135 6000=1.04             |      | 100  | 20000 | 21
DRV-0310 | Northquay Components     | 1=2.52 500=2.36                         |      | 10   | 700  | 12
DRV-0310 | Kelpie Electronic Supply | 1=2.48 1000=2.30                        |      | 100  | 5000 | 40
RES-0472 | Northquay Components     | 5000=0.0042 20000=0.0037                | 5000 | 5000 |      | 14
RES-0472 | Kelpie Electronic Supply | 1000=0.0049 10000=0.0034                | 1000 | 1000 |      | 18
RES-0151 | Northquay Components     | 5000=0.0061                             | 5000 | 5000 |      | 14
RES-0151 | Kelpie Electronic Supply | 500=0.0082 5000=0.0058                  | 500  | 500  |      | 18
CAP-0475 | Northquay Components     | 2000=0.0380 10000=0.0331                | 2000 | 2000 |      | 20
CAP-0475 | Kelpie Electronic Supply | 500=0.0440 4000=0.0352 12000=0.0310     | 500  | 500  |      | 18
CAP-0104 | Northquay Components     | 4000=0.0088 16000=0.0071                | 4000 | 4000 |      | 14
CAP-0104 | Kelpie Electronic Supply | 500=0.0128 4000=0.0092                  | 500  | 500  |      | 18
CMP-0417 | Lantern Chandlery        | 1=0.046 2000=0.041                      | 100  | 50   |      | 8
CST-155  | Holm Metals              | 1=13.20 50=11.75 200=10.60 400=10.20    | 25   |      |      | 40
SHT-EPDM | Lantern Chandlery        | 1=22.60 20=20.90                        |      |      |      | 10
SCR-M5   | Fathom Fasteners         | 1=9.80 10=9.10 25=8.20                  | 1    |      |      | 8
SCR-M5   | Lantern Chandlery        | 1=11.40                                 |      |      |      | 4
WSH-M5   | Fathom Fasteners         | 100=0.023 1000=0.019 5000=0.016         | 100  | 100  |      | 8
WSH-M5   | Lantern Chandlery        | 1=0.027 500=0.022                       |      |      |      | 4
RSN-20   | Lantern Chandlery        | 1=9.80 50=9.10                          |      | 5    |      | 16
HRD-20   | Lantern Chandlery        | 1=16.40                                 |      | 5    |      | 16
FIL-07   | Lantern Chandlery        | 1=1.35 100=1.12                         | 25   | 25   |      | 10
CMP-0455 | Lantern Chandlery        | 50=0.31 1000=0.25                       | 50   | 50   |      | 8
GRS-02   | Lantern Chandlery        | 100=0.028                               | 100  | 100  |      | 8
FLS-01   | Northquay Components     | 1=6.55 100=6.20 250=5.70                |      |      |      | 24
FLS-01   | Lantern Chandlery        | 1=6.40                                  |      |      | 180  | 10
GLD-20   | Fathom Fasteners         | 1=1.86 100=1.62                         |      | 10   |      | 12
GLD-20   | Lantern Chandlery        | 1=1.79                                  |      |      |      | 6
PLY-09   | Holm Metals              | 1=11.20 60=9.90                         |      | 3.05 |      | 8
BTN-30   | Holm Metals              | 1=1.05 400=0.92                         |      | 3    |      | 8
NIL-40   | Fathom Fasteners         | 1=3.10 25=2.75                          |      | 2.5  |      | 6
NIL-40   | Holm Metals              | 5=3.30                                  |      | 5    |      | 8
BOX-40   | Lantern Chandlery        | 1=13.40 25=12.10                        |      |      |      | 18
CAB-05   | Northquay Components     | 1=64.00 5=59.50                         |      |      |      | 10
MCU-0808 | Northquay Components     | 1=3.35 100=3.15                         |      | 10   | 900  | 60
"""

#: Whose number an offer is of, where the part has approved ones.
_MAKERS = {
    ("RES-0472", "Northquay Components"): ("Norwick Passive", "NR0603-4K7-F"),
    ("RES-0472", "Kelpie Electronic Supply"): ("Tarn Components", "TC-1608-472"),
    ("CAP-0475", "Northquay Components"): ("Elder & Finch", "EF2012X475"),
    ("CAP-0475", "Kelpie Electronic Supply"): ("Norwick Passive", "NC0805-475-25"),
    ("EMT-4700", "Northquay Components"): ("Brightwater Optics", "BW-3W-47"),
    ("EMT-4700", "Kelpie Electronic Supply"): ("Tarn Components", "TL3535-W"),
    ("CAP-0104", "Kelpie Electronic Supply"): ("Tarn Components", "TC-1608-104"),
    ("RES-0151", "Kelpie Electronic Supply"): ("Norwick Passive", "NR0805-150R-F"),
    ("DRV-0310", "Northquay Components"): ("Holmfirth Semiconductor", "HS0310-A"),
    ("DRV-0310", "Kelpie Electronic Supply"): ("Holmfirth Semiconductor", "HS0310-A"),
    ("MCU-0808", "Northquay Components"): ("Holmfirth Semiconductor", "HS8-32"),
}

_OURSELVES = {"firm": "Larkhaven Beacon Works", "firm_address": "Slipway Lane 4\nLarkhaven", "firm_mail": "buying@larkhaven.example"}
#: Whose service answers for them.
_SERVICES = {"Northquay Components": "northquay", "Kelpie Electronic Supply": "kelpie"}

#: Parts whose offer has run out, by days since.
_RUN_OUT = {("BOX-40", "Lantern Chandlery"): 12}


def _rows(table: str) -> list[list[str]]:
    return [[cell.strip() for cell in row.split("|")] for row in table.strip().splitlines()]


def load_buying(buyer: User, engineer: User) -> None:
    """Terms, offers, rates, an order half received, a plan for 250 HL-155 and 40 HL-200 with a part that nobody offers, and a quote."""
    today = localdate()
    # Where there is no such service, as in tests, they are asked by mail.
    there = supplier_services()
    services = {name: service for name, service in _SERVICES.items() if service in there}
    with transaction.atomic():
        save_firm(buyer, _OURSELVES)
        for name, currency, mail, freight, minimum, charge, days, only in _rows(_SUPPLIERS):
            partner = Partner.objects.filter(name=name).first()
            if partner is None:
                partner = save_partner(buyer, {"name": name, "supplier": True, "currency": currency, "mail": mail})
            else:
                partner = save_partner(buyer, {"currency": currency, "mail": mail}, partner.code, partner.version)
            save_terms(
                buyer,
                partner.code,
                0,
                {
                    "freight": freight,
                    "minimum_order": minimum,
                    "small_order_charge": "" if charge == "-" else charge,
                    "transit_days": days,
                    "only_makers": only.split(", ") if only else [],
                    "payment": "30 days net",
                    "delivery": "to our gate",
                    "service": services.get(name, ""),
                },
            )
        for back, rate in ((60, "0.9312"), (30, "0.9254"), (3, "0.9188")):
            state_rate(buyer, "USD", (today - timedelta(days=back)).isoformat(), rate)
        for part, supplier, breaks, minimum, multiple, available, days in _rows(_OFFERS):
            take_offer(buyer, part, supplier, _offer(part, supplier, breaks, minimum, multiple, available, days))
        plan = open_plan(
            buyer,
            {"title": "Lanterns for spring", "note": "Material is to be here when the cells begin."},
            [
                {"part": "HL-155", "quantity": "250", "by": (today + timedelta(days=54)).isoformat()},
                {"part": "HL-200", "quantity": "40", "by": (today + timedelta(days=54)).isoformat()},
            ],
        )
        _half_received(buyer)
    _plan(buyer, plan)
    inquiry = load_lantern_inquiry(engineer)
    with transaction.atomic():
        plans = plans_of_inquiry(buyer, inquiry.pk)
    for of_quantity in plans:
        _plan(buyer, of_quantity)
    quote = make_quote(buyer, inquiry.pk)
    markups = {"material": "8", "freight": "8", "subcontract": "8"}
    once = [{"words": "Etched name plates, first set-up", "amount": "140", "spread": False}]
    change_quote(
        buyer,
        quote.pk,
        quote.version,
        {"markups": markups, "overall_percent": "22", "once": once, "words": "Delivery six weeks from order."},
    )


def _plan(buyer: User, plan: BuyPlan) -> None:
    plan_now(buyer, plan.pk)
    job = last_job(KIND, plan.pk)
    assert job is not None
    # A worker that takes it later finds it done.
    run_plan.call(plan.pk, job.pk)


def _half_received(buyer: User) -> None:
    """Six rolls of cable, two of which are here."""
    offer = Offer.objects.get(part__number="CAB-05")
    order = place_order(buyer, order_part(buyer, "CAB-05", offer.pk, "6").pk, 1)
    receive_goods(buyer, order.pk, order.version, [{"line": order.lines.get().pk, "quantity": "2"}], "NQ 88104")


def _offer(part: str, supplier: str, breaks: str, minimum: str, multiple: str, available: str, days: str) -> dict[str, Any]:
    maker, number = _MAKERS.get((part, supplier), ("", ""))
    ran_out = _RUN_OUT.get((part, supplier))
    until = localdate() - timedelta(days=ran_out) if ran_out else localdate() + timedelta(days=45)
    initials = "".join(word[0] for word in supplier.split())
    return {
        "breaks": [pair.split("=") for pair in breaks.split()],
        "minimum": minimum,
        "multiple": multiple,
        "available": available,
        "lead_days": days,
        "maker": maker,
        "maker_number": number,
        "their_number": f"{initials}-{part}",
        "valid_to": until.isoformat(),
    }
