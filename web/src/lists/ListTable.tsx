import { DropdownMenu } from "radix-ui";
import { useState } from "react";
import { MenuItem, MenuLine } from "../kit/Menu";
import type { Schemas } from "../lib/api";
import { money, quantity } from "../lib/number";
import { moved, type Wanted } from "./wanted";

type List = Schemas["MadeListOut"];

/** The list as it will be read; each heading can be renamed, moved, sorted by and taken out where it stands. */
export function ListTable({
  list,
  wanted,
  onChange,
}: {
  list: List;
  wanted: Wanted;
  onChange: (next: Partial<Wanted>) => void;
}) {
  const indents = wanted.arrangement === "indented" || wanted.arrangement === "operations";
  return (
    <section aria-label="The list" className="h-full overflow-auto bg-paper" tabIndex={-1}>
      <table className="w-full border-separate border-spacing-0">
        <thead>
          <tr>
            {list.columns.map((c) => (
              <th
                key={c.key}
                scope="col"
                aria-sort={wanted.sort === c.key ? (wanted.down ? "descending" : "ascending") : undefined}
                className={`sticky top-0 z-[2] border-b border-ink bg-paper px-2 py-1 font-normal ${right(c.holds) ? "text-right" : "text-left"}`}
              >
                <Heading column={c} wanted={wanted} onChange={onChange} />
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {list.rows.map((row, at) => (
            <tr
              // biome-ignore lint/suspicious/noArrayIndexKey: a row is its place in the list
              key={at}
              className={`group ${row.kind === "operation" ? "bg-sunk font-semibold" : "hover:bg-blue-tint"}`}
            >
              {list.columns.map((c, x) => (
                <td
                  key={c.key}
                  className={`border-b border-hair px-2 py-[3px] align-top ${right(c.holds) ? "text-right whitespace-nowrap" : ""}`}
                >
                  {c.holds === "picture" ? (
                    row.picture !== null && (
                      <img
                        loading="lazy"
                        alt={String(row.cells[x])}
                        src={`/api/parts/files/${row.picture}`}
                        className="h-[54px] max-w-[90px] object-contain"
                      />
                    )
                  ) : c.holds === "tick" ? (
                    <span className="inline-block h-3.5 w-3.5 border border-hair-2" />
                  ) : c.key === "number" ? (
                    <span
                      className="relative block pr-16 whitespace-nowrap"
                      style={{ paddingLeft: indents ? row.level * 16 : 0 }}
                    >
                      <span className="pn">{row.number}</span>
                      {row.number && row.level > 0 && (
                        <button
                          type="button"
                          className="absolute -top-1 right-0 min-h-6 text-[12px] text-ink-3 opacity-0 group-hover:opacity-100 hover:text-blue focus-visible:opacity-100"
                          aria-label={`Keep ${row.number} out`}
                          onClick={() =>
                            onChange({ keep_out: [...new Set([...wanted.keep_out, `part:${row.number}`])] })
                          }
                        >
                          keep out
                        </button>
                      )}
                    </span>
                  ) : (
                    shown(row.cells[x]!, c.holds)
                  )}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <p className="px-2 py-2 text-ink-2" aria-live="polite">
        {list.count === 1 ? "1 row" : `${list.count} rows`}
        {list.count > list.rows.length && `, the first ${list.rows.length} shown`}
        {list.kept_out > 0 && `; ${list.kept_out} kept out`}
      </p>
    </section>
  );
}

const right = (holds: string) => holds === "number" || holds === "money";

function shown(cell: string | number | null, holds: string): string {
  if (typeof cell !== "number") return cell ?? "";
  return holds === "money" ? money(cell) : quantity(cell, 6);
}

function Heading({
  column,
  wanted,
  onChange,
}: {
  column: List["columns"][number];
  wanted: Wanted;
  onChange: (next: Partial<Wanted>) => void;
}) {
  const [typing, setTyping] = useState<string | null>(null);
  const sorted = wanted.sort === column.key ? (wanted.down ? " ↓" : " ↑") : "";
  const keep = () => {
    if (typing?.trim())
      onChange({
        columns: wanted.columns.map((c) => (c.key === column.key ? { key: c.key, title: typing.trim() } : c)),
      });
    setTyping(null);
  };
  if (typing !== null)
    return (
      <input
        className="field !min-h-[26px] w-full min-w-[80px]"
        aria-label={`Heading of ${column.title}`}
        autoFocus
        maxLength={120}
        value={typing}
        onChange={(event) => setTyping(event.target.value)}
        onBlur={keep}
        onKeyDown={(event) => {
          if (event.key === "Enter") keep();
          if (event.key === "Escape") setTyping(null);
        }}
      />
    );
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        className="min-h-6 max-w-[180px] truncate hover:text-blue"
        title="Rename, move, sort by, take out"
      >
        {column.title}
        {sorted}
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="start"
          className="rise z-50 min-w-[190px] border border-hair-2 bg-paper py-1 shadow-lg"
          onCloseAutoFocus={(event) => event.preventDefault()}
        >
          <MenuItem onSelect={() => setTyping(column.title)}>Call it …</MenuItem>
          <MenuItem onSelect={() => onChange({ columns: moved(wanted.columns, column.key, -1) })}>
            Move it left
          </MenuItem>
          <MenuItem onSelect={() => onChange({ columns: moved(wanted.columns, column.key, 1) })}>
            Move it right
          </MenuItem>
          <MenuLine />
          <MenuItem onSelect={() => onChange({ sort: column.key, down: false })}>Smallest first</MenuItem>
          <MenuItem onSelect={() => onChange({ sort: column.key, down: true })}>Largest first</MenuItem>
          {wanted.sort && <MenuItem onSelect={() => onChange({ sort: "", down: false })}>As the sheet stands</MenuItem>}
          {wanted.columns.length > 1 && (
            <>
              <MenuLine />
              <MenuItem
                onSelect={() =>
                  onChange({
                    columns: wanted.columns.filter((c) => c.key !== column.key),
                    ...(wanted.sort === column.key ? { sort: "", down: false } : {}),
                  })
                }
              >
                Take it out
              </MenuItem>
            </>
          )}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
