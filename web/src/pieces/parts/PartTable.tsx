import { type ComponentProps, useMemo } from "react";
import { DataTable } from "../../kit/DataTable";
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
  const all = useMemo(() => {
    const more = own.columns.filter((c) => !but?.includes(c.title));
    const behind = columns.findIndex((c) => c.key === "description") + 1 || columns.length;
    return [...columns.slice(0, behind), ...more, ...columns.slice(behind)];
  }, [columns, own.columns, but]);
  return <DataTable {...table} columns={all} onOwn={own.onOwn} />;
}
