import { useMutation, useQuery } from "@tanstack/react-query";
import { useRef } from "react";
import { Button } from "../../kit/Button";
import { useSay } from "../../kit/Says";
import { sendFile } from "../../kit/sendFile";
import { answer, client, type Refusal, type Schemas } from "../../lib/api";
import { useUntrue } from "../../lib/untrue";

const size = (bytes: number) => (bytes < 1e6 ? `${Math.ceil(bytes / 1000)} kB` : `${(bytes / 1e6).toFixed(1)} MB`);

/** Pictures and files of a part: seen, added, let go. */
export function PartFiles({ part, may }: { part: string; may: boolean }) {
  const input = useRef<HTMLInputElement>(null);
  const say = useSay();
  const untrue = useUntrue();
  const key = ["part", part, "files"] as const;
  const files = useQuery({
    queryKey: key,
    queryFn: () => answer(client.GET("/api/parts/one/files", { params: { query: { number: part } } })),
    staleTime: 0,
  });
  const add = useMutation<Schemas["FileOut"][], Refusal, File[]>({
    mutationFn: async (chosen) => {
      const kept = [];
      for (const file of chosen)
        kept.push(await sendFile<Schemas["FileOut"]>(`/api/parts/one/files?number=${encodeURIComponent(part)}`, file));
      return kept;
    },
    onSuccess: (kept) => say(`Kept ${kept.map((f) => f.name).join(", ")}.`),
    onSettled: () => untrue("file"),
  });
  const drop = useMutation<unknown, Refusal, Schemas["FileOut"]>({
    mutationFn: (file) =>
      answer(client.POST("/api/parts/files/{file_id}/drop", { params: { path: { file_id: file.id } } })),
    onSuccess: (_, file) => say(`${file.name} is let go; the history says that it was here.`),
    onError: (error) => say(error.message, { bad: true }),
    onSettled: () => untrue("file"),
  });
  const pictures = files.data?.filter((f) => f.picture) ?? [];
  return (
    <div className="flex flex-col gap-2 pb-2">
      {pictures.length > 0 && (
        <div className="flex flex-wrap gap-2">
          {pictures.map((f) => (
            <a key={f.id} href={`/api/parts/files/${f.id}`} target="_blank" rel="noreferrer">
              <img
                src={`/api/parts/files/${f.id}`}
                alt={f.name}
                className="h-24 max-w-[180px] border border-hair-2 object-contain"
              />
            </a>
          ))}
        </div>
      )}
      <ul>
        {files.data?.map((f) => (
          <li key={f.id} className="flex items-center gap-2 border-b border-hair py-0.5">
            <a
              href={`/api/parts/files/${f.id}`}
              target="_blank"
              rel="noreferrer"
              className="min-w-0 truncate text-blue hover:underline"
            >
              {f.name}
            </a>
            <span className="text-[12px] whitespace-nowrap text-ink-3">
              {size(f.size)} · {f.by}
            </span>
            <Button
              needs="parts"
              look="quiet"
              className="ml-auto !min-h-[24px]"
              aria-label={`let go of ${f.name}`}
              disabled={drop.isPending}
              onClick={() => drop.mutate(f)}
            >
              let go
            </Button>
          </li>
        ))}
      </ul>
      {add.error && (
        <p role="alert" className="text-[12px] text-bad">
          {add.error.message}
        </p>
      )}
      {may && (
        <>
          <input
            ref={input}
            type="file"
            multiple
            className="hidden"
            aria-label="Add a picture or a file"
            onChange={(event) => {
              const chosen = [...(event.target.files ?? [])];
              event.target.value = "";
              if (chosen.length > 0) add.mutate(chosen);
            }}
          />
          <Button className="self-start" disabled={add.isPending} onClick={() => input.current?.click()}>
            {add.isPending ? "Sending …" : "Add a picture or a file"}
          </Button>
        </>
      )}
    </div>
  );
}
