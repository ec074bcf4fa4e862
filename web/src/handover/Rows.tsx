import { RowGrid } from "../kit/RowGrid";
import { proposed, type Shown, short, toStand } from "../model/handover";
import { Mark } from "./Mark";

const GRID =
  "grid grid-cols-[28px_minmax(180px,1.5fr)_96px_minmax(90px,0.9fr)_minmax(80px,0.8fr)_minmax(80px,0.8fr)_104px] items-center";

const HEAD = (
  <>
    <span role="columnheader">
      <span className="sr-only">mark</span>
    </span>
    <span role="columnheader">what</span>
    <span role="columnheader">verdict</span>
    <span role="columnheader">field</span>
    <span role="columnheader" className="border-l border-hair-2 pl-2">
      ours
    </span>
    <span role="columnheader">theirs</span>
    <span role="columnheader" className="border-l border-hair-2 pl-2">
      is to stand
    </span>
  </>
);

function PartRow({ shown }: { shown: Shown }) {
  const { part } = shown;
  return (
    <>
      <span role="cell" />
      <span
        role="cell"
        className="col-span-5 flex items-baseline gap-2 truncate"
        style={{ paddingLeft: 14 * part.level }}
      >
        <span className="pn font-semibold">{part.number}</span>
        <span className="truncate text-ink-2">{part.description}</span>
      </span>
      <span role="cell" className="pl-2 text-[12px] text-ink-3">
        {shown.open > 0 ? (
          <span className="text-bad">{shown.open} to decide</span>
        ) : (
          `${shown.count} ${shown.count === 1 ? "row" : "rows"}`
        )}
      </span>
    </>
  );
}

function draw(shown: Shown) {
  const { row, part } = shown;
  if (!row) return <PartRow shown={shown} />;
  const waits = row.open || row.moved_on;
  const more = row.fields.length - 1;
  return (
    <>
      <span role="cell" className="flex justify-center">
        <Mark verdict={row.verdict} />
      </span>
      <span role="cell" className="truncate pr-2" style={{ paddingLeft: 14 * part.level + 14 }} title={row.words}>
        {row.words}
        {row.about && <span className="text-ink-3"> {row.about}</span>}
      </span>
      <span role="cell" className="truncate pr-2 text-[12px]">
        {row.verdict}
      </span>
      <span
        role="cell"
        className="truncate pr-2 text-[12px] text-ink-2"
        title={row.fields.map((f) => f.word).join(", ")}
      >
        {row.fields[0]?.word}
        {more > 0 && <span className="text-ink-3"> and {more} more</span>}
      </span>
      <span
        role="cell"
        className="flex h-full items-center truncate border-l border-hair-2 pr-1 pl-2"
        title={short(row, "ours")}
      >
        <span className="truncate">{short(row, "ours")}</span>
      </span>
      <span role="cell" className="truncate pr-1" title={short(row, "theirs")}>
        {short(row, "theirs")}
      </span>
      <span
        role="cell"
        className={`flex h-full items-center truncate border-l border-hair-2 pl-2 text-[12px] ${waits ? "font-semibold text-bad" : proposed(row) ? "text-ink-3" : "text-blue"}`}
      >
        {toStand(row)}
      </span>
    </>
  );
}

const look = (shown: Shown) => (shown.row ? "" : "bg-sunk");

/** What does not agree, beneath the parts of the product; the cursor moves over parts and rows alike. */
export function Rows({
  rows,
  total,
  cursor,
  onCursor,
}: {
  rows: Shown[];
  total: number;
  cursor: number | null;
  onCursor: (id: number) => void;
}) {
  return (
    <RowGrid
      label="What does not agree"
      columns={GRID}
      head={HEAD}
      rows={rows}
      total={total}
      cursor={cursor}
      look={look}
      draw={draw}
      onCursor={onCursor}
    />
  );
}
