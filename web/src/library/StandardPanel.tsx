import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";
import { Panel } from "../kit/Panel";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { useMay } from "../lib/session";
import { useUntrue } from "../lib/untrue";
import { OperationFields } from "../pieces/fields/OperationFields";

type Entry = Schemas["StandardOut"];

const NEW: Record<string, unknown> = {
  name: "",
  work_center: null,
  setup_minutes: "0",
  run_minutes: "0",
  run_basis: "per_unit",
  crew: "1",
  setup_crew: "1",
  yield_percent: "100",
  queue_minutes: "0",
  wait_minutes: "0",
  move_minutes: "0",
  stations: 1,
  subcontract: null,
  instructions: "",
};

/** One entry of the library: its fields, and the routings that follow it. */
export function StandardPanel({ entry, onClose }: { entry: Entry | null; onClose: () => void }) {
  const may = useMay("sheets");
  const say = useSay();
  const untrue = useUntrue();
  const centers =
    useQuery({ queryKey: ["work-centers"], queryFn: () => answer(client.GET("/api/work-centers")) }).data ?? [];
  const [code, setCode] = useState(entry?.code ?? "");
  const [typedIn, setTypedIn] = useState<Record<string, unknown>>({});
  const fresh = NEW;
  const values: Record<string, unknown> = { ...(entry?.values ?? fresh), ...typedIn };
  const set = (after: Record<string, unknown>) => setTypedIn((old) => ({ ...old, ...after }));
  const save = useMutation<Entry, Refusal, void>({
    mutationFn: () =>
      entry
        ? answer(
            client.PATCH("/api/library/one", {
              params: { query: { code: entry.code } },
              body: { code, values: typedIn, version: entry.version },
            }),
          )
        : answer(client.POST("/api/library", { body: { code, values } })),
    onSuccess: (saved) => {
      say(
        entry && saved.behind > 0
          ? `Saved ${saved.code}, version ${saved.version}; ${saved.behind} ${saved.behind === 1 ? "operation has" : "operations have"} fallen behind it.`
          : `Saved ${saved.code}.`,
      );
      untrue("library");
      setTypedIn({});
      if (!entry) onClose();
    },
  });
  const drop = useMutation<unknown, Refusal, void>({
    mutationFn: () => answer(client.POST("/api/library/one/drop", { params: { query: { code: entry!.code } } })),
    onSuccess: () => {
      say(`${entry!.code} is out of the library.`);
      untrue("library");
      onClose();
    },
  });
  const error = save.error ?? drop.error;
  const changed = Object.keys(typedIn).length > 0 || code !== (entry?.code ?? "");
  return (
    <Panel
      title={entry ? entry.code : "New operation of the library"}
      note={entry ? `version ${entry.version}` : undefined}
      open
      onClose={onClose}
    >
      <form
        className="mt-3 flex flex-1 flex-col gap-2.5"
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        {entry && <Followers entry={entry} may={may} />}
        <Field label="Code" error={save.error?.of("code")}>
          {(p) => (
            <input {...p} className="field" disabled={!may} value={code} onChange={(e) => setCode(e.target.value)} />
          )}
        </Field>
        <OperationFields
          values={values}
          centers={centers}
          disabled={!may}
          wrong={(name) => save.error?.of(name) ?? save.error?.of(`subcontract.${name}`)}
          onSet={set}
        />
        <Field label="Instructions" hint="Markdown, for the shop" error={save.error?.of("instructions")}>
          {(p) => (
            <textarea
              {...p}
              className="field min-h-[120px] font-mono text-[13px]"
              disabled={!may}
              value={String(values.instructions ?? "")}
              onChange={(e) => set({ instructions: e.target.value })}
            />
          )}
        </Field>
        {error && (
          <p role="alert" className="text-bad">
            {error.message}
          </p>
        )}
        <div className="mt-auto flex gap-2 pt-3">
          <Button needs="sheets" look="strong" type="submit" disabled={!code.trim() || !changed || save.isPending}>
            {entry ? "Save" : "Make it"}
          </Button>
          {may && entry && (
            <Button disabled={drop.isPending} onClick={() => drop.mutate()}>
              Take out of the library
            </Button>
          )}
          <Button className="ml-auto" onClick={onClose}>
            {may ? "Leave" : "Close"}
          </Button>
        </div>
      </form>
    </Panel>
  );
}

