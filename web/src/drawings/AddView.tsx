import { useState } from "react";
import { Button } from "../kit/Button";
import { FileButton } from "../kit/FileButton";
import type { Drawing, MoreView, Picture } from "./useDrawing";

/** One more view from a side; a section, for which side and depth are asked; or a picture, or the page of a PDF that is asked for. */
export function AddView({
  drawing,
  onAdd,
  onPicture,
}: {
  drawing: Drawing;
  onAdd: (view: MoreView) => void;
  onPicture: (picture: Picture) => void;
}) {
  const [page, setPage] = useState("1");
  const [side, setSide] = useState("");
  const [depth, setDepth] = useState("");
  const modelled = drawing.depths.front !== undefined;
  const deep = drawing.depths[side] ?? 0;
  const begin = (side: string) => {
    setSide(side);
    setDepth(String(Math.round((drawing.depths[side] ?? 0) * 5) / 10));
  };
  const at = Number(depth.replace(",", "."));
  const holds = at > 0 && at < deep;
  return (
    <>
      {modelled && (
        <select
          className="field mt-1 !min-h-[28px]"
          aria-label="Add a view"
          value=""
          onChange={(event) => {
            const value = event.target.value;
            if (value === "section") begin("front");
            else if (value) onAdd({ direction: value });
          }}
        >
          <option value="">+ a view from …</option>
          {drawing.directions.map((d) => (
            <option key={d}>{d}</option>
          ))}
          <option value="section">a section …</option>
        </select>
      )}
      <span className="flex items-center gap-2 pt-1">
        <FileButton
          label="A picture or a PDF"
          accept=".png,.jpg,.jpeg,.webp,.gif,.pdf"
          className="!min-h-[28px] !px-2"
          onFile={(file) => onPicture({ file, page: Math.max(1, Math.trunc(Number(page)) || 1) })}
        >
          + a picture or PDF …
        </FileButton>
        <label className="flex items-center gap-1 text-ink-2">
          page
          <input
            className="field !min-h-[26px] !w-[32px] !px-1 text-right"
            inputMode="numeric"
            value={page}
            onChange={(event) => setPage(event.target.value)}
            onFocus={(event) => event.target.select()}
          />
        </label>
      </span>
      {side && (
        <form
          aria-label="A section"
          className="mt-1 border-l-2 border-blue pl-2"
          onSubmit={(event) => {
            event.preventDefault();
            if (!holds) return;
            onAdd({ direction: side, depth: at });
            setSide("");
          }}
        >
          <label className="flex items-center gap-2 py-0.5">
            Seen from the
            <select
              className="field !min-h-[26px] !w-auto"
              value={side}
              onChange={(event) => begin(event.target.value)}
            >
              {Object.keys(drawing.depths).map((name) => (
                <option key={name}>{name}</option>
              ))}
            </select>
          </label>
          <label className="flex items-center gap-2 py-0.5">
            cut
            <input
              autoFocus
              className="field !min-h-[26px] !w-[64px] text-right"
              inputMode="decimal"
              value={depth}
              onChange={(event) => setDepth(event.target.value)}
              onFocus={(event) => event.target.select()}
            />
            of {deep} mm deep
          </label>
          <span className="flex gap-1.5 py-0.5">
            <Button type="submit" look="strong" className="!min-h-[26px]" disabled={!holds}>
              Cut it
            </Button>
            <Button className="!min-h-[26px]" onClick={() => setSide("")}>
              Leave it
            </Button>
          </span>
        </form>
      )}
    </>
  );
}
