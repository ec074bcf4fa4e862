import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { Button } from "../kit/Button";
import { DataTable } from "../kit/DataTable";
import type { DataColumn } from "../kit/dataColumns";
import { Empty } from "../kit/Empty";
import { Field } from "../kit/Field";
import { ListFrame } from "../kit/ListFrame";
import { Menu, MenuItem } from "../kit/Menu";
import { Panel } from "../kit/Panel";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { dayAndTime } from "../lib/number";
import { useUntrue } from "../lib/untrue";
import { PartChoice } from "../pieces/PartChoice";
import { STATES } from "./states";
import { WordsPanel } from "./WordsPanel";

type Head = Schemas["HandoverOut"];

const COLUMNS: DataColumn<Head>[] = [
  {
    key: "number",
    title: "Number",
    width: "100px",
    value: (h) => h.number,
    show: (h) => <span className="pn">{h.number}</span>,
  },
  {
    key: "top",
    title: "Product",
    width: "130px",
    value: (h) => h.top,
    show: (h) => <span className="pn">{h.top}</span>,
    groups: true,
  },
  { key: "description", title: "Description", width: "minmax(160px,1fr)", value: (h) => h.description },
  { key: "record", title: "Records", width: "100px", value: (h) => h.record, groups: true },
  {
    key: "state",
    title: "State",
    width: "130px",
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
    width: "minmax(200px,1.4fr)",
    value: (h) => h.log.at(-1)?.words ?? "",
  },
  {
    key: "at",
    title: "When",
    width: "150px",
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
          start={{ top: asked, record: params.get("record") ?? records[0]?.name ?? "" }}
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

function Begin({
  records,
  start,
  onClose,
}: {
  records: Schemas["RecordNamed"][];
  start: { top: string; record: string };
  onClose: () => void;
}) {
  const navigate = useNavigate();
  const untrue = useUntrue();
  const [record, setRecord] = useState(start.record);
  const [top, setTop] = useState(start.top);
  const begin = useMutation<Head, Refusal, void>({
    mutationFn: () => answer(client.POST("/api/handover", { body: { record, top } })),
    onSuccess: (head) => {
      untrue("handover");
      navigate(`/handover/${head.id}`);
    },
  });
  return (
    <Panel
      title="Hand a product over"
      note="It is compared first; nothing is written before you have read what will be."
      open
      onClose={onClose}
    >
      <form
        className="mt-4 flex flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          begin.mutate();
        }}
      >
        <Field label="Product">{() => <PartChoice label="Product" value={top} onKeep={setTop} />}</Field>
        <Field label="Records">
          {(props) => (
            <select
              {...props}
              value={record}
              onChange={(event) => setRecord(event.target.value)}
              className="h-8 border border-hair-2 bg-paper px-2"
            >
              {records.map((r) => (
                <option key={r.name} value={r.name}>
                  {r.words}
                </option>
              ))}
            </select>
          )}
        </Field>
        {begin.error && (
          <p role="alert" className="text-bad">
            {begin.error.message}
          </p>
        )}
        <span>
          <Button type="submit" look="strong" disabled={!top || begin.isPending}>
            Compare
          </Button>
        </span>
      </form>
    </Panel>
  );
}
