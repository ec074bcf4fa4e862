import { createContext, type ReactNode, useCallback, useContext, useRef, useState } from "react";

interface Said {
  text: string;
  bad: boolean;
  act?: { label: string; run: () => void };
}

const Saying = createContext<(text: string, more?: { bad?: boolean; act?: Said["act"] }) => void>(() => {});

/** Says what was done or why not, in one line at the foot of the screen and to screen readers. */
export function useSay() {
  return useContext(Saying);
}

export function Says({ children }: { children: ReactNode }) {
  const [said, setSaid] = useState<Said | null>(null);
  const timer = useRef(0);
  const say = useCallback((text: string, more?: { bad?: boolean; act?: Said["act"] }) => {
    window.clearTimeout(timer.current);
    setSaid({ text, bad: more?.bad ?? false, act: more?.act });
    timer.current = window.setTimeout(() => setSaid(null), more?.bad ? 12000 : 5000);
  }, []);
  return (
    <Saying.Provider value={say}>
      {children}
      <div
        role="status"
        aria-live="polite"
        className="noprint pointer-events-none fixed bottom-4 left-4 z-60 max-w-[640px]"
      >
        {said && (
          <div
            className={`rise pointer-events-auto flex items-center gap-3 rounded-[3px] border px-3 py-2 ${
              said.bad ? "border-bad bg-bad-tint text-bad" : "border-hair-2 bg-paper"
            }`}
          >
            <span>{said.text}</span>
            {said.act && (
              <button type="button" className="font-semibold underline" onClick={said.act.run}>
                {said.act.label}
              </button>
            )}
            <button type="button" aria-label="Close this message" className="px-1" onClick={() => setSaid(null)}>
              ×
            </button>
          </div>
        )}
      </div>
    </Saying.Provider>
  );
}
