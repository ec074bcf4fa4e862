import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef } from "react";
import { whileItRuns } from "../kit/JobProgress";
import { useSay } from "../kit/Says";
import { sendFile } from "../kit/sendFile";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { useUntrue } from "../lib/untrue";

export type Drawing = Schemas["DrawingOut"];
export type Laid = Schemas["LaidDrawing"];
/** A picture, or a page of a PDF, to be brought in. */
export type Picture = { file: File; page: number };
/** From where, how deep it is cut if it is; or of which view a detail. */
export type MoreView = { direction: string; depth?: number } | { of: string };

/** The drawing of a part: read, begun, laid anew; what is laid shows at once and is taken back where it is refused. */
export function useDrawing(number: string) {
  const queries = useQueryClient();
  const untrue = useUntrue();
  const say = useSay();
  const key = ["drawings", number] as const;
  const at = { params: { query: { number } } };
  const found = useQuery<Drawing, Refusal>({
    queryKey: key,
    queryFn: () => answer(client.GET("/api/drawings/one", at)),
    retry: false,
    staleTime: 0,
    // What is being laid is not overwritten by what was read before it.
    refetchInterval: (query) => (queries.isMutating({ mutationKey: key }) ? false : whileItRuns(query.state.data?.job)),
  });
  const held = (now: Drawing) => queries.setQueryData(key, now);
  const failed = (error: Refusal) => {
    say(error.message, { bad: true });
    void queries.invalidateQueries({ queryKey: key });
  };
  const version = () => queries.getQueryData<Drawing>(key)!.version;
  const past = useRef<Laid[]>([]);
  const back = useRef<Laid | null>(null);
  const begin = useMutation<Drawing, Refusal, void>({
    mutationFn: () => answer(client.POST("/api/drawings/one", at)),
    onSuccess: held,
    onError: failed,
  });
  const keep = useMutation<Drawing, Refusal, Laid>({
    mutationKey: key,
    // One after another, each from the version that the one before it left.
    scope: { id: `drawing ${number}` },
    mutationFn: (laid) => answer(client.PUT("/api/drawings/one", { ...at, body: { version: version(), laid } })),
    onMutate: (laid) => {
      const now = queries.getQueryData<Drawing>(key);
      if (!now) return;
      // What is taken back is no step of its own.
      if (laid !== back.current) past.current = [...past.current.slice(-49), now.laid];
      held({ ...now, laid });
    },
    onSuccess: (now) => {
      // What was laid since waits for its turn, and stays on screen.
      const more = queries.isMutating({ mutationKey: key }) > 1;
      const laid = more ? queries.getQueryData<Drawing>(key)!.laid : now.laid;
      held({ ...now, laid });
    },
    onError: failed,
  });
  // What the server lays stands behind what is being kept, and is a step that can be taken back.
  const laidByServer = {
    scope: { id: `drawing ${number}` },
    onMutate: () => {
      const now = queries.getQueryData<Drawing>(key);
      if (now) past.current = [...past.current.slice(-49), now.laid];
    },
    onSuccess: held,
    onError: failed,
  };
  const balloons = useMutation<Drawing, Refusal, void>({
    ...laidByServer,
    mutationFn: () => answer(client.POST("/api/drawings/one/balloons", { ...at, body: { version: version() } })),
  });
  const view = useMutation<Drawing, Refusal, MoreView>({
    ...laidByServer,
    mutationFn: (asked) => {
      const body = { direction: "", of: "", ...asked, version: version() };
      return answer(client.POST("/api/drawings/one/views", { ...at, body }));
    },
  });
  const picture = useMutation<Drawing, Refusal, Picture>({
    ...laidByServer,
    mutationFn: ({ file, page }) => {
      const query = new URLSearchParams({ number, version: String(version()), page: String(page) });
      return sendFile(`/api/drawings/one/pictures?${query}`, file);
    },
  });
  const undo = () => {
    back.current = past.current.at(-1) ?? null;
    past.current = past.current.slice(0, -1);
    if (back.current) keep.mutate(back.current);
    else say("There is no step to take back.");
  };
  const numbered = (now: Drawing) => {
    held(now);
    untrue("sheet");
    untrue("edit");
  };
  const busy = keep.isPending || balloons.isPending || view.isPending || picture.isPending;
  return { found, begin, keep, balloons, view, picture, undo, numbered, failed, busy };
}
