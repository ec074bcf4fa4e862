import { type KeyboardEvent, type PointerEvent, useRef, useState } from "react";
import { viewName } from "./laid";
import { PaperBalloon } from "./PaperBalloon";
import type { Drawing, Laid } from "./useDrawing";

const round = (n: number) => Math.round(n * 10) / 10;

interface Drag {
  what: "view" | "balloon" | "frame" | "end";
  key: string;
  from: [number, number];
  by: [number, number];
}

/** The paper as it will be printed. Views and balloons are moved by the mouse, or chosen and moved by the arrow keys. */
export function Paper({
  drawing,
  may,
  chosen,
  onChoose,
  onKeep,
}: {
  drawing: Drawing;
  may: boolean;
  /** The key of a view, or the line of a balloon. */
  chosen: string;
  onChoose: (key: string) => void;
  onKeep: (laid: Laid) => void;
}) {
  const svg = useRef<SVGSVGElement>(null);
  const [drag, setDrag] = useState<Drag | null>(null);
  const { laid } = drawing;
  const [width = 420, height = 297] = drawing.paper;
  const place = (event: PointerEvent): [number, number] => {
    const matrix = svg.current!.getScreenCTM()!.inverse();
    const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix);
    return [point.x, point.y];
  };
  const take = (what: Drag["what"], key: string) => (event: PointerEvent) => {
    event.stopPropagation();
    onChoose(key);
    if (!may) return;
    svg.current!.setPointerCapture(event.pointerId);
    setDrag({ what, key, from: place(event), by: [0, 0] });
  };
  const move = (what: Drag["what"], key: string, [dx, dy]: [number, number]) => {
    if (!dx && !dy) return;
    if (what === "view") {
      const follow = (b: Laid["balloons"][number]) => (b.view === key ? { ...b, to: shifted(b.to, dx, dy) } : b);
      onKeep({
        ...laid,
        views: laid.views.map((v) => (v.key === key ? { ...v, x: round(v.x + dx), y: round(v.y + dy) } : v)),
        balloons: laid.balloons.map(follow),
      });
    } else if (what === "end") {
      const ends = drawing.balloons.find((b) => b.line === key)?.ends;
      const held = laid.balloons.find((b) => b.line === key);
      const view = laid.views.find((v) => v.key === held?.view);
      if (!ends || !view) return;
      const at = [(ends[0]! + dx - view.x) / view.scale, (ends[1]! + dy - view.y) / view.scale].map(round);
      onKeep({ ...laid, balloons: laid.balloons.map((b) => (b === held ? { ...b, at, by_hand: true } : b)) });
    } else if (what === "frame") {
      const scale = laid.views.find((v) => v.key === laid.views.find((d) => d.key === key)?.of)?.scale ?? 1;
      const there = ([x = 0, y = 0, ...sides]: number[]) => [round(x + dx / scale), round(y + dy / scale), ...sides];
      onKeep({ ...laid, views: laid.views.map((v) => (v.key === key && v.box ? { ...v, box: there(v.box) } : v)) });
    } else
      onKeep({
        ...laid,
        balloons: laid.balloons.map((b) => (b.line === key ? { ...b, to: shifted(b.to, dx, dy), by_hand: true } : b)),
      });
  };
  const byKeys = (what: Drag["what"], key: string) => (event: KeyboardEvent) => {
    const step = event.shiftKey ? 10 : 1;
    const by: Record<string, [number, number]> = {
      ArrowLeft: [-step, 0],
      ArrowRight: [step, 0],
      ArrowUp: [0, -step],
      ArrowDown: [0, step],
    };
    const to = by[event.key];
    if (!to || !may) return;
    event.preventDefault();
    move(what, key, to);
  };
  const shift = (what: Drag["what"], key: string): [number, number] =>
    drag?.what === what && drag.key === key ? drag.by : [0, 0];
  return (
    <div className="min-w-0 overflow-auto bg-plate p-3">
      <svg
        ref={svg}
        role="group"
        aria-label={`Drawing of ${drawing.part}, ${laid.size}`}
        viewBox={`0 0 ${width} ${height}`}
        className="on-white mx-auto block border border-hair-2 bg-white text-black"
        // As large as it can be seen whole.
        style={{ width: `min(100%, calc((100vh - 136px) * ${width / height}))`, touchAction: "none" }}
        fill="none"
        stroke="currentColor"
        strokeLinejoin="round"
        onPointerDown={() => onChoose("")}
        onPointerMove={(event) => {
          if (!drag) return;
          const [x, y] = place(event);
          setDrag({ ...drag, by: [x - drag.from[0], y - drag.from[1]] });
        }}
        onPointerUp={() => {
          if (drag) move(drag.what, drag.key, [round(drag.by[0]), round(drag.by[1])]);
          setDrag(null);
        }}
      >
        {drawing.marks.map((mark, at) =>
          mark.kind === "line" ? (
            <polyline
              // biome-ignore lint/suspicious/noArrayIndexKey: a mark is its place
              key={at}
              points={pairs(mark.points)}
              strokeWidth={mark.width}
              strokeDasharray={mark.dash === "chain" ? "6 1 1 1" : undefined}
            />
          ) : (
            <text
              // biome-ignore lint/suspicious/noArrayIndexKey: a mark is its place
              key={at}
              x={mark.points[0]}
              y={mark.points[1]}
              fontSize={mark.size}
              fontWeight={mark.strong ? 600 : 400}
              textAnchor={mark.at === "middle" ? "middle" : "start"}
              fill="currentColor"
              stroke="none"
            >
              {mark.text}
            </text>
          ),
        )}
        {laid.views.map((view) => {
          const said = drawing.views.find((v) => v.key === view.key);
          if (!said) return null;
          const [dx, dy] = shift("view", view.key);
          const on = chosen === view.key;
          return (
            <g
              key={view.key}
              role="button"
              tabIndex={0}
              aria-label={`View ${viewName(view, drawing)}`}
              aria-pressed={on}
              transform={`translate(${view.x + dx!} ${view.y + dy!}) scale(${view.scale})`}
              className={`outline-none ${may ? "cursor-move" : ""}`}
              onPointerDown={take("view", view.key)}
              onFocus={() => onChoose(view.key)}
              onKeyDown={byKeys("view", view.key)}
            >
              <rect
                width={said.width}
                height={said.height}
                fill="transparent"
                stroke={on ? "var(--blue)" : "none"}
                strokeWidth={0.4 / view.scale}
                strokeDasharray={`${2 / view.scale} ${1.5 / view.scale}`}
              />
              {view.picture != null && (
                <image
                  href={`/api/drawings/one/pictures/${view.picture}?${new URLSearchParams({ number: drawing.part })}`}
                  width={said.width}
                  height={said.height}
                  pointerEvents="none"
                />
              )}
              {said.parts.map((part, at) =>
                view.left_out?.includes(part.name) ? null : (
                  // biome-ignore lint/suspicious/noArrayIndexKey: a part stands in its place
                  <g key={at}>
                    {view.hidden && (
                      <path
                        d={lines(part.hidden)}
                        strokeWidth={0.18 / view.scale}
                        strokeDasharray={`${2 / view.scale} ${1 / view.scale}`}
                      />
                    )}
                    {part.hatch.length > 0 && <path d={lines(part.hatch)} strokeWidth={0.13 / view.scale} />}
                    <path d={lines(part.seen)} strokeWidth={0.35 / view.scale}>
                      <title>{part.number || part.name}</title>
                    </path>
                  </g>
                ),
              )}
            </g>
          );
        })}
        {laid.views.map((detail) => {
          const of = laid.views.find((v) => v.key === detail.of);
          if (!of || !detail.box) return null;
          const [vx, vy] = shift("view", of.key);
          const [dx, dy] = shift("frame", detail.key);
          const [x, y, wide, high] = detail.box.map((n) => n * of.scale);
          return (
            <g
              key={`frame ${detail.key}`}
              role="button"
              tabIndex={0}
              aria-label={`What detail ${detail.letter} shows`}
              aria-pressed={chosen === detail.key}
              transform={`translate(${of.x + x! + vx! + dx!} ${of.y + y! + vy! + dy!})`}
              className={`outline-none ${may ? "cursor-move" : ""}`}
              color={chosen === detail.key ? "var(--blue)" : "black"}
              onPointerDown={take("frame", detail.key)}
              onFocus={() => onChoose(detail.key)}
              onKeyDown={byKeys("frame", detail.key)}
            >
              <rect width={wide} height={high} fill="transparent" stroke="currentColor" strokeWidth={0.25} />
              <text x={wide! + 1.5} y={-1.5} fontSize={5} fontWeight={600} fill="currentColor" stroke="none">
                {detail.letter}
              </text>
            </g>
          );
        })}
        {drawing.balloons.map((balloon) => {
          const now = laid.balloons.find((b) => b.line === balloon.line && b.view === balloon.view);
          if (!now) return null;
          return (
            <PaperBalloon
              key={`${balloon.line}${balloon.view}`}
              balloon={balloon}
              to={now.to}
              view={shift("view", balloon.view)}
              by={shift("balloon", balloon.line)}
              end={shift("end", balloon.line)}
              chosen={chosen}
              may={may}
              onTake={take("balloon", balloon.line)}
              onChoose={() => onChoose(balloon.line)}
              onKey={byKeys("balloon", balloon.line)}
              onTakeEnd={take("end", balloon.line)}
              onKeyEnd={byKeys("end", balloon.line)}
            />
          );
        })}
      </svg>
    </div>
  );
}

function shifted(to: number[], dx: number, dy: number): number[] {
  return [round(to[0]! + dx), round(to[1]! + dy)];
}

function pairs(points: number[]): string {
  return points.map((n, at) => (at % 2 ? `${n} ` : `${n},`)).join("");
}

function lines(some: number[][]): string {
  return some.map((line) => `M${line.join(" ")}`).join("");
}
