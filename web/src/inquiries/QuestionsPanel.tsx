import { keepPreviousData, useMutation, useQuery } from "@tanstack/react-query";
import { useRef } from "react";
import { Button } from "../kit/Button";
import { download } from "../kit/download";
import { Panel } from "../kit/Panel";
import { useSay } from "../kit/Says";
import { sendFile } from "../kit/sendFile";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { useUntrue } from "../lib/untrue";
import type { Inquiry } from "./states";
import { useAfterWrite } from "./useInquiry";

/** The questions to the sender: as a mail to look at, as a workbook to be filled in, and the workbook that came back. */
export function QuestionsPanel({ inquiry, onClose }: { inquiry: Inquiry; onClose: () => void }) {
  const input = useRef<HTMLInputElement>(null);
  const say = useSay();
  const untrue = useUntrue();
  const after = useAfterWrite(inquiry.id);
  const mail = useQuery({
    queryKey: ["inquiries", "questions", inquiry.id, inquiry.stamp],
    queryFn: () =>
      answer(client.GET("/api/inquiries/{inquiry_id}/questions", { params: { path: { inquiry_id: inquiry.id } } })),
    // The mail stays while it is asked for anew, or the button one is about to press would go from under the hand.
    placeholderData: keepPreviousData,
  });
  const wait = useMutation<Inquiry, Refusal, void>({
    mutationFn: () =>
      answer(
        client.PATCH("/api/inquiries/{inquiry_id}", {
          params: { path: { inquiry_id: inquiry.id } },
          body: { state: "waiting", version: inquiry.version },
        }),
      ),
    onSuccess: () => untrue("inquiry"),
    onError: (error) => say(error.message, { bad: true }),
  });
  const lay = useMutation<Schemas["Laid"], Refusal, File>({
    mutationFn: (file) => sendFile(`/api/inquiries/${inquiry.id}/answers`, file),
    onSuccess: (laid) => {
      after();
      say(`Answers laid on ${laid.lines} ${laid.lines === 1 ? "line" : "lines"}.`);
    },
  });
  const said = mail.data;
  return (
    <Panel
      title="Questions to the sender"
      note="grouped by what they are about, with the rows of their own list"
      open
      onClose={onClose}
    >
      {said?.count === 0 && <p className="mt-3 text-ink-2">Nothing is asked just now. Q on a line asks about it.</p>}
      {said && said.count > 0 && (
        <>
          <dl className="mt-3 grid grid-cols-[60px_1fr] gap-y-1">
            <dt className="text-ink-2">to</dt>
            <dd>{said.to || <span className="text-ink-3">the customer has no mail address here</span>}</dd>
            <dt className="text-ink-2">about</dt>
            <dd>{said.subject}</dd>
          </dl>
          <pre className="mt-2 border-y border-hair py-2 font-sans whitespace-pre-wrap" aria-label="The mail">
            {said.body}
          </pre>
          <div className="mt-3 flex flex-wrap gap-2">
            <Button
              look="strong"
              onClick={() =>
                download(`/api/inquiries/${inquiry.id}/questions.xlsx`).catch((error: Error) =>
                  say(error.message, { bad: true }),
                )
              }
            >
              Workbook to fill in
            </Button>
            <Button
              onClick={() => {
                navigator.clipboard.writeText(said.body).then(
                  () => say("The mail is on the clipboard."),
                  () => say("The clipboard cannot be written here; mark the text and copy it.", { bad: true }),
                );
              }}
            >
              Copy the mail
            </Button>
            {inquiry.state === "work" && (
              <Button needs="inquiries" onClick={() => wait.mutate()}>
                They were sent: wait for the customer
              </Button>
            )}
          </div>
        </>
      )}
      <h3 className="mt-5 font-semibold">What came back</h3>
      <p className="text-ink-2">The workbook with its answers; each is laid on its line, and U takes them back.</p>
      <div className="mt-2">
        <Button needs="inquiries" disabled={lay.isPending} onClick={() => input.current?.click()}>
          Bring the answers
        </Button>
        <input
          ref={input}
          type="file"
          className="sr-only"
          tabIndex={-1}
          aria-label="Workbook with answers"
          accept=".xlsx,.ods,.csv"
          onChange={(event) => {
            const file = event.target.files?.[0];
            if (file) lay.mutate(file);
            event.target.value = "";
          }}
        />
      </div>
      {lay.error && (
        <p role="alert" className="mt-2 text-bad">
          {lay.error.message}
        </p>
      )}
      {lay.data?.told.map((words) => (
        <p key={words} className="mt-1 text-brass">
          {words}
        </p>
      ))}
    </Panel>
  );
}
