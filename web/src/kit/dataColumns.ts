import { type ReactNode, useState } from "react";

/** A column of a list that is read: what a row says in it, how it looks, and whether it is added up. */
export interface DataColumn<R> {
  key: string;
  title: string;
  width: string;
  value: (row: R) => string | number | null;
  show?: (row: R) => ReactNode;
  number?: boolean;
  total?: boolean;
  /** Not shown until it is asked for. */
  off?: boolean;
  /** The list can be put in groups by it. */
  groups?: boolean;
  /** Sorted letter by letter: days, and words behind them. */
  letters?: boolean;
}

const KEPT = "columns off: ";

/** What a list hides, kept in this browser. */
export function useHidden(list: string, off: string[]): [Set<string>, (keys: string[]) => void] {
  const [hidden, setHidden] = useState(
    () => new Set<string>(JSON.parse(localStorage.getItem(KEPT + list) ?? JSON.stringify(off))),
  );
  return [
    hidden,
    (keys) => {
      localStorage.setItem(KEPT + list, JSON.stringify(keys));
      setHidden(new Set(keys));
    },
  ];
}

export function sumsOf<R>(columns: DataColumn<R>[], rows: R[]): Record<string, number> {
  return Object.fromEntries(
    columns.filter((c) => c.total).map((c) => [c.key, rows.reduce((sum, row) => sum + (Number(c.value(row)) || 0), 0)]),
  );
}
