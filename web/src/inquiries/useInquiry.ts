import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { useJobEnd, whileItRuns } from "../kit/JobProgress";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { useUntrue } from "../lib/untrue";
import { type InquiryLine, laidOver, linesOf } from "../model/inquiry";

/** How often what others write is asked for, in milliseconds. */
const LOOK = 3000;

interface Held {
  stamp: number;
  lines: InquiryLine[];
}

/** The lines of an inquiry, kept up to date with what others decide. */
export function useLines(id: number) {
  const queries = useQueryClient();
  const key = ["inquiry-lines", id] as const;
  return useQuery<Held>({
    queryKey: key,
    queryFn: async () => {
      const held = queries.getQueryData<Held>(key);
      const since = held ? held.stamp + 1 : 0;
      const got = await answer(
        client.GET("/api/inquiries/{inquiry_id}/lines", { params: { path: { inquiry_id: id }, query: { since } } }),
      );
      const lines = linesOf(got.table);
      return { stamp: got.stamp, lines: got.whole || !held ? lines : laidOver(held.lines, lines) };
    },
    refetchInterval: LOOK,
    staleTime: 0,
    structuralSharing: false,
  });
}

/** An inquiry whole, but for its lines. */
export function useInquiry(id: number) {
  const queries = useQueryClient();
  const untrue = useUntrue();
  const found = useQuery({
    queryKey: ["inquiries", "one", id],
    queryFn: () => answer(client.GET("/api/inquiries/{inquiry_id}", { params: { path: { inquiry_id: id } } })),
    refetchInterval: (query) => whileItRuns(query.state.data?.job) || LOOK * 2,
    staleTime: 0,
  });
  useJobEnd(found.data?.job, () => {
    untrue("inquiry");
    queries.invalidateQueries({ queryKey: ["inquiry-lines", id] });
  });
  return found;
}

/** What is read again after a line was written. */
export function useAfterWrite(id: number) {
  const queries = useQueryClient();
  const untrue = useUntrue();
  return useCallback(async () => {
    await queries.invalidateQueries({ queryKey: ["inquiry-lines", id] });
    untrue("inquiry line");
  }, [queries, untrue, id]);
}

export type Asked = Schemas["AskedIn"];
export type Met = Schemas["MetOut"] & { asked: Asked };

/** Deciding on lines, one step after another; what met another's decision waits to be chosen. */
export function useDeciding(id: number) {
  const untrue = useUntrue();
  const say = useSay();
  const after = useAfterWrite(id);
  const [met, setMet] = useState<Met[]>([]);
  const [last, setLast] = useState<number[]>([]);
  const path = { inquiry_id: id };
  const done = (answer: Schemas["DecidedOut"], asked: Asked[]) => {
    if (answer.batch) setLast((old) => [...old, answer.batch]);
    setMet((old) => [
      ...old,
      ...answer.met.flatMap((m) => {
        const mine = asked.find((a) => a.line === m.line);
        return mine ? [{ ...m, asked: mine }] : [];
      }),
    ]);
    after();
  };
  const bad = (error: Refusal) => say(error.message, { bad: true });
  const decide = useMutation<Schemas["DecidedOut"], Refusal, Asked[]>({
    scope: { id: `inquiry ${id}` },
    mutationFn: (body) => answer(client.POST("/api/inquiries/{inquiry_id}/decisions", { params: { path }, body })),
    onSuccess: done,
    onError: bad,
  });
  const make = useMutation<Schemas["DecidedOut"], Refusal, Schemas["NewPartIn"][]>({
    scope: { id: `inquiry ${id}` },
    mutationFn: (body) => answer(client.POST("/api/inquiries/{inquiry_id}/parts", { params: { path }, body })),
    onSuccess: (answer) => {
      done(answer, []);
      untrue("part");
    },
  });
  const back = useMutation<Schemas["DecidedOut"], Refusal, number>({
    scope: { id: `inquiry ${id}` },
    mutationFn: (batch) =>
      answer(
        client.POST("/api/inquiries/{inquiry_id}/decisions/{batch}/back", { params: { path: { ...path, batch } } }),
      ),
    onSuccess: async (answer) => {
      await after();
      const count = answer.lines.length;
      say(`Taken back: ${count} ${count === 1 ? "line" : "lines"}.`);
    },
    onError: bad,
    onSettled: () => setLast((old) => old.slice(0, -1)),
  });
  return {
    decide,
    make,
    met,
    settle: (line: number) => setMet((old) => old.filter((m) => m.line !== line)),
    /** Takes back the last step that was made here. */
    undo: () => {
      const batch = last.at(-1);
      if (batch === undefined) say("Nothing was decided here yet that could be taken back.");
      else back.mutate(batch);
    },
  };
}
