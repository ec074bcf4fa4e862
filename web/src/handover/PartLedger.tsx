import { Link } from "react-router";
import { Button } from "../kit/Button";
import type { Choice, Compared, Shown } from "../model/handover";
import { branch } from "../model/handover";
import { KnownAs } from "./KnownAs";

/** A part of the product: what of it and beneath it does not agree, decided at once; and what only they need of it. */
export function PartLedger({
  id,
  shown,
  compared,
  onBranch,
  onByHand,
  onRouting,
  onLetGo,
}: {
  id: number;
  shown: Shown;
  compared: Compared;
  onBranch: (choice: Choice) => void;
  onByHand: () => void;
  onRouting: () => void;
  onLetGo: (id: number) => void;
}) {
  const { part } = shown;
  const below = branch(compared, part.number);
  const rows = compared.rows.filter(
    (r) => below.has(r.part) && r.verdict !== "agrees" && r.verdict !== "kept by hand",
  ).length;
  const stops = compared.stops.filter((s) => s.part === part.number && !s.row);
  const lines = compared.by_hand.filter((x) => x.part === part.number);
  return (
    <div>
      <h2 className="text-[16px] font-semibold">
        <Link className="pn underline decoration-hair-2 underline-offset-4" to={`/part/${part.number}`}>
          {part.number}
        </Link>
      </h2>
      <p className="pb-2 text-ink-2">{part.description || "no description"}</p>
      {stops.map((s) => (
        <p key={s.words} className="mb-2 border-l-2 border-bad bg-bad-tint px-2 py-1.5 text-bad">
          {s.words}
        </p>
      ))}
      {part.sheets.map((sheet) => (
        <p key={sheet.alternate} className="text-ink-2">
          <Link className="text-blue underline" to={`/sheets/${part.number}`}>
            Sheet {sheet.alternate === "A" ? "" : `${sheet.alternate} `}revision {sheet.revision}
          </Link>
          , {sheet.status}, {sheet.operations.length ? `${sheet.operations.length} operations` : "no operation yet"}
        </p>
      ))}
      {part.ours && (
        <div className="mt-3">
          <KnownAs key={part.number + part.known_as} id={id} part={part} />
        </div>
      )}
      <section className="border-t border-hair pt-2">
        <h3 className="font-semibold">
          The part and all beneath it, {rows} {rows === 1 ? "row" : "rows"}
        </h3>
        <span className="mt-1 flex flex-wrap gap-1">
          {(["ours", "theirs", "leave"] as const).map((choice) => (
            <Button
              key={choice}
              needs="handover"
              className="!min-h-[26px] !px-2 text-[13px]"
              disabled={rows === 0}
              onClick={() => onBranch(choice)}
            >
              {{ ours: "All ours", theirs: "All theirs", leave: "Leave all" }[choice]}
              <kbd className="text-[11px] text-ink-3">Shift {choice[0]!.toUpperCase()}</kbd>
            </Button>
          ))}
        </span>
      </section>
      {part.sheets.length > 0 && (
        <section className="mt-3 flex flex-col items-start gap-2 border-t border-hair pt-2">
          <Button needs="handover" onClick={onByHand}>
            A line that only they need … <kbd className="text-[11px] text-ink-3">H</kbd>
          </Button>
          <Button needs="sheets" onClick={onRouting}>
            Operations of the library, issue points …
          </Button>
        </section>
      )}
      {lines.length > 0 && (
        <section className="mt-3 border-t border-hair pt-2">
          <h3 className="font-semibold">Kept by hand over there</h3>
          {lines.map((x) => (
            <p key={x.id} className="flex items-baseline gap-2">
              <span className="min-w-0 flex-1">
                <span className="pn">{x.item}</span> {x.quantity} {x.unit}
                {x.issue_at !== null && ` at ${x.issue_at}`}
                <span className="block text-[12px] text-ink-3">
                  {x.reason}, {x.by}
                  {!x.written && "; written with this handover"}
                  {x.gone && "; it was taken away over there since"}
                </span>
              </span>
              <Button look="quiet" needs="handover" className="!min-h-0" onClick={() => onLetGo(x.id)}>
                {x.written ? "Keep it no longer" : "Do not add it"}
              </Button>
            </p>
          ))}
        </section>
      )}
    </div>
  );
}
