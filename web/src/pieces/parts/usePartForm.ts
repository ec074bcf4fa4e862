import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { useSay } from "../../kit/Says";
import { useForm } from "../../kit/useForm";
import { answer, client, type PartOut, type Refusal, type Schemas } from "../../lib/api";
import { useMay } from "../../lib/session";
import { useUntrue } from "../../lib/untrue";
import { NAMES, type Name, NUMBERS } from "./partFields";
import { useClasses } from "./useParts";

const FRESH = {
  kind: "bought",
  unit: "ea",
  lifecycle: "active",
  given_as: "one_element",
  overhead_percent: "0",
  lead_time_days: 0,
};

/** What is typed of a part, and keeping it: one that is made where `part` is null. */
export function usePartForm(part: PartOut | null, onSaved: (saved: PartOut) => void, kind?: string | null) {
  const form = useForm(NAMES, part ?? { ...FRESH, ...(kind ? { kind } : {}) }, NUMBERS);
  const made = form.values.kind === "made" || form.values.kind === "phantom";
  const [sold, setSold] = useState(part?.sold ?? false);
  const [unmodelled, setUnmodelled] = useState(part?.unmodelled ?? false);
  const [own, setOwn] = useState<Record<string, string>>(part?.own_values ?? {});
  const classes = useClasses();
  const ofClass = classes.find((c) => c.name === form.values.part_class);
  const more: Partial<Schemas["PartIn"]> = {};
  if (sold !== (part?.sold ?? false)) more.sold = sold;
  if (unmodelled !== (part?.unmodelled ?? false)) more.unmodelled = unmodelled;
  const stated = Object.fromEntries(
    Object.entries(own).filter(([name]) => ofClass?.fields.some((f) => f.name === name && f.kind !== "computed")),
  );
  if (JSON.stringify(own) !== JSON.stringify(part?.own_values ?? {})) more.own_values = stated;
  const may = useMay("parts");
  const say = useSay();
  const untrue = useUntrue();
  const save = useMutation<PartOut, Refusal, void>({
    mutationFn: () =>
      part
        ? answer(
            client.PATCH("/api/parts/one", {
              params: { query: { number: part.number } },
              body: { ...form.changes, ...more, version: part.version } as Schemas["PartIn"],
            }),
          )
        : answer(
            client.POST("/api/parts", { body: { ...form.values, ...form.changes, ...more } as Schemas["PartIn"] }),
          ),
    onSuccess: (saved) => {
      say(part ? `Saved ${saved.number}.` : `Made ${saved.number}.`);
      untrue("part");
      onSaved(saved);
    },
  });
  const next = useMutation<Schemas["NextNumber"], Refusal, void>({
    mutationFn: () =>
      answer(client.GET("/api/parts/next-number", { params: { query: { part_class: form.values.part_class } } })),
    onSuccess: ({ number: free }) => form.set("number", free),
    onError: (error) => say(error.message, { bad: true }),
  });
  const general =
    save.error &&
    !save.error.problems.some(
      (p) => NAMES.includes(p.place as Name) || p.place.startsWith("own_values.") || p.place === "unmodelled",
    );
  return {
    ...{ part, form, made, sold, setSold, unmodelled, setUnmodelled, own, setOwn, classes, ofClass, may, save, next },
    /** A cost by hand keeps the elements of the roll-up in proportion, unless that is told otherwise. */
    giveCost: (text: string) => {
      if (made && form.values.given_cost === "" && part?.given_cost == null) form.set("given_as", "proportion");
      form.set("given_cost", text);
    },
    wrong: (name: string) => save.error?.of(name),
    /** What is wrong and belongs to no field. */
    general: general ? save.error!.message : null,
    changed: !part || form.changed || Object.keys(more).length > 0,
  };
}

export type PartFormState = ReturnType<typeof usePartForm>;
