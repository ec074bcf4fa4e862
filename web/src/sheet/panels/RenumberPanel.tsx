import { useState } from "react";
import { Button } from "../../kit/Button";
import { Field } from "../../kit/Field";
import { Panel } from "../../kit/Panel";
import type { Change } from "../../model/change";
import { setLine } from "../../model/lines";
import type { Model } from "../../model/product";
import { renumber } from "../../model/renumber";

const whole = (text: string) => (/^\d{1,6}$/.test(text.trim()) ? Number(text) : null);

/** Item numbers anew, in list order: a start, a step, a range for a class; each old and new number is seen first. */
export function RenumberPanel({
  model,
  onKeep,
  onClose,
}: {
  model: Model;
  onKeep: (changes: Change[]) => void;
  onClose: () => void;
}) {
  const [start, setStart] = useState("10");
  const [step, setStep] = useState("10");
  const [ranges, setRanges] = useState<Record<string, string>>({});
  const { view } = model;
  const own = model.lines.get(view.top) ?? [];
  const classes = [...new Set(own.map((line) => view.parts[line.child]?.part_class ?? ""))].filter(Boolean).sort();
  const from = whole(start);
  const by = whole(step);
  const starts: Record<string, number> = {};
  for (const [name, text] of Object.entries(ranges)) {
    const first = whole(text);
    if (first !== null) starts[name] = first;
  }
  const wrongRange = (name: string) => !!ranges[name]?.trim() && whole(ranges[name]!) === null;
  const ready = from !== null && by !== null && by > 0 && !classes.some(wrongRange);
  const planned = ready ? renumber(model, from, by, starts) : [];
  const twice = new Set(planned.map((p) => p.item).filter((item, at, all) => all.indexOf(item) !== at));
  const changes = planned.flatMap(({ line, item }) => setLine(view, line, { item }));
  return (
    <Panel title="Renumber the items" note="Locked numbers stay, and are passed by." open onClose={onClose}>
      <form
        className="mt-4 flex min-h-0 flex-1 flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          if (changes.length > 0) onKeep(changes);
          onClose();
        }}
      >
        <div className="grid grid-cols-2 gap-3">
          <Field label="Start" error={from === null ? "a whole number" : undefined}>
            {(p) => (
              <input {...p} className="field text-right" value={start} onChange={(e) => setStart(e.target.value)} />
            )}
          </Field>
          <Field label="Step" error={by === null || by === 0 ? "a whole number above 0" : undefined}>
            {(p) => (
              <input {...p} className="field text-right" value={step} onChange={(e) => setStep(e.target.value)} />
            )}
          </Field>
          {classes.map((name) => (
            <Field
              key={name}
              label={`Class ${name} from`}
              hint="empty: with the others"
              error={wrongRange(name) ? "a whole number" : undefined}
            >
              {(p) => (
                <input
                  {...p}
                  className="field text-right"
                  value={ranges[name] ?? ""}
                  onChange={(e) => setRanges({ ...ranges, [name]: e.target.value })}
                />
              )}
            </Field>
          ))}
        </div>
        {twice.size > 0 && (
          <p className="text-brass">These ranges run into one another at {[...twice].slice(0, 5).join(", ")}.</p>
        )}
        <div
          role="region"
          tabIndex={0}
          aria-label="Old and new item numbers"
          className="min-h-[120px] flex-1 overflow-y-auto"
        >
          <table className="w-full">
            <thead>
              <tr className="border-b border-hair-2 text-left text-[12px] text-ink-2">
                <th className="font-normal">Part</th>
                <th className="text-right font-normal">Now</th>
                <th className="text-right font-normal">Then</th>
              </tr>
            </thead>
            <tbody>
              {planned.map(({ line, item }) => (
                <tr key={line.id} className={`border-b border-hair ${line.item === item ? "text-ink-3" : ""}`}>
                  <td className="pn">{view.parts[line.child]?.number ?? line.text.slice(0, 30)}</td>
                  <td className="text-right">{line.item ?? "–"}</td>
                  <td className="text-right font-semibold">{item}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
        <div className="flex gap-2 pt-1">
          <Button look="strong" type="submit" disabled={!ready || twice.size > 0}>
            Renumber {changes.length} {changes.length === 1 ? "line" : "lines"}
          </Button>
          <Button className="ml-auto" onClick={onClose}>
            Leave them
          </Button>
        </div>
      </form>
    </Panel>
  );
}
