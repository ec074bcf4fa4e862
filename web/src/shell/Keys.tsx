import { keysInWords, useRegistered } from "../kit/commands";
import { Panel } from "../kit/Panel";

const EVERYWHERE = [
  { keys: "Ctrl K", words: "find a part, a sheet or a command" },
  { keys: "?", words: "these keys" },
  { keys: "Escape", words: "leave what is open" },
];

/** The keys that work on this screen. */
export function Keys({ open, onClose }: { open: boolean; onClose: () => void }) {
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
    </Panel>
  );
}
