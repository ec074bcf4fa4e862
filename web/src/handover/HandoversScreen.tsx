import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { Button } from "../kit/Button";
import { DataTable } from "../kit/DataTable";
import type { DataColumn } from "../kit/dataColumns";
import { Empty } from "../kit/Empty";
import { ListFrame } from "../kit/ListFrame";
import { Menu, MenuItem } from "../kit/Menu";
import { answer, client, type Schemas } from "../lib/api";
import { dayAndTime } from "../lib/number";
import { Begin } from "./Begin";
import { STATES, whatOf } from "./states";
import { WordsPanel } from "./WordsPanel";

type Head = Schemas["HandoverOut"];

const COLUMNS: DataColumn<Head>[] = [
  {
    key: "number",
    title: "Number",
    width: "90px",
    value: (h) => h.number,
    show: (h) => <span className="pn">{h.number}</span>,
  },
  {
    key: "top",
    title: "Product",
    width: "120px",
    value: (h) => h.top,
    show: (h) => <span className="pn">{h.top}</span>,
    groups: true,
  },
  { key: "description", title: "Description", width: "minmax(160px,1fr)", value: (h) => h.description },
  { key: "what", title: "What of it", width: "130px", value: (h) => whatOf(h), groups: true },
  { key: "record", title: "Records", width: "80px", value: (h) => h.record, groups: true },
  {
    key: "state",
    title: "State",
    width: "110px",
    value: (h) => STATES[h.state] ?? h.state,
    show: (h) => (
      <span
        className={h.state === "writing" && !h.job ? "font-semibold text-bad" : h.state === "work" ? "text-brass" : ""}
      >
        {h.state === "writing" && !h.job ? "broke off" : STATES[h.state]}
      </span>
    ),
    groups: true,
  },
  {
    key: "last",
    title: "Last",
    width: "minmax(180px,1.4fr)",
    value: (h) => h.log.at(-1)?.words ?? "",
  },
  {
    key: "at",
    title: "When",
    width: "130px",
    value: (h) => h.log.at(-1)?.at ?? h.opened_at,
    show: (h) => dayAndTime(h.log.at(-1)?.at ?? h.opened_at),
  },
  { key: "by", title: "By", width: "110px", value: (h) => h.log.at(-1)?.by ?? h.opened_by },
];

/** Every handover, the newest first: what was compared, written, left; and where a new one begins. */
export function HandoversScreen() {
  const navigate = useNavigate();
  const [params, setParams] = useSearchParams();
  const asked = params.get("top") ?? "";
  const [beginning, setBeginning] = useState(asked !== "");
  const [words, setWords] = useState("");
  const list = useQuery({
    queryKey: ["handovers", "all"],
    queryFn: () => answer(client.GET("/api/handover")),
    staleTime: 0,
  });
  const records = list.data?.records ?? [];
  const begin = (
    <Button look={list.data?.handovers.length ? "plain" : "strong"} needs="handover" onClick={() => setBeginning(true)}>
      Hand a product over
    </Button>
  );
  return (
    <ListFrame
      title="Handovers"
      words="Our definition and the records that production works from, brought into step."
      error={list.error?.message}
      beside={
        <span className="ml-auto flex gap-2">
          {records.length > 0 && (
            <Menu label="Their words">
              {records.map((r) => (
                <MenuItem key={r.name} onSelect={() => setWords(r.name)}>
                  {r.name}, {r.words}
                </MenuItem>
              ))}
            </Menu>
          )}
          {list.data && list.data.handovers.length > 0 && begin}
        </span>
      }
    >
      {list.data?.handovers.length === 0 ? (
        <Empty
          title={records.length ? "Nothing was handed over yet" : "No system of record is known"}
          action={records.length ? begin : undefined}
        >
          {records.length
            ? "Choose a product: it is held beside the records, and only what does not agree is shown."
            : "An administrator names it in the file of services; then products can be handed over to it."}
        </Empty>
      ) : (
        <DataTable
          name="handovers"
          title="Handovers"
          columns={COLUMNS}
          rows={list.data?.handovers ?? []}
          onOpen={(h) => navigate(`/handover/${h.id}`)}
        />
      )}
      {beginning && list.data && (
        <Begin
          records={records}
          start={{
            top: asked,
            beside: params.get("beside")?.split(",").filter(Boolean) ?? null,
            record: params.get("record") ?? records[0]?.name ?? "",
          }}
          onClose={() => {
            setBeginning(false);
            setParams({}, { replace: true });
          }}
        />
      )}
      {words && <WordsPanel record={words} onClose={() => setWords("")} />}
    </ListFrame>
  );
}
