"""``cost PART``: the cost of a unit."""

from tally_core.cost.answers import cost_answer

from tally_site.management.commands._answer import Answer


class Command(Answer):
    help = "The unit cost of a part: at costing lots, or for a job with --qty."
    make = staticmethod(lambda _, question: cost_answer(question))

    def words(self, answer: dict) -> str:
        lines = [f"{answer['part']}  {answer['unit_cost']} {answer['currency']}"]
        lines += [f"  {name:12} {value:>18}" for name, value in answer["elements"].items() if float(value)]
        return "\n".join(lines)
