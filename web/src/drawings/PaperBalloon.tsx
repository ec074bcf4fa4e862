import type { KeyboardEvent, PointerEvent } from "react";
import type { Drawing } from "./useDrawing";

const RADIUS = 5;

/** A balloon on the paper: its leader, a circle for each line it shows, and how many where the drawing says so. */
export function PaperBalloon({
  balloon,
  to,
  view,
  by,
  end,
  chosen,
  may,
  onTake,
  onChoose,
  onKey,
  onTakeEnd,
  onKeyEnd,
}: {
  balloon: Drawing["balloons"][number];
  to: number[];
  /** By how much its view, it alone, and the end of its leader are being moved. */
  view: [number, number];
  by: [number, number];
  end: [number, number];
  chosen: string;
  may: boolean;
  onTake: (event: PointerEvent) => void;
  onChoose: () => void;
  onKey: (event: KeyboardEvent) => void;
  onTakeEnd: (event: PointerEvent) => void;
  onKeyEnd: (event: KeyboardEvent) => void;
}) {
  const [x, y] = [to[0]! + view[0] + by[0], to[1]! + view[1] + by[1]];
  const ends = balloon.ends && ([balloon.ends[0]! + view[0] + end[0], balloon.ends[1]! + view[1] + end[1]] as const);
  const away = ends ? Math.hypot(ends[0] - x, ends[1] - y) : 0;
  const on = balloon.circles.some((c) => c.line === chosen);
  const name = balloon.circles.map((c) =>
    c.gone ? "a line that is gone" : `${c.item ?? "without a number"}, ${c.number}`,
  );
  return (
    <g color={balloon.circles.some((c) => c.gone) ? "var(--bad)" : on ? "var(--blue)" : "black"} stroke="currentColor">
      {ends && away > RADIUS && (
        <line
          x1={x + ((ends[0] - x) * RADIUS) / away}
          y1={y + ((ends[1] - y) * RADIUS) / away}
          x2={ends[0]}
          y2={ends[1]}
          strokeWidth={0.25}
          pointerEvents="none"
        />
      )}
      <g
        role="button"
        tabIndex={0}
        aria-label={`Balloon ${name.join("; ")}`}
        aria-pressed={on}
        className={`outline-none ${may ? "cursor-move" : ""}`}
        onPointerDown={onTake}
        onFocus={onChoose}
        onKeyDown={onKey}
      >
        {balloon.circles.map((circle, at) => (
          <g key={circle.line} transform={`translate(${x} ${y + 2 * RADIUS * at})`}>
            <circle r={RADIUS} fill="white" strokeWidth={on ? 0.6 : 0.35} />
            <text y={1.3} fontSize={3.5} fontWeight={600} textAnchor="middle" fill="currentColor" stroke="none">
              {circle.gone ? "?" : (circle.item ?? "")}
            </text>
            {circle.quantity && (
              <text x={RADIUS + 1} y={1.1} fontSize={3} fill="currentColor" stroke="none">
                × {circle.quantity}
              </text>
            )}
          </g>
        ))}
      </g>
      {ends && (
        <g
          role="button"
          tabIndex={may && on ? 0 : -1}
          aria-label={`Where the leader of ${name.join("; ")} ends`}
          className={`outline-none ${may ? "cursor-move" : ""}`}
          onPointerDown={onTakeEnd}
          onKeyDown={onKeyEnd}
        >
          <circle cx={ends[0]} cy={ends[1]} r={4} fill="transparent" stroke="none" />
          <circle cx={ends[0]} cy={ends[1]} r={on ? 1 : 0.6} fill="currentColor" stroke="none" />
        </g>
      )}
    </g>
  );
}
