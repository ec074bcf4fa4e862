import { useMutation, useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link, useSearchParams } from "react-router";
import { Button } from "../kit/Button";
import { type Command, useCommands } from "../kit/commands";
import { Empty } from "../kit/Empty";
import { Field } from "../kit/Field";
import { Panel } from "../kit/Panel";
import { useSay } from "../kit/Says";
import { useForm } from "../kit/useForm";
import { answer, client, type Refusal, type Schemas, type WorkCenterOut } from "../lib/api";
import { money, quantity } from "../lib/number";
import { useMay, useReference, useSeesCosts } from "../lib/session";
import { useUntrue } from "../lib/untrue";
import { CenterUses } from "./CenterUses";
import { ClosedDays } from "./ClosedDays";
import { FinishedOrders } from "./FinishedOrders";
import { type RateChange, RateChanges } from "./RateChanges";
import { type Stop, Stops } from "./Stops";

const RATES = [
  ["labor_rate", "Labor"],
  ["setup_labor_rate", "Set-up labor"],
  ["machine_rate", "Machine"],
  ["overhead_per_hour", "Overhead"],
] as const;

const KEYS: Command[] = [
  { keys: "ArrowUp ArrowDown", words: "move through the list" },
  { keys: "Enter", words: "open the work center" },
  { keys: "N", words: "make a work center" },
];

