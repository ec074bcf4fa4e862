import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Bridge, moved } from "../kit/Bridge";
import { DayField } from "../kit/DayField";
import { answer, client, type Refusal, type Schemas, type SheetHead } from "../lib/api";
import type { Basis } from "../lib/basis";
import { ELEMENT_WORDS, ELEMENTS } from "../lib/elements";
import { typed } from "../lib/number";
import { CAUSE_WORDS, useRounds } from "../rounds/useRounds";

/** Why these figures are not those of another basis: cause by cause, and by element. */
export function BridgeBetween({
  sheet,
  version,
  basis,
  standard,
  revisions,
}: {
  sheet: number;
  version: number;
  basis: Basis;
  /** Whether the part has a standard on the day. */
  standard: boolean;
  revisions: SheetHead[];
}) {
  // Beside what is tried stands the same without it; beside inputs stand the standards.
  const plain = { ...basis, what_if: "" };
  const start = basis.what_if ? basis.prices : basis.prices || !standard ? "" : "standards";
  const [other, setOther] = useState<Partial<Basis>>({});
  const [otherSheet, setOtherSheet] = useState(sheet);
  const rounds = useRounds().filter((r) => r.status === "open");
  const against: Basis = { ...plain, prices: start, ...other };
  const found = useQuery<Schemas["BridgeOut"], Refusal>({
    queryKey: ["questions", "bridge", sheet, version, basis, against, otherSheet],
    queryFn: () =>
      answer(
        client.POST("/api/questions/bridge", {
          body: { sheet: otherSheet, basis: against, other: basis, other_sheet: sheet },
        }),
      ),
    placeholderData: (old) => old,
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
          <option value="">inputs as they stand</option>
          <option value="standards">standards, all levels</option>
          <option value="level">standards, one level</option>
          {rounds.map((round) => (
            <option key={round.id} value={`round:${round.id}`}>
              round {round.name}
            </option>
          ))}
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
        <div className={`grid grid-cols-[1fr_170px] gap-5 ${found.isPlaceholderData ? "opacity-60" : ""}`}>
          <Bridge
            before={data.before}
            after={data.after}
            beforeWord="for that"
            afterWord="now shown"
            width={390}
            steps={data.caused.map((value, i) => ({ word: Object.values(CAUSE_WORDS)[i]!, value }))}
          />
          <table className="h-max text-[12px]">
            <tbody>
              {ELEMENTS.map((name, i) => {
                const change = (data.after_elements[i] ?? 0) - (data.before_elements[i] ?? 0);
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
    </section>
  );
}
