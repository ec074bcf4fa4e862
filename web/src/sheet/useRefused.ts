import { useCallback, useRef, useState } from "react";
import { useSay } from "../kit/Says";
import type { Refusal } from "../lib/api";
import type { Change } from "../model/change";
import type { RefusedField } from "../pieces/fields/One";
import { cellOf } from "./grid/cells";
import type { Cursor, Editing } from "./grid/cursor";

/** Changes that the server refused, and why: back into the cell or the field they were typed into, with what was typed. */
export function useRefused(typing: boolean, onBack: (cell: Cursor, editing: Editing) => void) {
  const say = useSay();
  const [refused, setRefused] = useState<{ error: Refusal; changes: Change[] } | null>(null);
  // Changes made outside the grid: what is refused of them goes back to the field it came from.
  const outsideGrid = useRef(new WeakSet<Change[]>());
  const onScreen = useRef<(id: string) => boolean>(() => false);
  const now = useRef({ refused, typing, onBack });
  now.current = { refused, typing, onBack };

  const show = useCallback((next: typeof refused) => {
    now.current.refused = next;
    setRefused(next);
  }, []);
  const clear = useCallback(() => show(null), [show]);

  /** Answers whether it is shown where it was typed. */
  const take = useCallback(
    (error: Refusal, changes: Change[]): boolean => {
      const outside = outsideGrid.current.has(changes);
      // Where another one is shown, or something else is being typed, it waits above the sheet.
      if (now.current.refused || (now.current.typing && !outside)) return false;
      if (outside) {
        show({ error, changes });
        say(error.message, { bad: true });
        return true;
      }
      const problem = error.problems[0];
      const [id, field] = problem ? [problem.place.slice(0, 36), problem.place.slice(37)] : ["", ""];
      const change = changes.find((c) => c.id === id);
      // Its row is gone, so there is no cell to go back to.
      if (change && change.table !== "sheet" && !onScreen.current(id)) return false;
      show({ error, changes });
      const column = change && cellOf(change.table, field);
      if (change && column && change.before && change.after && field in change.after) {
        const text = (change.after as Record<string, unknown>)[field];
        now.current.onBack(
          { row: `/${id}`, column },
          { text: text === null || text === undefined ? "" : String(text), error: problem!.message },
        );
      } else say(error.message, { bad: true });
      return true;
    },
    [say, show],
  );

  return {
    take,
    clear,
    onScreen,
    /** Changes that were typed into a field outside the grid. */
    fromField: (changes: Change[]) => {
      outsideGrid.current.add(changes);
      clear();
    },
    /** What was typed into a field and refused, with the reason. */
    field: (id: string | null, name: string): RefusedField | undefined => {
      const change = refused?.changes.find((c) => c.id === id && c.after);
      const after = change?.after as Record<string, unknown> | undefined;
      const outside = after?.subcontract as Record<string, unknown> | undefined;
      const message = refused?.error.problems.find(
        (p) => p.place.split(".").slice(1).join(".").replace("subcontract.", "") === name,
      )?.message;
      if (!change || !message || !after) return undefined;
      return { message, typed: name in after ? after[name] : outside?.[name] };
    },
  };
}
