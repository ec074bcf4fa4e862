import type { Schemas } from "../../lib/api";

/** A part as a line drawing, in the ink of the page; hidden edges broken and thin. */
export function LineDrawing({
  drawing,
  words,
  hidden = false,
  className = "",
}: {
  drawing: Schemas["Drawing"];
  words: string;
  hidden?: boolean;
  className?: string;
}) {
  const margin = 12;
  return (
    <svg
      role="img"
      aria-label={words}
      viewBox={`${-margin} ${-margin} ${drawing.width + 2 * margin} ${drawing.height + 2 * margin}`}
      className={className}
      fill="none"
      stroke="currentColor"
      strokeLinejoin="round"
      strokeLinecap="round"
    >
      {hidden && (
        <path
          d={pathOf(drawing.hidden)}
          strokeWidth={1}
          strokeDasharray="6 5"
          vectorEffect="non-scaling-stroke"
          className="text-ink-3"
        />
      )}
      <path d={pathOf(drawing.seen)} strokeWidth={1.3} vectorEffect="non-scaling-stroke" />
    </svg>
  );
}

function pathOf(lines: number[][]): string {
  return lines
    .map((line) => {
      let d = `M${line[0]} ${line[1]}L`;
      for (let i = 2; i < line.length; i += 2) d += `${line[i]} ${line[i + 1]} `;
      return d;
    })
    .join("");
}
