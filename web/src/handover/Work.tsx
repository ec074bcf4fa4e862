import { useCallback, useMemo, useRef, useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { Button } from "../kit/Button";
import { useCommands } from "../kit/commands";
import { Empty } from "../kit/Empty";
import { Field } from "../kit/Field";
import { Panel } from "../kit/Panel";
import { pressed } from "../kit/pressed";
import { addressNow } from "../lib/address";
import { useMay } from "../lib/session";
import {
  branch,
  type Choice,
  type Compared,
  counts,
  decisions,
  nextOpen,
  type SideRow,
  shown,
  VERDICTS,
} from "../model/handover";
import { AddByHand } from "./AddByHand";
import { handoverCommands } from "./commands";
import { Ledger } from "./Ledger";
import { Mark } from "./Mark";
import { PartLedger } from "./PartLedger";
import { RoutingPanel } from "./RoutingPanel";
import { Rows } from "./Rows";
import { type ShownHandover, useHandoverVerbs } from "./useHandover";

/** What does not agree, and the ledger of the row at the cursor: a key decides, and goes on to the next that waits. */
export function Work({
  head,
  compared,
  agreeing,
  onAgreeing,
}: {
  head: ShownHandover["head"];
  compared: Compared;
  agreeing: boolean;
  onAgreeing: () => void;
}) {
  const [params, setParams] = useSearchParams();
  const navigate = useNavigate();
  const verbs = useHandoverVerbs(head.id);
  const may = useMay("handover");
  const [opened, setOpened] = useState<"by hand" | "routing" | "keep" | null>(null);
  const aside = useRef<HTMLElement>(null);
  const verdict = params.get("only") ?? "";
  const listed = useMemo(() => shown(compared, verdict), [compared, verdict]);
  const name = (s: (typeof listed)[number]) => s.row?.key ?? s.part.number;
  const [at, setAt] = useState(params.get("row") ?? "");
  const here = listed.find((s) => name(s) === at) ?? listed.find((s) => s.row) ?? listed[0];
  const say = useCallback(
    (word: string, value: string) => {
      const next = addressNow();
      if (value) next.set(word, value);
      else next.delete(word);
      setParams(next, { replace: true });
    },
    [setParams],
  );
  const go = (to: (typeof listed)[number] | undefined) => {
    if (!to) return;
    setAt(name(to));
    say("row", name(to));
  };
  const goTo = (key: string, part: string) => {
    say("only", "");
    setAt(key || part);
  };
  const toStop = () => {
    const now = compared.stops.findIndex((s) => (s.row || s.part) === at);
    const next = compared.stops[(now + 1) % compared.stops.length];
    if (next) goTo(next.row, next.part);
  };
  const decide = (rows: SideRow[], choice: Choice | "", field?: string) => {
    const list = decisions(rows, choice, field);
    if (list.length && may) verbs.decide.mutate(list);
  };
  const row = here?.row;
  const onRow = (choice: Choice | "") => {
    if (!row) return;
    decide([row], choice);
    // What was just decided waits no longer.
    const rest = listed.filter((s) => s.row !== row);
    if (choice && here) go(nextOpen(rest, here.id) ?? here);
  };
  const onBranch = (choice: Choice) => {
    if (!here) return;
    const parts = branch(compared, here.part.number);
    decide(
      compared.rows.filter((r) => parts.has(r.part)),
      choice,
    );
  };
  const changes = () => navigate(`/handover/${head.id}/changes`);
  const commands = handoverCommands({
    next: () => go(nextOpen(listed, here?.id ?? null)),
    ours: () => onRow("ours"),
    theirs: () => onRow("theirs"),
    leave: () => onRow("leave"),
    again: () => onRow(""),
    oursBelow: () => onBranch("ours"),
    theirsBelow: () => onBranch("theirs"),
    leaveBelow: () => onBranch("leave"),
    byHand: () => here && may && setOpened("by hand"),
    read: () => verbs.plainly.mutate("read"),
    changes,
    agreeing: onAgreeing,
  });
  useCommands(commands);
  const found = counts(compared.rows);
  const same = Object.entries(compared.agreeing).filter(([, n]) => n > 0);
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the keys of the screen, wherever on it one stands
    <div className="flex min-h-0 flex-1 flex-col gap-2" onKeyDown={(event) => pressed(event, commands, () => {})}>
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        {VERDICTS.filter((v) => found[v]).map((v) => (
          <button
            key={v}
            type="button"
            aria-pressed={verdict === v}
            onClick={() => say("only", verdict === v ? "" : v)}
            className={`inline-flex min-h-[26px] items-center gap-1 rounded-[3px] border px-1.5 ${verdict === v ? "border-blue bg-blue-tint" : "border-transparent hover:border-hair-2"}`}
          >
            <Mark verdict={v} />
            {found[v]} {v}
          </button>
        ))}
        {!agreeing && (
          <span className="text-ink-3">
            {same.length
              ? `${same.map(([kind, n]) => `${n.toLocaleString("en")} ${kind}`).join(", ")} agree`
              : "nothing agrees yet"}
          </span>
        )}
        {same.length > 0 && (
          <Button look="quiet" className="!min-h-0" onClick={onAgreeing}>
            {agreeing ? "Hide what agrees" : "Show them"}
          </Button>
        )}
        <span className="ml-auto flex items-center gap-2">
          {compared.stops.length > 0 && (
            <Button look="quiet" className="!min-h-0 !text-bad" onClick={toStop}>
              {compared.stops.length} {compared.stops.length === 1 ? "thing stops" : "things stop"} it
            </Button>
          )}
          <Button look="strong" onClick={changes}>
            Change sheet, {compared.sheet.changes.length} <kbd className="text-[11px]">C</kbd>
          </Button>
        </span>
      </div>
      {listed.length === 0 ? (
        <Empty title="Both sides are in step">
          Nothing is different in what crosses; read their side again to be sure of just now.
        </Empty>
      ) : (
        <div className="-mr-4 flex min-h-0 flex-1">
          <div className="flex min-w-0 flex-1 flex-col">
            <Rows
              rows={listed}
              total={compared.rows.length + compared.parts.length}
              cursor={here?.id ?? null}
              onCursor={(id) => go(listed.find((s) => s.id === id))}
            />
          </div>
          <aside
            ref={aside}
            aria-label="Ledger"
            className="w-[372px] shrink-0 overflow-y-auto border-t border-l border-ink border-l-hair-2 bg-paper px-3 py-2"
          >
            {compared.stops.length > 0 && (
              <details className="mb-2 border-b border-hair-2 pb-2">
                <summary className="cursor-pointer text-bad">What stops it</summary>
                <ul>
                  {compared.stops.map((s) => (
                    <li key={`${s.row} ${s.words}`} className="py-0.5">
                      <button type="button" className="text-left hover:underline" onClick={() => goTo(s.row, s.part)}>
                        <span className="pn">{s.part}</span> {s.words}
                      </button>
                    </li>
                  ))}
                </ul>
              </details>
            )}
            {row && (
              <Ledger
                id={head.id}
                row={row}
                compared={compared}
                onChoose={(choice, field) =>
                  field && row.fields.length > 1 ? decide([row], choice, field) : onRow(choice)
                }
                onThroughout={(choice, field) => decide(compared.rows, choice, field)}
                onKeep={() => setOpened("keep")}
              />
            )}
            {here && !row && (
              <PartLedger
                id={head.id}
                shown={here}
                compared={compared}
                onBranch={onBranch}
                onByHand={() => setOpened("by hand")}
                onRouting={() => setOpened("routing")}
                onLetGo={(line) => verbs.letGoLine.mutate(line)}
              />
            )}
          </aside>
        </div>
      )}
      {opened === "by hand" && here && (
        <AddByHand id={head.id} record={head.record} part={here.part} onClose={() => setOpened(null)} />
      )}
      {opened === "routing" && here && <RoutingPanel id={head.id} part={here.part} onClose={() => setOpened(null)} />}
      {opened === "keep" && row && (
        <Keep
          words={row.words}
          error={verbs.keep.error?.message}
          onKeep={(reason) => verbs.keep.mutate({ row: row.key, reason }, { onSuccess: () => setOpened(null) })}
          onClose={() => setOpened(null)}
        />
      )}
    </div>
  );
}

function Keep({
  words,
  error,
  onKeep,
  onClose,
}: {
  words: string;
  error?: string;
  onKeep: (reason: string) => void;
  onClose: () => void;
}) {
  const [reason, setReason] = useState("");
  return (
    <Panel
      title={`Leave ${words} to them`}
      note="It stays over there and is not compared again; it is not added here."
      open
      onClose={onClose}
    >
      <form
        className="mt-4 flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          onKeep(reason);
        }}
      >
        <Field label="Why production needs it" error={error}>
          {(props) => (
            <input
              {...props}
              autoFocus
              value={reason}
              onChange={(event) => setReason(event.target.value)}
              className="h-8 border border-hair-2 bg-paper px-2"
            />
          )}
        </Field>
        <span>
          <Button type="submit" look="strong" disabled={!reason.trim()}>
            Leave it to them
          </Button>
        </span>
      </form>
    </Panel>
  );
}
