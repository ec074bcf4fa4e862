import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo, useReducer, useRef, useState } from "react";
import { afterPaint } from "../lib/afterPaint";
import { answer, client, Refusal } from "../lib/api";
import type { Basis } from "../lib/basis";
import { useUntrue } from "../lib/untrue";
import type { Change } from "../model/change";
import { modelOf } from "../model/product";
import { EditQueue, type History } from "../model/queue";
import { overlay, withEdit } from "../model/view";
import { laidOut, type SheetView } from "../model/wire";

/** Kept as long as the page: leaving a sheet and coming back loses none of its steps. */
const histories = new Map<number, History>();

function historyOf(sheetId: number): History {
  const held = histories.get(sheetId) ?? { done: [], undone: [] };
  histories.set(sheetId, held);
  return held;
}

/** A sheet under a basis, and the queue of its edits. One sheet for as long as the caller lives. */
export function useSheet(
  sheetId: number,
  basis: Basis,
  /** A change was refused; answers whether it is shown where it was typed, with what was typed. */
  onRefused: (error: Refusal, changes: Change[]) => boolean,
  onMade: (numbers: string[]) => void,
  /** A step was undone that had made parts. */
  onLeft: (numbers: string[]) => void,
) {
  const queries = useQueryClient();
  const untrue = useUntrue();
  const [, redraw] = useReducer((n: number) => n + 1, 0);
  const key = ["sheet-view", sheetId, basis] as const;
  const now = useRef({ key, onRefused, onMade, onLeft });
  now.current = { key, onRefused, onMade, onLeft };

  const [queue] = useState(() => {
    const save = async (version: number, changes: Change[]) => {
      const shown = now.current.key;
      const seen = queries.getQueryData<SheetView>(shown);
      // Rows of the whole product are moved by their place in it.
      const stamp = seen?.whole ? seen.stamp : null;
      const { figures, made, ...head } = await answer(
        client.POST("/api/sheets/{sheet_id}/edits", {
          params: { path: { sheet_id: sheetId }, query: shown[2] },
          body: { version, changes, reason: "", stamp },
        }),
      );
      const base = queries.getQueryData<SheetView>(shown);
      const laid = !!figures && !!base?.whole && base.stamp === stamp;
      if (laid) queries.setQueryData(shown, withEdit(base, head, figures));
      return { version: head.version, made, laid };
    };
    const reread = async (shown: boolean) => {
      const views = { queryKey: ["sheet-view", sheetId] as const };
      if (shown) {
        untrue("edit");
        return queries.invalidateQueries(views);
      }
      const here = JSON.stringify(now.current.key);
      // The answer brought the figures: they are drawn first, and then what rests on them is asked for.
      afterPaint(() => {
        untrue("edit");
        // Views under another basis are read again when they are next shown.
        queries.invalidateQueries({
          ...views,
          refetchType: "none",
          predicate: (other) => JSON.stringify(other.queryKey) !== here,
        });
      });
    };
    return new EditQueue(
      {
        save,
        reread,
        failure: (error) =>
          error instanceof Refusal
            ? {
                message: error.message,
                stale: error.stale,
                passing: error.status === 0 || error.status === 401 || error.status >= 500,
              }
            : { message: String(error), passing: true },
        refused: (error, changes) => now.current.onRefused(error as Refusal, changes),
        made: (numbers) => now.current.onMade(numbers),
        left: (numbers) => now.current.onLeft(numbers),
        changed: redraw,
      },
      historyOf(sheetId),
    );
  });

  const query = useQuery({
    queryKey: key,
    queryFn: async () => {
      const read = async (own: boolean) =>
        laidOut(
          await answer(
            client.GET("/api/sheets/{sheet_id}/view", {
              params: { path: { sheet_id: sheetId }, query: { ...basis, own } },
            }),
          ),
        );
      if (queries.getQueriesData({ queryKey: ["sheet-view", sheetId] }).every(([, held]) => held === undefined)) {
        // Its own rows stand there while all that they take is on its way.
        const own = await read(true);
        queue.read(own.sheet.version);
        queries.setQueryData(key, (held: SheetView | undefined) => held ?? own);
      }
      for (;;) {
        const view = await read(false);
        if (!queue.read(view.sheet.version)) return view;
      }
    },
    placeholderData: (old) => (old?.sheet.id === sheetId ? old : undefined),
    staleTime: 0,
    // To find what stayed the same in thousands of rows takes longer than to draw those on screen.
    structuralSharing: false,
  });
  const { pending } = queue;
  const view = useMemo(() => (query.data ? overlay(query.data, pending.flat()) : undefined), [query.data, pending]);
  const model = useMemo(() => (view ? modelOf(view) : undefined), [view]);
  return { query, view, model, queue };
}
