import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../../kit/Button";
import { DayField } from "../../kit/DayField";
import { Field } from "../../kit/Field";
import { Panel } from "../../kit/Panel";
import { useSay } from "../../kit/Says";
import { answer, changePart, client, type Refusal, type SheetHead } from "../../lib/api";
import { today } from "../../lib/number";
import { useUntrue } from "../../lib/untrue";

/** What can be done with a sheet as a whole. */
export type Verb = "release" | "drop" | "revise" | "alternate" | "days" | "retire" | "default";

interface Words {
  menu: string;
  title: (sheet: SheetHead) => string;
  note: string;
  act: string;
  leave: string;
  reason: boolean;
  said: (sheet: SheetHead) => string;
}

const name = (sheet: SheetHead) => `${sheet.part}, ${sheet.alternate}, revision ${sheet.revision}`;

const WORDS: Record<Verb, Words> = {
  release: {
    menu: "Release this draft …",
    title: (s) => `Release ${name(s)}`,
    note: "A released revision is locked. This cannot be undone; a new revision can follow it.",
    act: "Release",
    leave: "Leave it a draft",
    reason: true,
    said: (s) => `Released revision ${s.revision} of ${s.part}. It is locked now; a new revision can follow it.`,
  },
  drop: {
    menu: "Drop this draft …",
    title: (s) => `Drop the draft ${name(s)}`,
    note: "Its lines and operations go. This cannot be undone.",
    act: "Drop the draft",
    leave: "Keep it",
    reason: false,
    said: (s) => `Dropped the draft ${s.revision} of ${s.part}.`,
  },
  revise: {
    menu: "Open a new revision to change it …",
    title: (s) => `New revision of ${s.part}`,
    note: "A draft that starts as a copy of the newest revision. What is released stays as it is.",
    act: "Open the draft",
    leave: "Leave",
    reason: true,
    said: (s) => `Opened revision ${s.revision} of ${s.part} as a draft.`,
  },
  alternate: {
    menu: "New alternate from this …",
    title: (s) => `New alternate of ${s.part}`,
    note: "Another way to build the same part. It starts as a copy of this sheet.",
    act: "Open the draft",
    leave: "Leave",
    reason: true,
    said: (s) => `Opened alternate ${s.alternate} of ${s.part} as a draft.`,
  },
  days: {
    menu: "Days in force …",
    title: (s) => `Days on which ${name(s)} is in force`,
    note: "One day has one revision of an alternate. Figures for days gone by follow too.",
    act: "Set the days",
    leave: "Leave them",
    reason: true,
    said: (s) => `Changed the days of revision ${s.revision} of ${s.part}.`,
  },
  retire: {
    menu: "Retire this revision …",
    title: (s) => `Retire ${name(s)}`,
    note: "A retired revision counts on no day, not even past ones. To let it end on a day, set its days instead.",
    act: "Retire",
    leave: "Leave it released",
    reason: true,
    said: (s) => `Retired revision ${s.revision} of ${s.part}.`,
  },
  default: {
    menu: "Make this alternate the one that counts …",
    title: (s) => `Count ${s.part} by alternate ${s.alternate}`,
    note: "Costs and needs of everything that takes this part follow this alternate from now on.",
    act: "Count by it",
    leave: "Leave it",
    reason: false,
    said: (s) => `${s.part} is counted by alternate ${s.alternate} now.`,
  },
};

/** What a sheet's state allows or not, in the order of the menu. */
const STATES = ["release", "drop", "days", "retire"] as const;

/** Whether a word is one of the things done with a revision. */
export function isVerb(word: string): word is Verb {
  return word in WORDS;
}

/** What can be done with a sheet in its state, with the words of the menu. */
export function verbsOf(sheet: SheetHead): [Verb, string][] {
  const verbs: Verb[] = STATES.filter((verb) => sheet.why_not[verb] === null);
  if (sheet.why_not.edit !== null) verbs.unshift("revise");
  verbs.push("alternate");
  if (!sheet.default) verbs.push("default");
  return verbs.map((verb) => [verb, WORDS[verb].menu]);
}

/** The next letter after those in use. */
function nextAlternate(used: string[]): string {
  for (const letter of "ABCDEFGHIJKLMNOPQRSTUVWXYZ") if (!used.includes(letter)) return letter;
  return "";
}

