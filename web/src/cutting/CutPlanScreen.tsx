import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { Ask } from "../kit/Ask";
import { Button } from "../kit/Button";
import { download } from "../kit/download";
import { JobProgress, useJobEnd, whileItRuns } from "../kit/JobProgress";
import { Menu, MenuItem, MenuLine } from "../kit/Menu";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { dayAndTime, money, quantity } from "../lib/number";
import { useUntrue } from "../lib/untrue";
import { Material } from "./Material";

type Plan = Schemas["CutPlanOut"];

const PAPERS = [
  ["pdf", "All of it as PDF, patterns to scale"],
  ["labels", "Labels for the pieces as PDF"],
  ["xlsx", "The pieces as a workbook"],
  ["csv", "The pieces as CSV"],
  ["dxf", "The patterns as DXF"],
] as const;

/** How some builds are cut: material by material its patterns, its pieces, what it comes in and what is left. */
export function CutPlanScreen() {
  const id = Number(useParams().id);
  const navigate = useNavigate();
  const queries = useQueryClient();
  const untrue = useUntrue();
  const say = useSay();
  const [asking, setAsking] = useState(false);
  const [chosen, setChosen] = useState("");
  const key = ["cutting", id] as const;
  const path = { params: { path: { plan_id: id } } };
  const found = useQuery({
    queryKey: key,
    queryFn: () => answer(client.GET("/api/cutting/{plan_id}", path)),
    refetchInterval: (query) => whileItRuns(query.state.data?.job),
    staleTime: 0,
  });
  const held = (now: Plan) => queries.setQueryData(key, now);
  const failed = (error: Refusal) => say(error.message, { bad: true });
  const again = useMutation<Plan, Refusal, void>({
    mutationFn: () => answer(client.POST("/api/cutting/{plan_id}/again", path)),
    onSuccess: held,
    onError: failed,
  });
  const cut = useMutation<Plan, Refusal, boolean>({
    mutationFn: (moves_stock) => answer(client.POST("/api/cutting/{plan_id}/cut", { ...path, body: { moves_stock } })),
    onSuccess: (now) => {
      held(now);
      untrue("cut plan");
      untrue("stock");
    },
    onError: failed,
  });
  const drop = useMutation<unknown, Refusal, void>({
    mutationFn: () => answer(client.POST("/api/cutting/{plan_id}/drop", path)),
    onSuccess: () => {
      untrue("cut plan");
      navigate("/cutting");
    },
    onError: failed,
  });
  const plan = found.data;
  useJobEnd(plan?.job, () => queries.invalidateQueries({ queryKey: ["cutting"] }));
  if (found.error && !plan)
    return (
      <p role="alert" className="p-4 text-bad">
        {found.error.message}
      </p>
    );
  if (!plan) return null;
  const material = plan.materials.find((m) => m.part === chosen) ?? plan.materials[0];
  const parts = new URLSearchParams(plan.builds.map((b) => ["part", b.part]));
  return (
    <div className="flex h-full flex-col">
      <header className="flex flex-wrap items-baseline gap-x-4 gap-y-1 px-4 pt-3 pb-2">
        <h1 className="text-[20px] font-semibold">
          Cutting <span className="font-mono">{plan.number}</span>
        </h1>
        <span>
          {plan.builds.map((b) => (
            <span key={b.part} className="mr-2">
              {quantity(b.quantity)} ×{" "}
              <Link className="pn text-blue hover:underline" to={`/sheets/${encodeURIComponent(b.part)}`}>
                {b.part}
              </Link>
            </span>
          ))}
        </span>
        <span className="text-ink-2">
          kerf {plan.kerf_mm} mm, leftovers kept from {plan.keep_mm} mm
        </span>
        <span className="text-ink-2">
          {plan.state === "cut"
            ? `cut by ${plan.cut_by}, ${dayAndTime(plan.cut_at)}`
            : `planned by ${plan.made_by}, ${dayAndTime(plan.made_at)}`}
        </span>
        <span className="ml-auto flex gap-1.5">
          <Menu label="Leaves as …" className="!min-h-[28px]">
            {PAPERS.map(([shape, words]) => (
              <MenuItem key={shape} onSelect={() => download(`/api/cutting/${id}/paper/${shape}`).catch(failed)}>
                {words}
              </MenuItem>
            ))}
            <MenuLine />
            <MenuItem onSelect={() => navigate(`/lists?${parts}&arrangement=summed`)}>
              All parts, hardware with them
            </MenuItem>
            <MenuItem onSelect={() => navigate(`/lists?${parts}`)}>The structure</MenuItem>
          </Menu>
          {plan.why_not.change === null && (
            <>
              <Button needs="cutting" className="!min-h-[28px]" disabled={drop.isPending} onClick={() => drop.mutate()}>
                Let it go
              </Button>
              <Button needs="cutting" className="!min-h-[28px]" disabled={!!plan.job} onClick={() => again.mutate()}>
                Plan anew
              </Button>
              <Button
                needs="cutting"
                look="strong"
                className="!min-h-[28px]"
                disabled={!!plan.job}
                why={plan.why_not.cut ?? undefined}
                onClick={() => setAsking(true)}
              >
                It was cut
              </Button>
            </>
          )}
        </span>
      </header>
      {plan.job && <JobProgress job={plan.job} stale={key} className="mx-4 mb-2" />}
      {!plan.job && plan.failed && (
        <p role="alert" className="px-4 pb-2 text-bad">
          {plan.failed}
        </p>
      )}
      {plan.behind && (
        <p role="status" className="mx-4 mb-2 border border-hair-2 bg-brass-tint px-3 py-1 text-brass">
          {plan.behind} Plan it anew before it is cut.
        </p>
      )}
      <div className="grid min-h-0 flex-1 grid-cols-[252px_1fr] border-t border-hair">
        <nav aria-label="Materials" className="overflow-y-auto border-r border-hair bg-paper">
          {plan.materials.map((m) => (
            <button
              key={m.part}
              type="button"
              aria-current={m === material}
              onClick={() => setChosen(m.part)}
              className={`block w-full border-b border-hair px-3 py-2 text-left hover:bg-blue-tint ${m === material ? "bg-blue-tint" : ""}`}
            >
              <span className="flex items-baseline justify-between gap-2">
                <span className="pn font-semibold">{m.part}</span>
                {m.stops ? (
                  <span className="text-bad">stops</span>
                ) : (
                  <span>
                    <b className="text-[15px]">{m.count}</b>{" "}
                    {m.boards ? (m.count === 1 ? "board" : "boards") : m.count === 1 ? "bar" : "bars"}
                  </span>
                )}
              </span>
              <span className="block truncate text-ink-2">{m.description}</span>
              {!m.stops && (
                <span className="block text-[12px] text-ink-2">
                  waste {quantity(m.waste_percent, 1)} %,{" "}
                  {m.proven
                    ? "proven the least"
                    : m.bound_of === "cost"
                      ? `not under ${money(Number(m.bound))}`
                      : `at least ${m.bound}`}
                </span>
              )}
            </button>
          ))}
        </nav>
        {material && (
          <Material
            key={material.part}
            plan={id}
            material={material}
            kept={plan.state === "cut"}
            onSizes={() => queries.invalidateQueries({ queryKey: key })}
          />
        )}
      </div>
      <Ask
        open={asking}
        title={`${plan.number} was cut`}
        yes="Take it out of stock"
        onYes={() => cut.mutate(true)}
        onClose={() => setAsking(false)}
      >
        {plan.materials
          .map((m) => `${m.taken === null ? `${m.count} pieces` : `${quantity(m.taken, 3)} ${m.unit}`} of ${m.part}`)
          .join(", ")}{" "}
        leave the stock, the leftovers it used are gone, and what is left becomes stock of its size. This cannot be
        taken back.
      </Ask>
    </div>
  );
}
