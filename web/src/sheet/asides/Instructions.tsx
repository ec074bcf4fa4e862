import { useMutation, useQuery } from "@tanstack/react-query";
import { type Ref, useRef, useState } from "react";
import Markdown from "react-markdown";
import { Button } from "../../kit/Button";
import { sendFile } from "../../kit/sendFile";
import { answer, client, type Refusal, type Schemas } from "../../lib/api";
import { useUntrue } from "../../lib/untrue";
import type { OperationValues } from "../../model/change";
import type { OperationRow } from "../../model/wire";
import { PdfPages } from "./PdfPages";

type Kept = Schemas["FileOut"];

/** What puts a mark round or before what is chosen. */
const MARKS = [
  ["bold", "**", "**"],
  ["italic", "_", "_"],
  ["heading", "\n## ", ""],
  ["list", "\n- ", ""],
  ["numbered", "\n1. ", ""],
] as const;

/** What the shop reads at an operation: text, and pictures, PDF and video shown in place. */
export function Instructions({
  part,
  operation,
  editable,
  panel,
  refused,
  onSet,
  onClose,
}: {
  part: string;
  operation: OperationRow;
  editable: boolean;
  panel: Ref<HTMLElement>;
  refused?: string;
  onSet: (after: OperationValues) => void;
  onClose: () => void;
}) {
  const [writing, setWriting] = useState(false);
  const [text, setText] = useState(operation.instructions);
  // Once the text has been left, the keyboard is where it can be taken up again.
  const left = useRef(false);
  const area = useRef<HTMLTextAreaElement>(null);
  const input = useRef<HTMLInputElement>(null);
  const untrue = useUntrue();
  const files = useQuery({
    queryKey: ["files", operation.files],
    queryFn: () => answer(client.POST("/api/parts/files/named", { body: { ids: operation.files } })),
    enabled: operation.files.length > 0,
    placeholderData: (old) => old,
  });
  const add = useMutation<Kept[], Refusal, File[]>({
    mutationFn: async (chosen) => {
      const kept: Kept[] = [];
      for (const file of chosen)
        kept.push(
          await sendFile<Kept>(`/api/parts/one/files?number=${encodeURIComponent(part)}&shown_with=operation`, file),
        );
      return kept;
    },
    onSuccess: (kept) => {
      onSet({ files: [...operation.files, ...kept.map((f) => f.id)] });
      untrue("file");
    },
  });
  const mark = (before: string, after: string) => {
    const field = area.current;
    if (!field) return;
    const [a, b] = [field.selectionStart, field.selectionEnd];
    const lead = before.startsWith("\n") && (a === 0 || text[a - 1] === "\n") ? before.slice(1) : before;
    setText(text.slice(0, a) + lead + text.slice(a, b) + after + text.slice(b));
    window.setTimeout(() => {
      field.focus();
      field.setSelectionRange(a + lead.length, b + lead.length);
    }, 0);
  };
  const shown = operation.files.flatMap((id) => files.data?.find((f) => f.id === id) ?? []);
  return (
    <section ref={panel} tabIndex={-1} aria-label="Instructions" className="flex flex-col gap-2.5">
      <div className="flex items-baseline justify-between">
        <h2 className="text-[12px] font-semibold text-blue">
          Instructions, operation {operation.sequence} {operation.name}
        </h2>
        <Button look="quiet" className="!min-h-0" onClick={onClose}>
          close
        </Button>
      </div>
      {writing ? (
        <>
          <div className="flex flex-wrap gap-1">
            {MARKS.map(([label, before, after]) => (
              <Button key={label} className="!min-h-[24px] !px-1.5 text-[12px]" onClick={() => mark(before, after)}>
                {label}
              </Button>
            ))}
          </div>
          <textarea
            ref={area}
            aria-label="Text of the instructions"
            className="field min-h-[220px] font-mono text-[13px] leading-[19px]"
            value={text}
            onChange={(event) => setText(event.target.value)}
            autoFocus
          />
          <div className="flex gap-2">
            <Button
              look="strong"
              onClick={() => {
                onSet({ instructions: text });
                left.current = true;
                setWriting(false);
              }}
            >
              Keep
            </Button>
            <Button
              onClick={() => {
                setText(operation.instructions);
                left.current = true;
                setWriting(false);
              }}
            >
              Leave it
            </Button>
          </div>
        </>
      ) : (
        <>
          {operation.instructions ? (
            <div className="instructions">
              <Markdown disallowedElements={["img"]}>{operation.instructions}</Markdown>
            </div>
          ) : (
            <p className="text-ink-3">Nothing is written yet.</p>
          )}
          {editable && (
            <Button
              className="self-start"
              autoFocus={left.current}
              onClick={() => {
                setText(operation.instructions);
                setWriting(true);
              }}
            >
              {operation.instructions ? "Change the text" : "Write"}
            </Button>
          )}
        </>
      )}
      {refused && (
        <p role="alert" className="text-[12px] text-bad">
          {refused}
        </p>
      )}
      {shown.map((file) => (
        <figure key={file.id} className="border-t border-hair pt-2">
          <Shown file={file} />
          <figcaption className="flex items-center gap-2 text-[12px] text-ink-3">
            <span className="min-w-0 truncate">{file.name}</span>
            {editable && (
              <Button
                look="quiet"
                className="ml-auto !min-h-[24px]"
                aria-label={`take away ${file.name}`}
                onClick={() => onSet({ files: operation.files.filter((id) => id !== file.id) })}
              >
                take away
              </Button>
            )}
          </figcaption>
        </figure>
      ))}
      {(files.error ?? add.error) && (
        <p role="alert" className="text-[12px] text-bad">
          {(add.error ?? files.error)?.message}
        </p>
      )}
      {editable && (
        <>
          <input
            ref={input}
            type="file"
            multiple
            accept="image/png,image/jpeg,image/webp,image/gif,application/pdf,video/mp4,video/webm"
            className="hidden"
            aria-label="Add a picture, a PDF or a video"
            onChange={(event) => {
              const chosen = [...(event.target.files ?? [])];
              event.target.value = "";
              if (chosen.length > 0) add.mutate(chosen);
            }}
          />
          <Button className="self-start" disabled={add.isPending} onClick={() => input.current?.click()}>
            {add.isPending ? "Sending …" : "Add a picture, a PDF or a video"}
          </Button>
        </>
      )}
    </section>
  );
}

function Shown({ file }: { file: Kept }) {
  const address = `/api/parts/files/${file.id}`;
  if (file.picture) return <img src={address} alt={file.name} className="max-h-[320px] max-w-full object-contain" />;
  if (file.content_type === "application/pdf") return <PdfPages address={address} name={file.name} />;
  if (file.content_type.startsWith("video/"))
    // biome-ignore lint/a11y/useMediaCaption: the shop's own films have no captions
    return <video src={address} controls preload="metadata" aria-label={file.name} className="max-h-[320px] w-full" />;
  return (
    <a href={address} className="text-blue hover:underline">
      {file.name}
    </a>
  );
}
