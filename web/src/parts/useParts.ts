import { useQueries, useQuery } from "@tanstack/react-query";
import { answer, client, type PartOut } from "../lib/api";

export const PAGE = 100;

/** The classes that parts are in. */
export function useClasses(): string[] {
  return (
    useQuery({ queryKey: ["parts", "classes"], queryFn: () => answer(client.GET("/api/parts/classes")) }).data ?? []
  );
}

function page(search: string, kind: string, partClass: string, offset: number) {
  return {
    queryKey: ["parts", search, kind, partClass, offset],
    queryFn: () =>
      answer(
        client.GET("/api/parts", { params: { query: { search, kind, part_class: partClass, offset, limit: PAGE } } }),
      ),
    staleTime: 15_000,
  };
}

/**
 * A window over all parts that match: `total` of them, of which only the pages around the rows on screen are loaded.
 * `first` and `last` are the rows on screen.
 */
export function useParts(search: string, kind: string, partClass: string, first: number, last: number) {
  const head = useQuery({ ...page(search, kind, partClass, 0), placeholderData: (old) => old });
  const from = Math.floor(first / PAGE);
  const pages = Array.from({ length: Math.floor(last / PAGE) - from + 1 }, (_, i) => (from + i) * PAGE);
  const loaded = useQueries({ queries: pages.map((offset) => page(search, kind, partClass, offset)) });
  const at = (row: number): PartOut | undefined => {
    const index = pages.indexOf(Math.floor(row / PAGE) * PAGE);
    const found = loaded[index]?.data ?? (row < PAGE ? head.data : undefined);
    return found?.items[row % PAGE];
  };
  return { total: head.data?.total ?? 0, at, error: head.error, pending: head.isPending };
}
