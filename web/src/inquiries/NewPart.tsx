import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";
import { Panel } from "../kit/Panel";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import type { InquiryLine } from "../model/inquiry";
import { useClasses } from "../pieces/parts/useParts";
import type { useDeciding } from "./useInquiry";

/** A new part out of a line: its class gives it a number, its text what it is. */
export function NewPart({
  id,
  line,
  make,
  onMade,
  onClose,
}: {
  id: number;
  line: InquiryLine;
  make: ReturnType<typeof useDeciding>["make"];
  onMade: () => void;
  onClose: () => void;
}) {
  const classes = useClasses();
  const suggested = useQuery({
    queryKey: ["inquiry-evidence", id, "class", line.id],
    queryFn: () =>
      answer(
        client.GET("/api/inquiries/{inquiry_id}/lines/{line_id}/class", {
          params: { path: { inquiry_id: id, line_id: line.id } },
        }),
      ),
  });
  const [chosen, setChosen] = useState<string | null>(null);
  const [number, setNumber] = useState("");
  const [description, setDescription] = useState(line.description);
  const part_class = chosen ?? suggested.data?.part_class ?? "";
  const running = classes.find((c) => c.name === part_class && c.digits > 0);
  const save = useMutation<Schemas["DecidedOut"], Refusal, void>({
    mutationFn: () =>
      make.mutateAsync([
        { line: line.id, seen: line.stamp, number, part_class: running || number ? part_class : "", description },
      ]),
    onSuccess: onMade,
  });
  const theirs = line.part || line.maker_number;
  return (
    <Panel
      title="New part"
      note={`of row ${line.row || "0"}, as a draft; the line is held for it`}
      open
      onClose={onClose}
    >
      <form
        className="mt-4 flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        <Field
          label="Class"
          hint={running ? `gives it the next number with ${running.prefix}` : "without numbers of its own"}
        >
          {(p) => (
            <select {...p} className="field" value={part_class} onChange={(e) => setChosen(e.target.value)}>
              <option value="">none</option>
              {classes.map((c) => (
                <option key={c.name} value={c.name}>
                  {c.name}
                </option>
              ))}
            </select>
          )}
        </Field>
        <Field
          label="Number"
          hint={
            running
              ? "the next of the class when empty"
              : theirs
                ? `${theirs}, as they call it, when empty`
                : "needed: the line has none"
          }
          error={save.error?.of("number")}
        >
          {(p) => (
            <input {...p} className="field pn" autoFocus value={number} onChange={(e) => setNumber(e.target.value)} />
          )}
        </Field>
        <Field label="Description" error={save.error?.of("description")}>
          {(p) => (
            <textarea
              {...p}
              className="field"
              rows={2}
              value={description}
              onChange={(e) => setDescription(e.target.value)}
            />
          )}
        </Field>
        {line.maker_number && (
          <p className="text-ink-2">
            With {line.maker || "a maker"} <span className="pn">{line.maker_number}</span> as its approved maker's
            number.
          </p>
        )}
        {save.error && !save.error.of("number") && (
          <p role="alert" className="text-bad">
            {save.error.message}
          </p>
        )}
        <div className="flex gap-2">
          <Button needs="parts" look="strong" type="submit" disabled={save.isPending}>
            Make it
          </Button>
          <Button onClick={onClose}>Leave it</Button>
        </div>
      </form>
    </Panel>
  );
}
