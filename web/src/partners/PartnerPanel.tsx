import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";
import { Panel } from "../kit/Panel";
import { type Role, usePartners } from "../kit/PartnerNames";
import { useSay } from "../kit/Says";
import { useForm } from "../kit/useForm";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { useMay, useReference, useSeesPrices } from "../lib/session";
import { useUntrue } from "../lib/untrue";
import { PriceList } from "./PriceList";
import { Remembered } from "./Remembered";
import { TermsForm } from "./TermsForm";

type Partner = Schemas["PartnerOut"];

const NAMES = ["name", "code", "currency", "contact", "mail", "note"] as const;
const LABELS: Record<(typeof NAMES)[number], [label: string, hint?: string]> = {
  name: ["Name"],
  code: ["Code", "the next running one when empty"],
  currency: ["Currency", "of its prices; ours when empty"],
  contact: ["Contact", "who is asked there"],
  mail: ["Mail"],
  note: ["Note"],
};
const ROLES: [Role, string][] = [
  ["customer", "a customer"],
  ["supplier", "a supplier"],
  ["maker", "a maker of what we buy"],
];

/** One partner: what it is to us, and how it is reached. */
export function PartnerPanel({ partner, onClose }: { partner: Partner | null; onClose: () => void }) {
  const form = useForm(NAMES, partner ?? {});
  const [roles, setRoles] = useState<Partial<Record<Role, boolean>>>({});
  const may = useMay("partners");
  const prices = useSeesPrices();
  const own = useReference().data?.currency ?? "";
  const say = useSay();
  const untrue = useUntrue();
  const done = (words: string) => {
    say(words);
    // Whatever shows a supplier or a maker shows it by name.
    untrue("partner");
    onClose();
  };
  const save = useMutation<Partner, Refusal, void>({
    mutationFn: () => {
      const body = { ...form.changes, ...roles };
      return partner
        ? answer(
            client.PATCH("/api/partners/one", {
              params: { query: { code: partner.code } },
              body: { ...body, version: partner.version },
            }),
          )
        : answer(client.POST("/api/partners", { body }));
    },
    onSuccess: (saved) => done(partner ? `Saved ${saved.name}.` : `Made ${saved.name} (${saved.code}).`),
  });
  const drop = useMutation<unknown, Refusal, void>({
    mutationFn: () =>
      answer(
        client.POST("/api/partners/one/drop", {
          params: { query: { code: partner!.code } },
          body: { version: partner!.version },
        }),
      ),
    onSuccess: () => done(`Took ${partner!.name} away.`),
  });
  const named = partner ? partner.parts + partner.operations + partner.maker_numbers : 0;
  const changed = form.changed || Object.entries(roles).some(([role, on]) => on !== (partner?.[role as Role] ?? false));
  const general = [save.error, drop.error].find((e) => e && !e.problems.some((p) => p.place));
  return (
    <Panel title={partner ? partner.name : "New partner"} open onClose={onClose}>
      <form
        className="mt-4 flex flex-1 flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        {NAMES.map((name, index) => (
          <Field key={name} label={LABELS[name][0]} hint={LABELS[name][1]} error={save.error?.of(name)}>
            {(p) =>
              name === "note" ? (
                <textarea {...p} {...form.bind(name)} rows={3} className="field" disabled={!may} />
              ) : (
                <input {...p} {...form.bind(name)} className="field" autoFocus={index === 0} disabled={!may} />
              )
            }
          </Field>
        ))}
        <fieldset className="flex flex-col gap-1.5">
          <legend className="pb-1 text-ink-2">It is</legend>
          {ROLES.map(([role, label]) => (
            <label key={role} className="flex items-center gap-2">
              <input
                type="checkbox"
                disabled={!may}
                checked={roles[role] ?? partner?.[role] ?? false}
                onChange={(event) => setRoles((old) => ({ ...old, [role]: event.target.checked }))}
              />
              {label}
            </label>
          ))}
          {save.error?.of("supplier") && (
            <span role="alert" className="text-[12px] text-bad">
              {save.error.of("supplier")}
            </span>
          )}
        </fieldset>
        {general && (
          <p role="alert" className="text-bad">
            {general.message}
          </p>
        )}
        {partner && <Join partner={partner} onDone={done} />}
        <div className="mt-auto flex gap-2 pt-4">
          <Button needs="partners" look="strong" type="submit" disabled={save.isPending || !changed}>
            {partner ? "Save" : "Make the partner"}
          </Button>
          {partner && named === 0 && (
            <Button needs="partners" onClick={() => drop.mutate()} disabled={drop.isPending}>
              Take it away
            </Button>
          )}
          <Button className="ml-auto" onClick={onClose}>
            {may ? "Leave without saving" : "Close"}
          </Button>
        </div>
      </form>
      {partner?.supplier && prices && <TermsForm code={partner.code} currency={partner.currency || own} />}
      {partner?.supplier && prices && <PriceList code={partner.code} />}
      {partner?.customer && <Remembered code={partner.code} />}
    </Panel>
  );
}

/** One firm that stands here twice: this row goes into the other. */
function Join({ partner, onDone }: { partner: Partner; onDone: (words: string) => void }) {
  const others = (usePartners().data ?? []).filter((p) => p.code !== partner.code);
  const [into, setInto] = useState("");
  const join = useMutation<Partner, Refusal, void>({
    mutationFn: () =>
      answer(
        client.POST("/api/partners/one/join", {
          params: { query: { code: partner.code } },
          body: { into, version: partner.version },
        }),
      ),
    onSuccess: (saved) => onDone(`Joined ${partner.name} with ${saved.name}.`),
  });
  const may = useMay("partners");
  if (!may || others.length === 0) return null;
  return (
    <details>
      <summary className="cursor-pointer py-1 font-semibold text-ink-2">The same firm stands here twice</summary>
      <p className="pb-2 text-ink-2">
        What names {partner.name} will name the other one, and {partner.name} goes from this list.
      </p>
      <div className="flex gap-2">
        <select
          className="field flex-1"
          aria-label="The one that stays"
          value={into}
          onChange={(event) => setInto(event.target.value)}
        >
          <option value="">which one stays?</option>
          {others.map((p) => (
            <option key={p.code} value={p.code}>
              {p.name} ({p.code})
            </option>
          ))}
        </select>
        <Button needs="partners" disabled={!into || join.isPending} onClick={() => join.mutate()}>
          Join them
        </Button>
      </div>
      {join.error && (
        <p role="alert" className="pt-1 text-bad">
          {join.error.message}
        </p>
      )}
    </details>
  );
}
