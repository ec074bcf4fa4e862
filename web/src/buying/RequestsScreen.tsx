import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { Button } from "../kit/Button";
import { DataTable } from "../kit/DataTable";
import type { DataColumn } from "../kit/dataColumns";
import { Empty } from "../kit/Empty";
import { ListFrame } from "../kit/ListFrame";
import { Panel } from "../kit/Panel";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { day } from "../lib/number";
import { useUntrue } from "../lib/untrue";
import { OneRequest } from "./OneRequest";

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

/** Every request for quotation: what waits to be sent, what is overdue, what was answered; each is sent, reminded of and answered here. */
export function RequestsScreen() {
  const navigate = useNavigate();
  const [opened, setOpened] = useState<number | null>(null);
  const list = useQuery({
    queryKey: ["buying", "requests", "all"],
    queryFn: () => answer(client.GET("/api/requests")),
    staleTime: 0,
  });
  const untrue = useUntrue();
  const say = useSay();
  const again = useMutation<Schemas["BuyPlanOut"], Refusal, number>({
    mutationFn: (plan_id) => answer(client.POST("/api/buying/plans/{plan_id}/plan", { params: { path: { plan_id } } })),
    onSuccess: () => untrue("plan"),
    onError: (error) => say(error.message, { bad: true }),
  });
  const request = list.data?.find((r) => r.id === opened);
  return (
    <ListFrame
      title="Requests"
      words="What suppliers were asked to quote, and what came back."
      error={list.error?.message}
    >
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
          onOpen={(r) => setOpened(r.id)}
        />
      )}
      {request && (
        <Panel
          title={request.number}
          note={request.plan ? "for what a buy plan needs" : "its plan was taken away"}
          open
          onClose={() => setOpened(null)}
        >
          <OneRequest
            key={request.version}
            request={request}
            whole
            onPlan={() => request.plan && again.mutate(request.plan)}
          />
          {request.plan && (
            <p className="pt-3">
              <Link className="text-blue underline" to={`/buying/${request.plan}`}>
                To its plan
              </Link>
            </p>
          )}
        </Panel>
      )}
    </ListFrame>
  );
}
