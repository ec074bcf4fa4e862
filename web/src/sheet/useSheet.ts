import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useMemo, useRef, useState } from "react";
import { answer, client, Refusal, type SheetView, type Stale } from "../lib/api";
import type { Basis } from "../lib/basis";
import { type Change, modelOf, overlay, withEdit } from "./model";

/** Steps back and forward, kept as long as the page: leaving a sheet and coming back loses none. */
const histories = new Map<number, { done: Change[][]; undone: Change[][] }>();

function reverse(changes: Change[]): Change[] {
  return changes.map((c) => ({ ...c, before: c.after, after: c.before })).reverse();
}

/** Changes that did not reach the server, in order, and why; they stay on screen until they are sent or let go. */
export interface Unsent {
  reason: string;
  steps: { changes: Change[]; remember: () => void }[];
}

/** Whether a failure says nothing about the change itself: no connection, signed out, the server in trouble. */
function passing(refused: Refusal): boolean {
  return refused.status === 0 || refused.status === 401 || refused.status >= 500;
}

/** A sheet under a basis, and its editing: changes show at once, are saved in order, and can be undone. */
export function useSheet(
  sheetId: number,
  basis: Basis,
  onRefused: (error: Refusal, changes: Change[]) => void,
  onMade: (numbers: string[]) => void,
) {
  const queries = useQueryClient();
  const [pending, setPending] = useState<Change[][]>([]);
  const [unsent, setUnsent] = useState<Unsent | null>(null);
  const [stale, setStale] = useState<{ answer: Stale; changes: Change[] } | null>(null);
  const [, redraw] = useState(0);
  const version = useRef(0);
  const chain = useRef<Promise<void>>(Promise.resolve());
  const waiting = useRef(0);
  const saved = useRef<Change[][]>([]);
  const key = useRef<unknown[]>([]);
  key.current = ["sheet-view", sheetId, basis];
  const held = useRef<Unsent | null>(null);
  if (!histories.has(sheetId)) histories.set(sheetId, { done: [], undone: [] });
  const history = histories.get(sheetId)!;

  const query = useQuery({
    queryKey: ["sheet-view", sheetId, basis],
    queryFn: async () => {
      const view: SheetView = await answer(
        client.GET("/api/sheets/{sheet_id}/view", { params: { path: { sheet_id: sheetId }, query: basis } }),
      );
      if (waiting.current === 0) version.current = view.sheet.version;
      return view;
    },
    placeholderData: (old) => (old?.sheet.id === sheetId ? old : undefined),
    staleTime: 0,
  });

  const view = useMemo(() => (query.data ? overlay(query.data, pending.flat()) : undefined), [query.data, pending]);
  const model = useMemo(() => (view ? modelOf(view) : undefined), [view]);

  const hold = useCallback((next: Unsent | null) => {
    held.current = next;
    setUnsent(next);
  }, []);

  const send = useCallback(
    (changes: Change[], remember: () => void) => {
      setPending((old) => (old.includes(changes) ? old : [...old, changes]));
      waiting.current += 1;
      chain.current = chain.current.then(async () => {
        try {
          if (held.current) throw new Refusal(0, held.current.reason);
          const shown = key.current;
          const stamp = queries.getQueryData<SheetView>(shown)?.stamp ?? null;
          const { figures, made, ...head } = await answer(
            client.POST("/api/sheets/{sheet_id}/edits", {
              params: { path: { sheet_id: sheetId }, query: shown[2] as Basis },
              body: { version: version.current, changes, reason: "", stamp },
            }),
          );
          version.current = head.version;
          if (made.length > 0) onMade(made);
          const base = queries.getQueryData<SheetView>(shown);
          if (figures && base?.stamp === stamp) {
            queries.setQueryData(shown, withEdit(base, head, figures));
            setPending((old) => old.filter((other) => other !== changes));
          } else saved.current.push(changes);
          remember();
        } catch (error) {
          const refused = error instanceof Refusal ? error : new Refusal(0, String(error));
          if (passing(refused))
            hold({ reason: refused.message, steps: [...(held.current?.steps ?? []), { changes, remember }] });
          else {
            if (refused.stale) setStale({ answer: refused.stale, changes });
            else onRefused(refused, changes);
            setPending((old) => old.filter((other) => other !== changes));
          }
        }
        waiting.current -= 1;
        // Where the answers brought no figures they are asked for once, when the last change on its way has been saved;
        // what is laid on them stays until they are there, and what was typed meanwhile stays longer.
        if (waiting.current === 0) {
          const settled = saved.current.splice(0);
          // Views under another basis are read again when they are next shown.
          const others = { queryKey: ["sheet-view", sheetId], refetchType: "none" } as const;
          if (settled.length > 0) await queries.invalidateQueries({ ...others, refetchType: "active" });
          else
            await queries.invalidateQueries({
              ...others,
              predicate: (other) => JSON.stringify(other.queryKey) !== JSON.stringify(key.current),
            });
          setPending((old) => old.filter((other) => !settled.includes(other)));
          queries.invalidateQueries({ queryKey: ["working"] });
          queries.invalidateQueries({ queryKey: ["sheets"] });
        }
        redraw((n) => n + 1);
      });
    },
    [sheetId, queries, onRefused, onMade, hold],
  );

  /** Send what did not reach the server once more, or let it go. */
  const settleUnsent = useCallback(
    (again: boolean) => {
      const steps = held.current?.steps ?? [];
      hold(null);
      if (again) for (const step of steps) send(step.changes, step.remember);
      else {
        const gone = steps.map((step) => step.changes);
        setPending((old) => old.filter((other) => !gone.includes(other)));
        queries.invalidateQueries({ queryKey: ["sheet-view", sheetId] });
      }
    },
    [hold, send, queries, sheetId],
  );

  const edit = useCallback(
    (changes: Change[]) => {
      if (changes.length === 0) return;
      send(changes, () => {
        history.done.push(changes);
        if (history.done.length > 500) history.done.shift();
        history.undone.length = 0;
      });
    },
    [send, history],
  );

  const step = useCallback(
    (from: Change[][], to: Change[][], turned: boolean) => {
      const take = () => {
        const last = from.pop();
        if (last) send(turned ? reverse(last) : last, () => to.push(last));
        return !!last;
      };
      // What is still on its way is the last step: it is waited for, or the one before it would be taken.
      if (waiting.current === 0) return take();
      chain.current = chain.current.then(() => {
        take();
      });
      return true;
    },
    [send],
  );
  const undo = useCallback(() => step(history.done, history.undone, true), [step, history]);
  const redo = useCallback(() => step(history.undone, history.done, false), [step, history]);

  /** After both versions were seen: lay the changes on theirs after all, or let them go. */
  const settle = useCallback(
    (mine: boolean) => {
      if (!stale) return;
      setStale(null);
      version.current = stale.answer.version;
      if (mine) edit(stale.changes);
      else queries.invalidateQueries({ queryKey: ["sheet-view", sheetId] });
    },
    [stale, edit, queries, sheetId],
  );

  return {
    query,
    view,
    model,
    edit,
    undo,
    redo,
    stale,
    settle,
    unsent,
    settleUnsent,
    saving: pending.length > 0,
    canUndo: history.done.length > 0,
    canRedo: history.undone.length > 0,
  };
}
