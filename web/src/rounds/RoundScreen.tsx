import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { Ask } from "../kit/Ask";
import { Button } from "../kit/Button";
import { type Command, useCommands } from "../kit/commands";
import { download } from "../kit/download";
import { JobProgress, useJobEnd } from "../kit/JobProgress";
import { Menu, MenuItem } from "../kit/Menu";
import { useSay } from "../kit/Says";
import { addressNow } from "../lib/address";
import { answer, client, type Refusal, type Schemas } from "../lib/api";
import { day, money, quantity } from "../lib/number";
import { useUntrue } from "../lib/untrue";
import { SCOPE_WORDS, useRound, useRoundVerb } from "../pieces/useRounds";
import { MovedPart } from "./MovedPart";
import { MovedTable } from "./MovedTable";
import { ProposalTable } from "./ProposalTable";
import { Propose } from "./Propose";
import { RoundHistory } from "./RoundHistory";
import { RoundPanel } from "./RoundPanel";
import { Moved } from "./RoundStrip";

const KEYS: Command[] = [
  { keys: "ArrowUp ArrowDown", words: "move from part to part, in the list" },
  { keys: "Escape", words: "back in a working, then out of it" },
];

/** One round: what it proposes, what it comes to, and its way to being accepted or dropped. */
export function RoundScreen() {
  const id = Number(useParams().id);
  const [params, setParams] = useSearchParams();
  useCommands(KEYS);
  const [panel, setPanel] = useState<"propose" | "change" | "history" | null>(null);
  const found = useRound(id);
  const [asking, setAsking] = useState(false);
  const say = useSay();
  const untrue = useUntrue();
  const path = { params: { path: { round_id: id } } };
  const tally = useRoundVerb(id, () => answer(client.POST("/api/rounds/{round_id}/tally", path)));
  const drop = useRoundVerb(id, () => answer(client.POST("/api/rounds/{round_id}/drop", path)));
  const accept = useRoundVerb<number>(id, (version) =>
    answer(client.POST("/api/rounds/{round_id}/accept", { ...path, body: { version } })),
  );
  const takeOver = useMutation<Schemas["TakenOver"], Refusal, void>({
    mutationFn: () => answer(client.POST("/api/rounds/{round_id}/inputs", path)),
    onSuccess: (done) => {
      untrue("part");
      untrue("work center");
      const left = done.left ? ` ${done.left} of lines and operations stand on sheets: change those by a draft.` : "";
      say(`${done.parts} parts and ${done.centers} work centers have its inputs now.${left}`);
    },
    onError: (error) => say(error.message, { bad: true }),
  });
  const round = found.data;
  const reading = params.get("read") ?? (round?.tally ? "parts" : "proposals");
  const set = (changes: Record<string, string | null>) =>
    setParams(
      () => {
        const next = addressNow();
        for (const [name, value] of Object.entries(changes)) value ? next.set(name, value) : next.delete(name);
        return next;
      },
      { replace: true },
    );
  // What the worker did is read when it is done.
  const job = round?.job;
  useJobEnd(job, () => {
    if (!round) return;
    untrue("standard");
    if (round.failed) say(round.failed, { bad: true });
    else if (round.status === "accepted")
      say(`${round.name} is accepted; its standards hold from ${day(round.first_day)} on.`);
    else say(`${round.name} is tallied.`);
  });
  if (found.error && !found.data)
    return (
      <p role="alert" className="p-6 text-bad">
        {found.error.message} <Link to="/rounds">To the rounds</Link>
      </p>
    );
  if (!round) return null;
  const open = round.status === "open";
  const stale = round.tally?.stale ?? [];
  const refusal = tally.error ?? accept.error ?? drop.error;
  return (
    <div className="flex h-full flex-col px-4 pt-3">
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1 pb-1.5">
        <h1 className="text-[20px] font-semibold">
          <Link to="/rounds" className="mr-2 text-[13px] font-normal text-blue hover:underline">
            Rounds
          </Link>
          {round.name}
        </h1>
        <span className="text-ink-2">
          {round.status}, holds from <b className="text-ink">{day(round.first_day)}</b>,{" "}
          {round.scope === "chosen" ? `${quantity(round.chosen.length)} chosen parts` : SCOPE_WORDS[round.scope]}
          {round.closed_by && `, ${round.status} by ${round.closed_by} on ${day(round.closed_at)}`}
        </span>
        <span className="ml-auto flex items-center gap-1.5">
          {round.why_not.change === null && (
            <>
              <Button needs="rounds" onClick={() => setPanel("propose")} disabled={!!job}>
                Propose …
              </Button>
              <Button
                needs="rounds"
                look={!round.tally || stale.length > 0 ? "strong" : "plain"}
                disabled={(!!job && !job.waits) || tally.isPending}
                onClick={() => {
                  accept.reset();
                  tally.mutate();
                  set({ read: "parts" });
                }}
              >
                {round.tally ? "Tally again" : "Tally"}
              </Button>
            </>
          )}
          {open && (
            <Button
              needs="standards"
              look={round.tally && stale.length === 0 ? "strong" : "plain"}
              disabled={!!job || accept.isPending}
              why={round.why_not.accept ?? undefined}
              onClick={() => setAsking(true)}
            >
              Accept as standards
            </Button>
          )}
          <Menu label="Round …">
            {round.why_not.change === null && (
              <MenuItem needs="rounds" onSelect={() => setPanel("change")}>
                Name, day and parts …
              </MenuItem>
            )}
            {round.tally &&
              (
                [
                  ["xlsx", "As a workbook that calculates"],
                  ["csv", "As CSV"],
                  ["pdf", "As PDF, to print"],
                ] as const
              ).map(([shape, words]) => (
                <MenuItem
                  key={shape}
                  onSelect={() =>
                    download(`/api/rounds/${id}/export/${shape}`).catch((error: Error) =>
                      say(error.message, { bad: true }),
                    )
                  }
                >
                  {words}
                </MenuItem>
              ))}
            {round.why_not.take_over === null && (
              <MenuItem needs="standards" onSelect={() => takeOver.mutate()}>
                Make its prices, lots and rates the inputs, too
              </MenuItem>
            )}
            <MenuItem onSelect={() => setPanel("history")}>History</MenuItem>
            {round.why_not.drop === null && (
              <MenuItem needs="rounds" onSelect={() => drop.mutate()}>
                Drop it; nothing else changes
              </MenuItem>
            )}
          </Menu>
        </span>
      </div>
      {round.note && <p className="pb-1.5 text-ink-2">{round.note}</p>}
      {job ? (
        <JobProgress job={job} stale={["rounds"]} className="mb-1.5" />
      ) : (
        <>
          {(refusal || round.failed) && (
            <p role="alert" className="mb-1.5 border border-bad bg-bad-tint px-3 py-1.5 text-bad">
              {refusal?.message ?? round.failed}
            </p>
          )}
          {open && stale.length > 0 && (
            <p role="alert" className="mb-1.5 border border-brass bg-brass-tint px-3 py-1.5 text-brass">
              Changed since it was tallied: {stale.slice(0, 4).join("; ")}
              {stale.length > 4 && ` and ${stale.length - 4} more`}. It is to be tallied again before it can be
              accepted.
            </p>
          )}
          {open && round.overlaps.length > 0 && (
            <p className="mb-1.5 border border-brass bg-brass-tint px-3 py-1.5 text-brass">
              Also open over some of the same parts:{" "}
              {round.overlaps.map((o, i) => (
                <span key={o.id}>
                  {i > 0 && ", "}
                  <Link to={`/rounds/${o.id}`} className="underline">
                    {o.name}
                  </Link>{" "}
                  ({quantity(o.parts)})
                </span>
              ))}
              . When one is accepted, the other is to be tallied again.
            </p>
          )}
        </>
      )}
      {round.tally && <Moved round={round} />}
      <div className="flex items-center gap-4 border-b border-ink">
        {(
          [
            ["parts", "What it comes to", round.tally?.parts],
            ["proposals", "What it proposes", round.proposals],
          ] as const
        ).map(([value, words, count]) => (
          <button
            key={value}
            type="button"
            aria-pressed={reading === value}
            className={`-mb-px border-b-2 px-1 py-1.5 ${reading === value ? "border-blue font-semibold text-blue" : "border-transparent text-ink-2 hover:text-ink"}`}
            onClick={() => set({ read: value })}
          >
            {words} {count !== undefined && <span className="font-normal">({quantity(count)})</span>}
          </button>
        ))}
      </div>
      {reading === "proposals" ? (
        <ProposalTable round={round} may={open && !job} onPropose={() => setPanel("propose")} />
      ) : round.tally ? (
        <div className="grid min-h-0 flex-1 grid-cols-[1fr_376px]">
          <MovedTable
            round={round}
            part={Number(params.get("part")) || null}
            onPart={(part) => set({ part: String(part) })}
          />
          <MovedPart key={params.get("part")} round={round} part={Number(params.get("part")) || null} />
        </div>
      ) : (
        <p className="max-w-[560px] py-6 text-ink-2">
          {job
            ? "It is being tallied; this screen may be left meanwhile."
            : "Not tallied yet. Propose what is to change, then tally: every part it reaches is rolled up with and without it, and stands here old beside new."}
        </p>
      )}
      {panel === "propose" && <Propose round={round} onClose={() => setPanel(null)} />}
      {panel === "history" && <RoundHistory round={round} onClose={() => setPanel(null)} />}
      {panel === "change" && <RoundPanel round={round} onClose={() => setPanel(null)} />}
      {round.tally && (
        <Ask
          open={asking}
          title={`Accept ${round.name} as standards?`}
          yes="Accept as standards"
          onYes={() => accept.mutate(round.version)}
          onClose={() => setAsking(false)}
        >
          {quantity(round.tally.parts)} parts get a standard that holds from {day(round.first_day)} on;{" "}
          {quantity(round.tally.moved)} of them move. The stock on hand is valued anew, from{" "}
          {money(round.tally.stock_before)} to {money(round.tally.stock_after)}. Prices, rates and sheets stay as they
          are. It is kept for good and cannot be taken back; a later round can set other standards.
        </Ask>
      )}
    </div>
  );
}
