import { useRef, useState } from "react";
import { Link, useParams } from "react-router";
import { Button } from "../kit/Button";
import { useCommands } from "../kit/commands";
import { download } from "../kit/download";
import { Empty } from "../kit/Empty";
import { JobProgress } from "../kit/JobProgress";
import { Menu, MenuItem } from "../kit/Menu";
import { pressed } from "../kit/pressed";
import { useRefusal } from "../lib/session";
import { drawingCommands } from "./commands";
import { Laying } from "./Laying";
import { withoutLines, withoutView } from "./laid";
import { Numbers } from "./Numbers";
import { Paper } from "./Paper";
import { type Drawing, useDrawing } from "./useDrawing";

/** The drawing of an assembly: views of its model on paper, balloons that follow the sheet, its list and title. */
export function DrawingScreen() {
  const number = useParams().number!;
  const { found, begin, keep, balloons, view, picture, undo, numbered, failed, busy } = useDrawing(number);
  const may = !useRefusal("sheets");
  const [chosen, setChosen] = useState("");
  const [numbering, setNumbering] = useState(false);
  const screen = useRef<HTMLDivElement>(null);
  const drawing = found.data;
  const laid = drawing?.laid;
  const chooseLast = (now: Drawing) => setChosen(now.laid.views.at(-1)?.key ?? "");
  const pdf = () => download(`/api/drawings/one/paper/pdf?${new URLSearchParams({ number })}`).catch(failed);
  const commands = drawingCommands({
    away: () => {
      if (!laid || !chosen || !may) return;
      const left = withoutView(laid, chosen);
      keep.mutate({ ...left, balloons: withoutLines(left.balloons, (line) => line === chosen) });
      setChosen("");
      // What had the keys is gone.
      screen.current?.focus();
    },
    undo: () => may && undo(),
    balloons: () => laid && may && balloons.mutate(),
    numbers: () => laid && may && setNumbering(true),
    pdf,
    none: () => setChosen(""),
  });
  useCommands(commands);
  if (found.isPending) return null;
  if (!drawing)
    return (
      <Empty
        title={`${number} has no drawing yet`}
        action={
          <Button needs="sheets" look="strong" disabled={begin.isPending} onClick={() => begin.mutate()}>
            Begin its drawing
          </Button>
        }
      >
        {found.error?.status === 404
          ? "A drawing shows views of the model, and pictures or pages of a PDF, with balloons that carry the item numbers of the sheet and follow them. Views take a STEP file of the assembly, on the page of the part."
          : found.error?.message}
      </Empty>
    );
  const query = new URLSearchParams({ number });
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the keys of the screen, wherever on it one stands
    <div
      ref={screen}
      tabIndex={-1}
      className="flex h-full flex-col outline-none"
      onKeyDown={(event) => pressed(event, commands, () => {})}
    >
      <header className="flex flex-wrap items-baseline gap-x-4 gap-y-1 px-4 pt-3 pb-2">
        <h1 className="flex items-baseline gap-3 text-[20px] font-semibold">
          Drawing
          <Link
            className="font-mono tracking-tight hover:text-blue hover:underline"
            to={`/part/${encodeURIComponent(number)}`}
          >
            {number}
          </Link>
          <span className="font-normal">{drawing.description}</span>
        </h1>
        <Link
          className="text-blue hover:underline"
          to={`/sheets/${encodeURIComponent(number)}?sheet=${drawing.sheet}&drafts=1`}
        >
          follows revision {drawing.revision}, {drawing.status}
        </Link>
        <span className="ml-auto flex gap-1.5">
          <Button needs="sheets" className="!min-h-[28px]" title="Ctrl Z" disabled={busy} onClick={undo}>
            Step back
          </Button>
          <Button
            needs="sheets"
            className="!min-h-[28px]"
            title="Every line of which something is seen gets a balloon; those put by hand stay"
            disabled={busy}
            onClick={() => balloons.mutate()}
          >
            Put the balloons
          </Button>
          <Button needs="sheets" className="!min-h-[28px]" disabled={busy} onClick={() => setNumbering(!numbering)}>
            Number by position …
          </Button>
          <Menu label="Leaves as …" className="!min-h-[28px]">
            {(
              [
                ["pdf", "PDF at true scale"],
                ["svg", "SVG at true scale"],
                ["dxf", "DXF"],
              ] as const
            ).map(([shape, words]) => (
              <MenuItem
                key={shape}
                onSelect={() => download(`/api/drawings/one/paper/${shape}?${query}`).catch(failed)}
              >
                {words}
              </MenuItem>
            ))}
          </Menu>
        </span>
      </header>
      {drawing.job && <JobProgress job={drawing.job} stale={["drawings", number]} className="mx-4 mb-2" />}
      {drawing.failed && !drawing.job && drawing.troubles.length > 0 && (
        <p role="alert" className="mx-4 mb-2 text-bad">
          {drawing.failed}
        </p>
      )}
      {!drawing.job && drawing.troubles.length > 0 && (
        <div
          role="status"
          className="mx-4 mb-2 flex items-baseline gap-3 border border-hair-2 bg-brass-tint px-3 py-1 text-brass"
        >
          <span>{drawing.troubles.join(" ")}</span>
          {may && (
            <Button
              look="quiet"
              className="ml-auto !min-h-6 shrink-0"
              disabled={busy}
              onClick={() => balloons.mutate()}
            >
              Bring the balloons up to date
            </Button>
          )}
        </div>
      )}
      {numbering && (
        <Numbers
          drawing={drawing}
          onDone={(now) => {
            numbered(now);
            setNumbering(false);
          }}
          onClose={() => setNumbering(false)}
        />
      )}
      <div className="grid min-h-0 flex-1 grid-cols-[232px_1fr] border-t border-hair">
        <Laying
          drawing={drawing}
          may={may}
          chosen={chosen}
          onChoose={setChosen}
          onKeep={(laid) => keep.mutate(laid)}
          onAdd={(asked) => view.mutate(asked, { onSuccess: chooseLast })}
          onPicture={(asked) => picture.mutate(asked, { onSuccess: chooseLast })}
        />
        <Paper drawing={drawing} may={may} chosen={chosen} onChoose={setChosen} onKeep={(laid) => keep.mutate(laid)} />
      </div>
    </div>
  );
}
