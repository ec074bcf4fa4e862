import { useMutation, useQuery } from "@tanstack/react-query";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";
import { useSay } from "../kit/Says";
import { useForm } from "../kit/useForm";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { useMay } from "../lib/session";
import { useUntrue } from "../lib/untrue";

type Terms = Schemas["TermsOut"];

const NAMES = [
  "freight",
  "minimum_order",
  "small_order_charge",
  "transit_days",
  "payment",
  "delivery",
  "service",
  "only_makers",
  "not_makers",
] as const;
const NUMBERS = ["freight", "minimum_order", "small_order_charge", "transit_days"] as const;
const LABELS: Record<(typeof NAMES)[number], [label: string, hint?: string]> = {
  freight: ["Freight", "once for each order"],
  minimum_order: ["Order minimum"],
  small_order_charge: ["Charge under it", "empty: such orders are refused"],
  transit_days: ["Days on the way"],
  payment: ["Payment"],
  delivery: ["Delivery"],
  service: ["Asked by", "a service answers at once, a mail when somebody has read it"],
  only_makers: ["Sells only these makers", "with commas; empty: all"],
  not_makers: ["Does not sell these makers", "with commas"],
};
const LISTS: readonly string[] = ["only_makers", "not_makers"];
const WIDE: readonly string[] = [...LISTS, "service"];

/** On which terms a supplier sells, in its own currency: plans count them once for each order. */
export function TermsForm({ code, currency }: { code: string; currency: string }) {
  const terms = useQuery({
    queryKey: ["buying", "terms", code],
    queryFn: () => answer(client.GET("/api/buying/terms", { params: { query: { code } } })),
  });
  if (!terms.data) return null;
  return <Filled key={terms.data.version} code={code} currency={currency} terms={terms.data} />;
}

function Filled({ code, currency, terms }: { code: string; currency: string; terms: Terms }) {
  const start = { ...terms, only_makers: terms.only_makers.join(", "), not_makers: terms.not_makers.join(", ") };
  const form = useForm(NAMES, start, NUMBERS);
  const services = useQuery({
    queryKey: ["buying", "services"],
    queryFn: () => answer(client.GET("/api/buying/services")),
    staleTime: 60_000,
  });
  const may = useMay("buying");
  const say = useSay();
  const untrue = useUntrue();
  const save = useMutation<Terms, Refusal, void>({
    mutationFn: () => {
      const changes = Object.entries(form.changes).map(([name, text]) => [
        name,
        LISTS.includes(name)
          ? text
              .split(",")
              .map((t) => t.trim())
              .filter(Boolean)
          : text,
      ]);
      return answer(
        client.PUT("/api/buying/terms", {
          params: { query: { code } },
          body: { ...Object.fromEntries(changes), version: terms.version },
        }),
      );
    },
    onSuccess: () => {
      say("Saved the terms.");
      untrue("offer");
    },
  });
  const general = save.error && !save.error.problems.some((p) => p.place);
  return (
    <form
      className="mt-5 border-t border-hair-2 pt-3"
      aria-label="Terms"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate();
      }}
    >
      <h3 className="font-semibold">
        Its terms <span className="font-normal text-ink-3">money in {currency}</span>
      </h3>
      <div className="mt-2 grid grid-cols-2 gap-3">
        {NAMES.map((name) => (
          <div key={name} className={WIDE.includes(name) ? "col-span-2" : ""}>
            <Field label={LABELS[name][0]} hint={LABELS[name][1]} error={save.error?.of(name)}>
              {(p) =>
                name === "service" ? (
                  <select {...p} {...form.bind(name)} className="field" disabled={!may}>
                    <option value="">mail, or by hand</option>
                    {(services.data ?? []).map((service) => (
                      <option key={service.name} value={service.name}>
                        {service.words}
                      </option>
                    ))}
                  </select>
                ) : (
                  <input {...p} {...form.bind(name)} className="field" disabled={!may} />
                )
              }
            </Field>
          </div>
        ))}
      </div>
      {general && (
        <p role="alert" className="pt-1 text-bad">
          {save.error?.message}
        </p>
      )}
      <Button needs="buying" type="submit" className="mt-3" disabled={save.isPending || !form.changed}>
        Save the terms
      </Button>
    </form>
  );
}
