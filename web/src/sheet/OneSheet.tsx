import { useCallback, useMemo } from "react";
import { Button } from "../kit/Button";
import { useCommands } from "../kit/commands";
import { download } from "../kit/download";
import { useLater } from "../kit/useLater";
import type { SheetHead } from "../lib/api";
import { typed } from "../lib/number";
import type { Change } from "../model/change";
import { BasisBar } from "../pieces/BasisBar";
import { WhatIf } from "../pieces/questions/WhatIf";
import { Rings } from "../pieces/working/Rings";
import { sheetCommands } from "./commands";
import { asRows } from "./grid/asRows";
import { SheetAside } from "./SheetAside";
import { SheetBody } from "./SheetBody";
import { SheetHeader } from "./SheetHeader";
import { SheetNotices } from "./SheetNotices";
import { SheetPanels } from "./SheetPanels";
import { type ReadWork, useWork, type Work } from "./useWork";

const isRead = (work: Work): work is ReadWork => !!work.view && !!work.model;

/** One sheet under a basis: the grid, the working, the rings. */
export function OneSheet({
  head,
  counts,
  revisions,
  onShow,
}: {
  head: SheetHead;
  /** The sheet that counts on the day of the basis. */
  counts: SheetHead | null;
  revisions: SheetHead[];
  onShow: (id: number | null) => void;
}) {
  const work = useWork(head, revisions, onShow);
  if (work.query.error && !work.view)
    return (
      <p role="alert" className="p-6 text-bad">
        {work.query.error.message}
      </p>
    );
  if (!isRead(work)) return <p className="p-6 text-ink-3">Reading the sheet …</p>;
  return <Opened work={work} counts={counts} />;
}

function Opened({ work, counts }: { work: ReadWork; counts: SheetHead | null }) {
  const { head, view, model, basis, queue, editable, reading, leaveRing } = work;
  const top = view.parts[view.top]!;
  // The rings follow a moment later: nobody waits for them, and everybody for the figures of what was typed.
  const ringed = useLater(model);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what a command does, it does with what stands there then
  useCommands(useMemo(() => sheetCommands(work), [work.row, work.reading, work.columnSet, work.editable, view, model]));
  const onEntered = useCallback(
    (leave: (() => void) | null) => {
      leaveRing.current = leave;
    },
    [leaveRing],
  );
  const { setWhole, setAsked } = work;
  const onFigure = useCallback(
    (figure: string) => {
      setWhole(true);
      setAsked(figure);
    },
    [setWhole, setAsked],
  );
  const setBatch = (batch: string) => {
    const changes: Change[] = [
      { table: "sheet", id: null, before: { batch: view.sheet.batch }, after: { batch: typed(batch) } },
    ];
    work.refused.fromField(changes);
    queue.edit(changes);
  };
  const leave = (shape: "xlsx" | "csv") =>
    download(`/api/sheets/table/${shape}`, asRows(`${head.part} ${reading}`, work.rows, work.columns)).catch(
      (error: Error) => work.say(error.message, { bad: true }),
    );
  // The overview has the whole width until a figure of it is opened.
  // Beside the sheet stands what was asked for; without costs there is no working that waits for the cursor.
  const wide = work.aside === "working" && (work.costs ? reading === "overview" && work.asked === null : true);
  return (
    <div className="flex h-full flex-col">
      <BasisBar
        unit={top.unit}
        currency={view.currency}
        options={view.options}
        asOf={view.basis.as_of}
        prices
        basis={basis}
        onChange={work.changeBasis}
      />
      {work.costs && <WhatIf view={view} basis={basis} onBasis={work.changeBasis} />}
      <SheetNotices work={work} counts={counts} />
      <div className={`grid min-h-0 flex-1 ${wide ? "" : "grid-cols-[1fr_344px]"}`}>
        <div className="flex min-h-0 min-w-0 flex-col pl-4">
          <SheetHeader
            view={view}
            basis={basis}
            revisions={work.revisions}
            editable={editable}
            state={queue.unsent ? "not saved" : queue.pending.length > 0 ? "saving …" : editable ? "saved" : ""}
            reading={reading}
            columnSet={work.columnSet}
            onShow={work.onShow}
            onVerb={work.setVerb}
            findings={work.findings}
            onFindings={() => work.setAside("findings")}
            onReading={work.setReading}
            onColumns={work.setColumnSet}
            onLeave={reading === "operations" || reading === "lines" ? leave : null}
            refusedBatch={work.refused.field(null, "batch")}
            onBatch={setBatch}
            onTotal={() => onFigure(`unit:${top.id}`)}
          />
          <div className="mr-3.5 flex min-h-0 flex-1 flex-col">
            <SheetBody work={work} />
          </div>
        </div>
        {!wide && (
          <aside className="flex min-h-0 flex-col gap-3 border-l border-hair bg-paper px-4 pt-3.5 pb-3">
            {reading === "overview" && work.aside === "working" && (
              <Button look="quiet" className="-mb-3 self-end !min-h-0" onClick={() => work.setAsked(null)}>
                close
              </Button>
            )}
            <div className="min-h-0 flex-1 overflow-y-auto pt-1 pr-1">
              <SheetAside work={work} />
            </div>
            {work.aside === "working" && work.costs && reading !== "cost" && reading !== "overview" && (
              <Rings model={ringed} onEntered={onEntered} onOpen={onFigure} />
            )}
          </aside>
        )}
      </div>
      <SheetPanels work={work} />
    </div>
  );
}
