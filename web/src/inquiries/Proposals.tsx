import { Link } from "react-router";
import { Button } from "../kit/Button";
import type { InquiryLine } from "../model/inquiry";
import type { CouldBe, Evidence } from "./states";

const LIFE: Record<string, string> = { last_buy: "last buy", obsolete: "ended", draft: "draft" };

/** Field by field, theirs against ours, with the verdict in words. */
export function LedgerTable({ could }: { could: CouldBe }) {
  if (could.ledger.length === 0)
    return <p className="text-[12px] text-ink-3">Neither text states a value that could be compared.</p>;
  return (
    <table className="w-full text-[13px]">
      <thead>
        <tr className="text-left text-[12px] text-ink-3">
          <th className="w-[84px] font-normal">field</th>
          <th className="font-normal">theirs</th>
          <th className="font-normal">ours</th>
          <th className="w-[74px] font-normal">verdict</th>
        </tr>
      </thead>
      <tbody>
        {could.ledger.map((row) => (
          <tr key={row.field} className="border-t border-hair align-top">
            <td className="text-ink-2">{row.field}</td>
            <td>{row.theirs || "–"}</td>
            <td>{row.ours || "–"}</td>
            <td
              className={
                row.verdict === "differs" ? "font-semibold text-bad" : row.verdict === "not stated" ? "text-ink-3" : ""
              }
            >
              {row.verdict}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** What agrees and what does not, in one line. */
function inShort(could: CouldBe): string {
  const counts = (verdict: string) => could.ledger.filter((row) => row.verdict === verdict);
  const differs = counts("differs").map((row) => row.field);
  const words = [`${counts("agrees").length} agree`];
  if (counts("meets").length) words.push(`${counts("meets").length} met`);
  if (differs.length) words.push(`${differs.join(", ")} differs`);
  return could.ledger.length ? words.join(" · ") : "";
}

/** Who the line could be, each numbered: the digit takes it and goes on. */
export function Proposals({
  line,
  beside,
  chosen,
  onChoose,
  onTake,
  onRefuse,
}: {
  line: InquiryLine;
  beside: Evidence;
  chosen: string;
  onChoose: (part: string) => void;
  onTake: (could: CouldBe) => void;
  onRefuse: (could: CouldBe) => void;
}) {
  const at = beside.proposals.find((p) => p.part === chosen) ?? beside.proposals[0];
  return (
    <section aria-label="Who it could be">
      <h2 className="text-[12px] text-ink-2">
        {line.state === "paired" ? "What we hold it for, and who else it could be" : "Who it could be"}
        {beside.refused.length > 0 && ` · refused: ${beside.refused.join(", ")}`}
      </h2>
      {beside.proposals.length === 0 && (
        <p className="mt-1 text-ink-3">
          Nothing of ours is like it. H looks by hand, P makes a new part, Q asks the sender.
        </p>
      )}
      <ol className="mt-1 flex flex-col">
        {beside.proposals.map((could, index) => {
          const open = could === at;
          const held = line.state === "paired" && line.ours === could.part;
          const life = LIFE[could.lifecycle];
          return (
            <li key={could.part} className={`border-t border-hair py-1.5 ${open ? "" : "opacity-90"}`}>
              <div className="flex items-baseline gap-2">
                <Button
                  look={index === 0 && line.state === "open" ? "strong" : "plain"}
                  needs="inquiries"
                  className="!min-h-[22px] !px-1.5 font-mono text-[12px]"
                  aria-label={`${index === 9 ? 0 : index + 1}: take ${could.part}`}
                  onClick={() => onTake(could)}
                >
                  {index === 9 ? 0 : index + 1}
                </Button>
                <button
                  type="button"
                  className="pn min-w-0 truncate text-left hover:underline"
                  aria-expanded={open}
                  onClick={() => onChoose(could.part)}
                >
                  {could.part}
                </button>
                <span className="ml-auto text-[12px] whitespace-nowrap text-ink-2">
                  {held ? "held" : could.road}
                  {could.certain && !held && ", certain"}
                </span>
              </div>
              <p className="truncate text-ink-2" title={could.description}>
                {could.description}
              </p>
              <p className="flex flex-wrap gap-x-2 text-[12px] text-ink-3">
                {could.maker_number && (
                  <span className="truncate">
                    {could.maker} <span className="pn">{could.maker_number}</span>
                  </span>
                )}
                {could.on_stock && <span>on stock</span>}
                {life && <span className={could.lifecycle === "draft" ? "" : "text-bad"}>{life}</span>}
                {!open && <span>{inShort(could)}</span>}
              </p>
              {open && (
                <div className="mt-1">
                  <LedgerTable could={could} />
                  <p className="mt-1 flex gap-3 text-[12px]">
                    <Button look="quiet" needs="inquiries" className="!min-h-0 !px-0" onClick={() => onRefuse(could)}>
                      not this one (X)
                    </Button>
                    <Link className="text-blue hover:underline" to={`/part/${encodeURIComponent(could.part)}`}>
                      its page
                    </Link>
                  </p>
                </div>
              )}
            </li>
          );
        })}
      </ol>
    </section>
  );
}
