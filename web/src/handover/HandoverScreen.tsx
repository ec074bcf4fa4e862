import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { Ask } from "../kit/Ask";
import { Button } from "../kit/Button";
import { Empty } from "../kit/Empty";
import { JobProgress } from "../kit/JobProgress";
import { Menu, MenuItem } from "../kit/Menu";
import { dayAndTime } from "../lib/number";
import { Files } from "./Files";
import { Sheet } from "./Sheet";
import { STATES, whatOf } from "./states";
import { type ShownHandover, useHandover, useHandoverVerbs } from "./useHandover";
import { WordsPanel } from "./WordsPanel";
import { Work } from "./Work";

/** One handover: being compared and decided, broken off, or as it was written. */
export function HandoverScreen() {
  const id = Number(useParams().id);
  const [agreeing, setAgreeing] = useState(false);
  const found = useHandover(id, agreeing);
  if (found.error)
    return (
      <p role="alert" className="p-4 text-bad">
        {found.error.message}
      </p>
    );
  if (!found.data) return null;
  const { head, compared, written } = found.data;
  return (
    <div className="flex h-full flex-col gap-2 px-4 pt-2">
      <Head head={head} />
      {head.job && <JobProgress job={head.job} stale={["handovers"]} />}
      {!head.job && head.failed && (
        <p role="alert" className="border-l-2 border-bad bg-bad-tint px-3 py-1.5 text-bad">
          {head.failed}
        </p>
      )}
      {compared && (
        <Work head={head} compared={compared} agreeing={agreeing} onAgreeing={() => setAgreeing(!agreeing)} />
      )}
      {head.state === "work" && !compared && !head.job && (
        <Empty title="Their side was not read yet">
          It is read in full, however large it is; what was decided before stays.
        </Empty>
      )}
      {head.why_not.settle === null && !head.job && <BrokeOff head={head} />}
      {written && (
        <div className="min-h-0 flex-1 overflow-y-auto pb-4">
          <Sheet sheet={written} />
        </div>
      )}
      {head.state !== "work" && <Log head={head} />}
    </div>
  );
}

function Head({ head }: { head: ShownHandover["head"] }) {
  const verbs = useHandoverVerbs(head.id);
  const navigate = useNavigate();
  const [words, setWords] = useState(false);
  const [letGo, setLetGo] = useState(false);
  return (
    <div className="flex items-center gap-3">
      <h1 className="text-[20px] font-semibold whitespace-nowrap">
        <Link to={`/sheets/${head.top}`} className="font-mono underline decoration-hair-2 underline-offset-4">
          {head.top}
        </Link>{" "}
        <span className="font-normal">and {head.record}</span>
      </h1>
      <p className="truncate text-ink-2">
        <span className="pn">{head.number}</span>,{" "}
        {head.sheets.length > 0 && <span title={head.sheets.join(", ")}>{whatOf(head)}, </span>}
        {STATES[head.state]}
        {head.state === "work" && head.read_at && `, read ${dayAndTime(head.read_at)}`}
        {head.ended_at && ` ${dayAndTime(head.ended_at)} by ${head.ended_by}`}
      </p>
      <span className="ml-auto flex gap-2">
        {head.why_not.change === null && (
          <Button
            needs="handover"
            disabled={!!head.job || verbs.plainly.isPending}
            onClick={() => verbs.plainly.mutate("read")}
          >
            Read again <kbd className="text-[11px] text-ink-3">R</kbd>
          </Button>
        )}
        {(head.state === "done" || head.state === "writing") && <Files id={head.id} />}
        {head.state === "done" && <Button onClick={() => navigate("/handover")}>All handovers</Button>}
        {head.why_not.let_go === null && (
          <Menu label="More">
            <MenuItem onSelect={() => setWords(true)}>Words of {head.record}</MenuItem>
            <MenuItem needs="handover" onSelect={() => setLetGo(true)}>
              Let this handover go
            </MenuItem>
          </Menu>
        )}
      </span>
      {words && <WordsPanel record={head.record} onClose={() => setWords(false)} />}
      <Ask
        open={letGo}
        title={`Let ${head.number} go?`}
        yes="Let it go"
        onYes={() => verbs.plainly.mutate("let-go", { onSuccess: () => navigate("/handover") })}
        onClose={() => setLetGo(false)}
      >
        Nothing is written on either side. What was decided stays to be read; a new handover of {head.top} begins
        afresh.
      </Ask>
    </div>
  );
}

function BrokeOff({ head }: { head: ShownHandover["head"] }) {
  const verbs = useHandoverVerbs(head.id);
  return (
    <section className="border-l-2 border-bad bg-bad-tint px-3 py-2">
      <h2 className="font-semibold text-bad">It broke off in the middle of writing</h2>
      <p className="py-1">
        Our side is as it was before. Some of what stands on the sheet below may be written over there: finish it, and
        both sides are whole; or take it back, and both are as before.
      </p>
      <span className="flex gap-2">
        <Button
          look="strong"
          needs="handover"
          disabled={verbs.plainly.isPending}
          onClick={() => verbs.plainly.mutate("finish")}
        >
          Finish it
        </Button>
        <Button needs="handover" disabled={verbs.plainly.isPending} onClick={() => verbs.plainly.mutate("take-back")}>
          Take it back
        </Button>
      </span>
    </section>
  );
}

function Log({ head }: { head: ShownHandover["head"] }) {
  return (
    <section aria-label="What happened" className="shrink-0 border-t border-hair-2 py-2">
      {head.log.map((line) => (
        <p key={`${line.at} ${line.words}`} className="text-ink-2">
          {dayAndTime(line.at)}, {line.by}: {line.words}
        </p>
      ))}
    </section>
  );
}
