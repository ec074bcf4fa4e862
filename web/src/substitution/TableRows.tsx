import { useMutation } from "@tanstack/react-query";
import { type ClipboardEvent, useState } from "react";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";
import { FileButton } from "../kit/FileButton";
import { useSay } from "../kit/Says";
import { sendFile } from "../kit/sendFile";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { typed } from "../lib/number";
import { useMay } from "../lib/session";
import { useUntrue } from "../lib/untrue";
import type { Table } from "./table";

type Row = Schemas["SubstituteRow"];
const FIELDS = ["code", "part", "goes", "comes", "note"] as const;
const TITLES = {
  code: "generic: number or description",
  part: "our part",
  goes: "for so many",
  comes: "come",
  note: "note",
};
const GRID = "grid grid-cols-[minmax(200px,1.5fr)_140px_80px_80px_minmax(160px,1fr)_60px] items-center gap-x-2 px-2";
const FRESH: Row = { code: "", part: "", goes: "1", comes: "1", note: "" };

/** The rows of a table, typed, pasted, or read from a workbook with its own columns; one empty row is always there. */
export function TableRows({ table, onKept }: { table?: Table; onKept: (table: Table | null) => void }) {
  const [name, setName] = useState(table?.name ?? "");
  const [rows, setRows] = useState<Row[]>(table?.rows ?? []);
  const [find, setFind] = useState("");
  const may = useMay("sheets");
  const say = useSay();
  const untrue = useUntrue();
  const keep = useMutation<Table, Refusal, void>({
    mutationFn: () =>
      answer(
        client.POST("/api/substitution", {
          body: {
            ...(table ? { id: table.id, version: table.version } : {}),
            name,
            rows: rows.map((r) => ({ ...r, goes: typed(r.goes || "1"), comes: typed(r.comes || "1") })),
          },
        }),
      ),
    onSuccess: (kept) => {
      untrue("substitution");
      say(`Kept ${kept.name}.`);
      onKept(kept);
    },
  });
  const drop = useMutation<Schemas["Done"], Refusal, number>({
    mutationFn: (id) =>
      answer(client.POST("/api/substitution/{table_id}/drop", { params: { path: { table_id: id } } })),
    onSuccess: () => {
      untrue("substitution");
      onKept(null);
    },
  });
  const read = useMutation<Row[], Refusal, File>({
    mutationFn: (file) => sendFile<Row[]>("/api/substitution/file", file),
    onSuccess: (found) => setRows([...rows, ...found]),
    onError: (error) => say(error.problems[0]?.message ?? error.message, { bad: true }),
  });
  const set = (at: number, field: keyof Row, text: string) =>
    setRows(
      at < rows.length
        ? rows.map((r, i) => (i === at ? { ...r, [field]: text } : r))
        : [...rows, { ...FRESH, [field]: text }],
    );
  const paste = (event: ClipboardEvent, at: number) => {
    const text = event.clipboardData.getData("text/plain");
    if (!text.includes("\t")) return;
    event.preventDefault();
    const found = text
      .split(/\r?\n/)
      .filter((line) => line.trim())
      .map((line) => {
        const [code = "", part = "", goes = "1", comes = "1", note = ""] = line.split("\t").map((c) => c.trim());
        return { code, part, goes, comes, note };
      });
    setRows([...rows.slice(0, at), ...found, ...rows.slice(at + 1)]);
  };
  const said = (at: number, field: string) =>
    keep.error?.problems.find((p) => p.place === `rows[${at}].${field}`)?.message;
  const words = find.trim().toLowerCase();
  const changed = !table || name !== table.name || JSON.stringify(rows) !== JSON.stringify(table.rows);
  return (
    <form
      aria-label={table ? `Table ${table.name}` : "A new table"}
      onSubmit={(event) => {
        event.preventDefault();
        keep.mutate();
      }}
    >
      <div className="flex flex-wrap items-end gap-3 pb-2">
        <div className="w-[260px]">
          <Field label="Name" error={keep.error?.problems.find((p) => p.place === "name")?.message}>
            {(p) => (
              <input
                {...p}
                className="field"
                disabled={!may}
                value={name}
                onChange={(event) => setName(event.target.value)}
              />
            )}
          </Field>
        </div>
        <input
          className="field !w-[200px]"
          aria-label="Search the table"
          placeholder="rows that hold …"
          value={find}
          onChange={(event) => setFind(event.target.value)}
        />
        <span className="ml-auto flex gap-2">
          <FileButton
            label="A table as workbook or CSV"
            needs="sheets"
            accept=".xlsx,.csv,.ods"
            disabled={read.isPending}
            onFile={(file) => read.mutate(file)}
          >
            Rows of a file …
          </FileButton>
          {table && (
            <Button needs="sheets" disabled={drop.isPending} onClick={() => drop.mutate(table.id)}>
              Let it go
            </Button>
          )}
          <Button needs="sheets" look="strong" type="submit" disabled={!changed || keep.isPending}>
            Keep the table
          </Button>
        </span>
      </div>
      {keep.error && (
        <ul role="alert" className="pb-1 text-bad">
          {(keep.error.problems.length ? keep.error.problems.map((p) => p.message) : [keep.error.message])
            .slice(0, 6)
            .map((line) => (
              <li key={line}>{line}</li>
            ))}
        </ul>
      )}
      <div
        role="table"
        aria-label="Rows of the table"
        className="max-h-[300px] overflow-y-auto border-t border-ink bg-paper"
      >
        <div role="row" className={`${GRID} sticky top-0 h-7 border-b border-hair-2 bg-paper text-[12px] text-ink-2`}>
          {FIELDS.map((field) => (
            <span key={field} role="columnheader">
              {TITLES[field]}
            </span>
          ))}
          <span role="columnheader" />
        </div>
        {[...rows, ...(may ? [FRESH] : [])].map((row, at) =>
          words && at < rows.length && !`${row.code} ${row.part} ${row.note}`.toLowerCase().includes(words) ? null : (
            // biome-ignore lint/suspicious/noArrayIndexKey: a row is its place until it is kept
            <div key={at} role="row" className={`${GRID} min-h-9 border-b border-hair`}>
              {FIELDS.map((field) => (
                <span key={field} role="cell" title={said(at, field)}>
                  <input
                    className={`field !min-h-[28px] ${field === "part" ? "pn" : ""} ${field === "goes" || field === "comes" ? "text-right" : ""}`}
                    aria-label={`${TITLES[field]}, row ${at + 1}`}
                    aria-invalid={!!said(at, field)}
                    disabled={!may}
                    value={row[field]}
                    onPaste={(event) => paste(event, at)}
                    onChange={(event) => set(at, field, event.target.value)}
                  />
                </span>
              ))}
              <span role="cell">
                {at < rows.length && may && (
                  <Button
                    look="quiet"
                    className="!min-h-[26px]"
                    aria-label={`Take row ${at + 1} out`}
                    onClick={() => setRows(rows.filter((_, i) => i !== at))}
                  >
                    out
                  </Button>
                )}
              </span>
            </div>
          ),
        )}
      </div>
    </form>
  );
}
