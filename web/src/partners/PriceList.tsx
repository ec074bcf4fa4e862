import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { FileButton } from "../kit/FileButton";
import { sendFile } from "../kit/sendFile";
import type { Refusal, Schemas } from "../lib/api";
import { useUntrue } from "../lib/untrue";
import { ListSaid } from "../pieces/offers/ListSaid";

type Said = Schemas["OfferListOut"];

/** A supplier's price list: taken whole where every row is right, and otherwise without the wrong ones once they were looked at. */
export function PriceList({ code }: { code: string }) {
  const [file, setFile] = useState<File | null>(null);
  const untrue = useUntrue();
  const bring = useMutation<Said, Refusal, { list: File; anyway: boolean }>({
    mutationFn: ({ list, anyway }) =>
      sendFile<Said>(`/api/buying/offers/file?code=${encodeURIComponent(code)}&anyway=${anyway}`, list),
    onSuccess: (said) => said.kept > 0 && untrue("offer"),
  });
  return (
    <section aria-label="Price list" className="mt-4 border-t border-hair-2 pt-3">
      <h3 className="font-semibold">Its price list</h3>
      <p className="pb-2 text-ink-2">
        A table whose first row names its columns: part, MPN or article; from, price, per, pack, MOQ, stock, lead time,
        valid to. Rows of one part become its price breaks.
      </p>
      <FileButton
        label="A price list as CSV, XLSX, ODS or a UBL quotation"
        needs="buying"
        disabled={bring.isPending}
        onFile={(list) => {
          setFile(list);
          bring.mutate({ list, anyway: false });
        }}
      >
        Bring a price list
      </FileButton>
      {bring.error && (
        <p role="alert" className="pt-1 text-bad">
          {bring.error.problems[0]?.message ?? bring.error.message}
        </p>
      )}
      {bring.data && <ListSaid said={bring.data} onAnyway={() => file && bring.mutate({ list: file, anyway: true })} />}
    </section>
  );
}
