import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { MenuItem, MenuLine } from "./Menu";

/** Column sets of a list by name: taken, kept, let go. They follow the person, not the browser. */
export function ColumnSets({
  list,
  hidden,
  own,
  onTake,
}: {
  list: string;
  hidden: Set<string>;
  /** What is kept of own columns that are shown. */
  own: string[];
  onTake: (hidden: string[]) => void;
}) {
  const [name, setName] = useState("");
  const queries = useQueryClient();
  const key = ["session", "columns", list] as const;
  const sets =
    useQuery({
      queryKey: key,
      queryFn: () => answer(client.GET("/api/session/columns", { params: { query: { list_name: list } } })),
    }).data ?? [];
  const keep = useMutation<Schemas["ColumnsOut"][], Refusal, void>({
    mutationFn: () =>
      answer(client.POST("/api/session/columns", { body: { list_name: list, name, hidden: [...hidden] } })),
    onSuccess: (now) => {
      setName("");
      queries.setQueryData(key, now);
    },
  });
  const drop = useMutation<Schemas["ColumnsOut"][], Refusal, string>({
    mutationFn: (gone) => answer(client.POST("/api/session/columns/drop", { body: { list_name: list, name: gone } })),
    onSuccess: (now) => queries.setQueryData(key, now),
  });
  const same = (set: Schemas["ColumnsOut"]) =>
    set.hidden.length === hidden.size && set.hidden.every((k) => hidden.has(k));
  return (
    <>
      <MenuLine />
      <MenuItem onSelect={() => onTake(own)}>All columns</MenuItem>
      {sets.map((set) => (
        <MenuItem key={set.name} onSelect={() => onTake(set.hidden)}>
          <span className="flex items-baseline justify-between gap-4">
            <span>
              Columns “{set.name}”{same(set) ? " ✓" : ""}
            </span>
            <button
              type="button"
              className="text-[12px] text-ink-3 hover:text-blue"
              aria-label={`let go of column set ${set.name}`}
              onClick={(event) => {
                event.stopPropagation();
                drop.mutate(set.name);
              }}
            >
              let go
            </button>
          </span>
        </MenuItem>
      ))}
      <div className="flex gap-1.5 px-3 py-1">
        <input
          className="field !min-h-[26px]"
          aria-label="Keep these columns under the name"
          aria-invalid={!!keep.error}
          placeholder="keep these columns as …"
          value={name}
          onChange={(event) => setName(event.target.value)}
          onKeyDown={(event) => {
            // The menu would take letters for the beginnings of its items.
            event.stopPropagation();
            if (event.key === "Enter" && name.trim()) keep.mutate();
          }}
        />
      </div>
      {keep.error && <p className="px-3 text-[12px] text-bad">{keep.error.message}</p>}
    </>
  );
}
