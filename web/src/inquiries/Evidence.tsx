import { keepPreviousData, useQuery } from "@tanstack/react-query";
import type { RefObject } from "react";
import { Keyed } from "../kit/Keyed";
import { answer, client } from "../lib/api";
import { day } from "../lib/number";
import { against, type InquiryLine, mendable, pieces } from "../model/inquiry";
import type { Asking } from "./asking";
import { FindingsOfLine } from "./FindingsOfLine";
import { Mend } from "./Mend";
import { Proposals } from "./Proposals";
import type { Evidence as Beside, CouldBe } from "./states";

/** What stands beside a line, asked again whenever the line was written. */
export function useEvidence(id: number, line: InquiryLine | undefined) {
  return useQuery({
    queryKey: ["inquiry-evidence", id, line?.id ?? 0, line?.stamp ?? 0],
    queryFn: () =>
      answer(
        client.GET("/api/inquiries/{inquiry_id}/lines/{line_id}", {
          params: { path: { inquiry_id: id, line_id: line!.id } },
        }),
      ),
    enabled: line !== undefined,
    placeholderData: keepPreviousData,
    staleTime: 60_000,
  });
}

/** What the list says besides its rows and pieces, which stand in the grid. */
const told = (text: Beside["texts"][number]) =>
  text.own !== null ||
  !(text.field === "level" || text.field === "item" || (text.field === "unit" && text.text === "ea"));

const VERBS: Record<string, string> = {
  take: "held for",
  refuse: "refused",
  out: "left out",
  open: "opened again",
  mend: "mended",
  waive: "waiver of",
  answer: "laid on it:",
};

/** The evidence for the line at the cursor: the sender's text as it was read, what stands against it, and who it could be. */
export function Evidence({
  id,
  line,
  beside,
  chosen,
  onChoose,
  onTake,
  onRefuse,
  panel,
  asking,
}: {
  id: number;
  line: InquiryLine;
  beside: Beside | undefined;
  chosen: string;
  onChoose: (part: string) => void;
  onTake: (could: CouldBe) => void;
  onRefuse: (could: CouldBe) => void;
  panel: RefObject<HTMLElement | null>;
  asking: Asking;
}) {
  if (!beside || beside.line !== line.id)
    return <aside ref={panel} aria-label="Evidence" className="w-[390px] shrink-0" aria-busy />;
  return (
    <aside
      ref={panel}
      aria-label="Evidence"
      tabIndex={-1}
      className="flex w-[390px] shrink-0 flex-col gap-3 overflow-y-auto border-l border-hair-2 bg-paper px-4 py-3"
    >
      <section aria-label="What they wrote">
        <h2 className="text-[12px] text-ink-2">
          {line.row ? `What they wrote, row ${line.row}` : "What the list is for"}
          {beside.kind && `, read as ${/^[aeiou]/.test(beside.kind) ? "an" : "a"} ${beside.kind}`}
        </h2>
        <dl className="mt-1 grid grid-cols-[104px_1fr] gap-x-2">
          {beside.texts.filter(told).map((text) => (
            <div key={text.word} className="contents">
              <dt className="text-ink-3">{text.word}</dt>
              <dd
                className={
                  text.field.includes("part") || text.field.includes("number") ? "pn break-words" : "break-words"
                }
              >
                {text.field === "description" ? <Read text={text.text} spans={beside.spans} /> : text.text || "–"}
                {text.own !== null && (
                  <span className="ml-1 font-sans text-[12px] text-brass" title="what the sender wrote">
                    they wrote: {text.own || "nothing"}
                  </span>
                )}
              </dd>
            </div>
          ))}
          {beside.data && (
            <>
              <dt className="text-ink-3">parts data</dt>
              <dd title={beside.data.description}>
                {beside.data.words}
                {beside.data.day && <span className="text-[12px] text-ink-3"> asked {day(beside.data.day)}</span>}
              </dd>
            </>
          )}
          {beside.layout && (
            <>
              <dt className="text-ink-3">layout</dt>
              <dd>{beside.layout}</dd>
            </>
          )}
        </dl>
      </section>
      <FindingsOfLine id={id} line={line} beside={beside} asking={asking} />
      {asking.what === "mend" && (
        <Mend key={asking.field} id={id} line={line} beside={beside} field={asking.field} onDone={asking.done} />
      )}
      {!asking.what && (
        <div className="flex gap-1.5">
          <Keyed keys="M" needs="inquiries" onClick={() => asking.start("mend", mendable(line))}>
            Mend it
          </Keyed>
          {against(line).some((f) => f.severity === "look") && (
            <Keyed keys="W" needs="inquiries" onClick={() => asking.start("waive")}>
              It may stand
            </Keyed>
          )}
          <Keyed keys="Q" needs="inquiries" onClick={() => asking.start("ask")}>
            Ask the sender
          </Keyed>
        </div>
      )}
      <Proposals line={line} beside={beside} chosen={chosen} onChoose={onChoose} onTake={onTake} onRefuse={onRefuse} />
      {beside.decisions.length > 0 && (
        <section aria-label="What was decided">
          <h2 className="text-[12px] text-ink-2">What was decided</h2>
          <ul className="text-[12px] text-ink-2">
            {beside.decisions.slice(0, 6).map((d) => (
              <li key={`${d.batch} ${d.verb} ${d.at}`} className={d.back ? "line-through" : ""}>
                {VERBS[d.verb]}{" "}
                {d.verb === "take" ? <span className="pn">{d.part}</span> : d.words.replaceAll("-", " ")}
                {d.verb === "take" && `, ${d.words}`} · {d.by}, {day(d.at)}
              </li>
            ))}
          </ul>
        </section>
      )}
    </aside>
  );
}

function Read({ text, spans }: { text: string; spans: Beside["spans"] }) {
  return (
    <>
      {pieces(text, spans).map(([words, field], at) =>
        field ? (
          <span
            // biome-ignore lint/suspicious/noArrayIndexKey: a piece is its place in the text
            key={at}
            className="border-b-2 border-blue-line"
            title={field}
          >
            {words}
          </span>
        ) : (
          words
        ),
      )}
    </>
  );
}
