import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { useSearchParams } from "react-router";
import { useCommands } from "../kit/commands";
import { download } from "../kit/download";
import { Empty } from "../kit/Empty";
import { JobProgress } from "../kit/JobProgress";
import { pressed } from "../kit/pressed";
import { useSay } from "../kit/Says";
import { addressNow } from "../lib/address";
import {
  AS_FILE,
  against,
  FILTERS,
  type Filter,
  type InquiryLine,
  mendable,
  nextOpen,
  shownLines,
} from "../model/inquiry";
import type { Asking } from "./asking";
import { Board } from "./Board";
import { Builds } from "./Builds";
import { ByHand } from "./ByHand";
import { inquiryCommands } from "./commands";
import { Evidence, useEvidence } from "./Evidence";
import { BringFiles, FilesPanel } from "./FilesPanel";
import { HeadLine, type Opened } from "./HeadLine";
import { HeadPanel } from "./HeadPanel";
import { LineGrid } from "./LineGrid";
import { NewPart } from "./NewPart";
import { NewParts } from "./NewParts";
import { NoData, useAskData } from "./NoData";
import { QuestionsPanel } from "./QuestionsPanel";
import { ReadAs } from "./ReadAs";
import { ResultPanel } from "./ResultPanel";
import { TakeCertain, TwoDecisions } from "./Steps";
import { Strip } from "./Strip";
import type { CouldBe, Inquiry } from "./states";
import { type Asked, useDeciding } from "./useInquiry";

type Step = "by hand" | "new part" | "new parts" | "certain" | null;

