import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useMemo } from "react";
import { useSearchParams } from "react-router";
import { Button } from "../kit/Button";
import { DataTable } from "../kit/DataTable";
import type { DataColumn } from "../kit/dataColumns";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { dayAndTime } from "../lib/number";
import { NewPerson } from "./NewPerson";
import { PersonPanel } from "./PersonPanel";

type Person = Schemas["PersonOut"];

const COLUMNS: DataColumn<Person>[] = [
  {
    key: "name",
    title: "Signs in as",
    width: "minmax(120px,180px)",
    value: (p) => p.name,
    show: (p) => <span className={p.active ? "font-semibold" : "text-ink-3 line-through"}>{p.name}</span>,
  },
  { key: "full", title: "Name", width: "minmax(140px,1fr)", value: (p) => p.full_name },
  {
    key: "roles",
    title: "Roles",
    width: "minmax(160px,1.4fr)",
    value: (p) => (p.all_rights ? ["all rights", ...p.roles] : p.roles).join(", ") || "only looks",
  },
  {
    key: "state",
    title: "Signing in",
    width: "130px",
    groups: true,
    value: (p) =>
      p.active ? (p.by_sign_on ? "by the sign-on" : p.second ? "with a code" : "by password") : "locked out",
  },
  {
    key: "last",
    title: "Last signed in",
    width: "150px",
    value: (p) => p.last_here,
    show: (p) => (p.last_here ? dayAndTime(p.last_here) : <span className="text-ink-3">never</span>),
  },
];

/** Things that were noted, each with its time; they scroll by themselves. */
function Record({ title, children }: { title: string; children: ReactNode[] }) {
  return (
    <section aria-label={title} className="flex min-h-0 flex-1 flex-col">
      <h2 className="pb-2 font-semibold text-blue">{title}</h2>
      {children.length === 0 && <p className="text-ink-3">nothing yet</p>}
      <ul
        className="min-h-0 flex-1 overflow-y-auto"
        tabIndex={0}
        aria-label={`${title}: the last 200, the newest first`}
      >
        {children}
      </ul>
    </section>
  );
}

/** Who works here, with which roles, and what was done about their accounts; for administrators. */
export function PeopleScreen() {
  const [params, setParams] = useSearchParams();
  const found = useQuery<Schemas["PeopleOut"], Refusal>({
    queryKey: ["people"],
    queryFn: () => answer(client.GET("/api/people")),
    staleTime: 0,
    retry: false,
  });
  const people = found.data?.people ?? [];
  const open = people.find((p) => p.name === params.get("who"));
  const noted = useMemo(() => found.data?.noted ?? [], [found.data]);
  return (
    <div className="flex h-full flex-col px-4 pt-3 pb-3">
      <div className="flex items-center gap-3 pb-3">
        <h1 className="text-[20px] font-semibold">People</h1>
        <span className="text-ink-2">
          who may sign in, and what their roles let them change; everybody who is in may look
        </span>
        <Button needs="people" look="strong" className="ml-auto" onClick={() => setParams({ new: "1" })}>
          Add somebody
        </Button>
      </div>
      {found.error && (
        <p role="alert" className="text-bad">
          {found.error.message}
        </p>
      )}
      {found.data && (
        <div className="grid min-h-0 flex-1 grid-cols-[1fr_380px] gap-4">
          <DataTable
            name="people"
            title="People"
            columns={COLUMNS}
            rows={people}
            onOpen={(p) => setParams({ who: p.name })}
          />
          <div className="flex min-h-0 flex-col gap-4 border-l border-hair pl-4">
            <Record title="What was done">
              {noted.map((n) => (
                <li key={`${n.at}${n.person}${n.what}`} className="border-b border-hair py-1">
                  <b className="font-semibold">{n.person}</b> {n.what}
                  <span className="block text-[12px] text-ink-3">
                    {dayAndTime(n.at)}
                    {n.by !== n.person && `, by ${n.by}`}
                  </span>
                </li>
              ))}
            </Record>
            <Record title={found.data.looks_noted ? "Files taken out, costs and prices seen" : "Files taken out"}>
              {found.data.seen.map((s) => (
                <li key={`${s.at}${s.by}${s.thing}`} className="border-b border-hair py-1">
                  <b className="font-semibold">{s.by}</b> {s.what}{" "}
                  <span className="font-mono text-[12px] break-all">{s.thing}</span>
                  <span className="block text-[12px] text-ink-3">{dayAndTime(s.at)}</span>
                </li>
              ))}
            </Record>
          </div>
        </div>
      )}
      {params.has("new") && <NewPerson roles={found.data?.roles ?? {}} onClose={() => setParams({})} />}
      {found.data && open && (
        <PersonPanel key={open.name} person={open} roles={found.data.roles} onClose={() => setParams({})} />
      )}
    </div>
  );
}