/** The operations that follow an entry; those on drafts can be brought up to it. */
function Followers({ entry, may }: { entry: Entry; may: boolean }) {
  const say = useSay();
  const untrue = useUntrue();
  const uses = useQuery<Schemas["StandardUse"][], Refusal>({
    queryKey: ["library", "uses", entry.code, entry.version],
    queryFn: () => answer(client.GET("/api/library/one/uses", { params: { query: { code: entry.code } } })),
    staleTime: 0,
  });
  const [left, setLeft] = useState<Set<number>>(new Set());
  const rows = uses.data ?? [];
  const open = new Map(
    rows
      .filter((u) => u.status === "draft" && (u.behind || u.differs.length > 0))
      .map((u) => [u.sheet, u.sheet_version]),
  );
  const chosen = [...open].filter(([sheet]) => !left.has(sheet));
  const refresh = useMutation<Schemas["Counted"], Refusal, void>({
    mutationFn: () =>
      answer(
        client.POST("/api/library/one/refresh", {
          params: { query: { code: entry.code } },
          body: { sheets: Object.fromEntries(chosen) },
        }),
      ),
    onSuccess: ({ count }) => {
      say(`${count} ${count === 1 ? "draft is" : "drafts are"} brought up to ${entry.code}, version ${entry.version}.`);
      untrue("library");
    },
  });
  if (rows.length === 0) return null;
  return (
    <fieldset className="flex flex-col gap-1.5 border-b border-hair pb-2.5">
      <legend className="pb-1 font-semibold text-ink-2">
        Followed by {rows.length} {rows.length === 1 ? "operation" : "operations"}
      </legend>
      <ul className="max-h-[180px] overflow-y-auto border-t border-hair">
        {rows.map((use) => (
          <li key={`${use.sheet} ${use.sequence}`} className="flex items-center gap-2 border-b border-hair py-0.5">
            {may && open.size > 0 && (
              <input
                type="checkbox"
                aria-label={`bring ${use.part} ${use.revision} up to date`}
                disabled={!open.has(use.sheet)}
                checked={open.has(use.sheet) && !left.has(use.sheet)}
                onChange={() => {
                  const next = new Set(left);
                  next.has(use.sheet) ? next.delete(use.sheet) : next.add(use.sheet);
                  setLeft(next);
                }}
              />
            )}
            <Link to={`/sheets/${encodeURIComponent(use.part)}`} className="pn text-blue hover:underline">
              {use.part}
            </Link>
            <span className="whitespace-nowrap text-ink-2">
              {use.revision}, {use.status}, op. {use.sequence}
            </span>
            <span className="ml-auto truncate text-[12px] text-brass">
              {use.behind ? `version ${use.standard_version ?? "–"}` : ""}
              {use.differs.length > 0 ? ` ${use.differs.map((n) => n.replaceAll("_", " ")).join(", ")}` : ""}
            </span>
          </li>
        ))}
      </ul>
      {refresh.error && (
        <p role="alert" className="text-bad">
          {refresh.error.message}
        </p>
      )}
      {may && open.size > 0 && (
        <Button
          className="self-start"
          disabled={chosen.length === 0 || refresh.isPending}
          onClick={() => refresh.mutate()}
        >
          Bring {chosen.length} {chosen.length === 1 ? "draft" : "drafts"} up to it
        </Button>
      )}
      {rows.some((u) => u.status === "released" && u.behind) && (
        <p className="text-[12px] text-ink-3">A released sheet stays as it is; open a new revision to bring it up.</p>
      )}
    </fieldset>
  );
}
