import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { Menu, MenuItem, MenuLine } from "../kit/Menu";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { useRefusal } from "../lib/session";
import { same, type Wanted } from "./wanted";

type Kept = Schemas["KeptListOut"];

/** How lists are made, kept under names: taken, kept, let go; one's own, or for all. */
export function KeptLists({
  kept,
  wanted,
  onTake,
}: {
  kept: Kept[];
  wanted: Wanted;
  onTake: (wanted: Wanted) => void;
}) {
  const [name, setName] = useState("");
  const [forAll, setForAll] = useState(false);
  const reason = useRefusal("lists");
  const queries = useQueryClient();
  const held = (now: Kept[]) =>
    queries.setQueryData<Schemas["ListWordsOut"]>(["lists"], (words) => words && { ...words, kept: now });
  const keep = useMutation<Kept[], Refusal, void>({
    mutationFn: () => answer(client.POST("/api/lists/kept", { body: { ...wanted, name, for_all: forAll } })),
    onSuccess: (now) => {
      setName("");
      held(now);
    },
  });
  const drop = useMutation<Kept[], Refusal, number>({
    mutationFn: (key) => answer(client.POST("/api/lists/kept/{list_id}/drop", { params: { path: { list_id: key } } })),
    onSuccess: held,
  });
  const now = kept.find((k) => same(taken(k), wanted));
  return (
    <span className="ml-auto">
      <Menu label={now ? `“${now.name}”` : "Kept lists …"}>
        {kept.length === 0 && <p className="px-3 py-1 text-ink-2">None is kept yet.</p>}
        {kept.map((k) => (
          <MenuItem key={k.id} onSelect={() => onTake(taken(k))}>
            <span className="flex items-baseline justify-between gap-4">
              <span>
                {k.name}
                {k === now ? " ✓" : ""}
                {k.for_all && (
                  <span className="text-[12px] text-ink-3">{k.mine ? " for all" : ` for all, by ${k.by}`}</span>
                )}
              </span>
              {(k.mine || !reason) && (
                <button
                  type="button"
                  className="min-h-6 text-[12px] text-ink-3 hover:text-blue"
                  aria-label={`let go of list ${k.name}`}
                  onClick={(event) => {
                    event.stopPropagation();
                    drop.mutate(k.id);
                  }}
                >
                  let go
                </button>
              )}
            </span>
          </MenuItem>
        ))}
        <MenuLine />
        <form
          className="flex flex-col gap-1 px-3 py-1"
          // The menu would take letters for the beginnings of its items.
          onKeyDown={(event) => event.stopPropagation()}
          onSubmit={(event) => {
            event.preventDefault();
            if (name.trim()) keep.mutate();
          }}
        >
          <span className="flex gap-1.5">
            <input
              className="field !min-h-[26px]"
              aria-label="Keep this list under the name"
              aria-invalid={!!keep.error}
              placeholder="keep this list as …"
              value={name}
              onChange={(event) => setName(event.target.value)}
            />
            <Button type="submit" className="!min-h-[26px]" disabled={!name.trim()}>
              Keep
            </Button>
          </span>
          <label className="flex min-h-6 items-center gap-1.5" title={reason}>
            <input
              type="checkbox"
              checked={forAll}
              disabled={!!reason}
              onChange={(event) => setForAll(event.target.checked)}
            />
            for all who work here
          </label>
          {(keep.error || drop.error) && (
            <p className="text-[12px] text-bad">{keep.error?.message ?? drop.error?.message}</p>
          )}
        </form>
      </Menu>
    </span>
  );
}

function taken(kept: Kept): Wanted {
  const { arrangement, columns, sort, down, keep_out, decimal } = kept;
  return { arrangement, columns, sort, down, keep_out, decimal };
}
