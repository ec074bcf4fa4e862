import { Panel } from "../kit/Panel";
import { GLOSSARY } from "../lib/glossary";

export function Words({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Panel title="Words of ours" note="what they mean here" open={open} onClose={onClose}>
      <dl className="mt-4 flex flex-col gap-3">
        {GLOSSARY.map(([word, means]) => (
          <div key={word}>
            <dt className="font-semibold">{word}</dt>
            <dd className="text-ink-2">{means}</dd>
          </div>
        ))}
      </dl>
    </Panel>
  );
}
