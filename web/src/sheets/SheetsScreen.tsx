import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { Button } from "../kit/Button";
import type { DataColumn } from "../kit/dataColumns";
import { Empty } from "../kit/Empty";
import { answer, client, type Schemas } from "../lib/api";
import { STATUSES } from "../lib/declared";
import { day } from "../lib/number";
import { PartTable } from "../pieces/parts/PartTable";
import { useClasses } from "../pieces/parts/useParts";
import { NewSheet } from "./NewSheet";
import { ReleaseTogether } from "./ReleaseTogether";

type Sheet = Schemas["SheetRow"];

const COLUMNS: DataColumn<Sheet>[] = [
  {
    key: "part",
    title: "Part",
    width: "150px",
    value: (s) => s.part,
    show: (s) => (
      <Link className="pn text-blue hover:underline" to={`/sheets/${encodeURIComponent(s.part)}?sheet=${s.id}`}>
        {s.part}
      </Link>
    ),
  },
  { key: "description", title: "Description", width: "minmax(160px,1fr)", value: (s) => s.description },
  { key: "class", title: "Class", width: "120px", value: (s) => s.part_class || null, groups: true },
  { key: "alternate", title: "Alternate", width: "80px", value: (s) => s.alternate },
  { key: "revision", title: "Revision", width: "76px", value: (s) => s.revision },
  {
    key: "state",
    title: "State",
    width: "90px",
    value: (s) => s.status,
    groups: true,
    show: (s) => <span className={s.status === "draft" ? "font-semibold text-blue" : "text-ink-2"}>{s.status}</span>,
  },
  { key: "from", title: "From", width: "100px", value: (s) => s.effective_from, show: (s) => from(s), letters: true },
  {
    key: "to",
    title: "Up to",
    width: "100px",
    value: (s) => s.effective_to,
    show: (s) => (s.effective_to ? day(s.effective_to) : ""),
    letters: true,
  },
  {
    key: "at",
    title: "Changed",
    width: "100px",
    value: (s) => s.changed_at,
    show: (s) => day(s.changed_at),
    letters: true,
  },
  { key: "by", title: "By", width: "110px", value: (s) => s.changed_by || null, groups: true },
];

function from(sheet: Sheet): string {
  if (sheet.status === "draft") return "";
  return sheet.effective_from ? day(sheet.effective_from) : "the start";
}

const numberOf = (s: Sheet) => s.part;

/** All build sheets: found by words, narrowed to a state, a person, a class; the changed last first. */
export function SheetsScreen() {
  const [params, setParams] = useSearchParams();
  const [text, setText] = useState(params.get("search") ?? "");
  const search = useDeferredValue(text.trim());
  const narrowed = {
    search,
    status: params.get("status") ?? "",
    person: params.get("person") ?? "",
    part_class: params.get("class") ?? "",
  };
  const set = (name: string, value: string) =>
    setParams(
      (old) => {
        value ? old.set(name, value) : old.delete(name);
        return old;
      },
      { replace: true },
    );
  const list = useQuery({
    queryKey: ["sheets", "list", narrowed],
    queryFn: () => answer(client.GET("/api/sheets/list", { params: { query: narrowed } })),
    placeholderData: keepPreviousData,
    staleTime: 0,
  });
  const navigate = useNavigate();
  const classes = useClasses();
  const rows = list.data?.items ?? [];
  const asked = Object.values(narrowed).some(Boolean);
  const choice = (name: string, label: string, all: string, values: readonly string[]) => (
    <select
      className="field max-w-[150px]"
      aria-label={label}
      value={params.get(name) ?? ""}
      onChange={(event) => set(name, event.target.value)}
    >
      <option value="">{all}</option>
      {values.map((value) => (
        <option key={value}>{value}</option>
      ))}
    </select>
  );
  return (
    <div className="flex h-full flex-col px-4 pt-3 pb-3">
      <div className="flex items-center gap-3 pb-3">
        <h1 className="text-[20px] font-semibold whitespace-nowrap">Build sheets</h1>
        <input
          className="field ml-1 max-w-[260px]"
          type="search"
          aria-label="Find by part"
          placeholder="Number or words of the part"
          value={text}
          autoFocus
          onChange={(event) => setText(event.target.value)}
        />
        {choice("status", "State", "every state", STATUSES)}
        {choice("person", "Changed by", "everybody", list.data?.people ?? [])}
        {choice(
          "class",
          "Class",
          "every class",
          classes.map((c) => c.name),
        )}
        <span className="ml-auto flex gap-2">
          <Button needs="sheets" onClick={() => set("release", "1")}>
            Release drafts …
          </Button>
          <Button needs="inquiries" onClick={() => navigate("/inquiries?new=1&own=1")}>
            Bring in a list
          </Button>
          <Button needs="sheets" look="strong" onClick={() => set("new", "1")}>
            New sheet
          </Button>
        </span>
      </div>
      {list.error && (
        <p role="alert" className="text-bad">
          {list.error.message}
        </p>
      )}
      {list.data && rows.length === 0 ? (
        <Empty
          title={asked ? "No sheet goes by that" : "No build sheets yet"}
          action={
            <Button needs="parts" look="strong" onClick={() => navigate("/parts?new=1&kind=made")}>
              Make a made part
            </Button>
          }
        >
          A build sheet says how a made part is built: its operations and the lines each takes. Make a part of the kind
          “made”; its sheet opens at once.
        </Empty>
      ) : (
        <PartTable
          numberOf={numberOf}
          name="sheets"
          title="Build sheets"
          columns={COLUMNS}
          rows={rows}
          beside={
            list.data && list.data.total > rows.length ? (
              <span className="text-ink-2">
                the {rows.length} changed last of {list.data.total}
              </span>
            ) : undefined
          }
        />
      )}
      {params.has("release") && <ReleaseTogether onClose={() => set("release", "")} />}
      {params.has("new") && <NewSheet onClose={() => set("new", "")} />}
    </div>
  );
}
