import { Link } from "react-router";
import { money, signed } from "../../lib/number";
import { useAlternates } from "./useAlternates";

/** The other sheets of a part beside the one on screen, in one line; nothing where there is no other. */
export function AlternatesLine({ number, sheet }: { number: string; sheet: number }) {
  const rows = useAlternates(number).data ?? [];
  const here = rows.find((r) => r.sheet === sheet)?.cost ?? null;
  if (rows.length < 2) return null;
  return (
    <p className="noprint flex flex-wrap gap-x-4 text-ink-2">
      {rows.map((row) => (
        <span key={row.sheet}>
          {row.sheet === sheet ? (
            <b className="text-ink">
              {row.alternate}, revision {row.revision}
            </b>
          ) : (
            <Link
              className="text-blue underline decoration-bar-line underline-offset-3"
              to={`/sheets/${encodeURIComponent(number)}?sheet=${row.sheet}&read=overview`}
            >
              {row.alternate}, revision {row.revision}
            </Link>
          )}{" "}
          {row.status}
          {row.counts ? ", counts" : ""}{" "}
          {row.cost === null ? (
            <span className="text-brass">{row.problem}</span>
          ) : (
            <b className="text-ink">{money(row.cost)}</b>
          )}
          {row.cost !== null && here !== null && row.sheet !== sheet && ` (${signed(row.cost - here)})`}
        </span>
      ))}
    </p>
  );
}
