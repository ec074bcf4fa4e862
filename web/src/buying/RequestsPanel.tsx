import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { DayField } from "../kit/DayField";
import { Panel } from "../kit/Panel";
import { usePartners } from "../kit/PartnerNames";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { quantity } from "../lib/number";
import { useUntrue } from "../lib/untrue";
import { OneRequest } from "./OneRequest";
import { ServicesAsked } from "./ServicesAsked";
import type { Plan } from "./usePlan";

type Request = Schemas["RequestOut"];

/** Asking suppliers for what has no price: whom and for what, each mail looked at before it leaves, and what came back. */
export function RequestsPanel({ plan, onPlan, onClose }: { plan: Plan; onPlan: () => void; onClose: () => void }) {
  const open = plan.needs.filter((n) => Number(n.quantity) > 0);
  const [parts, setParts] = useState(() => open.filter((n) => n.reason).map((n) => n.part));
  const [codes, setCodes] = useState<string[]>([]);
  const [wanted, setWanted] = useState("");
  const suppliers = usePartners("supplier").data ?? [];
  const untrue = useUntrue();
  const list = useQuery({
    queryKey: ["buying", "requests", plan.id],
    queryFn: () => answer(client.GET("/api/requests", { params: { query: { plan: plan.id } } })),
    staleTime: 0,
  });
  const ask = useMutation<Request[], Refusal, void>({
    mutationFn: () =>
      answer(
        client.POST("/api/requests/of-plan/{plan_id}", {
          params: { path: { plan_id: plan.id } },
          body: { parts, suppliers: codes, wanted_by: wanted || null },
        }),
      ),
    onSuccess: () => {
      setCodes([]);
      untrue("request");
    },
  });
  const turn = (all: string[], one: string, on: boolean) => (on ? [...all, one] : all.filter((x) => x !== one));
  return (
    <Panel
      title="Ask suppliers"
      note="by their services, or by a mail that is looked at before it leaves"
      open
      onClose={onClose}
    >
      <ServicesAsked plan={plan.id} />
      {(list.data ?? []).map((request) => (
        <OneRequest key={`${request.id} ${request.version}`} request={request} onPlan={onPlan} />
      ))}
      <form
        className="mt-4 flex flex-col gap-3 border-t border-hair-2 pt-3"
        onSubmit={(event) => {
          event.preventDefault();
          ask.mutate();
        }}
      >
        <h3 className="font-semibold">
          By mail <span className="font-normal text-ink-3">with a workbook to fill in, and as a UBL document</span>
        </h3>
        <fieldset>
          <legend className="pb-1 font-semibold">For what</legend>
          <div className="max-h-[200px] overflow-y-auto border border-hair px-2 py-1">
            {open.map((n) => (
              <label key={n.part} className="flex min-h-6 items-center gap-2">
                <input
                  type="checkbox"
                  checked={parts.includes(n.part)}
                  onChange={(event) => setParts((old) => turn(old, n.part, event.target.checked))}
                />
                <span className="pn">{n.part}</span>
                <span className="min-w-0 flex-1 truncate text-ink-2">{n.description}</span>
                {quantity(n.quantity, 2)} {n.buying_unit}
                {n.reason && <span className="text-[12px] text-bad">{n.reason}</span>}
              </label>
            ))}
          </div>
        </fieldset>
        <fieldset>
          <legend className="pb-1 font-semibold">Whom</legend>
          {suppliers.map((s) => (
            <label key={s.code} className="flex min-h-6 items-center gap-2">
              <input
                type="checkbox"
                checked={codes.includes(s.code)}
                onChange={(event) => setCodes((old) => turn(old, s.code, event.target.checked))}
              />
              {s.name} <span className="text-[12px] text-ink-3">{s.mail || "no mail address yet"}</span>
            </label>
          ))}
        </fieldset>
        <div className="flex items-center gap-2">
          Answer wanted by
          <span className="w-[140px]">
            <DayField aria-label="Answer wanted by" placeholder="no day" value={wanted} onKeep={setWanted} />
          </span>
        </div>
        {ask.error && (
          <p role="alert" className="text-bad">
            {ask.error.problems[0]?.message ?? ask.error.message}
          </p>
        )}
        <div>
          <Button
            needs="buying"
            look="strong"
            type="submit"
            disabled={parts.length === 0 || codes.length === 0 || ask.isPending}
          >
            {codes.length > 1 ? `Make ${codes.length} drafts` : "Make the draft"}
          </Button>
        </div>
      </form>
    </Panel>
  );
}
