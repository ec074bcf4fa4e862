import { useMutation } from "@tanstack/react-query";
import { useId, useState } from "react";
import { useNavigate } from "react-router";
import { Button } from "../kit/Button";
import { DayField } from "../kit/DayField";
import { Field } from "../kit/Field";
import { Panel } from "../kit/Panel";
import { PartnerNames } from "../kit/PartnerNames";
import { useSay } from "../kit/Says";
import { useForm } from "../kit/useForm";
import { answer, client, type Refusal } from "../lib/api";
import { useAskedAs } from "../lib/askedAs";
import { useMay } from "../lib/session";
import { useUntrue } from "../lib/untrue";
import type { Inquiry } from "./states";

const NAMES = ["title", "customer", "their_reference", "held_by", "note"] as const;
const LABELS: Record<(typeof NAMES)[number], [label: string, hint?: string]> = {
  title: ["What is asked"],
  customer: ["Customer", "a new name makes a new partner; empty: a list of our own"],
  their_reference: ["Their reference"],
  held_by: ["Who has it", "the name somebody signs in with"],
  note: ["Note"],
};

/** The head of an inquiry: a new one, or one that is there. */
export function HeadPanel({
  inquiry,
  own = false,
  onClose,
}: {
  inquiry: Inquiry | null;
  /** A list of our own: nobody asks for it. */
  own?: boolean;
  onClose: () => void;
}) {
  const form = useForm(NAMES, inquiry ?? {});
  const [wanted, setWanted] = useState(inquiry?.wanted_by ?? "");
  const names = useId();
  const may = useMay("inquiries");
  const say = useSay();
  const untrue = useUntrue();
  const navigate = useNavigate();
  const askedAs = useAskedAs();
  const save = useMutation<Inquiry, Refusal, void>({
    mutationFn: () => {
      const body = { ...form.changes, ...(wanted !== (inquiry?.wanted_by ?? "") ? { wanted_by: wanted } : {}) };
      return inquiry
        ? answer(
            client.PATCH("/api/inquiries/{inquiry_id}", {
              params: { path: { inquiry_id: inquiry.id } },
              body: { ...body, version: inquiry.version },
            }),
          )
        : answer(client.POST("/api/inquiries", { body: { title: "", ...body, key: askedAs(body) } }));
    },
    onSuccess: (saved) => {
      untrue("inquiry");
      onClose();
      if (inquiry) say(`Saved ${saved.number}.`);
      else navigate(`/inquiries/${saved.id}`);
    },
  });
  const general = save.error && !save.error.problems.some((p) => p.place) ? save.error.message : null;
  return (
    <Panel title={inquiry ? inquiry.number : own ? "A list of our own" : "New inquiry"} open onClose={onClose}>
      <form
        className="mt-4 flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        {NAMES.filter((name) => inquiry || (own ? name === "title" : name !== "held_by")).map((name) => (
          <Field
            key={name}
            label={own && name === "title" ? "What it is" : LABELS[name][0]}
            hint={LABELS[name][1]}
            error={save.error?.of(name)}
          >
            {(p) =>
              name === "note" ? (
                <textarea {...p} {...form.bind(name)} rows={3} className="field" disabled={!may} />
              ) : (
                <input
                  {...p}
                  {...form.bind(name)}
                  className="field"
                  autoFocus={name === "title"}
                  disabled={!may}
                  list={name === "customer" ? names : undefined}
                />
              )
            }
          </Field>
        ))}
        <PartnerNames id={names} of="customer" />
        {!own && (
          <Field label="Answer wanted by" error={save.error?.of("wanted_by")}>
            {(p) => <DayField {...p} value={wanted} onKeep={setWanted} disabled={!may} />}
          </Field>
        )}
        {general && (
          <p role="alert" className="text-bad">
            {general}
          </p>
        )}
        <div className="flex gap-2">
          <Button needs="inquiries" look="strong" type="submit" disabled={save.isPending}>
            {inquiry ? "Save" : "Open it"}
          </Button>
          <Button onClick={onClose}>Leave it</Button>
        </div>
      </form>
    </Panel>
  );
}
