import { Button } from "../kit/Button";
import { keysInWords, useRegistered } from "../kit/commands";
import { Panel } from "../kit/Panel";

const EVERYWHERE = [
  { keys: "Ctrl K", words: "find a part, a sheet or a command" },
  { keys: "?", words: "these keys" },
  { keys: "Escape", words: "leave what is open" },
];

/** The keys that work on this screen. */
export function Keys({ open, onClose, onWords }: { open: boolean; onClose: () => void; onWords: () => void }) {
  const here = useRegistered();
  return (
    <Panel title="Keys of this screen" open={open} onClose={onClose}>
      <dl className="mt-4 grid grid-cols-[150px_1fr] gap-y-2">
        {[...here, ...EVERYWHERE].map(
          ({ keys, words }) =>
            keys && (
              <div key={keys} className="contents">
                <dt className="font-mono text-[12px]">{keysInWords(keys)}</dt>
                <dd>{words}</dd>
              </div>
            ),
        )}
      </dl>
      <p className="mt-5">
        <Button look="quiet" className="!px-0" onClick={onWords}>
          What our words mean: basis, working, round, standard …
        </Button>
      </p>
    </Panel>
  );
}
