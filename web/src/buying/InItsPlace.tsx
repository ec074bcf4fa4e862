import { Link } from "react-router";
import { Button } from "../kit/Button";
import { PartChoice } from "../pieces/PartChoice";
import type { NeedWhole } from "./usePlan";

/** What may be bought in the place of a need's part for this plan alone; no sheet changes by it. */
export function InItsPlace({
  need,
  onAllow,
  onDisallow,
}: {
  need: NeedWhole;
  onAllow: (part: string) => void;
  onDisallow: (part: string) => void;
}) {
  return (
    <section aria-label="In its place" className="border-t border-hair pt-2">
      <h3 className="text-[12px] text-ink-2">In its place, for this plan alone</h3>
      <ul>
        {need.allowed.map((a) => (
          <li key={a.part} className="flex items-baseline gap-2 py-0.5">
            <Link className="pn shrink-0 text-blue hover:underline" to={`/part/${encodeURIComponent(a.part)}`}>
              {a.part}
            </Link>
            <span className="min-w-0 flex-1 truncate" title={a.description}>
              {a.description}
              {a.itself && <span className="text-brass"> needed here itself: its offers serve only that</span>}
              {!a.itself && !need.looked_at.some((o) => o.part === a.part) && (
                <span className="text-brass"> no offer yet</span>
              )}
            </span>
            <Button needs="buying" look="quiet" className="!min-h-0" onClick={() => onDisallow(a.part)}>
              no longer
            </Button>
          </li>
        ))}
      </ul>
      <div className="mt-1">
        <PartChoice needs="buying" label="Another part" value="" onKeep={onAllow} />
      </div>
    </section>
  );
}
