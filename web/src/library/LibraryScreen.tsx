import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { Link, useSearchParams } from "react-router";
import { Button } from "../kit/Button";
import { DataTable } from "../kit/DataTable";
import type { DataColumn } from "../kit/dataColumns";
import { Empty } from "../kit/Empty";
import { Word } from "../kit/Word";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { minutes, quantity } from "../lib/number";
import { StandardPanel } from "./StandardPanel";

type Row = Schemas["StandardOut"];

/** The library of standard operations: what they state, and how many routings have fallen behind them. */
export function LibraryScreen() {
  const [params, setParams] = useSearchParams();
  const list = useQuery<Row[], Refusal>({
    queryKey: ["library"],
    queryFn: () => answer(client.GET("/api/library")),
    staleTime: 0,
  });
  const rows = list.data ?? [];
  const open = rows.find((one) => one.code === params.get("code"));
  const making = params.has("new");
  const columns = useMemo<DataColumn<Row>[]>(
    () => [
      {
        key: "code",
        title: "Code",
        width: "minmax(96px,140px)",
        value: (r) => r.code,
        show: (r) => <span className="pn">{r.code}</span>,
      },
      { key: "name", title: "Name", width: "minmax(140px,1fr)", value: (r) => String(r.values.name) },
      {
        key: "where",
        title: "Work center",
        width: "minmax(120px,200px)",
        groups: true,
        value: (r) => r.work_center_name || "outside",
      },
      {
        key: "setup",
        title: "Set-up",
        width: "86px",
        number: true,
        value: (r) => Number(r.values.setup_minutes),
        show: (r) => minutes(String(r.values.setup_minutes)),
      },
      {
        key: "run",
        title: "Run",
        width: "110px",
        number: true,
        value: (r) => Number(r.values.run_minutes),
        show: (r) =>
          `${minutes(String(r.values.run_minutes))}${r.values.run_basis === "per_lot" ? " per lot" : r.values.run_basis === "per_cycle" ? ` per ${quantity(String(r.values.cycle_quantity))}` : ""}`,
      },
      { key: "version", title: "Version", width: "62px", number: true, value: (r) => r.version },
      { key: "uses", title: "Followed by", width: "86px", number: true, value: (r) => r.uses },
      {
        key: "behind",
        title: "Behind",
        width: "70px",
        number: true,
        value: (r) => r.behind,
        show: (r) => (r.behind > 0 ? <b className="text-brass">{r.behind}</b> : "0"),
      },
    ],
    [],
  );
  return (
    <div className="flex h-full flex-col px-4 pt-3 pb-3">
      <div className="flex items-center gap-3 pb-3">
        <h1 className="text-[20px] font-semibold">
          <Word of="library">Operation library</Word>
        </h1>
        <span className="text-ink-2">
          kept once, put on any routing; a routing that follows one can be brought up to it
        </span>
        <Link to="/work-centers" className="ml-auto text-blue hover:underline">
          Work centers
        </Link>
        <Button needs="sheets" look="strong" onClick={() => setParams({ new: "1" })}>
          New operation of the library
        </Button>
      </div>
      {list.error && (
        <p role="alert" className="text-bad">
          {list.error.message}
        </p>
      )}
      {list.data && rows.length === 0 ? (
        <Empty
          title="The library is empty"
          action={
            <Button needs="sheets" look="strong" onClick={() => setParams({ new: "1" })}>
              Make the first one
            </Button>
          }
        >
          Operations that many parts have in common: deburring, inspection, packing. One on a sheet can be kept here
          from its fields.
        </Empty>
      ) : (
        list.data && (
          <DataTable
            name="standard operations"
            title="Operation library"
            columns={columns}
            rows={rows}
            onOpen={(r) => setParams({ code: r.code })}
          />
        )
      )}
      {(open || making) && (
        <StandardPanel key={open?.code ?? "new"} entry={open ?? null} onClose={() => setParams({})} />
      )}
    </div>
  );
}
