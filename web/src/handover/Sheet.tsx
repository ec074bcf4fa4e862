import type { Schemas } from "../lib/api";
import { said } from "../model/handover";

type ChangeSheet = Schemas["ChangeSheet"];
type Change = ChangeSheet["changes"][number];

const VERBS: Record<string, string> = { add: "added", change: "changed", remove: "taken away" };

/** All that is written on both sides: part by part, each field before and after. */
export function Sheet({ sheet }: { sheet: ChangeSheet }) {
  const sides = [
    ["theirs", `Written in ${sheet.record}`],
    ["ours", "Written here, in drafts where it is of a sheet"],
  ] as const;
  return (
    <div className="flex flex-col gap-5">
      {sides.map(([side, title]) => {
        const changes = sheet.changes.filter((c) => c.side === side);
        return (
          changes.length > 0 && (
            <section key={side} aria-label={title}>
              <h2 className="pb-1 text-[16px] font-semibold">
                {title} <span className="font-normal text-ink-3">{changes.length}</span>
              </h2>
              <Changes changes={changes} />
            </section>
          )
        );
      })}
      {sheet.left.length > 0 && (
        <section aria-label="Left as it is">
          <h2 className="pb-1 text-[16px] font-semibold">
            Left as it is <span className="font-normal text-ink-3">{sheet.left.length}</span>
          </h2>
          {sheet.left.map((x) => (
            <p key={`${x.part} ${x.words}`} className="flex gap-3 border-b border-hair py-1">
              <span className="pn w-[150px] shrink-0">{x.part}</span>
              <span className="min-w-0 flex-1">{x.words}</span>
              <span className="text-ink-3">{x.verdict}</span>
            </p>
          ))}
        </section>
      )}
    </div>
  );
}

function Changes({ changes }: { changes: Change[] }) {
  return (
    <table className="w-full table-fixed border-t border-ink bg-paper [&_td:first-child]:pl-3">
      <colgroup>
        {["150px", "240px", "90px", "160px", "auto", "auto"].map((width, at) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a column is its place
          <col key={at} style={{ width }} />
        ))}
      </colgroup>
      <thead className="sr-only">
        <tr>
          <th>part</th>
          <th>what</th>
          <th>how</th>
          <th>field</th>
          <th>before</th>
          <th>after</th>
        </tr>
      </thead>
      <tbody>
        {changes.map((c, at) => {
          const same = at > 0 && changes[at - 1]!.part === c.part;
          // What comes or goes is told in one breath; what changes, field by field.
          const rows = c.verb === "change" ? c.values.map((v) => [v]) : [c.values];
          return rows.map((values, n) => (
            <tr
              key={`${c.part} ${c.words} ${c.verb} ${values[0]?.field ?? ""}`}
              className="border-b border-hair align-top"
            >
              <td className="pn py-1 pr-3">
                {n === 0 && !same && c.part}
                {n === 0 && !same && c.known_as && (
                  <span className="block text-[12px] text-ink-3">there {c.known_as}</span>
                )}
              </td>
              <td className="py-1 pr-3">
                {n === 0 && c.words}
                {n === 0 && c.by_hand && <span className="block text-[12px] text-brass">by hand: {c.by_hand}</span>}
              </td>
              <td className="py-1 pr-3 text-ink-3">{n === 0 && VERBS[c.verb]}</td>
              {c.verb === "change" ? (
                <>
                  <td className="py-1 pr-3 text-ink-2">{values[0]?.word}</td>
                  <td className="py-1 pr-3 break-words text-ink-3">{said(values[0]?.before)}</td>
                  <td className="py-1 break-words">{said(values[0]?.after)}</td>
                </>
              ) : (
                <td colSpan={3} className="py-1 break-words">
                  {values.map((v, i) => (
                    <span key={v.field}>
                      {i > 0 && ", "}
                      <span className="text-ink-3">{v.word}</span> {said(c.verb === "add" ? v.after : v.before)}
                    </span>
                  ))}
                </td>
              )}
            </tr>
          ));
        })}
      </tbody>
    </table>
  );
}
