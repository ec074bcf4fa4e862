"""Models of parts: the file, and what was read of each part in it."""

from definition.models.parts import Part
from django.db import models
from files.models import StoredFile

__all__ = ["FORMAT", "KIND", "SECTION", "ModelFile", "ModelPiece", "PartShape", "PartView", "section_key"]

#: What ``ModelFile.said`` and ``PartShape.drawing`` are written in.
FORMAT = 1
#: What jobs that read a model are called.
KIND = "model"
#: How what sections are called begins.
SECTION = "section, "


def section_key(side: str, depth: float) -> str:
    """What a section is called among the views of a model.

    >>> section_key("front", 12.5)
    'section, front, 12.5'
    """
    return f"{SECTION}{side}, {depth:g}"


class ModelFile(models.Model):
    """A STEP file of a part or an assembly, as it was brought in; the newest of a part is the one that counts."""

    part = models.ForeignKey(Part, on_delete=models.CASCADE, related_name="model_files")
    file = models.ForeignKey(StoredFile, on_delete=models.PROTECT, related_name="+")
    name = models.CharField(max_length=200)
    # What is ours under which name of the file, said by whoever brought it; other names are taken for numbers.
    pairs = models.JSONField(default=dict)
    # ``format``, ``tree``, ``counts`` by name, ``ours`` (the key of our part by name), ``problems`` in words, ``as_stated``: of how many shapes the file
    # itself states figures; none until it was read.
    said = models.JSONField(null=True)
    # The whole of it as glTF; none until it was read, and where it holds too much.
    look = models.ForeignKey(StoredFile, on_delete=models.PROTECT, related_name="+", null=True)
    added_by = models.CharField(max_length=150)
    added_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-id"]


class ModelPiece(models.Model):
    """A further file that a model refers to by its name."""

    model = models.ForeignKey(ModelFile, on_delete=models.CASCADE, related_name="pieces")
    file = models.ForeignKey(StoredFile, on_delete=models.PROTECT, related_name="+")
    name = models.CharField(max_length=200)

    class Meta:
        ordering = ["id"]


class PartShape(models.Model):
    """What the newest model that holds a part says of its shape. Lengths in millimetres, as text without rounding of its own."""

    part = models.OneToOneField(Part, on_delete=models.CASCADE, related_name="shape")
    source = models.ForeignKey(ModelFile, on_delete=models.CASCADE, related_name="shapes")
    name = models.CharField(max_length=200)
    # How often it stands in the file, all places together.
    count = models.IntegerField()
    # Empty for an assembly, which has no size of its own here.
    box_mm = models.JSONField(default=list)
    volume_mm3 = models.CharField(max_length=40, blank=True, default="")
    surface_mm2 = models.CharField(max_length=40, blank=True, default="")
    colour = models.CharField(max_length=7, blank=True, default="")
    # ``format`` and what ``formats.step_sheet.sheet_metal`` gives; none for an assembly.
    sheet = models.JSONField(null=True)
    # ``format`` and what ``formats.step_lines.line_drawing`` gives; none where nothing could be drawn.
    drawing = models.JSONField(null=True)


class PartView(models.Model):
    """The assembly that a file was brought in for, seen from one side or cut, what stands in it apart, as ``formats.step_lines.views_of`` or
    ``formats.step_section`` has it."""

    model = models.ForeignKey(ModelFile, on_delete=models.CASCADE, related_name="views")
    direction = models.CharField(max_length=40)
    # ``format`` and the view; of a section also ``side`` and ``depth``.
    said = models.JSONField()

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["model", "direction"], name="view_once")]
