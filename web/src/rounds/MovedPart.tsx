import { useQuery } from "@tanstack/react-query";
import { Dialog } from "radix-ui";
import { useState } from "react";
import { Link } from "react-router";
import { Bridge, moved } from "../kit/Bridge";
import { Button } from "../kit/Button";
import { StandardsChart } from "../kit/StandardsChart";
import { useFocusBack } from "../kit/useFocusBack";
import { WorkingView } from "../kit/WorkingView";
import { answer, client } from "../lib/api";
import { CAUSES } from "../lib/declared";
import { ELEMENT_WORDS, ELEMENTS, elementColour } from "../lib/elements";
import { money, quantity } from "../lib/number";
import { type Round, still } from "../pieces/useRounds";

/** One part of a round: the bridge from old to new, its elements, its stock, and both workings. */
export function MovedPart({ round, part }: { round: Round; part: number | null }) {
  const [beside, setBeside] = useState(false);
  const found = useQuery({
    queryKey: ["rounds", round.id, "row", round.tally?.at, part],
    queryFn: () =>
      answer(
        client.GET("/api/rounds/{round_id}/rows/{part_id}", {
          params: { path: { round_id: round.id, part_id: part! } },
        }),
      ),
    enabled: part !== null,
  });
  const row = found.data;
  return (
    <aside
      aria-label="The part chosen"
      className="flex min-h-0 flex-col gap-3 overflow-y-auto border-l border-hair bg-paper px-4 py-3"
    >
      {part === null && <p className="text-ink-2">Choose a part to see why it moves.</p>}
      {found.error && <p className="text-ink-2">{found.error.message}</p>}
      {row && (
        <>
          <h2>
            <span className="pn font-semibold">{row.number}</span> {row.description}
            {row.given && <span className="block text-brass">{row.given}</span>}
          </h2>
          <Bridge
            before={row.before}
            after={row.after}
            beforeWord={row.has_standard ? "standard" : "inputs now"}
            afterWord="new"
            steps={CAUSES.map((word) => ({ word, value: row.causes[word] }))}
          />
          <div className="flex gap-2">
            <Button className="!min-h-[26px] !px-2" onClick={() => setBeside(true)}>
              Working, old beside new
            </Button>
            {row.kind === "made" && (
              <Link
                className="self-center text-blue hover:underline"
                to={`/sheets/${encodeURIComponent(row.number)}?drafts=0${round.status === "open" ? `&prices=round:${round.id}` : ""}&day=${round.first_day}`}
              >
                Its sheet at these prices
              </Link>
            )}
          </div>
          <table className="w-full">
            <thead>
              <tr className="border-b border-hair-2 text-[12px] text-ink-2">
                <th className="text-left font-normal">Element</th>
                <th className="text-right font-normal">Old</th>
                <th className="text-right font-normal">New</th>
                <th className="text-right font-normal">Moves by</th>
              </tr>
            </thead>
            <tbody>
              {ELEMENTS.map((name) => {
                const [one, other] = [row.before_elements[name], row.elements[name]];
                if (!one && !other) return null;
                return (
                  <tr key={name} className="border-b border-hair">
                    <td className="py-0.5">
                      <i
                        className="mr-1.5 inline-block h-2.5 w-2.5 align-[-1px]"
                        style={{ background: elementColour(name) }}
                      />
                      {ELEMENT_WORDS[name]}
                    </td>
                    <td className="text-right">{money(one)}</td>
                    <td className="text-right">{money(other)}</td>
                    <td className={`text-right ${still(one, other) ? "text-ink-3" : "font-semibold"}`}>
                      {still(one, other) ? "–" : moved(other - one)}
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
          <p className="text-ink-2">
            On hand {quantity(row.on_hand)} {row.stock_unit}:{" "}
            <b className="text-ink">{moved(row.stock_moved) || "0"}</b>
            {" · "}on order {quantity(row.open)} {row.stock_unit}:{" "}
            <b className="text-ink">{moved(row.orders_moved) || "0"}</b>
          </p>
          <StandardsChart number={row.number} width={342} />
          {beside && <SideBySide round={round} part={row.id} number={row.number} onClose={() => setBeside(false)} />}
        </>
      )}
    </aside>
  );
}

/** The working of the old costing beside that of the new one; each opens by itself. */
function SideBySide({
  round,
  part,
  number,
  onClose,
}: {
  round: Round;
  part: number;
  number: string;
  onClose: () => void;
}) {
  const along = useState<string[]>([]);
  const focusBack = useFocusBack();
  return (
    <Dialog.Root open onOpenChange={(now) => !now && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/35" />
        <Dialog.Content
          {...focusBack}
          aria-describedby={undefined}
          className="rise fixed inset-x-[6vw] top-[7vh] bottom-[7vh] z-50 flex flex-col border border-hair-2 bg-paper p-5"
        >
          <Dialog.Title className="pb-3 text-[18px] font-semibold">
            Working of <span className="font-mono tracking-tight">{number}</span>, old beside new
          </Dialog.Title>
          <div className="grid min-h-0 flex-1 grid-cols-2 gap-8 overflow-y-auto">
            {(["old", "new"] as const).map((side) => (
              <WorkingView
                key={side}
                title={side === "old" ? "Old" : "New"}
                about={[round.id, round.tally?.at, part, side]}
                figure={`unit:${part}`}
                ask={(figure) =>
                  answer(
                    client.GET("/api/rounds/{round_id}/working", {
                      params: { path: { round_id: round.id }, query: { part_id: part, side, figure } },
                    }),
                  )
                }
                onLeave={onClose}
                along={along}
              />
            ))}
          </div>
          <div className="flex justify-end pt-3">
            <Button onClick={onClose}>Close</Button>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
