import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { against, type Found, type InquiryLine } from "../model/inquiry";
import { SeverityMark } from "../pieces/findings/SeverityMark";
import type { Asking } from "./asking";
import type { Evidence } from "./states";
import { useAfterWrite } from "./useInquiry";

/** The first words of a question about a finding; a person reads it over before it is kept. */
const question = (line: InquiryLine, found: Found | undefined) =>
  found
    ? `${found.message[0]?.toUpperCase() ?? ""}${found.message.slice(1)}. Which holds?`
    : `What is ${line.part || "this"}?`;

/** What stands against the line: each finding can be mended, waived with a reason, or put to the sender. */
export function FindingsOfLine({
  id,
  line,
  beside,
  asking,
}: {
  id: number;
  line: InquiryLine;
  beside: Evidence;
  asking: Asking;
}) {
  const after = useAfterWrite(id);
  const say = useSay();
  const path = { inquiry_id: id, line_id: line.id };
  const first = against(line)[0];
  const waive = useMutation<Schemas["EvidenceOut"], Refusal, { code: string; reason: string | null }>({
    mutationFn: (body) =>
      answer(
        client.POST("/api/inquiries/{inquiry_id}/lines/{line_id}/waive", {
          params: { path },
          body: { seen: line.stamp, ...body },
        }),
      ),
    onSuccess: async () => {
      await after();
      asking.done();
    },
    onError: (error) => say(error.message, { bad: true }),
  });
  const ask = useMutation<Schemas["EvidenceOut"], Refusal, string>({
    mutationFn: (text) =>
      answer(
        client.POST("/api/inquiries/{inquiry_id}/lines/{line_id}/ask", {
          params: { path },
          body: { about: first?.code ?? "free", field: first?.field ?? "", text },
        }),
      ),
    onSuccess: async () => {
      await after();
      asking.done();
      say("It stands among the questions to the sender.");
    },
    onError: (error) => say(error.message, { bad: true }),
  });
  return (
    <section
      aria-label="What stands against it"
      className={
        line.findings.length || beside.questions.length || asking.what === "waive" || asking.what === "ask"
          ? ""
          : "hidden"
      }
    >
      {line.findings.length > 0 && <h2 className="text-[12px] text-ink-2">What stands against it</h2>}
      <ul className="flex flex-col gap-1.5">
        {line.findings.map((found) => (
          <li key={found.code}>
            <span className={`flex items-baseline gap-1.5 ${found.waived ? "text-ink-3 line-through" : ""}`}>
              <SeverityMark severity={found.severity} word={false} />
              <span>{found.message}</span>
            </span>
            {found.waived ? (
              <p className="text-[12px] text-ink-3">
                may stand, {found.waived.by}: {found.waived.reason}{" "}
                <Button
                  look="quiet"
                  className="!min-h-0"
                  needs="inquiries"
                  onClick={() => waive.mutate({ code: found.code, reason: null })}
                >
                  take back
                </Button>
              </p>
            ) : (
              <p className="text-[12px] text-ink-3">{found.mend}</p>
            )}
          </li>
        ))}
      </ul>
      {beside.questions.map((q) => (
        <p key={q.id} className="mt-1 border-l-2 border-blue pl-2">
          <span className="text-[12px] text-ink-3">asked by {q.asked_by}: </span>
          {q.text}
          {q.answer && (
            <>
              <span className="text-[12px] text-ink-3"> they say: </span>
              <b className="font-semibold">{q.answer}</b>
            </>
          )}
        </p>
      ))}
      {asking.what === "waive" && first?.severity === "look" && (
        <OneLine
          label="Why it may stand"
          yes="Let it stand"
          start=""
          onDone={asking.done}
          onKeep={(reason) => waive.mutate({ code: first.code, reason })}
        />
      )}
      {asking.what === "ask" && (
        <OneLine
          label="What the sender is asked"
          yes="Ask"
          start={question(line, first)}
          onDone={asking.done}
          onKeep={(text) => ask.mutate(text)}
        />
      )}
    </section>
  );
}

function OneLine({
  label,
  yes,
  start,
  onKeep,
  onDone,
}: {
  label: string;
  yes: string;
  start: string;
  onKeep: (text: string) => void;
  onDone: () => void;
}) {
  const [text, setText] = useState(start);
  return (
    <form
      className="mt-1.5 flex flex-col gap-1.5"
      onSubmit={(event) => {
        event.preventDefault();
        if (text.trim()) onKeep(text);
      }}
      onKeyDown={(event) => {
        event.stopPropagation();
        if (event.key === "Escape") onDone();
      }}
    >
      <textarea
        className="field"
        rows={2}
        aria-label={label}
        placeholder={label.toLowerCase()}
        autoFocus
        value={text}
        onChange={(event) => setText(event.target.value)}
        onKeyDown={(event) => {
          if (event.key !== "Enter" || event.shiftKey) return;
          event.preventDefault();
          if (text.trim()) onKeep(text);
        }}
      />
      <div className="flex gap-1.5">
        <Button look="strong" type="submit" className="!min-h-[26px] !px-2" disabled={!text.trim()}>
          {yes}
        </Button>
        <Button look="quiet" className="!min-h-[26px]" onClick={onDone}>
          Leave it
        </Button>
      </div>
    </form>
  );
}
