import { Button } from "../../kit/Button";
import type { Schemas } from "../../lib/api";
import { quantity } from "../../lib/number";

/** What a list of offers comes to: how many were or could be kept, which rows are wrong, and a way to keep the good ones. */
export function ListSaid({ said, onKeep }: { said: Schemas["OfferListOut"]; onKeep?: () => void }) {
  const wrong = said.wrong > 0 ? said.problems.slice(0, 12) : said.good === 0 ? said.problems : [];
  return (
    <div role="status" className="pt-2">
      {said.kept > 0
        ? `Kept ${quantity(said.kept)} ${said.kept === 1 ? "offer" : "offers"}${said.replaced ? `, in the place of ${quantity(said.replaced)} of earlier lists` : ""}.`
        : said.wrong > 0 || said.good > 0
          ? `Nothing was kept yet: ${quantity(said.good)} ${said.good === 1 ? "offer is" : "offers are"} right${said.wrong ? `, ${quantity(said.wrong)} ${said.wrong === 1 ? "row is" : "rows are"} not` : ""}.`
          : wrong.length === 0 && "No row of it has a price."}
      {wrong.length > 0 && (
        <ul className="text-bad">
          {wrong.map((words) => (
            <li key={words}>{words}</li>
          ))}
          {said.wrong > 12 && <li>and {quantity(said.wrong - 12)} more</li>}
        </ul>
      )}
      {said.look.slice(0, 6).map((words) => (
        <p key={words} className="text-brass">
          look at {words}
        </p>
      ))}
      {onKeep && said.kept === 0 && said.good > 0 && (
        <Button needs="buying" look={said.wrong ? "plain" : "strong"} className="mt-1.5" onClick={onKeep}>
          {said.wrong
            ? `Keep the ${quantity(said.good)} that ${said.good === 1 ? "is" : "are"} right`
            : `Keep ${said.good === 1 ? "it" : `all ${quantity(said.good)}`}`}
        </Button>
      )}
    </div>
  );
}
