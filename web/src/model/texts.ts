import { PART_KINDS } from "../lib/declared";
import { quantity } from "../lib/number";
import type { LineRowOnScreen } from "./rows";
import type { PartRow } from "./wire";

/** Whether a line counts under the basis. */
export const counts = (row: LineRowOnScreen) => row.line.net !== null && row.line.net !== undefined;

/** What is on hand of a part and not spoken for by orders of the shop. */
export const free = (part: PartRow): number => Math.max(0, part.on_hand - part.spoken_for);

/**
 * What is taken of a part and is neither there nor to come; nothing for what is no stock. A job takes whole units of what is
 * counted in them (rule N2).
 */
export function short(part: PartRow | null, need: number | null, job: boolean): number | null {
  if (!part || !PART_KINDS[part.kind].stocked || need === null) return null;
  return Math.max(0, (job ? (part.lot ?? need) : need) - Math.max(0, part.on_hand + part.on_order - part.spoken_for));
}

/** For how many of what its sheet builds a part's stock is enough; nothing where the line takes none of it. */
export function enoughFor(row: LineRowOnScreen): number | null {
  const { line, part } = row;
  if (!part || !PART_KINDS[part.kind].stocked || line.kind !== "component" || !line.gross || line.gross <= 0)
    return null;
  return Math.floor(free(part) / line.gross + 1e-9);
}

export function lossText(row: LineRowOnScreen): string {
  const { scrap_percent, yield_percent } = row.line;
  if (yield_percent !== null) return `yield ${yield_percent} %`;
  return scrap_percent !== null && Number(scrap_percent) !== 0 ? `${scrap_percent} %` : "";
}

/** The other way to say the same loss (rule U3). */
export function lossOtherwise(row: LineRowOnScreen): string | undefined {
  const { scrap_percent, yield_percent } = row.line;
  if (yield_percent !== null) return `the same loss as ${quantity(10000 / Number(yield_percent) - 100, 3)} % scrap`;
  if (Number(scrap_percent ?? 0) > 0)
    return `the same loss as a yield of ${quantity(10000 / (100 + Number(scrap_percent)), 3)} %`;
  return undefined;
}

export function optionText(row: LineRowOnScreen): string {
  const { option, option_action } = row.line;
  return option ? `${option_action === "remove" ? "less" : "with"} ${option}` : "";
}

export function usageText(row: LineRowOnScreen): string {
  if (row.line.not_fitted) return "not fitted";
  if (row.line.customer_supplied) return "customer-supplied";
  if (row.line.kind === "component" && row.line.quantity === null) return "as needed";
  return "";
}
