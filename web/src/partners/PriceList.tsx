import { useMutation, useQuery } from "@tanstack/react-query";
import { Button } from "../kit/Button";
import { FileButton } from "../kit/FileButton";
import { JobProgress, useJobEnd, whileItRuns } from "../kit/JobProgress";
import { sendFile } from "../kit/sendFile";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { day } from "../lib/number";
import { useUntrue } from "../lib/untrue";
import { ListSaid } from "../pieces/offers/ListSaid";
import { PriceColumns } from "./PriceColumns";

type List = Schemas["PriceListOut"];

/** A supplier's price list: read by the worker, its columns said where their titles do not, and kept once it was looked at. */
export function PriceList({ code }: { code: string }) {
  const untrue = useUntrue();
  const last = useQuery({
    queryKey: ["buying", "price-list", code],
    queryFn: () => answer(client.GET("/api/buying/price-lists", { params: { query: { code } } })),
    refetchInterval: (query) => whileItRuns(query.state.data?.[0]?.job),
    staleTime: 0,
  });
  const list = last.data?.[0];
  useJobEnd(list?.job, () => untrue("offer"));
  const bring = useMutation<List, Refusal, File>({
    mutationFn: (file) => sendFile<List>(`/api/buying/price-lists?code=${encodeURIComponent(code)}`, file),
    onSuccess: () => untrue("offer"),
  });
  const verb = useMutation<List, Refusal, { list: List; what: "keep" | "let-go" }>({
    mutationFn: ({ list, what }) => {
      const params = { path: { list_id: list.id } };
      const body = { version: list.version };
      return answer(
        what === "keep"
          ? client.POST("/api/buying/price-lists/{list_id}/keep", { params, body })
          : client.POST("/api/buying/price-lists/{list_id}/let-go", { params, body }),
      );
    },
    onSuccess: () => untrue("offer"),
  });
  const error = bring.error ?? verb.error;
  return (
    <section aria-label="Price list" className="mt-4 border-t border-hair-2 pt-3">
      <h3 className="font-semibold">Its price list</h3>
      <p className="pb-2 text-ink-2">
        A table with a row of titles: a number of ours, of a maker or of theirs; from, price, pack and what else they
        state. Rows of one part become its price breaks.
      </p>
      <FileButton
        label="A price list as CSV, XLSX, ODS or a UBL quotation"
        needs="buying"
        disabled={bring.isPending || !!list?.job}
        onFile={(file) => bring.mutate(file)}
      >
        Bring a price list
      </FileButton>
      {error && (
        <p role="alert" className="pt-1 text-bad">
          {error.problems[0]?.message ?? error.message}
        </p>
      )}
      {list && (
        <div className="pt-3">
          <p>
            <b className="font-semibold">{list.name}</b>{" "}
            <span className="text-[12px] text-ink-3">
              {list.state === "kept" ? "kept" : "brought"} by {list.brought_by}, {day(list.brought_at)}
            </span>
          </p>
          {list.job && <JobProgress job={list.job} stale={["buying", "price-list", code]} className="mt-2" />}
          {!list.job && list.failed && (
            <p role="alert" className="pt-1 text-bad">
              {list.failed}
            </p>
          )}
          {!list.job && list.said && (
            <ListSaid
              said={list.said}
              onKeep={list.why_not.keep === null ? () => verb.mutate({ list, what: "keep" }) : undefined}
            />
          )}
          {!list.job && list.said && list.why_not.map === null && <PriceColumns key={list.version} list={list} />}
          {!list.job && list.why_not.let_go === null && (
            <Button needs="buying" className="mt-2" onClick={() => verb.mutate({ list, what: "let-go" })}>
              Keep nothing of it
            </Button>
          )}
        </div>
      )}
    </section>
  );
}
