"""Who did what: a copied revision is the copier's, an edit after it the editor's, and an input is whose it was, through revisions."""

from definition.models.sheets import BuildSheet, Line
from django.contrib.auth.models import Group, User
from django.test import TestCase
from testing import Api, load, person, rod_and_tube

from readings.provenance import who_set


class Named(Api):
    """Another engineer."""

    def __init__(self, name: str) -> None:
        super().__init__("engineer")
        user = User.objects.create_user(name)
        user.groups.add(Group.objects.get(name="engineer"))
        self.user = user
        self.client.force_login(user)


class Who(TestCase):
    def setUp(self) -> None:
        person("engineer")
        load(rod_and_tube("released"))
        self.first, self.copier, self.editor = Named("alma"), Named("bert"), Named("cleo")

    def edit(self, api: Api, sheet: BuildSheet, after: dict) -> None:
        line = sheet.lines.get(item=10)
        body = {
            "version": BuildSheet.objects.get(pk=sheet.pk).version,
            "changes": [{"table": "line", "id": str(line.pk), "before": {}, "after": after}],
        }
        status, said = api.post(f"/sheets/{sheet.pk}/edits", body)
        self.assertEqual(status, 200, said)

    def opened(self, api: Api) -> BuildSheet:
        status, said = api.post("/sheets", {"part": "RT-1", "reason": "another rod"})
        self.assertEqual(status, 200, said)
        return BuildSheet.objects.get(pk=said["id"])

    def test_history_names_the_copier_and_then_the_editor(self) -> None:
        draft = self.opened(self.copier)
        self.edit(self.editor, draft, {"quantity": "2.5"})
        history = self.first.get(f"/sheets/{draft.pk}/history")[1]
        self.assertEqual([entry["by"] for entry in history], ["cleo", "bert", "bert"], history)
        self.assertEqual(history[0]["changes"][0]["field"], "quantity")
        self.assertTrue(all(c["after"] in ("added", "made") for entry in history[1:] for c in entry["changes"]))

    def setters(self, sheet: BuildSheet) -> dict[str, str]:
        line = sheet.lines.get(item=10)
        names = {"quantity", "scrap_percent", "fixed_loss"}
        return {name: told["by"] for (_, name), told in who_set(Line, [line.pk], {line.pk: names}).items()}

    def test_an_input_is_whose_it_was_through_revisions(self) -> None:
        one = self.opened(self.first)
        self.edit(self.first, one, {"quantity": "2.5"})
        BuildSheet.objects.filter(pk=one.pk).update(status="released", effective_from="2027-01-01")
        two = self.opened(self.copier)
        self.edit(self.editor, two, {"scrap_percent": "7"})
        BuildSheet.objects.filter(pk=two.pk).update(status="released", effective_from="2027-02-01")
        three = self.opened(self.copier)
        # The fixed loss was loaded with the bundle, by nobody who is signed in.
        self.assertEqual(self.setters(three), {"quantity": "alma", "scrap_percent": "cleo", "fixed_loss": ""})
        self.edit(self.copier, three, {"quantity": "2.5", "scrap_percent": "6"})
        self.assertEqual(self.setters(three), {"quantity": "alma", "scrap_percent": "bert", "fixed_loss": ""})
        # What is changed on the released one later is not the copy's.
        Line.objects.filter(sheet=two, item=10).update(quantity=9)
        self.assertEqual(self.setters(three)["quantity"], "alma")
        keys = list(three.lines.values_list("pk", flat=True))
        with self.assertNumQueries(2):
            who_set(Line, keys, {key: {"quantity"} for key in keys})
