import { PartPanel } from "../pieces/parts/PartPanel";
import { bringLines, bringOperations } from "./clipboard";
import { BringOperations } from "./panels/BringOperations";
import { HistoryPanel } from "./panels/HistoryPanel";
import { LibraryPanel } from "./panels/LibraryPanel";
import { OptionsPanel } from "./panels/OptionsPanel";
import { PartNumbersPanel } from "./panels/PartNumbersPanel";
import { RenumberPanel } from "./panels/RenumberPanel";
import { isVerb, RevisionPanel } from "./panels/RevisionPanel";
import { StaleDialog } from "./panels/StaleDialog";
import type { ReadWork } from "./useWork";

/** What comes in over the sheet: what can be done with all of it, a part, and both versions of what two people saved. */
export function SheetPanels({ work }: { work: ReadWork }) {
  const { head, view, model, queue, verb, part } = work;
  const onClose = () => work.setVerb(null);
  return (
    <>
      <StaleDialog stale={queue.stale?.answer ?? null} onSettle={(mine) => queue.settleStale(mine)} />
      {verb === "history" && <HistoryPanel sheet={head} onClose={onClose} />}
      {verb === "options" && <OptionsPanel may={work.mayNot === undefined} onClose={onClose} />}
      {verb === "renumber" && (
        <RenumberPanel model={model} onKeep={(changes) => queue.edit(changes)} onClose={onClose} />
      )}
      {verb === "library" && <LibraryPanel onKeep={(values) => bringLines(work, values)} onClose={onClose} />}
      {verb === "bring" && (
        <BringOperations part={head.part} onKeep={(values) => bringOperations(work, values)} onClose={onClose} />
      )}
      {verb === "numbers" && <PartNumbersPanel sheet={head.id} part={head.part} onClose={onClose} />}
      {verb && isVerb(verb) && (
        <RevisionPanel
          verb={verb}
          sheet={{ ...head, version: view.sheet.version }}
          revisions={work.revisions}
          onShow={work.onShow}
          onClose={onClose}
        />
      )}
      {part && <PartPanel number={part} onClose={() => work.setPart(null)} />}
    </>
  );
}
