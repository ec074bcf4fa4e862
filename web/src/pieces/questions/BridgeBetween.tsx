import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Bridge, moved } from "../../kit/Bridge";
import { DayField } from "../../kit/DayField";
import { answer, client, type Refusal, type Schemas, type SheetHead } from "../../lib/api";
import type { Basis } from "../../lib/basis";
import { CAUSES } from "../../lib/declared";
import { ELEMENT_WORDS, ELEMENTS } from "../../lib/elements";
import { typed } from "../../lib/number";
import { modelOf } from "../../model/product";
import { laidOut, type SheetView, stateOf } from "../../model/wire";
import { PriceOptions } from "../PriceOptions";
import { useRounds } from "../useRounds";
import { Rings } from "../working/Rings";

/** Why these figures are not those of another basis: cause by cause, and by element. */
export function BridgeBetween({ view, basis, revisions }: { view: SheetView; basis: Basis; revisions: SheetHead[] }) {
  const sheet = view.sheet.id;
  const state = stateOf(view);
  const [rings, setRings] = useState(false);
  // Beside what is tried stands the same without it; beside inputs stand the standards.
  const plain = { ...basis, what_if: "" };
  const start = basis.what_if ? basis.prices : basis.prices || !view.standard ? "" : "standards";
  const [other, setOther] = useState<Partial<Basis>>({});
  const [otherSheet, setOtherSheet] = useState(sheet);
  const rounds = useRounds().filter((r) => r.status === "open");
  const against: Basis = { ...plain, prices: start, ...other };
  const found = useQuery<Schemas["BridgeOut"], Refusal>({
    queryKey: ["questions", "bridge", sheet, state, basis, against, otherSheet],
    queryFn: () =>
      answer(
        client.POST("/api/questions/bridge", {
          body: { sheet: otherSheet, basis: against, other: basis, other_sheet: sheet },
        }),
      ),
    placeholderData: (old) => old,
    staleTime: 0,
  });
  const that = useQuery<SheetView, Refusal>({
    queryKey: ["sheet-view", otherSheet, against],
    queryFn: async () =>
      laidOut(
        await answer(
          client.GET("/api/sheets/{sheet_id}/view", { params: { path: { sheet_id: otherSheet }, query: against } }),
        ),
      ),
    enabled: rings,
    staleTime: 0,
  });
  const data = found.error ? undefined : found.data;
  return (
    <section aria-label="Against another basis">
      <h3 className="text-[12px] font-semibold text-blue">Why it is not what it would be for</h3>
      <div className="flex flex-wrap items-center gap-1.5 py-1.5">
        <input
          key={against.quantity}
          className="field !min-h-[26px] !w-[74px] text-right"
          aria-label="Quantity to compare with"
          inputMode="decimal"
          placeholder="standard"
          defaultValue={against.quantity}
          onBlur={(e) => setOther({ ...other, quantity: typed(e.target.value) })}
          onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
        />
        <DayField
          aria-label="Day to compare with"
          className="field !min-h-[26px] !w-[104px]"
          placeholder="today"
          value={against.day}
          onKeep={(day) => setOther({ ...other, day })}
        />
        <select
          aria-label="Prices to compare with"
          className="field !min-h-[26px] !w-auto max-w-[170px] !py-0"
          value={against.prices}
          onChange={(e) => setOther({ ...other, prices: e.target.value })}
        >
          <PriceOptions rounds={rounds} />
        </select>
        {revisions.length > 1 && (
          <select
            aria-label="Sheet to compare with"
            className="field !min-h-[26px] !w-auto max-w-[150px] !py-0"
            value={otherSheet}
            onChange={(e) => setOtherSheet(Number(e.target.value))}
          >
            {revisions.map((r) => (
              <option key={r.id} value={r.id}>
                {r.id === sheet ? "this sheet" : `${r.alternate} ${r.revision}, ${r.status}`}
              </option>
            ))}
          </select>
        )}
      </div>
      {found.error && (
        <p role="alert" className="text-bad">
          {found.error.message}
        </p>
      )}
      {data && (
        <div
          aria-busy={found.isPlaceholderData}
          className={`grid grid-cols-[1fr_170px] gap-5 ${found.isPlaceholderData ? "opacity-60" : ""}`}
        >
          <Bridge
            before={data.before}
            after={data.after}
            beforeWord="for that"
            afterWord="now shown"
            width={390}
            steps={CAUSES.map((word) => ({ word, value: data.caused[word] }))}
          />
          <table className="h-max text-[12px]">
            <tbody>
              {ELEMENTS.map((name) => {
                const change = data.after_elements[name] - data.before_elements[name];
                if (Math.abs(change) < 5e-7) return null;
                return (
                  <tr key={name} className="border-b border-hair">
                    <td className="py-0.5">{ELEMENT_WORDS[name]}</td>
                    <td className="text-right font-semibold">{moved(change)}</td>
                  </tr>
                );
              })}
            </tbody>
          </table>
        </div>
      )}
      {!found.error && (
        <>
          <button
            type="button"
            aria-expanded={rings}
            className="min-h-[24px] text-blue hover:underline"
            onClick={() => setRings(!rings)}
          >
            {rings ? "Without the rings" : "The rings of both"}
          </button>
          {rings && that.data && (
            <div className="grid grid-cols-2 gap-8 pt-2">
              <div>
                <b>for that</b>
                <Rings model={modelOf(that.data)} label="Where the money is, for that" />
              </div>
              <div>
                <b>now shown</b>
                <Rings model={modelOf(view)} label="Where the money is, now shown" />
              </div>
            </div>
          )}
        </>
      )}
    </section>
  );
}
