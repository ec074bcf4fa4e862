import { Button } from "../kit/Button";
import { stateOf } from "../model/wire";
import { CostQuestions } from "../pieces/questions/CostQuestions";
import { copy, drop, paste } from "./clipboard";
import { press } from "./commands";
import { SheetGrid } from "./grid/SheetGrid";
import { Overview } from "./readings/Overview";
import { SummedList } from "./readings/SummedList";
import { TimeChart } from "./readings/TimeChart";
import { TreePicture } from "./readings/TreePicture";
import { keepTyped } from "./typing";
import type { ReadWork } from "./useWork";

/** The sheet as it is being read: as a grid, or in one of the other ways. */
export function SheetBody({ work }: { work: ReadWork }) {
  const { head, view, model, basis, reading } = work;
  const toNumber = (number: string) => {
    const part = view.parts.find((p) => p.number === number);
    if (part) work.goTo(part);
  };
  switch (reading) {
    case "overview":
      return (
        <Overview
          key={head.id}
          model={model}
          basis={basis}
          onPart={work.goTo}
          onFigure={(figure) => {
            work.setAside("working");
            work.setAsked(figure);
          }}
        />
      );
    case "parts":
    case "top":
      return <SummedList view={view} topOnly={reading === "top"} onPart={work.goTo} />;
    case "tree":
      return <TreePicture model={model} onPart={work.goTo} />;
    case "time":
      return <TimeChart sheet={head.id} state={stateOf(view)} basis={basis} onPart={toNumber} />;
    case "cost":
      return <CostQuestions view={view} basis={basis} revisions={work.revisions} />;
    default:
      return (
        <>
          {reading === "lines" && <KeptOff work={work} />}
          <SheetGrid
            ref={work.grid}
            rows={work.rows}
            columns={work.columns}
            costs={work.columnSet === "cost"}
            view={view}
            total={view.parts[view.top]!.cost ?? 0}
            cursor={work.cursor}
            editing={work.editing}
            editable={work.editable}
            centers={work.centers}
            units={work.units}
            findings={work.findings}
            chosen={work.chosenKeys}
            onExtend={work.extend}
            onCopy={(event) => copy(work, event)}
            onPaste={(event) => paste(work, event)}
            onDropLine={(moved, at) => drop(work, moved, at)}
            onCursor={work.place}
            onEdit={work.setEditing}
            onKeep={(at, column, text, make) => keepTyped(work, at, column, text, make)}
            onToggle={work.toggle}
            onKey={(event) => press(work, event)}
          />
        </>
      );
  }
}

function KeptOff({ work }: { work: ReadWork }) {
  const count = work.view.lines.filter((line) => line.kept_off.includes("lines")).length;
  if (count === 0) return null;
  return (
    <p className="noprint pb-1.5 text-ink-2">
      {count} {count === 1 ? "line is" : "lines are"} kept off this list
      <Button look="quiet" className="!min-h-0" onClick={() => work.setKeptOff(!work.keptOff)}>
        {work.keptOff ? "hide" : "show"}
      </Button>
    </p>
  );
}
