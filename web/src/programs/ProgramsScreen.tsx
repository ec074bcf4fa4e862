import { useQuery } from "@tanstack/react-query";
import { useSearchParams } from "react-router";
import { ListFrame } from "../kit/ListFrame";
import { Hooks } from "./Hooks";
import { OneAddress } from "./OneAddress";
import { readings, type Wholly } from "./reading";

/** What a program can read, address by address, and what other programs are told. */
export function ProgramsScreen() {
  const [params, setParams] = useSearchParams();
  const found = useQuery({
    queryKey: ["programs", "document"],
    queryFn: async () => readings((await (await fetch("/api/openapi.json")).json()) as Wholly),
    staleTime: Infinity,
  });
  const groups = found.data ?? [];
  const all = groups.flatMap((g) => g.addresses);
  const at = all.find((a) => a.path === params.get("at")) ?? all[0];
  return (
    <ListFrame title="Programs" words="What they read by a token, and what they are told." error={found.error?.message}>
      <div className="grid min-h-0 flex-1 grid-cols-[300px_1fr] gap-4">
        <nav aria-label="Addresses that can be read" className="overflow-y-auto border-t border-ink bg-paper py-1">
          {groups.map((group) => (
            <section key={group.tag}>
              <h2 className="px-3 pt-2 pb-0.5 font-semibold">{group.tag}</h2>
              {group.addresses.map((a) => (
                <button
                  key={a.path}
                  type="button"
                  aria-current={a === at}
                  onClick={() => setParams({ at: a.path }, { replace: true })}
                  className={`block min-h-[26px] w-full px-3 py-0.5 text-left text-[13px] break-all hover:bg-blue-tint ${a === at ? "bg-blue-tint font-semibold" : ""}`}
                >
                  {a.path.replace("/api", "")}
                </button>
              ))}
            </section>
          ))}
        </nav>
        <div className="flex min-w-0 flex-col gap-6 overflow-y-auto pb-6">
          <Hooks />
          {at && <OneAddress address={at} />}
        </div>
      </div>
    </ListFrame>
  );
}
