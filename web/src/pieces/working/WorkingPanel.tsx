import type { Ref } from "react";
import { WorkingView } from "../../kit/WorkingView";
import { answer, client } from "../../lib/api";
import type { Basis } from "../../lib/basis";

/** The working of the figure under the cursor of a sheet. */
export function WorkingPanel({
  sheet,
  state,
  basis,
  figure,
  onLeave,
  panel,
}: {
  sheet: number;
  /** Of the product, as `stateOf` gives it: in another one the figure is made of other inputs. */
  state: string;
  basis: Basis;
  figure: string | null;
  onLeave?: () => void;
  panel?: Ref<HTMLElement>;
}) {
  return (
    <WorkingView
      title="Working"
      about={[sheet, state, basis]}
      figure={figure}
      ask={(at) => answer(client.GET("/api/costing/working", { params: { query: { sheet, figure: at, ...basis } } }))}
      onLeave={onLeave}
      panel={panel}
    />
  );
}
