import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { Button } from "../kit/Button";
import { useSay } from "../kit/Says";
import { answer, client, type Refusal, type Schemas, type SheetHead } from "../lib/api";
import { money, quantity } from "../lib/number";
import { useUntrue } from "../lib/untrue";
import { Pattern } from "./Pattern";
import { Sizes } from "./Sizes";

type Of = Schemas["CutMaterial"];

/** One material of a plan: what is taken and proven, how each bar or board is cut, and the pieces. */
export function Material({
  plan,
  material: m,
  kept,
  onSizes,
}: {
  plan: number;
  material: Of;
  kept: boolean;
  onSizes: () => void;
}) {
  const say = useSay();
  const untrue = useUntrue();
  const state = useMutation<SheetHead[], Refusal, void>({
    mutationFn: () =>
      answer(
        client.POST("/api/cutting/{plan_id}/loss", { params: { path: { plan_id: plan } }, body: { part: m.part } }),
      ),
    onSuccess: (drafts) => {
      untrue("everything");
      say(
        `${m.loss_percent} % scrap stands in the drafts of ${drafts.map((d) => `${d.part} ${d.revision}`).join(", ")}`,
      );
    },
    onError: (error) => say(error.message, { bad: true }),
  });
  const stated = m.pieces.every((p) => Number(p.scrap_percent) === Number(m.loss_percent));
  const [marked, setMarked] = useState("");
  const thing = m.boards ? "board" : "bar";
  return (
    <div className="overflow-y-auto px-4 pt-3 pb-6">
      {m.stops ? (
        <p role="alert" className="text-bad">
          {m.stops}.
        </p>
      ) : (
        <p className="flex flex-wrap items-baseline gap-x-5 gap-y-1">
          <span>
            <b className="text-[15px]">{m.count}</b> {thing}
            {m.count === 1 ? "" : "s"}
          </span>
          <span title="no way of cutting takes less">
            {m.proven
              ? "proven the least"
              : m.bound_of === "cost"
                ? `no way of cutting costs less than ${money(Number(m.bound))}`
                : `no way of cutting takes fewer than ${m.bound}`}
          </span>
          <span>
            waste <b>{quantity(m.waste_percent, 1)} %</b>
          </span>
          {m.taken !== null && (
            <span title="whole ones, less what is left of them and worth keeping">
              takes <b>{quantity(m.taken, 3)}</b> {m.unit}
            </span>
          )}
          {m.cost !== null && (
            <span>
              costs <b>{money(Number(m.cost))}</b>
            </span>
          )}
          {m.loss_percent !== null && (
            <span title="what is taken beyond the finished pieces: what the line may state as its scrap">
              loss <b>{m.loss_percent} %</b>
              {!stated && (
                <Button
                  look="quiet"
                  needs="sheets"
                  className="ml-1 !min-h-6"
                  disabled={state.isPending}
                  onClick={() => state.mutate()}
                >
                  state it on its lines, in drafts
                </Button>
              )}
            </span>
          )}
        </p>
      )}
      <h2 className="pt-4 pb-1 font-semibold">Pieces</h2>
      <Pieces of={m} marked={marked} onMark={setMarked} />
      {m.used.length > 0 && <h2 className="pt-4 pb-1 font-semibold">How it is cut</h2>}
      {m.used.map((used, at) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a pattern is its place
        <figure key={at} className="mb-3">
          <figcaption className="pb-0.5">
            <b className="text-[15px]">{used.count}</b> × {used.stock} mm
            {used.leftover !== null && <span className="text-brass"> a leftover</span>}
          </figcaption>
          <Pattern used={used} marked={marked} words={`${m.part}, pattern ${at + 1}`} />
        </figure>
      ))}
      {m.left.length > 0 && (
        <p className="pb-2 text-ink-2">
          Left and kept:{" "}
          {m.left.map((x) => `${x.count} × ${x.length}${x.width === null ? "" : ` × ${x.width}`} mm`).join(", ")}
        </p>
      )}
      {!kept && (
        <div className="mt-3 border-t border-ink pt-2">
          <Sizes part={m.part} boards={m.boards} onChanged={onSizes} />
        </div>
      )}
    </div>
  );
}

function Pieces({ of: m, marked, onMark }: { of: Of; marked: string; onMark: (name: string) => void }) {
  const side = (p: Of["pieces"][number]) => (p.width === null ? p.length : `${p.length} × ${p.width}`);
  const edged = m.pieces.some((p) => p.edges.some((e) => e !== "0"));
  return (
    <table className="w-full bg-paper">
      <thead>
        <tr className="border-b border-ink text-left text-[12px] text-ink-2">
          <th className="px-2 py-1 font-normal">Piece</th>
          <th className="px-2 text-right font-normal">Count</th>
          <th className="px-2 text-right font-normal">Finished, mm</th>
          {m.boards && <th className="px-2 font-normal">Grain</th>}
          {edged && <th className="px-2 font-normal">Edging front, back, left, right</th>}
          <th className="px-2 text-right font-normal">As cut, mm</th>
          <th className="px-2 text-right font-normal" title="for one, in the unit of the material, losses left out">
            Line takes
          </th>
          <th className="px-2 text-right font-normal" title="what the finished pieces come to">
            Pieces are
          </th>
          <th className="px-2 text-right font-normal">Scrap stated</th>
        </tr>
      </thead>
      <tbody>
        {m.pieces.map((p) => {
          const off = p.finished !== null && Math.abs(Number(p.finished) - Number(p.stated)) > 1e-6 * Number(p.stated);
          return (
            <tr
              key={p.line}
              className={`border-b border-hair ${marked === p.name ? "bg-blue-tint" : ""}`}
              onMouseEnter={() => onMark(p.name)}
              onMouseLeave={() => onMark("")}
            >
              <td className="px-2 py-1">
                <Link
                  className="pn hover:text-blue hover:underline"
                  to={`/sheets/${encodeURIComponent(p.parent)}?sheet=${p.sheet}&at=${encodeURIComponent(`/${p.line}~scrap`)}`}
                  onFocus={() => onMark(p.name)}
                  onBlur={() => onMark("")}
                >
                  {p.name}
                </Link>
              </td>
              <td className="px-2 text-right font-semibold">{p.count}</td>
              <td className="px-2 text-right">{side(p)}</td>
              {m.boards && <td className="px-2 text-ink-2">{p.grain === "none" ? "" : `along the ${p.grain}`}</td>}
              {edged && <td className="px-2">{p.edges.some((e) => e !== "0") && p.edges.join(" / ")}</td>}
              <td className="px-2 text-right">
                {p.cut_width === null ? p.cut_length : `${p.cut_length} × ${p.cut_width}`}
              </td>
              <td className={`px-2 text-right ${off ? "font-semibold text-bad" : ""}`}>
                {quantity(p.stated, 4)} {m.unit}
              </td>
              <td className="px-2 text-right">{p.finished === null ? "" : `${quantity(p.finished, 4)} ${m.unit}`}</td>
              <td className="px-2 text-right">{p.scrap_percent === null ? "–" : `${p.scrap_percent} %`}</td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
