"""``buildable PART``: how many can be built from stock (rule W7)."""

from readings.from_stock import from_stock

from tally_site.management.commands._answer import Answer


class Command(Answer):
    help = "How many of a part can be built from what is on hand, and what one more would lack."
    make = staticmethod(from_stock)

    def words(self, answer: dict) -> str:
        many = "without limit" if answer["quantity"] is None else answer["quantity"]
        return "\n".join([f"{answer['part']}: {many}", *(f"  {n['part']:24} short {n['short']}" for n in answer["limited_by"])])
