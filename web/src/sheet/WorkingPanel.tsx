import type { Ref } from "react";
import { WorkingView } from "../kit/WorkingView";
import { answer, client } from "../lib/api";
import type { Basis } from "../lib/basis";

/** The working of the figure under the cursor of a sheet. */
export function WorkingPanel({
  sheet,
  basis,
  figure,
  onLeave,
  panel,
}: {
  sheet: number;
  basis: Basis;
  figure: string | null;
  onLeave?: () => void;
  panel?: Ref<HTMLElement>;
}) {
  return (
    <WorkingView
      title="Working"
      about={[sheet, basis]}
      figure={figure}
      ask={(at) => answer(client.GET("/api/costing/working", { params: { query: { sheet, figure: at, ...basis } } }))}
      onLeave={onLeave}
      panel={panel}
    />
  );
}
