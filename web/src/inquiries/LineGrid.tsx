import { RowGrid } from "../kit/RowGrid";
import { against, changeWords, howWords, type InquiryLine } from "../model/inquiry";
import { SeverityMark } from "../pieces/findings/SeverityMark";

const GRID =
  "grid grid-cols-[24px_36px_minmax(84px,0.6fr)_minmax(84px,0.8fr)_minmax(150px,1.9fr)_74px_minmax(88px,0.8fr)_minmax(84px,0.75fr)_minmax(150px,1.7fr)] items-center";

/** What a row is, by a mark in the gutter: a stroke that is open, drawn, crossed. */
function Gutter({ line }: { line: InquiryLine }) {
  const words = line.state === "open" ? "undecided" : line.state === "out" ? "left out" : "decided";
  return (
    <span role="cell" className="flex justify-center">
      <svg width="10" height="16" viewBox="0 0 10 16" strokeLinecap="round" fill="none" aria-hidden="true">
        {line.state === "open" && <path d="M5 2v12" stroke="var(--hair-2)" strokeWidth="1.4" strokeDasharray="1.5 3" />}
        {line.state === "paired" && <path d="M5 2v12" stroke="var(--blue)" strokeWidth="2" />}
        {line.state === "out" && <path d="M1.5 8h7" stroke="var(--ink-3)" strokeWidth="1.4" />}
      </svg>
      <span className="sr-only">{words}</span>
    </span>
  );
}

/** What was set right here is underlined; the sender's own word stands in the evidence. */
const mended = (line: InquiryLine, ...fields: string[]) =>
  fields.some((f) => line.mended.includes(f)) ? "underline decoration-brass decoration-dotted underline-offset-4" : "";

function Theirs({ line }: { line: InquiryLine }) {
  const indent = 12 * Math.max(0, (line.level ?? 1) - 1);
  return (
    <>
      <span role="cell" className={`truncate pr-2 font-mono text-[12px] text-ink-2 ${mended(line, "designators")}`}>
        {line.designators}
      </span>
      <span
        role="cell"
        className={`pn truncate pr-2 ${mended(line, "part", "maker_number")}`}
        style={{ paddingLeft: indent }}
      >
        {line.part || line.maker_number || <span className="font-sans text-ink-3">no number</span>}
      </span>
      <span role="cell" className={`truncate pr-2 ${mended(line, "description")}`} title={line.description}>
        {line.row === 0 && <span className="text-ink-3">the list is for </span>}
        {line.description}
        {[line.value, line.case, line.material, line.own_fields].filter(Boolean).map((said) => (
          <span key={said}> · {said}</span>
        ))}
        {line.maker && <span className="text-ink-3"> · {line.maker}</span>}
        {line.not_fitted && <span className="text-ink-3"> · not fitted</span>}
        {line.customer_supplied && <span className="text-ink-3"> · they supply it</span>}
      </span>
      <span role="cell" className={`pr-2 text-right whitespace-nowrap ${mended(line, "quantity", "unit")}`}>
        {line.row > 0 && (line.quantity || <span className="text-ink-3">–</span>)}
        {line.unit && line.unit !== "ea" && <span className="text-ink-3"> {line.unit}</span>}
      </span>
    </>
  );
}

function Ours({ line }: { line: InquiryLine }) {
  const could = line.state === "open" && line.proposals[0] > 0;
  return (
    <>
      <span role="cell" className="flex h-full items-center border-l border-hair-2 pl-2">
        <span className={`pn truncate ${could ? "text-ink-3" : ""}`} title={line.our_description}>
          {line.state === "paired" ? line.ours : could ? line.proposals[1] : ""}
        </span>
      </span>
      <span role="cell" className={`truncate pr-2 text-[12px] ${line.state === "open" ? "text-ink-3" : "text-ink-2"}`}>
        {howWords(line)}
      </span>
    </>
  );
}

function Against({ line }: { line: InquiryLine }) {
  const found = against(line);
  const first = found.find((f) => f.severity === "stops") ?? found[0];
  const change = changeWords(line);
  const asked = line.asked > 0 ? "asked" : line.answered > 0 ? "answered" : "";
  return (
    <span
      role="cell"
      className="flex h-full items-center gap-1.5 overflow-hidden border-l border-hair-2 pl-2 text-[12px]"
    >
      {first && <SeverityMark severity={first.severity} word={false} />}
      <span className="truncate" title={[...found.map((f) => f.message), change].filter(Boolean).join("\n")}>
        {asked && <span className="text-blue">{asked}</span>}
        {asked && (first || change) && " · "}
        {first?.message}
        {found.length > 1 && <span className="text-ink-3"> and {found.length - 1} more</span>}
        {change && (
          <span className="text-ink-3">
            {first ? " · " : ""}
            {change}
          </span>
        )}
      </span>
    </span>
  );
}

const HEAD = (
  <>
    <span role="columnheader">
      <span className="sr-only">state</span>
    </span>
    <span role="columnheader" className="pr-2 text-right">
      row
    </span>
    <span role="columnheader">designators</span>
    <span role="columnheader">they call it</span>
    <span role="columnheader">what they wrote</span>
    <span role="columnheader" className="pr-2 text-right">
      quantity
    </span>
    <span role="columnheader" className="border-l border-hair-2 pl-2">
      we hold it for
    </span>
    <span role="columnheader">how</span>
    <span role="columnheader" className="border-l border-hair-2 pl-2">
      what stands against it
    </span>
  </>
);

const drawn = (line: InquiryLine) => (
  <>
    <Gutter line={line} />
    <span role="cell" className="pr-2 text-right text-[12px] text-ink-3">
      {line.row || ""}
    </span>
    <Theirs line={line} />
    <Ours line={line} />
    <Against line={line} />
  </>
);

const look = (line: InquiryLine) =>
  `${line.row === 0 ? "font-semibold" : ""} ${line.state === "out" ? "text-ink-3" : ""}`;

/** The lines of an inquiry in three zones: what they wrote, what we hold it for, what stands against it. */
export function LineGrid({
  lines,
  total,
  cursor,
  onCursor,
}: {
  lines: InquiryLine[];
  total: number;
  cursor: number | null;
  onCursor: (id: number) => void;
}) {
  return (
    <RowGrid
      label="Lines of the inquiry"
      columns={GRID}
      head={HEAD}
      rows={lines}
      total={total}
      cursor={cursor}
      look={look}
      draw={drawn}
      onCursor={onCursor}
    />
  );
}
