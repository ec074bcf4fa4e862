"""An assembly by STEP in an inquiry: its tree comes in as a list, as any other would, and a broken one ends in a word.

AS1 is the test assembly of the CAx-IF (ISO 10303), 18 parts of five kinds; S1 one in nine files. See ``formats.tests.test_step``.
"""

from django.test import TestCase
from formats.tests.test_step import CAX_IF, of_cax_if
from geometry.models import PartShape
from testing import Api

from inquiries.modelled import read_with_it
from inquiries.models import InquiryFile, ListLine


class Models(TestCase):
    def test_the_tree_comes_in_as_a_list(self) -> None:
        api = Api("engineer")
        at = api.inquiry(title="Bracket")
        answer = api.upload("as1.stp", of_cax_if("as1-oc-214.stp"), f"{at}/files")[1]
        self.assertEqual([(f["role"], f["lines"], f["failed"]) for f in answer["files"]], [("list", 10, "")])
        said = {(line.said.get("parent", ""), line.said["part"]): line.said["quantity"] for line in ListLine.objects.all()}
        self.assertEqual(said["l-bracket-assembly", "nut-bolt-assembly"], "3")
        self.assertEqual((said["as1", "l-bracket-assembly"], said["rod-assembly", "nut"], said["", "as1"]), ("2", "2", "1"))
        self.assertEqual(ListLine.objects.get(said__part="plate").said["description"], "180 × 150 × 20 mm")
        sent = api.get(f"{at}/lines")[1]["table"]
        table = [sent["same"] | {name: column[at_row] for name, column in sent["each"].items()} for at_row in range(sent["count"])]
        # A nut under two assemblies is no line twice.
        self.assertEqual((len(table), [row["part"] for row in table if row["findings"]]), (10, []))

    def test_what_its_lines_became_gets_their_shapes(self) -> None:
        api = Api("engineer")
        at = api.inquiry(title="Bracket")
        api.upload("as1.stp", of_cax_if("as1-oc-214.stp"), f"{at}/files")
        lines = ListLine.objects.all()
        # A number of ours is not the name that the model has; what is known by it is paired by hand.
        new = [{"line": x.pk, "seen": x.stamp, "number": f"BR-{x.said['part'][:12]}".upper()} for x in lines]
        self.assertEqual(api.post(f"{at}/parts", new)[0], 200)
        with self.captureOnCommitCallbacks(execute=True):
            status, made = api.post(f"{at}/result", {})
        self.assertEqual(status, 200, made)
        shapes = {s.name: s for s in PartShape.objects.select_related("part", "source__part")}
        self.assertEqual(len(shapes), 9)
        self.assertEqual(shapes["rod"].part.number, "BR-ROD")
        self.assertEqual((shapes["rod"].part.size_mm, shapes["rod"].source.part.number), ("200 x 10 x 10", "BR-AS1"))
        rows = {r["name"]: r for r in api.get("/parts/one/model", number="BR-AS1")[1]["rows"]}
        self.assertEqual((rows["nut"]["count"], rows["nut"]["on_sheet"]), (8, 8))

    def test_several_files_that_name_one_another_are_one_model(self) -> None:
        """S1, with two of the eight files that it names; its own comes between them."""
        api = Api("engineer")
        at = api.inquiry(title="Turbine")
        for name in ("footback.stp", "s1-tu-203.stp", "tailturbine.stp"):
            answer = api.upload(name, (CAX_IF / "s1-tu-203" / name).read_bytes(), f"{at}/files")[1]
        roles = {f["name"]: f["role"] for f in answer["files"]}
        self.assertEqual(roles, {"footback.stp": "piece", "s1-tu-203.stp": "list", "tailturbine.stp": "piece"})
        said = {(line.said.get("parent", ""), line.said["part"]): line.said["quantity"] for line in ListLine.objects.all()}
        # Twice in its own file; without it, it would stand nowhere.
        self.assertEqual([q for (_, part), q in said.items() if part == "tailturbine"], ["2"])
        # Its parts get their shapes from all of them.
        new = [{"line": x.pk, "seen": x.stamp, "number": f"S1-{nth}"} for nth, x in enumerate(ListLine.objects.all())]
        self.assertEqual(api.post(f"{at}/parts", new)[0], 200)
        with self.captureOnCommitCallbacks(execute=True):
            status, made = api.post(f"{at}/result", {})
        self.assertEqual(status, 200, made)
        self.assertIn("tailturbine", PartShape.objects.values_list("name", flat=True))
        # Without the file that names them, the others stand for themselves; without one that it names, it is read without.
        file = {f["name"]: f["id"] for f in answer["files"]}
        api.post(f"{at}/files/{file['tailturbine.stp']}/drop", {})
        self.assertEqual(read_with_it(InquiryFile.objects.get(name="s1-tu-203.stp")), ["footback.stp"])
        answer = api.post(f"{at}/files/{file['s1-tu-203.stp']}/drop", {})[1]
        self.assertEqual({f["role"] for f in answer["files"]}, {"list"})

    def test_a_broken_one_ends_in_a_word(self) -> None:
        api = Api("engineer")
        at = api.inquiry(title="Bracket")
        whole = of_cax_if("as1-oc-214.stp")
        answer = api.upload("as1.stp", whole[: len(whole) // 4], f"{at}/files")[1]
        (file,) = answer["files"]
        self.assertEqual((file["role"], file["lines"]), ("unread", 0))
        self.assertIn("as1.stp", file["failed"])
