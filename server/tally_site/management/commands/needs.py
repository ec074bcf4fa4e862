"""``needs PART --qty Q``: what a job takes."""

from tally_core.cost.answers import needs_answer

from tally_site.management.commands._answer import Answer


class Command(Answer):
    help = "What a job of so many takes of every part."
    costs = False
    make = staticmethod(lambda _, question: needs_answer(question))

    def words(self, answer: dict) -> str:
        lines = [f"{n['level']:>2}  {n['part']:24} {n['gross']:>18} {n['unit']}" for n in answer["needs"]]
        lines += [f"returns  {n['part']:19} {n['quantity']:>18} {n['unit']}" for n in answer["returns"]]
        return "\n".join(lines)
