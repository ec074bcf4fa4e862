import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useMemo, useRef, useState } from "react";
import { answer, client, Refusal, type SheetView, type Stale } from "../lib/api";
import type { Basis } from "../lib/basis";
import { type Change, merged, modelOf, overlay, withEdit } from "./model";

/** Steps back and forward, kept as long as the page: leaving a sheet and coming back loses none. */
const histories = new Map<number, { done: Change[][]; undone: Change[][] }>();

function reverse(changes: Change[]): Change[] {
  return changes.map((c) => ({ ...c, before: c.after, after: c.before })).reverse();
}

/** Changes that are one step to undo, and what is to be kept of them once they are saved. */
interface Step {
  changes: Change[];
  remember: () => void;
}

/** Steps that are not saved, in order, and why; they stay on screen until they are sent again or let go. */
export interface Unsent {
  reason: string;
  steps: Step[];
  /** Nothing reaches the server, so what comes after them waits, too. */
  blocks: boolean;
}

/** Whether a failure says nothing about the change itself: no connection, signed out, the server in trouble. */
function passing(refused: Refusal): boolean {
  return refused.status === 0 || refused.status === 401 || refused.status >= 500;
}

/** A sheet under a basis, and its editing: changes show at once, are saved in order, and can be undone. */
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
  const [pending, setPending] = useState<Change[][]>([]);
  const [unsent, setUnsent] = useState<Unsent | null>(null);
  const [stale, setStale] = useState<{ answer: Stale; steps: Step[] } | null>(null);
  const [, redraw] = useState(0);
  const version = useRef(0);
  const chain = useRef<Promise<void>>(Promise.resolve());
  const waiting = useRef(0);
  const saved = useRef<Change[][]>([]);
  const key = useRef<unknown[]>([]);
  key.current = ["sheet-view", sheetId, basis];
  const held = useRef<Unsent | null>(null);
  // What somebody else's save refused, and all that was on its way behind it: laid anew together, or let go together.
  const behind = useRef<{ answer: Stale; steps: Step[] } | null>(null);
  const madeBy = useRef(new WeakMap<Change[], string[]>());
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

  const keepUnsent = useCallback(
    (step: Step, reason: string, blocks: boolean) =>
      hold({
        reason,
        steps: [...(held.current?.steps ?? []), step],
        blocks: blocks || (held.current?.blocks ?? false),
      }),
    [hold],
  );

  /** Save one step; what is refused stays where a person can see it. Answers whether the step is settled. */
  const deliver = useCallback(
    async (step: Step): Promise<boolean> => {
      if (held.current?.blocks) {
        keepUnsent(step, held.current.reason, true);
        return false;
      }
      if (behind.current) {
        behind.current.steps.push(step);
        return false;
      }
      const shown = key.current;
      const stamp = queries.getQueryData<SheetView>(shown)?.stamp ?? null;
      try {
        const { figures, made, ...head } = await answer(
          client.POST("/api/sheets/{sheet_id}/edits", {
            params: { path: { sheet_id: sheetId }, query: shown[2] as Basis },
            body: { version: version.current, changes: step.changes, reason: "", stamp },
          }),
        );
        version.current = head.version;
        if (made.length > 0) {
          madeBy.current.set(step.changes, made);
          onMade(made);
        }
        const base = queries.getQueryData<SheetView>(shown);
        const laid = !!figures && base?.stamp === stamp;
        if (laid) queries.setQueryData(shown, withEdit(base, head, figures));
        else saved.current.push(step.changes);
        step.remember();
        return laid;
      } catch (error) {
        const refused = error instanceof Refusal ? error : new Refusal(0, String(error));
        if (refused.stale) {
          behind.current = { answer: refused.stale, steps: [step] };
          return false;
        }
        if (passing(refused)) {
          keepUnsent(step, refused.message, true);
          return false;
        }
        if (onRefused(refused, step.changes)) return true;
        keepUnsent(step, refused.message, false);
        return false;
      }
    },
    [sheetId, queries, onRefused, onMade, keepUnsent],
  );

  /** Show both versions of all that waits behind somebody else's save. */
  const showBehind = useCallback(async () => {
    const waits = behind.current;
    if (!waits) return;
    if (waits.steps.length > 1) {
      // Asked with the old version, the server saves nothing and says how all of it stands against theirs.
      const changes = merged(waits.steps.flatMap((step) => step.changes));
      const asked = client.POST("/api/sheets/{sheet_id}/edits", {
        params: { path: { sheet_id: sheetId }, query: key.current[2] as Basis },
        body: { version: version.current, changes, reason: "", stamp: null },
      });
      await answer(asked).catch((error) => {
        if (error instanceof Refusal && error.stale) waits.answer = error.stale;
      });
    }
    setStale({ ...waits });
  }, [sheetId]);

  const send = useCallback(
    (changes: Change[], remember: () => void) => {
      setPending((old) => (old.includes(changes) ? old : [...old, changes]));
      waiting.current += 1;
      chain.current = chain.current.then(async () => {
        if (await deliver({ changes, remember })) setPending((old) => old.filter((other) => other !== changes));
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
          await showBehind();
        }
        redraw((n) => n + 1);
      });
    },
    [sheetId, queries, deliver, showBehind],
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
        if (last)
          send(turned ? reverse(last) : last, () => {
            to.push(last);
            const made = madeBy.current.get(last);
            if (turned && made) onLeft(made);
          });
        return !!last;
      };
      // What is still on its way is the last step: it is waited for, or the one before it would be taken.
      if (waiting.current === 0) return take();
      chain.current = chain.current.then(() => {
        take();
      });
      return true;
    },
    [send, onLeft],
  );
  const undo = useCallback(() => step(history.done, history.undone, true), [step, history]);
  const redo = useCallback(() => step(history.undone, history.done, false), [step, history]);

  /** After both versions were seen: lay all that waits on theirs, in order, or let it go. */
  const settle = useCallback(
    (mine: boolean) => {
      const waits = behind.current;
      if (!waits) return;
      behind.current = null;
      setStale(null);
      version.current = waits.answer.version;
      if (mine) for (const step of waits.steps) send(step.changes, step.remember);
      else {
        const gone = waits.steps.map((step) => step.changes);
        setPending((old) => old.filter((other) => !gone.includes(other)));
      }
      queries.invalidateQueries({ queryKey: ["sheet-view", sheetId] });
    },
    [send, queries, sheetId],
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
  };
}
