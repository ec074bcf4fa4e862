import { Button } from "../../kit/Button";
import type { Schemas } from "../../lib/api";

/** What a list of offers came to: how many were kept, which rows are wrong, and a way to keep the good ones. */
export function ListSaid({ said, onAnyway }: { said: Schemas["OfferListOut"]; onAnyway: () => void }) {
  return (
    <div role="status" className="pt-2">
      {said.kept > 0
        ? `Kept ${said.kept} ${said.kept === 1 ? "offer" : "offers"}.`
        : said.wrong > 0
          ? `Nothing was kept yet: ${said.good} ${said.good === 1 ? "offer is" : "offers are"} right.`
          : "No row of it has a price."}
      {said.wrong > 0 && (
        <ul className="text-bad">
          {said.problems.slice(0, 12).map((words) => (
            <li key={words}>{words}</li>
          ))}
          {said.wrong > 12 && <li>and {said.wrong - 12} more</li>}
        </ul>
      )}
      {said.look.slice(0, 6).map((words) => (
        <p key={words} className="text-brass">
          look at {words}
        </p>
      ))}
      {said.kept === 0 && said.good > 0 && (
        <Button needs="buying" className="mt-1.5" onClick={onAnyway}>
          Keep the {said.good} that {said.good === 1 ? "is" : "are"} right
        </Button>
      )}
    </div>
  );
}
