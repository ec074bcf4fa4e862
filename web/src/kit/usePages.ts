import { keepPreviousData, useQueries } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useRef, useState } from "react";
import type { QueryKey } from "../lib/untrue";

/** One page of a long list as the server gives it. */
interface Page<Item> {
  total: number;
  items: Item[];
}

/**
 * A list of any length of which only the pages around the rows on screen are loaded.
 *
 * `key` names the list as it is narrowed and sorted now, `ask` fetches `limit` items from `offset` on.
 */
export function usePages<P extends Page<unknown>>({
  key,
  ask,
  size = 200,
  tall,
}: {
  key: QueryKey;
  ask: (offset: number, limit: number) => Promise<P>;
  /** Items a page. */
  size?: number;
  /** Pixels a row. */
  tall: number;
}) {
  const [range, setRange] = useState<[number, number]>([0, 30]);
  const box = useRef<HTMLDivElement>(null);
  const pages = [...new Set([0, Math.floor(range[0] / size), Math.floor(range[1] / size)])];
  const loaded = useQueries({
    queries: pages.map((page) => ({
      queryKey: [...key, page] as const,
      queryFn: () => ask(page * size, size),
      placeholderData: keepPreviousData,
    })),
  });
  const held = new Map(pages.map((page, i) => [page, loaded[i]?.data as P | undefined]));
  const first = held.get(0);
  const total = first?.total ?? 0;
  const rows = useVirtualizer({
    count: total,
    getScrollElement: () => box.current,
    estimateSize: () => tall,
    overscan: 10,
    onChange: (v) => {
      const shown = v.getVirtualItems();
      const next: [number, number] = [shown[0]?.index ?? 0, shown.at(-1)?.index ?? 0];
      setRange((old) => (old[0] === next[0] && old[1] === next[1] ? old : next));
    },
  });
  const at = (index: number) =>
    held.get(Math.floor(index / size))?.items[index % size] as P["items"][number] | undefined;
  return { box, rows, total, at, first };
}
