import { useMemo, useState } from "react";
import type { DataColumn } from "../../kit/dataColumns";
import { fieldsOf, ownText, useClasses, useOwnValues } from "./useParts";

const OWN = "own: ";

/** Fields of classes as columns of a list that names parts; only what is shown is fetched. `numberOf` stays the same function. */
export function useOwnColumns<R>(rows: R[], numberOf: (row: R) => string | null) {
  const classes = useClasses();
  const [shown, onOwn] = useState<string[]>([]);
  const names = shown.map((key) => key.slice(OWN.length));
  const parts = useMemo(
    () => (shown.length === 0 ? [] : [...new Set(rows.flatMap((row) => numberOf(row) ?? []))].sort()),
    [rows, numberOf, shown],
  );
  const found = useOwnValues(parts, names);
  const columns = useMemo<DataColumn<R>[]>(() => {
    return fieldsOf(classes).map(({ name, title, number }) => {
      const value = (row: R) => found?.[name]?.[numberOf(row) ?? ""] ?? null;
      return {
        key: OWN + name,
        title,
        width: "minmax(72px,110px)",
        own: true,
        number,
        groups: !number,
        value,
        show: (row) => {
          const said = value(row);
          return <span title={String(said ?? "")}>{ownText(said)}</span>;
        },
      };
    });
  }, [classes, found, numberOf]);
  return { columns, onOwn };
}
