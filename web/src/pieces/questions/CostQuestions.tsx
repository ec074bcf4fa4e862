import { StandardsChart } from "../../kit/StandardsChart";
import type { SheetHead } from "../../lib/api";
import type { Basis } from "../../lib/basis";
import { type SheetView, stateOf } from "../../model/wire";
import { BridgeBetween } from "./BridgeBetween";
import { LotCurve } from "./LotCurve";
import { PriceStrip } from "./PriceStrip";

/** Questions to the cost of a sheet: against another basis, over the lot, over time, and what it sells for. */
export function CostQuestions({ view, basis, revisions }: { view: SheetView; basis: Basis; revisions: SheetHead[] }) {
  const asked = { sheet: view.sheet.id, state: stateOf(view), basis };
  return (
    <div className="flex min-h-0 flex-1 flex-col overflow-y-auto pb-4">
      <PriceStrip view={view} />
      <div className="border-t border-ink bg-paper px-3 py-2">
        <BridgeBetween view={view} basis={basis} revisions={revisions} />
      </div>
      <div className="grid grid-cols-[1fr_340px] gap-6 border-t border-hair bg-paper px-3 py-2">
        <LotCurve {...asked} width={500} />
        <StandardsChart number={view.sheet.part} width={330} />
      </div>
    </div>
  );
}
