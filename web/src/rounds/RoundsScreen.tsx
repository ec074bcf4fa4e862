import { useQuery } from "@tanstack/react-query";
import { Link, useSearchParams } from "react-router";
import { Button } from "../kit/Button";
import { Empty } from "../kit/Empty";
import { Word } from "../kit/Word";
import { answer, client } from "../lib/api";
import { day, quantity } from "../lib/number";
import { SCOPE_WORDS } from "../pieces/useRounds";
import { OpenRound } from "./OpenRound";

const GRID = "grid grid-cols-[1fr_90px_110px_170px_80px_70px_110px_190px] items-center gap-x-3 px-3";

/** All rounds: what was proposed, tallied, and accepted or dropped. */
export function RoundsScreen() {
  const [params, setParams] = useSearchParams();
  const rounds = useQuery({ queryKey: ["rounds"], queryFn: () => answer(client.GET("/api/rounds")), staleTime: 0 });
  const opening = params.get("new") === "1";
  const open = (on: boolean) => setParams(on ? { new: "1" } : {}, { replace: true });
  const button = (
    <Button needs="rounds" look="strong" onClick={() => open(true)}>
      Open a round
    </Button>
  );
  return (
    <div className="flex h-full flex-col px-4 pt-3 pb-3">
      <div className="flex items-center gap-3 pb-3">
        <h1 className="text-[20px] font-semibold">
          <Word of="round">Rounds</Word>
        </h1>
        <p className="text-ink-2">
          Standards change only by a round: proposed, tallied, looked at, accepted as a whole.
        </p>
        <span className="ml-auto">{(rounds.data?.length ?? 0) > 0 && button}</span>
      </div>
      {rounds.error && (
        <p role="alert" className="text-bad">
          {rounds.error.message}
        </p>
      )}
      {rounds.data?.length === 0 && (
        <Empty title="No standard was ever accepted" action={button}>
          A round gathers proposed prices, rates, scrap, times and lots, tallies the parts they reach and shows old and
          new beside one another, with the cause of every difference. Accepted, its costs are the standards from its day
          on.
        </Empty>
      )}
      {rounds.data && rounds.data.length > 0 && (
        <div role="table" aria-label="Rounds" className="border-t border-ink bg-paper">
          <div role="row" className={`${GRID} h-7 border-b border-hair-2 text-[12px] text-ink-2`}>
            <span role="columnheader">Round</span>
            <span role="columnheader">State</span>
            <span role="columnheader">Holds from</span>
            <span role="columnheader">Of</span>
            <span role="columnheader" className="text-right">
              Proposed
            </span>
            <span role="columnheader" className="text-right">
              Parts
            </span>
            <span role="columnheader">Opened by</span>
            <span role="columnheader">Closed by</span>
          </div>
          {rounds.data.map((round) => (
            <div key={round.id} role="row" className={`${GRID} h-9 border-b border-hair`}>
              <span role="cell" className="truncate">
                <Link to={`/rounds/${round.id}`} className="text-blue hover:underline">
                  {round.name}
                </Link>{" "}
                <span className="text-ink-3">{round.note}</span>
              </span>
              <span role="cell" className={round.status === "open" ? "font-semibold text-blue" : "text-ink-2"}>
                {round.status}
              </span>
              <span role="cell">{day(round.first_day)}</span>
              <span role="cell">{SCOPE_WORDS[round.scope]}</span>
              <span role="cell" className="text-right">
                {quantity(round.proposals)}
              </span>
              <span role="cell" className="text-right">
                {round.parts ? quantity(round.parts) : "–"}
              </span>
              <span role="cell" className="truncate text-ink-2">
                {round.opened_by}
              </span>
              <span role="cell" className="truncate text-ink-2">
                {round.closed_by && `${round.closed_by}, ${day(round.closed_at)}`}
              </span>
            </div>
          ))}
        </div>
      )}
      {opening && <OpenRound onClose={() => open(false)} />}
    </div>
  );
}
