import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";
import { Panel } from "../kit/Panel";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { UNITS } from "../lib/declared";
import type { ShownHandover } from "./useHandover";

const BOX = "h-8 border border-hair-2 bg-paper px-2";

/** A line that only production needs: looked up among their items, written over there with the handover, and kept from then on. */
export function AddByHand({
  id,
  record,
  part,
  onClose,
}: {
  id: number;
  record: string;
  part: Schemas["SidePart"];
  onClose: () => void;
}) {
  const queries = useQueryClient();
  const [words, setWords] = useState("");
  const [item, setItem] = useState<Schemas["TheirItem"] | null>(null);
  const [form, setForm] = useState({
    quantity: "",
    unit: "g",
    issue_at: "",
    reason: "",
    alternate: part.sheets[0]?.alternate ?? "A",
  });
  const sought = useDeferredValue(words.trim());
  const found = useQuery({
    queryKey: ["handovers", "items", record, sought],
    queryFn: () => answer(client.GET("/api/handover/items", { params: { query: { record, words: sought } } })),
    enabled: sought.length > 1,
  });
  const add = useMutation<ShownHandover, Refusal, void>({
    mutationFn: () =>
      answer(
        client.POST("/api/handover/{handover_id}/by-hand", {
          params: { path: { handover_id: id } },
          body: {
            ...form,
            part: part.number,
            item: item?.code ?? "",
            issue_at: form.issue_at ? Number(form.issue_at) : null,
          },
        }),
      ),
    onSuccess: () => {
      queries.invalidateQueries({ queryKey: ["handovers"] });
      onClose();
    },
  });
  const operations = part.sheets.find((s) => s.alternate === form.alternate)?.operations ?? [];
  const set = (name: keyof typeof form) => (event: { target: { value: string } }) =>
    setForm({ ...form, [name]: event.target.value });
  return (
    <Panel
      title={`A line of ${part.number} that only they need`}
      note="It is not on our sheet, and is not taken out again by any handover."
      open
      onClose={onClose}
    >
      <form
        className="mt-4 flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          add.mutate();
        }}
      >
        <Field label="Look among their items" error={add.error?.of("item") ?? found.error?.message}>
          {(props) => (
            <input
              {...props}
              autoFocus
              value={words}
              onChange={(event) => setWords(event.target.value)}
              className={BOX}
            />
          )}
        </Field>
        <div role="radiogroup" aria-label="Their items" className="flex flex-col">
          {found.data?.map((i) => (
            <label key={i.code} className="flex min-h-[30px] items-center gap-2 border-b border-hair">
              <input type="radio" name="item" checked={item?.code === i.code} onChange={() => setItem(i)} />
              <span className="pn">{i.code}</span>
              <span className="truncate text-ink-2">{i.text}</span>
            </label>
          ))}
          {found.data?.length === 0 && <p className="text-ink-3">None of their items says “{sought}”.</p>}
        </div>
        <div className="flex gap-3">
          <Field label="Quantity" error={add.error?.of("quantity")}>
            {(props) => (
              <input
                {...props}
                value={form.quantity}
                onChange={set("quantity")}
                className={`${BOX} w-[110px] text-right`}
              />
            )}
          </Field>
          <Field label="Unit" error={add.error?.of("unit")}>
            {(props) => (
              <select {...props} value={form.unit} onChange={set("unit")} className={BOX}>
                {UNITS.map((u) => (
                  <option key={u}>{u}</option>
                ))}
              </select>
            )}
          </Field>
          <Field label="Issued at" error={add.error?.of("issue_at")}>
            {(props) => (
              <select {...props} value={form.issue_at} onChange={set("issue_at")} className={BOX}>
                <option value="">the start</option>
                {operations.map((o) => (
                  <option key={o.sequence} value={o.sequence}>
                    {o.sequence} {o.name}
                  </option>
                ))}
              </select>
            )}
          </Field>
        </div>
        <Field label="Why production needs it" error={add.error?.of("reason")}>
          {(props) => <input {...props} value={form.reason} onChange={set("reason")} className={BOX} />}
        </Field>
        {add.error && add.error.problems.length === 0 && (
          <p role="alert" className="text-bad">
            {add.error.message}
          </p>
        )}
        <span>
          <Button type="submit" look="strong" needs="handover" disabled={!item || add.isPending}>
            Add it to this handover
          </Button>
        </span>
      </form>
    </Panel>
  );
}
