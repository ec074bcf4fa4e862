import { Link } from "react-router";
import { useBasis } from "../lib/basis";
import { day, money, signed } from "../lib/number";
import { useSeesCosts } from "../lib/session";
import { FromStock } from "../pieces/parts/FromStock";
import { useAlternates } from "../pieces/parts/useAlternates";
import { Section } from "./Section";

/** The ways to build a part, beside one another with what one costs. */
export function Alternates({ number, unit }: { number: string; unit: string }) {
  const found = useAlternates(number);
  const rows = found.data ?? [];
  const byHand = rows.some((r) => r.rolled !== null);
  const counting = rows.find((r) => r.counts);
  const counts = counting?.cost ?? null;
  const [basis] = useBasis(true);
  const costs = useSeesCosts();
  return (
    <Section title="Its sheets" beside="today, at costing lots">
      {found.error && (
        <p role="alert" className="text-bad">
          {found.error.message}
        </p>
      )}
      <table className="w-full bg-paper">
        <thead>
          <tr className="h-7 border-b border-hair-2 text-left text-[12px] text-ink-2">
            <th className="px-2 font-normal">Alternate</th>
            <th className="font-normal">Revision</th>
            <th className="font-normal">State</th>
            <th className="font-normal">In force</th>
            {costs && <th className="text-right font-normal">Unit cost</th>}
            {byHand && <th className="text-right font-normal">Rolled up</th>}
            {byHand && <th className="text-right font-normal">By hand against it</th>}
            {costs && <th className="px-2 text-right font-normal">Against the one that counts</th>}
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.sheet} className="h-8 border-b border-hair hover:bg-blue-tint">
              <td className="px-2">
                <Link
                  className="text-blue hover:underline"
                  to={`/sheets/${encodeURIComponent(number)}?sheet=${row.sheet}`}
                >
                  {row.alternate}
                </Link>
                {row.reference && <span className="ml-2 text-ink-2">{row.reference}</span>}
              </td>
              <td>{row.revision}</td>
              <td className={row.counts ? "font-semibold" : "text-ink-2"}>
                {row.status}
                {row.counts ? ", counts" : ""}
              </td>
              <td className="text-ink-2">
                {row.status === "draft"
                  ? ""
                  : row.effective_from
                    ? `from ${day(row.effective_from)}`
                    : "from the start"}
                {row.effective_to ? `, up to ${day(row.effective_to)}` : ""}
              </td>
              {costs && (
                <td className="text-right font-semibold" title={row.problem}>
                  {row.cost === null ? <span className="font-normal text-brass">{row.problem}</span> : money(row.cost)}
                </td>
              )}
              {byHand && <td className="text-right">{row.rolled === null ? "" : money(row.rolled)}</td>}
              {byHand && (
                <td className="text-right text-brass">
                  {row.rolled === null || row.cost === null ? "" : signed(row.cost - row.rolled)}
                </td>
              )}
              {costs && (
                <td className="px-2 text-right">
                  {row.cost === null || counts === null || row.counts ? "" : signed(row.cost - counts)}
                </td>
              )}
            </tr>
          ))}
        </tbody>
      </table>
      {counting && (
        <p className="px-2 pt-1.5">
          <FromStock sheet={counting.sheet} basis={basis} unit={unit} />
        </p>
      )}
    </Section>
  );
}
