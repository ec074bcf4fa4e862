import { useLocation } from "react-router";
import { Panel } from "../kit/Panel";

type Key = [keys: string, does: string];

const EVERYWHERE: Key[] = [
  ["Ctrl K", "find a part, a sheet or a command"],
  ["?", "these keys"],
  ["Esc", "leave what is open"],
];

const HERE: Record<string, Key[]> = {
  "/sheets/": [
    ["↑ ↓ ← →", "move from cell to cell"],
    ["Enter or F2", "edit the cell; Enter again keeps it"],
    ["type", "replace what is in the cell"],
    ["Tab", "keep it and go on to the next cell"],
    ["Space", "open or close a line in place"],
    ["Shift ↑ ↓", "choose several lines"],
    ["Ctrl C, Ctrl V", "copy lines; paste lines or rows of a spreadsheet"],
    ["Ctrl Enter", "new line below; on an operation, its first one"],
    ["Alt T", "new note below"],
    ["Ctrl Shift Enter", "new operation"],
    ["Alt ↑ Alt ↓", "move the line or operation"],
    ["Delete", "take the line or operation away"],
    ["Ctrl Z, Ctrl Y", "undo, redo"],
    ["Alt Enter", "go to the sheet of the part on the line"],
    ["Alt D", "every field of the line or operation"],
    ["Alt O", "the order of work: Enter on one operation, Enter on one that follows it"],
    ["Alt I", "instructions of the operation"],
    ["Alt M", "measured times of the operation"],
    ["Alt F", "what the checks found here and below"],
    ["Alt W", "into the working beside the sheet"],
    ["Alt V", "operations with their lines, or lines alone"],
    ["Alt C", "columns for the next reader: engineering, cost, buying, shop"],
  ],
  "/parts": [
    ["↓ ↑", "move through the list"],
    ["Enter", "open the part"],
    ["Space", "choose the part, or no longer"],
    ["Shift ↑ ↓", "choose several"],
    ["Ctrl V", "bring in rows of a spreadsheet"],
    ["N", "make a part"],
  ],
  "/rounds/": [
    ["↑ ↓", "move from part to part, in the list"],
    ["Esc", "back in a working, then out of it"],
  ],
  "/work-centers/load": [["↑ ↓ ← →", "move through weeks and work centers"]],
  "/work-centers": [
    ["↓ ↑", "move through the list"],
    ["Enter", "open the work center"],
    ["N", "make a work center"],
  ],
};

/** The keys that work on this screen. */
export function Keys({ open, onClose }: { open: boolean; onClose: () => void }) {
  const { pathname } = useLocation();
  const here = Object.entries(HERE).find(([start]) => pathname.startsWith(start))?.[1] ?? [];
  return (
    <Panel title="Keys of this screen" open={open} onClose={onClose}>
      <dl className="mt-4 grid grid-cols-[150px_1fr] gap-y-2">
        {[...here, ...EVERYWHERE].map(([keys, does]) => (
          <div key={keys} className="contents">
            <dt className="font-mono text-[12px]">{keys}</dt>
            <dd>{does}</dd>
          </div>
        ))}
      </dl>
    </Panel>
  );
}
