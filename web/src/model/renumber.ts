import type { Line } from "./change";
import { linesByOperation, type Model } from "./product";

/**
 * New item numbers for the lines of the sheet, in list order; locked ones keep theirs, and nobody else gets it.
 * @param ranges where the numbers of a class begin, when not with the others
 */
export function renumber(
  model: Model,
  start: number,
  step: number,
  ranges: Record<string, number>,
): { line: Line; item: number }[] {
  const { view } = model;
  const lines = linesByOperation(model, view.top).flatMap(([, held]) => held);
  const locked = new Set(lines.filter((line) => line.item_locked).map((line) => line.item));
  const next: Record<string, number> = { "": start, ...ranges };
  return lines
    .filter((line) => !line.item_locked)
    .map((line) => {
      const partClass = view.parts[line.child]?.part_class ?? "";
      const run = partClass in ranges ? partClass : "";
      let item = next[run]!;
      while (locked.has(item)) item += step;
      next[run] = item + step;
      return { line, item };
    });
}
