import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { Button } from "../kit/Button";
import { DataTable } from "../kit/DataTable";
import type { DataColumn } from "../kit/dataColumns";
import { Empty } from "../kit/Empty";
import { ListFrame } from "../kit/ListFrame";
import { addressNow } from "../lib/address";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { dayAndTime, quantity, typed } from "../lib/number";
import { useUntrue } from "../lib/untrue";
import { AddBuild } from "../pieces/builds/AddBuild";
import { BuildField } from "../pieces/builds/BuildField";
import { readBuilds, writeBuilds } from "../pieces/builds/builds";

type Row = Schemas["ListedCutPlan"];

const STATES = { asked: "being planned", made: "planned", cut: "cut" };

const COLUMNS: DataColumn<Row>[] = [
  {
    key: "number",
    title: "Number",
    width: "80px",
    value: (p) => p.number,
    show: (p) => <span className="pn">{p.number}</span>,
  },
  {
    key: "builds",
    title: "For",
    width: "minmax(200px,2fr)",
    value: (p) => p.builds.map((b) => `${quantity(b.quantity)} × ${b.part}`).join(", "),
  },
  { key: "state", title: "State", width: "110px", value: (p) => p.doing || STATES[p.state], groups: true },
  { key: "kerf", title: "Kerf, mm", width: "80px", number: true, value: (p) => Number(p.kerf_mm) },
  {
    key: "made",
    title: "Planned",
    width: "150px",
    value: (p) => p.made_at,
    show: (p) => dayAndTime(p.made_at),
    letters: true,
  },
  { key: "by", title: "By", width: "110px", value: (p) => p.made_by, groups: true },
  {
    key: "cut",
    title: "Cut",
    width: "150px",
    value: (p) => p.cut_at || null,
    show: (p) => (p.cut_at ? dayAndTime(p.cut_at) : ""),
    letters: true,
  },
];

/** Plans of cutting; and where a new one begins: builds, kerf, what is worth keeping. */
export function CuttingScreen() {
  const navigate = useNavigate();
  const list = useQuery({
    queryKey: ["cutting"],
    queryFn: () => answer(client.GET("/api/cutting")),
    refetchInterval: (query) => (query.state.data?.some((p) => p.doing) ? 1500 : false),
  });
  return (
    <ListFrame
      title="Cutting"
      words="Bars and boards for the pieces that lines say are cut."
      error={list.error?.message}
    >
      <NewPlan />
      {list.data &&
        (list.data.length === 0 ? (
          <Empty title="Nothing is planned to be cut">
            Say on the line of a bar or a board what is cut out of it for one: 12 × 200, or 2 × 600 × 300, grain length.
            Then name the products and how many of each, and the least stock for all of them is found.
          </Empty>
        ) : (
          <DataTable
            name="cut plans"
            title="Cut plans"
            columns={COLUMNS}
            rows={list.data}
            onOpen={(p) => navigate(`/cutting/${p.id}`)}
          />
        ))}
    </ListFrame>
  );
}

function NewPlan() {
  const [params, setParams] = useSearchParams();
  const navigate = useNavigate();
  const untrue = useUntrue();
  const builds = readBuilds(params.get("builds") ?? "");
  const drafts = params.get("drafts") === "1";
  const [kerf, setKerf] = useState("3");
  const [keep, setKeep] = useState("300");
  const set = (name: string, value: string) =>
    setParams(
      () => {
        const next = addressNow();
        value ? next.set(name, value) : next.delete(name);
        return next;
      },
      { replace: true },
    );
  const plan = useMutation<Schemas["CutPlanOut"], Refusal, void>({
    mutationFn: () =>
      answer(
        client.POST("/api/cutting", {
          body: {
            builds: builds.map(({ part, quantity, options }) => ({ part, quantity, options })),
            kerf_mm: typed(kerf),
            keep_mm: typed(keep),
            drafts,
          },
        }),
      ),
    onSuccess: (made) => {
      untrue("cut plan");
      navigate(`/cutting/${made.id}`);
    },
  });
  const size = (label: string, words: string, value: string, onChange: (value: string) => void) => (
    <label className="flex items-center gap-1.5" title={words}>
      {label}
      <input
        className="field !min-h-[28px] !w-[56px] text-right"
        inputMode="decimal"
        value={value}
        onChange={(event) => onChange(event.target.value)}
      />
      mm
    </label>
  );
  return (
    <section aria-label="A new plan" className="mb-3 border-t border-ink bg-paper px-3 py-2">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-2">
        <h2 className="font-semibold">Cut for</h2>
        {builds.map((build, i) => (
          <BuildField
            // biome-ignore lint/suspicious/noArrayIndexKey: the same product may stand there twice
            key={`${build.part}${i}`}
            build={build}
            options={[]}
            onKeep={(next) => set("builds", writeBuilds(builds.map((b, at) => (at === i ? next : b))))}
            onRemove={() => set("builds", writeBuilds(builds.filter((_, at) => at !== i)))}
          />
        ))}
        <AddBuild
          words="+ a product"
          onAdd={(part) => set("builds", writeBuilds([...builds, { part, quantity: "1", options: [] }]))}
        />
        {size("Kerf", "what one cut takes", kerf, setKerf)}
        {size("Keep from", "what is shorter or narrower is waste", keep, setKeep)}
        <label className="flex min-h-6 items-center gap-1.5">
          <input type="checkbox" checked={drafts} onChange={() => set("drafts", drafts ? "" : "1")} />
          drafts count
        </label>
        <Button
          needs="cutting"
          look="strong"
          className="ml-auto"
          disabled={builds.length === 0 || plan.isPending}
          onClick={() => plan.mutate()}
        >
          Plan the cutting
        </Button>
      </div>
      {plan.error && (
        <p role="alert" className="pt-1 text-bad">
          {plan.error.message}
        </p>
      )}
    </section>
  );
}
