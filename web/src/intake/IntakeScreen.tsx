import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { useSearchParams } from "react-router";
import { Button } from "../kit/Button";
import { JobProgress, whileItRuns } from "../kit/JobProgress";
import { useSay } from "../kit/Says";
import { sendFile } from "../kit/sendFile";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { MapList } from "./MapList";

/** Bring in a list made elsewhere: choose the file, see what it becomes, save it whole. */
export function IntakeScreen() {
  const [params, setParams] = useSearchParams();
  const [over, setOver] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const queries = useQueryClient();
  const say = useSay();
  const id = Number(params.get("list")) || null;
  const send = useMutation<Schemas["IntakeOut"], Refusal, File>({
    mutationFn: (file) => sendFile("/api/intake", file),
    onSuccess: (intake) => setParams({ list: String(intake.id) }),
  });
  const intake = useQuery({
    queryKey: ["intake", id],
    queryFn: () => answer(client.GET("/api/intake/{intake_id}", { params: { path: { intake_id: id! } } })),
    enabled: id !== null,
    // While the worker reads, ask again.
    refetchInterval: (query) => whileItRuns(query.state.data?.job),
    staleTime: Infinity,
  });
  const again = useMutation<Schemas["IntakeOut"], Refusal, number>({
    mutationFn: (list) =>
      answer(client.POST("/api/intake/{intake_id}/again", { params: { path: { intake_id: list } } })),
    onSuccess: (found) => queries.setQueryData(["intake", found.id], found),
    onError: (error) => say(error.message, { bad: true }),
  });
  const take = (files: FileList | null) => {
    const file = files?.[0];
    if (!file) return;
    send.mutate(file);
  };
  const state = intake.data?.state;
  if (intake.data && state === "read")
    return <MapList key={intake.data.id} intake={intake.data} onLeave={() => setParams({})} />;
  const trouble =
    send.error?.message ?? intake.error?.message ?? (state === "failed" ? intake.data?.failed : undefined);
  return (
    <div className="mx-auto flex h-full max-w-[640px] flex-col justify-center gap-4 pb-24">
      <h1 className="text-[20px] font-semibold">Bring in a list</h1>
      <p className="text-ink-2">
        A bill of materials as CSV, XLSX or ODS, in any layout: a title block above the header, several levels by a
        level or a parent column. You see what every row becomes before anything is saved.
      </p>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: the button inside does the same for the keyboard */}
      <div
        className={`flex flex-col items-center gap-3 border-2 border-dashed p-10 ${over ? "border-blue bg-blue-tint" : "border-hair-2 bg-paper"}`}
        onDragOver={(event) => {
          event.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={(event) => {
          event.preventDefault();
          setOver(false);
          take(event.dataTransfer.files);
        }}
      >
        <span>Drop the file here</span>
        <Button needs="intake" look="strong" autoFocus disabled={send.isPending} onClick={() => input.current?.click()}>
          Choose a file
        </Button>
        <input
          ref={input}
          type="file"
          className="sr-only"
          tabIndex={-1}
          aria-label="File with the list"
          accept=".csv,.tsv,.txt,.xlsx,.xlsm,.ods"
          onChange={(event) => {
            take(event.target.files);
            event.target.value = "";
          }}
        />
        <span className="text-ink-3">up to 20 MB</span>
      </div>
      <p aria-live="polite" className="min-h-[1.4em]">
        {send.isPending ? "Sending the file …" : intake.data?.job ? intake.data.job.title : ""}
        {state === "saved" ? `${intake.data?.name} was saved already.` : ""}
      </p>
      {intake.data?.job && <JobProgress job={intake.data.job} stale={["intake"]} />}
      {trouble && (
        <p role="alert" className="border border-bad bg-bad-tint px-3 py-2 text-bad">
          {trouble}
          {intake.data?.again && (
            <Button look="quiet" className="!min-h-0" onClick={() => again.mutate(intake.data.id)}>
              Read it again
            </Button>
          )}
        </p>
      )}
    </div>
  );
}
