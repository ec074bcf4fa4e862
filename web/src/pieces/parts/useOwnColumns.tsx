import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import type { DataColumn } from "../../kit/dataColumns";
import { answer, client } from "../../lib/api";
import { quantity } from "../../lib/number";
import { isNumber, useClasses } from "./useParts";

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
  const found = useQuery({
    queryKey: ["parts", "own values", names, parts],
    queryFn: () => answer(client.POST("/api/parts/own-values", { body: { parts, names } })),
    enabled: names.length > 0 && parts.length > 0,
    placeholderData: keepPreviousData,
  }).data;
  const columns = useMemo<DataColumn<R>[]>(() => {
    const fields = new Map<string, { number: boolean; units: Set<string> }>();
    for (const { fields: own } of classes)
      for (const field of own) {
        const held = fields.get(field.name) ?? { number: true, units: new Set() };
        held.number &&= isNumber(field);
        fields.set(field.name, { ...held, units: held.units.add(field.unit ?? "") });
      }
    return [...fields]
      .sort(([a], [b]) => a.localeCompare(b))
      .map(([name, { number, units }]) => {
        const words = name.replaceAll("_", " ");
        const unit = units.size === 1 ? [...units][0] : "";
        const value = (row: R) => found?.[name]?.[numberOf(row) ?? ""] ?? null;
        return {
          key: OWN + name,
          title: unit && !words.endsWith(` ${unit}`) ? `${words}, ${unit}` : words,
          width: "minmax(72px,110px)",
          own: true,
          number,
          groups: !number,
          value,
          show: (row) => {
            const said = value(row);
            return typeof said === "number" ? quantity(said, 4) : <span title={said ?? ""}>{said}</span>;
          },
        };
      });
  }, [classes, found, numberOf]);
  return { columns, onOwn };
}
