import { useMutation, useQuery } from "@tanstack/react-query";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";
import { Panel } from "../kit/Panel";
import { useSay } from "../kit/Says";
import { useForm } from "../kit/useForm";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { useMay } from "../lib/session";
import { useUntrue } from "../lib/untrue";

type Firm = Schemas["FirmOut"];

/** Who we are: what stands on orders, quotations, requests and mails that leave. */
export function FirmPanel({ onClose }: { onClose: () => void }) {
  const firm = useQuery({
    queryKey: ["partners", "ourselves"],
    queryFn: () => answer(client.GET("/api/partners/ourselves")),
  });
  return (
    <Panel title="Who we are" open onClose={onClose}>
      <p className="mt-1 text-ink-2">
        Stands on orders, quotations and requests, in their UBL documents, and beneath mails that leave.
      </p>
      {firm.data && <FirmForm firm={firm.data} onClose={onClose} />}
    </Panel>
  );
}

function FirmForm({ firm, onClose }: { firm: Firm; onClose: () => void }) {
  const form = useForm(["firm", "firm_address", "firm_mail"], firm);
  const may = useMay("partners");
  const say = useSay();
  const untrue = useUntrue();
  const save = useMutation<Firm, Refusal, void>({
    mutationFn: () => answer(client.PATCH("/api/partners/ourselves", { body: form.changes })),
    onSuccess: () => {
      untrue("partner");
      say("Saved who we are.");
      onClose();
    },
  });
  return (
    <form
      className="mt-4 flex flex-1 flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate();
      }}
    >
      <Field label="Name" error={save.error?.of("firm")}>
        {(p) => <input {...p} {...form.bind("firm")} className="field" autoFocus disabled={!may} />}
      </Field>
      <Field label="Address" hint="in lines" error={save.error?.of("firm_address")}>
        {(p) => <textarea {...p} {...form.bind("firm_address")} rows={4} className="field" disabled={!may} />}
      </Field>
      <Field label="Mail" error={save.error?.of("firm_mail")}>
        {(p) => <input {...p} {...form.bind("firm_mail")} className="field" disabled={!may} />}
      </Field>
      <div className="mt-auto flex gap-2 pt-2">
        <Button type="submit" look="strong" needs="partners" disabled={!form.changed || save.isPending}>
          Save
        </Button>
      </div>
    </form>
  );
}
