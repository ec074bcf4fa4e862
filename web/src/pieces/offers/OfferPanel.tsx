import { useMutation } from "@tanstack/react-query";
import { useId, useState } from "react";
import { Button } from "../../kit/Button";
import { DayField } from "../../kit/DayField";
import { Field } from "../../kit/Field";
import { Panel } from "../../kit/Panel";
import { PartnerNames } from "../../kit/PartnerNames";
import { useSay } from "../../kit/Says";
import { useForm } from "../../kit/useForm";
import { answer, client, type Refusal, type Schemas } from "../../lib/api";
import { typed } from "../../lib/number";
import { useReference } from "../../lib/session";
import { useUntrue } from "../../lib/untrue";
import { useOffers } from "./useOffers";

const NAMES = [
  "supplier",
  "their_number",
  "maker",
  "maker_number",
  "currency",
  "price_per",
  "minimum",
  "multiple",
  "available",
  "lead_days",
] as const;
const NUMBERS = ["price_per", "minimum", "multiple", "available", "lead_days"] as const;
const LABELS: Record<(typeof NAMES)[number], string> = {
  supplier: "Supplier",
  their_number: "Their number for it",
  maker: "Maker",
  maker_number: "Maker's number",
  currency: "Currency",
  price_per: "Prices are for",
  minimum: "Smallest order",
  multiple: "In packs of",
  available: "There now",
  lead_days: "Days until it leaves",
};

/** An offer as it was told: prices from quantities on, packs, days, until when it holds. */
export function OfferPanel({ part, onKept, onClose }: { part: string; onKept: () => void; onClose: () => void }) {
  const form = useForm(NAMES, {}, NUMBERS);
  const [breaks, setBreaks] = useState([
    ["1", ""],
    ["", ""],
  ]);
  const [until, setUntil] = useState("");
  const unit = useOffers(part).data?.unit ?? "";
  const own = useReference().data?.currency ?? "";
  const names = useId();
  const makers = useId();
  const say = useSay();
  const untrue = useUntrue();
  const save = useMutation<Schemas["OfferKept"], Refusal, void>({
    mutationFn: () =>
      answer(
        client.POST("/api/buying/offers", {
          body: {
            ...form.values,
            ...form.changes,
            part,
            unit: "",
            valid_from: "",
            breaks: breaks.map((pair) => pair.map((text) => typed(text))),
            valid_to: until,
          },
        }),
      ),
    onSuccess: (kept) => {
      untrue("offer");
      say(kept.look.length ? `Kept the offer. Look at it: ${kept.look.join("; ")}.` : "Kept the offer.");
      onKept();
    },
  });
  const set = (at: number, side: 0 | 1, text: string) =>
    setBreaks((old) => {
      const next = old.map((pair, index) => (index === at ? pair.map((was, s) => (s === side ? text : was)) : pair));
      return next.at(-1)?.some(Boolean) ? [...next, ["", ""]] : next;
    });
  const hints: Partial<Record<(typeof NAMES)[number], string>> = {
    currency: `that of the supplier, else ${own}`,
    price_per: `so many ${unit}; 1 when empty`,
  };
  const atBreaks = save.error?.problems.find((p) => p.place.startsWith("breaks"))?.message;
  const general = save.error && !save.error.problems.some((p) => p.place);
  return (
    <Panel title={`An offer for ${part}`} note={unit && `bought by the ${unit}`} open onClose={onClose}>
      <form
        className="mt-4 flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        <div className="grid grid-cols-2 gap-3">
          {NAMES.map((name, index) => (
            <div key={name} className={name === "supplier" ? "col-span-2" : ""}>
              <Field label={LABELS[name]} hint={hints[name]} error={save.error?.of(name)}>
                {(p) => (
                  <input
                    {...p}
                    {...form.bind(name)}
                    className="field"
                    autoFocus={index === 0}
                    list={name === "supplier" ? names : name === "maker" ? makers : undefined}
                  />
                )}
              </Field>
            </div>
          ))}
          <Field label="Holds to" error={save.error?.of("valid_to")}>
            {(p) => <DayField {...p} placeholder="no last day" value={until} onKeep={setUntil} />}
          </Field>
        </div>
        <PartnerNames id={names} of="supplier" />
        <PartnerNames id={makers} of="maker" />
        <fieldset>
          <legend className="pb-1 text-ink-2">Prices</legend>
          {breaks.map(([from = "", price = ""], at) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: a price is its place until it is kept
            <div key={at} className="grid grid-cols-[auto_110px_auto_120px] items-center gap-2 pb-1">
              from
              <input
                className="field text-right"
                aria-label={`Quantity of price ${at + 1}`}
                inputMode="decimal"
                value={from}
                onChange={(event) => set(at, 0, event.target.value)}
              />
              each
              <input
                className="field text-right"
                aria-label={`Price ${at + 1}`}
                inputMode="decimal"
                value={price}
                onChange={(event) => set(at, 1, event.target.value)}
              />
            </div>
          ))}
          {atBreaks && (
            <p role="alert" className="text-[12px] text-bad">
              {atBreaks}
            </p>
          )}
        </fieldset>
        {general && (
          <p role="alert" className="text-bad">
            {save.error?.message}
          </p>
        )}
        <div className="flex gap-2">
          <Button needs="buying" look="strong" type="submit" disabled={save.isPending}>
            Keep the offer
          </Button>
          <Button onClick={onClose}>Leave it</Button>
        </div>
      </form>
    </Panel>
  );
}
