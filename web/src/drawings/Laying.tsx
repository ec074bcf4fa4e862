import { useState } from "react";
import { Button } from "../kit/Button";
import { AddView } from "./AddView";
import { Lines } from "./Lines";
import { scaleWords, viewName, withoutLines, withoutView } from "./laid";
import type { Drawing, Laid, MoreView, Picture } from "./useDrawing";

const SCALES = [10, 5, 2, 1, 0.5, 0.2, 0.1, 0.05, 0.02, 0.01];

/** What stands on the paper: its size, views and what is left out of each, lines with their balloons, classes without. */
export function Laying({
  drawing,
  may,
  chosen,
  onChoose,
  onKeep,
  onAdd,
  onPicture,
}: {
  drawing: Drawing;
  may: boolean;
  chosen: string;
  onChoose: (key: string) => void;
  onKeep: (laid: Laid) => void;
  onAdd: (view: MoreView) => void;
  onPicture: (picture: Picture) => void;
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
          <span className="min-w-0 truncate">{viewName(v, drawing)}</span>
          <span className="shrink-0 font-normal text-ink-2">{scaleWords(v.scale)}</span>
        </button>
      ))}
      {may && <AddView drawing={drawing} onAdd={onAdd} onPicture={onPicture} />}
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
          {view.picture == null && check("hidden edges", !!view.hidden, () => set({ hidden: !view.hidden }))}
          {view.box && <DetailBox key={view.key} box={view.box} may={may} onSet={(box) => set({ box })} />}
          {view.depth != null && !view.of && <p className="text-ink-2">cut {view.depth} mm deep</p>}
          {may && !view.of && view.picture == null && (
            <Button className="my-1 !min-h-[26px]" onClick={() => onAdd({ of: view.key })}>
              A detail of it
            </Button>
          )}
          {names.length > 0 && <p className="pt-1 text-ink-2">Drawn in it</p>}
          {names.map((name) =>
            check(
              name,
              !out.has(name),
              () => set({ left_out: out.has(name) ? [...out].filter((n) => n !== name) : [...out, name] }),
              true,
            ),
          )}
          {may && (
            <Button className="mt-1 !min-h-[26px]" onClick={() => onKeep(withoutView(laid, view.key))}>
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
              onKeep({ ...laid, off: next, balloons: withoutLines(laid.balloons, (line) => gone.has(line)) });
            }),
          )}
        </>
      )}
      <h2 className={head}>Balloons</h2>
      {check("how many beside them", !!laid.quantities, () => onKeep({ ...laid, quantities: !laid.quantities }))}
      {check("revisions and their marks", !!laid.revisions, () => onKeep({ ...laid, revisions: !laid.revisions }))}
      <Lines
        drawing={drawing}
        may={may}
        chosen={chosen}
        view={view ?? laid.views[0]}
        onChoose={onChoose}
        onKeep={onKeep}
      />
    </section>
  );
}

/** What of a view a detail shows, in millimetres of the model. */
function DetailBox({ box, may, onSet }: { box: number[]; may: boolean; onSet: (box: number[]) => void }) {
  const [typed, setTyped] = useState<Record<number, string>>({});
  return (
    <div className="flex flex-wrap gap-x-2">
      {["left", "top", "width", "height"].map((name, at) => (
        <label key={name} className="flex items-center gap-1 py-0.5 text-ink-2">
          {name}
          <input
            className="field !min-h-[26px] !w-[56px] text-right"
            inputMode="decimal"
            disabled={!may}
            value={typed[at] ?? box[at]}
            onChange={(event) => setTyped({ ...typed, [at]: event.target.value })}
            onBlur={() => {
              const next = Number((typed[at] ?? "").replace(",", "."));
              setTyped({});
              if (typed[at] !== undefined && Number.isFinite(next) && next !== box[at])
                onSet(box.map((n, i) => (i === at ? next : n)));
            }}
            onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
          />
        </label>
      ))}
    </div>
  );
}
