import { KindMark } from "../kit/KindMark";
import type { PartOut } from "../lib/api";
import { money, quantity } from "../lib/number";
import { useSeesCosts } from "../lib/session";
import { isNumber, type OwnField } from "../pieces/parts/useParts";

/** What the list says of a part. */
export function PartCells({ part, chosen, own }: { part: PartOut; chosen: boolean; own: OwnField[] }) {
  const costs = useSeesCosts();
  return (
    <>
      <span data-choose className="-m-2 flex justify-center p-2" title="Choose (Space)">
        <span
          aria-hidden="true"
          className={`h-3.5 w-3.5 border text-center text-[11px] leading-[13px] ${chosen ? "border-blue bg-blue text-paper" : "border-hair-2"}`}
        >
          {chosen ? "✓" : ""}
        </span>
      </span>
      <span className="pn truncate">{part.number}</span>
      <span className="truncate">{part.description}</span>
      {own.length === 0 && <span className="truncate text-ink-2">{part.part_class}</span>}
      {own.map((field) => {
        const said = part.computed[field.name] ?? part.own_values[field.name] ?? "";
        return (
          <span key={field.name} className={`truncate ${isNumber(field) ? "text-right" : ""}`} title={said}>
            {said.startsWith("–") ? "–" : isNumber(field) && said !== "" ? quantity(said) : said}
          </span>
        );
      })}
      <KindMark kind={part.kind} />
      <span className="text-right">
        {!costs ? (
          "–"
        ) : part.given_cost !== null ? (
          <span title={part.given_reason || "cost given by hand"}>{money(Number(part.given_cost))} by hand</span>
        ) : part.markup_percent !== null ? (
          <span title={part.given_reason}>{quantity(part.markup_percent)} % by hand</span>
        ) : part.kind === "bought" || part.kind === "charge" ? (
          part.unit_cost === null ? (
            <span className="text-brass">missing</span>
          ) : (
            money(Number(part.unit_cost))
          )
        ) : (
          <span className="text-ink-3">{part.sheets ? "rolled up" : "no sheet"}</span>
        )}
      </span>
      <span className="text-ink-3">{part.unit}</span>
      <span className="text-right">{part.on_hand === null ? "" : quantity(part.on_hand)}</span>
      {own.length === 0 && (
        <>
          <span className="text-right">{part.kind === "made" ? quantity(part.costing_lot ?? "1") : ""}</span>
          <span className="text-ink-2">{part.lifecycle.replace("_", " ")}</span>
        </>
      )}
    </>
  );
}