/** The lines of an inquiry and the evidence beside the one at the cursor: a key decides and goes on. */
export function WorkSurface({ inquiry, lines }: { inquiry: Inquiry; lines: InquiryLine[] }) {
  const { id } = inquiry;
  const [params, setParams] = useSearchParams();
  const [opened, setOpened] = useState<Opened>(null);
  const [step, setStep] = useState<Step>(null);
  const [reading, setReading] = useState<number | null>(null);
  const [board, setBoard] = useState(false);
  const [chosen, setChosen] = useState("");
  const [words, setWords] = useState("");
  const [asked, setAsked] = useState<{ what: Asking["what"]; field: string }>({ what: null, field: "" });
  const panel = useRef<HTMLElement>(null);
  const tell = useSay();
  const filter = (params.get("left") ?? "all") as Filter;
  const deciding = useDeciding(id);
  const data = useAskData(id);
  // The address follows the cursor; keys that come fast must not wait for it.
  const [wanted, setWanted] = useState(Number(params.get("line")) || null);
  const cursor = lines.some((l) => l.id === wanted) ? wanted : (lines[0]?.id ?? null);
  const line = lines.find((l) => l.id === cursor);
  const shown = useMemo(
    () => shownLines(lines, filter in FILTERS ? filter : "all", words, wanted),
    [lines, filter, words, wanted],
  );
  const beside = useEvidence(id, line).data;
  const toGrid = () => document.querySelector<HTMLElement>("[role=grid]")?.focus();
  const say = useCallback(
    (name: string, value: string) => {
      const next = addressNow();
      if (value) next.set(name, value);
      else next.delete(name);
      setParams(next, { replace: true });
    },
    [setParams],
  );
  useEffect(() => {
    if (wanted === null) return;
    const later = window.setTimeout(() => say("line", String(wanted)), 200);
    return () => window.clearTimeout(later);
  }, [wanted, say]);
  const go = (to: number | null) => {
    setChosen("");
    setAsked({ what: null, field: "" });
    if (to !== null) setWanted(to);
  };
  const decide = (verb: Asked["verb"], part = "") => {
    if (!line) return;
    deciding.decide.mutate([{ line: line.id, seen: line.stamp, verb, part, over: false }]);
    if (verb === "take" || verb === "out") go(nextOpen(shown, line.id) ?? line.id);
  };
  const asking: Asking = {
    ...asked,
    start: (what, field = "") => setAsked({ what, field }),
    done: () => {
      setAsked({ what: null, field: "" });
      toGrid();
    },
  };
  const at = beside?.line === line?.id ? beside : undefined;
  const selected = at?.proposals.find((p) => p.part === chosen) ?? at?.proposals[0];
  // Whoever is faster than the evidence means the part that stands on the row.
  const first = selected?.part ?? (!at && line?.proposals[0] ? line.proposals[1] : "");
  const take = (could: CouldBe) => decide("take", could.part);
  const takeAt = (index: number) => {
    const part = at ? at.proposals[index]?.part : index === 0 ? first : "";
    if (part) decide("take", part);
    else if (!at) tell("Its evidence is on its way; press again.");
  };
  const commands = inquiryCommands({
    next: () => go(nextOpen(shown, cursor) ?? cursor),
    refuse: () => first && decide("refuse", first),
    byHand: () => line && setStep("by hand"),
    newPart: () => line && setStep("new part"),
    newParts: () => setStep("new parts"),
    builds: () => setOpened("builds"),
    leave: () =>
      download("/api/sheets/table/xlsx", {
        title: `${inquiry.number} ${inquiry.title}`,
        columns: AS_FILE.map(({ title }) => ({ title, number: false, total: false })),
        rows: shown.map((l) => AS_FILE.map((c) => c.value(l))),
      }).catch((error: Error) => tell(error.message, { bad: true })),
    out: () => decide(line?.state === "out" ? "open" : "out"),
    open: () => decide("open"),
    ask: () => line && asking.start("ask"),
    waive: () => line && against(line).some((f) => f.severity === "look") && asking.start("waive"),
    mend: () => line && asking.start("mend", mendable(line)),
    certain: () => setStep("certain"),
    undo: deciding.undo,
    board: () => setBoard(!board),
    data: data.mutate,
    find: () => document.querySelector<HTMLElement>("input[aria-label='Find a line']")?.focus(),
    files: () => setOpened("files"),
    questions: () => setOpened("questions"),
    result: () => setOpened("result"),
  });
  useCommands(commands);
  const met = deciding.met[0];
  const close = () => {
    setStep(null);
    setOpened(null);
  };
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the keys of the screen, wherever on it one stands
    <div className="flex h-full flex-col gap-2 px-4 pt-2" onKeyDown={(event) => pressed(event, commands, takeAt)}>
      <HeadLine inquiry={inquiry} onOpen={setOpened} />
      {inquiry.job && <JobProgress job={inquiry.job} stale={["inquiries"]} />}
      {!inquiry.job && inquiry.data && <NoData inquiry={inquiry} />}
      {reading !== null ? (
        <ReadAs inquiry={inquiry} file={reading} onClose={() => setReading(null)} />
      ) : lines.length === 0 ? (
        <Empty
          title={inquiry.files.length ? "No file holds a list yet" : "Bring what they sent"}
          action={<BringFiles id={id} look="strong" />}
        >
          Lists as CSV, XLSX or ODS in any layout, board layouts (IPC-2581), placement files, pictures: several at once,
          in any order.
          {inquiry.files.map(
            (f) =>
              f.failed && (
                <p key={f.id} role="alert" className="mt-2 text-bad">
                  {f.failed}
                </p>
              ),
          )}
        </Empty>
      ) : (
        <>
          <Strip
            lines={lines}
            filter={filter in FILTERS ? filter : "all"}
            onFilter={(name) => say("left", name === "all" ? "" : name)}
            words={words}
            onWords={setWords}
            onCertain={() => setStep("certain")}
            onNewParts={() => setStep("new parts")}
          />
          <div className="-mr-4 flex min-h-0 flex-1">
            <div className="flex min-w-0 flex-1 flex-col">
              <LineGrid lines={shown} total={lines.length} cursor={cursor} onCursor={go} />
              {board && <Board id={id} line={cursor} onLine={go} onClose={() => setBoard(false)} />}
            </div>
            {line && (
              <Evidence
                id={id}
                line={line}
                beside={beside}
                chosen={chosen}
                onChoose={setChosen}
                onTake={take}
                onRefuse={(could) => decide("refuse", could.part)}
                panel={panel}
                asking={asking}
              />
            )}
          </div>
        </>
      )}
      {opened === "head" && <HeadPanel inquiry={inquiry} onClose={close} />}
      {opened === "files" && (
        <FilesPanel
          inquiry={inquiry}
          onRead={(file) => {
            close();
            setReading(file);
          }}
          onClose={close}
        />
      )}
      {opened === "questions" && <QuestionsPanel inquiry={inquiry} onClose={close} />}
      {opened === "result" && (
        <ResultPanel
          inquiry={inquiry}
          onLine={(to) => {
            close();
            go(to);
          }}
          onClose={close}
        />
      )}
      {step === "by hand" && line && (
        <ByHand
          id={id}
          line={line}
          beside={at}
          onTake={(could) => {
            close();
            take(could);
          }}
          onClose={close}
        />
      )}
      {step === "new part" && line && (
        <NewPart
          id={id}
          line={line}
          make={deciding.make}
          onMade={() => {
            close();
            go(nextOpen(shown, line.id) ?? line.id);
          }}
          onClose={close}
        />
      )}
      {step === "new parts" && <NewParts lines={lines} make={deciding.make} onClose={close} />}
      {opened === "builds" && <Builds inquiry={inquiry} lines={lines} onClose={close} />}
      {step === "certain" && (
        <TakeCertain
          lines={lines.filter(FILTERS.certain)}
          onTake={(all) => {
            close();
            deciding.decide.mutate(all);
          }}
          onClose={close}
        />
      )}
      {met && (
        <TwoDecisions
          met={met}
          line={lines.find((l) => l.id === met.line)}
          onTheirs={() => deciding.settle(met.line)}
          onMine={() => {
            deciding.settle(met.line);
            deciding.decide.mutate([{ ...met.asked, over: true }]);
          }}
        />
      )}
    </div>
  );
}
