import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { moved } from "../../kit/Bridge";
import { answer, client, type Refusal, type Schemas } from "../../lib/api";
import { type Basis, readTried, withTried } from "../../lib/basis";
import { percent, quantity, typed } from "../../lib/number";
import { WorkingPanel } from "../working/WorkingPanel";

type Ranked = Schemas["Ranked"];

const shareOf = (share: number) => (share < 0.0005 ? "< 0.1 %" : percent(share));

/** What moves the cost: 1 % more of each input, the strongest first. Each opens; most can be tried. */
export function RankedInputs({
  sheet,
  state,
  basis,
  onBasis,
}: {
  sheet: number;
  state: string;
  basis: Basis;
  onBasis: (change: Partial<Basis>) => void;
}) {
  const [text, setText] = useState("");
  const [idle, setIdle] = useState(false);
  const [opened, setOpened] = useState<string | null>(null);
  const found = useQuery<Ranked, Refusal>({
    queryKey: ["questions", "inputs", sheet, state, basis, idle],
    queryFn: () => answer(client.GET("/api/questions/inputs", { params: { query: { sheet, ...basis, idle } } })),
    placeholderData: (old) => old,
    staleTime: 0,
  });
  if (found.error)
    return (
      <p role="alert" className="text-bad">
        {found.error.message}
      </p>
    );
  const data = found.data;
  if (!data) return null;
  const words = text.trim().toLowerCase();
  const items = data.items.filter((x) => `${x.name} ${x.more} ${x.word}`.toLowerCase().includes(words));
  const most = Math.max(...data.items.map((x) => Math.abs(x.moves)), 1e-12);
  const tried = readTried(basis.what_if);
  return (
    <section aria-label="What moves it" className="flex min-h-0 flex-1 flex-col">
      <div className="flex items-baseline gap-2">
        <h3 className="text-[12px] font-semibold text-blue">What moves it, for 1 % more of each</h3>
        <input
          type="search"
          className="field ml-auto !min-h-[24px] !w-[130px] !py-0"
          aria-label="Find an input"
          placeholder="find an input"
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
      </div>
      <ul className="mt-1 min-h-0 flex-1 overflow-y-auto border-t border-hair">
        {items.map((item) => {
          const now = tried.find((t) => t.table === item.table && t.key === item.key && t.field === item.field);
          // A batch is not tried, and a standard only changes by a round.
          const may = item.value !== null && item.table !== "sheet" && item.field !== "standard";
          const open = opened === item.figure;
          return (
            <li key={item.figure} className="border-b border-hair py-1">
              <div className="grid grid-cols-[1fr_58px_106px] items-center gap-2">
                <button
                  type="button"
                  aria-expanded={open}
                  className="min-w-0 text-left"
                  onClick={() => setOpened(open ? null : item.figure)}
                >
                  <span className="block truncate">
                    <span className="pn">{item.name}</span> {item.word}
                  </span>
                  {item.more && <span className="block truncate text-[11.5px] text-ink-3">{item.more}</span>}
                  <span className="mt-0.5 block h-[5px] bg-sunk">
                    <span
                      className={`block h-full ${item.moves < 0 ? "bg-blue" : "bg-brass"}`}
                      style={{ width: `${(Math.abs(item.moves) / most) * 100}%` }}
                    />
                  </span>
                </button>
                <span className="text-right">
                  <b>{moved(item.moves)}</b>
                  <small className="block text-[11px] text-ink-3">
                    {data.cost ? shareOf(Math.abs(item.moves) / data.cost) : ""}
                  </small>
                </span>
                {may ? (
                  <span className="flex items-center gap-1">
                    <input
                      key={now?.value ?? String(item.value)}
                      className={`h-6 w-[62px] border-b bg-transparent text-right ${now ? "border-brass font-semibold text-brass" : "border-hair-2"}`}
                      aria-label={`Try another ${item.word} of ${item.name} ${item.more}`}
                      title={now ? "tried here, kept nowhere" : "type another value to try it"}
                      inputMode="decimal"
                      defaultValue={quantity(now?.value ?? item.value, 6).replaceAll("\u202f", "")}
                      onBlur={(e) => {
                        const value = typed(e.target.value);
                        const same = now
                          ? value === now.value
                          : Number(value) === Number(quantity(item.value, 6).replaceAll("\u202f", ""));
                        if (!same)
                          onBasis({
                            what_if: withTried(basis.what_if, {
                              table: item.table,
                              key: item.key,
                              field: item.field,
                              value,
                            }),
                          });
                      }}
                      onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
                    />
                    <small className="truncate text-[11px] text-ink-3">{item.unit.replace(/ per /, "/")}</small>
                  </span>
                ) : (
                  <span className="text-right text-[12px] text-ink-3">
                    {item.value === null ? "" : `${quantity(item.value)} ${item.unit}`}
                  </span>
                )}
              </div>
              {open && (
                <div className="mt-1 border border-hair bg-sunk px-3 py-2">
                  <WorkingPanel
                    sheet={sheet}
                    state={state}
                    basis={basis}
                    figure={item.figure}
                    onLeave={() => setOpened(null)}
                  />
                </div>
              )}
            </li>
          );
        })}
        {data.count > data.items.length && (
          <li className="py-1 text-ink-3">
            {data.count - data.items.length} more inputs move it by less than the last of these.
          </li>
        )}
        <li className="py-1">
          <label className="flex items-center gap-1.5 text-ink-2">
            <input type="checkbox" checked={idle} onChange={(e) => setIdle(e.target.checked)} />
            also what stands where it does nothing: yields of 100 %, batches of 1
          </label>
        </li>
        {items.length === 0 && <li className="py-1 text-ink-3">None of the strongest goes by these words.</li>}
      </ul>
    </section>
  );
}
