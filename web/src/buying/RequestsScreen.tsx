import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { Button } from "../kit/Button";
import { DataTable } from "../kit/DataTable";
import type { DataColumn } from "../kit/dataColumns";
import { Empty } from "../kit/Empty";
import { answer, client, type Schemas } from "../lib/api";
import { day } from "../lib/number";

type Request = Schemas["RequestOut"];

const STATES: Record<string, string> = { draft: "not sent yet", sent: "sent", answered: "answered" };

const COLUMNS: DataColumn<Request>[] = [
  {
    key: "number",
    title: "Number",
    width: "90px",
    value: (r) => r.number,
    show: (r) => <span className="pn">{r.number}</span>,
  },
  { key: "supplier", title: "Supplier", width: "minmax(150px,1fr)", value: (r) => r.supplier, groups: true },
  {
    key: "state",
    title: "State",
    width: "120px",
    value: (r) => STATES[r.state] ?? r.state,
    show: (r) => <span className={r.state === "draft" ? "text-brass" : ""}>{STATES[r.state]}</span>,
    groups: true,
  },
  {
    key: "wanted_by",
    title: "Wanted by",
    width: "170px",
    value: (r) => r.wanted_by,
    show: (r) => (
      <span className={r.late ? "font-semibold text-bad" : ""}>
        {day(r.wanted_by)}
        {r.late > 0 && `, ${r.late} ${r.late === 1 ? "day" : "days"} ago`}
      </span>
    ),
  },
  {
    key: "reminders",
    title: "Reminded",
    width: "120px",
    value: (r) => r.reminders,
    show: (r) => (r.reminders ? `${r.reminders}×, ${day(r.reminded_at)}` : ""),
  },
  {
    key: "parts",
    title: "Parts",
    width: "minmax(180px,1.4fr)",
    value: (r) => r.lines.map((line) => line.part).join(", "),
    show: (r) => <span className="pn">{r.lines.map((line) => line.part).join(", ")}</span>,
  },
  { key: "by", title: "By", width: "90px", value: (r) => r.sent_by || r.made_by },
];

/** Every request for quotation: what waits to be sent, what is overdue, what was answered; each leads to the plan it was made for. */
export function RequestsScreen() {
  const navigate = useNavigate();
  const list = useQuery({
    queryKey: ["buying", "requests", "all"],
    queryFn: () => answer(client.GET("/api/requests")),
    staleTime: 0,
  });
  return (
    <div className="flex h-full flex-col px-4 pt-3 pb-3">
      <div className="flex items-center gap-3 pb-3">
        <h1 className="text-[20px] font-semibold">Requests</h1>
        <p className="text-ink-2">What suppliers were asked to quote, and what came back.</p>
      </div>
      {list.error && (
        <p role="alert" className="text-bad">
          {list.error.message}
        </p>
      )}
      {list.data?.length === 0 ? (
        <Empty
          title="Nobody was asked yet"
          action={
            <Button look="strong" onClick={() => navigate("/buying")}>
              To the buy plans
            </Button>
          }
        >
          A request is made from a buy plan, for the needs that nothing covers.
        </Empty>
      ) : (
        <DataTable
          name="requests"
          title="Requests"
          columns={COLUMNS}
          rows={list.data ?? []}
          onOpen={(r) => r.plan && navigate(`/buying/${r.plan}?open=requests`)}
        />
      )}
    </div>
  );
}
