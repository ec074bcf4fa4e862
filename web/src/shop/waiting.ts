import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useState } from "react";
import { answer, client, Refusal, type Schemas } from "../lib/api";

/** A report that was made here: kept until the server has it, and the same however often it is sent. */
export interface Waiting {
  order: number;
  number: string;
  body: Schemas["ReportIn"];
  /** What the server said against it. */
  refused?: string;
}

const KEPT = "reports that wait";

function kept(): Waiting[] {
  try {
    return JSON.parse(localStorage.getItem(KEPT) ?? "[]") as Waiting[];
  } catch {
    return [];
  }
}

/** Reports on their way: kept in this browser first, sent in their order, and kept where there is no connection. */
export function useWaiting() {
  const [rows, setRows] = useState<Waiting[]>(kept);
  const [offline, setOffline] = useState(false);
  const queries = useQueryClient();
  const write = useCallback((next: Waiting[]) => {
    localStorage.setItem(KEPT, JSON.stringify(next));
    setRows(next);
  }, []);
  const send = useCallback(async () => {
    for (const row of kept()) {
      if (row.refused) continue;
      try {
        await answer(
          client.POST("/api/shop/orders/{order_id}/report", {
            params: { path: { order_id: row.order } },
            body: row.body,
          }),
        );
        write(kept().filter((w) => w.body.key !== row.body.key));
        setOffline(false);
      } catch (error) {
        if (
          error instanceof Refusal &&
          error.status >= 400 &&
          error.status < 500 &&
          error.status !== 401 &&
          error.status !== 429
        ) {
          const said = error.problems[0]?.message ?? error.message;
          write(kept().map((w) => (w.body.key === row.body.key ? { ...w, refused: said } : w)));
          continue;
        }
        setOffline(true);
        break;
      }
    }
    queries.invalidateQueries({ queryKey: ["work-orders"] });
  }, [queries, write]);
  const add = useCallback(
    (row: Waiting) => {
      write([...kept(), row]);
      void send();
    },
    [send, write],
  );
  /** Once more, as of now: the clock here may have been wrong, or what stopped it is mended. */
  const again = useCallback(
    (key: string) => {
      write(kept().map((w) => (w.body.key === key ? { ...w, refused: undefined, body: { ...w.body, at: null } } : w)));
      void send();
    },
    [send, write],
  );
  const drop = useCallback((key: string) => write(kept().filter((w) => w.body.key !== key)), [write]);
  useEffect(() => {
    const retry = () => void send();
    window.addEventListener("online", retry);
    const timer = window.setInterval(() => kept().some((w) => !w.refused) && retry(), 5000);
    if (kept().some((w) => !w.refused)) retry();
    return () => {
      window.removeEventListener("online", retry);
      window.clearInterval(timer);
    };
  }, [send]);
  return { rows, offline, add, again, drop };
}
