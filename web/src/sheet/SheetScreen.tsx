import { useMutation, useQuery } from "@tanstack/react-query";
import { useCallback } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router";
import { Button } from "../kit/Button";
import { Empty } from "../kit/Empty";
import { useSay } from "../kit/Says";
import { addressNow } from "../lib/address";
import { answer, client, type Refusal, type SheetHead } from "../lib/api";
import { useUntrue } from "../lib/untrue";
import { OneSheet } from "./OneSheet";

/** The sheet of a part: the one in the address, or the one that counts on the day of the basis. */
export function SheetScreen() {
  const { number = "" } = useParams();
  const [params, setParams] = useSearchParams();
  const day = params.get("day") ?? "";
  const drafts = params.get("drafts") === "1";
  const say = useSay();
  const untrue = useUntrue();
  const navigate = useNavigate();
  const sheets = useQuery({
    queryKey: ["sheets", "of", number, day, drafts],
    queryFn: () => answer(client.GET("/api/sheets", { params: { query: { part: number, day, drafts } } })),
    staleTime: 0,
    placeholderData: (old) => (old?.[0]?.part === number ? old : undefined),
  });
  const show = useCallback(
    (id: number | null) =>
      setParams(
        () => {
          const next = addressNow();
          if (id === null) next.delete("sheet");
          else next.set("sheet", String(id));
          next.delete("at");
          next.delete("drafts");
          return next;
        },
        // Going back leads to where one came from, not to another revision.
        { replace: true },
      ),
    [setParams],
  );
  const open = useMutation<SheetHead, Refusal, string>({
    mutationFn: (alternate) =>
      answer(client.POST("/api/sheets", { body: { part: number, alternate, reference: "", reason: "" } })),
    onSuccess: async (sheet) => {
      await untrue("sheet");
      show(sheet.id);
    },
    onError: (error) => say(error.message, { bad: true }),
  });
  if (sheets.error && !sheets.data)
    return (
      <Empty title={number} action={<Button onClick={() => navigate("/parts")}>To the parts</Button>}>
        <p role="alert">{sheets.error.message}</p>
      </Empty>
    );
  if (!sheets.data) return null;
  if (sheets.data.length === 0)
    return (
      <Empty
        title={`${number} has no build sheet yet`}
        action={
          <Button needs="sheets" look="strong" autoFocus onClick={() => open.mutate("A")} disabled={open.isPending}>
            Start its sheet
          </Button>
        }
      >
        A build sheet lists what one {number} takes and the operations that make it. It starts as a draft.
      </Empty>
    );
  const wanted = Number(params.get("sheet"));
  const counts = sheets.data.find((s) => s.counts);
  const sheet =
    sheets.data.find((s) => s.id === wanted) ??
    counts ??
    sheets.data.find((s) => s.status === "released") ??
    sheets.data[0]!;
  return <OneSheet key={sheet.id} head={sheet} counts={counts ?? null} revisions={sheets.data} onShow={show} />;
}
