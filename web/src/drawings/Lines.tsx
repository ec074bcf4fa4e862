import { Button } from "../kit/Button";
import { beneath, linesOf, withoutLines } from "./laid";
import type { Drawing, Laid } from "./useDrawing";

/** The lines of the sheet, each with its balloon: given by hand, put beneath the chosen one, or taken away. */
export function Lines({
  drawing,
  may,
  chosen,
  view,
  onChoose,
  onKeep,
}: {
  drawing: Drawing;
  may: boolean;
  chosen: string;
  /** Beside which view a balloon is given by hand. */
  view: Laid["views"][number] | undefined;
  onChoose: (line: string) => void;
  onKeep: (laid: Laid) => void;
}) {
  const { laid } = drawing;
  const tied = new Set(laid.balloons.flatMap(linesOf));
  const give = (line: Drawing["lines"][number]) => {
    const said = drawing.views.find((v) => v.key === view!.key);
    const middle: [number, number] = [(said?.width ?? 0) / 2, (said?.height ?? 0) / 2];
    const to = [Math.round(view!.x + 14), Math.round(Math.max(20, view!.y - 14))];
    const given = {
      line: line.line,
      view: view!.key,
      to,
      at: line.modelled && view!.picture == null ? null : middle,
      by_hand: true,
      more: [],
    };
    onKeep({ ...laid, balloons: [...laid.balloons, given] });
    onChoose(line.line);
  };
  return drawing.lines.map((line) => (
    <div
      key={line.line}
      className={`flex min-h-[26px] items-center gap-2 px-1 ${line.line === chosen ? "bg-blue-tint" : ""}`}
      title={line.description}
    >
      <span className="w-7 shrink-0 text-right font-semibold">{line.item ?? "–"}</span>
      <span className="pn min-w-0 flex-1 truncate">{line.number}</span>
      {tied.has(line.line) ? (
        <Button
          look="quiet"
          className="!min-h-6 shrink-0 !px-1"
          disabled={!may}
          aria-label={`Take the balloon of ${line.number} away`}
          onClick={() => onKeep({ ...laid, balloons: withoutLines(laid.balloons, (gone) => gone === line.line) })}
        >
          away
        </Button>
      ) : (
        <>
          {tied.has(chosen) && (
            <Button
              look="quiet"
              className="!min-h-6 shrink-0 !px-1"
              disabled={!may}
              title="Its balloon stands beneath the chosen one, on the same leader"
              aria-label={`The balloon of ${line.number} beneath the chosen one`}
              onClick={() => onKeep({ ...laid, balloons: beneath(laid.balloons, chosen, line.line) })}
            >
              beneath
            </Button>
          )}
          <Button
            look="quiet"
            className="!min-h-6 shrink-0 !px-1"
            disabled={!may || !view}
            title={
              line.modelled ? "" : "no model holds it: the balloon stands on the paper, and is put beside what takes it"
            }
            aria-label={`A balloon for ${line.number}`}
            onClick={() => give(line)}
          >
            balloon
          </Button>
        </>
      )}
    </div>
  ));
}
