import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { Button } from "../kit/Button";
import { DayField } from "../kit/DayField";
import { Panel } from "../kit/Panel";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal } from "../lib/api";
import { typed } from "../lib/number";
import { useUntrue } from "../lib/untrue";
import { buildable, type InquiryLine } from "../model/inquiry";
import type { Inquiry } from "./states";

/** How many of which product are wanted, and by when; buying prices them. */
export function Builds({ inquiry, lines, onClose }: { inquiry: Inquiry; lines: InquiryLine[]; onClose: () => void }) {
  const [rows, setRows] = useState(
    inquiry.builds.map((b) => ({ line: b.line, quantity: b.quantity, wanted_by: b.wanted_by ?? "" })),
  );
  const offered = buildable(
    lines,
    rows.map((r) => r.line),
  );
  // What is ours already is what is most likely meant.
  const top = offered.find((l) => l.ours) ?? offered[0];
  const say = useSay();
  const untrue = useUntrue();
  const navigate = useNavigate();
  const save = useMutation<Inquiry, Refusal, void>({
    mutationFn: () =>
      answer(
        client.PUT("/api/inquiries/{inquiry_id}/builds", {
          params: { path: { inquiry_id: inquiry.id } },
          body: rows.map((r) => ({ line: r.line, quantity: typed(r.quantity), wanted_by: r.wanted_by || null })),
        }),
      ),
    onSuccess: () => {
      untrue("inquiry");
      say("Saved the builds.");
      onClose();
    },
  });
  const price = useMutation<unknown, Refusal, void>({
    mutationFn: () =>
      answer(
        client.POST("/api/buying/plans/of-inquiry/{inquiry_id}", { params: { path: { inquiry_id: inquiry.id } } }),
      ),
    onSuccess: () => {
      untrue("plan");
      navigate(`/buying?inquiry=${inquiry.id}`);
    },
  });
  const set = (at: number, more: Partial<(typeof rows)[number]>) =>
    setRows((old) => old.map((row, index) => (index === at ? { ...row, ...more } : row)));
  return (
    <Panel title="Builds" note="how many of what are wanted, and by when" open onClose={onClose}>
      <form
        className="mt-3 flex flex-col gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        {rows.map((row, at) => (
          <div
            // biome-ignore lint/suspicious/noArrayIndexKey: a build is its place until it is saved
            key={at}
            className="grid grid-cols-[1fr_90px_120px_auto] items-start gap-2"
          >
            <select
              className="field"
              aria-label={`Product of build ${at + 1}`}
              value={row.line}
              onChange={(e) => set(at, { line: Number(e.target.value) })}
            >
              {offered.map((t) => (
                <option key={t.id} value={t.id}>
                  {t.ours || t.part || t.description}
                </option>
              ))}
            </select>
            <input
              className="field text-right"
              aria-label={`Quantity of build ${at + 1}`}
              aria-invalid={!!save.error?.of(`[${at}].quantity`)}
              autoFocus={at === rows.length - 1}
              value={row.quantity}
              onChange={(e) => set(at, { quantity: e.target.value })}
            />
            <div>
              <DayField
                aria-label={`Wanted by, build ${at + 1}`}
                placeholder="wanted by"
                value={row.wanted_by}
                onKeep={(iso) => set(at, { wanted_by: iso })}
              />
            </div>
            <Button
              look="quiet"
              aria-label={`take away build ${at + 1}`}
              onClick={() => setRows((old) => old.filter((_, i) => i !== at))}
            >
              take away
            </Button>
          </div>
        ))}
        {rows.length === 0 && <p className="text-ink-3">No quantity was asked for yet.</p>}
        {(save.error ?? price.error) && (
          <p role="alert" className="text-bad">
            {(save.error ?? price.error)?.message}
          </p>
        )}
        <div className="flex gap-2">
          <Button
            disabled={!top}
            onClick={() => top && setRows((old) => [...old, { line: top.id, quantity: "", wanted_by: "" }])}
          >
            Another quantity
          </Button>
          <Button needs="inquiries" look="strong" type="submit" disabled={save.isPending}>
            Save
          </Button>
          {inquiry.builds.length > 0 && (
            <Button needs="buying" className="ml-auto" disabled={price.isPending} onClick={() => price.mutate()}>
              Plan the buying of each
            </Button>
          )}
        </div>
        {!top && <p className="text-ink-3">Bring a list first: what it is for can be built.</p>}
      </form>
    </Panel>
  );
}
