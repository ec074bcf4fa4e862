import { useMutation } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Button } from "../kit/Button";
import { sendFile } from "../kit/sendFile";
import type { Refusal, Schemas } from "../lib/api";
import { useUntrue } from "../lib/untrue";

type Said = Schemas["OfferListOut"];

/** A supplier's price list: taken whole where every row is right, and otherwise without the wrong ones once they were looked at. */
export function PriceList({ code }: { code: string }) {
  const input = useRef<HTMLInputElement>(null);
  const [file, setFile] = useState<File | null>(null);
  const untrue = useUntrue();
  const bring = useMutation<Said, Refusal, { list: File; anyway: boolean }>({
    mutationFn: ({ list, anyway }) =>
      sendFile<Said>(`/api/buying/offers/file?code=${encodeURIComponent(code)}&anyway=${anyway}`, list),
    onSuccess: (said) => said.kept > 0 && untrue("offer"),
  });
  const said = bring.data;
  return (
    <section aria-label="Price list" className="mt-4 border-t border-hair-2 pt-3">
      <h3 className="font-semibold">Its price list</h3>
      <p className="pb-2 text-ink-2">
        A table whose first row names its columns: part, MPN or article; from, price, per, pack, MOQ, stock, lead time,
        valid to. Rows of one part become its price breaks.
      </p>
      <input
        ref={input}
        type="file"
        className="hidden"
        aria-label="A price list as CSV, XLSX or ODS"
        accept=".csv,.xlsx,.ods,.txt"
        onChange={(event) => {
          const chosen = event.target.files?.[0];
          event.target.value = "";
          if (!chosen) return;
          setFile(chosen);
          bring.mutate({ list: chosen, anyway: false });
        }}
      />
      <Button needs="buying" disabled={bring.isPending} onClick={() => input.current?.click()}>
        Bring a price list
      </Button>
      {bring.error && (
        <p role="alert" className="pt-1 text-bad">
          {bring.error.problems[0]?.message ?? bring.error.message}
        </p>
      )}
      {said && (
        <div role="status" className="pt-2">
          {said.kept > 0 ? `Kept ${said.kept} of its offers.` : `Nothing was kept yet: ${said.good} offers are right.`}
          {said.wrong > 0 && (
            <ul className="text-bad">
              {said.problems.slice(0, 12).map((words) => (
                <li key={words}>{words}</li>
              ))}
              {said.wrong > 12 && <li>and {said.wrong - 12} more</li>}
            </ul>
          )}
          {said.look.slice(0, 6).map((words) => (
            <p key={words} className="text-brass">
              look at {words}
            </p>
          ))}
          {said.kept === 0 && said.good > 0 && file && (
            <Button needs="buying" className="mt-1.5" onClick={() => bring.mutate({ list: file, anyway: true })}>
              Keep the {said.good} that are right
            </Button>
          )}
        </div>
      )}
    </section>
  );
}