/** All work centers with their rates. */
export function WorkCentersScreen() {
  const [params, setParams] = useSearchParams();
  useCommands(KEYS);
  const list = useQuery({ queryKey: ["work-centers"], queryFn: () => answer(client.GET("/api/work-centers")) });
  const may = useMay("work centers");
  const currency = useReference().data?.currency ?? "";
  const costs = useSeesCosts();
  const rates = costs ? RATES : [];
  const [row, setRow] = useState(0);
  const body = useRef<HTMLTableSectionElement>(null);
  // By group; a group stands once, above its own.
  const centers = (list.data ?? []).toSorted((a, b) => a.group.localeCompare(b.group) || a.code.localeCompare(b.code));
  const grouped = centers.some((c) => c.group);
  const making = params.has("new");
  const open = centers.find((c) => c.code === params.get("code"));
  const close = () => setParams({});
  useEffect(() => {
    if (!open && !making) body.current?.querySelectorAll("tr")[row]?.focus();
  }, [row, open, making]);
  return (
    <div className="h-full overflow-y-auto px-4 pt-3 pb-6">
      <div className="flex items-center gap-3 pb-3">
        <h1 className="text-[20px] font-semibold">Work centers</h1>
        <span className="text-ink-2">{costs && `rates in ${currency} per hour`}</span>
        <Button needs="work centers" look="strong" className="ml-auto" onClick={() => setParams({ new: "1" })}>
          New work center
        </Button>
        <Button onClick={() => setParams({ closed: "1" })}>Closed days</Button>
        <Button needs="finished orders" onClick={() => setParams({ finished: "1" })}>
          Finished orders
        </Button>
        <Link to="/library" className="text-blue hover:underline">
          Operation library
        </Link>
        <Link to="/work-centers/load" className="text-blue hover:underline">
          Load
        </Link>
      </div>
      {list.error && (
        <p role="alert" className="text-bad">
          {list.error.message}
        </p>
      )}
      {list.data && centers.length === 0 ? (
        <Empty
          title="No work centers yet"
          action={
            <Button needs="work centers" look="strong" onClick={() => setParams({ new: "1" })}>
              Make the first work center
            </Button>
          }
        >
          A work center is where an operation is done. Its rates turn minutes into cost.
        </Empty>
      ) : (
        <table className="w-full border-t border-ink bg-paper">
          <thead>
            <tr className="h-7 border-b border-hair-2 text-left text-[12px] text-ink-2">
              <th className="px-3 font-normal">Code</th>
              <th className="font-normal">Name</th>
              {grouped && <th className="font-normal">Group</th>}
              {rates.map(([name, label]) => (
                <th key={name} className="text-right font-normal">
                  {label}
                </th>
              ))}
              {costs && <th className="text-right font-normal">Overhead on labor</th>}
              <th className="text-right font-normal">Efficiency</th>
              <th className="text-right font-normal">Stations</th>
              <th className="px-3 text-right font-normal">Operations</th>
            </tr>
          </thead>
          <tbody
            ref={body}
            onKeyDown={(event) => {
              const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
              if (step) {
                event.preventDefault();
                setRow(Math.max(0, Math.min(centers.length - 1, row + step)));
              } else if (event.key === "Enter" && centers[row]) {
                event.preventDefault();
                setParams({ code: centers[row].code });
              } else if (event.key.toLowerCase() === "n" && may) {
                event.preventDefault();
                setParams({ new: "1" });
              }
            }}
          >
            {centers.map((center, index) => (
              <tr
                key={center.code}
                tabIndex={index === row ? 0 : -1}
                className="h-8 cursor-pointer border-b border-hair outline-offset-[-2px] hover:bg-blue-tint focus:bg-blue-tint"
                onClick={() => {
                  setRow(index);
                  setParams({ code: center.code });
                }}
              >
                <td className="pn px-3">{center.code}</td>
                <td>{center.name}</td>
                {grouped && (
                  <td className="text-ink-2">{center.group !== centers[index - 1]?.group ? center.group : ""}</td>
                )}
                {rates.map(([name]) => (
                  <td key={name} className="text-right">
                    {center[name] === null ? <span className="text-ink-3">as labor</span> : money(Number(center[name]))}
                  </td>
                ))}
                {costs && <td className="text-right">{quantity(center.overhead_percent_of_labor)} %</td>}
                <td className="text-right">{quantity(center.efficiency_percent)} %</td>
                <td className="text-right">{center.stations}</td>
                <td className="px-3 text-right">{center.operations}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {params.has("finished") && <FinishedOrders onClose={close} />}
      {params.has("closed") && <ClosedDays onClose={close} />}
      {(open || making) && <CenterPanel key={open?.code ?? "new"} center={open ?? null} onClose={close} />}
    </div>
  );
}

const NAMES = [
  "code",
  "name",
  "labor_rate",
  "setup_labor_rate",
  "machine_rate",
  "overhead_per_hour",
  "overhead_percent_of_labor",
  "efficiency_percent",
  "stations",
  "paces",
  "crew",
  "group",
  "shifts",
] as const;
const OF_COSTS: string[] = [...RATES.map(([name]) => name), "overhead_percent_of_labor"];
const TEXTS = ["code", "name", "group", "paces", "shifts"];
const NUMBERS = NAMES.filter((name) => !TEXTS.includes(name));
const LABELS: Record<(typeof NAMES)[number], [label: string, hint?: string]> = {
  code: ["Code"],
  name: ["Name"],
  group: ["Group", "department, line or hall"],
  labor_rate: ["Labor rate", "per hour and person"],
  setup_labor_rate: ["Set-up labor rate", "the labor rate when empty"],
  machine_rate: ["Machine rate", "per hour"],
  overhead_per_hour: ["Overhead per hour"],
  overhead_percent_of_labor: ["Overhead on labor, %"],
  efficiency_percent: ["Efficiency, %", "at 80 % an hour of work takes 75 minutes"],
  stations: ["Stations", "how many jobs at once"],
  paces: ["Pace of each station, %", "like 100, 100, 80; when empty all alike"],
  crew: ["Crew", "of a new operation here"],
  shifts: ["Shifts", "like Mo-Fr 06:00-14:00; Mo-Th 14:00-22:00; when empty Mo-Fr 08:00-16:00"],
};

function CenterPanel({ center, onClose }: { center: WorkCenterOut | null; onClose: () => void }) {
  const start = center ?? {
    efficiency_percent: "100",
    stations: 1,
    crew: "1",
    overhead_percent_of_labor: "0",
    overhead_per_hour: "0",
    machine_rate: "0",
  };
  const form = useForm(NAMES, start, NUMBERS);
  const held = center?.rates ?? [];
  const [rates, setRates] = useState<RateChange[]>(() => held.map((rate, key) => ({ ...rate, key })));
  const plainRates = rates.map(({ key: _key, ...rate }) => rate);
  const ratesChanged = JSON.stringify(plainRates) !== JSON.stringify(held);
  const heldStops = center?.stops ?? [];
  const [stops, setStops] = useState<Stop[]>(() => heldStops.map((stop, key) => ({ ...stop, key })));
  const plainStops = stops.map(({ key: _key, ...stop }) => stop);
  const stopsChanged = JSON.stringify(plainStops) !== JSON.stringify(heldStops);
  const more = {
    ...(ratesChanged ? { rates: plainRates } : {}),
    ...(stopsChanged ? { stops: plainStops } : {}),
  };
  const may = useMay("work centers");
  const costs = useSeesCosts();
  const say = useSay();
  const untrue = useUntrue();
  const save = useMutation<WorkCenterOut, Refusal, void>({
    mutationFn: () =>
      center
        ? answer(
            client.PATCH("/api/work-centers/one", {
              params: { query: { code: center.code } },
              body: { ...form.changes, ...more, version: center.version } as Schemas["WorkCenterIn"],
            }),
          )
        : answer(
            client.POST("/api/work-centers", {
              body: { ...form.values, ...form.changes, ...more } as Schemas["WorkCenterIn"],
            }),
          ),
    onSuccess: (saved) => {
      say(center ? `Saved ${saved.code}.` : `Made ${saved.code}.`);
      untrue("work center");
      onClose();
    },
  });
  const general = save.error && !save.error.problems.some((p) => p.place);
  return (
    <Panel title={center ? center.code : "New work center"} open onClose={onClose}>
      <form
        className="mt-4 flex flex-1 flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        {NAMES.filter((name) => costs || !OF_COSTS.includes(name)).map((name, index) => (
          <Field key={name} label={LABELS[name][0]} hint={LABELS[name][1]} error={save.error?.of(name)}>
            {(p) => (
              <input
                {...p}
                {...form.bind(name)}
                className={`field ${TEXTS.includes(name) ? "" : "text-right"}`}
                autoFocus={index === 0}
                disabled={!may}
                inputMode={TEXTS.includes(name) ? undefined : "decimal"}
              />
            )}
          </Field>
        ))}
        {center && (
          <details>
            <summary className="cursor-pointer py-1 font-semibold text-ink-2">
              Where it is used
              <span className="ml-2 font-normal text-ink-3">
                {center.operations} {center.operations === 1 ? "operation" : "operations"}
              </span>
            </summary>
            <CenterUses code={center.code} />
          </details>
        )}
        {costs && <RateChanges rates={rates} wrong={(place) => save.error?.of(place)} may={may} onChange={setRates} />}
        <Stops stops={stops} wrong={(place) => save.error?.of(place)} may={may} onChange={setStops} />
        {general && (
          <p role="alert" className="text-bad">
            {save.error?.message}
          </p>
        )}
        <div className="mt-auto flex gap-2 pt-4">
          <Button
            needs="work centers"
            look="strong"
            type="submit"
            disabled={save.isPending || (!!center && !form.changed && !ratesChanged && !stopsChanged)}
          >
            {center ? "Save" : "Make the work center"}
          </Button>
          <Button className="ml-auto" onClick={onClose}>
            {may ? "Leave without saving" : "Close"}
          </Button>
        </div>
      </form>
    </Panel>
  );
}
