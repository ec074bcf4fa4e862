import { useMutation } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Ask } from "../kit/Ask";
import { Button } from "../kit/Button";
import { JobProgress } from "../kit/JobProgress";
import { Panel } from "../kit/Panel";
import { useSay } from "../kit/Says";
import { sendFile } from "../kit/sendFile";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { quantity } from "../lib/number";
import { useUntrue } from "../lib/untrue";
import type { Inquiry } from "./states";

type File_ = Schemas["InquiryFileOut"];

/** Brings files into an inquiry, one after another. */
export function useBring(id: number) {
  const untrue = useUntrue();
  const say = useSay();
  return useMutation<void, Refusal, File[]>({
    mutationFn: async (files) => {
      for (const file of files) await sendFile(`/api/inquiries/${id}/files`, file);
    },
    onSettled: () => untrue("inquiry"),
    onError: (error) => say(error.message, { bad: true }),
  });
}

/** A button that chooses files, and a place to drop them on. */
export function BringFiles({ id, look = "plain" }: { id: number; look?: "plain" | "strong" }) {
  const input = useRef<HTMLInputElement>(null);
  const bring = useBring(id);
  return (
    <>
      <Button needs="inquiries" look={look} disabled={bring.isPending} onClick={() => input.current?.click()}>
        {bring.isPending ? "Sending …" : "Bring files"}
      </Button>
      <input
        ref={input}
        type="file"
        multiple
        className="sr-only"
        tabIndex={-1}
        aria-label="Files of the inquiry"
        onChange={(event) => {
          const files = [...(event.target.files ?? [])];
          if (files.length) bring.mutate(files);
          event.target.value = "";
        }}
      />
    </>
  );
}

const ROLES: Record<string, string> = {
  list: "list",
  layout: "layout",
  piece: "read with the model that names it",
  other: "kept as it is",
  unread: "not read",
};
const MAPS: Record<string, string> = {
  found: "columns found by their titles",
  remembered: "columns as remembered for this sender",
  "by hand": "columns as said here",
};

/** What a file is, and how it was read. */
function says(file: File_, all: File_[]): string {
  const words = [ROLES[file.role] ?? file.role];
  if (file.lines) words.push(`${quantity(file.lines)} ${file.lines === 1 ? "line" : "lines"}`);
  if (file.places) words.push("with places");
  const later = all.find((f) => f.id === file.replaced_by);
  if (later) words.push(`replaced by ${later.name}`);
  return words.join(" · ");
}

/** The files of an inquiry: what each is, how its list is read, and what could not be. */
export function FilesPanel({
  inquiry,
  onRead,
  onClose,
}: {
  inquiry: Inquiry;
  onRead: (file: number) => void;
  onClose: () => void;
}) {
  const say = useSay();
  const untrue = useUntrue();
  const [dropping, setDropping] = useState<File_ | null>(null);
  const act = useMutation<Inquiry, Refusal, { file: number; what: "again" | "drop" | "bill" }>({
    mutationFn: ({ file, what }) => {
      const params = { path: { inquiry_id: inquiry.id, file_id: file } };
      if (what === "again") return answer(client.POST("/api/inquiries/{inquiry_id}/files/{file_id}/again", { params }));
      if (what === "drop") return answer(client.POST("/api/inquiries/{inquiry_id}/files/{file_id}/drop", { params }));
      return answer(client.POST("/api/inquiries/{inquiry_id}/files/{file_id}/bill", { params }));
    },
    onSuccess: () => {
      untrue("inquiry");
      untrue("inquiry line");
    },
    onError: (error) => say(error.message, { bad: true }),
  });
  return (
    <Panel
      title="Files"
      note="lists, layouts, pictures: in any order; lists join by part number"
      open
      onClose={onClose}
    >
      <div className="mt-3 flex gap-2">
        <BringFiles id={inquiry.id} look="strong" />
      </div>
      <ul className="mt-3 flex flex-col">
        {inquiry.files.map((file) => (
          <li key={file.id} className={`border-t border-hair py-2 ${file.replaced_by ? "text-ink-3" : ""}`}>
            <p className="font-semibold break-words">{file.name}</p>
            <p className="text-[12px] text-ink-2">{says(file, inquiry.files)}</p>
            {file.job && <JobProgress job={file.job} stale={["inquiries"]} className="mt-1" />}
            {file.failed && (
              <p role="alert" className="text-bad">
                {file.failed}
              </p>
            )}
            {Object.entries(file.maps).map(([sheet, from]) => (
              <p key={sheet} className="text-[12px] text-ink-2">
                {sheet && `${sheet}: `}
                {MAPS[from] ?? from}
              </p>
            ))}
            {file.taken.length > 0 && (
              <details className="text-[12px] text-ink-2">
                <summary>
                  {file.taken.length} {file.taken.length === 1 ? "line" : "lines"} taken away with it
                </summary>
                <ul>
                  {file.taken.map((words) => (
                    <li key={words}>{words}</li>
                  ))}
                </ul>
              </details>
            )}
            {file.troubles.slice(0, 5).map((words) => (
              <p key={words} className="text-[12px] text-brass">
                {words}
              </p>
            ))}
            <div className="mt-1 flex gap-3 text-[12px]">
              {Object.keys(file.maps).length > 0 && (
                <Button look="quiet" className="!min-h-0 !px-0" onClick={() => onRead(file.id)}>
                  how it is read
                </Button>
              )}
              {file.role === "layout" && file.bill && (
                <Button
                  look="quiet"
                  needs="inquiries"
                  className="!min-h-0 !px-0"
                  onClick={() => act.mutate({ file: file.id, what: "bill" })}
                >
                  take its bill as a list
                </Button>
              )}
              {file.failed && !file.job && (
                <Button
                  look="quiet"
                  needs="inquiries"
                  className="!min-h-0 !px-0"
                  onClick={() => act.mutate({ file: file.id, what: "again" })}
                >
                  read it again
                </Button>
              )}
              <Button look="quiet" needs="inquiries" className="!min-h-0 !px-0" onClick={() => setDropping(file)}>
                take away
              </Button>
            </div>
          </li>
        ))}
        {inquiry.files.length === 0 && <li className="text-ink-3">No file yet.</li>}
      </ul>
      <Ask
        open={dropping !== null}
        title={`Take ${dropping?.name ?? ""} away?`}
        yes="Take it away"
        onYes={() => dropping && act.mutate({ file: dropping.id, what: "drop" })}
        onClose={() => setDropping(null)}
      >
        Its lines go with it, and what was decided on them. This cannot be undone; pairs stay remembered for the sender.
      </Ask>
    </Panel>
  );
}
