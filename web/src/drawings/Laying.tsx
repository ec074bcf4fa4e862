import { useState } from "react";
import { Button } from "../kit/Button";
import type { Drawing, Laid } from "./useDrawing";

const SCALES = [10, 5, 2, 1, 0.5, 0.2, 0.1, 0.05, 0.02, 0.01];
const scaleWords = (scale: number) => (scale >= 1 ? `${scale} : 1` : `1 : ${Math.round(1 / scale)}`);

/** What stands on the paper: its size, views and what is left out of each, lines with their balloons, classes without. */
export function Laying({
  drawing,
  may,
  chosen,
  onChoose,
  onKeep,
  onAdd,
}: {
  drawing: Drawing;
  may: boolean;
  chosen: string;
  onChoose: (key: string) => void;
  onKeep: (laid: Laid) => void;
  onAdd: (direction: string) => void;
}) {
  const { laid } = drawing;
  const [owner, setOwner] = useState(laid.owner ?? "");
  const view = laid.views.find((v) => v.key === chosen);
  const set = (change: Partial<Laid["views"][number]>) =>
    view && onKeep({ ...laid, views: laid.views.map((v) => (v.key === view.key ? { ...v, ...change } : v)) });
  const names = view ? [...new Set(drawing.views.find((v) => v.key === view.key)?.parts.map((p) => p.name) ?? [])] : [];
  const out = new Set(view?.left_out ?? []);
  const off = new Set(laid.off ?? []);
  const classes = [...new Set(drawing.lines.map((l) => l.part_class))].filter(Boolean).sort();
  const tied = new Set(laid.balloons.map((b) => b.line));
  const head = "pt-3 pb-1 font-semibold";
  const check = (label: string, checked: boolean, onTurn: () => void, mono = false) => (
    <label key={label} className="flex min-h-6 items-center gap-1.5">
      <input type="checkbox" disabled={!may} checked={checked} onChange={onTurn} />
      <span className={`truncate ${mono ? "pn" : ""}`}>{label}</span>
    </label>
  );
  return (
    <section aria-label="What stands on it" className="noprint overflow-y-auto border-r border-hair bg-paper px-3 pb-4">
      <h2 className={head}>Paper</h2>
      <div className="flex gap-2">
        <select
          className="field !min-h-[28px] !w-auto"
          aria-label="Size of the paper"
          disabled={!may}
          value={laid.size}
          onChange={(event) => onKeep({ ...laid, size: event.target.value })}
        >
          {drawing.sizes.map((size) => (
            <option key={size}>{size}</option>
          ))}
        </select>
        <input
          className="field !min-h-[28px] min-w-0 flex-1"
          aria-label="Legal owner, in the title block"
          placeholder="legal owner"
          disabled={!may}
          value={owner}
          onChange={(event) => setOwner(event.target.value)}
          onBlur={() => owner !== (laid.owner ?? "") && onKeep({ ...laid, owner })}
        />
      </div>
      <h2 className={head}>Views</h2>
      {laid.views.map((v) => (
        <button
          key={v.key}
          type="button"
          aria-pressed={v.key === chosen}
          className={`flex min-h-[26px] w-full items-baseline justify-between gap-2 px-1 text-left hover:bg-blue-tint ${v.key === chosen ? "bg-blue-tint font-semibold" : ""}`}
          onClick={() => onChoose(v.key)}
        >
          {v.direction}
          <span className="font-normal text-ink-2">{scaleWords(v.scale)}</span>
        </button>
      ))}
      {may && (
        <select
          className="field mt-1 !min-h-[28px]"
          aria-label="Add a view"
          value=""
          onChange={(event) => event.target.value && onAdd(event.target.value)}
        >
          <option value="">+ a view from …</option>
          {drawing.directions.map((d) => (
            <option key={d}>{d}</option>
          ))}
        </select>
      )}
      {view && (
        <fieldset className="mt-2 border-l-2 border-blue pl-2">
          <legend className="sr-only">The chosen view</legend>
          <label className="flex items-center gap-2 py-0.5">
            Scale
            <select
              className="field !min-h-[26px] !w-auto"
              disabled={!may}
              value={view.scale}
              onChange={(event) => set({ scale: Number(event.target.value) })}
            >
              {[...new Set([...SCALES, view.scale])]
                .sort((a, b) => b - a)
                .map((scale) => (
                  <option key={scale} value={scale}>
                    {scaleWords(scale)}
                  </option>
                ))}
            </select>
          </label>
          {check("hidden edges", !!view.hidden, () => set({ hidden: !view.hidden }))}
          <p className="pt-1 text-ink-2">Drawn in it</p>
          {names.map((name) =>
            check(
              name,
              !out.has(name),
              () => set({ left_out: out.has(name) ? [...out].filter((n) => n !== name) : [...out, name] }),
              true,
            ),
          )}
          {may && (
            <Button
              className="mt-1 !min-h-[26px]"
              onClick={() =>
                onKeep({
                  ...laid,
                  views: laid.views.filter((v) => v.key !== view.key),
                  balloons: laid.balloons.filter((b) => b.view !== view.key),
                })
              }
            >
              Take the view away
            </Button>
          )}
        </fieldset>
      )}
      {classes.length > 0 && (
        <>
          <h2 className={head}>Classes with balloons</h2>
          {classes.map((name) =>
            check(name, !off.has(name), () => {
              const next = off.has(name) ? [...off].filter((n) => n !== name) : [...off, name];
              const gone = new Set(drawing.lines.filter((l) => next.includes(l.part_class)).map((l) => l.line));
              onKeep({ ...laid, off: next, balloons: laid.balloons.filter((b) => !gone.has(b.line)) });
            }),
          )}
        </>
      )}
      <h2 className={head}>Lines</h2>
      {drawing.lines.map((line) => (
        <div
          key={line.line}
          className={`flex min-h-[26px] items-center gap-2 px-1 ${line.line === chosen ? "bg-blue-tint" : ""}`}
          title={line.description}
        >
          <span className="w-7 text-right font-semibold">{line.item ?? "–"}</span>
          <span className="pn min-w-0 flex-1 truncate">{line.number}</span>
          {tied.has(line.line) ? (
            <Button
              look="quiet"
              className="!min-h-6"
              disabled={!may}
              aria-label={`Take the balloon of ${line.number} away`}
              onClick={() => onKeep({ ...laid, balloons: laid.balloons.filter((b) => b.line !== line.line) })}
            >
              away
            </Button>
          ) : (
            <Button
              look="quiet"
              className="!min-h-6"
              disabled={!may || laid.views.length === 0}
              title={
                line.modelled
                  ? ""
                  : "no model holds it: the balloon stands on the paper, and is put beside what takes it"
              }
              aria-label={`A balloon for ${line.number}`}
              onClick={() => {
                const on = view ?? laid.views[0]!;
                const said = drawing.views.find((v) => v.key === on.key);
                const middle: [number, number] = [(said?.width ?? 0) / 2, (said?.height ?? 0) / 2];
                onKeep({
                  ...laid,
                  balloons: [
                    ...laid.balloons,
                    {
                      line: line.line,
                      view: on.key,
                      to: [Math.round(on.x + 14), Math.round(Math.max(20, on.y - 14))],
                      at: line.modelled ? null : middle,
                      by_hand: true,
                    },
                  ],
                });
                onChoose(line.line);
              }}
            >
              balloon
            </Button>
          )}
        </div>
      ))}
    </section>
  );
}
