import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { Button } from "../kit/Button";
import { answer, client, type Schemas } from "../lib/api";

type Place = Schemas["PlaceOut"];

const MARGIN = 4;

/** The box of a package around its center in millimetres: as the layout draws it, else as far as its name says a chip size. */
function boxOf(
  name: string,
  packages: Record<string, number[]>,
): [x: number, y: number, length: number, width: number] {
  const own = packages[name];
  if (own?.length === 4) return [own[0]!, own[1]!, own[2]! - own[0]!, own[3]! - own[1]!];
  const metric = name.match(/(?:CAPC|RESC|INDC|_)(\d{2})(\d{2})(?:X|Metric)/i);
  const imperial = name.match(/(?<!\d)(0[2468]0[1-6]|1206|1210|2010|2512)(?!\d)/)?.[1];
  const [length, width] = metric
    ? [Number(metric[1]) / 10, Number(metric[2]) / 10]
    : imperial
      ? [Number(imperial.slice(0, 2)) * 0.254, Number(imperial.slice(2)) * 0.254]
      : [2.4, 1.8];
  return [-length / 2, -width / 2, length, width];
}

/**
 * The board from above, or from below as one sees it after turning it over: every component where it stands, those of the line at
 * the cursor marked. A click leads to the line.
 */
export function Board({
  id,
  line,
  onLine,
  onClose,
}: {
  id: number;
  line: number | null;
  onLine: (line: number) => void;
  onClose: () => void;
}) {
  const all = useQuery({
    queryKey: ["inquiry-boards", id],
    queryFn: () => answer(client.GET("/api/inquiries/{inquiry_id}/boards", { params: { path: { inquiry_id: id } } })),
  });
  const boards = all.data ?? [];
  const [picked, setPicked] = useState(0);
  // The board follows the cursor; between lines without components it stays.
  const ofLine = line === null ? -1 : boards.findIndex((b) => b.places.some((p) => p.line === line));
  useEffect(() => {
    if (ofLine >= 0) setPicked(ofLine);
  }, [ofLine]);
  const board = boards[Math.min(picked, boards.length - 1)];
  const [side, setSide] = useState<"top" | "bottom" | null>(null);
  const [zoom, setZoom] = useState(1);
  const places = board?.places ?? [];
  const packages = board?.packages ?? {};
  const outline = board?.outline ?? [];
  const marked = places.filter((p) => p.line === line && line !== null);
  // Where the line's components stand is what one wants to see.
  const shown = side ?? (marked.length > 0 && marked.every((p) => p.side === "bottom") ? "bottom" : "top");
  const [x0 = 0, y0 = 0, x1 = 0, y1 = 0] = board?.extent ?? [];
  const wide = x1 - x0 + 2 * MARGIN;
  const tall = y1 - y0 + 2 * MARGIN;
  const center = useMemo(() => {
    const some = zoom > 1 && marked.length > 0 ? marked : [];
    if (some.length === 0) return [(x0 + x1) / 2, (y0 + y1) / 2] as const;
    return [some.reduce((t, p) => t + p.x, 0) / some.length, some.reduce((t, p) => t + p.y, 0) / some.length] as const;
  }, [marked, zoom, x0, x1, y0, y1]);
  if (all.data && !board)
    return (
      <p className="border-t border-ink bg-paper px-3 py-2 text-ink-2">
        No file of this inquiry says where components stand: bring a layout (IPC-2581) or a placement file.{" "}
        <Button look="quiet" className="!min-h-0" onClick={onClose}>
          Close
        </Button>
      </p>
    );
  const w = wide / zoom;
  const h = tall / zoom;
  const mirror = shown === "bottom" ? "scale(-1 1)" : "";
  // Boards are measured upward, a picture downward.
  const cx = shown === "bottom" ? -center[0] : center[0];
  const words = (p: Place) =>
    `${p.designator}${p.package ? `, ${p.package}` : ""}${p.fitted ? "" : ", not fitted"}${p.line ? "" : ", on no list"}`;
  return (
    <section aria-label="The board" className="flex h-[260px] shrink-0 border-t border-ink bg-paper">
      <div className="flex w-[150px] shrink-0 flex-col items-start gap-1 border-r border-hair px-3 py-2">
        {boards.length > 1 ? (
          <select
            className="field !min-h-[28px] font-semibold"
            aria-label="Board"
            value={boards.indexOf(board!)}
            onChange={(event) => setPicked(Number(event.target.value))}
          >
            {boards.map((b, at) => (
              <option key={`${b.name} ${b.extent}`} value={at}>
                {b.name}
              </option>
            ))}
          </select>
        ) : (
          <h2 className="font-semibold">Board</h2>
        )}
        <div className="flex gap-1">
          {(["top", "bottom"] as const).map((name) => (
            <Button
              key={name}
              className={`!min-h-[26px] !px-2 ${shown === name ? "!border-blue !text-blue" : ""}`}
              aria-pressed={shown === name}
              onClick={() => setSide(name)}
            >
              {name}
            </Button>
          ))}
        </div>
        <div className="flex gap-1">
          <Button
            className="!min-h-[26px] !px-2"
            aria-label="Larger"
            onClick={() => setZoom((z) => Math.min(16, z * 1.6))}
          >
            larger
          </Button>
          <Button
            className="!min-h-[26px] !px-2"
            aria-label="Smaller"
            onClick={() => setZoom((z) => Math.max(1, z / 1.6))}
          >
            smaller
          </Button>
        </div>
        <p className="text-[12px] text-ink-2" aria-live="polite">
          {marked.length > 0
            ? `${marked.length} ${marked.length === 1 ? "place" : "places"} of this line`
            : "no place of this line"}
        </p>
        <p className="mt-auto text-[12px] text-ink-3">
          {Math.round(x1 - x0)} × {Math.round(y1 - y0)} mm{outline.length > 2 ? "" : " between centers"}
        </p>
        <Button look="quiet" className="!min-h-0 !px-0" onClick={onClose}>
          close (B)
        </Button>
      </div>
      <svg
        className="min-w-0 flex-1"
        viewBox={`${cx - w / 2} ${-center[1] - h / 2} ${w} ${h}`}
        role="img"
        aria-label={`${shown} side, ${places.filter((p) => p.side === shown).length} components`}
        onWheel={(event) => setZoom((z) => Math.min(16, Math.max(1, z * (event.deltaY < 0 ? 1.15 : 1 / 1.15))))}
      >
        <g transform={mirror}>
          {outline.length > 2 ? (
            <polygon
              points={outline.map(([x, y]) => `${x},${-(y ?? 0)}`).join(" ")}
              fill="var(--sunk)"
              stroke="var(--ink-3)"
              strokeWidth={0.25}
            />
          ) : (
            <rect
              x={x0 - MARGIN}
              y={-y1 - MARGIN}
              width={wide}
              height={tall}
              fill="var(--sunk)"
              stroke="var(--hair-2)"
              strokeWidth={0.25}
            />
          )}
          {places
            .filter((p) => p.side === shown)
            .map((p) => {
              const [left, low, length, width] = boxOf(p.package, packages);
              const here = line !== null && p.line === line;
              return (
                // biome-ignore lint/a11y/noStaticElementInteractions: the list beside it is the way of the keyboard
                <g
                  key={p.designator}
                  transform={`translate(${p.x} ${-p.y}) rotate(${-p.rotation})`}
                  className={p.line ? "cursor-pointer" : ""}
                  onClick={() => p.line && onLine(p.line)}
                >
                  <title>{words(p)}</title>
                  <rect
                    x={left}
                    y={-low - width}
                    width={length}
                    height={width}
                    fill={here ? "var(--blue)" : p.line ? "var(--paper)" : "none"}
                    stroke={here ? "var(--blue)" : p.line ? "var(--ink-2)" : "var(--bad)"}
                    strokeWidth={0.16}
                    strokeDasharray={p.fitted ? undefined : "0.5 0.4"}
                  />
                </g>
              );
            })}
        </g>
        {marked
          .filter((p) => p.side === shown)
          .map((p) => (
            <text
              key={p.designator}
              x={(shown === "bottom" ? -p.x : p.x) + 1.4 / zoom}
              y={-p.y - 1.4 / zoom}
              fontSize={Math.min(Math.max(1.2, 2.6 / zoom), h / 12)}
              fill="var(--blue)"
              className="font-mono"
            >
              {p.designator}
            </text>
          ))}
      </svg>
    </section>
  );
}
