import { type ReactNode, useState } from "react";
import { cents, quantity } from "../lib/number";

/** A column of a list that is read: what a row says in it, how it looks, and whether it is added up. */
export interface DataColumn<R> {
  key: string;
  title: string;
  width: string;
  value: (row: R) => string | number | null;
  show?: (row: R) => ReactNode;
  number?: boolean;
  total?: boolean;
  /** Tells what something costs, so it stands only for who sees that. */
  costs?: boolean;
  /** Not shown until it is asked for. */
  off?: boolean;
  /** Of those that a workspace has of its own: not shown until asked for, also by who chose columns before there was this one. */
  own?: boolean;
  /** The list can be put in groups by it. */
  groups?: boolean;
  /** Sorted letter by letter: days, and words behind them. */
  letters?: boolean;
}

const KEPT = "columns off: ";

/** What is kept of an own column is that it is shown; of others, that they are not. */
export const kept = <R>(column: DataColumn<R>) => (column.own ? `+${column.key}` : column.key);
export const isShown = <R>(column: DataColumn<R>, hidden: Set<string>) => hidden.has(kept(column)) === !!column.own;

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

/** What stands under a column that is added up: money with two places, like a price; nothing under any other. */
export const sumText = <R>(column: DataColumn<R>, sums: Record<string, number>) =>
  column.total ? (column.costs ? cents : (sum: number) => quantity(sum, 2))(sums[column.key] ?? 0) : "";

export const ownLast = <R>(columns: DataColumn<R>[]) => [
  ...columns.filter((c) => !c.own),
  ...columns.filter((c) => c.own),
];
