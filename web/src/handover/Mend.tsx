import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";
import { useSay } from "../kit/Says";
import { answer, changePart, client, type Refusal, type Schemas } from "../lib/api";
import { today } from "../lib/number";
import { useUntrue } from "../lib/untrue";
import type { Compared, SideRow } from "../model/handover";

/** What stops a row, and what mends it right here: a description that is missing, a draft that is to be released. */
export function Mend({ stop, row, compared }: { stop: Schemas["HandoverStop"]; row: SideRow; compared: Compared }) {
  const sheet = compared.parts
    .find((p) => p.number === stop.part)
    ?.sheets.find((s) => s.alternate === (row.alternate || "A"));
  const draft = stop.words.startsWith("revision ") && sheet?.status === "draft" ? sheet : undefined;
  return (
    <div className="mb-2 border-l-2 border-bad bg-bad-tint px-2 py-1.5">
      <p className="text-bad">{stop.words}</p>
      {row.kind === "parts" && stop.words.startsWith("description") && <Describe number={stop.part} />}
      {row.kind === "parts" && stop.words.startsWith("number") && (
        <p className="pt-1">
          <Link className="text-blue underline" to={`/parts?find=${encodeURIComponent(stop.part)}`}>
            Renumber it among the parts
          </Link>
          , or say below what it is called over there.
        </p>
      )}
      {draft && <ReleaseIt sheet={draft} number={stop.part} />}
    </div>
  );
}

function Describe({ number }: { number: string }) {
  const untrue = useUntrue();
  const [words, setWords] = useState("");
  const keep = useMutation<unknown, Refusal, void>({
    mutationFn: () => changePart(number, { description: words.trim() }),
    onSuccess: () => untrue("part"),
  });
  return (
    <form
      className="flex items-end gap-2 pt-1"
      onSubmit={(event) => {
        event.preventDefault();
        if (words.trim()) keep.mutate();
      }}
    >
      <Field label="Our description" error={keep.error?.message}>
        {(props) => (
          <input
            {...props}
            value={words}
            onChange={(event) => setWords(event.target.value)}
            className="h-8 w-[220px] border border-hair-2 bg-paper px-2"
          />
        )}
      </Field>
      <Button type="submit" needs="parts" disabled={!words.trim() || keep.isPending}>
        Keep
      </Button>
    </form>
  );
}

function ReleaseIt({ sheet, number }: { sheet: Schemas["SheetThere"]; number: string }) {
  const untrue = useUntrue();
  const say = useSay();
  const [reason, setReason] = useState("");
  const release = useMutation<unknown, Refusal, void>({
    mutationFn: () =>
      answer(
        client.POST("/api/sheets/{sheet_id}/release", {
          params: { path: { sheet_id: sheet.id } },
          body: { version: sheet.version, first_day: today(), reason },
        }),
      ),
    onSuccess: () => {
      say(`${number}, revision ${sheet.revision} is released.`);
      untrue("sheet");
    },
  });
  return (
    <form
      className="flex items-end gap-2 pt-1"
      onSubmit={(event) => {
        event.preventDefault();
        release.mutate();
      }}
    >
      <Field label="Release it from today, because" error={release.error?.message}>
        {(props) => (
          <input
            {...props}
            value={reason}
            onChange={(event) => setReason(event.target.value)}
            className="h-8 w-[220px] border border-hair-2 bg-paper px-2"
          />
        )}
      </Field>
      <Button type="submit" needs="sheets" disabled={!reason.trim() || release.isPending}>
        Release
      </Button>
      <Link className="self-center text-blue underline" to={`/sheets/${number}`}>
        Its sheet
      </Link>
    </form>
  );
}
