import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "../kit/Button";
import { FileButton } from "../kit/FileButton";
import { useSay } from "../kit/Says";
import { sendFile } from "../kit/sendFile";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { day } from "../lib/number";
import { useUntrue } from "../lib/untrue";
import { ListSaid } from "../pieces/offers/ListSaid";

type Request = Schemas["RequestOut"];
type Said = Schemas["OfferListOut"];

/** How a request stands, in words. */
function stands(r: Request): string {
  if (r.state === "answered") return `answered ${day(r.answered_at)}`;
  if (r.state === "draft") return "draft, not sent";
  const reminded = r.reminders ? `, reminded ${day(r.reminded_at)}` : "";
  return `sent ${day(r.sent_at)}${reminded}${r.late ? `, ${r.late} d late` : r.wanted_by ? `, wanted by ${day(r.wanted_by)}` : ""}`;
}

/** One request: its mail while it is a draft; then what is done until it is answered. `whole`: it begins open. */
export function OneRequest({
  request,
  onPlan,
  whole = false,
}: {
  request: Request;
  onPlan: () => void;
  whole?: boolean;
}) {
  const [words, setWords] = useState(request.words);
  const [to, setTo] = useState(request.mail_to);
  const [file, setFile] = useState<File | null>(null);
  const say = useSay();
  const untrue = useUntrue();
  const path = { request_id: request.id };
  const send = useMutation<Request, Refusal, void>({
    mutationFn: () =>
      answer(
        client.POST("/api/requests/{request_id}/send", {
          params: { path },
          body: { version: request.version, words, mail_to: to.trim() },
        }),
      ),
    onSuccess: (sent) => {
      untrue("request");
      say(`Sent ${sent.number} to ${sent.mail_to}.`);
    },
  });
  const remind = useMutation<Request, Refusal, void>({
    mutationFn: () =>
      answer(
        client.POST("/api/requests/{request_id}/remind", { params: { path }, body: { version: request.version } }),
      ),
    onSuccess: (sent) => {
      untrue("request");
      say(`Reminded ${sent.supplier}.`);
    },
  });
  const bring = useMutation<Said, Refusal, { back: File; anyway: boolean }>({
    mutationFn: ({ back, anyway }) => sendFile<Said>(`/api/requests/${request.id}/answer?anyway=${anyway}`, back),
    onSuccess: (said) => {
      if (!said.kept) return;
      untrue("offer");
      say(
        `Kept ${said.kept} ${said.kept === 1 ? "offer" : "offers"} of ${request.supplier}${request.plan ? "; planning anew" : ""}.`,
      );
      onPlan();
    },
  });
  const error = send.error ?? remind.error ?? bring.error;
  return (
    <details open={whole || request.state === "draft"} className="mt-3 border-t border-hair pt-2">
      <summary>
        <span className="pn">{request.number}</span> <b className="font-semibold">{request.supplier}</b>{" "}
        <span className={request.late ? "font-semibold text-bad" : "text-ink-2"}>{stands(request)}</span>
      </summary>
      {request.why_not.send === null ? (
        <>
          <label className="mt-2 flex items-center gap-2">
            to
            <input
              className="field"
              type="email"
              aria-label={`Mail address of ${request.supplier}`}
              value={to}
              onChange={(event) => setTo(event.target.value)}
            />
          </label>
          <textarea
            className="field mt-2"
            rows={9}
            aria-label={`The mail to ${request.supplier}`}
            value={words}
            onChange={(event) => setWords(event.target.value)}
          />
        </>
      ) : (
        <pre className="mt-2 border-y border-hair py-2 font-sans whitespace-pre-wrap">{request.words}</pre>
      )}
      {error && (
        <p role="alert" className="pt-1 text-bad">
          {error.problems[0]?.message ?? error.message}
        </p>
      )}
      <div className="flex flex-wrap gap-2 pt-2">
        {request.why_not.send === null && (
          <Button needs="buying" look="strong" disabled={send.isPending} onClick={() => send.mutate()}>
            Send it
          </Button>
        )}
        <Button onClick={() => window.location.assign(`/api/requests/${request.id}/workbook.xlsx`)}>
          Its workbook
        </Button>
        <Button onClick={() => window.location.assign(`/api/requests/${request.id}/request.xml`)}>As UBL</Button>
        {request.why_not.remind === null && (
          <Button needs="buying" disabled={remind.isPending} onClick={() => remind.mutate()}>
            Remind them
          </Button>
        )}
        {request.why_not.answer === null && (
          <FileButton
            label={`The answer of ${request.supplier}`}
            needs="buying"
            disabled={bring.isPending}
            onFile={(back) => {
              setFile(back);
              bring.mutate({ back, anyway: false });
            }}
          >
            Bring the answer
          </FileButton>
        )}
      </div>
      {bring.data && <ListSaid said={bring.data} onKeep={() => file && bring.mutate({ back: file, anyway: true })} />}
    </details>
  );
}
