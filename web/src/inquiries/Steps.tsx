import { Button } from "../kit/Button";
import { Panel } from "../kit/Panel";
import type { InquiryLine } from "../model/inquiry";
import type { Asked, Met } from "./useInquiry";

/** All certain pairs, looked at before they are taken together; one step takes them back. */
export function TakeCertain({
  lines,
  onTake,
  onClose,
}: {
  lines: InquiryLine[];
  onTake: (asked: Asked[]) => void;
  onClose: () => void;
}) {
  const ask = () =>
    onTake(lines.map((l) => ({ line: l.id, seen: l.stamp, verb: "take", part: l.proposals[1], over: false })));
  return (
    <Panel
      title={`Take ${lines.length} certain ${lines.length === 1 ? "pair" : "pairs"}`}
      note="remembered and still saying the same, or the same maker's number with no value that differs; U takes all back"
      open
      onClose={onClose}
    >
      <div className="mt-3 flex gap-2">
        <Button look="strong" autoFocus needs="inquiries" disabled={lines.length === 0} onClick={ask}>
          Take them
        </Button>
        <Button onClick={onClose}>Leave it</Button>
      </div>
      <ul className="mt-3 flex flex-col" aria-label="Certain pairs">
        {lines.slice(0, 500).map((line) => (
          <li key={line.id} className="grid grid-cols-[34px_1fr_14px_1fr_80px] gap-x-2 border-t border-hair py-0.5">
            <span className="text-right text-[12px] text-ink-3">{line.row || ""}</span>
            <span className="pn truncate" title={line.description}>
              {line.part || line.maker_number}
            </span>
            <span className="text-ink-3">→</span>
            <span className="pn truncate">{line.proposals[1]}</span>
            <span className="text-[12px] text-ink-2">{line.proposals[2]}</span>
          </li>
        ))}
        {lines.length > 500 && <li className="border-t border-hair pt-1 text-ink-3">and {lines.length - 500} more</li>}
      </ul>
    </Panel>
  );
}

/** Two decisions on one line: both are shown, and one is chosen. */
export function TwoDecisions({
  met,
  line,
  onMine,
  onTheirs,
}: {
  met: Met;
  line: InquiryLine | undefined;
  onMine: () => void;
  onTheirs: () => void;
}) {
  return (
    <Panel
      title="Decided twice"
      note={`row ${line?.row ?? ""}, ${line?.part || line?.maker_number || line?.description || ""}`}
      open
      onClose={onTheirs}
    >
      <p className="mt-3">{met.by} decided this line a moment ago; yours was not written over it. Which holds?</p>
      <dl className="mt-3 grid grid-cols-[110px_1fr] gap-y-1">
        <dt className="text-ink-2">{met.by}</dt>
        <dd>{met.state === "paired" ? <span className="pn">{met.part}</span> : "left out"}</dd>
        <dt className="text-ink-2">you</dt>
        <dd>
          {met.asked.verb === "take" ? (
            <span className="pn">{met.yours}</span>
          ) : met.asked.verb === "out" ? (
            "left out"
          ) : (
            "open again"
          )}
        </dd>
      </dl>
      <div className="mt-4 flex gap-2">
        <Button look="strong" autoFocus onClick={onTheirs}>
          Keep theirs
        </Button>
        <Button onClick={onMine}>Take mine</Button>
      </div>
    </Panel>
  );
}
