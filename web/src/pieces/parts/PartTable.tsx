import { type ComponentProps, useMemo } from "react";
import { DataTable } from "../../kit/DataTable";
import { useSeesCosts } from "../../lib/session";
import { useOwnColumns } from "./useOwnColumns";

type TableProps<R> = ComponentProps<typeof DataTable<R>>;

/**
 * A list whose rows name parts: behind their descriptions stand the fields of their classes, not shown until asked for.
 * `numberOf` stays the same function; `but` are fields that the list has already.
 */
export function PartTable<R>({
  numberOf,
  but,
  columns,
  ...table
}: Omit<TableProps<R>, "onOwn"> & { numberOf: (row: R) => string | null; but?: string[] }) {
  const own = useOwnColumns(table.rows, numberOf);
  const costs = useSeesCosts();
  const all = useMemo(() => {
    const seen = columns.filter((c) => costs || !c.costs);
    const more = own.columns.filter((c) => !but?.includes(c.title));
    const behind = seen.findIndex((c) => c.key === "description") + 1 || seen.length;
    return [...seen.slice(0, behind), ...more, ...seen.slice(behind)];
  }, [columns, own.columns, but, costs]);
  return <DataTable {...table} columns={all} onOwn={own.onOwn} />;
}
