import { keepPreviousData, useQueries, useQuery } from "@tanstack/react-query";
import { answer, client, type PartOut, type Schemas } from "../../lib/api";
import { quantity } from "../../lib/number";

export const PAGE = 100;

export type PartClass = Schemas["ClassOut"];
export type OwnField = PartClass["fields"][number];

/** What is computed without a unit may be words. */
export const isNumber = (field: OwnField) =>
  field.kind === "number" || field.kind === "money" || (field.kind === "computed" && field.unit !== "");

/** What the list is narrowed to. */
export interface Found {
  search: string;
  kind: string;
  part_class: string;
  unmodelled: boolean;
}

const NONE: PartClass[] = [];

/** The classes of parts, those that parts only name included; not fetched where they are not `asked` for. */
export function useClasses(asked = true): PartClass[] {
  const found = useQuery({
    queryKey: ["parts", "classes"],
    queryFn: () => answer(client.GET("/api/parts/classes")),
    // Every list that names parts asks; what is written to a class here is read again at once.
    staleTime: 60_000,
    enabled: asked,
  });
  return found.data ?? NONE;
}

/**
 * Every field that classes have, each name once, by name: how it is headed, whether all classes mean a number by it, and
 * whether it is typed, not computed.
 */
export function fieldsOf(classes: PartClass[]): { name: string; title: string; number: boolean; typed: boolean }[] {
  const fields = new Map<string, OwnField[]>();
  for (const { fields: own } of classes)
    for (const field of own) fields.set(field.name, [...(fields.get(field.name) ?? []), field]);
  return [...fields]
    .sort(([a], [b]) => a.localeCompare(b))
    .map(([name, held]) => {
      const words = name.replaceAll("_", " ");
      const unit = held.every((f) => f.unit === held[0]!.unit) ? held[0]!.unit : "";
      return {
        name,
        title: unit && !words.endsWith(` ${unit}`) ? `${words}, ${unit}` : words,
        number: held.every(isNumber),
        typed: held.every((f) => f.kind !== "computed"),
      };
    });
}

/** What is computed and cannot be says why behind a dash. */
export const isWhyNot = (said: string | number | null) => typeof said === "string" && said.startsWith("–");
export const ownText = (said: string | number | null) =>
  typeof said === "number" ? quantity(said, 4) : isWhyNot(said) ? "–" : said;

/** By field, what each of some parts says in it; nothing is fetched while no part or no field is asked for. */
export function useOwnValues(parts: string[], names: string[]) {
  return useQuery({
    queryKey: ["parts", "own values", names, parts],
    queryFn: () => answer(client.POST("/api/parts/own-values", { body: { parts, names } })),
    enabled: names.length > 0 && parts.length > 0,
    placeholderData: keepPreviousData,
  }).data;
}

function page(found: Found, offset: number) {
  return {
    queryKey: ["parts", found, offset] as const,
    queryFn: () => answer(client.GET("/api/parts", { params: { query: { ...found, offset, limit: PAGE } } })),
    staleTime: 15_000,
  };
}

/**
 * A window over all parts that match: `total` of them, of which only the pages around the rows on screen are loaded.
 * `first` and `last` are the rows on screen.
 */
export function useParts(found: Found, first: number, last: number) {
  const head = useQuery({ ...page(found, 0), placeholderData: (old) => old });
  const from = Math.floor(first / PAGE);
  const pages = Array.from({ length: Math.floor(last / PAGE) - from + 1 }, (_, i) => (from + i) * PAGE);
  const loaded = useQueries({ queries: pages.map((offset) => page(found, offset)) });
  const at = (row: number): PartOut | undefined => {
    const index = pages.indexOf(Math.floor(row / PAGE) * PAGE);
    const items = loaded[index]?.data ?? (row < PAGE ? head.data : undefined);
    return items?.items[row % PAGE];
  };
  return { total: head.data?.total ?? 0, at, error: head.error, pending: head.isPending };
}
