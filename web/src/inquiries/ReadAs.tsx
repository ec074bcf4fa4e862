import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { useUntrue } from "../lib/untrue";
import { OF_PART } from "../model/inquiry";
import { fieldsOf, useClasses } from "../pieces/parts/useParts";
import type { Inquiry } from "./states";

type Grid = Schemas["GridOut"];
interface KeptMap {
  header: number;
  columns: Record<string, [number, number]>;
  commas: Record<string, boolean>;
}

const FIELDS: [field: string, word: string][] = [
  ["part", "number"],
  ["description", "description"],
  ["quantity", "quantity"],
  ["unit", "unit"],
  ["reference_designators", "designators"],
  ["maker", "maker"],
  ["maker_number", "maker's number"],
  ["item", "item number"],
  ["level", "level"],
  ["parent", "parent"],
  ["unit_cost", "unit cost"],
  ["scrap_percent", "scrap, %"],
  ["not_fitted", "not fitted"],
  ["fitted", "fitted"],
  ["customer_supplied", "they supply it"],
  ["note", "note"],
  ...OF_PART,
];
/** Fields that one column may hold together, in either order. */
const PAIRS: [string, string][] = [
  ["maker", "maker_number"],
  ["maker_number", "maker"],
  ["part", "description"],
  ["description", "part"],
  ["quantity", "unit"],
];
const word = (field: string) => FIELDS.find(([name]) => name === field)?.[1] ?? field;

/** A list as it stands in its file, with what each column holds; what is said here is remembered for the sender. */
export function ReadAs({ inquiry, file, onClose }: { inquiry: Inquiry; file: number; onClose: () => void }) {
  const name = inquiry.files.find((f) => f.id === file)?.name ?? "";
  const grids = useQuery({
    queryKey: ["inquiries", "grid", inquiry.id, file],
    queryFn: () =>
      answer(
        client.GET("/api/inquiries/{inquiry_id}/files/{file_id}/grid", {
          params: { path: { inquiry_id: inquiry.id, file_id: file } },
        }),
      ),
  });
  const [at, setAt] = useState(0);
  const grid = grids.data?.[at];
  return (
    <div className="flex min-h-0 flex-1 flex-col gap-2">
      <div className="flex items-center gap-3">
        <h2 className="text-[16px] font-semibold">How {name} is read</h2>
        {(grids.data?.length ?? 0) > 1 && (
          <select
            className="field !w-auto"
            aria-label="Sheet of the file"
            value={at}
            onChange={(e) => setAt(Number(e.target.value))}
          >
            {grids.data?.map((g, index) => (
              <option key={g.sheet} value={index}>
                {g.sheet} ({g.count} rows)
              </option>
            ))}
          </select>
        )}
        <span className="text-ink-2">Click a row number to say that it holds the titles.</span>
      </div>
      {grid && <OneGrid key={`${file} ${grid.sheet}`} inquiry={inquiry} file={file} grid={grid} onClose={onClose} />}
    </div>
  );
}

