import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";
import { Panel } from "../kit/Panel";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { useUntrue } from "../lib/untrue";

/** Operations of the library for a part that has none yet, and where each of its lines is issued; saved in a draft. */
export function RoutingPanel({ id, part, onClose }: { id: number; part: Schemas["SidePart"]; onClose: () => void }) {
  const untrue = useUntrue();
  const alternate = part.sheets[0]?.alternate ?? "A";
  const params = { path: { handover_id: id } };
  const routing = useQuery({
    queryKey: ["handovers", id, "routing", part.number, alternate],
    queryFn: () =>
      answer(
        client.GET("/api/handover/{handover_id}/routing", {
          params: { ...params, query: { part: part.number, alternate } },
        }),
      ),
    staleTime: 0,
  });
  const library = useQuery({ queryKey: ["library", "all"], queryFn: () => answer(client.GET("/api/library")) });
  const [codes, setCodes] = useState<string[]>([]);
  const [issue, setIssue] = useState<Record<string, string>>({});
  const save = useMutation<unknown, Refusal, void>({
    mutationFn: () =>
      answer(
        client.POST("/api/handover/{handover_id}/routing", {
          params,
          body: {
            part: part.number,
            alternate,
            codes,
            issue: Object.fromEntries(Object.entries(issue).map(([key, at]) => [key, at ? Number(at) : null])),
          },
        }),
      ),
    onSuccess: () => {
      untrue("sheet");
      onClose();
    },
  });
  const last = Math.max(0, ...(routing.data?.operations.map((o) => o.sequence) ?? []));
  const coming = codes.map((code, at) => ({ sequence: Math.floor(last / 10) * 10 + 10 * (at + 1), name: code }));
  const steps = [...(routing.data?.operations ?? []), ...coming];
  const turn = (code: string) => setCodes(codes.includes(code) ? codes.filter((c) => c !== code) : [...codes, code]);
  return (
    <Panel
      title={`Operations of ${part.number}`}
      note="They are saved in a draft of its sheet, which is released before it is handed over."
      open
      onClose={onClose}
    >
      <form
        className="mt-4 flex flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        <fieldset className="flex flex-col">
          <legend className="font-semibold">Out of the library, in the order they are chosen</legend>
          {library.data?.map((entry) => (
            <label key={entry.code} className="flex min-h-[30px] items-center gap-2 border-b border-hair">
              <input type="checkbox" checked={codes.includes(entry.code)} onChange={() => turn(entry.code)} />
              <span className="pn">{entry.code}</span>
              <span className="truncate text-ink-2">{String(entry.values.name ?? "")}</span>
              {codes.includes(entry.code) && (
                <span className="ml-auto text-[12px] text-ink-3">
                  becomes {coming.find((c) => c.name === entry.code)?.sequence}
                </span>
              )}
            </label>
          ))}
        </fieldset>
        <fieldset className="flex flex-col gap-1">
          <legend className="font-semibold">Where its lines are issued</legend>
          {routing.data?.lines.map((line) => (
            <Field key={line.key} label={`${line.item ?? ""} ${line.part}`}>
              {(props) => (
                <select
                  {...props}
                  value={issue[line.key] ?? String(line.issue_at ?? "")}
                  onChange={(event) => setIssue({ ...issue, [line.key]: event.target.value })}
                  className="h-8 border border-hair-2 bg-paper px-2"
                >
                  <option value="">at the start</option>
                  {steps.map((o) => (
                    <option key={o.sequence} value={o.sequence}>
                      {o.sequence} {o.name}
                    </option>
                  ))}
                </select>
              )}
            </Field>
          ))}
        </fieldset>
        {save.error && (
          <p role="alert" className="text-bad">
            {save.error.message}
          </p>
        )}
        <span>
          <Button
            type="submit"
            look="strong"
            needs="sheets"
            disabled={save.isPending || (codes.length === 0 && Object.keys(issue).length === 0)}
          >
            Save in a draft
          </Button>
        </span>
      </form>
    </Panel>
  );
}