/** Does one thing with a sheet as a whole, once it is seen what that means, and why. */
export function RevisionPanel({
  verb,
  sheet,
  revisions,
  onShow,
  onClose,
}: {
  verb: Verb;
  sheet: SheetHead;
  revisions: SheetHead[];
  onShow: (id: number | null) => void;
  onClose: () => void;
}) {
  const words = WORDS[verb];
  const [reason, setReason] = useState("");
  const [first, setFirst] = useState(verb === "release" ? today() : (sheet.effective_from ?? ""));
  const [last, setLast] = useState(sheet.effective_to ?? "");
  const [alternate, setAlternate] = useState(nextAlternate(revisions.map((r) => r.alternate)));
  const [reference, setReference] = useState("");
  const say = useSay();
  const untrue = useUntrue();
  const params = { path: { sheet_id: sheet.id } };
  const { version } = sheet;
  const run = useMutation<unknown, Refusal, void>({
    mutationFn: async () => {
      switch (verb) {
        case "release":
          return answer(
            client.POST("/api/sheets/{sheet_id}/release", { params, body: { version, first_day: first, reason } }),
          );
        case "drop":
          return answer(client.POST("/api/sheets/{sheet_id}/drop", { params, body: { version } }));
        case "revise":
          return answer(
            client.POST("/api/sheets", {
              body: { part: sheet.part, alternate: sheet.alternate, reference: "", reason },
            }),
          );
        case "alternate":
          return answer(
            client.POST("/api/sheets", { body: { part: sheet.part, alternate, reference, reason, copy_of: sheet.id } }),
          );
        case "days":
          return answer(
            client.POST("/api/sheets/{sheet_id}/days", {
              params,
              body: { version, first_day: first || null, last_day: last || null, reason },
            }),
          );
        case "retire":
          return answer(client.POST("/api/sheets/{sheet_id}/retire", { params, body: { version, reason } }));
        case "default":
          return changePart(sheet.part, { default_alternate: sheet.alternate });
      }
    },
    onSuccess: async (result) => {
      await untrue("everything");
      const made = verb === "revise" || verb === "alternate" ? (result as SheetHead) : null;
      say(words.said(made ?? sheet));
      onClose();
      if (made) onShow(made.id);
      if (verb === "drop") onShow(null);
    },
  });
  const wrong = (field: string) => run.error?.of(field);
  const general = run.error && !["reason", "first_day", "last_day", "alternate"].some((f) => run.error?.of(f));
  return (
    <Panel title={words.title(sheet)} note={words.note} open onClose={onClose}>
      <form
        className="mt-4 flex flex-1 flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          run.mutate();
        }}
      >
        {verb === "alternate" && (
          <>
            <Field label="Alternate" error={wrong("alternate")}>
              {(p) => (
                <input {...p} className="field" value={alternate} onChange={(e) => setAlternate(e.target.value)} />
              )}
            </Field>
            <Field label="What it is for" hint="own assembly, bought-in board, second source">
              {(p) => (
                <input {...p} className="field" value={reference} onChange={(e) => setReference(e.target.value)} />
              )}
            </Field>
          </>
        )}
        {words.reason && (
          <Field label="Reason" error={wrong("reason")} hint="kept in the history">
            {(p) => (
              <input {...p} className="field" autoFocus value={reason} onChange={(e) => setReason(e.target.value)} />
            )}
          </Field>
        )}
        {(verb === "release" || verb === "days") && (
          <Field label="In force from" error={wrong("first_day")}>
            {(p) => <DayField {...p} placeholder="the start" value={first} onKeep={setFirst} />}
          </Field>
        )}
        {verb === "days" && (
          <Field label="Up to, not on" error={wrong("last_day")}>
            {(p) => <DayField {...p} placeholder="no end" value={last} onKeep={setLast} />}
          </Field>
        )}
        {general && (
          <div role="alert" className="text-bad">
            {(run.error?.problems.length ?? 0) > 1 ? (
              <ul className="list-disc pl-4">
                {run.error?.problems.map((p) => (
                  <li key={`${p.place}${p.message}`}>{p.message}</li>
                ))}
              </ul>
            ) : (
              run.error?.message
            )}
          </div>
        )}
        <div className="mt-auto flex gap-2 pt-4">
          <Button look="strong" type="submit" autoFocus={!words.reason} disabled={run.isPending}>
            {words.act}
          </Button>
          <Button className="ml-auto" onClick={onClose}>
            {words.leave}
          </Button>
        </div>
      </form>
    </Panel>
  );
}
