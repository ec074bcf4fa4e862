import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { Button } from "../../kit/Button";
import { Panel } from "../../kit/Panel";
import { PartEditor } from "../../kit/PartEditor";
import { answer, client, type Refusal, type Schemas } from "../../lib/api";
import { minutes } from "../../lib/number";
import type { WithResources } from "../../model/operations";

/** An operation that can be put on the routing. */
interface Offered {
  key: string;
  code: string;
  name: string;
  where: string;
  values: Record<string, unknown>;
  link: Record<string, unknown> | null;
}

const IN_ROUTING = [
  "sequence",
  "after",
  "standard",
  "standard_version",
  "run_from_orders",
  "run_expression",
  "beside",
  "resource",
];

function ofLibrary(entry: Schemas["StandardOut"]): Offered {
  return {
    key: entry.code,
    code: entry.code,
    name: String(entry.values.name || entry.code),
    where: entry.work_center_name || "outside",
    values: entry.values,
    link: { standard: entry.code, standard_version: entry.version },
  };
}

const alone = (values: Record<string, unknown>) =>
  Object.fromEntries(Object.entries(values).filter(([name]) => !IN_ROUTING.includes(name)));

function ofRouting(routing: Schemas["Routing"], { values, work_center_name }: Schemas["RoutingOperation"]): Offered {
  const beside = routing.operations.filter((o) => o.values.resource && o.values.sequence === values.sequence);
  return {
    key: `${routing.sheet} ${values.sequence}`,
    code: String(values.sequence),
    name: String(values.name),
    where: [work_center_name || "outside", ...beside.map((o) => o.work_center_name)].join(" with "),
    values: { ...alone(values), resources: beside.map((o) => alone(o.values)) },
    link: values.standard ? { standard: values.standard, standard_version: values.standard_version } : null,
  };
}

/** Operations from the library or from another routing, put at the end of this one. */
export function BringOperations({
  part,
  onKeep,
  onClose,
}: {
  part: string;
  onKeep: (values: WithResources[]) => void;
  onClose: () => void;
}) {
  const [from, setFrom] = useState<"library" | "routing">("library");
  const [text, setText] = useState("");
  const [other, setOther] = useState("");
  const [linked, setLinked] = useState(true);
  const [chosen, setChosen] = useState<Offered[]>([]);
  const library = useQuery<Schemas["StandardOut"][], Refusal>({
    queryKey: ["library"],
    queryFn: () => answer(client.GET("/api/library")),
    staleTime: 0,
  });
  const routings = useQuery<Schemas["Routing"][], Refusal>({
    queryKey: ["library", "routings", other],
    queryFn: () => answer(client.GET("/api/library/routings", { params: { query: { part: other } } })),
    enabled: from === "routing" && other !== "",
    staleTime: 0,
  });
  const [at, setAt] = useState(0);
  const routing = routings.data?.[at];
  const words = text.trim().toLowerCase();
  const offered =
    from === "library"
      ? (library.data ?? [])
          .map(ofLibrary)
          .filter((o) => `${o.code} ${o.name} ${o.where}`.toLowerCase().includes(words))
      : (routing?.operations ?? []).filter((o) => !o.values.resource).map((o) => ofRouting(routing!, o));
  const toggle = (one: Offered) =>
    setChosen(chosen.some((o) => o.key === one.key) ? chosen.filter((o) => o.key !== one.key) : [...chosen, one]);
  const error = library.error ?? routings.error;
  return (
    <Panel
      title="Operations from elsewhere"
      note="They come to the end of this routing, in the order chosen."
      open
      onClose={onClose}
    >
      <form
        className="mt-3 flex min-h-0 flex-1 flex-col gap-2.5"
        onSubmit={(event) => {
          event.preventDefault();
          if (chosen.length === 0) return;
          onKeep(chosen.map((o) => ({ ...o.values, ...(linked ? o.link : null) })));
          onClose();
        }}
      >
        <select
          className="field"
          aria-label="Where they come from"
          value={from}
          onChange={(event) => {
            setFrom(event.target.value as "library" | "routing");
            setChosen([]);
          }}
        >
          <option value="library">from the operation library</option>
          <option value="routing">from the routing of another part</option>
        </select>
        {from === "library" ? (
          <input
            type="search"
            className="field"
            aria-label="Find an operation"
            placeholder="deburr, PACK …"
            value={text}
            onChange={(event) => setText(event.target.value)}
            autoFocus
          />
        ) : (
          <div className="flex gap-2">
            {other ? (
              <span className="flex h-8 flex-1 items-center gap-2">
                <span className="pn">{other}</span>
                <Button
                  look="quiet"
                  className="!min-h-0"
                  onClick={() => {
                    setOther("");
                    setChosen([]);
                  }}
                >
                  another part
                </Button>
              </span>
            ) : (
              <div className="relative h-8 flex-1 border border-hair-2">
                <PartEditor
                  start=""
                  fresh
                  known
                  onKeep={(number) => {
                    setOther(number.trim().toUpperCase());
                    setAt(0);
                  }}
                  onCancel={() => setFrom("library")}
                />
              </div>
            )}
            {(routings.data?.length ?? 0) > 1 && (
              <select
                className="field !w-[160px]"
                aria-label="Revision to copy from"
                value={at}
                onChange={(event) => {
                  setAt(Number(event.target.value));
                  setChosen([]);
                }}
              >
                {routings.data?.map((one, i) => (
                  <option key={one.sheet} value={i}>
                    {one.revision}, {one.status}
                  </option>
                ))}
              </select>
            )}
          </div>
        )}
        {error && (
          <p role="alert" className="text-bad">
            {error.message}
          </p>
        )}
        <ul aria-label="Operations" className="min-h-0 flex-1 overflow-y-auto border-t border-ink">
          {offered.map((one) => (
            <li key={one.key}>
              <label className="flex items-center gap-2 border-b border-hair py-1">
                <input type="checkbox" checked={chosen.some((o) => o.key === one.key)} onChange={() => toggle(one)} />
                <span className="min-w-0 flex-1">
                  <span className="block truncate">
                    <span className="pn">{one.code}</span> {one.name}
                  </span>
                  <span className="block truncate text-[12px] text-ink-3">
                    {one.where}
                    {one.values.subcontract
                      ? ""
                      : ` · set-up ${minutes(String(one.values.setup_minutes))} · run ${minutes(String(one.values.run_minutes))}`}
                    {from === "routing" && one.link ? ` · follows ${one.link.standard}` : ""}
                  </span>
                </span>
              </label>
            </li>
          ))}
          {from === "library" && library.data?.length === 0 && (
            <li className="py-2 text-ink-3">
              The library is empty. An operation is kept in it from its fields, or made{" "}
              <Link className="text-blue hover:underline" to="/library?new=1">
                in the library
              </Link>
              .
            </li>
          )}
          {from === "routing" && routings.data && offered.length === 0 && (
            <li className="py-2 text-ink-3">
              {other === part ? "This routing is empty." : `${other} has no operations.`}
            </li>
          )}
        </ul>
        <label className="flex items-center gap-2">
          <input type="checkbox" checked={linked} onChange={() => setLinked(!linked)} />
          keep following the library: a change there can be taken over here
        </label>
        <div className="flex gap-2">
          <Button look="strong" type="submit" disabled={chosen.length === 0}>
            {chosen.length === 0 ? "Put on the routing" : `Put ${chosen.length} on the routing`}
          </Button>
          <Button onClick={onClose}>Leave it</Button>
        </div>
      </form>
    </Panel>
  );
}