function OneGrid({
  inquiry,
  file,
  grid,
  onClose,
}: {
  inquiry: Inquiry;
  file: number;
  grid: Grid;
  onClose: () => void;
}) {
  const kept = (grid.map ?? { header: -1, columns: {}, commas: {} }) as unknown as KeptMap;
  const [header, setHeader] = useState(kept.header);
  const [columns, setColumns] = useState(kept.columns);
  const [comma, setComma] = useState(kept.commas.quantity ?? false);
  const say = useSay();
  const untrue = useUntrue();
  const save = useMutation<Inquiry, Refusal, void>({
    mutationFn: () =>
      answer(
        client.PUT("/api/inquiries/{inquiry_id}/files/{file_id}/map", {
          params: { path: { inquiry_id: inquiry.id, file_id: file } },
          body: {
            sheet: grid.sheet,
            header,
            columns,
            commas:
              comma === (kept.commas.quantity ?? false)
                ? kept.commas
                : { ...kept.commas, quantity: comma, unit_cost: comma },
          },
        }),
      ),
    onSuccess: () => {
      untrue("inquiry");
      untrue("inquiry line");
      say(
        inquiry.customer
          ? `Read anew; lists of ${inquiry.customer} with these titles are read so from now on.`
          : "Read anew.",
      );
      onClose();
    },
  });
  const held = (column: number) =>
    Object.entries(columns)
      .filter(([, [at]]) => at === column)
      .sort((a, b) => a[1][1] - b[1][1])
      .map(([field]) => field)
      .join(" / ");
  const hold = (column: number, said: string) => {
    const fields = said ? said.split(" / ") : [];
    const next = Object.fromEntries(
      Object.entries(columns).filter(([field, [at]]) => at !== column && !fields.includes(field)),
    );
    fields.forEach((field, place) => {
      next[field] = [column, place];
    });
    // Each of the two places a row in its own way, so choosing one lets the other go.
    if (fields.includes("level")) delete next.parent;
    if (fields.includes("parent")) delete next.level;
    setColumns(next);
  };
  const own = fieldsOf(useClasses()).flatMap((f): [string, string][] => (f.typed ? [[`own: ${f.name}`, f.title]] : []));
  const width = Math.max(1, ...grid.rows.map((row) => row.length));
  const all = Array.from({ length: width }, (_, column) => column);
  return (
    <>
      <div
        className="min-h-0 flex-1 overflow-auto border-t border-ink bg-paper"
        tabIndex={0}
        role="region"
        aria-label="The file as it stands"
      >
        <table className="min-w-full">
          <thead className="sticky top-0 z-10 bg-paper">
            <tr className="border-b border-hair-2">
              <th className="w-12 px-2 text-right text-[12px] font-normal text-ink-2">row</th>
              {all.map((column) => (
                <th key={column} className="min-w-[110px] px-1 py-1 text-left font-normal">
                  <select
                    className={`field !min-h-[26px] !px-1 ${held(column) ? "font-semibold text-blue" : "text-ink-3"}`}
                    aria-label={`Column ${column + 1} holds`}
                    value={held(column)}
                    onChange={(e) => hold(column, e.target.value)}
                  >
                    <option value="">not read</option>
                    {[...FIELDS, ...own].map(([field, words]) => (
                      <option key={field} value={field}>
                        {words}
                      </option>
                    ))}
                    {PAIRS.map(([a, b]) => (
                      <option key={`${a} ${b}`} value={`${a} / ${b}`}>
                        {word(a)}, then {word(b)}
                      </option>
                    ))}
                  </select>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {grid.rows.map((row, index) => (
              <tr
                // biome-ignore lint/suspicious/noArrayIndexKey: a row of a file is its number
                key={index}
                className={`h-7 border-b border-hair ${index === header ? "bg-blue-tint font-semibold" : index < header ? "text-ink-3" : ""}`}
              >
                <td className="px-2 text-right">
                  <button
                    type="button"
                    className="text-ink-3 hover:text-blue hover:underline"
                    aria-pressed={index === header}
                    aria-label={`Row ${index + 1} holds the titles`}
                    onClick={() => setHeader(index === header ? -1 : index)}
                  >
                    {index + 1}
                  </button>
                </td>
                {all.map((column) => (
                  <td key={column} className="max-w-[260px] truncate px-2">
                    {row[column]}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {save.error && (
        <p role="alert" className="text-bad">
          {save.error.message}
        </p>
      )}
      <div className="flex items-center gap-2 pb-2">
        <label className="flex items-center gap-1.5">
          <input type="checkbox" checked={comma} onChange={(e) => setComma(e.target.checked)} /> numbers in text have a
          decimal comma
        </label>
        <Button
          needs="inquiries"
          look="strong"
          className="ml-auto"
          disabled={save.isPending}
          onClick={() => save.mutate()}
        >
          Read it so
        </Button>
        <Button onClick={onClose}>Leave it</Button>
      </div>
    </>
  );
}
