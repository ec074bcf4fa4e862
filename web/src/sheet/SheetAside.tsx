import { useLater } from "../kit/useLater";
import type { Change } from "../model/change";
import { setLine } from "../model/lines";
import { setOperation } from "../model/operations";
import { stateOf } from "../model/wire";
import { SheetFindings } from "../pieces/findings/SheetFindings";
import { RankedInputs } from "../pieces/questions/RankedInputs";
import { WorkingPanel } from "../pieces/working/WorkingPanel";
import { Computed } from "./asides/Computed";
import { Details } from "./asides/Details";
import { Instructions } from "./asides/Instructions";
import { Measured } from "./asides/Measured";
import { OperationHead } from "./asides/OperationHead";
import { OrderOfWork } from "./asides/OrderOfWork";
import { PastePanel } from "./asides/PastePanel";
import { bringLines } from "./clipboard";
import { beside } from "./commands";
import type { ReadWork } from "./useWork";

/** What stands beside the sheet: the working of a figure, or what was opened in its place. */
export function SheetAside({ work }: { work: ReadWork }) {
  const { head, view, basis, row, aside, operation, editable, refused } = work;
  const edit = (changes: Change[]) => {
    refused.fromField(changes);
    work.queue.edit(changes);
  };
  // An edit is drawn before its working is asked for.
  const late = useLater(stateOf(view));
  const shared = { panel: work.side, onClose: work.closeAside };
  const toRow = (id: string, column: string) => {
    work.place({ row: `/${id}`, column });
    work.grid.current?.focus();
  };
  if (work.reading === "cost")
    return <RankedInputs sheet={head.id} state={stateOf(view)} basis={basis} onBasis={work.changeBasis} />;
  if (aside === "pasted" && work.pasted !== null)
    return (
      <PastePanel
        {...shared}
        sheet={head.id}
        text={work.pasted}
        onKeep={(values) => {
          bringLines(work, values);
          work.closeAside();
        }}
      />
    );
  if (aside === "findings")
    return (
      <SheetFindings {...shared} findings={work.findings} sheet={head.id} onLine={(line) => toRow(line, "part")} />
    );
  if (aside === "order")
    return (
      <OrderOfWork
        {...shared}
        operations={work.operations}
        current={operation?.id ?? null}
        editable={editable}
        onSelect={(o) => o.id !== operation?.id && work.place({ row: `/${o.id}`, column: "name" })}
        onFollow={(o, after) => edit(setOperation(o, { after }))}
      />
    );
  const own = editable && operation?.parent === view.top;
  if (aside === "instructions" && operation)
    return (
      <Instructions
        {...shared}
        key={operation.id}
        part={head.part}
        operation={operation}
        editable={own}
        refused={(refused.field(operation.id, "instructions") ?? refused.field(operation.id, "files"))?.message}
        onSet={(after) => edit(setOperation(operation, after))}
      />
    );
  if (aside === "measured" && operation)
    return (
      <Measured
        {...shared}
        operation={operation}
        editable={own}
        onSet={(after) => edit(setOperation(operation, after))}
      />
    );
  if (aside === "computed" && operation)
    return (
      <Computed
        {...shared}
        key={operation.id}
        made={view.parts[operation.parent]!.number}
        operation={operation}
        editable={own}
        refused={refused.field(operation.id, "run_expression")?.message}
        onSet={(after) => edit(setOperation(operation, after))}
      />
    );
  if (aside === "details" && (row?.kind === "line" || row?.kind === "band")) {
    const onSet = (after: Record<string, unknown>) =>
      edit(row.kind === "line" ? setLine(view, row.line, after) : setOperation(row.operation, after));
    return (
      <Details
        {...shared}
        view={view}
        row={row}
        editable={editable}
        head={
          row.kind === "band" &&
          row.operation.beside === null && (
            <OperationHead
              key={row.operation.id}
              view={view}
              operation={row.operation}
              editable={editable && row.own}
              onAside={work.setAside}
              onBeside={() => beside(work)}
              onSet={onSet}
            />
          )
        }
        refused={(field) => refused.field(row.kind === "line" ? row.line.id : row.operation.id, field)}
        centers={work.centers}
        onSet={onSet}
      />
    );
  }
  return (
    <WorkingPanel
      panel={work.side}
      sheet={head.id}
      state={late}
      basis={basis}
      figure={view.problem ? null : work.figure}
      onLeave={() => (work.reading === "overview" ? work.setAsked(null) : work.grid.current?.focus())}
    />
  );
}
