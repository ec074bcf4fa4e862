"""Part numbers that cannot change any more."""

from definition.models.sheets import BuildSheet, Line

__all__ = ["why_kept"]


def why_kept(part_ids: list[int]) -> dict[int, str]:
    """Parts that keep their number, and why: released papers name them. One rule, whoever asks for another number."""
    kept = {}
    lines = Line.objects.filter(part_id__in=part_ids).exclude(sheet__status="draft")
    for part, user, revision in lines.values_list("part_id", "sheet__part__number", "sheet__revision"):
        kept[part] = f"stands on released {user} rev. {revision}"
    for part, revision in BuildSheet.objects.filter(part_id__in=part_ids).exclude(status="draft").values_list("part_id", "revision"):
        kept[part] = f"has the released revision {revision}"
    return kept
