import type { Schemas } from "../lib/api";

type Used = Schemas["CutPattern"];

/** How one bar or board is cut, to scale; a bar stands as high as reads well. What is in no piece is hatched. */
export function Pattern({ used, words, marked }: { used: Used; words: string; marked: string }) {
  const long = Number(used.length);
  const height = used.width === null ? long / 24 : Number(used.width);
  const unit = long / 100;
  const id = `hatch-${words.replace(/\W+/g, "-")}`;
  return (
    <svg
      role="img"
      aria-label={words}
      viewBox={`${-unit / 2} ${-unit / 2} ${long + unit} ${height + unit}`}
      className="block w-full"
      style={{ maxHeight: 380 }}
    >
      <defs>
        <pattern id={id} width={unit} height={unit} patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <line x1="0" y1="0" x2="0" y2={unit} stroke="var(--hair-2)" strokeWidth={unit / 7} />
        </pattern>
      </defs>
      <rect width={long} height={height} fill={`url(#${id})`} stroke="var(--ink)" strokeWidth={unit / 8} />
      {used.placed.map((p, at) => {
        const [x, y, along] = [Number(p.x), Number(p.y), Number(p.along)];
        const across = used.width === null ? height : Number(p.across);
        const size = Math.min(unit * 1.7, across * 0.42, (along / Math.max(p.name.length, 8)) * 1.4);
        const on = marked === p.name;
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: a piece is its place
          <g key={at}>
            <rect
              x={x}
              y={y}
              width={along}
              height={across}
              fill={on ? "var(--blue-tint)" : "var(--paper)"}
              stroke={on ? "var(--blue)" : "var(--ink)"}
              strokeWidth={on ? unit / 5 : unit / 10}
            />
            <text
              x={x + along / 2}
              y={y + across / 2 - size * 0.1}
              fontSize={size}
              textAnchor="middle"
              fill="var(--ink)"
              className="font-mono"
            >
              {p.name}
            </text>
            <text
              x={x + along / 2}
              y={y + across / 2 + size}
              fontSize={size * 0.85}
              textAnchor="middle"
              fill="var(--ink-2)"
            >
              {used.width === null ? p.along : `${p.along} × ${p.across}`}
            </text>
          </g>
        );
      })}
    </svg>
  );
}
